/* SPDX-License-Identifier: MIT */
/* Built once for a chip: setting a serial port up, and polling it. */
#include "uart_private.h"

#ifdef WAD_UART_TABLE

#define RESET_POLLS 1000u

/* ---- baud ---- */

static wad_status solve(const wad_uart *u, uint32_t baud, uint32_t samples, wad_divider_setting *s)
{
    const uint32_t one = 1u << R.divider_fraction.width;
    const wad_divider divider = {.up = one,
                                 .down = samples,
                                 .min = one * (R.divider_plus ? R.divider_plus : 1u),
                                 .max = (wadi_ones(R.divider) + R.divider_plus) * one + one - 1u,
                                 .prescale_min = 1,
                                 .prescale_max = 1};
    return wad_divider_solve(&divider, u->block->clock_hz(), WAD_HZ(baud), s);
}

static int32_t size_of(int32_t ppm)
{
    return ppm < 0 ? -ppm : ppm;
}

/* More samples a bit see noise better: 8 only where 16 are not as near. */
static wad_status find_baud(const wad_uart *u, uint32_t baud, wad_divider_setting *s, bool *eight)
{
    wad_divider_setting fast;
    wad_status st = solve(u, baud, 16, s);
    *eight = false;
    if (!wad_has(R.over) || (st == WAD_OK && s->error_ppm == 0))
        return st;
    wad_status other = solve(u, baud, 8, &fast);
    if (other == WAD_OK && (st != WAD_OK || size_of(fast.error_ppm) < size_of(s->error_ppm))) {
        *s = fast;
        *eight = true;
        return WAD_OK;
    }
    return st;
}

static void write_baud(const wad_uart *u, const wad_divider_setting *s, bool eight)
{
    uintptr_t base = u->block->base;
    unsigned bits = R.divider_fraction.width;
    if (wad_has(R.over))
        wad_put(base, R.over, eight ? R.over_x8 : R.over_x16);
    if (wad_has(R.divider_fraction))
        wad_put(base, R.divider_fraction, s->count & ((1u << bits) - 1u));
    wad_put(base, R.divider, (s->count >> bits) - R.divider_plus);
}

/* ---- format ---- */

static wad_status write_format(wad_uart *u, const wad_uart_config *c)
{
    const uint8_t bits[] = {R.bits_five, R.bits_six, R.bits_seven, R.bits_eight, R.bits_nine};
    const uint8_t parities[] = {R.parity_mode_none, R.parity_mode_even, R.parity_mode_odd,
                                R.parity_mode_mark, R.parity_mode_space};
    const uint8_t stops[] = {R.stop_one, R.stop_one_half, R.stop_two};
    uintptr_t base = u->block->base;
    unsigned wanted = c->bits ? c->bits : 8u;
    if (wanted < 5u || wanted > 9u)
        return WAD_E_RANGE;
    if ((!wad_has(R.bits) && wanted != 8u) ||
        (c->parity && (!wad_has(R.parity_mode) || parities[c->parity] == parities[0])) ||
        (c->stop && (!wad_has(R.stop) || stops[c->stop] == stops[0])) ||
        (c->loop && !wad_has(R.loop)) || (c->driver && !wad_has(R.half_duplex)) ||
        ((c->rts || c->cts) && !wad_has(R.flow)))
        return WAD_E_ABSENT;
    u->data_mask = (uint16_t)((1u << wanted) - 1u);
    if (wad_has(R.bits))
        wad_put(base, R.bits, bits[wanted - 5u]);
    if (wad_has(R.parity_mode))
        wad_put(base, R.parity_mode, parities[c->parity]);
    if (wad_has(R.stop))
        wad_put(base, R.stop, stops[c->stop]);
    if (wad_has(R.loop))
        wad_put(base, R.loop, c->loop);
    if (wad_has(R.flow))
        wad_put(base, R.flow, c->rts || c->cts);
    if (wad_has(R.half_duplex))
        wad_put(base, R.half_duplex, c->driver != 0);
    if (wad_has(R.lead))
        wad_put(base, R.lead, c->lead);
    return WAD_OK;
}

static wad_status route_pins(const wad_uart_config *c)
{
    const wad_route routes[] = {c->tx, c->rx, c->driver, c->rts, c->cts};
    wad_status st = WAD_OK;
    for (unsigned i = 0; i < 5u && st == WAD_OK; i++)
        if (routes[i])
            st = wad_pin_route(routes[i]);
    return st;
}

static void clear_flags(uintptr_t base)
{
    const wad_field flags[] = {R.overrun,    R.framing, R.parity_error,
                               R.break_seen, R.idle,    R.timeout};
    for (unsigned i = 0; i < sizeof flags / sizeof flags[0]; i++)
        if (wad_has(flags[i]))
            wad_clear(base, flags[i]);
}

