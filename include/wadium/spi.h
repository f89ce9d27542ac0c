/* SPDX-License-Identifier: MIT */
/*
 * SPI ports: a bus, and the devices on it, each with its own mode, speed, frame size and
 * select.
 *
 *     static const wad_spi bus = {&corran32_spi0, .clock_hz = 8000000,
 *                                 .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
 *                                 .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
 *                                 .miso = CORRAN32_ROUTE_SPI0_MISO_PB14};
 *     static const wad_spi_device thermo = {&bus, .hz = 4000000, .mode = 0,
 *                                           .select = CORRAN32_ROUTE_SPI0_CS0_PB12};
 *     st = wad_spi_open(&bus);
 *     st = wad_spi_add(&thermo);
 *     st = wad_spi_write_read(&thermo, &command, 1, reply, 2, 0);
 *
 * Bus and devices are constants: an exchange of frames of up to 8 bits becomes its register
 * accesses and one small loop. What changes while a bus is at work lies in `.jobs` and `.stats`.
 *
 * Lengths are frames, never bits or bytes. A frame of up to 8 bits is a uint8_t in memory, one of
 * up to 16 a uint16_t, a longer one a uint32_t. Each frame out brings one in, so every call
 * exchanges; memory of jobs is filled with what cannot be the answer first, so that old contents
 * never pass for data.
 *
 * The order inside is the silicon's: clock, reset, format while the block is off, pins, old flags
 * away, the block, the select, frames (no more under way than the receiver has room for), the last
 * edge awaited, the select's end. Each exchange sets the bus up for its device.
 */
#ifndef WADIUM_SPI_H
#define WADIUM_SPI_H

#include "dma.h"
#include "timebase.h"
#include "unit.h"

#ifndef WADI_SPI_FORMS
#error                                                                                             \
    "include the chip's own header, such as corran32_roles.h: it includes this one for a chip that has SPI ports"
#else

typedef struct wad_spi wad_spi;
typedef struct wad_spi_device wad_spi_device;
typedef struct wad_spi_job wad_spi_job;

/** A block of the chip that is an SPI port; generated. */
typedef struct wad_spi_unit {
    wad_block block;
    uint8_t form;
} wad_spi_unit;

/** What has come since the opening. Each number only grows. */
typedef struct wad_spi_stats {
    uint32_t frames, jobs;
    uint32_t overruns; /**< frames that the block lost */
    uint32_t faults;   /**< times that another controller took the bus */
    uint32_t timeouts;
} wad_spi_stats;

/** Jobs that wait, and the one under way; private. A bus without it is used by waiting only. */
typedef struct wad_spi_jobs {
    wad_spi_job *volatile first;
    wad_spi_job *last;
    volatile size_t sent, total;
    volatile uint8_t stage;
    volatile bool serving, lost;
} wad_spi_jobs;

/** The bus: what all devices share. What is left out is 0. */
struct wad_spi {
    const wad_spi_unit *unit;    /**< `&corran32_spi0` */
    uint32_t clock_hz;           /**< of the block's clock, as it is when it is used; 0: worked out
                                    from the registers, at run time */
    wad_route clock, mosi, miso; /**< 0: that line is not used */
    bool device;                 /**< it is a device itself: another controller drives the clock */
    bool watch;                  /**< chip select 0 is an input that tells of another controller */
    wad_route watch_select;      /**< its pin */
    const wad_timebase *time;    /**< for calls with a time limit; NULL: there are none */
    volatile wad_spi_stats *stats; /**< NULL: nothing is counted */
    wad_spi_jobs *jobs; /**< `&(wad_spi_jobs){0}`: jobs in the background; NULL: there are none */
    wad_dma_port *dma;  /**< they are moved by DMA; NULL: by interrupt */
    uint8_t priority;   /**< of its interrupt, with jobs */
};

/** For a bus: `static wad_dma_port d = WAD_SPI_BY_DMA(&mover, TX, RX);` with the requests
 * that the chip has for the port. A job takes two channels, and the core once for each part of it:
 * frames before `in`, into it, behind it; one part where as many come in as go out. */
