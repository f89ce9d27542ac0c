/* SPDX-License-Identifier: MIT */
/* Kind spi: how the port is set, against the devices on its pins. */
#include "kinds/registry.h"
#include "kinds/shared/serial_end.h"
#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/report.h"
#include "state.h"
#include "wadium/host/spi.h"

static const wad_pin_def *pin_of(const wad_model *m, unsigned role)
{
    const wadi_binding *b = &m->roles[role];
    if (!b->count || !b->signals || !b->signals[0]->nets->len)
        return NULL;
    return ((const wadi_net *)b->signals[0]->nets->pdata[0])->def;
}

static unsigned mode_of(const spi_state *s)
{
    return 2u * s->idle_high + s->phase;
}

static void describe(wad_model *m, wad_spi_port *port)
{
    const spi_state *s = wad_model_state(m);
    *port = (wad_spi_port){.block = m->block->inst,
                           .format = {mode_of(s), s->bits, s->lsb_first, {0, 1}},
                           .on = s->on,
                           .controller = s->controller,
                           .busy = s->controller ? wadi_spi_busy(s) : s->shift.edge != 0,
                           .clock = pin_of(m, ROLE_clock),
                           .mosi = pin_of(m, ROLE_mosi),
                           .miso = pin_of(m, ROLE_miso)};
    if (s->on)
        port->format.hz = wadi_serial_baud(m, 1, (int64_t)(2 * s->half));
}

bool wad_sim_spi_port(wad_sim *sim, const wad_instance *block, wad_spi_port *port)
{
    wad_model *m = sim->blocks[block->index].model;
    if (!m || m->cls != &wadi_model_spi)
        return false;
    describe(m, port);
    return true;
}

bool wad_sim_spi_at(wad_sim *sim, const wad_pin_def *clock, wad_spi_port *port)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (wad_sim_spi_port(sim, sim->sheet->blocks[i], port) && port->on && port->controller &&
            port->clock == clock)
            return true;
    return false;
}

/* ---- what is there ---- */

typedef struct device {
    wad_sim *sim;
    wad_spi_part end;
} device;

static bool is_active(const wad_sim *sim, const wad_spi_part *end)
{
    return wad_sim_level(sim, end->select) == (end->select_high ? WAD_HIGH : WAD_LOW);
}

static wad_model *controller_of(const device *d)
{
    wad_spi_port port;
    return wad_sim_spi_at(d->sim, d->end.clock, &port) ? d->sim->blocks[port.block->index].model
                                                       : NULL;
}

/* The select ends: not with a frame under way. */
static void on_select(void *ctx, uint64_t ps, wad_level level)
{
    const device *d = ctx;
    (void)ps;
    (void)level;
    wad_model *m = controller_of(d);
    if (!m)
        return;
    spi_state *s = wad_model_state(m);
    if (is_active(d->sim, &d->end)) {
        s->checked = false;
        return;
    }
    if (s->stage == STAGE_SHIFT && s->shift.edge)
        wadi_report(d->sim, WAD_FINDING_SPI_CUT, NULL,
                    "the select of %s, pin %s, ended in bit %u of a frame of %u", d->end.name,
                    d->end.select->name, (s->shift.edge + 1) / 2, s->shift.bits);
    else if (s->stage == STAGE_SHIFT || s->stage == STAGE_START)
        wadi_report(d->sim, WAD_FINDING_SPI_CUT, NULL,
                    "the select of %s, pin %s, ended before the first bit of a frame that had been "
                    "given",
                    d->end.name, d->end.select->name);
}

void wad_sim_spi_part(wad_sim *sim, const wad_spi_part *end)
{
    device *d = g_new(device, 1);
    *d = (device){sim, *end};
    if (!sim->spi_ends)
        sim->spi_ends = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(sim->spi_ends, d);
    wad_sim_watch_pin(sim, end->select, on_select, d);
}

/* ---- do they fit? ---- */

