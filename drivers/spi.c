/* SPDX-License-Identifier: MIT */
/* Built once for a chip: an SPI port's bus and the devices on it. */
#include "spi_private.h"

#ifdef WAD_SPI_TABLE

#define RESET_POLLS 1000u

/* ---- settings ---- */

/* The fastest clock that is not above `hz`; the field's value. */
static wad_status find_divider(uint32_t clock_hz, uint32_t hz, uint32_t *value, uint32_t *achieved)
{
    const uint32_t times = R.divider_times ? R.divider_times : 1u, most = wadi_ones(R.divider);
    uint32_t v, scale = 1;
    if (!hz || !clock_hz)
        return WAD_E_ARG;
    uint32_t wanted = (clock_hz - 1u) / hz + 1u; /* edges a bit, at least */
    uint32_t units = (wanted - 1u) / times + 1u; /* of `times` edges each */
    if (R.divider_power) {
        for (v = 0; scale < units && v <= most; v++)
            scale *= R.divider_power;
    } else {
        scale = units > R.divider_plus ? units : R.divider_plus;
        scale = scale ? scale : 1u;
        v = scale - R.divider_plus;
    }
    if (v > most)
        return WAD_E_RANGE;
    *value = v;
    *achieved = clock_hz / (scale * times);
    return WAD_OK;
}

/* The size field's value; false: the block has no such frames. */
static bool find_bits(unsigned bits, uint32_t *value)
{
    const unsigned step = R.bits_step ? R.bits_step : 1u;
    *value = 0;
    if (!wad_has(R.bits))
        return bits == 8u;
    if (bits < R.bits_plus || (bits - R.bits_plus) % step)
        return false;
    *value = (bits - R.bits_plus) / step;
    return *value <= wadi_ones(R.bits);
}

static bool has_all(const wad_spi_link *l)
{
    return (wad_has(R.lsb_first) || !l->lsb_first) && (wad_has(R.loop) || !l->loop) &&
           (wad_has(R.select_on) || !l->select) &&
           (wad_has(R.select_high) || !l->select || !l->select_high) &&
           (wad_has(R.phase) || !(l->mode & 1u)) && (wad_has(R.idle_high) || !(l->mode & 2u));
}

static void set_selects(uintptr_t base, const wad_spi_link *l)
{
    const wad_field with = R.select_on, times = R.setup;
    if (wad_has(with)) {
        uint32_t word = wadi_read(base, with.off, with.size);
        word = wadi_also(base, word, with, R.select, l->select_number);
        word = wadi_also(base, word, with, R.select_hold, 0);
        word = wadi_also(base, word, with, R.select_on, l->select != 0);
        if (l->select && wad_has(R.select_high))
            word = wadi_also(base, word, with, wad_at(R.select_high, l->select_number),
                             l->select_high);
        wadi_write(base, with.off, with.size, word);
    }
    if (wad_has(times)) {
        uint32_t word = wadi_read(base, times.off, times.size);
        word = wadi_also(base, word, times, R.setup, l->setup);
        word = wadi_also(base, word, times, R.hold, l->hold);
        word = wadi_also(base, word, times, R.gap, l->gap);
        wadi_write(base, times.off, times.size, word);
    }
}

void wadi_spi_set_up(wad_spi *bus, const wad_spi_device *device)
{
    const wad_spi_link *l = &device->link;
    const wad_field with = R.enable;
    uintptr_t base = bus->block->base;
    uint32_t bits;
    if (bus->set_for == device)
        return;
    bus->set_for = device;
    (void)find_bits(l->bits, &bits);
    uint32_t word = wadi_read(base, with.off, with.size);
    word = wadi_also(base, word, with, R.enable, 0);
    wadi_write(base, with.off, with.size, word); /* off first: the rest must not change while on */
    word = wadi_also(base, word, with, R.controller, !bus->is_device);
    word = wadi_also(base, word, with, R.divider, device->divider);
    word = wadi_also(base, word, with, R.phase, l->mode & 1u);
    word = wadi_also(base, word, with, R.idle_high, l->mode >> 1);
    word = wadi_also(base, word, with, R.lsb_first, l->lsb_first);
    word = wadi_also(base, word, with, R.bits, bits);
    word = wadi_also(base, word, with, R.loop, l->loop);
    wadi_write(base, with.off, with.size, word);
    if (!bus->is_device)
        set_selects(base, l);
    wadi_write(base, with.off, with.size, wadi_also(base, word, with, R.enable, 1));
}

