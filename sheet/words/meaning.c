/* SPDX-License-Identifier: MIT */
/* What in a word means something, and what is doubtful about it. */
#include <glib.h>

#include "lang/bits.h"
#include "values.h"
#include "wadium/host/clocktree.h"
#include "wadium/host/words.h"

/* The word itself, and what else is known; other registers are not. */
static bool term_value(const wad_word *word, const wad_cond_term *t, const wad_regs *regs,
                       uint64_t *value)
{
    wad_fieldref ref = t->ref;
    ref.block = ref.block ? ref.block : word->ref.block;
    if (ref.reg == word->ref.reg && ref.reg_index == word->ref.reg_index &&
        ref.block == word->ref.block)
        *value = (word->value & wad_fieldref_mask(&ref)) >> ref.lsb;
    else if (regs)
        *value = wad_regs_get(regs, &ref);
    else
        return false;
    return true;
}

wad_meaning wad_word_meaning(const wad_word *word, const wad_bitfield *field, const wad_regs *regs)
{
    wad_meaning best = field->when ? WAD_MEANS_NOTHING : WAD_MEANS;
    for (const wad_cond *c = field->when; c; c = c->or_else) {
        wad_meaning meaning = WAD_MEANS;
        for (unsigned i = 0; i < c->n && meaning != WAD_MEANS_NOTHING; i++) {
            const wad_cond_term *t = &c->terms[i];
            uint64_t value;
            if (!term_value(word, t, regs, &value))
                meaning = WAD_MEANING_UNKNOWN;
            else if (!wad_cond_term_met(t, value))
                meaning = WAD_MEANS_NOTHING;
        }
        if (meaning == WAD_MEANS)
            return WAD_MEANS;
        best = meaning == WAD_MEANING_UNKNOWN ? meaning : best;
    }
    return best;
}

static char *meaningless(const wad_bitfield *f)
{
    char *cond = wad_cond_text(f->when);
    char *text = g_strdup_printf("%s is set, but means something only while %s", f->name, cond);
    g_free(cond);
    return text;
}

char **wad_word_doubts(const wad_word *word)
{
    GPtrArray *list = g_ptr_array_new();
    const wad_register *reg = word->ref.reg;
    uint64_t reserved = wad_register_mask(reg, WAD_ACCESS_RESERVED), must = 0;
    if (reg->width < 64 && word->value >> reg->width)
        g_ptr_array_add(
            list, g_strdup_printf("the value has more than the register's %u bits", reg->width));
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        must |= f->must << f->lsb;
        for (unsigned k = 0; f->name && k < (f->count ? f->per_reg : 1u); k++) {
            uint64_t value = word->value >> (f->lsb + k * f->step) & wadi_ones(f->width);
            uint64_t mask = wadi_ones(f->width) << (f->lsb + k * f->step);
            if (word->given & mask && value && f->when &&
                wad_word_meaning(word, f, NULL) == WAD_MEANS_NOTHING)
                g_ptr_array_add(list, meaningless(f));
            if (f->not_zero && !value)
                g_ptr_array_add(list, g_strdup_printf("%s must not be 0", f->name));
            if (f->n_enums && !wad_bitfield_enum(f, value) &&
                !wad_selected(word->ref.block, f, value))
                g_ptr_array_add(list, g_strdup_printf("%s has no value %llu", f->name,
                                                      (unsigned long long)value));
        }
    }
    if ((word->value ^ must) & reserved)
        g_ptr_array_add(list,
                        g_strdup_printf("reserved bits 0x%llx are not as they must be",
                                        (unsigned long long)((word->value ^ must) & reserved)));
    g_ptr_array_add(list, NULL);
    return (char **)g_ptr_array_free(list, FALSE);
}
