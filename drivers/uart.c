/* SPDX-License-Identifier: MIT */
/* Built once for a chip: setting a serial port up, and polling it. */
#include "uart_private.h"

#ifdef WAD_UART_TABLE

#define RESET_POLLS 1000u

/* ---- baud ---- */

static wad_status solve(const wad_uart *u, uint32_t baud, uint32_t samples, wad_divider_setting *s)
{
    const uint32_t one = WADI_BIT(R.divider_fraction.width);
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
        wad_put(base, R.divider_fraction, s->count & (WADI_BIT(bits) - 1u));
    wad_put(base, R.divider, (s->count >> bits) - R.divider_plus);
}

/* ---- format ---- */

static bool has_all(const wad_uart_config *c)
{
    const bool no_parity[] = {false, !wad_has(R.parity_mode), !wad_has(R.parity_mode),
                              !wad_has(R.parity_mode) || R.parity_mode_mark == R.parity_mode_none,
                              !wad_has(R.parity_mode) || R.parity_mode_space == R.parity_mode_none};
    const bool no_stop[] = {false, !wad_has(R.stop) || R.stop_one_half == R.stop_one,
                            !wad_has(R.stop)};
    return !no_parity[c->parity] && !no_stop[c->stop] && (wad_has(R.loop) || !c->loop) &&
           (wad_has(R.msb_first) || !c->msb_first) && (wad_has(R.invert_tx) || !c->invert_tx) &&
           (wad_has(R.invert_rx) || !c->invert_rx) && (wad_has(R.half_duplex) || !c->driver) &&
           (wad_has(R.flow) || !(c->rts || c->cts));
}

/* All of it while the block is off, in one write where it lies in one register. */
static wad_status write_format(wad_uart *u, const wad_uart_config *c)
{
    const uint8_t bits[] = {R.bits_five, R.bits_six, R.bits_seven, R.bits_eight, R.bits_nine};
    const uint8_t parities[] = {R.parity_mode_none, R.parity_mode_even, R.parity_mode_odd,
                                R.parity_mode_mark, R.parity_mode_space};
    const uint8_t stops[] = {R.stop_one, R.stop_one_half, R.stop_two};
    const wad_field with = R.enable;
    uintptr_t base = u->block->base;
    unsigned n = c->bits ? c->bits - 5u : 3u;
    if (n > 4u || c->parity > WAD_PARITY_SPACE || c->stop > WAD_STOP_2)
        return WAD_E_RANGE;
    if ((wad_has(R.bits) ? bits[n] == R.bits_eight && n != 3u : n != 3u) || !has_all(c))
        return WAD_E_ABSENT;
    u->data_mask = (uint16_t)((32u << n) - 1u);
    uint32_t word = wadi_read(base, with.off, with.size);
    word = wadi_also(base, word, with, R.enable, 0);
    word = wadi_also(base, word, with, R.bits, bits[n]);
    word = wadi_also(base, word, with, R.parity_mode, parities[c->parity]);
    word = wadi_also(base, word, with, R.stop, stops[c->stop]);
    word = wadi_also(base, word, with, R.loop, c->loop);
    word = wadi_also(base, word, with, R.msb_first, c->msb_first);
    word = wadi_also(base, word, with, R.invert_tx, c->invert_tx);
    word = wadi_also(base, word, with, R.invert_rx, c->invert_rx);
    word = wadi_also(base, word, with, R.flow, c->rts || c->cts);
    word = wadi_also(base, word, with, R.half_duplex, c->driver != 0);
    word = wadi_also(base, word, with, R.lead, c->lead);
    word = wadi_also(base, word, with, R.tx_enable, c->tx || c->loop);
    word = wadi_also(base, word, with, R.rx_enable, c->rx || c->loop);
    wadi_write(base, with.off, with.size, word);
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

WADI_INLINE void clear_one(uintptr_t base, wad_field flag)
{
    if (wad_has(flag))
        wad_clear(base, flag);
}

static void clear_flags(uintptr_t base)
{
    clear_one(base, R.overrun);
    clear_one(base, R.framing);
    clear_one(base, R.parity_error);
    clear_one(base, R.break_seen);
    clear_one(base, R.idle);
    clear_one(base, R.timeout);
}

/* Nobody asks for anything any more, and it works no more. */
static void quiet(uintptr_t base)
{
    const wad_field asks[] = {R.rx_ready_irq, R.tx_ready_irq, R.tx_done_irq, R.idle_irq,
                              R.timeout_irq,  R.tx_dma,       R.rx_dma};
    for (unsigned i = 0; i < sizeof asks / sizeof *asks; i++)
        if (wad_has(asks[i]))
            wad_put(base, asks[i], 0);
    wad_put(base, R.enable, 0);
}

wad_status wad_uart_open(wad_uart *u, const wad_block *block, const wad_uart_config *c,
                         int32_t *error_ppm)
{
    wad_divider_setting s;
    bool eight;
    *u = (wad_uart){.block = block, .time = c->time, .dma = c->dma};
    wad_status st = find_baud(u, c->baud, &s, &eight);
    if (st != WAD_OK)
        return st;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    if (wad_get(block->base, R.enable)) /* opened before: its format stands still while it works */
        quiet(block->base);
    st = write_format(u, c);
    if (st != WAD_OK)
        return st;
    write_baud(u, &s, eight);
    st = route_pins(c);
    if (st != WAD_OK)
        return st;
    clear_flags(block->base);
    wad_put(block->base, R.enable, 1);
    if (error_ppm)
        *error_ppm = s.error_ppm;
    return u->dma ? uart_style(u)->open(u) : WAD_OK;
}

/* ---- waiting ---- */

static bool all_sent(wad_uart *u)
{
    if (ring_count(&u->out))
        return false;
    return wad_has(R.tx_done) && uart_is(u, R.tx_done);
}

wad_status wad_uart_drain(wad_uart *u, uint32_t timeout_us)
{
    if (!u->time)
        return WAD_E_STATE;
    if (!wad_has(R.tx_done))
        return WAD_E_ABSENT;
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

#endif
