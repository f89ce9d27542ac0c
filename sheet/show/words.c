/* SPDX-License-Identifier: MIT */
/* `wadium encode`, `decode`, `diff` and `find`: words as a person reads them. */
#include <glib.h>
#include <string.h>
#include <unistd.h>

#include "address.h"
#include "sheet/chip/c_name.h"
#include "sheet/chip/query.h"
#include "wadium/host/words.h"

#define COLUMNS 80

/* A line without trailing blanks that fits a terminal: what is too long ends in "..". */
static void put_line(FILE *out, char *line)
{
    g_strchomp(line);
    if (strlen(line) > COLUMNS - 1)
        memcpy(line + COLUMNS - 3, "..", 3);
    fprintf(out, "%s\n", line);
    g_free(line);
}

/* Fields, and reserved bits that are set. */
static uint64_t interesting(const wad_word *word)
{
    return ~wad_register_mask(word->ref.reg, WAD_ACCESS_RESERVED) | word->value;
}

/* The k-th element of a field in its register, as a reference of its own. */
static wad_fieldref element(const wad_word *word, const wad_bitfield *f, unsigned k)
{
    wad_fieldref ref = word->ref;
    unsigned first = f->count > f->per_reg ? word->ref.reg_index * f->per_reg : 0;
    ref.field = f;
    ref.index = first + k;
    ref.lsb = (uint8_t)(f->lsb + k * f->step);
    ref.width = f->width;
    return ref;
}

static unsigned elements(const wad_word *word, const wad_bitfield *f)
{
    unsigned first = f->count > f->per_reg ? word->ref.reg_index * f->per_reg : 0;
    return f->count ? MIN(f->per_reg, f->count - first) : 1u;
}

static uint64_t value_of(const wad_word *word, const wad_fieldref *ref)
{
    return (word->value & wad_fieldref_mask(ref)) >> ref->lsb;
}

static char *field_label(const wad_fieldref *ref)
{
    return ref->field->count ? g_strdup_printf("%s[%u]", ref->field->name, ref->index)
                             : g_strdup(ref->field->name);
}

/* "5", "0x1F40 = 8000", "1 down", "9 ADC0.done" */
static char *value_label(const wad_fieldref *ref, uint64_t value)
{
    const wad_bitfield *f = ref->field;
    const wad_enumerator *e = wad_bitfield_enum(f, value);
    const wad_trigger *from = wad_selected(ref->block, f, value);
    if (from) {
        char *name = wad_trigger_name(from);
        char *text = g_strdup_printf("%llu %s", (unsigned long long)value, name);
        g_free(name);
        return text;
    }
    if (e)
        return g_strdup_printf("%llu %s", (unsigned long long)value, e->name);
    if (value > 9)
        return g_strdup_printf("0x%llX = %llu", (unsigned long long)value,
                               (unsigned long long)value);
    return g_strdup_printf("%llu", (unsigned long long)value);
}

static void show_head(const wad_sheet *sheet, const wad_word *word, FILE *out)
{
    char *name = wad_fieldref_name(&word->ref);
    const wad_register *r = word->ref.reg;
    uint64_t address = wad_fieldref_address(&word->ref);
    uint32_t offset = (uint32_t)(address - word->ref.block->base);
    fprintf(out, "%s = 0x%0*llX%s%s\n", name, r->width / 4, (unsigned long long)word->value,
            r->text ? "   " : "", r->text ? r->text : "");
    fputs("at ", out);
    wadi_show_address(sheet, address, out);
    fprintf(out, ", offset 0x%02X bytes = %u words, reset 0x%0*llX%s%s%s\n", offset,
            offset / (sheet->bus_bits / 8u), r->width / 4, (unsigned long long)r->reset,
            r->ref ? " (" : "", r->ref ? r->ref : "", r->ref ? ")" : "");
    fputs("binary ", out);
    for (unsigned bit = r->width; bit-- > 0;)
        fprintf(out, "%d%s", (int)(word->value >> bit & 1), bit && bit % 4 == 0 ? "_" : "");
    fputs("\n\n", out);
    g_free(name);
}

#define TEXT_COLUMN 42

/* What is too long goes on below its description. */
static void put_folded(FILE *out, char *line)
{
    char *from = g_strchomp(line);
    int indent = 0;
    while (indent + (int)strlen(from) > COLUMNS - 1) {
        int at = COLUMNS - 1 - indent;
        while (at > 1 && from[at] != ' ')
            at--;
        if (from[at] != ' ' || (!indent && at <= TEXT_COLUMN))
            break;
        fprintf(out, "%*s%.*s\n", indent, "", at, from);
        from += at + 1;
        indent = TEXT_COLUMN;
    }
    fprintf(out, "%*s%s\n", indent, "", from);
    g_free(line);
}

