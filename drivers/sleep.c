/* SPDX-License-Identifier: MIT */
/* Built once for a chip: sleep, by the block that says how deep where there is one. */

#include WAD_CHIP
#include <wadium/sleep.h>

#if defined(WAD_POWER_TABLE) && defined(WAD_POWER_BLOCK)

#define R    WAD_POWER_TABLE
#define BASE WAD_POWER_BLOCK.base

wad_status wad_sleep_level(unsigned level)
{
    if (level > wadi_ones(R.level))
        return WAD_E_RANGE;
    wad_put(BASE, R.level, level);
    return WAD_OK;
}

wad_status wad_sleep_again(bool on)
{
    if (!wad_has(R.again))
        return WAD_E_ABSENT;
    wad_put(BASE, R.again, on);
    return WAD_OK;
}

/* Puts the core back to sleep after handlers? Then that is off while main goes on. */
static bool goes_back(void)
{
    return wad_has(R.again) && wad_get(BASE, R.again);
}

static void set_again(bool on)
{
    if (wad_has(R.again))
        wad_put(BASE, R.again, on);
}

static void stay_awake(void)
{
    set_again(false);
    if (wad_has(R.stay))
        wad_put(BASE, R.stay, 1);
}

#else

wad_status wad_sleep_level(unsigned level)
{
    return level ? WAD_E_ABSENT : WAD_OK;
}

wad_status wad_sleep_again(bool on)
{
    return on ? WAD_E_ABSENT : WAD_OK;
}

static bool goes_back(void)
{
    return false;
}

static void set_again(bool on)
{
    (void)on;
}

static void stay_awake(void)
{
}

#endif

void wad_wake_up(wad_wake *wake)
{
    wake->set = true;
    stay_awake();
}

void wad_sleep_until(wad_wake *wake)
{
    uint32_t state = wad_port_irq_save();
    bool again = goes_back();
    while (!wake->set) {
        wad_port_sleep(); /* what is pending ends it, though interrupts are closed */
        wad_port_irq_on();
        (void)wad_port_irq_save();
    }
    wake->set = false;
    set_again(again);
    wad_port_irq_restore(state);
}

#ifdef WADI_TIMEBASE_FORMS

static void wake_from_alarm(void *wake)
{
    wad_wake_up(wake);
}

wad_status wad_sleep_ms(const wad_alarms *alarms, uint32_t ms)
{
    wad_wake wake = {false};
    wad_alarm alarm = {0};
    wad_status st = wad_alarm_after_ms(alarms, &alarm, ms, wake_from_alarm, &wake);
    if (st == WAD_OK)
        wad_sleep_until(&wake);
    return st;
}

#endif
