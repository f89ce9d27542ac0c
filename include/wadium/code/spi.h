/* SPDX-License-Identifier: MIT */
/* The SPI driver's bodies, written once over a role table: inline where bus and device are known,
 * compiled for each form in <wadium/code/spi_form.h>. Included by <wadium/spi.h> alone. */
#ifndef WADI_SPI_CODE_H
#define WADI_SPI_CODE_H

/* Where a job's frames are counted: in the bus's jobs, or the caller's own while he waits. */
typedef struct wadi_spi_count {
    size_t sent, total;
} wadi_spi_count;

enum { WADI_SPI_IDLE, WADI_SPI_FRAMES, WADI_SPI_RELEASE };

WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_open, const wad_spi *);
WADI_DECLARE(WADI_SPI_FORMS, void, wadi_spi_close, const wad_spi *);
WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_add, const wad_spi_device *);
WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_move, uintptr_t, const uint8_t *, uint8_t *,
             size_t);
WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_swap, uintptr_t, const uint8_t *, uint8_t *,
             size_t);
WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_run, wad_spi_job *, uint32_t);
WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_submit, wad_spi_job *);
WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_abort, const wad_spi *);
WADI_DECLARE(WADI_SPI_FORMS, void, wadi_spi_handle, const wad_spi *);
WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_begin, const wad_spi_device *);
WADI_DECLARE(WADI_SPI_FORMS, wad_status, wadi_spi_end, const wad_spi_device *, uint32_t);
/* For the one who moves a job's frames: they have all come; or the job has failed. */
WADI_DECLARE(WADI_SPI_FORMS, void, wadi_spi_frames_over, const wad_spi *, wad_spi_job *);
WADI_DECLARE(WADI_SPI_FORMS, void, wadi_spi_failed, const wad_spi *, wad_status);

/* Of no form. */
size_t wadi_spi_length(const wad_spi_job *job);
uint32_t wadi_spi_frame_out(const wad_spi_job *job, size_t i);
void wadi_spi_frame_in(wad_spi_job *job, size_t i, uint32_t word);
void wadi_spi_fill(const wad_spi_job *job);

WADI_REFUSE(wadi_spi_rate_cannot_be,
            "wad_spi_add: the block has no clock as slow as this device's .hz");
WADI_REFUSE(wadi_spi_device_cannot_be,
            "wad_spi_add: a mode is 0 to 3, a frame has 4 to 32 bits, a select is a route or a "
            "pin, not both, and there is a clock (.hz)");
WADI_REFUSE(wadi_spi_lacks, "wad_spi_add: the block lacks something that the device names: a mode, "
                            "a frame size, a bit order, a loop or a select");
WADI_REFUSE(wadi_spi_has_no_time, "a time limit needs the bus's .time");

/* The chip's header has them. */
WADI_INLINE const wad_spi_roles *wadi_spi_roles(unsigned form);
WADI_INLINE uint32_t wadi_spi_writable(unsigned form, uint32_t off);

/* ---- settings ---- */

#define WADI_SPI_LOOKS ((uint32_t)65536) /* at flags that do not change, before it is given up */

WADI_INLINE unsigned wadi_spi_bits(const wad_spi_device *d)
{
    return d->bits ? d->bits : 8u;
}

typedef struct wadi_spi_clock {
    uint32_t code, hz; /* hz 0: there is none as slow */
} wadi_spi_clock;

