/* SPDX-License-Identifier: MIT */
/*
 * SPI ports: a bus, and the devices on it, each with its own mode, speed, frame size and
 * select.
 *
 *     static wad_spi bus;
 *     static wad_spi_device thermo;
 *
 *     const wad_spi_config config = {.clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
 *                                    .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
 *                                    .miso = CORRAN32_ROUTE_SPI0_MISO_PB14, .time = &base};
 *     const wad_spi_link link = {.hz = 4000000, .mode = 0,
 *                                .select = CORRAN32_ROUTE_SPI0_CS0_PB12, .select_number = 0};
 *     st = wad_spi_open(&bus, &corran32_spi0, &config);
 *     st = wad_spi_add(&thermo, &bus, &link, &hz);              hz: the clock there is
 *     st = wad_spi_write_read(&thermo, &command, 1, reply, 2, 1000);
 *
 * Lengths are frames, never bits or bytes. A frame of up to 8 bits is a uint8_t in memory, one of
 * up to 16 a uint16_t, a longer one a uint32_t. Each frame out brings one in, so every call
 * exchanges; receive memory is filled with what cannot be the answer first, so that old contents
 * never pass for data.
 *
 * The order inside is the silicon's: clock, reset, format while the block is off, pins, old flags
 * away, the block, the select, frames (no more under way than the receiver has room for), the last
 * edge awaited, the select's end.
 */
#ifndef WADIUM_SPI_H
#define WADIUM_SPI_H

#include <stddef.h>

#include "dma.h"
#include "pin.h"
#include "timebase.h"

typedef struct wad_spi wad_spi;
typedef struct wad_spi_device wad_spi_device;
typedef struct wad_spi_job wad_spi_job;

/** The bus: what all devices share. */
typedef struct wad_spi_config {
    wad_route clock, mosi, miso; /**< 0: that line is not used */
    bool device;                 /**< it is a device itself: another controller drives the clock */
    bool watch;                  /**< chip select 0 is an input that tells of another controller */
    wad_route watch_select;      /**< its pin */
    const wad_timebase *time;    /**< for timeouts; NULL: no call that waits */
    wad_dma_port *dma;           /**< jobs in the background are moved by DMA; NULL: by interrupt */
} wad_spi_config;

/** For a configuration: `static wad_dma_port d = WAD_SPI_BY_DMA(&mover, TX, RX);` with the requests
 * that the chip has for the port. A job takes two channels, and the core once for each part of it:
 * frames before `in`, into it, behind it; one part where as many come in as go out. */
#define WAD_SPI_BY_DMA(mover_, tx_, rx_)                                                           \
    {                                                                                              \
        .style = &wadi_spi_by_dma, .mover = (mover_), .tx_request = (tx_), .rx_request = (rx_),    \
        .owner = "SPI port"                                                                        \
    }

/** How one device wants to be spoken to. What is left out is 0: mode 0, eight bits, most
 * significant bit first, selected low, by nobody. */
typedef struct wad_spi_link {
    uint32_t hz;           /**< its fastest clock; the bus's is the nearest one not above it */
    uint8_t mode;          /**< 0 to 3: 2 * (the clock rests high) + (taken at the second edge) */
    uint8_t bits;          /**< of a frame, 4 to 32; 0: 8 */
    bool lsb_first;        /**< the least significant bit goes first */
    bool loop;             /**< what goes out comes in, inside of the block */
    wad_route select;      /**< a chip select of the block; 0: none */
    uint8_t select_number; /**< which one that is */
    bool by_pin;           /**< the select is a pin of the port instead ... */
    wad_pin select_pin;    /**< ... this one */
    bool select_high;      /**< active high */
    uint8_t setup; /**< half bits from the select to the first frame; block's selects only */
    uint8_t hold;  /**< half bits from the last edge to the select's end */
    uint8_t gap;   /**< half bits between frames, and after a select */
} wad_spi_link;

/** A device in use. The caller owns it; it must outlive the use. */
struct wad_spi_device {
    wad_spi *bus;      /**< read-only, as all of these */
    wad_spi_link link; /**< bits is never 0 */
    uint32_t hz;       /**< the clock it gets */
    uint32_t divider;  /* the field's value */
};

/** What has come since the opening. Each number only grows. */
typedef struct wad_spi_stats {
    uint32_t frames, jobs;
    uint32_t overruns; /**< frames that the block lost */
    uint32_t faults;   /**< times that another controller took the bus */
    uint32_t timeouts;
} wad_spi_stats;

/** A job is over: WAD_OK, or as it was ended. Called by the bus's handler; it may submit this or
 * another job. */
typedef void (*wad_spi_done)(wad_spi_job *job, wad_status status);

/**
 * One select's worth of frames: `n_out` go out, `n_in` come in from frame `skip` on; the other
 * frames send ones, and drop what they receive.
 *
 *     exchange      .out = a, .n_out = n, .in = b, .n_in = n
 *     write, read   only one of them
 *     write, then read in one select  .out = command, .n_out = 1, .in = reply, .n_in = 4, .skip = 1
 *
 * The caller owns it and both memories; they must stay until it is over. `out` and `in` may be the
 * same memory: then it is not filled before.
 */
