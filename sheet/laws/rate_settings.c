/* SPDX-License-Identifier: MIT */
/* What a law of a rate rests on besides its own fields: settings that are given, else reset values.
 */
#include <string.h>

#include "rate.h"
#include "sheet/chip/query.h"

uint64_t wadi_rate_field_now(const wad_rate_law *law, const wad_fieldref *ref)
{
    wad_fieldref full = *ref;
    if (!full.block)
        full.block = wad_instance_home(law->block);
    for (unsigned i = 0; i < law->n_settings; i++) {
        wad_rate_setting *s = &law->settings[i];
        if (wadi_same_field(&s->ref, &full)) {
            s->used = true;
            return s->value;
        }
    }
    return (full.reg->reset & wad_fieldref_mask(&full)) >> full.lsb;
}

void wadi_rate_is_so_while(wad_rate_law *law, const wad_cond *cond)
{
    char *text = wad_cond_text(cond);
    if (!law->ways)
        law->ways = g_string_new(text);
    else if (!strstr(law->ways->str, text))
        g_string_append_printf(law->ways, " and %s", text);
    g_free(text);
}

/* The settings, over reset values. */
static uint64_t set_or_reset(void *ctx, const wad_instance *block, const wad_register *reg,
                             uint32_t reg_index)
{
    const wad_rate_law *law = ctx;
    uint64_t value = reg->reset;
    for (unsigned i = 0; i < law->n_settings; i++) {
        wad_rate_setting *s = &law->settings[i];
        if (s->ref.block != block || s->ref.reg != reg || s->ref.reg_index != reg_index)
            continue;
        s->used = true;
        value = (value & ~wad_fieldref_mask(&s->ref)) | s->value << s->ref.lsb;
    }
    return value;
}

bool wad_rate_clock(const wad_rate_law *law, wad_rational *hz)
{
    const wad_clock *clock = law->block->clock ? law->block->clock : law->sheet->core;
    return wad_clock_rate(law->sheet, clock, set_or_reset, (void *)law, hz, NULL);
}

bool wadi_rate_clock_hz(void *ctx, const wad_clock *clock, wad_rational *hz)
{
    const wadi_rate_ctx *rc = ctx;
    if (!clock) {
        *hz = rc->clock;
        return true;
    }
    return wad_clock_rate(rc->law->sheet, clock, set_or_reset, (void *)rc->law, hz, NULL);
}
