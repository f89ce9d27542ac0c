/* SPDX-License-Identifier: MIT */
/*
 * The bilge pump's motor between two switches that must never both be on: a centre-aligned pair at
 * 400 Hz with 2.5 us of dead time, which runs up from nothing to 80 % within two seconds.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

static uint32_t duty_bp;

static void run_up(void *context);
static const wad_timer pump = {&corran32_cnt1, .clock_hz = 8000000, .rate = WAD_RATE_HZ(400),
                               .centre = true, .on_wrap = run_up,   .priority = 2};

void handle_CNT1(void);
void handle_CNT1(void)
{
    wad_timer_handle(&pump);
}

/* Each period a tenth of a percent, and no further than 80 %. */
static void run_up(void *context)
{
    (void)context;
    if (duty_bp < WAD_PERCENT(80))
        duty_bp += 10;
    wad_timer_set_duty(&pump, 1, duty_bp);
}

int main(void)
{
    wad_status st = wad_timer_open(&pump);
    if (st == WAD_OK)
        st = wad_timer_pair(&pump, 1, CORRAN32_ROUTE_CNT1_CH1_PB1, CORRAN32_ROUTE_CNT1_LOW1_PB6,
                            2500, 0);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    wad_timer_start(&pump);
    for (;;)
        wad_port_sleep();
}
