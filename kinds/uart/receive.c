/* SPDX-License-Identifier: MIT */
/*
 * Kind uart: the receiver. It notes the line's changes and looks at them once a frame, when the
 * last sample of the first stop bit is over: what the three samples in the middle of each bit saw.
 */
#include <string.h>

#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/line.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/report.h"
#include "state.h"

/* ---- the line ---- */

static void forget_until(uart_state *s, uint64_t ps)
{
    unsigned n = 0;
    while (n < s->n_changes && s->change[n].ps < ps)
        s->before = s->change[n++].level;
    memmove(s->change, s->change + n, (s->n_changes - n) * sizeof *s->change);
    s->n_changes -= n;
}

static uint64_t sample_ps(wad_model *m, const uart_state *s, uint64_t k)
{
    return wad_model_edge(m, wadi_uart_edge(&s->format, s->grid, k));
}

/* Samples come in order: `at` is where the last one stood. A change counts from the edge after it.
 */
static bool level_at(const uart_state *s, uint64_t ps, unsigned *at)
{
    while (*at < s->n_changes && s->change[*at].ps < ps)
        ++*at;
    return *at ? s->change[*at - 1].level : s->before;
}

/* The middle three of bit `bit`; two of them decide. A line that does not change between them,
 * which is nearly always, is looked at once. */
static bool majority(wad_model *m, const uart_state *s, unsigned bit, unsigned *at)
{
    const uart_format *f = &s->format;
    uint64_t middle = s->start + (uint64_t)bit * f->over + f->over / 2;
    unsigned high = level_at(s, sample_ps(m, s, middle - 1), at);
    if (*at == s->n_changes || s->change[*at].ps >= sample_ps(m, s, middle + 1))
        return high;
    for (uint64_t k = middle; k <= middle + 1; k++)
        high += level_at(s, sample_ps(m, s, k), at);
    return high > 1;
}

/* ---- frames ---- */

static uint64_t bit_ps(wad_model *m, const uart_state *s)
{
    return sample_ps(m, s, s->start + s->format.over) - sample_ps(m, s, s->start);
}

/* The line fell at `ps`: the first sample that sees it begins the frame. */
static void begin(wad_model *m, uart_state *s, uint64_t edge)
{
    const uart_format *f = &s->format;
    uint64_t since = edge > s->grid ? edge - s->grid : 0;
    s->start = ((since << f->frac_bits) + f->divider - 1) / f->divider;
    while (wadi_uart_edge(f, s->grid, s->start) < edge)
        s->start++;
    s->receiving = true;
    wad_model_cancel(m, &s->idle);
    uint64_t last = s->start + (uint64_t)wadi_uart_length(f) * f->over + f->over / 2 + 1;
    wad_model_schedule(m, &s->end_of_frame, sample_ps(m, s, last));
}

/* A fall that does not belong to the frame before: the next start bit. It is seen by sample `first`
 * at the earliest, when the frame before is done with. */
static void look_for_start(wad_model *m, uart_state *s, uint64_t first)
{
    bool level = s->before;
    for (unsigned i = 0; i < s->n_changes; i++) {
        if (level && !s->change[i].level) {
            uint64_t ps = s->change[i].ps;
            forget_until(s, ps);
            const wadi_clock *clock = m->block->clock ? m->block->clock : m->sim->cpu.core;
            wadi_domain dom = clock->domain;
            begin(m, s,
                  MAX(wadi_domain_count(&dom, ps) + 1, wadi_uart_edge(&s->format, s->grid, first)));
            return;
        }
        level = s->change[i].level;
    }
}

/* ---- what is wrong with a frame ---- */

/* Are the times between changes whole numbers of such bits? */
static bool fits(const uart_state *s, double bit)
{
    for (unsigned i = 1; i < s->n_changes; i++) {
        double bits = (double)(s->change[i].ps - s->change[i - 1].ps) / bit;
        double whole = (double)(unsigned)(bits + 0.5), off = bits - whole;
        if (whole < 1 || off > 0.25 || off < -0.25)
            return false;
    }
    return true;
}

