/* SPDX-License-Identifier: MIT */
/* Kind uart: the sender. One event a change of the line. */
#include "state.h"

void wadi_uart_send_show(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    bool high = !s->sending || s->high;
    bool seen = high && !s->breaks;
    wad_model_drive(m, ROLE_tx, 0, s->sends ? seen != s->format.invert_tx || s->format.loop : true);
    if (s->format.loop && s->on)
        wadi_uart_hear(m, seen);
}

static bool may_send(const uart_state *s)
{
    return s->sends && s->out.n && !(s->flow && s->held) && !s->breaks;
}

/* The next change, or the frame's end. */
static void arm(wad_model *m, uart_state *s)
{
    wad_model_schedule(m, &s->send, wad_model_edge(m, s->change_at[s->at]));
}

/* When the line changes, from the start bit on, the stop bits being high; last, when they are over.
 */
static void plan(uart_state *s, unsigned levels, unsigned bits)
{
    const uart_format *f = &s->format;
    unsigned n = 0, before = 0;
    levels |= 1u << bits;
    for (unsigned i = 1; i <= bits; i++) {
        unsigned level = levels >> i & 1;
        if (level != before)
            s->change_at[n++] = wadi_uart_edge(f, s->begin, (uint64_t)i * f->over);
        before = level;
    }
    s->change_at[n++] =
        wadi_uart_edge(f, s->begin, (uint64_t)bits * f->over + f->stop_halves * f->over / 2);
    s->n_changes_out = n;
    s->at = 0;
}

static void load(wad_model *m, uart_state *s, uint64_t edge)
{
    const uart_format *f = &s->format;
    unsigned data = wadi_fifo_take(&s->out), bits = data & ((1u << f->bits) - 1);
    if (f->msb_first) {
        bits = 0;
        for (unsigned i = 0; i < f->bits; i++)
            bits |= (data >> (f->bits - 1 - i) & 1) << i;
    }
    bits <<= 1;
    if (f->parity != PARITY_NONE)
        bits |= (unsigned)wadi_uart_parity(f, data) << (1 + f->bits);
    s->begin = edge;
    plan(s, bits, wadi_uart_length(f));
    s->sending = true;
    s->high = false;
    if (!s->checked)
        wadi_uart_check_baud(m, false);
    wadi_uart_send_show(m);
    arm(m, s);
}

/* DE goes up before the start bit, by eighths of a bit. */
static uint64_t lead(wad_model *m, const uart_state *s)
{
    if (!s->half_duplex)
        return 0;
    wad_model_uses(m, ROLE_driver, 0, true);
    wad_model_drive(m, ROLE_driver, 0, true);
    uint64_t samples = (uint64_t)wad_model_get(m, ROLE_lead, 0) * s->format.over / 8;
    return wadi_uart_edge(&s->format, 0, samples);
}

static void on_lead(wad_model *m, uart_state *s)
{
    s->leading = false;
    if (may_send(s))
        load(m, s, wad_model_edges(m));
    wadi_uart_update(m);
}

/* The line changes, or the frame is over. */
static void on_send(wad_event *e)
{
    wad_model *m = e->model;
    uart_state *s = wad_model_state(m);
    if (s->leading) {
        on_lead(m, s);
        return;
    }
    if (++s->at < s->n_changes_out) {
        s->high = !s->high;
        wadi_uart_send_show(m);
        arm(m, s);
        return;
    }
    s->sending = false;
    if (may_send(s)) {
        load(m, s, s->change_at[s->n_changes_out - 1]); /* without a gap */
    } else {
        wad_model_drive(m, ROLE_driver, 0, false);
        wadi_uart_send_show(m);
    }
    if (!s->sending)
        wad_model_event(m, ROLE_tx_done, 0);
    wadi_uart_update(m);
}

void wadi_uart_send_next(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    if (s->sending || s->leading || !may_send(s))
        return;
    s->leading = true; /* the start bit begins with an edge of the clock */
    wad_model_schedule(m, &s->send, wad_model_edge(m, wad_model_edges(m) + 1 + lead(m, s)));
}

void wadi_uart_send_stop(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    wad_model_cancel(m, &s->send);
    s->sending = s->leading = false;
    s->sends = false;
    wad_model_drive(m, ROLE_driver, 0, false);
    wad_model_drive(m, ROLE_tx, 0, true);
}

void wadi_uart_send_init(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    s->send.fn = on_send;
}