void wadi_spi_select(const wad_spi_device *device, bool active)
{
    const wad_spi_link *l = &device->link;
    if (device->bus->is_device)
        return;
    if (l->by_pin)
        wad_pin_write(l->select_pin, active == l->select_high);
    else if (l->select && wad_has(R.select_hold))
        wad_put(device->bus->block->base, R.select_hold, active);
}

void wadi_spi_drop(wad_spi *bus)
{
    uintptr_t base = bus->block->base;
    while (spi_came(bus))
        (void)wadi_read(base, R.rx_data.off, R.rx_data.size);
    if (wad_has(R.overrun) && (R.overrun.how & WAD_HOW_KIND) != WAD_HOW_READ)
        wad_clear(base, R.overrun);
    if (wad_has(R.underrun))
        wad_clear(base, R.underrun);
}

/* ---- opening ---- */

wad_status wad_spi_open(wad_spi *bus, const wad_block *block, const wad_spi_config *c)
{
    const wad_route routes[] = {c->clock, c->mosi, c->miso, c->watch ? c->watch_select : 0};
    *bus = (wad_spi){.block = block, .time = c->time, .dma = c->dma, .is_device = c->device};
    if ((c->device && !wad_has(R.controller)) || (c->watch && !wad_has(R.watch)))
        return WAD_E_ABSENT;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    wad_put(block->base, R.enable, 0);
    if (wad_has(R.controller)) /* which way the pins go, before they are routed */
        wad_put(block->base, R.controller, !c->device);
    if (wad_has(R.watch))
        wad_put(block->base, R.watch, c->watch);
    wad_status st = WAD_OK;
    for (unsigned i = 0; i < 4u && st == WAD_OK; i++)
        if (routes[i])
            st = wad_pin_route(routes[i]);
    if (st == WAD_OK && c->dma)
        st = ((const struct wadi_spi_style *)c->dma->style)->open(bus);
    return st;
}

wad_status wad_spi_add(wad_spi_device *device, wad_spi *bus, const wad_spi_link *link, uint32_t *hz)
{
    uint32_t bits, divider = 0, achieved = 0;
    wad_spi_link l = *link;
    l.bits = l.bits ? l.bits : 8u;
    if (l.mode > 3u || (l.select && l.by_pin))
        return WAD_E_ARG;
    if (l.bits < 4u || l.bits > 32u)
        return WAD_E_RANGE;
    if (!find_bits(l.bits, &bits) || !has_all(&l))
        return WAD_E_ABSENT;
    wad_status st =
        bus->is_device ? WAD_OK : find_divider(bus->block->clock_hz(), l.hz, &divider, &achieved);
    if (st != WAD_OK)
        return st;
    *device = (wad_spi_device){.bus = bus, .link = l, .hz = achieved, .divider = divider};
    if (bus->set_for == device) /* added anew, in another form */
        bus->set_for = 0;
    if (l.by_pin && !bus->is_device) /* high or low first, then driven */
        st = wad_pin_output(l.select_pin, !l.select_high);
    else if (l.select && !bus->is_device && wad_has(R.select_high)) /* the level, then the pin */
        wad_put(bus->block->base, wad_at(R.select_high, l.select_number), l.select_high);
    if (l.select && st == WAD_OK)
        st = wad_pin_route(l.select);
    if (hz)
        *hz = achieved;
    return st;
}

/* ---- for somebody else who moves the frames ---- */

wad_status wad_spi_begin(wad_spi_device *device)
{
    wad_spi *bus = device->bus;
    if (bus->first)
        return WAD_E_STATE;
    wadi_spi_set_up(bus, device);
    wadi_spi_drop(bus);
    wadi_spi_select(device, true);
    return WAD_OK;
}

wad_status wad_spi_end(wad_spi_device *device, uint32_t polls)
{
    wad_spi *bus = device->bus;
    bool busy = spi_is_busy(bus);
    while (busy && polls--)
        busy = spi_is_busy(bus);
    return wadi_spi_finish(bus, device) && !busy ? WAD_OK : WAD_E_TIMEOUT;
}

uintptr_t wad_spi_tx_address(const wad_spi *bus)
{
    return bus->block->base + R.tx_data.off;
}

uintptr_t wad_spi_rx_address(const wad_spi *bus)
{
    return bus->block->base + R.rx_data.off;
}

unsigned wad_spi_access_bytes(const wad_spi *bus)
{
    (void)bus;
    return R.tx_data.size;
}

#endif
