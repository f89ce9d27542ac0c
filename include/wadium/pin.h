/* SPDX-License-Identifier: MIT */
/*
 * Pins: levels, pulls, functions, edge interrupts.
 *
 *     wad_pin_output(SKERRY_WARN, false);           low, then driven
 *     wad_pin_toggle(SKERRY_WARN);
 *     wad_pin_input(SKERRY_TEST, WAD_PULL_UP);
 *     if (!wad_pin_read(SKERRY_TEST)) ...           pressed
 *
 * The first call on a pin brings its port's clock and reset up. Calls on pins
 * of one port are safe against handlers that use other pins of it.
 */
#ifndef WADIUM_PIN_H
#define WADIUM_PIN_H

#include "roles.h"
#include "status.h"

/** A pin: port number * 256 + number within the port; generated as CHIP_PA0, ... */
typedef uint16_t wad_pin;

/** A pin and the function that brings a signal out on it; generated as CHIP_ROUTE_... A number, so
 * that static tables of routes are constant. */
typedef uint32_t wad_route;

/* 0 is no pin, so that what a configuration leaves out is none; the first pin without a function is
 * one all the same. */
#define WAD_ROUTE_IS         ((wad_route)1 << 31)
#define WAD_ROUTE(pin, fn)   (WAD_ROUTE_IS | (wad_route)(pin) << 8 | (wad_route)(fn))
#define WAD_ROUTE_PIN(route) ((wad_pin)((route) >> 8 & 0xFFFFu))
#define WAD_ROUTE_FN(route)  ((route)&0xFFu)
/* Where a block's signals move together by a field: the number of that field, 1 to 127. */
#define WAD_ROUTE_GROUP(field, pin, group) ((wad_route)(field) << 24 | WAD_ROUTE(pin, group))
#define WAD_ROUTE_FIELD(route)             ((route) >> 24 & 0x7Fu)

typedef enum wad_pull { WAD_PULL_NONE, WAD_PULL_UP, WAD_PULL_DOWN } wad_pull;

typedef enum wad_edge {
    WAD_EDGE_RISE,
    WAD_EDGE_FALL,
    WAD_EDGE_BOTH,
    WAD_LEVEL_HIGH,
    WAD_LEVEL_LOW
} wad_edge;

/** Sets the level first, then drives the pin: no glitch. Blocks for the port's reset only.
 * WAD_E_ARG: no such pin; WAD_E_TIMEOUT: the port did not come out of reset. */
WAD_MUST_CHECK wad_status wad_pin_output(wad_pin pin, bool high);

/** Makes the pin an input with the given pull. Errors as wad_pin_output; WAD_E_ABSENT: no pulls. */
WAD_MUST_CHECK wad_status wad_pin_input(wad_pin pin, wad_pull pull);

/** Gives the pin to a block's function; on chips that route a block's signals together, moves all
 * of them to the group of pins that this one belongs to; where a block takes its pins by itself
 * there is only the port to bring up. Errors as wad_pin_output. */
WAD_MUST_CHECK wad_status wad_pin_route(wad_route route);

/** The same for an analog signal: where the port can, the pin's digital input goes off, which
 * between the levels would draw current and disturb. wad_pin_input switches it on again. */
WAD_MUST_CHECK wad_status wad_pin_route_analog(wad_route route);

/** Chooses what raises the pin's interrupt, clears its flag and enables it at the port and at the
 * controller. Errors as wad_pin_output; WAD_E_ABSENT: the port has no interrupts. */
WAD_MUST_CHECK wad_status wad_pin_on_edge(wad_pin pin, wad_edge edge, unsigned priority);

/** Tests and clears the pin's flag: for the port's handler. Never blocks. */
bool wad_pin_take_edge(wad_pin pin);

/** Levels. Never block; a handler may call them. */
void wad_pin_write(wad_pin pin, bool high);
void wad_pin_toggle(wad_pin pin);
bool wad_pin_read(wad_pin pin);

#endif
