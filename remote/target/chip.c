/* SPDX-License-Identifier: MIT */
/* A live chip by its sheet. */
#include "wadium/host/target.h"

#include <glib.h>
#include <string.h>

struct wad_target {
    const wad_sheet *sheet;
    wad_target_options options;
    wad_remote *remote;
    char *identity;
};

/* ---- conditions on the live chip ---- */

static bool read_field(wad_target *t, const wad_fieldref *ref, uint64_t *value, char **why)
{
    uint32_t word = 0;
    if (!wad_remote_get(t->remote, wad_fieldref_address(ref), wad_register_bytes(ref->reg), &word,
                        why))
        return false;
    *value = (word & wad_fieldref_mask(ref)) >> ref->lsb;
    return true;
}

/* The first term that does not hold; NULL: all do, or `why`. */
static const wad_cond_term *first_broken(wad_target *t, const wad_cond *cond, uint64_t *value,
                                         char **why)
{
    const wad_cond_term *first = NULL;
    uint64_t first_value = 0;
    for (; cond; cond = cond->or_else) {
        const wad_cond_term *broken = NULL;
        for (unsigned i = 0; i < cond->n && !broken; i++) {
            if (!read_field(t, &cond->terms[i].ref, value, why))
                return NULL;
            broken = wad_cond_term_met(&cond->terms[i], *value) ? NULL : &cond->terms[i];
        }
        if (!broken)
            return NULL;
        first_value = first ? first_value : *value;
        first = first ? first : broken;
    }
    *value = first_value;
    return first;
}

/* ---- opening ---- */

static bool identify(wad_target *t, char **why)
{
    const wad_cond *id = &t->sheet->identity;
    uint64_t value = 0;
    if (!id->n)
        return true;
    const wad_cond_term *broken = first_broken(t, id, &value, why);
    if (*why)
        return false;
    char *name = wad_fieldref_name(&(broken ? broken : &id->terms[id->n - 1])->ref);
    t->identity = g_strdup_printf("%s 0x%llX", name, (unsigned long long)value);
    if (broken && !t->options.any_chip)
        *why = g_strdup_printf("this is no %s: %s is 0x%llX, not 0x%llX; nothing was written",
                               t->sheet->name, name, (unsigned long long)value,
                               (unsigned long long)broken->value);
    g_free(name);
    return *why == NULL;
}

wad_target *wad_target_open(const wad_sheet *sheet, const char *where,
                            const wad_target_options *options, char **why)
{
    wad_target *t = g_new0(wad_target, 1);
    *why = NULL;
    t->sheet = sheet;
    if (options)
        t->options = *options;
    t->remote = wad_remote_open(where, &t->options.remote, why);
    if (t->remote)
        wad_remote_big_endian(t->remote, t->sheet->big_endian);
    if (t->remote && identify(t, why))
        return t;
    wad_target_close(t);
    return NULL;
}

void wad_target_close(wad_target *t)
{
    if (!t)
        return;
    wad_remote_close(t->remote, !t->options.stay);
    g_free(t->identity);
    g_free(t);
}

wad_remote *wad_target_remote(wad_target *t)
{
    return t->remote;
}

const wad_sheet *wad_target_sheet(const wad_target *t)
{
    return t->sheet;
}

const char *wad_target_identity(const wad_target *t)
{
    return t->identity;
}

/* ---- one register ---- */

static bool can_be_read(const wad_register *r)
{
    return r->access != WAD_ACCESS_WO && !r->alias;
}

/* "CLK.GATE.CNT0 is 0, not 1" (g_free); NULL: the block is on, or `why`. */
static char *why_off(wad_target *t, const wad_instance *block, char **why)
{
    uint64_t value = 0;
    const wad_cond_term *term = first_broken(t, &block->needs, &value, why);
    if (!term)
        return NULL;
    char *name = wad_fieldref_name(&term->ref);
    char *text = g_strdup_printf("%s is off: %s is %llu, %s %llu", block->name, name,
                                 (unsigned long long)value, term->equal ? "not" : "must not be",
                                 (unsigned long long)term->value);
    g_free(name);
    return text;
}

static bool is_on(wad_target *t, const wad_instance *block, char **why)
{
    char *off = why_off(t, block, why);
    if (off)
        *why = off;
    return *why == NULL;
}

bool wad_target_peek(wad_target *t, const wad_fieldref *reg, bool effects, uint32_t *value,
                     char **why)
{
    *why = NULL;
    char *name = wad_fieldref_name(reg), *effect = wad_register_read_effect(reg);
    if (!can_be_read(reg->reg))
        *why = g_strdup_printf("%s can only be written", name);
    else if (effect && !effects)
        *why = g_strdup_printf("reading %s %s: not done unless you say --effects", name, effect);
    else if (is_on(t, reg->block, why))
        wad_remote_get(t->remote, wad_fieldref_address(reg), wad_register_bytes(reg->reg), value,
                       why);
    g_free(name);
    g_free(effect);
    return *why == NULL;
}

/* Bits that would be cleared by writing back what they read as. */
static uint64_t flags_of(const wad_register *r)
{
    return wad_register_mask(r, WAD_ACCESS_W1C) | wad_register_mask(r, WAD_ACCESS_W1S) |
           wad_register_mask(r, WAD_ACCESS_RC) | wad_register_mask(r, WAD_ACCESS_W1T) |
           wad_register_mask(r, WAD_ACCESS_PULSE);
}

