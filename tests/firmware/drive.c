/* SPDX-License-Identifier: MIT */
/* The timer driver put through its paces, one source for every chip; test_chips says what must
 * come. */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include LAMP_CHIP

static volatile unsigned step;

static void on_step(void *context);
static const wad_timer pwm = {&DIM_TIMER, .rate = WAD_RATE_KHZ(1),
                              .pwm = {{LEVEL1_ROUTE, WAD_PERCENT(25)}}};
static const wad_timer steps = {&BLINK_TIMER, .rate = WAD_RATE_HZ(32), .on_wrap = on_step};

void handle_CNT0(void);
void handle_CNT0(void)
{
    wad_timer_handle(&steps);
}

static wad_status change(unsigned to)
{
    static const uint32_t percent[] = {25, 75, 0, 100};
    if (to < 4)
        return wad_timer_set_duty(&pwm, 0, WAD_PERCENT(percent[to]));
    if (to == 4) {
        wad_status st = wad_timer_set_rate(&pwm, WAD_KHZ(2));
        return st == WAD_OK ? wad_timer_set_duty(&pwm, 0, WAD_PERCENT(50)) : st;
    }
    wad_timer_stop(&pwm);
    return WAD_OK;
}

static void on_step(void *context)
{
    (void)context;
    step++;
    if (change(step) != WAD_OK)
        wad_pin_write(WARN_PIN, true);
}

/* The count never leaves its period, and goes up but for the wrap: split registers are read whole.
 */
static void watch_count(void)
{
    uint32_t last = wad_timer_count(&pwm), period = wad_timer_period(&pwm);
    unsigned wraps = 0;
    for (unsigned i = 0; i < 2000; i++) {
        uint32_t now = wad_timer_count(&pwm);
        if (now >= period || (now < last && ++wraps > 12))
            wad_pin_write(WARN_PIN, true);
        last = now;
    }
}

int main(void)
{
    wad_status st = start_clocks();
    if (st == WAD_OK)
        st = wad_pin_output(WARN_PIN, false);
    if (st == WAD_OK)
        st = wad_timer_open(&pwm);
    if (st == WAD_OK)
        st = wad_timer_open(&steps);
    if (st != WAD_OK)
        wad_pin_write(WARN_PIN, true);
    wad_timer_start(&pwm);
    wad_timer_start(&steps);
    watch_count();
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
