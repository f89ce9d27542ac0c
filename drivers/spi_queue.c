/* SPDX-License-Identifier: MIT */
/* Built once for a chip: a bus in the background, job after job by interrupt. */
#include "spi_private.h"

#ifdef WAD_SPI_TABLE

/* ---- interrupts ---- */

/* Asked for at half of what is under way: the next frames are given before the last one ends. */
static void listen(const wad_spi *bus, const wad_spi_job *job)
{
    uintptr_t base = bus->block->base;
    if (wad_has(R.rx_at)) {
        uint32_t under_way = (uint32_t)(bus->sent - job->moved), half = (spi_depth() + 1u) / 2u;
        uint32_t n = under_way < half || bus->sent == bus->total ? under_way : half;
        wad_put(base, R.rx_at, n ? n - 1u : 0u);
    }
    wad_put(base, R.rx_ready_irq, 1);
}

static void begin_next(wad_spi *bus)
{
    wad_spi_job *job = bus->first;
    bus->stage = job ? STAGE_FRAMES : STAGE_IDLE;
    if (!job)
        return;
    wadi_spi_start(bus, job);
    if (bus->dma) {
        spi_style(bus)->begin(bus, job);
        return;
    }
    if (wadi_spi_pump(bus, job)) /* it was all that there is, and has come already */
        wadi_spi_frames_over(bus, job);
    else
        listen(bus, job);
}

/* The first job is over. Its `done` may submit, which starts nothing as long as it runs. */
static void end_first(wad_spi *bus, wad_status status)
{
    wad_spi_job *job = bus->first;
    bus->first = job->next;
    job->next = 0;
    job->status = status;
    job->state = WAD_SPI_OVER;
    bus->stats.jobs++;
    bus->serving = true;
    if (job->done)
        job->done(job, status);
    bus->serving = false;
}

static wad_status quiet(wad_spi *bus)
{
    wad_status st = bus->dma ? spi_style(bus)->stop(bus) : WAD_OK;
    wad_put(bus->block->base, R.rx_ready_irq, 0);
    if (wad_has(R.done_irq))
        wad_put(bus->block->base, R.done_irq, 0);
    return st;
}

/* What went wrong first is told. */
WADI_INLINE wad_status first_of(wad_status a, wad_status b)
{
    return a != WAD_OK ? a : b;
}

static wad_status finish(wad_spi *bus, const wad_spi_device *device)
{
    return wadi_spi_finish(bus, device) ? WAD_OK : WAD_E_TIMEOUT;
}

static void count_overrun(wad_spi *bus)
{
    const wad_field over = R.overrun;
    if (wad_has(over) && (over.how & WAD_HOW_KIND) != WAD_HOW_READ &&
        wad_take(bus->block->base, over))
        bus->stats.overruns++;
}

/* All frames have come. A select of the block takes its time to end, and says when. */
void wadi_spi_frames_over(wad_spi *bus, wad_spi_job *job)
{
    uintptr_t base = bus->block->base;
    bool waits = job->device->link.select && !bus->is_device && wad_has(R.select_hold) &&
                 wad_has(R.done_irq);
    wad_put(base, R.rx_ready_irq, 0);
    if (waits) {
        bus->stage = STAGE_RELEASE;
        wad_clear(base, R.done); /* that of the last frame */
        wad_put(base, R.done_irq, 1);
        wadi_spi_select(job->device, false);
        return;
    }
    end_first(bus, bus->is_device ? WAD_OK : finish(bus, job->device));
    begin_next(bus);
}

void wadi_spi_failed(wad_spi *bus, wad_status status)
{
    status = first_of(status, quiet(bus));
    end_first(bus, first_of(status, finish(bus, bus->first->device)));
    begin_next(bus);
}

void wad_spi_handle(wad_spi *bus)
{
    uintptr_t base = bus->block->base;
    wad_spi_job *job = bus->first;
    count_overrun(bus);
    if (spi_lost_bus(bus)) {
        wad_status st = quiet(bus);
        if (job)
            end_first(bus, first_of(st, WAD_E_STATE));
        begin_next(bus);
    } else if (bus->stage == STAGE_FRAMES && !bus->dma) {
        if (wadi_spi_pump(bus, job))
            wadi_spi_frames_over(bus, job);
        else
            listen(bus, job);
    } else if (bus->stage == STAGE_RELEASE && wad_has(R.done_irq) && wad_take(base, R.done)) {
        wad_put(base, R.done_irq, 0);
        end_first(bus, WAD_OK);
        begin_next(bus);
    }
}

/* ---- the application's side ---- */

wad_status wad_spi_background(wad_spi *bus, unsigned priority)
{
    if (bus->block->irq < 0 || !wad_has(R.rx_ready_irq))
        return WAD_E_ABSENT;
    bus->background = true;
    if (wad_has(R.fault_irq))
        wad_put(bus->block->base, R.fault_irq, 1);
    return wad_irq_enable(bus->block->irq, priority);
}

wad_status wad_spi_submit(wad_spi_job *job)
{
    wad_status st = wadi_spi_examine(job);
    if (st != WAD_OK)
        return st;
    wad_spi *bus = job->device->bus;
    if (!bus->background)
        return WAD_E_STATE;
    wadi_spi_fill(job);                   /* long memory takes a while: interrupts stay open */
    uint32_t state = wad_port_irq_save(); /* the handler takes jobs off */
    job->state = WAD_SPI_WAITS;
    job->next = 0;
    if (bus->first)
        bus->last->next = job;
    else
        bus->first = job;
    bus->last = job;
    if (bus->stage == STAGE_IDLE && !bus->serving)
        begin_next(bus);
    wad_port_irq_restore(state);
    return WAD_OK;
}

wad_status wad_spi_abort(wad_spi *bus)
{
    wad_status st = WAD_OK;
    uint32_t state = wad_port_irq_save();
    wad_spi_job *list = bus->first;
    if (bus->stage != STAGE_IDLE) {
        st = quiet(bus);
        bus->total = bus->sent;
        st = first_of(st, finish(bus, list->device));
    }
    bus->stage = STAGE_IDLE;
    bus->first = 0;
    while (list) { /* off the queue first: a `done` may submit */
        wad_spi_job *job = list;
        list = job->next;
        job->next = 0;
        job->status = WAD_E_STATE;
        job->state = WAD_SPI_OVER;
        if (job->done)
            job->done(job, WAD_E_STATE);
    }
    wad_port_irq_restore(state);
    return st;
}

#endif
