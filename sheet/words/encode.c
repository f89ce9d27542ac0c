/* SPDX-License-Identifier: MIT */
/* Control words: settings of fields to bits, addresses to registers, dumps. */
#include "wadium/host/words.h"

#include <glib.h>
#include <string.h>

#include "lang/cursor.h"
#include "sheet/laws/rate.h"
#include "wadium/host/clocktree.h"

/* ---- numbers ---- */

bool wad_parse_number(const char *text, uint64_t *value)
{
    char digits[80] = "";
    size_t n = 0;
    for (; *text && n + 1 < sizeof digits; text++)
        if (*text != '_' || !n)
            digits[n++] = *text;
    digits[n] = 0;
    bool binary = g_str_has_prefix(digits, "0b");
    char *end;
    const char *from = binary ? digits + 2 : digits;
    if (*text || !g_ascii_isdigit(*from))
        return false;
    bool hex = !binary && g_str_has_prefix(digits, "0x");
    *value = g_ascii_strtoull(from, &end, binary ? 2 : hex ? 16 : 10);
    return !*end && end != from && !(hex && !digits[2]);
}

/* ---- encode ---- */

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

static uint64_t ones(unsigned width)
{
    return width >= 64 ? ~UINT64_C(0) : (UINT64_C(1) << width) - 1;
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
    if (*value > ones(f->width)) {
        *why = g_strdup_printf("%llu does not fit '%s', which has %u bit%s: 0 to %llu",
                               (unsigned long long)*value, f->name, f->width,
                               f->width == 1 ? "" : "s", (unsigned long long)ones(f->width));
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

/* ---- doubts ---- */

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
    wad_meaning meaning = WAD_MEANS;
    for (unsigned i = 0; field->when && i < field->when->n; i++) {
        const wad_cond_term *t = &field->when->terms[i];
        uint64_t value;
        if (!term_value(word, t, regs, &value))
            meaning = WAD_MEANING_UNKNOWN;
        else if ((value == t->value) != t->equal)
            return WAD_MEANS_NOTHING;
    }
    return meaning;
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
            uint64_t value = word->value >> (f->lsb + k * f->step) & ones(f->width);
            uint64_t mask = ones(f->width) << (f->lsb + k * f->step);
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

/* ---- addresses ---- */

bool wad_sheet_at(const wad_sheet *sheet, uint64_t address, wad_fieldref *ref)
{
    bool found = false;
    for (unsigned i = 0; i < sheet->n_blocks; i++) {
        const wad_instance *b = sheet->blocks[i];
        if (address < b->base || address >= b->base + b->layout->size)
            continue;
        for (unsigned k = 0; k < b->layout->n_regs; k++) {
            const wad_register *r = b->layout->regs[k];
            for (uint32_t n = 0; n < (r->count ? r->count : 1); n++) {
                uint64_t at = b->base + r->offset + (uint64_t)n * r->step;
                bool writes_only = r->access == WAD_ACCESS_WO;
                if (address < at || address >= at + wad_register_bytes(r) || (found && writes_only))
                    continue;
                *ref = (wad_fieldref){.block = b, .reg = r, .reg_index = n, .width = r->width};
                found = true;
            }
        }
    }
    return found;
}

/* ---- dumps ---- */

struct wad_dump {
    GArray *words; /* wad_word */
};

static void wrong_line(wad_diags *diags, const char *name, unsigned line, const char *what,
                       const char *detail)
{
    wad_where where = {name, line, 1};
    wad_diags_add(diags, WAD_ERROR, &where, NULL, "%s%s", what, detail);
}

static bool dump_line(const wad_sheet *sheet, wad_dump *dump, const char *text, const char *name,
                      unsigned line, wad_diags *diags)
{
    char **parts = g_strsplit_set(text, " \t:=,", -1);
    const char *key = NULL, *value = NULL;
    unsigned n = 0;
    bool ok = true;
    for (unsigned i = 0; parts[i] && *parts[i] != '#'; i++)
        if (*parts[i]) {
            key = n == 0 ? parts[i] : key;
            value = n == 1 ? parts[i] : value;
            n++;
        }
    wad_word w = {0};
    uint64_t address;
    char *why = NULL;
    if (n == 1 || n > 2) {
        wrong_line(diags, name, line, "a line is an address or BLOCK.REGISTER, and a value", "");
        ok = false;
    } else if (n == 2) {
        bool number = wad_parse_number(key, &address);
        if (number ? !wad_sheet_at(sheet, address, &w.ref)
                   : !wad_sheet_resolve(sheet, key, &w.ref, &why)) {
            wrong_line(diags, name, line, why ? why : "no register lies at ", why ? "" : key);
            ok = false;
        } else if (!wad_parse_number(value, &w.value)) {
            wrong_line(diags, name, line, "this is no number: ", value);
            ok = false;
        } else {
            g_array_append_val(dump->words, w);
        }
    }
    g_free(why);
    g_strfreev(parts);
    return ok;
}

wad_dump *wad_dump_parse(const wad_sheet *sheet, const char *text, const char *name,
                         wad_diags *diags)
{
    wad_dump *dump = g_new0(wad_dump, 1);
    bool ok = true;
    dump->words = g_array_new(FALSE, FALSE, sizeof(wad_word));
    char **lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; lines[i]; i++)
        ok = dump_line(sheet, dump, g_strchomp(lines[i]), name, i + 1, diags) && ok;
    g_strfreev(lines);
    if (ok && !dump->words->len) {
        wad_diags_add(diags, WAD_ERROR, &(wad_where){name, 0, 0}, NULL,
                      "the dump is empty: lines of an address or BLOCK.REGISTER and a value");
        ok = false;
    }
    if (ok)
        return dump;
    wad_dump_free(dump);
    return NULL;
}

wad_dump *wad_dump_read(const wad_sheet *sheet, const char *path, wad_diags *diags)
{
    size_t size;
    char *text = wadi_read_file(path, "dump", &size, diags);
    bool is_text = text && strlen(text) == size && g_utf8_validate(text, -1, NULL);
    if (text && !is_text)
        wad_diags_add(diags, WAD_ERROR, &(wad_where){path, 0, 0}, NULL,
                      "this is no dump: lines of an address or BLOCK.REGISTER and a value");
    wad_dump *dump = is_text ? wad_dump_parse(sheet, text, path, diags) : NULL;
    g_free(text);
    return dump;
}

void wad_dump_free(wad_dump *dump)
{
    if (!dump)
        return;
    g_array_free(dump->words, TRUE);
    g_free(dump);
}

unsigned wad_dump_count(const wad_dump *dump)
{
    return dump->words->len;
}

const wad_word *wad_dump_word(const wad_dump *dump, unsigned i)
{
    return i < dump->words->len ? &g_array_index(dump->words, wad_word, i) : NULL;
}