/* The fastest clock that is not above `hz`: nearest would be too fast for the device. */
WADI_INLINE wadi_spi_clock wadi_spi_divide(const wad_spi_roles *r, uint32_t clock_hz, uint32_t hz)
{
    const uint32_t times = r->divider_times ? r->divider_times : 1u, most = wadi_ones(r->divider);
    const wadi_spi_clock none = {0, 0};
    if (!hz || !clock_hz)
        return none;
    const uint32_t wanted = (clock_hz - 1u) / hz + 1u; /* edges a bit, at least */
    const uint32_t units = (wanted - 1u) / times + 1u; /* of `times` edges each */
    uint32_t scale = 1, code = 0;
    if (r->divider_power) {
#define WADI_SPI_STEP                                                                              \
    if (scale < units && code < most) {                                                            \
        scale *= r->divider_power;                                                                 \
        code++;                                                                                    \
    }
#define WADI_SPI_8_STEPS                                                                           \
    WADI_SPI_STEP WADI_SPI_STEP WADI_SPI_STEP WADI_SPI_STEP WADI_SPI_STEP WADI_SPI_STEP            \
        WADI_SPI_STEP WADI_SPI_STEP
#ifdef WADI_SPI_BODIES
        for (unsigned i = 0; i < 32u; i++)
            WADI_SPI_STEP
#else
        WADI_SPI_8_STEPS
        WADI_SPI_8_STEPS
        WADI_SPI_8_STEPS
        WADI_SPI_8_STEPS
#endif
#undef WADI_SPI_8_STEPS
#undef WADI_SPI_STEP
        if (scale < units)
            return none;
    } else {
        scale = units > r->divider_plus ? units : r->divider_plus;
        scale = scale ? scale : 1u;
        code = scale - r->divider_plus;
        if (code > most)
            return none;
    }
    return (wadi_spi_clock){code, clock_hz / (scale * times)};
}

WADI_INLINE uint32_t wadi_spi_clock_hz(const wad_spi *bus)
{
    return bus->clock_hz ? bus->clock_hz : bus->unit->block.clock_hz();
}

WADI_INLINE uint32_t wadi_spi_hz(const wad_spi_device *d)
{
    return wadi_spi_divide(wadi_spi_roles(d->bus->unit->form), wadi_spi_clock_hz(d->bus), d->hz).hz;
}

/* The size field's value, WAD_NO_CODE: the block has no such frames. */
WADI_INLINE uint32_t wadi_spi_size(const wad_spi_roles *r, unsigned bits)
{
    const unsigned step = r->bits_step ? r->bits_step : 1u;
    if (!wad_has(r->bits))
        return bits == 8u ? 0u : WAD_NO_CODE;
    if (bits < r->bits_plus || (bits - r->bits_plus) % step ||
        (bits - r->bits_plus) / step > wadi_ones(r->bits))
        return WAD_NO_CODE;
    return (bits - r->bits_plus) / step;
}

WADI_INLINE bool wadi_spi_may_be(const wad_spi_device *d)
{
    return d->mode <= 3u && !(d->select && d->by_pin) && (d->hz || d->bus->device);
}

WADI_INLINE bool wadi_spi_has(const wad_spi_device *d, const wad_spi_roles *r)
{
    return wadi_spi_size(r, wadi_spi_bits(d)) != WAD_NO_CODE &&
           (wad_has(r->lsb_first) || !d->lsb_first) && (wad_has(r->loop) || !d->loop) &&
           (wad_has(r->select_on) || !d->select) &&
           (wad_has(r->select) ? d->select_number <= wadi_ones(r->select) || !d->select
                               : !d->select_number) &&
           (wad_has(r->select_high) || !d->select || !d->select_high) &&
           (wad_has(r->phase) || !(d->mode & 1u)) && (wad_has(r->idle_high) || !(d->mode & 2u)) &&
           (wad_has(r->setup) ? d->setup <= wadi_ones(r->setup) : !d->setup) &&
           (wad_has(r->hold) ? d->hold <= wadi_ones(r->hold) : !d->hold) &&
           (wad_has(r->gap) ? d->gap <= wadi_ones(r->gap) : !d->gap);
}

/* A word, of whose register bits that nobody names stay. */
WADI_INLINE void wadi_spi_put_word(const wad_spi *bus, const wadi_word *w, wad_field with)
{
    wadi_put_word(bus->unit->block.base, w, with.size, wadi_spi_writable(bus->unit->form, w->off));
}