/* A field without meaning now is grey on a terminal, and says why in any case. */
static void put_field_line(const wad_word *word, const wad_bitfield *f, char *line, FILE *out)
{
    wad_meaning meaning = wad_word_meaning(word, f, NULL);
    bool grey = meaning == WAD_MEANS_NOTHING && isatty(fileno(out));
    fputs(grey ? "\033[90m" : "", out);
    put_folded(out, line);
    if (meaning != WAD_MEANS) {
        char *cond = wad_cond_text(f->when);
        put_line(out, g_strdup_printf("%24s %s only while %s", "",
                                      meaning == WAD_MEANS_NOTHING ? "means nothing now:"
                                                                   : "means something",
                                      cond));
        g_free(cond);
    }
    fputs(grey ? "\033[0m" : "", out);
}

static void show_fields(const wad_word *word, bool encoded, FILE *out)
{
    const wad_register *r = word->ref.reg;
    fprintf(out, "\n%-6s %-12s %-4s %s\n", "bits", "field", "acc", "value");
    for (unsigned i = 0; i < r->n_fields; i++) {
        const wad_bitfield *f = r->fields[i];
        for (unsigned k = 0; f->name && k < elements(word, f); k++) {
            wad_fieldref ref = element(word, f, k);
            uint64_t mask = wad_fieldref_mask(&ref);
            char bits[24], *label = field_label(&ref),
                           *value = value_label(&ref, value_of(word, &ref));
            if (f->width > 1)
                snprintf(bits, sizeof bits, "%u:%u", ref.lsb + f->width - 1u, ref.lsb);
            else
                snprintf(bits, sizeof bits, "%u", ref.lsb);
            const char *left = !encoded || word->given & mask       ? ""
                               : !((word->value ^ r->reset) & mask) ? "(reset)"
                                                                    : "(given)";
            char *line = g_strdup_printf("%-6s %-12s %-4s %-16s %s%s%s", bits, label,
                                         wad_access_word(f->access), value, left,
                                         *left && f->text ? " " : "", f->text ? f->text : "");
            put_field_line(word, f, line, out);
            g_free(label);
            g_free(value);
        }
    }
}

static void show_doubts(const wad_word *word, FILE *out)
{
    char **doubts = wad_word_doubts(word);
    for (unsigned i = 0; doubts[i]; i++)
        fprintf(out, "%swrong: %s\n", i ? "" : "\n", doubts[i]);
    g_strfreev(doubts);
}

static void show_errata(const wad_sheet *sheet, const wad_word *word, FILE *out)
{
    for (unsigned i = 0; i < sheet->n_errata; i++)
        if (wad_erratum_touches(&sheet->errata[i], word->ref.block, word->ref.reg))
            put_line(out, g_strdup_printf("erratum %s", sheet->errata[i].title));
}

/* ---- the C that writes it ---- */

static void c_term(const char *chip, const char *layout, const wad_fieldref *ref, uint64_t value,
                   GString *text)
{
    const wad_bitfield *f = ref->field;
    char *reg = wadi_emit_register(ref->reg, ref->reg_index);
    char *stem = g_strdup_printf("%s_%s_%s_%s", chip, layout, reg, f->name);
    const wad_enumerator *e = wad_bitfield_enum(f, value);
    char *upper = e ? wadi_emit_upper(e->name) : NULL;
    char *number = e ? g_strdup_printf("%s_%s", stem, upper)
                     : g_strdup_printf("%llu", (unsigned long long)value);
    if (text->len)
        g_string_append(text, " |\n        ");
    if (f->count)
        g_string_append_printf(text, "%s_BITS_AT(%s, %u, %s)", chip, stem, ref->index, number);
    else if (f->width == 1 && value)
        g_string_append_printf(text, "%s_MASK", stem);
    else
        g_string_append_printf(text, "%s_BITS(%s, %s)", chip, stem, number);
    g_free(number);
    g_free(upper);
    g_free(stem);
    g_free(reg);
}

static void show_c(const wad_sheet *sheet, const wad_word *word, bool all, FILE *out)
{
    const wad_register *r = word->ref.reg;
    char *chip = wadi_emit_upper(sheet->name),
         *layout = wadi_emit_upper(word->ref.block->layout->name);
    GString *terms = g_string_new(NULL);
    for (unsigned i = 0; i < r->n_fields; i++) {
        const wad_bitfield *f = r->fields[i];
        for (unsigned k = 0; f->name && k < elements(word, f); k++) {
            wad_fieldref ref = element(word, f, k);
            uint64_t value = value_of(word, &ref);
            bool wanted = all || value || (word->given & wad_fieldref_mask(&ref) && f->n_enums);
            if (wanted && f->access != WAD_ACCESS_RO && f->access != WAD_ACCESS_RC)
                c_term(chip, layout, &ref, value, terms);
        }
    }
    char *place = wadi_emit_place(sheet, &word->ref);
    fprintf(out, "\nC:  %s =\n        %s;\n", place, terms->len ? terms->str : "0");
    g_free(place);
    g_string_free(terms, TRUE);
    g_free(chip);
    g_free(layout);
}

