/* SPDX-License-Identifier: MIT */
/* Pins, compiled for each form of port that the chip has. */
#define WADI_GPIO_BODIES
#include WAD_CHIP

#ifdef WADI_GPIO_FORMS

/* ---- a pin that only the run knows ---- */

/* `none`: what is returned of a pin that the chip has not. */
#define ANY(type, name, none, params, ...)                                                         \
    type name##_any params                                                                         \
    {                                                                                              \
        if (!wadi_pin_port(pin))                                                                   \
            return none;                                                                           \
        return WADI_OF_FORM(WADI_GPIO_MORE, wadi_pin_port(pin)->form, name, __VA_ARGS__);          \
    }

ANY(wad_status, wadi_pin_output, WAD_E_ARG, (wad_pin pin, bool high), pin, high)
ANY(wad_status, wadi_pin_input, WAD_E_ARG, (wad_pin pin, wad_pull pull), pin, pull)
ANY(wad_status, wadi_pin_on_edge, WAD_E_ARG, (wad_pin pin, wad_edge edge, unsigned priority), pin,
    edge, priority)
ANY(bool, wadi_pin_take_edge, false, (wad_pin pin), pin)
ANY(bool, wadi_pin_read, false, (wad_pin pin), pin)

void wadi_pin_edges_off_any(wad_pin pin)
{
    if (wadi_pin_port(pin))
        WADI_OF_FORM(WADI_GPIO_MORE, wadi_pin_port(pin)->form, wadi_pin_edges_off, pin);
}

void wadi_pin_write_any(wad_pin pin, bool high)
{
    if (wadi_pin_port(pin))
        WADI_OF_FORM(WADI_GPIO_MORE, wadi_pin_port(pin)->form, wadi_pin_write, pin, high);
}

void wadi_pin_toggle_any(wad_pin pin)
{
    if (wadi_pin_port(pin))
        WADI_OF_FORM(WADI_GPIO_MORE, wadi_pin_port(pin)->form, wadi_pin_toggle, pin);
}

#endif

/* ---- routes ---- */

#if WAD_ROUTE_GROUPS
/* All signals of the block move to one group of pins. */
static wad_status route_group(wad_route route)
{
    if (WAD_ROUTE_FIELD(route) > WAD_ROUTE_GROUPS)
        return WAD_E_ARG;
    wad_need need = wad_route_groups[WAD_ROUTE_FIELD(route) - 1];
    need.value = WAD_ROUTE_FN(route) * (need.mask & (~need.mask + 1u));
    return wad_need_meet(&need, 0) ? WAD_OK : WAD_E_TIMEOUT;
}
#endif

static wad_status give_to_function(wad_route route, bool analog)
{
#ifdef WADI_GPIO_FORMS
    const wad_pin_unit *port = wadi_pin_port(WAD_ROUTE_PIN(route));
    if (!route || !port)
        return WAD_E_ARG;
    return WADI_OF_FORM(WADI_GPIO_MORE, port->form, wadi_pin_function, route, analog);
#else
    (void)route;
    (void)analog;
    return WAD_E_ABSENT;
#endif
}

wad_status wadi_route_any(wad_route route)
{
#if WAD_ROUTE_GROUPS
    if (WAD_ROUTE_FIELD(route))
        return route_group(route);
#endif
    return give_to_function(route, false);
}

wad_status wadi_route_analog(wad_route route)
{
#if WAD_ROUTE_GROUPS
    if (WAD_ROUTE_FIELD(route)) { /* the signals move; the pin's port does its part where it can */
        wad_status st = route_group(route);
        return st != WAD_OK || !wadi_pin_port(WAD_ROUTE_PIN(route))
                   ? st
                   : give_to_function(WAD_ROUTE(WAD_ROUTE_PIN(route), 0), true);
    }
#endif
    return give_to_function(route, true);
}