static void report_mode(wad_model *m, const wad_spi_part *end)
{
    const spi_state *s = wad_model_state(m);
    GString *takes = g_string_new(NULL);
    for (unsigned i = 0; i < 4; i++)
        if (end->modes >> i & 1)
            g_string_append_printf(takes, "%s%u", takes->len ? " or " : "", i);
    bool phase = true, idle = true; /* in none of its modes */
    for (unsigned i = 0; i < 4; i++)
        if (end->modes >> i & 1) {
            phase = phase && (i & 1) != s->phase;
            idle = idle && i / 2 != s->idle_high;
        }
    wadi_slot stand_in = {.address = m->block->inst->base};
    wadi_report_at(m->sim, WAD_FINDING_SPI_MODE, &stand_in, &s->format_trace,
                   "%s takes mode %s, %s runs in mode %u: %s", end->name, takes->str,
                   m->block->inst->name, mode_of(s),
                   phase && idle ? "the clock rests at the other level, and bits are taken at the "
                                   "other edge"
                   : phase       ? "bits are taken where they change"
                                 : "the clock rests at the other level: it is an edge early");
    g_string_free(takes, TRUE);
}

static void check(wad_model *m, const wad_spi_part *end)
{
    const spi_state *s = wad_model_state(m);
    const char *name = m->block->inst->name;
    wadi_slot stand_in = {.address = m->block->inst->base};
    if (end->modes && !(end->modes >> mode_of(s) & 1))
        report_mode(m, end);
    if (!end->any_order && end->lsb_first != s->lsb_first)
        wadi_report_at(m->sim, WAD_FINDING_SPI_MODE, &stand_in, &s->format_trace,
                       "%s takes the %s significant bit first, %s sends the %s first", end->name,
                       end->lsb_first ? "least" : "most", name, s->lsb_first ? "least" : "most");
    if (end->bits && s->bits % end->bits)
        wadi_report_at(m->sim, WAD_FINDING_SPI_MODE, &stand_in, &s->format_trace,
                       "%s takes frames of %u bits, %s sends frames of %u", end->name, end->bits,
                       name, s->bits);
    wad_rational hz = wadi_serial_baud(m, 1, (int64_t)(2 * s->half));
    if (end->limit_hz.num && wadi_number(hz) > wadi_number(end->limit_hz) * (1 + 1e-9))
        wadi_report_at(m->sim, WAD_FINDING_SPI_FAST, &stand_in, &s->format_trace,
                       "%s clocks %s at %.6g MHz, and %.6g MHz is its limit", name, end->name,
                       wadi_number(hz) / 1e6, wadi_number(end->limit_hz) / 1e6);
}

void wadi_spi_check(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    const wad_pin_def *clock = pin_of(m, ROLE_clock);
    const device *first = NULL;
    s->checked = true;
    for (guint i = 0; clock && m->sim->spi_ends && i < m->sim->spi_ends->len; i++) {
        const device *d = m->sim->spi_ends->pdata[i];
        if (d->end.clock != clock || !is_active(m->sim, &d->end))
            continue;
        check(m, &d->end);
        if (first)
            wadi_report(m->sim, WAD_FINDING_SPI_BOTH, NULL,
                        "%s and %s are selected at once: both drive the line that %s receives",
                        first->end.name, d->end.name, m->block->inst->name);
        first = first ? first : d;
    }
}

/* ---- selects and ports ---- */

void wadi_spi_gpio_select(const wadi_net *net)
{
    const wadi_signal *signal = net->group ? net->group : net->driver;
    if (!signal || !signal->model || signal->model->cls != &wadi_model_spi ||
        signal->role != ROLE_chip_select)
        return;
    const wad_model *m = signal->model;
    const spi_state *s = wad_model_state(signal->model);
    if (s->on && s->controller && s->select_on && s->select == signal->index)
        wadi_report(m->sim, WAD_FINDING_SPI_TWO_SELECTS, NULL,
                    "the port writes pin %s, which %s drives as %s: the write does nothing",
                    net->def->name, m->block->inst->name, signal->def->name);
}

#define LATE_PS UINT64_C(1000000000) /* the run may end between a frame and its reading */

void wadi_spi_at_end(wad_model *m)
{
    if (m->cls != &wadi_model_spi)
        return;
    const spi_state *s = wad_model_state(m);
    unsigned n = s->unread + s->in.n;
    if (s->reads || !n || m->sim->now - s->last_ps < LATE_PS)
        return;
    wadi_slot stand_in = {.address = m->block->inst->base};
    wadi_report_at(m->sim, WAD_FINDING_SPI_UNREAD, &stand_in, &s->sent_trace,
                   "%s received %u frame%s, and nobody read one: nothing shows that a device "
                   "answered",
                   m->block->inst->name, n, n == 1 ? "" : "s");
}
