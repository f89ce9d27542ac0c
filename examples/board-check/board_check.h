/* SPDX-License-Identifier: MIT */
/* The tide gauge's self-test: one function for each part of the chip. */
#ifndef BOARD_CHECK_H
#define BOARD_CHECK_H

#include <wadium/verify.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

extern const wad_timebase base; /* microseconds, opened before the first check */

/* Interrupt lines that several checks share hand over to whoever waits. */
extern void (*on_base)(void);

void check_clocks(wad_verify *v);
void check_timers(wad_verify *v);
void check_alarms(wad_verify *v);
void check_interrupts(wad_verify *v);
void check_pins(wad_verify *v);
void check_input(wad_verify *v);
void check_encoder(wad_verify *v);
void check_serial(wad_verify *v);
void check_exchange(wad_verify *v);
void check_converters(wad_verify *v);
void check_movers(wad_verify *v);

#endif
