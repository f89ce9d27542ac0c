/* SPDX-License-Identifier: MIT */
/*
 * Built once for a chip: an SPI port whose frames a DMA controller takes and gives. Linked only
 * where a configuration names it.
 *
 * A job goes in parts, so that each side of a part is one stretch of memory, or one place for all
 * its frames. The receiving channel is armed first: nothing goes out before somebody takes what
 * comes in.
 */
#include <wadium/dma.h>

#include WAD_CHIP

#if defined(WADI_SPI_FORMS) && defined(WAD_DMA_TABLE)

/* Of several forms the table is looked up: moving is the controller's work. */
#define R (*wadi_spi_roles(bus->unit->form))

static void ask(const wad_spi *bus, bool on)
{
    uintptr_t base = bus->unit->block.base;
    if (on)
        wad_put(base, R.rx_dma, 1);
    wad_put(base, R.tx_dma, on);
    if (!on)
        wad_put(base, R.rx_dma, 0);
}

static wad_status open(const wad_spi *bus)
{
    wad_dma_port *d = bus->dma;
    if (!wad_has(R.tx_dma) || !wad_has(R.rx_dma))
        return WAD_E_ABSENT;
    wad_status st = wad_dma_port_release(d); /* of an opening before this one */
    if (st == WAD_OK)
        st = wad_dma_claim(d->mover, &d->rx, d->rx_request, d->owner);
    if (st == WAD_OK)
        st = wad_dma_claim(d->mover, &d->tx, d->tx_request, d->owner);
    return st;
}

static size_t nearer(size_t end, size_t at, size_t border)
{
    return border > at && border < end ? border : end;
}

/* Where the part ends that frame `at` is in. */
static size_t part_end(const wad_spi_job *job, size_t total, size_t at)
{
    size_t end = total;
    end = nearer(end, at, job->n_out);
    if (job->n_in) {
        end = nearer(end, at, job->skip);
        end = nearer(end, at, job->skip + job->n_in);
    }
    return nearer(end, at, at + 0x8000u);
}

static void begin_part(const wad_spi *bus, wad_spi_job *job);

static void part_over(void *context, wad_status status, size_t moved)
{
    const wad_spi *bus = context;
    wad_spi_job *job = bus->jobs->first;
    if (status == WAD_E_STATE || !job) /* stopped: said there */
        return;
    ask(bus, false);
    job->moved = bus->dma->at + moved;
    bus->jobs->sent = job->moved;
    if (bus->stats)
        bus->stats->frames += (uint32_t)moved;
    if (job->has_tail && job->moved == job->skip + job->n_in + 1u)
        job->tail = bus->dma->drain;
    if (status != WAD_OK)
        WADI_BY_FORM(WADI_SPI_FORMS, bus->unit->form, wadi_spi_failed, bus, status);
    else if (job->moved == bus->jobs->total)
        WADI_BY_FORM(WADI_SPI_FORMS, bus->unit->form, wadi_spi_frames_over, bus, job);
    else
        begin_part(bus, job);
}

static void begin_part(const wad_spi *bus, wad_spi_job *job)
{
    wad_dma_port *d = bus->dma;
    size_t at = job->moved, end = part_end(job, bus->jobs->total, at);
    unsigned bytes = wad_spi_frame_bytes(job->device);
    bool takes = job->n_in && at >= job->skip && at < job->skip + job->n_in;
    bool gives = at < job->n_out;
    wad_dma_transfer rx = {
        .source = (const volatile void *)wad_spi_rx_address(bus),
        .destination = takes ? (uint8_t *)job->in + (at - job->skip) * bytes : (void *)&d->drain,
        .n = end - at,
        .bytes = (uint8_t)bytes,
        .flags = (uint8_t)(WAD_DMA_SOURCE_STAYS | (takes ? 0 : WAD_DMA_DESTINATION_STAYS)),
        .done = part_over,
        .context = (void *)bus};
    wad_dma_transfer tx = {.source = gives ? (const uint8_t *)job->out + at * bytes
                                           : (const void *)&d->filler,
                           .destination = (volatile void *)wad_spi_tx_address(bus),
                           .n = end - at,
                           .bytes = (uint8_t)bytes,
                           .flags = (uint8_t)(WAD_DMA_DESTINATION_STAYS | WAD_DMA_QUIET |
                                              (gives ? 0 : WAD_DMA_SOURCE_STAYS))};
    d->at = at;
    d->filler = 0xFFFFFFFFu;
    d->drain = 0;
    if (wad_has(R.rx_at))
        wad_put(bus->unit->block.base, R.rx_at, 0);
    wad_status st = wad_dma_start(&d->rx, &rx);
    if (st == WAD_OK)
        st = wad_dma_start(&d->tx, &tx);
    if (st == WAD_OK)
        ask(bus, true);
    else
        WADI_BY_FORM(WADI_SPI_FORMS, bus->unit->form, wadi_spi_failed, bus, st);
}

#define LAST_FRAMES 100000u /* longer than the frames of a queue take at any divider */

/* Nothing more goes out; what comes back of it is taken. */
static wad_status stop(const wad_spi *bus)
{
    wad_put(bus->unit->block.base, R.tx_dma, 0);
    wad_status out = wad_dma_abort(&bus->dma->tx);
    for (uint32_t polls = LAST_FRAMES;
         polls && !bus->device && wad_has(R.busy) && wad_get(bus->unit->block.base, R.busy);
         polls--) {
    }
    ask(bus, false);
    wad_status in = wad_dma_abort(&bus->dma->rx);
    return out != WAD_OK ? out : in;
}

static void close(const wad_spi *bus)
{
    (void)stop(bus);
    (void)!wad_dma_port_release(bus->dma);
}

const struct wadi_spi_style wadi_spi_by_dma = {
    .open = open, .begin = begin_part, .stop = stop, .close = close};

#endif
