/* SPDX-License-Identifier: MIT */
/* Kind uart: what its files share. */
#include "state.h"

#include "sim/core/model.h"

uint64_t wadi_uart_edge(const uart_format *f, uint64_t from, uint64_t k)
{
    return from + (k * f->divider >> f->frac_bits);
}

bool wadi_uart_parity(const uart_format *f, unsigned data)
{
    bool odd = __builtin_parity(data & ((1u << f->bits) - 1));
    return f->parity == PARITY_EVEN  ? odd
           : f->parity == PARITY_ODD ? !odd
                                     : f->parity == PARITY_MARK;
}

/* Flags that follow from how full the queues are. */
void wadi_uart_update(wad_model *m)
{
    const uart_state *s = wad_model_state(m);
    bool room = s->out.n <= s->tx_at && s->out.n<s->out.depth, arrived = s->in.n> s->rx_at;
    wad_model_put(m, ROLE_tx_ready, 0, room);
    wad_model_put(m, ROLE_tx_done, 0, !s->out.n && !s->sending && !s->leading);
    wad_model_put(m, ROLE_rx_ready, 0, arrived);
    if (s->flow) { /* high: the other side is to wait */
        wad_model_uses(m, ROLE_rts, 0, true);
        wad_model_drive(m, ROLE_rts, 0, !s->receives || s->in.n + s->in.depth / 4 >= s->in.depth);
    }
    if (m->asks) {
        wad_model_request(m, ROLE_tx_ready, 0, s->tx_dma && s->sends && room);
        wad_model_request(m, ROLE_rx_ready, 0, s->rx_dma && arrived);
    }
}

void wadi_uart_flag(wad_model *m, unsigned role)
{
    wad_model_put(m, role, 0, 1);
    wad_model_event(m, role, 0);
}
