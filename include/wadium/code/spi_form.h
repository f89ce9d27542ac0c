/* SPDX-License-Identifier: MIT */
/* The SPI driver for one form: R is its role table, WADI_L(name) the form's name of a function.
 * Included by the chip's header for each form that it has, where drivers/spi.c asks for it. */

/* ---- flags ---- */

/* An overrun that reading the flag's register clears is counted on the way. */
static bool WADI_L(wadi_spi_is)(const wad_spi *bus, wad_field flag)
{
    const wad_field over = R.overrun;
    uint32_t word = wadi_read(bus->unit->block.base, flag.off, flag.size);
    if (wad_has(over) && (over.how & WAD_HOW_KIND) == WAD_HOW_READ && over.off == flag.off &&
        word >> over.lsb & 1u && bus->stats)
        bus->stats->overruns++;
    return word >> flag.lsb & 1u;
}

/* Has a frame come, below the threshold as well? */
static bool WADI_L(wadi_spi_came)(const wad_spi *bus)
{
    return wad_has(R.rx_level) ? wad_get(bus->unit->block.base, R.rx_level) != 0
                               : WADI_L(wadi_spi_is)(bus, R.rx_ready);
}

static bool WADI_L(wadi_spi_is_busy)(const wad_spi *bus)
{
    return wad_has(R.busy) && WADI_L(wadi_spi_is)(bus, R.busy);
}

/* Has another controller taken the bus? Counted, and the flag cleared. */
static bool WADI_L(wadi_spi_lost)(const wad_spi *bus)
{
    if (!wad_has(R.fault) || !wad_take(bus->unit->block.base, R.fault))
        return false;
    if (bus->stats)
        bus->stats->faults++;
    if (bus->jobs)
        bus->jobs->lost = true;
    return true;
}

/* Frames that came for nobody, and flags of old. */
static void WADI_L(wadi_spi_drop)(const wad_spi *bus)
{
    uintptr_t base = bus->unit->block.base;
    uint32_t looks = WADI_SPI_LOOKS;
    while (WADI_L(wadi_spi_came)(bus) && looks--)
        (void)wadi_read(base, R.rx_data.off, R.rx_data.size);
    if (wad_has(R.overrun) && (R.overrun.how & WAD_HOW_KIND) != WAD_HOW_READ)
        wad_clear(base, R.overrun);
    if (wad_has(R.underrun))
        wad_clear(base, R.underrun);
}

/* ---- opening ---- */

/* A job's interrupts. */
static void WADI_L(wadi_spi_quiet)(const wad_spi *bus)
{
    wad_put(bus->unit->block.base, R.rx_ready_irq, 0);
    if (wad_has(R.done_irq))
        wad_put(bus->unit->block.base, R.done_irq, 0);
}

/* Nothing of an opening before this one goes on: nobody is selected, jobs are forgotten. */
static void WADI_L(wadi_spi_rest)(const wad_spi *bus)
{
    uintptr_t base = bus->unit->block.base;
    wad_spi_jobs *q = bus->jobs;
    uint32_t state = wad_port_irq_save();
    wadi_spi_off(bus, &R);
    if (wad_has(R.tx_dma))
        wad_put(base, R.tx_dma, 0);
    if (wad_has(R.rx_dma))
        wad_put(base, R.rx_dma, 0);
    if (wad_has(R.select_hold))
        wad_put(base, R.select_hold, 0);
    if (q && q->stage != WADI_SPI_IDLE && q->first && q->first->device->by_pin)
        wadi_spi_select(q->first->device, &R, 0, false);
    for (wad_spi_job *job = q ? q->first : NULL; job; job = job->next)
        job->state = WAD_SPI_OVER;
    if (q)
        *q = (wad_spi_jobs){0};
    wad_port_irq_restore(state);
}

