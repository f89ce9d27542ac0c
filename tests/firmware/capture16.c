/* SPDX-License-Identifier: MIT */
/* Corran16 captures rising edges; each that was measured toggles the lamp. */
#include <wadium/clock.h>
#include <wadium/input.h>
#include <wadium/irq.h>

#include "corran16_roles.h"
#include "skerry16_pins.h"

static wad_timebase base;
static wad_input input;
static uint32_t seen;

void handle_TIME(void);
void handle_TIME(void)
{
    wad_input_handle(&input);
    if (input.edges != seen) {
        seen = input.edges;
        wad_pin_toggle(SKERRY16_WARN);
    }
}

int main(void)
{
    wad_status st = wad_pin_output(SKERRY16_WARN, false);
    if (st == WAD_OK)
        st = wad_timebase_open(&base, &corran16_time, 0, NULL);
    if (st == WAD_OK)
        st = wad_input_open(&input, &base, 0, CORRAN16_ROUTE_TIME_IN0_P00, WAD_INPUT_RISE, 0, 0);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