/* The sender's bit: its shortest change when that is shorter than ours, else what the last change
 * in the frame lies whole numbers of bits after the first. 0: no bit fits, it is noise. */
static double sender_bit(wad_model *m, const uart_state *s)
{
    double own = (double)bit_ps(m, s), best = own;
    uint64_t from = s->n_changes ? s->change[0].ps : 0;
    uint64_t shortest = UINT64_MAX;
    for (unsigned i = 1; i < s->n_changes; i++)
        shortest = MIN(shortest, s->change[i].ps - s->change[i - 1].ps);
    if (shortest != UINT64_MAX && (double)shortest < 0.8 * own)
        return fits(s, (double)shortest) ? (double)shortest : 0;
    for (unsigned i = 1; i < s->n_changes; i++) {
        double since = (double)(s->change[i].ps - from), n = (double)(int)(since / own + 0.5);
        if (n > 0)
            best = since / n;
    }
    return fits(s, best) ? best : 0;
}

static void report_frame(wad_model *m, const uart_state *s, wad_finding_kind kind, const char *what,
                         unsigned data)
{
    double own = (double)bit_ps(m, s), other = sender_bit(m, s);
    double apart = other > 0 ? 100 * (own / other - 1) : 0;
    wadi_slot stand_in = {.address = m->block->inst->base};
    wadi_trace trace = m->block->config_trace;
    if (wadi_report_again(m->sim, kind, &stand_in, &trace))
        return;
    char cause[200], theirs[8], ours[8];
    wad_serial_port port;
    const wadi_serial_end *end = wadi_uart_other_end(m, true);
    wadi_uart_describe(m, &port);
    wad_serial_name(&port.format, ours);
    if (end)
        wad_serial_name(&end->format, theirs);
    if (other <= 0)
        snprintf(cause, sizeof cause,
                 "it changes where no bit begins, whatever the baud: noise, or a bad contact");
    else if (apart > 1.5 || apart < -1.5)
        snprintf(cause, sizeof cause,
                 "its bits are %.4g us long, ours %.4g us: it runs near %.0f baud, %.1f %% %s",
                 other / 1e6, own / 1e6, 1e12 / other, apart < 0 ? -apart : apart,
                 apart > 0 ? "faster" : "slower");
    else if (end && strcmp(theirs, ours))
        snprintf(cause, sizeof cause,
                 "its bits are as long as ours, but %s sends %s and we take %s", end->name, theirs,
                 ours);
    else
        snprintf(
            cause, sizeof cause,
            "its bits are as long as ours: another format (bits, parity, stop bits), an inverted "
            "line, or noise");
    wadi_report_at(m->sim, kind, &stand_in, &trace, "%s received 0x%02x with a %s; %s",
                   m->block->inst->name, data, what, cause);
}

static void report_overrun(wad_model *m)
{
    wad_sim *sim = m->sim;
    const wad_instance *inst = m->block->inst;
    const wadi_line *l = inst->n_irqs ? &sim->cpu.lines[inst->irqs[0]] : NULL;
    wadi_slot stand_in = {.address = inst->base};
    wadi_trace trace = m->block->config_trace;
    if (wadi_report_again(sim, WAD_FINDING_OVERRUN, &stand_in, &trace))
        return;
    char why[160] = "nothing reads it, and no interrupt asks";
    if (l && l->asks && sim->cpu.active_line != WADI_NO_LINE &&
        sim->cpu.active_line != (unsigned)inst->irqs[0])
        snprintf(why, sizeof why,
                 "its interrupt has waited %.3f us, while the handler of interrupt %u (%s) ran",
                 (double)(sim->now - l->raised_ps) / 1e6, sim->cpu.active_line,
                 sim->cpu.lines[sim->cpu.active_line].owner
                     ? sim->cpu.lines[sim->cpu.active_line].owner->inst->name
                     : "?");
    else if (l && l->asks)
        snprintf(why, sizeof why, "its interrupt has asked for %.3f us%s",
                 (double)(sim->now - l->raised_ps) / 1e6,
                 sim->cpu.masked ? ", and the global mask is closed" : "");
    wadi_report_at(sim, WAD_FINDING_OVERRUN, &stand_in, &trace, "%s has lost a byte: %s",
                   inst->name, why);
}

