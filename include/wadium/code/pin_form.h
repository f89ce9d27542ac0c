/* SPDX-License-Identifier: MIT */
/* The pin driver for one form of port: R is its role table, WADI_L(name) the form's name of a
 * function. Included by the chip's header for each form that it has, where drivers/pin.c asks for
 * it, which has found out that there is such a port. */

wad_status WADI_L(wadi_pin_output)(wad_pin pin, bool high)
{
    const wad_pin_unit *port = wadi_pin_port(pin);
    if (!wad_block_up(&port->block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    wadi_pin_write_body(port, &R, pin, high);
    wadi_pin_own(port, &R, pin, true);
    return WAD_OK;
}

wad_status WADI_L(wadi_pin_input)(wad_pin pin, wad_pull pull)
{
    const wad_pin_unit *port = wadi_pin_port(pin);
    if (pull != WAD_PULL_NONE && !wadi_has_code(R.pull, wadi_pull_code(&R, pull)))
        return WAD_E_ABSENT;
    if (!wad_block_up(&port->block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    wadi_pin_pull(port, &R, pin, pull);
    wadi_pin_own(port, &R, pin, false);
    return WAD_OK;
}

/* `analog`: the digital input goes off where it can. */
wad_status WADI_L(wadi_pin_function)(wad_route route, bool analog)
{
    const wad_pin pin = WAD_ROUTE_PIN(route);
    const wad_pin_unit *port = wadi_pin_port(pin);
    if (!wad_block_up(&port->block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    if (WAD_ROUTE_FN(route) && !wad_has(R.function))
        return WAD_E_ABSENT;
    if (WAD_ROUTE_FN(route)) /* 0: the block takes the pin by itself */
        wadi_pin_put(port, R.function, pin, WAD_ROUTE_FN(route));
    if (analog && wad_has(R.digital_off))
        wadi_pin_put(port, R.digital_off, pin, 1);
    return WAD_OK;
}

wad_status WADI_L(wadi_pin_on_edge)(wad_pin pin, wad_edge edge, unsigned priority)
{
    const uint8_t codes[] = {R.sense_rise, R.sense_fall, R.sense_both, R.sense_high, R.sense_low};
    const wad_pin_unit *port = wadi_pin_port(pin);
    if ((unsigned)edge > WAD_LEVEL_LOW)
        return WAD_E_ARG;
    if (!wadi_has_code(R.sense, codes[edge]) || !wad_has(R.irq) || !wad_has(R.flag) ||
        port->block.irq < 0)
        return WAD_E_ABSENT;
    if (!wad_block_up(&port->block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    wadi_pin_put(port, R.sense, pin, codes[edge]);
    wad_clear(port->block.base, wad_at(R.flag, wadi_pin_number(pin)));
    wadi_pin_put(port, R.irq, pin, 1);
    return wad_irq_enable(port->block.irq, priority);
}

void WADI_L(wadi_pin_edges_off)(wad_pin pin)
{
    if (wad_has(R.irq))
        wadi_pin_put(wadi_pin_port(pin), R.irq, pin, 0);
}

bool WADI_L(wadi_pin_take_edge)(wad_pin pin)
{
    return wadi_pin_take_edge_body(wadi_pin_port(pin), &R, pin);
}

void WADI_L(wadi_pin_write)(wad_pin pin, bool high)
{
    wadi_pin_write_body(wadi_pin_port(pin), &R, pin, high);
}

void WADI_L(wadi_pin_toggle)(wad_pin pin)
{
    wadi_pin_toggle_body(wadi_pin_port(pin), &R, pin);
}

bool WADI_L(wadi_pin_read)(wad_pin pin)
{
    return wadi_pin_read_body(wadi_pin_port(pin), &R, pin);
}