/* What fields are put into: the register as it stands, flags so that they stay. */
static uint64_t start_value(const wad_register *r, const wad_poked *p)
{
    if (!p->readable)
        return 0;
    return (p->before & ~flags_of(r)) | wad_register_mask(r, WAD_ACCESS_W0C) |
           wad_register_mask(r, WAD_ACCESS_W0S) | wad_register_mask(r, WAD_ACCESS_W0T);
}

static uint32_t plain_bits(const wad_register *r)
{
    uint64_t bits = wad_register_mask(r, WAD_ACCESS_RW);
    for (unsigned i = 0; i < r->n_fields; i++) {
        const wad_bitfield *f = r->fields[i];
        for (unsigned k = 0; f->is_volatile && k < f->per_reg; k++)
            bits &= ~(((UINT64_C(1) << f->width) - 1) << (f->lsb + k * f->step));
    }
    return (uint32_t)bits;
}

/* Read-only, or no field at all. */
static uint32_t fixed_bits(const wad_register *r)
{
    uint64_t bits = r->width < 32 ? (UINT64_C(1) << r->width) - 1 : UINT32_MAX;
    for (unsigned i = 0; i < r->n_fields; i++) {
        const wad_bitfield *f = r->fields[i];
        for (unsigned k = 0; f->name && f->access != WAD_ACCESS_RO && k < f->per_reg; k++)
            bits &= ~(((UINT64_C(1) << f->width) - 1) << (f->lsb + k * f->step));
    }
    return r->alias ? 0 : (uint32_t)bits;
}

bool wad_target_poke(wad_target *t, const wad_fieldref *reg, const char *const *settings,
                     const uint32_t *whole, wad_poked *p, char **why)
{
    const wad_register *r = reg->reg;
    uint64_t address = wad_fieldref_address(reg);
    unsigned bytes = wad_register_bytes(r);
    char *effect = wad_register_read_effect(reg);
    *p = (wad_poked){.readable = can_be_read(r) && !effect};
    *why = NULL;
    g_free(effect);
    if (!is_on(t, reg->block, why) ||
        (p->readable && !wad_remote_get(t->remote, address, bytes, &p->before, why)))
        return false;
    wad_word word = {.value = whole ? *whole : 0};
    if (!whole && !wad_encode(reg, start_value(r, p), settings, &word, why))
        return false;
    p->wrote = (uint32_t)word.value;
    if (!wad_remote_put(t->remote, address, bytes, p->wrote, why))
        return false;
    if (!p->readable)
        return true;
    if (!wad_remote_get(t->remote, address, bytes, &p->after, why))
        return false;
    /* what cannot be written at all: only ones that were asked for, it may read as anything */
    p->stuck = ((p->after ^ p->wrote) & plain_bits(r)) | (p->wrote & ~p->after & fixed_bits(r));
    return true;
}

/* ---- many ---- */

static bool wanted(const char *const *blocks, const char *name)
{
    for (unsigned i = 0; blocks && blocks[i]; i++)
        if (!strcmp(blocks[i], name))
            return true;
    return blocks == NULL;
}

static bool add_register(wad_target *t, wad_snapshot *s, const wad_fieldref *ref, const char *off,
                         char **why)
{
    char *effect = wad_register_read_effect(ref);
    uint32_t value;
    if (off)
        wad_snapshot_leave_out(s, ref, off);
    else if (effect) {
        char *text = g_strdup_printf("reading it %s", effect);
        wad_snapshot_leave_out(s, ref, text);
        g_free(text);
    } else if (wad_remote_get(t->remote, wad_fieldref_address(ref), wad_register_bytes(ref->reg),
                              &value, why))
        wad_snapshot_put(s, ref, value);
    g_free(effect);
    return *why == NULL;
}

static bool add_block(wad_target *t, wad_snapshot *s, const wad_instance *b, char **why)
{
    char *off = why_off(t, b, why);
    for (unsigned i = 0; i < b->layout->n_regs && !*why; i++) {
        const wad_register *r = b->layout->regs[i];
        for (uint32_t k = 0; k < (r->count ? r->count : 1) && !*why; k++) {
            const wad_fieldref ref = {
                .block = b, .reg = wad_register_element(r, k), .reg_index = k};
            if (can_be_read(ref.reg))
                add_register(t, s, &ref, off, why);
        }
    }
    g_free(off);
    return *why == NULL;
}

bool wad_target_snapshot(wad_target *t, const char *const *blocks, wad_snapshot *snapshot,
                         char **why)
{
    *why = NULL;
    for (unsigned i = 0; blocks && blocks[i]; i++)
        if (!wad_sheet_block(t->sheet, blocks[i])) {
            *why = g_strdup_printf("%s has no block '%s'", t->sheet->name, blocks[i]);
            return false;
        }
    for (unsigned i = 0; i < t->sheet->n_blocks; i++)
        if (wanted(blocks, t->sheet->blocks[i]->name) &&
            !add_block(t, snapshot, t->sheet->blocks[i], why))
            return false;
    return true;
}

char *wad_target_variable(wad_target *t, wad_variables *variables, const char *path, unsigned width,
                          char **why)
{
    wad_variable v;
    if (!wad_variables_find(variables, path, &v, why))
        return NULL;
    uint64_t address = (uintptr_t)v.address;
    char *bytes = g_malloc0(v.bytes + 16), *text = NULL;
    v.address = bytes;
    if (wad_remote_read(t->remote, address, bytes, v.bytes, why))
        text = wad_variable_text(&v, width);
    g_free(bytes);
    return text;
}
