/* SPDX-License-Identifier: MIT */
/* Kind spi: what stands at the other end of its lines. */
#include "kinds/shared/serial_end.h"
#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/report.h"
#include "state.h"
#include "wadium/host/spi.h"

const wad_pin_def *wadi_spi_pin(const wad_model *m, unsigned role)
{
    const wadi_binding *b = &m->roles[role];
    if (!b->count || !b->signals || !b->signals[0]->nets->len)
        return NULL;
    return ((const wadi_net *)b->signals[0]->nets->pdata[0])->def;
}

unsigned wadi_spi_mode(const spi_state *s)
{
    return 2u * s->idle_high + s->phase;
}

static void describe(wad_model *m, wad_spi_port *port)
{
    const spi_state *s = wad_model_state(m);
    *port = (wad_spi_port){.block = m->block->inst,
                           .format = {wadi_spi_mode(s), s->bits, s->lsb_first, {0, 1}},
                           .on = s->on,
                           .controller = s->controller,
                           .busy = s->controller ? wadi_spi_busy(s) : s->shift.edge != 0,
                           .clock = wadi_spi_pin(m, ROLE_clock),
                           .mosi = wadi_spi_pin(m, ROLE_mosi),
                           .miso = wadi_spi_pin(m, ROLE_miso)};
    if (s->on)
        port->format.hz = wadi_serial_baud(m, 1, (int64_t)s->bit);
}

bool wad_sim_spi_port(wad_sim *sim, const wad_instance *block, wad_spi_port *port)
{
    wad_model *m = sim->blocks[block->index].model;
    if (!wadi_model_is(m, "spi"))
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

bool wadi_spi_is_selected(const wad_sim *sim, const wad_spi_part *end)
{
    return wad_sim_level(sim, end->select) == (end->select_high ? WAD_HIGH : WAD_LOW);
}

static wad_model *controller_of(const spi_end *d)
{
    wad_spi_port port;
    return wad_sim_spi_at(d->sim, d->end.clock, &port) ? d->sim->blocks[port.block->index].model
                                                       : NULL;
}

/* The select ends: not with a frame under way, unless a reset or the power ends it all. */
static void on_select(void *ctx, uint64_t ps, wad_level level)
{
    const spi_end *d = ctx;
    (void)ps;
    (void)level;
    wad_model *m = controller_of(d);
    if (!m || d->sim->reset.resetting)
        return;
    spi_state *s = wad_model_state(m);
    if (wadi_spi_is_selected(d->sim, &d->end)) {
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
    spi_end *d = g_new(spi_end, 1);
    *d = (spi_end){sim, *end};
    if (!sim->ends.spi)
        sim->ends.spi = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(sim->ends.spi, d);
    wad_sim_watch_pin(sim, end->select, on_select, d);
}