wad_status wad_uart_open(wad_uart *u, const wad_block *block, const wad_uart_config *c,
                         int32_t *error_ppm)
{
    wad_divider_setting s;
    bool eight;
    *u = (wad_uart){.block = block, .time = c->time};
    wad_status st = find_baud(u, c->baud, &s, &eight);
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    wad_put(block->base, R.enable, 0);
    st = write_format(u, c);
    if (st != WAD_OK)
        return st;
    write_baud(u, &s, eight);
    st = route_pins(c);
    if (st != WAD_OK)
        return st;
    clear_flags(block->base);
    if (wad_has(R.tx_enable))
        wad_put(block->base, R.tx_enable, c->tx || c->loop);
    if (wad_has(R.rx_enable))
        wad_put(block->base, R.rx_enable, c->rx || c->loop);
    wad_put(block->base, R.enable, 1);
    if (error_ppm)
        *error_ppm = s.error_ppm;
    return WAD_OK;
}

/* ---- waiting ---- */

static bool all_sent(const wad_uart *u)
{
    uintptr_t base = u->block->base;
    if (ring_count(&u->out))
        return false;
    return wad_has(R.tx_done) ? wad_get(base, R.tx_done) != 0 : wad_get(base, R.tx_ready) != 0;
}

wad_status wad_uart_drain(wad_uart *u, uint32_t timeout_us)
{
    if (!u->time)
        return WAD_E_STATE;
    wad_deadline d = wad_deadline_us(u->time, timeout_us);
    while (!all_sent(u))
        if (wad_deadline_passed(u->time, &d))
            return WAD_E_TIMEOUT;
    return WAD_OK;
}

wad_status wad_uart_set_baud(wad_uart *u, uint32_t baud, uint32_t timeout_us, int32_t *error_ppm)
{
    wad_divider_setting s;
    bool eight;
    wad_status st = find_baud(u, baud, &s, &eight);
    if (st == WAD_OK)
        st = wad_uart_drain(u, timeout_us);
    if (st != WAD_OK)
        return st;
    wad_put(u->block->base, R.enable, 0);
    write_baud(u, &s, eight);
    wad_put(u->block->base, R.enable, 1);
    if (error_ppm)
        *error_ppm = s.error_ppm;
    return WAD_OK;
}

/* ---- polled ---- */

uint16_t wadi_uart_take(wad_uart *u)
{
    uintptr_t base = u->block->base;
    uint32_t word = wadi_read(base, R.rx_data.off, R.rx_data.size); /* once: reading takes it */
    u->stats.received++;
    if (wad_has(R.byte_framing) && word >> R.byte_framing.lsb & 1u)
        u->stats.framing++;
    if (wad_has(R.byte_parity) && word >> R.byte_parity.lsb & 1u)
        u->stats.parity++;
    if (wad_has(R.byte_break) && word >> R.byte_break.lsb & 1u)
        u->stats.breaks++;
    if (wad_has(R.overrun) && wad_take(base, R.overrun))
        u->stats.overruns++;
    return (uint16_t)(word >> R.rx_data.lsb & u->data_mask);
}

wad_status wad_uart_put(wad_uart *u, const void *data, size_t n, uint32_t timeout_us, size_t *sent)
{
    const uint8_t *bytes = data;
    size_t done = 0;
    wad_status st = u->out.data || !u->time ? WAD_E_STATE : WAD_OK;
    wad_deadline d = {0, 0};
    if (st == WAD_OK)
        d = wad_deadline_us(u->time, timeout_us);
    while (st == WAD_OK && done < n) {
        if (wad_get(u->block->base, R.tx_ready)) {
            wad_put(u->block->base, R.tx_data, bytes[done++]);
            u->stats.sent++;
        } else if (wad_deadline_passed(u->time, &d)) {
            st = WAD_E_TIMEOUT;
        }
    }
    if (sent)
        *sent = done;
    return st;
}

wad_status wad_uart_get(wad_uart *u, void *data, size_t n, uint32_t timeout_us, size_t *received)
{
    uint8_t *bytes = data;
    size_t done = 0;
    wad_status st = u->in.data || !u->time ? WAD_E_STATE : WAD_OK;
    wad_deadline d = {0, 0};
    if (st == WAD_OK)
        d = wad_deadline_us(u->time, timeout_us);
    while (st == WAD_OK && done < n) {
        if (wad_get(u->block->base, R.rx_ready))
            bytes[done++] = (uint8_t)wadi_uart_take(u);
        else if (wad_deadline_passed(u->time, &d))
            st = WAD_E_TIMEOUT;
    }
    if (received)
        *received = done;
    return st;
}

#endif