wad_status WADI_L(wadi_spi_open)(const wad_spi *bus)
{
    const wad_route routes[] = {bus->clock, bus->mosi, bus->miso,
                                bus->watch ? bus->watch_select : 0};
    const wad_block *block = &bus->unit->block;
    if (bus->dma && !bus->jobs)
        return WAD_E_ARG;
    if ((bus->device && !wad_has(R.controller)) || (bus->watch && !wad_has(R.watch)) ||
        (bus->jobs && (block->irq < 0 || !wad_has(R.rx_ready_irq))))
        return WAD_E_ABSENT;
    if (!wad_block_up(block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    WADI_L(wadi_spi_rest)(bus);
    if (wad_has(R.controller)) /* which way the pins go, before they are routed */
        wad_put(block->base, R.controller, !bus->device);
    if (wad_has(R.watch))
        wad_put(block->base, R.watch, bus->watch);
    wad_status st = WAD_OK;
    for (unsigned i = 0; i < 4u && st == WAD_OK; i++)
        if (routes[i])
            st = wadi_route_any(routes[i]);
    if (st == WAD_OK && bus->dma)
        st = ((const struct wadi_spi_style *)bus->dma->style)->open(bus);
    if (st != WAD_OK || !bus->jobs)
        return st;
    if (wad_has(R.fault_irq))
        wad_put(block->base, R.fault_irq, 1);
    return wad_irq_enable(block->irq, bus->priority);
}

void WADI_L(wadi_spi_close)(const wad_spi *bus)
{
    uint32_t state = wad_port_irq_save();
    if (bus->dma)
        ((const struct wadi_spi_style *)bus->dma->style)->close(bus);
    WADI_L(wadi_spi_rest)(bus);
    if (bus->jobs)
        wad_irq_disable(bus->unit->block.irq);
    wad_port_irq_restore(state);
}

/* Once, not inlined at each call. */
static wad_status WADI_L(wadi_spi_look)(const wad_spi_device *d, uint32_t *code)
{
    return wadi_spi_examine(d, &R, code);
}

wad_status WADI_L(wadi_spi_add)(const wad_spi_device *d)
{
    uint32_t code;
    wad_status st = WADI_L(wadi_spi_look)(d, &code);
    return st == WAD_OK ? wadi_spi_set_select(d, &R) : st;
}

/* ---- frames ---- */

static uint32_t WADI_L(wadi_spi_depth)(void)
{
    return R.rx_data_depth ? R.rx_data_depth : 1u;
}

/* Bytes by waiting for each. Where there is room for two, the next one goes out before one has
 * come: no time is lost between them. Without a queue the shift register itself must be free. */
WADI_INLINE wad_status WADI_L(wadi_spi_bytes)(uintptr_t base, const uint8_t *out, uint8_t *in,
                                              size_t n, bool both)
{
    const wad_field level = wad_has(R.rx_level) ? R.rx_level : R.rx_ready;
    const size_t ahead = R.tx_data_depth >= 2u && R.rx_data_depth >= 2u ? 1u : 0u;
    uint32_t old = WADI_SPI_LOOKS;
    size_t i = 0;
    while (wad_get(base, level) && --old) /* of an exchange that was broken off */
        (void)wadi_read(base, R.rx_data.off, R.rx_data.size);
    if (ahead)
        wad_put(base, R.tx_data, both || out ? out[0] : 0xFFu);
    do {
        const size_t next = i + ahead;
        uint32_t looks = WADI_SPI_LOOKS;
        if (next < n) {
            while (!R.tx_data_depth && !wad_get(base, R.tx_ready))
                if (!--looks)
                    return WAD_E_TIMEOUT;
            wad_put(base, R.tx_data, both || out ? out[next] : 0xFFu);
        }
        while (!wad_get(base, level))
            if (!--looks)
                return WAD_E_TIMEOUT;
        const uint8_t word = (uint8_t)wadi_read(base, R.rx_data.off, R.rx_data.size);
        if (both || in)
            in[i] = word;
    } while (++i < n);
    return WAD_OK;
}

wad_status WADI_L(wadi_spi_move)(uintptr_t base, const uint8_t *out, uint8_t *in, size_t n)
{
    return n ? WADI_L(wadi_spi_bytes)(base, out, in, n, false) : WAD_OK;
}

wad_status WADI_L(wadi_spi_swap)(uintptr_t base, const uint8_t *out, uint8_t *in, size_t n)
{
    return WADI_L(wadi_spi_bytes)(base, out, in, n, true);
}

/* Takes what has come and gives what there is room for; true: all have come. */
static bool WADI_L(wadi_spi_pump)(const wad_spi *bus, wad_spi_job *job, wadi_spi_count *at)
{
    uintptr_t base = bus->unit->block.base;
    const unsigned bits = wadi_spi_bits(job->device);
    const uint32_t mask = bits >= 32u ? 0xFFFFFFFFu : WADI_BIT(bits) - 1u;
    while (job->moved < at->sent && WADI_L(wadi_spi_came)(bus)) {
        wadi_spi_frame_in(job, job->moved, wadi_read(base, R.rx_data.off, R.rx_data.size) & mask);
        job->moved = job->moved + 1u;
        if (bus->stats)
            bus->stats->frames++;
    }
    while (at->sent < at->total && at->sent - job->moved < WADI_L(wadi_spi_depth)() &&
           WADI_L(wadi_spi_is)(bus, R.tx_ready)) {
        wad_put(base, R.tx_data, wadi_spi_frame_out(job, at->sent));
        at->sent++;
    }
    return job->moved == at->total;
}

/* The select register, without the hold. */
static uint32_t WADI_L(wadi_spi_selected)(const wad_spi_device *d)
{
    const wad_field f = R.select_hold;
    return wad_has(f) ? wadi_read(d->bus->unit->block.base, f.off, f.size) & ~WADI_BIT(f.lsb) : 0u;
}

/* The bus as the device wants it. In the device role only where it is off: frames may be coming. */
static void WADI_L(wadi_spi_prepare)(const wad_spi_device *d, uint32_t code)
{
    const wad_spi *bus = d->bus;
    if (!bus->device || !wad_get(bus->unit->block.base, R.enable))
        (void)wadi_spi_set(d, &R, code);
    WADI_L(wadi_spi_drop)(bus);
    wadi_spi_select(d, &R, WADI_L(wadi_spi_selected)(d), true);
}

/* The last frames are awaited, the select ends: the bus is idle. False: the clock stands still. */
static bool WADI_L(wadi_spi_finish)(const wad_spi_device *d)
{
    const wad_spi *bus = d->bus;
    bool ends = bus->device || wadi_spi_release(d, &R, WADI_L(wadi_spi_selected)(d));
    if (bus->device) /* the controller's clock may never come: what waits is taken back */
        wad_put(bus->unit->block.base, R.enable, 0);
    WADI_L(wadi_spi_drop)(bus);
    return ends;
}

static wad_status WADI_L(wadi_spi_may_run)(wad_spi_job *job, uint32_t *code)
{
    if ((job->n_out && !job->out) || (job->n_in && !job->in) || !wadi_spi_length(job))
        return WAD_E_ARG;
    return job->state == WAD_SPI_OVER ? WADI_L(wadi_spi_look)(job->device, code) : WAD_E_STATE;
}

/* ---- waiting ---- */

wad_status WADI_L(wadi_spi_run)(wad_spi_job *job, uint32_t timeout_us)
{
    uint32_t code, looks = WADI_SPI_LOOKS;
    wad_status st = WADI_L(wadi_spi_may_run)(job, &code);
    if (st != WAD_OK)
        return st;
    const wad_spi *bus = job->device->bus;
    wadi_spi_count at = {0, wadi_spi_length(job)};
    wad_deadline last = {0};
    if ((timeout_us && !bus->time) || (bus->jobs && bus->jobs->first))
        return WAD_E_STATE;
    if (timeout_us)
        last = wad_deadline_us(bus->time, timeout_us);
    wadi_spi_fill(job);
    job->moved = 0;
    job->state = WAD_SPI_RUNS;
    if (bus->jobs)
        bus->jobs->lost = false;
    WADI_L(wadi_spi_prepare)(job->device, code);
    for (size_t before = 0; st == WAD_OK && !WADI_L(wadi_spi_pump)(bus, job, &at);) {
        looks = job->moved == before ? looks - 1u : WADI_SPI_LOOKS;
        before = job->moved;
        if (WADI_L(wadi_spi_lost)(bus) || (bus->jobs && bus->jobs->lost)) /* the handler saw it */
            st = WAD_E_STATE;
        else if (timeout_us ? wad_deadline_passed(bus->time, &last) : !looks)
            st = WAD_E_TIMEOUT;
    }
    if ((st != WAD_OK || !bus->device) && !WADI_L(wadi_spi_finish)(job->device) && st == WAD_OK)
        st = WAD_E_TIMEOUT;
    if (bus->stats) {
        bus->stats->timeouts += st == WAD_E_TIMEOUT;
        bus->stats->jobs++;
    }
    job->state = WAD_SPI_OVER;
    job->status = st;
    return st;
}

wad_status WADI_L(wadi_spi_begin)(const wad_spi_device *d)
{
    uint32_t code;
    wad_status st = WADI_L(wadi_spi_look)(d, &code);
    if (st != WAD_OK)
        return st;
    if (d->bus->jobs && d->bus->jobs->first)
        return WAD_E_STATE;
    WADI_L(wadi_spi_prepare)(d, code);
    return WAD_OK;
}

wad_status WADI_L(wadi_spi_end)(const wad_spi_device *d, uint32_t polls)
{
    bool busy = WADI_L(wadi_spi_is_busy)(d->bus);
    while (busy && polls--)
        busy = WADI_L(wadi_spi_is_busy)(d->bus);
    return WADI_L(wadi_spi_finish)(d) && !busy ? WAD_OK : WAD_E_TIMEOUT;
}

/* ---- in the background ---- */

static const struct wadi_spi_style *WADI_L(wadi_spi_style)(const wad_spi *bus)
{
    return bus->dma ? bus->dma->style : NULL;
}

/* Asked for at half of what is under way: the next frames are given before the last one ends. */
static void WADI_L(wadi_spi_listen)(const wad_spi *bus, const wad_spi_job *job)
{
    uintptr_t base = bus->unit->block.base;
    const wad_spi_jobs *q = bus->jobs;
    if (wad_has(R.rx_at)) {
        uint32_t under_way = (uint32_t)(q->sent - job->moved);
        uint32_t half = (WADI_L(wadi_spi_depth)() + 1u) / 2u;
        uint32_t n = under_way < half || q->sent == q->total ? under_way : half;
        wad_put(base, R.rx_at, n ? n - 1u : 0u);
    }
    wad_put(base, R.rx_ready_irq, 1);
}

static bool WADI_L(wadi_spi_pump_job)(const wad_spi *bus, wad_spi_job *job)
{
    wadi_spi_count at = {bus->jobs->sent, bus->jobs->total};
    bool all = WADI_L(wadi_spi_pump)(bus, job, &at);
    bus->jobs->sent = at.sent;
    return all;
}

static void WADI_L(wadi_spi_begin_next)(const wad_spi *bus)
{
    wad_spi_jobs *q = bus->jobs;
    wad_spi_job *job = q->first;
    uint32_t code = 0;
    q->stage = job ? WADI_SPI_FRAMES : WADI_SPI_IDLE;
    if (!job)
        return;
    job->state = WAD_SPI_RUNS;
    job->moved = 0;
    q->sent = 0;
    q->total = wadi_spi_length(job);
    q->lost = false;
    (void)WADI_L(wadi_spi_look)(job->device, &code); /* it could when it was submitted */
    WADI_L(wadi_spi_prepare)(job->device, code);
    if (bus->dma)
        WADI_L(wadi_spi_style)(bus)->begin(bus, job);
    else if (WADI_L(wadi_spi_pump_job)(bus, job)) /* it was all that there is, and has come */
        WADI_L(wadi_spi_frames_over)(bus, job);
    else
        WADI_L(wadi_spi_listen)(bus, job);
}

/* The first job is over. Its `done` may submit, which starts nothing as long as it runs. */
static void WADI_L(wadi_spi_end_first)(const wad_spi *bus, wad_status status)
{
    wad_spi_jobs *q = bus->jobs;
    wad_spi_job *job = q->first;
    q->first = job->next;
    job->next = 0;
    job->status = status;
    job->state = WAD_SPI_OVER;
    if (bus->stats)
        bus->stats->jobs++;
    q->serving = true;
    if (job->done)
        job->done(job, status);
    q->serving = false;
}

static wad_status WADI_L(wadi_spi_stop)(const wad_spi *bus)
{
    wad_status st = bus->dma ? WADI_L(wadi_spi_style)(bus)->stop(bus) : WAD_OK;
    WADI_L(wadi_spi_quiet)(bus);
    return st;
}

/* All frames have come. A select of the block takes its time to end, and says when. */
void WADI_L(wadi_spi_frames_over)(const wad_spi *bus, wad_spi_job *job)
{
    uintptr_t base = bus->unit->block.base;
    bool waits =
        job->device->select && !bus->device && wad_has(R.select_hold) && wad_has(R.done_irq);
    wad_put(base, R.rx_ready_irq, 0);
    if (waits) {
        bus->jobs->stage = WADI_SPI_RELEASE;
        wad_clear(base, R.done); /* that of the last frame */
        wad_put(base, R.done_irq, 1);
        wadi_spi_select(job->device, &R, WADI_L(wadi_spi_selected)(job->device), false);
        return;
    }
    bool ends = bus->device || WADI_L(wadi_spi_finish)(job->device);
    WADI_L(wadi_spi_end_first)(bus, ends ? WAD_OK : WAD_E_TIMEOUT);
    WADI_L(wadi_spi_begin_next)(bus);
}

/* What went wrong first is told. */
void WADI_L(wadi_spi_failed)(const wad_spi *bus, wad_status status)
{
    wad_status st = WADI_L(wadi_spi_stop)(bus);
    status = status != WAD_OK ? status : st;
    if (!WADI_L(wadi_spi_finish)(bus->jobs->first->device) && status == WAD_OK)
        status = WAD_E_TIMEOUT;
    WADI_L(wadi_spi_end_first)(bus, status);
    WADI_L(wadi_spi_begin_next)(bus);
}

void WADI_L(wadi_spi_handle)(const wad_spi *bus)
{
    const wad_field over = R.overrun;
    uintptr_t base = bus->unit->block.base;
    wad_spi_jobs *q = bus->jobs;
    if (wad_has(over) && (over.how & WAD_HOW_KIND) != WAD_HOW_READ && wad_take(base, over) &&
        bus->stats)
        bus->stats->overruns++;
    if (!q)
        return;
    wad_spi_job *job = q->first;
    if (WADI_L(wadi_spi_lost)(bus)) {
        wad_status st = WADI_L(wadi_spi_stop)(bus);
        if (job)
            WADI_L(wadi_spi_end_first)(bus, st != WAD_OK ? st : WAD_E_STATE);
        bool lost = q->lost; /* for somebody who waits */
        WADI_L(wadi_spi_begin_next)(bus);
        q->lost = q->lost || (lost && !q->first);
    } else if (q->stage == WADI_SPI_FRAMES && !bus->dma) {
        if (WADI_L(wadi_spi_pump_job)(bus, job))
            WADI_L(wadi_spi_frames_over)(bus, job);
        else
            WADI_L(wadi_spi_listen)(bus, job);
    } else if (q->stage == WADI_SPI_RELEASE && wad_has(R.done_irq) && wad_take(base, R.done)) {
        wad_put(base, R.done_irq, 0);
        WADI_L(wadi_spi_end_first)(bus, WAD_OK);
        WADI_L(wadi_spi_begin_next)(bus);
    }
}

wad_status WADI_L(wadi_spi_submit)(wad_spi_job *job)
{
    uint32_t code;
    wad_status st = WADI_L(wadi_spi_may_run)(job, &code);
    if (st != WAD_OK)
        return st;
    const wad_spi *bus = job->device->bus;
    wad_spi_jobs *q = bus->jobs;
    if (!q)
        return WAD_E_STATE;
    wadi_spi_fill(job);                   /* long memory takes a while: interrupts stay open */
    uint32_t state = wad_port_irq_save(); /* the handler takes jobs off */
    job->state = WAD_SPI_WAITS;
    job->next = 0;
    if (q->first)
        q->last->next = job;
    else
        q->first = job;
    q->last = job;
    if (q->stage == WADI_SPI_IDLE && !q->serving)
        WADI_L(wadi_spi_begin_next)(bus);
    wad_port_irq_restore(state);
    return WAD_OK;
}

wad_status WADI_L(wadi_spi_abort)(const wad_spi *bus)
{
    wad_spi_jobs *q = bus->jobs;
    wad_status st = WAD_OK;
    if (!q)
        return st;
    uint32_t state = wad_port_irq_save();
    wad_spi_job *list = q->first;
    if (q->stage != WADI_SPI_IDLE) {
        st = WADI_L(wadi_spi_stop)(bus);
        q->total = q->sent;
        if (!WADI_L(wadi_spi_finish)(list->device) && st == WAD_OK)
            st = WAD_E_TIMEOUT;
    }
    q->stage = WADI_SPI_IDLE;
    q->first = 0;
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