void wad_show_encoded(const wad_sheet *sheet, const wad_word *word, bool all, FILE *out)
{
    const wad_register *r = word->ref.reg;
    show_head(sheet, word, out);
    wad_show_bits(r, word->ref.reg_index, word->value,
                  word->given ? word->given : interesting(word), 0, out);
    show_fields(word, true, out);
    show_doubts(word, out);
    show_errata(sheet, word, out);
    show_c(sheet, word, all, out);
}

void wad_show_decoded(const wad_sheet *sheet, const wad_word *word, FILE *out)
{
    show_head(sheet, word, out);
    wad_show_bits(word->ref.reg, word->ref.reg_index, word->value, interesting(word), 0, out);
    show_fields(word, false, out);
    show_doubts(word, out);
    show_errata(sheet, word, out);
}

char *wad_word_field(const wad_word *word, unsigned i, wad_fieldref *ref)
{
    const wad_register *r = word->ref.reg;
    for (unsigned f = 0; f < r->n_fields; f++) {
        unsigned n = r->fields[f]->name ? elements(word, r->fields[f]) : 0;
        if (i >= n) {
            i -= n;
            continue;
        }
        *ref = element(word, r->fields[f], i);
        char *label = field_label(ref), *shown = value_label(ref, value_of(word, ref));
        char *text = g_strdup_printf("%s %s", label, shown);
        g_free(shown);
        g_free(label);
        return text;
    }
    return NULL;
}

void wad_show_word_line(const wad_word *word, FILE *out)
{
    const wad_register *r = word->ref.reg;
    char *name = wad_fieldref_name(&word->ref), *one;
    GString *text = g_string_new(NULL);
    wad_fieldref ref;
    for (unsigned i = 0; (one = wad_word_field(word, i, &ref)); i++) {
        if (value_of(word, &ref) || (!ref.field->count && ref.field->n_enums))
            g_string_append_printf(text, "%s%s", text->len ? ", " : "", one);
        g_free(one);
    }
    char *line = g_strdup_printf("%-16s 0x%0*llX  %s", name, r->width / 4,
                                 (unsigned long long)word->value, text->str);
    fprintf(out, "%s\n", g_strchomp(line)); /* a dump's line is whole, however long */
    char **doubts = wad_word_doubts(word);
    for (unsigned i = 0; doubts[i]; i++)
        fprintf(out, "%-16s wrong: %s\n", "", doubts[i]);
    g_strfreev(doubts);
    g_free(line);
    g_string_free(text, TRUE);
    g_free(name);
}

/* ---- two dumps ---- */

static bool same_register(const wad_word *a, const wad_word *b)
{
    return a->ref.block == b->ref.block && a->ref.reg == b->ref.reg &&
           a->ref.reg_index == b->ref.reg_index;
}

static const wad_word *find_word(const wad_dump *dump, const wad_word *like)
{
    for (unsigned i = 0; i < wad_dump_count(dump); i++)
        if (same_register(wad_dump_word(dump, i), like))
            return wad_dump_word(dump, i);
    return NULL;
}

static unsigned diff_fields(const wad_word *a, const wad_word *b, FILE *out)
{
    const wad_register *r = a->ref.reg;
    unsigned n = 0;
    for (unsigned i = 0; i < r->n_fields; i++) {
        const wad_bitfield *f = r->fields[i];
        for (unsigned k = 0; f->name && k < elements(a, f); k++) {
            wad_fieldref ref = element(a, f, k);
            if (value_of(a, &ref) == value_of(b, &ref))
                continue;
            char *name = wad_fieldref_name(&ref);
            char *was = value_label(&ref, value_of(a, &ref)),
                 *is = value_label(&ref, value_of(b, &ref));
            fprintf(out, "%-24s %-16s -> %s\n", name, was, is);
            g_free(name);
            g_free(was);
            g_free(is);
            n++;
        }
    }
    uint64_t reserved = wad_register_mask(r, WAD_ACCESS_RESERVED) & (a->value ^ b->value);
    if (reserved) {
        char *name = wad_fieldref_name(&a->ref);
        fprintf(out, "%-24s reserved bits 0x%llx differ\n", name, (unsigned long long)reserved);
        g_free(name);
        n++;
    }
    return n;
}

static unsigned tell_missing(const wad_dump *from, const wad_dump *in, const char *what, FILE *out)
{
    unsigned n = 0;
    for (unsigned i = 0; i < wad_dump_count(from); i++) {
        const wad_word *w = wad_dump_word(from, i);
        if (find_word(in, w))
            continue;
        char *name = wad_fieldref_name(&w->ref);
        fprintf(out, "%-24s only in the %s dump\n", name, what);
        g_free(name);
        n++;
    }
    return n;
}

