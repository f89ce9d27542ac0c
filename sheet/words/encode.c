/* SPDX-License-Identifier: MIT */
/* Control words: settings of fields to bits, addresses to registers, dumps. */
#include "lang/suggest.h"
#include "wadium/host/words.h"

#include <glib.h>
#include <string.h>

#include "lang/bits.h"
#include "sheet/laws/rate.h"

static char *names_like(const wad_register *reg, const char *name)
{
    GPtrArray *names = g_ptr_array_new();
    wadi_arena *arena = wadi_arena_new();
    for (unsigned i = 0; i < reg->n_fields; i++)
        if (reg->fields[i]->name)
            g_ptr_array_add(names, (gpointer)reg->fields[i]->name);
    char *text = g_strdup(wadi_suggest(arena, name, (const char *const *)names->pdata, names->len));
    wadi_arena_free(arena);
    g_ptr_array_free(names, TRUE);
    return text;
}

static bool find_field(const wad_fieldref *reg, const char *name, wad_fieldref *ref, char **why)
{
    const char *open = strchr(name, '[');
    char *stem = g_strndup(name, open ? (gsize)(open - name) : strlen(name));
    const wad_bitfield *f = wad_register_field(reg->reg, stem);
    uint64_t index = open ? g_ascii_strtoull(open + 1, NULL, 10) : 0;
    unsigned first = f && f->count > f->per_reg ? reg->reg_index * f->per_reg : 0;
    bool inside =
        f && (f->count ? open && index >= first && index < first + f->per_reg && index < f->count
                       : !open);
    if (!f) {
        char *like = names_like(reg->reg, stem);
        *why = g_strdup_printf("%s has no field '%s'%s", reg->reg->name, stem, like);
        g_free(like);
    } else if (!inside && f->count) {
        unsigned last = MIN(first + f->per_reg, f->count) - 1;
        *why = g_strdup_printf("'%s' has elements here: write %s[%u] to %s[%u]", stem, stem, first,
                               stem, last);
    } else if (!inside) {
        *why = g_strdup_printf("'%s' has no elements", stem);
    }
    g_free(stem);
    if (!inside)
        return false;
    *ref = *reg;
    ref->field = f;
    ref->index = (uint32_t)index;
    ref->lsb = (uint8_t)(f->lsb + (f->count ? (unsigned)index % f->per_reg * f->step : 0));
    ref->width = f->width;
    return true;
}

static char *list_values(const wad_fieldref *ref)
{
    const wad_bitfield *f = ref->field;
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < f->n_enums; i++)
        g_string_append_printf(text, "%s%llu %s", i ? ", " : "",
                               (unsigned long long)f->enums[i].code, f->enums[i].name);
    for (uint64_t v = 0; f->width <= 8 && v < 1u << f->width; v++) {
        const wad_trigger *from = wad_selected(ref->block, f, v);
        char *name = from ? wad_trigger_name(from) : NULL;
        if (name)
            g_string_append_printf(text, "%s%llu %s", text->len ? ", " : "", (unsigned long long)v,
                                   name);
        g_free(name);
    }
    return g_string_free(text, FALSE);
}

static bool find_value(const wad_fieldref *ref, const char *text, uint64_t *value, char **why)
{
    const wad_bitfield *f = ref->field;
    for (unsigned i = 0; i < f->n_enums; i++)
        if (!strcmp(f->enums[i].name, text)) {
            *value = f->enums[i].code;
            return true;
        }
    const wad_trigger *from = wad_selected_by_name(ref->block, f, text);
    if (from) {
        *value = from->code;
        return true;
    }
    if (!wad_parse_number(text, value)) {
        char *values = list_values(ref);
        *why = *values ? g_strdup_printf("'%s' has no value '%s': it has %s", f->name, text, values)
                       : g_strdup_printf("'%s' is no value for '%s', which takes a number of %u "
                                         "bit%s",
                                         text, f->name, f->width, f->width == 1 ? "" : "s");
        g_free(values);
        return false;
    }
    if (*value > wadi_ones(f->width)) {
        *why = g_strdup_printf("%llu does not fit '%s', which has %u bit%s: 0 to %llu",
                               (unsigned long long)*value, f->name, f->width,
                               f->width == 1 ? "" : "s", (unsigned long long)wadi_ones(f->width));
        return false;
    }
    if (f->not_zero && !*value) {
        *why = g_strdup_printf("'%s' must not be 0", f->name);
        return false;
    }
    return true;
}

static bool set_one(wad_word *word, const char *setting, char **why)
{
    const char *equals = strchr(setting, '=');
    wad_fieldref ref;
    uint64_t value;
    if (!equals) {
        *why = g_strdup_printf("'%s' is not written FIELD=VALUE", setting);
        return false;
    }
    char *name = g_strndup(setting, (gsize)(equals - setting));
    bool ok = find_field(&word->ref, name, &ref, why) && find_value(&ref, equals + 1, &value, why);
    if (ok && ref.field->access == WAD_ACCESS_RO) {
        *why = g_strdup_printf("'%s' is read-only", name);
        ok = false;
    }
    if (ok) {
        uint64_t mask = wad_fieldref_mask(&ref);
        word->value = (word->value & ~mask) | value << ref.lsb;
        word->given |= mask;
    }
    g_free(name);
    return ok;
}

bool wad_encode_rated(wad_encode_rates *rates, const wad_fieldref *reg, uint64_t start,
                      const char *const *settings, wad_word *word, char **why)
{
    *why = NULL;
    *word = (wad_word){.ref = *reg, .value = start};
    word->ref.field = NULL;
    for (unsigned i = 0; settings[i]; i++)
        if (!(rates && wadi_is_rate_setting(rates->sheet, word, settings[i])
                  ? wadi_set_rate(rates, word, settings[i], why)
                  : set_one(word, settings[i], why)))
            return false;
    return true;
}

bool wad_encode(const wad_fieldref *reg, uint64_t start, const char *const *settings,
                wad_word *word, char **why)
{
    return wad_encode_rated(NULL, reg, start, settings, word, why);
}