/* ---- a frame is over ---- */

static void restart_timers(wad_model *m, uart_state *s)
{
    const uart_format *f = &s->format;
    uint64_t now = wad_model_edges(m);
    uint64_t frame = ((uint64_t)wadi_uart_length(f) + 1) * f->over;
    if (wad_model_has(m, ROLE_idle))
        wad_model_schedule(m, &s->idle,
                           wad_model_edge(m, wadi_uart_edge(f, now, frame + f->over / 2)));
    uint64_t wait = s->rx_wait;
    wad_model_cancel(m, &s->timeout);
    if (wait && s->in.n)
        wad_model_schedule(m, &s->timeout,
                           wad_model_edge(m, wadi_uart_edge(f, now, wait * f->over)));
}

/* So many frames of low are no break that somebody sends. */
#define RESTS 20

static void watch_low(wad_model *m, const uart_state *s, wad_event *e)
{
    uint64_t samples = (uint64_t)RESTS * (wadi_uart_length(&s->format) + 1) * s->format.over;
    wad_model_schedule(m, e,
                       wad_model_edge(m, wadi_uart_edge(&s->format, wad_model_edges(m), samples)));
}

/* A pin that nobody drives is another matter: nothing is there. */
static void on_low(wad_event *e)
{
    wad_model *m = e->model;
    const uart_state *s = wad_model_state(m);
    const wadi_binding *b = &m->roles[ROLE_rx];
    if (s->line || s->format.loop || !b->count || !b->signals[0]->nets->len)
        return;
    const wadi_net *net = b->signals[0]->nets->pdata[0];
    if (net->outside == WAD_FLOATING)
        return;
    wadi_slot stand_in = {.address = m->block->inst->base};
    wadi_report_at(m->sim, WAD_FINDING_LINE_INVERTED, &stand_in, &m->block->config_trace,
                   "%s.%s, pin %s, has been %s for %u frames: an idle line is high there",
                   m->block->inst->name, b->signals[0]->def->name, net->def->name,
                   s->format.invert_rx ? "high (it is set to be inverted)" : "low", RESTS);
}

/* The receiver takes nothing while the flag of an overrun stands. */
static bool is_stuck(wad_model *m, uart_state *s)
{
    if (!s->sticks || !wad_model_get(m, ROLE_overrun, 0)) {
        s->stuck = 0;
        return false;
    }
    if (++s->stuck == 4) { /* a byte or two are lost before any handler comes */
        wadi_slot stand_in = {.address = m->block->inst->base};
        wadi_report_at(m->sim, WAD_FINDING_RX_STUCK, &stand_in, &m->block->config_trace,
                       "%s receives nothing since an overrun: its flag is still set, and %u bytes "
                       "have been lost since",
                       m->block->inst->name, s->stuck);
    }
    return true;
}

