/* SPDX-License-Identifier: MIT */
/*
 * The float's wheel: two tracks of 50 marks, a turn for each metre of tide, read by the encoder
 * block. The level lamps show the metres; the core's tick, 100 times a second, looks at the wheel.
 */
#include <wadium/encoder.h>
#include <wadium/irq.h>
#include <wadium/tick.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#define QUARTERS_A_METRE 200

static wad_encoder wheel;
static const wad_pin lamps[] = {SKERRY_LEVEL1, SKERRY_LEVEL2, SKERRY_LEVEL3, SKERRY_LEVEL4};

void handle_TICK(void);
void handle_TICK(void)
{
    wad_tick_handle();
}

static void look(void *context)
{
    (void)context;
    int32_t metres = wad_encoder_position(&wheel) / QUARTERS_A_METRE;
    for (int32_t i = 0; i < 4; i++)
        wad_pin_write(lamps[i], metres > i);
    wad_pin_write(SKERRY_WARN, wad_encoder_fault(&wheel));
}

int main(void)
{
    wad_status st = wad_pin_output(SKERRY_WARN, false);
    for (unsigned i = 0; i < 4 && st == WAD_OK; i++)
        st = wad_pin_output(lamps[i], false);
    if (st == WAD_OK)
        st = wad_encoder_open(&wheel, &corran32_enc, CORRAN32_ROUTE_ENC_A_PC6,
                              CORRAN32_ROUTE_ENC_B_PC7, 8);
    wad_tick_on(look, NULL);
    if (st == WAD_OK)
        st = wad_tick_start(WAD_HZ(100), 2, NULL);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
