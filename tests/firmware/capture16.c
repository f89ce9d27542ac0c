/* SPDX-License-Identifier: MIT */
/* Corran16 captures rising edges; each that was measured toggles the lamp. */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include "corran16_roles.h"
#include "skerry16_pins.h"

static const wad_timebase base = {.unit = &corran16_time};
static const wad_input input = {
    &base,       .channel = 0,  .route = CORRAN16_ROUTE_TIME_IN0_P00, .edge = WAD_INPUT_RISE,
    .filter = 0, .priority = 0, .seen = &(wad_input_seen){0}};
static uint32_t seen;

void handle_TIME(void);
void handle_TIME(void)
{
    wad_input_handle(&input);
    if (input.seen->edges != seen) {
        seen = input.seen->edges;
        wad_pin_toggle(SKERRY16_WARN);
    }
}

int main(void)
{
    wad_status st = wad_pin_output(SKERRY16_WARN, false);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_input_open(&input);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