WADI_INLINE wadi_word wadi_spi_control(const wad_spi_device *d, const wad_spi_roles *r,
                                       uint32_t code)
{
    const uintptr_t base = d->bus->unit->block.base;
    wadi_word w = {r->enable.off, 0, 0};
    wadi_gather(base, &w, r->enable, 0);
    wadi_gather(base, &w, r->controller, !d->bus->device);
    wadi_gather(base, &w, r->phase, d->mode & 1u);
    wadi_gather(base, &w, r->idle_high, (uint32_t)d->mode >> 1);
    wadi_gather(base, &w, r->lsb_first, d->lsb_first);
    wadi_gather(base, &w, r->bits, wadi_spi_size(r, wadi_spi_bits(d)));
    wadi_gather(base, &w, r->loop, d->loop);
    wadi_gather(base, &w, r->divider, code);
    (void)wadi_gather_here(&w, r->watch, d->bus->watch); /* so that all of it is known */
    (void)wadi_gather_here(&w, r->tx_dma, 0);
    (void)wadi_gather_here(&w, r->rx_dma, 0);
    return w;
}

/* Which select, inactive yet; what was written. */
WADI_INLINE uint32_t wadi_spi_selects(const wad_spi_device *d, const wad_spi_roles *r)
{
    const uintptr_t base = d->bus->unit->block.base;
    if (!wad_has(r->select_on))
        return 0;
    wadi_word w = {r->select_on.off, 0, 0};
    wadi_gather(base, &w, r->select, d->select_number);
    wadi_gather(base, &w, r->select_hold, 0);
    wadi_gather(base, &w, r->select_on, d->select != 0);
    if (d->select)
        wadi_gather(base, &w, wad_at(r->select_high, d->select_number), d->select_high);
    if (wadi_spi_writable(d->bus->unit->form, w.off) & ~w.mask)
        w.value |= wadi_read(base, w.off, r->select_on.size) & ~w.mask;
    wadi_write(base, w.off, r->select_on.size, w.value);
    return w.value;
}

WADI_INLINE void wadi_spi_times(const wad_spi_device *d, const wad_spi_roles *r)
{
    const uintptr_t base = d->bus->unit->block.base;
    const wad_field with = wad_has(r->setup) ? r->setup : wad_has(r->hold) ? r->hold : r->gap;
    if (!wad_has(with))
        return;
    wadi_word w = {with.off, 0, 0};
    wadi_gather(base, &w, r->setup, d->setup);
    wadi_gather(base, &w, r->hold, d->hold);
    wadi_gather(base, &w, r->gap, d->gap);
    wadi_spi_put_word(d->bus, &w, with);
}

/* All as the device wants it; off first: the rest must not change while the block is on. What was
 * written to the selects. */
WADI_INLINE uint32_t wadi_spi_set(const wad_spi_device *d, const wad_spi_roles *r, uint32_t code)
{
    uint32_t selects = 0;
    wad_put(d->bus->unit->block.base, r->enable, 0);
    wadi_word w = wadi_spi_control(d, r, code);
    wadi_spi_put_word(d->bus, &w, r->enable);
    if (!d->bus->device) {
        selects = wadi_spi_selects(d, r);
        wadi_spi_times(d, r);
    }
    wadi_gather(d->bus->unit->block.base, &w, r->enable, 1);
    wadi_spi_put_word(d->bus, &w, r->enable);
    return selects;
}

/* A select's begin and end; the block's own has been set by wadi_spi_set, to `selects`. */
WADI_INLINE void wadi_spi_select(const wad_spi_device *d, const wad_spi_roles *r, uint32_t selects,
                                 bool active)
{
    if (d->bus->device)
        return;
#ifdef WADI_GPIO_FORMS
    if (d->by_pin) {
        wad_pin_write(d->select_pin, active == d->select_high);
        return;
    }
#endif
    if (!d->select || !wad_has(r->select_hold))
        return;
    if (r->select_hold.off != r->select_on.off)
        wad_put(d->bus->unit->block.base, r->select_hold, active);
    else
        wadi_write(d->bus->unit->block.base, r->select_hold.off, r->select_hold.size,
                   selects | (uint32_t)active << r->select_hold.lsb);
}

