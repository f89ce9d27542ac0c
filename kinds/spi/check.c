/* SPDX-License-Identifier: MIT */
/* Kind spi: what is wrong with how the port is set and used. */
#include "kinds/shared/serial_end.h"
#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/report.h"
#include "state.h"
#include "wadium/host/spi.h"

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
                   m->block->inst->name, wadi_spi_mode(s),
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
    if (end->modes && !(end->modes >> wadi_spi_mode(s) & 1))
        report_mode(m, end);
    if (!end->any_order && end->lsb_first != s->lsb_first)
        wadi_report_at(m->sim, WAD_FINDING_SPI_MODE, &stand_in, &s->format_trace,
                       "%s takes the %s significant bit first, %s sends the %s first", end->name,
                       end->lsb_first ? "least" : "most", name, s->lsb_first ? "least" : "most");
    if (end->bits && s->bits % end->bits)
        wadi_report_at(m->sim, WAD_FINDING_SPI_MODE, &stand_in, &s->format_trace,
                       "%s takes frames of %u bits, %s sends frames of %u", end->name, end->bits,
                       name, s->bits);
    wad_rational hz = wadi_serial_baud(m, 1, (int64_t)s->bit);
    if (end->limit_hz.num && wadi_number(hz) > wadi_number(end->limit_hz) * (1 + 1e-9))
        wadi_report_at(m->sim, WAD_FINDING_SPI_FAST, &stand_in, &s->format_trace,
                       "%s clocks %s at %.6g MHz, and %.6g MHz is its limit", name, end->name,
                       wadi_number(hz) / 1e6, wadi_number(end->limit_hz) / 1e6);
}

void wadi_spi_check(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    const wad_pin_def *clock = wadi_spi_pin(m, ROLE_clock);
    const spi_end *first = NULL;
    s->checked = true;
    for (guint i = 0; clock && m->sim->ends.spi && i < m->sim->ends.spi->len; i++) {
        const spi_end *d = m->sim->ends.spi->pdata[i];
        if (d->end.clock != clock || !wadi_spi_is_selected(m->sim, &d->end))
            continue;
        check(m, &d->end);
        if (first)
            wadi_report(m->sim, WAD_FINDING_SPI_BOTH, NULL,
                        "%s and %s are selected at once: both drive the line that %s receives",
                        first->end.name, d->end.name, m->block->inst->name);
        first = first ? first : d;
    }
}

static void output_written(const wadi_net *net)
{
    const wadi_signal *signal = net->group ? net->group : net->driver;
    if (!signal || !wadi_model_is(signal->model, "spi") || signal->role != ROLE_chip_select)
        return;
    const wad_model *m = signal->model;
    const spi_state *s = wad_model_state(signal->model);
    if (s->on && s->controller && s->select_on && s->select == signal->index)
        wadi_report(m->sim, WAD_FINDING_SPI_TWO_SELECTS, NULL,
                    "the port writes pin %s, which %s drives as %s: the write does nothing",
                    net->def->name, m->block->inst->name, signal->def->name);
}

#define LATE_PS UINT64_C(1000000000) /* the run may end between a frame and its reading */

void wadi_spi_ended(wad_model *m)
{
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

static void hear(wadi_observer *o, const wadi_told *t)
{
    (void)o;
    output_written(t->net);
}

const wadi_observer_class wadi_check_spi = {
    .name = "spi",
    .standing = WADI_EAR_OUTPUT,
    .hear = hear,
};
