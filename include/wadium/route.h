/* SPDX-License-Identifier: MIT */
/* Pins and routes, as a chip's header names them and handles take them. Calls: <wadium/pin.h>. */
#ifndef WADIUM_ROUTE_H
#define WADIUM_ROUTE_H

#include <stdint.h>

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

#endif
