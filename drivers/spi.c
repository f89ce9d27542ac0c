/* SPDX-License-Identifier: MIT */
/* SPI ports, compiled for each form that the chip has; and what jobs are, whatever the form. */
#define WADI_SPI_BODIES
#include WAD_CHIP

#ifdef WADI_SPI_FORMS

#include <wadium/check.h>

/* ---- a unit that only the run knows ---- */

#define ANY(type, name, unit_, params, ...)                                                        \
    type name##_any params                                                                         \
    {                                                                                              \
        return WADI_OF_FORM(WADI_SPI_MORE, unit_->form, name, __VA_ARGS__);                        \
    }

ANY(wad_status, wadi_spi_open, bus->unit, (const wad_spi *bus), bus)
ANY(wad_status, wadi_spi_abort, bus->unit, (const wad_spi *bus), bus)
ANY(wad_status, wadi_spi_add, d->bus->unit, (const wad_spi_device *d), d)
ANY(wad_status, wadi_spi_begin, d->bus->unit, (const wad_spi_device *d), d)
ANY(wad_status, wadi_spi_end, d->bus->unit, (const wad_spi_device *d, uint32_t polls), d, polls)
ANY(wad_status, wadi_spi_run, job->device->bus->unit, (wad_spi_job * job, uint32_t us), job, us)
ANY(wad_status, wadi_spi_submit, job->device->bus->unit, (wad_spi_job * job), job)

void wadi_spi_close_any(const wad_spi *bus)
{
    WADI_OF_FORM(WADI_SPI_MORE, bus->unit->form, wadi_spi_close, bus);
}

void wadi_spi_handle_any(const wad_spi *bus)
{
    WADI_OF_FORM(WADI_SPI_MORE, bus->unit->form, wadi_spi_handle, bus);
}

void wadi_spi_frames_over_any(const wad_spi *bus, wad_spi_job *job)
{
    WADI_OF_FORM(WADI_SPI_MORE, bus->unit->form, wadi_spi_frames_over, bus, job);
}

void wadi_spi_failed_any(const wad_spi *bus, wad_status status)
{
    WADI_OF_FORM(WADI_SPI_MORE, bus->unit->form, wadi_spi_failed, bus, status);
}

/* ---- jobs ---- */

uint32_t wadi_spi_frame_out(const wad_spi_job *job, size_t i)
{
    const unsigned bytes = wad_spi_frame_bytes(job->device);
    if (i >= job->n_out)
        return 0xFFFFFFFFu;
    return bytes == 1u   ? ((const uint8_t *)job->out)[i]
           : bytes == 2u ? ((const uint16_t *)job->out)[i]
                         : ((const uint32_t *)job->out)[i];
}

void wadi_spi_frame_in(wad_spi_job *job, size_t i, uint32_t word)
{
    const unsigned bytes = wad_spi_frame_bytes(job->device);
    if (i < job->skip)
        return;
    i -= job->skip;
    if (i >= job->n_in)
        job->tail = word;
    else if (bytes == 1u)
        ((uint8_t *)job->in)[i] = (uint8_t)word;
    else if (bytes == 2u)
        ((uint16_t *)job->in)[i] = (uint16_t)word;
    else
        ((uint32_t *)job->in)[i] = word;
}

size_t wadi_spi_length(const wad_spi_job *job)
{
    size_t in = job->n_in ? job->skip + job->n_in + job->has_tail : 0;
    return job->n_out > in ? job->n_out : in;
}

/* Old contents must not look like an answer. */
void wadi_spi_fill(const wad_spi_job *job)
{
    const unsigned size = wad_spi_frame_bytes(job->device);
    const uint8_t *out = job->out;
    if (!job->n_in || job->in == job->out)
        return;
    bool beside = job->out && job->skip + job->n_in <= job->n_out;
    wad_fill_exchange(job->in, beside ? out + job->skip * size : 0, job->n_in,
                      wadi_spi_bits(job->device));
}

wad_status wad_spi_write_read_crc(const wad_spi_device *device, const void *out, size_t n_out,
                                  void *in, size_t n_in, uint32_t timeout_us)
{
    wad_spi_job job = {.device = device,
                       .out = out,
                       .n_out = n_out,
                       .in = in,
                       .n_in = n_in,
                       .skip = n_out,
                       .has_tail = true};
    if (wadi_spi_bits(device) != 8u)
        return WAD_E_ARG;
    wad_status st = wadi_spi_run(&job, timeout_us);
    if (st != WAD_OK)
        return st;
    uint8_t crc = wad_crc8(wad_crc8(WAD_CRC8_START, out, n_out), in, n_in);
    return crc == (job.tail & 0xFFu) ? WAD_OK : WAD_E_DATA;
}

#endif