#define WAD_SPI_BY_DMA(mover_, tx_, rx_)                                                           \
    {                                                                                              \
        .style = &wadi_spi_by_dma, .mover = (mover_), .tx_request = (tx_), .rx_request = (rx_),    \
        .owner = "SPI port"                                                                        \
    }

/** One device, and how it wants to be spoken to. What is left out is 0: mode 0, eight bits, most
 * significant bit first, selected low, by nobody. */
struct wad_spi_device {
    const wad_spi *bus;
    uint32_t hz;           /**< its fastest clock; it gets the fastest one not above it */
    uint8_t mode;          /**< 0 to 3: 2 * (the clock rests high) + (taken at the second edge) */
    uint8_t bits;          /**< of a frame, 4 to 32; 0: 8 */
    bool lsb_first;        /**< the least significant bit goes first */
    bool loop;             /**< what goes out comes in, inside of the block */
    wad_route select;      /**< a chip select of the block; 0: none */
    uint8_t select_number; /**< which one that is */
    bool by_pin;           /**< the select is a pin of a port instead ... */
    wad_pin select_pin;    /**< ... this one */
    bool select_high;      /**< active high */
    uint8_t setup; /**< half bits from the select to the first frame; block's selects only */
    uint8_t hold;  /**< half bits from the last edge to the select's end */
    uint8_t gap;   /**< half bits between frames, and after a select */
};

/** A job is over: WAD_OK, or as it was ended. Called by the bus's handler; it may submit this or
 * another job. */
typedef void (*wad_spi_done)(wad_spi_job *job, wad_status status);

/**
 * One select's worth of frames: `n_out` go out, `n_in` come in from frame `skip` on; the other
 * frames send ones, and drop what they receive.
 *
 *     both ways     .out = a, .n_out = n, .in = b, .n_in = n
 *     write, read   only one of them
 *     write, then read in one select  .out = command, .n_out = 1, .in = reply, .n_in = 4, .skip = 1
 *
 * The caller owns it and both memories; they must stay until it is over. `out` and `in` may be the
 * same memory: then it is not filled before.
 */
struct wad_spi_job {
    const wad_spi_device *device;
    const void *out;
    void *in;
    size_t n_out, n_in, skip;
    wad_spi_done done; /**< NULL: nobody is told, `state` is looked at */
    void *context;
    volatile size_t moved;  /**< read-only: frames exchanged so far */
    volatile uint8_t state; /**< read-only: WAD_SPI_WAITS, _RUNS, 0 when over */
    wad_status status;      /**< read-only: how it ended */
    wad_spi_job *next;      /* private from here */
    uint32_t tail;          /* the frame behind the last one that `in` takes */
    bool has_tail;
};

enum { WAD_SPI_OVER, WAD_SPI_WAITS, WAD_SPI_RUNS };

/* What moves frames instead of the handler. */
struct wadi_spi_style {
    wad_status (*open)(const wad_spi *bus);
    void (*begin)(const wad_spi *bus, wad_spi_job *job); /* its frames; the device is selected */
    wad_status (*stop)(const wad_spi *bus);
    void (*close)(const wad_spi *bus);
};
extern const struct wadi_spi_style wadi_spi_by_dma;

#include "code/spi.h" /* inline bodies, which nobody needs to read */

/**
 * Brings the block up, as controller or device, and routes its pins; with jobs its interrupt is
 * enabled, whose handler calls wad_spi_handle. Opening anew is right at any time: jobs of before
 * are forgotten, none of their `done` is called. WAD_E_ARG: DMA without jobs; WAD_E_ABSENT: the
 * block has no device role or interrupt, cannot watch for another controller, or asks no DMA
 * controller; WAD_E_STATE: a channel is taken; WAD_E_TIMEOUT: it stays in reset; else as
 * wad_pin_route. Blocks for the reset only. Not from a handler.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_open(const wad_spi *bus)
{
    if (WADI_MAY_FOLD && wadi_spi_is_known(bus) && !bus->watch && !bus->jobs && !bus->dma)
        return wadi_spi_open_known(bus);
    return WADI_BY_FORM(WADI_SPI_FORMS, bus->unit->form, wadi_spi_open, bus);
}

/** Ends it: what is under way or waits is forgotten, no `done` is called; the block is off and asks
 * for nothing. Pins keep their functions, the block its clock. Never blocks, but for DMA that lets
 * go. Not from its handler. */
