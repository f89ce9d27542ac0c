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

static uart_flag flag_of(const wad_model *m, unsigned role)
{
    const wadi_binding *b = &m->roles[role];
    bool plain = b->count && b->n_parts == 1 && !b->odd && !b->parts[0].flip;
    return plain ? (uart_flag){b->parts[0].slot, b->parts[0].mask << b->parts[0].lsb}
                 : (uart_flag){NULL, 0};
}

void wadi_uart_look_up(const wad_model *m, uart_state *s)
{
    s->tx_ready = flag_of(m, ROLE_tx_ready);
    s->tx_done = flag_of(m, ROLE_tx_done);
    s->rx_ready = flag_of(m, ROLE_rx_ready);
}

static inline void put_flag(wad_model *m, unsigned role, const uart_flag *f, bool on)
{
    if (f->slot)
        wadi_slot_store(f->slot, on ? f->slot->value | f->mask : f->slot->value & ~f->mask);
    else
        wad_model_put(m, role, 0, on);
}

bool wadi_uart_has_room(const uart_state *s)
{
    return s->out.n < s->out.depth && !(s->bare && (s->sending || s->leading));
}

/* Flags that follow from how full the queues are. */
void wadi_uart_update(wad_model *m)
{
    const uart_state *s = wad_model_state(m);
    bool room = wadi_uart_has_room(s) && s->out.n <= s->tx_at;
    bool arrived = s->in.n > s->rx_at;
    put_flag(m, ROLE_tx_ready, &s->tx_ready, room);
    put_flag(m, ROLE_tx_done, &s->tx_done, !s->out.n && !s->sending && !s->leading);
    put_flag(m, ROLE_rx_ready, &s->rx_ready, arrived);
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
