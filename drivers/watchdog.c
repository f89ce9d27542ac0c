/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/clock.h>
#include <wadium/watchdog.h>

#include WAD_CHIP

#ifdef WAD_WATCHDOG_TABLE

#define R WAD_WATCHDOG_TABLE

static void put(wad_field f, uint32_t value)
{
    uint32_t state = wad_port_irq_save();
    if (f.how & WAD_HOW_LOCKED)
        WAD_WATCHDOG_UNLOCK(WAD_WATCHDOG_BLOCK.base);
    wad_put(WAD_WATCHDOG_BLOCK.base, f, value);
    if (f.how & WAD_HOW_LOCKED)
        WAD_WATCHDOG_LOCK(WAD_WATCHDOG_BLOCK.base);
    wad_port_irq_restore(state);
}

/* The time of 2 ** exponent clock edges, in microseconds, rounded down. */
static uint32_t time_of(uint32_t exponent)
{
    uint32_t hz = WAD_WATCHDOG_BLOCK.clock_hz(), us = wad_muldiv(WADI_BIT(exponent), 1000000u, hz);
    return us && wad_muldiv(us, hz, 1000000u) > WADI_BIT(exponent) ? us - 1 : us;
}

wad_status wad_watchdog_start_window(uint32_t us, uint32_t closed_us, uint32_t *limit_us,
                                     uint32_t *closed_out_us)
{
    uint32_t value = 0, most = wad_has(R.timeout) ? wadi_ones(R.timeout) : 0;
    while (value <= most && time_of(value + R.timeout_plus) < us)
        value++;
    if (value > most)
        return WAD_E_RANGE;
    uint32_t limit = time_of(value + R.timeout_plus), parts = 0, part = 0;
    if (closed_us && !wad_has(R.window))
        return WAD_E_ABSENT;
    if (closed_us) {
        part = limit >> R.window.width;
        parts = closed_us / (part ? part : 1u);
        if (closed_us >= limit || parts > wadi_ones(R.window))
            return WAD_E_RANGE;
        put(R.window, parts);
    }
    if (limit_us)
        *limit_us = limit;
    if (closed_out_us)
        *closed_out_us = parts * part;
    if (wad_has(R.timeout))
        put(R.timeout, value);
    put(R.enable, 1);
    wad_watchdog_feed();
    return WAD_OK;
}

wad_status wad_watchdog_start(uint32_t us, uint32_t *limit_us)
{
    return wad_watchdog_start_window(us, 0, limit_us, NULL);
}

wad_reset_cause wad_watchdog_cause(void)
{
    uintptr_t base = WAD_WATCHDOG_BLOCK.base;
    if (wad_has(R.cause_early) && wad_take(base, R.cause_early))
        return WAD_RESET_EARLY;
    if (wad_has(R.cause) && wad_take(base, R.cause))
        return WAD_RESET_WATCHDOG;
    if (wad_has(R.cause_power) && wad_take(base, R.cause_power))
        return WAD_RESET_POWER;
    return WAD_RESET_UNKNOWN;
}

wad_status wad_watchdog_stop(void)
{
    put(R.enable, 0);
    return wad_get(WAD_WATCHDOG_BLOCK.base, R.enable) ? WAD_E_STATE : WAD_OK;
}

void wad_watchdog_feed(void)
{
    put(R.feed, R.feed_value);
}

bool wad_watchdog_bit(void)
{
    return wad_has(R.cause) && wad_take(WAD_WATCHDOG_BLOCK.base, R.cause);
}

#else

wad_status wad_watchdog_start(uint32_t us, uint32_t *limit_us)
{
    (void)us;
    (void)limit_us;
    return WAD_E_ABSENT;
}

wad_status wad_watchdog_start_window(uint32_t us, uint32_t closed_us, uint32_t *limit_us,
                                     uint32_t *closed_out_us)
{
    (void)us;
    (void)closed_us;
    (void)limit_us;
    (void)closed_out_us;
    return WAD_E_ABSENT;
}

wad_reset_cause wad_watchdog_cause(void)
{
    return WAD_RESET_UNKNOWN;
}

wad_status wad_watchdog_stop(void)
{
    return WAD_E_ABSENT;
}

void wad_watchdog_feed(void)
{
}

bool wad_watchdog_bit(void)
{
    return false;
}

#endif
