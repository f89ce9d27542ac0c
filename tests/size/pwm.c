/* SPDX-License-Identifier: MIT */
/* A duty at a pin. */
#include <corran32_roles.h>

static const wad_timer dimmer = {&corran32_cnt1, .clock_hz = 8000000, .rate = WAD_RATE_HZ(1000),
                                 .pwm = {{CORRAN32_ROUTE_CNT1_CH0_PA0, WAD_PERCENT(25)}}};

int main(void)
{
    if (wad_timer_open(&dimmer) != WAD_OK)
        return 1;
    wad_timer_start(&dimmer);
    for (;;)
        wad_port_sleep();
}