WADI_INLINE wad_status wadi_spi_set_select(const wad_spi_device *d, const wad_spi_roles *r)
{
    if (d->by_pin && !d->bus->device) /* high or low first, then driven */
#ifdef WADI_GPIO_FORMS
        return wad_pin_output(d->select_pin, !d->select_high);
#else
        return WAD_E_ABSENT;
#endif
    if (!d->select)
        return WAD_OK;
    if (!d->bus->device) { /* the level, and that nobody holds it; then the pin */
        wadi_word w = {r->select_on.off, 0, 0};
        wadi_gather(d->bus->unit->block.base, &w, wad_at(r->select_high, d->select_number),
                    d->select_high);
        wadi_gather(d->bus->unit->block.base, &w, r->select_hold, 0);
        wadi_spi_put_word(d->bus, &w, r->select_on);
    }
    const wad_block *port = wadi_port_of(d->select), *other = wadi_port_of(d->bus->clock);
    if (WADI_MAY_FOLD && WADI_FOLDS(d->select) && WADI_FOLDS(port == other) && port == other &&
        port && wadi_is_plain(d->select)) { /* up since the bus was opened */
        wadi_functions(d->select, 0, 0);
        return WAD_OK;
    }
    return wadi_route(d->select);
}

/* ---- what the compiler knows ---- */

WADI_INLINE bool wadi_spi_is_known(const wad_spi *bus)
{
    return WADI_KNOWS(bus->unit, &wadi_spi_roles(bus->unit->form)->enable) &&
           WADI_FOLDS(bus->clock) && WADI_FOLDS(bus->mosi) && WADI_FOLDS(bus->miso) &&
           WADI_FOLDS(bus->watch) && WADI_FOLDS(!bus->jobs) && WADI_FOLDS(!bus->dma) &&
           WADI_FOLDS(bus->device) && !bus->unit->block.in_order && wadi_is_plain(bus->clock) &&
           wadi_is_plain(bus->mosi) && wadi_is_plain(bus->miso);
}

WADI_INLINE bool wadi_spi_device_is_known(const wad_spi_device *d)
{
    return WADI_FOLDS(d->bus->clock_hz) && d->bus->clock_hz && WADI_FOLDS(d->hz) &&
           WADI_FOLDS(d->mode) && WADI_FOLDS(d->bits) && WADI_FOLDS(d->select) &&
           WADI_FOLDS(d->select_number) && WADI_FOLDS(d->by_pin) && WADI_FOLDS(d->bus->device) &&
           WADI_KNOWS(d->bus->unit, &wadi_spi_roles(d->bus->unit->form)->enable);
}

/* Frames of a byte, with nothing to count and nobody beside. */
WADI_INLINE bool wadi_spi_is_lean(const wad_spi_device *d)
{
    return wadi_spi_device_is_known(d) && wadi_spi_bits(d) <= 8u && WADI_FOLDS(!d->bus->stats) &&
           !d->bus->stats && WADI_FOLDS(!d->bus->jobs) && !d->bus->jobs && !d->bus->device &&
           WADI_FOLDS(d->bus->watch) && !d->bus->watch;
}

/* Off, and asking for nothing. */
WADI_INLINE void wadi_spi_off(const wad_spi *bus, const wad_spi_roles *r)
{
    const uintptr_t base = bus->unit->block.base;
    const wad_field with = wad_has(r->rx_ready_irq) ? r->rx_ready_irq : r->enable;
    wadi_word w = {with.off, 0, 0};
    wad_put(base, r->enable, 0);
    wadi_gather(base, &w, r->rx_ready_irq, 0);
    wadi_gather(base, &w, r->tx_ready_irq, 0);
    wadi_gather(base, &w, r->done_irq, 0);
    wadi_gather(base, &w, r->fault_irq, 0);
    wadi_gather(base, &w, r->overrun_irq, 0);
    wadi_gather(base, &w, r->underrun_irq, 0);
    wadi_spi_put_word(bus, &w, with);
}

