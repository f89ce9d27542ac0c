/* SPDX-License-Identifier: MIT */
/* The bodies of converters to volts, written once over a role table: inline where unit and table
 * are known, compiled for each form in <wadium/code/dac_form.h>. Included by <wadium/dac.h> alone.
 */
#ifndef WADI_DAC_CODE_H
#define WADI_DAC_CODE_H

WADI_DECLARE(WADI_DAC_FORMS, wad_status, wadi_dac_open, const wad_dac *);
WADI_DECLARE(WADI_DAC_FORMS, void, wadi_dac_close, const wad_dac *);
WADI_DECLARE(WADI_DAC_FORMS, wad_status, wadi_dac_play, const wad_dac_stream *);
WADI_DECLARE(WADI_DAC_FORMS, wad_status, wadi_dac_end, const wad_dac *);
WADI_DECLARE(WADI_DAC_FORMS, void, wadi_dac_handle, const wad_dac *);
WADI_DECLARE(WADI_DAC_FORMS, wad_status, wadi_dac_wave, const wad_dac *, wad_dac_wave, unsigned,
             uint32_t);
WADI_DECLARE(WADI_DAC_FORMS, void, wadi_dac_count_underrun, const wad_dac *);

uint32_t wadi_dac_counts(unsigned bits, uint32_t microvolts, uint32_t supply_uv); /* of no form */

WADI_REFUSE(wadi_dac_lacks_buffer, "wad_dac_open: the block has no buffer (.buffered)");

/* The chip's header has them. */
WADI_INLINE const wad_dac_roles *wadi_dac_roles(unsigned form);
WADI_INLINE uint32_t wadi_dac_writable(unsigned form, uint32_t off);

WADI_INLINE unsigned wadi_dac_bits(const wad_dac *d)
{
    const wad_dac_roles *r = wadi_dac_roles(d->unit->form);
    return (unsigned)(r->bits ? r->bits : r->data.width);
}

WADI_INLINE void wadi_dac_put(const wad_dac *d, const wad_dac_roles *r, uint32_t code)
{
    const uint32_t most = WADI_BIT(wadi_dac_bits(d)) - 1u;
    wad_put(d->unit->block.base, r->data, code > most ? most : code);
}

WADI_INLINE void wadi_dac_put_word(const wad_dac *d, const wadi_word *w, wad_field with)
{
    wadi_put_word(d->unit->block.base, w, with.size, wadi_dac_writable(d->unit->form, w->off));
}

/* Off, and asking for nothing; all else as the handle says. A word to be switched on. */
WADI_INLINE wadi_word wadi_dac_set(const wad_dac *d, const wad_dac_roles *r, wad_field with)
{
    const uintptr_t base = d->unit->block.base;
    wadi_word w = {wad_has(with) ? with.off : 0xFFFFFFFFu, 0, 0};
    wadi_gather(base, &w, r->enable, 0);
    wadi_gather(base, &w, r->align_left, 0);
    wadi_gather(base, &w, r->trigger_on, 0);
    wadi_gather(base, &w, r->buffer, d->buffered);
    wadi_gather(base, &w, r->empty_irq, 0);
    wadi_gather(base, &w, r->underrun_irq, 0);
    wadi_gather(base, &w, r->dma_on, 0);
    if (wadi_has_code(r->wave, r->wave_off))
        wadi_gather(base, &w, r->wave, r->wave_off);
    (void)wadi_gather_here(&w, r->trigger, 0); /* so that all of it is known */
    (void)wadi_gather_here(&w, r->wave_size, 0);
    (void)wadi_gather_here(&w, r->start, 0);
    wadi_dac_put_word(d, &w, with);
    return w;
}

WADI_INLINE wad_field wadi_dac_control(const wad_dac_roles *r)
{
    return wad_has(r->enable) ? r->enable : r->trigger_on;
}

/* The block and its port are up. */
WADI_INLINE wad_status wadi_dac_open_body(const wad_dac *d, const wad_dac_roles *r, bool is_up)
{
    const wad_field with = wadi_dac_control(r);
    wadi_word w = wadi_dac_set(d, r, with);
    wad_status st = WAD_OK;
    wad_put(d->unit->block.base, r->data, 0);
    if (d->route && is_up)
        wadi_take_analog(d->route);
    else if (d->route)
        st = wadi_route_analog(d->route);
    if (st == WAD_OK && wadi_gather_here(&w, r->enable, 1))
        wadi_dac_put_word(d, &w, with);
    return st;
}

WADI_INLINE wad_status wadi_dac_examine(const wad_dac *d, const wad_dac_roles *r)
{
    WADI_REFUSE_IF(d->buffered && !wad_has(r->buffer), wadi_dac_lacks_buffer, WAD_E_ABSENT)
    return WAD_OK;
}

WADI_INLINE bool wadi_dac_is_known(const wad_dac *d)
{
    return WADI_KNOWS(d->unit, &wadi_dac_roles(d->unit->form)->data) && WADI_FOLDS(d->route) &&
           WADI_FOLDS(d->buffered) && WADI_FOLDS(!d->streams) && !d->unit->block.in_order &&
           wadi_is_plain(d->route);
}

WADI_INLINE wad_status wadi_dac_open_known(const wad_dac *d)
{
    const wad_dac_roles *r = wadi_dac_roles(d->unit->form);
    wad_status st = wadi_dac_examine(d, r);
    if (st == WAD_OK && !wadi_up(&d->unit->block, wadi_port_of(d->route), 0))
        st = WAD_E_TIMEOUT;
    return st == WAD_OK ? wadi_dac_open_body(d, r, true) : st;
}

#endif