unsigned wad_dump_diff(const wad_dump *before, const wad_dump *after, FILE *out)
{
    unsigned n = 0;
    for (unsigned i = 0; i < wad_dump_count(before); i++) {
        const wad_word *a = wad_dump_word(before, i), *b = find_word(after, a);
        if (b && a->value != b->value)
            n += diff_fields(a, b, out);
    }
    return n + tell_missing(before, after, "first", out) +
           tell_missing(after, before, "second", out);
}

/* ---- find ---- */

typedef struct search {
    const char *text; /* in small letters */
    FILE *out;
    unsigned n;
} search;

static bool matches(const search *s, const char *text)
{
    if (!text)
        return false;
    char *lower = g_ascii_strdown(text, -1);
    bool found = strstr(lower, s->text) != NULL;
    g_free(lower);
    return found;
}

static void found(search *s, const char *name, const char *what, const char *text)
{
    put_line(s->out, g_strdup_printf("%-22s %-8s %s", name, what, text ? text : ""));
    s->n++;
}

static void find_in_field(search *s, const char *reg, const wad_bitfield *f)
{
    char *full = g_strdup_printf("%s.%s", reg, f->name);
    if (matches(s, f->name) || matches(s, f->text))
        found(s, full, "field", f->text);
    for (unsigned i = 0; i < f->n_enums; i++)
        if (matches(s, f->enums[i].name)) {
            char *value =
                g_strdup_printf("%llu %s", (unsigned long long)f->enums[i].code, f->enums[i].name);
            found(s, full, "value", value);
            g_free(value);
        }
    g_free(full);
}

static void find_in_block(search *s, const wad_sheet *sheet, const wad_instance *b)
{
    if (matches(s, b->name) || matches(s, b->text))
        found(s, b->name, "block", b->text);
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(b->layout, &at)) != NULL;) {
        wad_fieldref ref = {.block = b, .reg = r, .reg_index = at.element};
        char *full =
            at.is_element ? wad_fieldref_name(&ref) : g_strdup_printf("%s.%s", b->name, r->name);
        ref.reg_index = at.is_element ? at.element : 0;
        char at_text[64];
        wad_format_address(sheet, wad_fieldref_address(&ref), at_text, sizeof at_text);
        char *address = g_strdup_printf("%s  %s", at_text, r->text ? r->text : "");
        if (matches(s, r->name) || matches(s, r->text) || matches(s, r->ref))
            found(s, full, "register", address);
        for (unsigned k = 0; !r->alias && k < r->n_fields; k++)
            if (r->fields[k]->name && !(r->n_fields == 1 && !strcmp(r->fields[k]->name, "VALUE")))
                find_in_field(s, full, r->fields[k]);
        g_free(address);
        g_free(full);
    }
    for (unsigned i = 0; i < b->n_signals; i++)
        if (matches(s, b->signals[i].name)) {
            char *full = g_strdup_printf("%s.%s", b->name, b->signals[i].name);
            found(s, full, "signal", NULL);
            g_free(full);
        }
}

static void find_address(search *s, const wad_sheet *sheet, const char *text)
{
    wad_fieldref ref;
    uint64_t address;
    bool whole = g_str_has_prefix(text, "0x") || strchr(text, ':');
    char *hex = whole ? g_strdup(text) : g_strconcat("0x", text, NULL);
    if (strlen(text) >= 4 && wad_parse_address(sheet, hex, &address) &&
        wad_sheet_at(sheet, address, &ref)) {
        char *name = wad_fieldref_name(&ref);
        found(s, name, "address", ref.reg->text);
        g_free(name);
    }
    g_free(hex);
}

unsigned wad_find(const wad_sheet *sheet, const char *text, FILE *out)
{
    char *lower = g_ascii_strdown(text, -1);
    search s = {lower, out, 0};
    find_address(&s, sheet, lower);
    for (unsigned i = 0; i < sheet->n_clocks; i++)
        if (matches(&s, sheet->clocks[i]->name))
            found(&s, sheet->clocks[i]->name, "clock", NULL);
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        find_in_block(&s, sheet, sheet->blocks[i]);
    for (unsigned i = 0; i < sheet->n_errata; i++)
        if (matches(&s, sheet->errata[i].title) || matches(&s, sheet->errata[i].workaround))
            found(&s, "erratum", "", sheet->errata[i].title);
    for (unsigned i = 0; i < sheet->n_pins; i++)
        if (matches(&s, sheet->pins[i].name))
            found(&s, sheet->pins[i].name, "pin", NULL);
    g_free(lower);
    return s.n;
}