struct wad_spi_job {
    wad_spi_device *device;
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

/** A bus in use. The caller owns it; it must outlive the use. */
struct wad_spi {
    const wad_block *block;                 /**< read-only */
    volatile wad_spi_stats stats;           /**< read-only */
    const wad_timebase *time;               /* private from here */
    const wad_spi_device *volatile set_for; /* 0: nobody, or the bus was lost */
    wad_spi_job *volatile first;
    wad_spi_job *last;
    volatile size_t sent, total;
    volatile uint8_t stage;
    wad_dma_port *dma;
    bool is_device, background, serving;
};

/* What moves frames instead of the handler. */
struct wadi_spi_style {
    wad_status (*open)(wad_spi *bus);
    void (*begin)(wad_spi *bus, wad_spi_job *job); /* its frames; the device is selected */
    wad_status (*stop)(wad_spi *bus);
};
extern const struct wadi_spi_style wadi_spi_by_dma;

/** Brings the block up, as controller or device, and routes its pins. WAD_E_ABSENT: the block has
 * no device role, cannot watch for another controller, or asks no DMA controller; WAD_E_STATE: a
 * channel is taken; WAD_E_TIMEOUT: it stays in reset; else as
 * wad_pin_route. Blocks for the reset only. */
WAD_MUST_CHECK wad_status wad_spi_open(wad_spi *bus, const wad_block *block,
                                       const wad_spi_config *config);

/**
 * Adds a device, whose select is set up inactive. In the device role: how the controller speaks.
 * @param hz  out, may be NULL: the clock it gets, the fastest not above `link->hz`
 * WAD_E_RANGE: the block has no clock as slow, or the frame size cannot be; nothing written.
 * WAD_E_ABSENT: it has no such frame size, bit order, loop or select; else as wad_pin_output. The
 * divider is that of the clock as it stands now: add devices after the clocks are set.
 */
WAD_MUST_CHECK wad_status wad_spi_add(wad_spi_device *device, wad_spi *bus,
                                      const wad_spi_link *link, uint32_t *hz);

/* ---- waiting for it ---- */

/* All wait `timeout_us` at the most. WAD_E_ARG: no frames; WAD_E_STATE: the bus was opened without
 * `time`, a job waits or runs, or another controller took the bus; WAD_E_TIMEOUT: the bus is idle
 * then, what was received until then is in memory. In the device role they wait for the controller.
 * Not from a handler. */

/** `n` frames out and as many in. */
WAD_MUST_CHECK wad_status wad_spi_exchange(wad_spi_device *device, const void *out, void *in,
                                           size_t n, uint32_t timeout_us);
/** What comes in is read, and dropped. */
WAD_MUST_CHECK wad_status wad_spi_write(wad_spi_device *device, const void *out, size_t n,
                                        uint32_t timeout_us);
/** Ones go out. */
WAD_MUST_CHECK wad_status wad_spi_read(wad_spi_device *device, void *in, size_t n,
                                       uint32_t timeout_us);
/** In one select. */
WAD_MUST_CHECK wad_status wad_spi_write_read(wad_spi_device *device, const void *out, size_t n_out,
                                             void *in, size_t n_in, uint32_t timeout_us);
/** The same; after `n_in` frames of 8 bits comes their CRC (WAD_CRC8_START, over the frames out and
 * in). WAD_E_DATA: it is another one, and `in` holds what came. */
WAD_MUST_CHECK wad_status wad_spi_write_read_crc(wad_spi_device *device, const void *out,
                                                 size_t n_out, void *in, size_t n_in,
                                                 uint32_t timeout_us);
/** Any job, waited for; `job->moved` tells how far it came. */
WAD_MUST_CHECK wad_status wad_spi_run(wad_spi_job *job, uint32_t timeout_us);

/* ---- in the background ---- */

/** From now on jobs are done by interrupt. WAD_E_ABSENT: the block has no interrupt line. */
WAD_MUST_CHECK wad_status wad_spi_background(wad_spi *bus, unsigned priority);

/** Appends a job to the bus's queue, which has room for as many as there are. WAD_E_ARG: no frames,
 * no device; WAD_E_STATE: no wad_spi_background yet, or this job waits already. Never blocks; a
 * `done` may call it. */
WAD_MUST_CHECK wad_status wad_spi_submit(wad_spi_job *job);

/** Ends the running job after the frames that are in the block, and all that wait: each `done` is
 * called with WAD_E_STATE. The bus is idle then, no device selected. Blocks for those frames.
 * WAD_E_TIMEOUT: the block, or a channel of its DMA controller, does not come to an end. */
wad_status wad_spi_abort(wad_spi *bus);

/** The bus's handler. */
void wad_spi_handle(wad_spi *bus);

/* ---- for somebody else who moves the frames: DMA ---- */

/** Sets the bus up for the device and selects it. WAD_E_STATE: a job waits or runs. */
WAD_MUST_CHECK wad_status wad_spi_begin(wad_spi_device *device);
/** Waits for the last edge, `polls` looks at the most, and ends the select. WAD_E_TIMEOUT: ended in
 * the middle. */
WAD_MUST_CHECK wad_status wad_spi_end(wad_spi_device *device, uint32_t polls);
/** Where frames are written and read, and how wide one access is, in bytes. */
uintptr_t wad_spi_tx_address(const wad_spi *bus);
uintptr_t wad_spi_rx_address(const wad_spi *bus);
unsigned wad_spi_access_bytes(const wad_spi *bus);

/** Bytes that a frame takes in memory: 1, 2 or 4. */
static inline unsigned wad_spi_frame_bytes(const wad_spi_device *device)
{
    return device->link.bits <= 8 ? 1u : device->link.bits <= 16 ? 2u : 4u;
}

#endif
