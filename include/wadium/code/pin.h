/* SPDX-License-Identifier: MIT */
/* The pins' bodies, written once over a port's role table: inline where the pin is known, compiled
 * for each form in <wadium/code/pin_form.h>. Included by <wadium/pin.h> alone. */
#ifndef WADI_PIN_CODE_H
#define WADI_PIN_CODE_H

/* Of a port that only the run knows. */
WADI_DECLARE(WADI_GPIO_FORMS, wad_status, wadi_pin_output, wad_pin, bool);
WADI_DECLARE(WADI_GPIO_FORMS, wad_status, wadi_pin_input, wad_pin, wad_pull);
WADI_DECLARE(WADI_GPIO_FORMS, wad_status, wadi_pin_on_edge, wad_pin, wad_edge, unsigned);
WADI_DECLARE(WADI_GPIO_FORMS, void, wadi_pin_edges_off, wad_pin);
WADI_DECLARE(WADI_GPIO_FORMS, bool, wadi_pin_take_edge, wad_pin);
WADI_DECLARE(WADI_GPIO_FORMS, void, wadi_pin_write, wad_pin, bool);
WADI_DECLARE(WADI_GPIO_FORMS, void, wadi_pin_toggle, wad_pin);
WADI_DECLARE(WADI_GPIO_FORMS, bool, wadi_pin_read, wad_pin);

WADI_INLINE unsigned wadi_pin_number(wad_pin pin)
{
    return pin & 0xFFu;
}

/* Its port is known, with all that a body needs. */
WADI_INLINE bool wadi_pin_is_known(wad_pin pin)
{
    const wad_pin_unit *port = wadi_pin_port(pin);
    return WADI_FOLDS(pin) && WADI_FOLDS(port != 0) && port && !port->block.in_order &&
           WADI_KNOWS(port, &wadi_gpio_roles(port->form)->in);
}

/* ---- levels ---- */

/* One pin's field, merged under the mask: a handler may use another pin of the port. */
WADI_INLINE void wadi_pin_put(const wad_pin_unit *port, wad_field f, wad_pin pin, uint32_t value)
{
    uint32_t state = wad_port_irq_save();
    wadi_pins_open(port, f);
    wad_put(port->block.base, wad_at(f, wadi_pin_number(pin)), value);
    wadi_pins_close(port, f);
    wad_port_irq_restore(state);
}

/* A register with a bit a pin, of which 0 leaves alone. */
WADI_INLINE void wadi_pin_poke(const wad_pin_unit *port, wad_field f, wad_pin pin)
{
    if (f.how & WAD_HOW_LOCKED)
        wadi_pin_put(port, f, 0, WADI_BIT(wadi_pin_number(pin)));
    else
        wadi_write(port->block.base, f.off, f.size, WADI_BIT(wadi_pin_number(pin)));
}

WADI_INLINE void wadi_pin_write_body(const wad_pin_unit *port, const wad_gpio_roles *r, wad_pin pin,
                                     bool high)
{
    const wad_field f = high ? r->set : r->clear;
    if (wad_has(f))
        wadi_pin_poke(port, f, pin);
    else
        wadi_pin_put(port, r->out, pin, high);
}

WADI_INLINE void wadi_pin_toggle_body(const wad_pin_unit *port, const wad_gpio_roles *r,
                                      wad_pin pin)
{
    if (wad_has(r->toggle)) {
        wadi_pin_poke(port, r->toggle, pin);
        return;
    }
    const wad_field out = wad_at(r->out, wadi_pin_number(pin));
    uint32_t state = wad_port_irq_save();
    wadi_pins_open(port, out);
    wad_put(port->block.base, out, !wad_get(port->block.base, out));
    wadi_pins_close(port, out);
    wad_port_irq_restore(state);
}

WADI_INLINE bool wadi_pin_read_body(const wad_pin_unit *port, const wad_gpio_roles *r, wad_pin pin)
{
    return wad_get(port->block.base, wad_at(r->in, wadi_pin_number(pin))) != 0;
}

WADI_INLINE bool wadi_pin_take_edge_body(const wad_pin_unit *port, const wad_gpio_roles *r,
                                         wad_pin pin)
{
    return wad_has(r->flag) && wad_take(port->block.base, wad_at(r->flag, wadi_pin_number(pin)));
}

/* ---- set up ---- */

/* The port has the pin, in one go under the mask. */
WADI_INLINE void wadi_pin_own(const wad_pin_unit *port, const wad_gpio_roles *r, wad_pin pin,
                              bool drive)
{
    wad_field all = r->dir; /* is any of them behind the lock? */
    all.how = (uint8_t)(all.how | ((r->function.how | r->digital_off.how) & WAD_HOW_LOCKED));
    uint32_t state = wad_port_irq_save();
    wadi_pins_open(port, all);
    if (wad_has(r->function))
        wad_put(port->block.base, wad_at(r->function, wadi_pin_number(pin)), 0);
    if (!drive && wad_has(r->digital_off))
        wad_put(port->block.base, wad_at(r->digital_off, wadi_pin_number(pin)), 0);
    wad_put(port->block.base, wad_at(r->dir, wadi_pin_number(pin)), drive);
    wadi_pins_close(port, all);
    wad_port_irq_restore(state);
}

WADI_INLINE uint32_t wadi_pull_code(const wad_gpio_roles *r, wad_pull pull)
{
    return pull == WAD_PULL_UP ? r->pull_up : pull == WAD_PULL_DOWN ? r->pull_down : r->pull_none;
}

WADI_INLINE void wadi_pin_pull(const wad_pin_unit *port, const wad_gpio_roles *r, wad_pin pin,
                               wad_pull pull)
{
    if (wad_has(r->pull))
        wadi_pin_put(port, r->pull, pin, wadi_pull_code(r, pull));
}

WADI_INLINE wad_status wadi_pin_output_body(const wad_pin_unit *port, const wad_gpio_roles *r,
                                            wad_pin pin, bool high)
{
    if (!wadi_up(&port->block, 0, 0))
        return WAD_E_TIMEOUT;
    wadi_pin_write_body(port, r, pin, high);
    wadi_pin_own(port, r, pin, true);
    return WAD_OK;
}

WADI_INLINE wad_status wadi_pin_input_body(const wad_pin_unit *port, const wad_gpio_roles *r,
                                           wad_pin pin, wad_pull pull)
{
    if (pull != WAD_PULL_NONE && !wadi_has_code(r->pull, wadi_pull_code(r, pull)))
        return WAD_E_ABSENT;
    if (!wadi_up(&port->block, 0, 0))
        return WAD_E_TIMEOUT;
    wadi_pin_pull(port, r, pin, pull);
    wadi_pin_own(port, r, pin, false);
    return WAD_OK;
}

#endif