WADI_INLINE wad_status wadi_spi_open_known(const wad_spi *bus)
{
    const wad_spi_roles *r = wadi_spi_roles(bus->unit->form);
    const wad_block *p = wadi_port_of(bus->clock), *q = wadi_port_of(bus->mosi);
    const wad_block *s = wadi_port_of(bus->miso);
    if (!wadi_up(&bus->unit->block, p, q != p ? q : NULL) ||
        (s != p && s != q && !wadi_up(s, NULL, NULL)))
        return WAD_E_TIMEOUT;
    wadi_spi_off(bus, r);
    wadi_functions(bus->clock, bus->mosi, bus->miso);
    return WAD_OK;
}

/* Can the bus speak to it? Its divider's code. */
WADI_INLINE wad_status wadi_spi_examine(const wad_spi_device *d, const wad_spi_roles *r,
                                        uint32_t *code)
{
    WADI_REFUSE_IF(!wadi_spi_may_be(d), wadi_spi_device_cannot_be, WAD_E_ARG)
    WADI_REFUSE_IF(wadi_spi_bits(d) < 4u || wadi_spi_bits(d) > 32u, wadi_spi_device_cannot_be,
                   WAD_E_RANGE)
    WADI_REFUSE_IF(!wadi_spi_has(d, r), wadi_spi_lacks, WAD_E_ABSENT)
    const wadi_spi_clock c = wadi_spi_divide(r, wadi_spi_clock_hz(d->bus), d->hz);
    WADI_REFUSE_IF(!d->bus->device && !c.hz, wadi_spi_rate_cannot_be, WAD_E_RANGE)
    *code = c.code;
    return WAD_OK;
}

WADI_INLINE wad_status wadi_spi_add_known(const wad_spi_device *d)
{
    const wad_spi_roles *r = wadi_spi_roles(d->bus->unit->form);
    uint32_t code;
    wad_status st = wadi_spi_examine(d, r, &code);
    return st == WAD_OK ? wadi_spi_set_select(d, r) : st;
}

/* The select ends when the last edge is over. */
WADI_INLINE bool wadi_spi_release(const wad_spi_device *d, const wad_spi_roles *r, uint32_t selects)
{
    uint32_t looks = WADI_SPI_LOOKS;
    if (!d->by_pin)
        wadi_spi_select(d, r, selects, false);
    while (wad_has(r->busy) && wad_get(d->bus->unit->block.base, r->busy) && --looks) {
    }
    if (d->by_pin)
        wadi_spi_select(d, r, selects, false);
    return looks != 0;
}

WADI_INLINE wad_status wadi_spi_move_known(const wad_spi_device *d, const void *out, void *in,
                                           size_t n, void *then, size_t n_then)
{
    const wad_spi_roles *r = wadi_spi_roles(d->bus->unit->form);
    const uintptr_t base = d->bus->unit->block.base;
    uint32_t code;
    wad_status st = wadi_spi_examine(d, r, &code);
    const bool both = out && in && n; /* both are there, as all can see */
    if (!n && !n_then)
        return WAD_E_ARG;
    if (st != WAD_OK)
        return st;
    const uint32_t selects = wadi_spi_set(d, r, code);
    wadi_spi_select(d, r, selects, true);
    st = WADI_FOLDS(both) && both
             ? WADI_OF_FORM(WADI_SPI_MORE, d->bus->unit->form, wadi_spi_swap, base, out, in, n)
             : WADI_OF_FORM(WADI_SPI_MORE, d->bus->unit->form, wadi_spi_move, base, out, in, n);
    if (n_then && st == WAD_OK)
        st = WADI_OF_FORM(WADI_SPI_MORE, d->bus->unit->form, wadi_spi_move, base, 0, then, n_then);
    return wadi_spi_release(d, r, selects) ? st : WAD_E_TIMEOUT;
}

WADI_INLINE wad_status wadi_spi_run(wad_spi_job *job, uint32_t timeout_us)
{
    if (!job->device || !job->device->bus)
        return WAD_E_ARG;
    const wad_spi *bus = job->device->bus;
    if (WADI_FOLDS(timeout_us) && timeout_us && WADI_FOLDS(!bus->time) && !bus->time)
        wadi_spi_has_no_time();
    return WADI_BY_FORM(WADI_SPI_FORMS, bus->unit->form, wadi_spi_run, job, timeout_us);
}

#endif
