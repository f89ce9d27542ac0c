/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/irq.h>
#include <wadium/pin.h>

#include WAD_CHIP

#ifdef WAD_GPIO_TABLE

#define R           WAD_GPIO_TABLE
#define RESET_POLLS 1000u

static const wad_block *port_of(wad_pin pin)
{
    return pin >> 8 < WAD_PIN_PORTS ? wad_pin_ports[pin >> 8] : NULL;
}

static unsigned number_of(wad_pin pin)
{
    return pin & 0xFFu;
}

static wad_status bring_up(const wad_block *port)
{
    if (!port)
        return WAD_E_ARG;
    return wad_block_up(port, RESET_POLLS) ? WAD_OK : WAD_E_TIMEOUT;
}

/* One pin's field, merged under the lock: a handler may use another pin of the port. */
static void set_field(const wad_block *port, wad_field f, unsigned n, uint32_t value)
{
    uint32_t state = wad_port_irq_save();
    if (f.how & WAD_HOW_LOCKED)
        WAD_GPIO_UNLOCK(port->base);
    wad_put(port->base, wad_at(f, n), value);
    if (f.how & WAD_HOW_LOCKED)
        WAD_GPIO_LOCK(port->base);
    wad_port_irq_restore(state);
}

static wad_status take_for_port(wad_pin pin, bool drive)
{
    const wad_block *port = port_of(pin);
    if (wad_has(R.function))
        set_field(port, R.function, number_of(pin), 0);
    set_field(port, R.dir, number_of(pin), drive);
    return WAD_OK;
}

wad_status wad_pin_output(wad_pin pin, bool high)
{
    wad_status st = bring_up(port_of(pin));
    if (st != WAD_OK)
        return st;
    wad_pin_write(pin, high);
    return take_for_port(pin, true);
}

wad_status wad_pin_input(wad_pin pin, wad_pull pull)
{
    const wad_block *port = port_of(pin);
    wad_status st = bring_up(port);
    if (st != WAD_OK)
        return st;
    if (pull != WAD_PULL_NONE && !wad_has(R.pull))
        return WAD_E_ABSENT;
    if (wad_has(R.pull))
        set_field(port, R.pull, number_of(pin),
                  pull == WAD_PULL_UP     ? R.pull_up
                  : pull == WAD_PULL_DOWN ? R.pull_down
                                          : R.pull_none);
    if (wad_has(R.digital_off))
        set_field(port, R.digital_off, number_of(pin), 0);
    return take_for_port(pin, false);
}

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

wad_status wad_pin_route(wad_route route)
{
#if WAD_ROUTE_GROUPS
    if (WAD_ROUTE_FIELD(route))
        return route_group(route);
#endif
    wad_pin pin = WAD_ROUTE_PIN(route);
    wad_status st = bring_up(port_of(pin));
    if (st != WAD_OK || !WAD_ROUTE_FN(route)) /* 0: the block takes the pin by itself */
        return st;
    if (!wad_has(R.function))
        return WAD_E_ABSENT;
    set_field(port_of(pin), R.function, number_of(pin), WAD_ROUTE_FN(route));
    return WAD_OK;
}

wad_status wad_pin_route_analog(wad_route route)
{
    wad_status st = wad_pin_route(route);
    if (st == WAD_OK && wad_has(R.digital_off))
        set_field(port_of(WAD_ROUTE_PIN(route)), R.digital_off, number_of(WAD_ROUTE_PIN(route)), 1);
    return st;
}

wad_status wad_pin_on_edge(wad_pin pin, wad_edge edge, unsigned priority)
{
    const uint8_t codes[] = {R.sense_rise, R.sense_fall, R.sense_both, R.sense_high, R.sense_low};
    const wad_block *port = port_of(pin);
    wad_status st = bring_up(port);
    if (st != WAD_OK)
        return st;
    if (!wad_has(R.sense) || !wad_has(R.irq))
        return WAD_E_ABSENT;
    set_field(port, R.sense, number_of(pin), codes[edge]);
    wad_clear(port->base, wad_at(R.flag, number_of(pin)));
    set_field(port, R.irq, number_of(pin), 1);
    return wad_irq_enable(port->irq, priority);
}

bool wad_pin_take_edge(wad_pin pin)
{
    const wad_block *port = port_of(pin);
    wad_field flag = wad_at(R.flag, number_of(pin));
    if (!wad_get(port->base, flag))
        return false;
    wad_clear(port->base, flag);
    return true;
}

void wad_pin_write(wad_pin pin, bool high)
{
    const wad_block *port = port_of(pin);
    wad_field f = high ? R.set : R.clear;
    if (wad_has(f))
        wadi_write(port->base, f.off, f.size, WADI_BIT(number_of(pin)));
    else
        set_field(port, R.out, number_of(pin), high);
}

void wad_pin_toggle(wad_pin pin)
{
    const wad_block *port = port_of(pin);
    if (wad_has(R.toggle)) {
        wadi_write(port->base, R.toggle.off, R.toggle.size, WADI_BIT(number_of(pin)));
        return;
    }
    uint32_t state = wad_port_irq_save();
    wad_field out = wad_at(R.out, number_of(pin));
    wad_put(port->base, out, !wad_get(port->base, out));
    wad_port_irq_restore(state);
}

bool wad_pin_read(wad_pin pin)
{
    return wad_get(port_of(pin)->base, wad_at(R.in, number_of(pin))) != 0;
}

#else /* the chip has none: what cannot be done is said at the call */

wad_status wad_pin_output(wad_pin pin, bool high)
{
    (void)pin;
    (void)high;
    return WAD_E_ABSENT;
}

wad_status wad_pin_input(wad_pin pin, wad_pull pull)
{
    (void)pin;
    (void)pull;
    return WAD_E_ABSENT;
}

wad_status wad_pin_route(wad_route route)
{
    (void)route;
    return WAD_E_ABSENT;
}

wad_status wad_pin_route_analog(wad_route route)
{
    (void)route;
    return WAD_E_ABSENT;
}

wad_status wad_pin_on_edge(wad_pin pin, wad_edge edge, unsigned priority)
{
    (void)pin;
    (void)edge;
    (void)priority;
    return WAD_E_ABSENT;
}

bool wad_pin_take_edge(wad_pin pin)
{
    (void)pin;
    return false;
}

#endif