/* A break is low from the start to the stop bit, and is no parity error. */
static void store(wad_model *m, uart_state *s, unsigned data, bool stop, bool parity_bit)
{
    const uart_format *f = &s->format;
    bool is_break = !stop && !data && !parity_bit;
    bool parity_wrong =
        f->parity != PARITY_NONE && !is_break && parity_bit != wadi_uart_parity(f, data);
    uint16_t item = (uint16_t)data;
    if (is_stuck(m, s))
        return;
    if (is_break) {
        watch_low(m, s, &s->low);
        item |= ERROR_BREAK;
        wadi_uart_flag(m, ROLE_break_seen);
    } else if (!stop) {
        item |= ERROR_FRAMING;
        wadi_uart_flag(m, ROLE_framing);
        report_frame(m, s, WAD_FINDING_FRAMING, "low stop bit", data);
    }
    if (parity_wrong) {
        item |= ERROR_PARITY;
        wadi_uart_flag(m, ROLE_parity_error);
        report_frame(m, s, WAD_FINDING_PARITY, "wrong parity bit", data);
    }
    if (!wadi_fifo_put(&s->in, item)) {
        wadi_uart_flag(m, ROLE_overrun);
        report_overrun(m);
    } else {
        wad_model_event(m, ROLE_rx_ready, 0);
    }
    restart_timers(m, s);
}

static void on_end_of_frame(wad_event *e)
{
    wad_model *m = e->model;
    uart_state *s = wad_model_state(m);
    const uart_format *f = &s->format;
    unsigned at = 0, data = 0, raw = 0;
    s->receiving = false;
    if (majority(m, s, 0, &at)) { /* too short for a start bit: noise */
        uint64_t after = s->start + f->over / 2 + 2;
        forget_until(s, sample_ps(m, s, after));
        look_for_start(m, s, after);
        return;
    }
    for (unsigned i = 0; i < f->bits; i++)
        raw |= (unsigned)majority(m, s, 1 + i, &at) << i;
    for (unsigned i = 0; i < f->bits; i++)
        data |= (raw >> (f->msb_first ? f->bits - 1 - i : i) & 1) << i;
    bool parity_bit = f->parity != PARITY_NONE && majority(m, s, 1 + f->bits, &at);
    bool stop = majority(m, s, wadi_uart_length(f), &at);
    store(m, s, data, stop, parity_bit);
    uint64_t middle = s->start + (uint64_t)wadi_uart_length(f) * f->over + f->over / 2;
    forget_until(s, sample_ps(m, s, middle));
    look_for_start(m, s, middle + 2);
    wadi_uart_update(m);
}

static void on_idle(wad_event *e)
{
    wadi_uart_flag(e->model, ROLE_idle);
    wadi_uart_update(e->model);
}

static void on_timeout(wad_event *e)
{
    wadi_uart_flag(e->model, ROLE_timeout);
    wadi_uart_update(e->model);
}

void wadi_uart_hear(wad_model *m, bool level)
{
    uart_state *s = wad_model_state(m);
    if (level == s->line)
        return;
    s->line = level;
    if (level && s->low.heap_slot)
        wad_model_cancel(m, &s->low);
    if (!s->receives)
        return;
    if (!s->checked)
        wadi_uart_check_baud(m, true);
    if (s->n_changes == G_N_ELEMENTS(s->change))
        forget_until(s, s->change[0].ps + 1);
    s->change[s->n_changes++] = (uart_change){m->sim->now, level};
    if (!s->receiving && !level) {
        forget_until(s, m->sim->now);
        begin(m, s, wad_model_edges(m) + 1);
    }
}

void wadi_uart_taken(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    if (!s->in.n)
        wad_model_cancel(m, &s->timeout);
}

void wadi_uart_receive_start(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    if (!s->line)
        watch_low(m, s, &s->low);
}

void wadi_uart_receive_stop(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    wad_model_cancel(m, &s->end_of_frame);
    wad_model_cancel(m, &s->idle);
    wad_model_cancel(m, &s->timeout);
    wad_model_cancel(m, &s->low);
    s->stuck = 0;
    s->receiving = s->receives = false;
    s->n_changes = 0;
    s->before = s->line;
}

void wadi_uart_receive_init(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    s->end_of_frame.fn = on_end_of_frame;
    s->idle.fn = on_idle;
    s->timeout.fn = on_timeout;
    s->low.fn = on_low;
    s->pin = s->line = s->before = true;
}
