/* SPDX-License-Identifier: MIT */
/*
 * Pins: levels, pulls, functions, edge interrupts.
 *
 *     wad_pin_output(SKERRY_WARN, false);           low, then driven
 *     wad_pin_toggle(SKERRY_WARN);
 *     wad_pin_input(SKERRY_TEST, WAD_PULL_UP);
 *     if (!wad_pin_read(SKERRY_TEST)) ...           pressed
 *
 * Of a constant pin each call becomes its register accesses. The call that sets
 * a pin up brings its port's clock and reset up. Calls on pins of one port are
 * safe against handlers that use other pins of it.
 */
#if !defined(WADIUM_PIN_TYPES_H)
#define WADIUM_PIN_TYPES_H

#include "route.h"
#include "status.h"

typedef enum wad_pull { WAD_PULL_NONE, WAD_PULL_UP, WAD_PULL_DOWN } wad_pull;

typedef enum wad_edge {
    WAD_EDGE_RISE,
    WAD_EDGE_FALL,
    WAD_EDGE_BOTH,
    WAD_LEVEL_HIGH,
    WAD_LEVEL_LOW
} wad_edge;

#endif

/* The calls, once the chip's header has said what ports there are: it includes this again. */
#if defined(WADI_CHIP_SAYS) && !defined(WADIUM_PIN_H)
#define WADIUM_PIN_H

#include "unit.h"

#ifdef WADI_GPIO_FORMS

#define WADI_THE_PORT(pin) wadi_pin_port(pin), wadi_gpio_roles(wadi_pin_port(pin)->form)

#include "code/pin.h" /* inline bodies, which nobody needs to read */

/** Sets the level first, then drives the pin: no glitch. Blocks for the port's reset only.
 * WAD_E_ARG: no such pin; WAD_E_TIMEOUT: the port did not come out of reset. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_pin_output(wad_pin pin, bool high)
{
    if (WADI_MAY_FOLD && wadi_pin_is_known(pin))
        return wadi_pin_output_body(WADI_THE_PORT(pin), pin, high);
    return wadi_pin_output_any(pin, high);
}

/** Makes the pin an input with the given pull; what it drove ends. Errors as wad_pin_output;
 * WAD_E_ABSENT: no pulls. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_pin_input(wad_pin pin, wad_pull pull)
{
    if (WADI_MAY_FOLD && wadi_pin_is_known(pin) && WADI_FOLDS(pull))
        return wadi_pin_input_body(WADI_THE_PORT(pin), pin, pull);
    return wadi_pin_input_any(pin, pull);
}

/** Gives the pin to a block's function; on chips that route a block's signals together, moves all
 * of them to the group of pins that this one belongs to; where a block takes its pins by itself
 * there is only the port to bring up. Errors as wad_pin_output; WAD_E_ABSENT: the port has no
 * functions. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_pin_route(wad_route route)
{
    return wadi_route(route);
}

/** The same for an analog signal: where the port can, the pin's digital input goes off, which
 * between the levels would draw current and disturb. wad_pin_input switches it on again. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_pin_route_analog(wad_route route)
{
    return wadi_route_analog(route);
}

/** Chooses what raises the pin's interrupt, clears its flag and enables it at the port and at the
 * controller. Errors as wad_pin_output and wad_irq_enable; WAD_E_ABSENT: the port has no
 * interrupts. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_pin_on_edge(wad_pin pin, wad_edge edge, unsigned priority)
{
    return wadi_pin_on_edge_any(pin, edge, priority);
}

/** The pin raises no interrupt any more; the controller's line stays as it is, for the port's other
 * pins. Never blocks. */
WADI_INLINE void wad_pin_edges_off(wad_pin pin)
{
    wadi_pin_edges_off_any(pin);
}

/** Tests and clears the pin's flag: for the port's handler. Never blocks. */
WADI_INLINE bool wad_pin_take_edge(wad_pin pin)
{
    if (WADI_MAY_FOLD && wadi_pin_is_known(pin))
        return wadi_pin_take_edge_body(WADI_THE_PORT(pin), pin);
    return wadi_pin_take_edge_any(pin);
}

/** Levels of a pin that was set up. Never block; a handler may call them. */
WADI_INLINE void wad_pin_write(wad_pin pin, bool high)
{
    if (WADI_MAY_FOLD && wadi_pin_is_known(pin))
        wadi_pin_write_body(WADI_THE_PORT(pin), pin, high);
    else
        wadi_pin_write_any(pin, high);
}

WADI_INLINE void wad_pin_toggle(wad_pin pin)
{
    if (WADI_MAY_FOLD && wadi_pin_is_known(pin))
        wadi_pin_toggle_body(WADI_THE_PORT(pin), pin);
    else
        wadi_pin_toggle_any(pin);
}

WADI_INLINE bool wad_pin_read(wad_pin pin)
{
    if (WADI_MAY_FOLD && wadi_pin_is_known(pin))
        return wadi_pin_read_body(WADI_THE_PORT(pin), pin);
    return wadi_pin_read_any(pin);
}

#else /* no driver serves a port of this chip: its use ends the build */

#define WADI_NO_PINS                                                                               \
    "this chip has no port of pins that a driver serves (wadium show CHIP pins, wadium lint)"
WADI_REFUSED(wad_status, wad_pin_output, WADI_NO_PINS, wad_pin, bool);
WADI_REFUSED(wad_status, wad_pin_input, WADI_NO_PINS, wad_pin, wad_pull);
WADI_REFUSED(wad_status, wad_pin_on_edge, WADI_NO_PINS, wad_pin, wad_edge, unsigned);
WADI_REFUSED(void, wad_pin_edges_off, WADI_NO_PINS, wad_pin);
WADI_REFUSED(bool, wad_pin_take_edge, WADI_NO_PINS, wad_pin);
WADI_REFUSED(void, wad_pin_write, WADI_NO_PINS, wad_pin, bool);
WADI_REFUSED(void, wad_pin_toggle, WADI_NO_PINS, wad_pin);
WADI_REFUSED(bool, wad_pin_read, WADI_NO_PINS, wad_pin);

/** Where blocks' signals move together by a field of their own there are routes all the same. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_pin_route(wad_route route)
{
    return wadi_route(route);
}

WADI_INLINE WAD_MUST_CHECK wad_status wad_pin_route_analog(wad_route route)
{
    return wadi_route_analog(route);
}

#endif
#endif