WADI_INLINE void wad_spi_close(const wad_spi *bus)
{
    WADI_BY_FORM(WADI_SPI_FORMS, bus->unit->form, wadi_spi_close, bus);
}

/**
 * Sets a device's select up, inactive. In the device role: how the controller speaks. A constant
 * device that the block cannot serve ends the build. Else WAD_E_RANGE: the block has no clock as
 * slow, or the frame size cannot be; WAD_E_ARG: no such mode, or two selects; WAD_E_ABSENT: it has
 * no such frame size, bit order, loop or select; else as wad_pin_output.
 */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_add(const wad_spi_device *device)
{
    wad_status st;
    if (WADI_MAY_FOLD && wadi_spi_device_is_known(device))
        st = wadi_spi_add_known(device);
    else
        st = WADI_BY_FORM(WADI_SPI_FORMS, device->bus->unit->form, wadi_spi_add, device);
    if (st == WAD_OK)
        wadi_tell_clock(&device->bus->unit->block, device->bus->clock_hz);
    return st;
}

/** The clock that a device gets, in hertz: a constant where its `.hz` and the bus's `.clock_hz`
 * are; 0: the block has none as slow. */
#define WAD_SPI_HZ(device) wadi_spi_hz(&(device))

/* ---- waiting for it ---- */

/* All wait `timeout_us` at the most; 0, for buses without `time`: until the block lets a frame wait
 * for 65 536 looks at its flags. WAD_E_ARG: no frames, no memory, no device; WAD_E_STATE: a limit,
 * and the bus has no `time` (where the compiler knows, it ends the build), a job waits or runs, or
 * another controller took the bus; WAD_E_RANGE, WAD_E_ABSENT: as wad_spi_add; WAD_E_TIMEOUT: the
 * bus is idle then, what was received until then is in memory. In the device role they wait for the
 * controller. Not from a handler. */

/** `n` frames out and as many in. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_transfer(const wad_spi_device *device,
                                                       const void *out, void *in, size_t n,
                                                       uint32_t timeout_us)
{
    if (WADI_MAY_FOLD && wadi_spi_is_lean(device) && WADI_FOLDS(timeout_us) && !timeout_us)
        return out && in ? wadi_spi_move_known(device, out, in, n, 0, 0) : WAD_E_ARG;
    wad_spi_job job = {.device = device, .out = out, .n_out = n, .in = in, .n_in = n};
    return wadi_spi_run(&job, timeout_us);
}

/** What comes in is read, and dropped. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_write(const wad_spi_device *device, const void *out,
                                                    size_t n, uint32_t timeout_us)
{
    if (WADI_MAY_FOLD && wadi_spi_is_lean(device) && WADI_FOLDS(timeout_us) && !timeout_us)
        return out ? wadi_spi_move_known(device, out, 0, n, 0, 0) : WAD_E_ARG;
    wad_spi_job job = {.device = device, .out = out, .n_out = n};
    return wadi_spi_run(&job, timeout_us);
}

/** Ones go out. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_read(const wad_spi_device *device, void *in, size_t n,
                                                   uint32_t timeout_us)
{
    if (WADI_MAY_FOLD && wadi_spi_is_lean(device) && WADI_FOLDS(timeout_us) && !timeout_us)
        return in ? wadi_spi_move_known(device, 0, in, n, 0, 0) : WAD_E_ARG;
    wad_spi_job job = {.device = device, .in = in, .n_in = n};
    return wadi_spi_run(&job, timeout_us);
}

/** In one select. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_write_read(const wad_spi_device *device,
                                                         const void *out, size_t n_out, void *in,
                                                         size_t n_in, uint32_t timeout_us)
{
    if (WADI_MAY_FOLD && wadi_spi_is_lean(device) && WADI_FOLDS(timeout_us) && !timeout_us)
        return (n_out && !out) || (n_in && !in)
                   ? WAD_E_ARG
                   : wadi_spi_move_known(device, out, 0, n_out, in, n_in);
    wad_spi_job job = {
        .device = device, .out = out, .n_out = n_out, .in = in, .n_in = n_in, .skip = n_out};
    return wadi_spi_run(&job, timeout_us);
}

/** The same; after `n_in` frames of 8 bits comes their CRC (WAD_CRC8_START, over the frames out and
 * in). WAD_E_DATA: it is another one, and `in` holds what came; WAD_E_ARG: no frames of 8 bits. */
