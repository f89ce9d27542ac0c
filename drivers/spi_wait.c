/* SPDX-License-Identifier: MIT */
/* Built once for a chip: frames out and in, and the caller who waits for them. */
#include <wadium/check.h>

#include "spi_private.h"

#ifdef WAD_SPI_TABLE

#define RELEASE_POLLS 100000u /* longer than the frames of a queue take at any divider */

/* ---- frames ---- */

static uint32_t frame_out(const wad_spi_job *job, size_t i)
{
    const unsigned bits = job->device->link.bits;
    if (i >= job->n_out)
        return 0xFFFFFFFFu;
    return bits <= 8u    ? ((const uint8_t *)job->out)[i]
           : bits <= 16u ? ((const uint16_t *)job->out)[i]
                         : ((const uint32_t *)job->out)[i];
}

static void frame_in(wad_spi_job *job, size_t i, uint32_t word)
{
    const unsigned bits = job->device->link.bits;
    if (i < job->skip)
        return;
    i -= job->skip;
    if (i >= job->n_in)
        job->tail = word;
    else if (bits <= 8u)
        ((uint8_t *)job->in)[i] = (uint8_t)word;
    else if (bits <= 16u)
        ((uint16_t *)job->in)[i] = (uint16_t)word;
    else
        ((uint32_t *)job->in)[i] = word;
}

size_t wadi_spi_length(const wad_spi_job *job)
{
    size_t in = job->n_in ? job->skip + job->n_in + job->has_tail : 0;
    return job->n_out > in ? job->n_out : in;
}

wad_status wadi_spi_examine(wad_spi_job *job)
{
    if (!job->device || !job->device->bus || (job->n_out && !job->out) || (job->n_in && !job->in) ||
        !wadi_spi_length(job))
        return WAD_E_ARG;
    return job->state == WAD_SPI_OVER ? WAD_OK : WAD_E_STATE;
}

void wadi_spi_fill(const wad_spi_job *job)
{
    const unsigned size = wad_spi_frame_bytes(job->device);
    const uint8_t *out = job->out;
    if (!job->n_in || job->in == job->out)
        return;
    bool beside = job->out && job->skip + job->n_in <= job->n_out;
    wad_fill_exchange(job->in, beside ? out + job->skip * size : 0, job->n_in,
                      job->device->link.bits);
}

bool wadi_spi_pump(wad_spi *bus, wad_spi_job *job)
{
    uintptr_t base = bus->block->base;
    const uint32_t mask =
        job->device->link.bits >= 32u ? 0xFFFFFFFFu : WADI_BIT(job->device->link.bits) - 1u;
    while (job->moved < bus->sent && spi_came(bus)) {
        frame_in(job, job->moved, wadi_read(base, R.rx_data.off, R.rx_data.size) & mask);
        job->moved = job->moved + 1u;
        bus->stats.frames++;
    }
    while (bus->sent < bus->total && bus->sent - job->moved < spi_depth() &&
           spi_is(bus, R.tx_ready)) {
        wad_put(base, R.tx_data, frame_out(job, bus->sent));
        bus->sent = bus->sent + 1u;
    }
    return job->moved == bus->total;
}

void wadi_spi_start(wad_spi *bus, wad_spi_job *job)
{
    job->state = WAD_SPI_RUNS;
    job->moved = 0;
    bus->sent = 0;
    bus->total = wadi_spi_length(job);
    wadi_spi_set_up(bus, job->device);
    wadi_spi_drop(bus);
    wadi_spi_select(job->device, true);
}

bool wadi_spi_finish(wad_spi *bus, const wad_spi_device *device)
{
    uint32_t polls = RELEASE_POLLS;
    bool by_pin = device->link.by_pin;
    if (bus->is_device) /* the controller's clock may never come: what waits is taken back */
        bus->set_for = 0;
    if (!by_pin)
        wadi_spi_select(device, false);
    while (!bus->is_device && spi_is_busy(bus) && polls)
        polls--;
    if (by_pin)
        wadi_spi_select(device, false);
    if (bus->is_device)
        wad_put(bus->block->base, R.enable, 0);
    wadi_spi_drop(bus);
    return polls != 0;
}

/* ---- waiting ---- */

wad_status wad_spi_run(wad_spi_job *job, uint32_t timeout_us)
{
    wad_status st = wadi_spi_examine(job);
    if (st != WAD_OK)
        return st;
    wad_spi *bus = job->device->bus;
    if (!bus->time || bus->first)
        return WAD_E_STATE;
    wad_deadline last = wad_deadline_us(bus->time, timeout_us);
    wadi_spi_fill(job);
    wadi_spi_start(bus, job);
    while (st == WAD_OK && !wadi_spi_pump(bus, job)) {
        if (spi_lost_bus(bus) || bus->set_for != job->device) /* or the handler saw it first */
            st = WAD_E_STATE;
        else if (wad_deadline_passed(bus->time, &last))
            st = WAD_E_TIMEOUT;
    }
    if ((st != WAD_OK || !bus->is_device) && !wadi_spi_finish(bus, job->device) && st == WAD_OK)
        st = WAD_E_TIMEOUT;
    bus->stats.timeouts += st == WAD_E_TIMEOUT;
    bus->stats.jobs++;
    job->state = WAD_SPI_OVER;
    job->status = st;
    return st;
}

wad_status wad_spi_exchange(wad_spi_device *device, const void *out, void *in, size_t n,
                            uint32_t timeout_us)
{
    wad_spi_job job = {.device = device, .out = out, .n_out = n, .in = in, .n_in = n};
    return wad_spi_run(&job, timeout_us);
}

wad_status wad_spi_write(wad_spi_device *device, const void *out, size_t n, uint32_t timeout_us)
{
    wad_spi_job job = {.device = device, .out = out, .n_out = n};
    return wad_spi_run(&job, timeout_us);
}

wad_status wad_spi_read(wad_spi_device *device, void *in, size_t n, uint32_t timeout_us)
{
    wad_spi_job job = {.device = device, .in = in, .n_in = n};
    return wad_spi_run(&job, timeout_us);
}

wad_status wad_spi_write_read(wad_spi_device *device, const void *out, size_t n_out, void *in,
                              size_t n_in, uint32_t timeout_us)
{
    wad_spi_job job = {
        .device = device, .out = out, .n_out = n_out, .in = in, .n_in = n_in, .skip = n_out};
    return wad_spi_run(&job, timeout_us);
}

wad_status wad_spi_write_read_crc(wad_spi_device *device, const void *out, size_t n_out, void *in,
                                  size_t n_in, uint32_t timeout_us)
{
    wad_spi_job job = {.device = device,
                       .out = out,
                       .n_out = n_out,
                       .in = in,
                       .n_in = n_in,
                       .skip = n_out,
                       .has_tail = true};
    if (device->link.bits != 8u)
        return WAD_E_ARG;
    wad_status st = wad_spi_run(&job, timeout_us);
    if (st != WAD_OK)
        return st;
    uint8_t crc = wad_crc8(wad_crc8(WAD_CRC8_START, out, n_out), in, n_in);
    return crc == (job.tail & 0xFFu) ? WAD_OK : WAD_E_DATA;
}

#endif
