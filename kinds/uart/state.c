/* SPDX-License-Identifier: MIT */
/* Kind uart: what its files share. */
#include "state.h"

#include "kinds/shared/flags.h"
#include "sim/core/model.h"

const wadi_flag_role wadi_uart_pairs[9] = {
    {ROLE_tx_ready, ROLE_tx_ready_irq, true}, {ROLE_tx_done, ROLE_tx_done_irq, false},
    {ROLE_rx_ready, ROLE_rx_ready_irq, true}, {ROLE_overrun, ROLE_overrun_irq, false},
    {ROLE_framing, ROLE_framing_irq, false},  {ROLE_parity_error, ROLE_parity_irq, false},
    {ROLE_break_seen, ROLE_break_irq, false}, {ROLE_idle, ROLE_idle_irq, false},
    {ROLE_timeout, ROLE_timeout_irq, false}};

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
    const wadi_part *p = m->roles[role].count ? m->roles[role].parts : NULL;
    return p ? (uart_flag){&p->slot->value, p->mask << p->lsb} : (uart_flag){NULL, 0};
}

static void put_flag(const uart_flag *f, bool on)
{
    if (f->word)
        *f->word = on ? *f->word | f->mask : *f->word & ~f->mask;
}

static bool flag_is_set(const uart_flag *f)
{
    return f->word && *f->word & f->mask;
}

void wadi_uart_look_up(const wad_model *m, uart_state *s)
{
    s->n_pairs = 0;
    s->tx_ready = flag_of(m, ROLE_tx_ready);
    s->tx_done = flag_of(m, ROLE_tx_done);
    s->rx_ready = flag_of(m, ROLE_rx_ready);
    for (unsigned i = 0; i < G_N_ELEMENTS(wadi_uart_pairs); i++) {
        const wadi_binding *flag = &m->roles[wadi_uart_pairs[i].flag],
                           *enable = &m->roles[wadi_uart_pairs[i].enable];
        if (!flag->count || !enable->count)
            continue;
        const wadi_part *f = flag->parts, *e = enable->parts;
        s->pairs[s->n_pairs++] =
            (uart_pair){&f->slot->value, &e->slot->value, f->mask << f->lsb, e->mask << e->lsb};
    }
}

void wadi_uart_look_at_enables(uart_state *s)
{
    s->n_enabled = 0;
    for (unsigned i = 0; i < s->n_pairs; i++)
        if (*s->pairs[i].enable & s->pairs[i].enable_mask)
            s->enabled[s->n_enabled++] = s->pairs[i];
}

static bool any_asks(const uart_state *s)
{
    for (unsigned i = 0; i < s->n_enabled; i++)
        if (*s->enabled[i].flag & s->enabled[i].flag_mask)
            return true;
    return false;
}

/* Flags that follow from how full the queues are, then the line. */
void wadi_uart_update(wad_model *m)
{
    const uart_state *s = wad_model_state(m);
    put_flag(&s->tx_ready, s->out.n <= s->tx_at && s->out.n < s->out.depth);
    put_flag(&s->tx_done, !s->out.n && !s->sending && !s->leading);
    put_flag(&s->rx_ready, s->in.n > s->rx_at);
    if (s->flow) { /* high: the other side is to wait */
        wad_model_uses(m, ROLE_rts, 0, true);
        wad_model_drive(m, ROLE_rts, 0, !s->receives || s->in.n + s->in.depth / 4 >= s->in.depth);
    }
    if (m->asks) {
        wad_model_request(m, ROLE_tx_ready, 0, s->tx_dma && s->sends && flag_is_set(&s->tx_ready));
        wad_model_request(m, ROLE_rx_ready, 0, s->rx_dma && flag_is_set(&s->rx_ready));
    }
    wad_model_line(m, 0, any_asks(s));
}

void wadi_uart_flag(wad_model *m, unsigned role)
{
    wad_model_put(m, role, 0, 1);
    wad_model_event(m, role, 0);
}