WAD_MUST_CHECK wad_status wad_spi_write_read_crc(const wad_spi_device *device, const void *out,
                                                 size_t n_out, void *in, size_t n_in,
                                                 uint32_t timeout_us);

/** Any job, waited for; `job->moved` tells how far it came. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_run(wad_spi_job *job, uint32_t timeout_us)
{
    return wadi_spi_run(job, timeout_us);
}

/* ---- in the background ---- */

/** Appends a job to the bus's queue, which has room for as many as there are. WAD_E_ARG: no frames,
 * no device; WAD_E_STATE: the bus has no jobs, or this one waits already; WAD_E_RANGE,
 * WAD_E_ABSENT: as wad_spi_add. Never blocks; a `done` may call it. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_submit(wad_spi_job *job)
{
    if (!job->device || !job->device->bus)
        return WAD_E_ARG;
    return WADI_BY_FORM(WADI_SPI_FORMS, job->device->bus->unit->form, wadi_spi_submit, job);
}

/** Ends the running job after the frames that are in the block, and all that wait: each `done` is
 * called with WAD_E_STATE. The bus is idle then, no device selected. Blocks for those frames.
 * WAD_E_TIMEOUT: the block, or a channel of its DMA controller, does not come to an end. */
WADI_INLINE wad_status wad_spi_abort(const wad_spi *bus)
{
    return WADI_BY_FORM(WADI_SPI_FORMS, bus->unit->form, wadi_spi_abort, bus);
}

/** The bus's handler. */
WADI_INLINE void wad_spi_handle(const wad_spi *bus)
{
    WADI_BY_FORM(WADI_SPI_FORMS, bus->unit->form, wadi_spi_handle, bus);
}

/* ---- for somebody else who moves the frames ---- */

/** Sets the bus up for the device and selects it. WAD_E_STATE: a job waits or runs; else as
 * wad_spi_add. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_begin(const wad_spi_device *device)
{
    return WADI_BY_FORM(WADI_SPI_FORMS, device->bus->unit->form, wadi_spi_begin, device);
}

/** Waits for the last edge, `polls` looks at the most, and ends the select. WAD_E_TIMEOUT: ended in
 * the middle. */
WADI_INLINE WAD_MUST_CHECK wad_status wad_spi_end(const wad_spi_device *device, uint32_t polls)
{
    return WADI_BY_FORM(WADI_SPI_FORMS, device->bus->unit->form, wadi_spi_end, device, polls);
}

/** Where frames are written and read, and how wide one access is, in bytes. Never block. */
WADI_INLINE uintptr_t wad_spi_tx_address(const wad_spi *bus)
{
    return bus->unit->block.base + wadi_spi_roles(bus->unit->form)->tx_data.off;
}

WADI_INLINE uintptr_t wad_spi_rx_address(const wad_spi *bus)
{
    return bus->unit->block.base + wadi_spi_roles(bus->unit->form)->rx_data.off;
}

WADI_INLINE unsigned wad_spi_access_bytes(const wad_spi *bus)
{
    return wadi_spi_roles(bus->unit->form)->tx_data.size;
}

/** Bytes that a frame takes in memory: 1, 2 or 4. */
WADI_INLINE unsigned wad_spi_frame_bytes(const wad_spi_device *device)
{
    const unsigned bits = wadi_spi_bits(device);
    return bits <= 8u ? 1u : bits <= 16u ? 2u : 4u;
}

#endif
#endif
