/* SPDX-License-Identifier: MIT */
/* What the SPI driver's files share. Included once a file, behind WAD_CHIP's choice of chip.
 */
#ifndef WADI_SPI_PRIVATE_H
#define WADI_SPI_PRIVATE_H

#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/spi.h>

#include WAD_CHIP

#ifdef WAD_SPI_TABLE

#define R WAD_SPI_TABLE

enum { STAGE_IDLE, STAGE_FRAMES, STAGE_RELEASE };

/* ---- spi.c ---- */
/** Format, divider and select as the device wants them; nothing when they stand so already. */
void wadi_spi_set_up(wad_spi *bus, const wad_spi_device *device);
/** The select begins; or ends, which the block may take a while for. */
void wadi_spi_select(const wad_spi_device *device, bool active);
/** Frames that came for nobody, and flags of old. */
void wadi_spi_drop(wad_spi *bus);

/* ---- spi_wait.c ---- */
/** May the job be taken? Counts its frames. */
WAD_MUST_CHECK wad_status wadi_spi_examine(wad_spi_job *job);
/** Fills the job's memory, so that old contents do not look like an answer. */
void wadi_spi_fill(const wad_spi_job *job);
/** Sets the bus up and selects. */
void wadi_spi_start(wad_spi *bus, wad_spi_job *job);
/** Takes what has come and gives what there is room for; true: all have come. */
WAD_MUST_CHECK bool wadi_spi_pump(wad_spi *bus, wad_spi_job *job);
/** The last frames are awaited, the select ends: the bus is idle. False: the clock stands still. */
WAD_MUST_CHECK bool wadi_spi_finish(wad_spi *bus, const wad_spi_device *device);

/** How many the job exchanges. */
size_t wadi_spi_length(const wad_spi_job *job);

/* ---- spi_queue.c ---- */
/** The running job's frames have all come. */
void wadi_spi_frames_over(wad_spi *bus, wad_spi_job *job);
/** The running job has failed: the select ends, the next one begins. */
void wadi_spi_failed(wad_spi *bus, wad_status status);

static inline const struct wadi_spi_style *spi_style(const wad_spi *bus)
{
    return bus->dma ? bus->dma->style : NULL;
}

static inline uint32_t spi_depth(void)
{
    return R.rx_data_depth ? R.rx_data_depth : 1u;
}

/* An overrun that reading the flag's register clears is counted on the way. */
WADI_INLINE bool spi_is(wad_spi *bus, wad_field flag)
{
    const wad_field over = R.overrun;
    uint32_t word = wadi_read(bus->block->base, flag.off, flag.size);
    if (wad_has(over) && (over.how & WAD_HOW_KIND) == WAD_HOW_READ && over.off == flag.off &&
        word >> over.lsb & 1u)
        bus->stats.overruns++;
    return word >> flag.lsb & 1u;
}

/* Has a frame come, below the threshold as well? */
WADI_INLINE bool spi_came(wad_spi *bus)
{
    return wad_has(R.rx_level) ? wad_get(bus->block->base, R.rx_level) != 0
                               : spi_is(bus, R.rx_ready);
}

WADI_INLINE bool spi_is_busy(wad_spi *bus)
{
    return wad_has(R.busy) && spi_is(bus, R.busy);
}

/* Has another controller taken the bus? Counted, and the flag cleared. */
WADI_INLINE bool spi_lost_bus(wad_spi *bus)
{
    if (!wad_has(R.fault) || !wad_take(bus->block->base, R.fault))
        return false;
    bus->stats.faults++;
    bus->set_for = 0; /* it is a device now: all is set anew */
    return true;
}

#endif
#endif
