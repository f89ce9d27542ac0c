/* SPDX-License-Identifier: MIT */
/* Kind uart: how the port is set, against what stands at the other end of its pins. */
#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/report.h"
#include "state.h"
#include "wadium/host/rate.h"

static const wad_pin_def *pin_of(const wad_model *m, unsigned role)
{
    const wadi_binding *b = &m->roles[role];
    if (!b->count || !b->signals || !b->signals[0]->nets->len)
        return NULL;
    return ((const wadi_net *)b->signals[0]->nets->pdata[0])->def;
}

/* The rate of the clock, over what the divider and the samples make of it. */
static wad_rational baud_of(wad_model *m, const uart_format *f)
{
    return wadi_serial_baud(m, (int64_t)1 << f->frac_bits, (int64_t)(f->divider * f->over));
}

void wadi_uart_describe(wad_model *m, wad_serial_port *port)
{
    const uart_state *s = wad_model_state(m);
    const uart_format *f = &s->format;
    *port = (wad_serial_port){.block = m->block->inst,
                              .samples = f->over,
                              .on = s->on,
                              .sends = s->sends,
                              .receives = s->receives,
                              .flow = s->flow,
                              .msb_first = f->msb_first,
                              .invert_tx = f->invert_tx,
                              .invert_rx = f->invert_rx,
                              .tx = pin_of(m, ROLE_tx),
                              .rx = pin_of(m, ROLE_rx)};
    if (s->on)
        port->format =
            (wad_serial_format){baud_of(m, f), f->bits, "NEOMS"[f->parity % 5], f -> stop_halves};
}

const wadi_serial_end *wadi_uart_other_end(const wad_model *m, bool receiving)
{
    return wadi_serial_end_of(m->sim, pin_of(m, receiving ? ROLE_rx : ROLE_tx));
}

/* Once after each enabling: is our baud within what the frame allows? */
void wadi_uart_check_baud(wad_model *m, bool receiving)
{
    uart_state *s = wad_model_state(m);
    const wad_pin_def *pin = pin_of(m, receiving ? ROLE_rx : ROLE_tx);
    const wadi_serial_end *end = wadi_serial_end_of(m->sim, pin);
    s->checked = s->checked || pin;
    if (!end)
        return;
    const uart_format *f = &s->format;
    double own = wadi_number(baud_of(m, f)), other = wadi_number(end->format.baud);
    const wad_frame frame = {f->bits, f->parity != PARITY_NONE, f->stop_halves, f->over};
    const wad_budget_ends ends = {.own_ppm = (own / other - 1) * 1e6};
    wad_budget budget;
    wad_budget_make(&frame, &ends, &budget);
    if (budget.good)
        return;
    wadi_slot stand_in = {.address = m->block->inst->base};
    wadi_report_at(m->sim, WAD_FINDING_BAUD_OFF, &stand_in, &m->block->config_trace,
                   "%s runs at %.6g baud, %s at %.6g: %.2f %% apart, and a frame of %u bits allows "
                   "%.2f %% to %+.2f %%",
                   m->block->inst->name, own, end->name, other, (own / other - 1) * 100,
                   1 + f->bits + (f->parity != PARITY_NONE) + f->stop_halves / 2,
                   budget.least_ppm / 1e4, budget.most_ppm / 1e4);
}
