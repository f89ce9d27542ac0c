/* SPDX-License-Identifier: MIT */
/* Steps as text, as Markdown, and as a function that does them again. */
#include <string.h>

#include "files/quote.h"
#include "record.h"
#include "sheet/chip/c_name.h"

/* ---- pieces ---- */

static char *time_text(uint64_t ps)
{
    return ps < UINT64_C(1000000000)      ? g_strdup_printf("%.3f us", (double)ps / 1e6)
           : ps < UINT64_C(1000000000000) ? g_strdup_printf("%.3f ms", (double)ps / 1e9)
                                          : g_strdup_printf("%.6f s", (double)ps / 1e12);
}

static char *place_text(const wad_place *place)
{
    if (!place->file)
        return g_strdup("");
    char *file = g_path_get_basename(place->file);
    char *text = place->function ? g_strdup_printf("%s:%u %s", file, place->line, place->function)
                                 : g_strdup_printf("%s:%u", file, place->line);
    g_free(file);
    return text;
}

static char *register_name(const wad_step *step)
{
    wad_fieldref ref = {.block = step->block, .reg = step->reg, .reg_index = step->reg_index};
    return wad_fieldref_name(&ref);
}

/* "0 xtal", "1" */
static void value_text(GString *text, const wad_bitfield *f, uint64_t value)
{
    const wad_enumerator *e = wad_bitfield_enum(f, value);
    g_string_append_printf(text, "%llu%s%s", (unsigned long long)value, e ? " " : "",
                           e ? e->name : "");
}

/* "EN 0 > 1, MODE 0 up > 1 down"; a flag or strobe that was written 1 is named alone. */
static char *changes_text(const wad_step *step)
{
    const wad_register *reg = step->reg->alias ? step->reg->alias_of : step->reg;
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        unsigned first = f->count > f->per_reg ? step->reg_index * f->per_reg : 0;
        for (unsigned k = 0; f->name && k < (f->count ? f->per_reg : 1u); k++) {
            wad_fieldref ref = {
                .field = f, .lsb = (uint8_t)(f->lsb + k * f->step), .width = f->width};
            uint32_t mask = (uint32_t)wad_fieldref_mask(&ref);
            bool strobe = step->kind == WAD_STEP_WRITE && step->value & mask &&
                          (f->access == WAD_ACCESS_WO || f->access == WAD_ACCESS_W1C);
            if (!((step->before ^ step->after) & mask) && !strobe)
                continue;
            g_string_append_printf(text, "%s%s", text->len ? ", " : "", f->name);
            if (f->count)
                g_string_append_printf(text, "[%u]", first + k);
            g_string_append_c(text, ' ');
            if ((step->before ^ step->after) & mask) {
                value_text(text, f, (step->before & mask) >> ref.lsb);
                g_string_append(text, " > ");
                value_text(text, f, (step->after & mask) >> ref.lsb);
            } else {
                g_string_append(text, "written 1");
            }
        }
    }
    return g_string_free(text, FALSE);
}

/* ---- text ---- */

#define COLUMNS 79
#define INDENT  6

/* Words below each other, from a column on. */
static void put_wrapped(FILE *out, const char *lead, const char *text)
{
    unsigned column = INDENT + (unsigned)strlen(lead);
    char **words = g_strsplit(text, " ", -1);
    fprintf(out, "%*s%s", INDENT, "", lead);
    for (unsigned i = 0; words[i]; i++) {
        unsigned n = (unsigned)strlen(words[i]);
        if (i && column + 1 + n > COLUMNS) {
            fprintf(out, "\n%*s", INDENT + (int)strlen(lead), "");
            column = INDENT + (unsigned)strlen(lead);
        } else if (i) {
            fputc(' ', out);
            column++;
        }
        fputs(words[i], out);
        column += n;
    }
    fputc('\n', out);
    g_strfreev(words);
}

static char *headline(const wad_step *step)
{
    char *name = step->block ? register_name(step) : NULL, *text;
    if (step->kind == WAD_STEP_WRITE) {
        text = g_strdup_printf("write %s = 0x%0*X", name, step->reg->width / 4, step->value);
        if (step->count > 1) {
            char *more = g_strdup_printf("%s, %u times", text, step->count);
            g_free(text);
            text = more;
        }
    } else if (step->kind == WAD_STEP_WAIT && step->count > 1) {
        char *took = time_text(step->end_ps - step->ps);
        text = g_strdup_printf("wait for %s, %s, %u looks", name, took, step->count);
        g_free(took);
    } else if (step->kind == WAD_STEP_WAIT) {
        text = g_strdup_printf("look at %s = 0x%0*X", name, step->reg->width / 4, step->value);
    } else {
        text = g_strdup("");
    }
    g_free(name);
    return text;
}

/* What changes and what for: on one line where they fit. */
static void show_why(const char *changes, const char *reason, FILE *out)
{
    size_t room = COLUMNS - INDENT - 4;
    if (*changes && reason && strlen(changes) + strlen(reason) <= room) {
        fprintf(out, "%*s%s -- %s\n", INDENT, "", changes, reason);
        return;
    }
    if (*changes)
        put_wrapped(out, "", changes);
    if (reason)
        put_wrapped(out, "-- ", reason);
}

static void show_step(const wad_step *step, unsigned number, FILE *out)
{
    char *when = time_text(step->ps), *where = place_text(&step->place);
    if (step->kind == WAD_STEP_FINDING) {
        fprintf(out, "  !   at %s  %s\n", when, where);
        put_wrapped(out, "", step->warning);
    } else {
        char *head = headline(step), *changes = changes_text(step);
        fprintf(out, "%4u  %-44s %12s  %s\n", number, head, when, where);
        show_why(changes, step->reason, out);
        if (step->warning)
            put_wrapped(out, "!  ", step->warning);
        g_free(changes);
        g_free(head);
    }
    g_free(where);
    g_free(when);
}

void wad_show_steps(const wad_steps *s, FILE *out)
{
    unsigned number = 0;
    fprintf(out, "%s: %s\n\n", s->sheet->name, s->title);
    for (guint i = 0; i < s->list->len; i++) {
        const wad_step *step = &g_array_index(s->list, wad_step, i);
        number += step->kind != WAD_STEP_FINDING;
        show_step(step, number, out);
    }
    if (s->warnings)
        fprintf(out, "\n%u step%s, %u thing%s out of order, missing or wrong (!)\n", number,
                number == 1 ? "" : "s", s->warnings, s->warnings == 1 ? "" : "s");
    else
        fprintf(out, "\n%u step%s, in order\n", number, number == 1 ? "" : "s");
}

/* ---- Markdown ---- */

static void cell(FILE *out, const char *text)
{
    fputs(" ", out);
    wadi_markdown_text(out, text);
    fputs(" |", out);
}

void wad_show_steps_markdown(const wad_steps *s, FILE *out)
{
    unsigned number = 0;
    fprintf(out, "# %s: ", s->sheet->name);
    wadi_markdown_text(out, s->title);
    fputs("\n\n", out);
    fputs("| step | time | what | fields | why | where |\n|---|---|---|---|---|---|\n", out);
    for (guint i = 0; i < s->list->len; i++) {
        const wad_step *step = &g_array_index(s->list, wad_step, i);
        bool finding = step->kind == WAD_STEP_FINDING;
        char *when = time_text(step->ps), *where = place_text(&step->place);
        char *head = headline(step), *changes = finding ? g_strdup("") : changes_text(step);
        char *why = g_strdup_printf(
            "%s%s%s%s", step->reason ? step->reason : "", step->reason && step->warning ? "; " : "",
            step->warning ? "**wrong:** " : "", step->warning ? step->warning : "");
        char *label = finding ? g_strdup("!") : g_strdup_printf("%u", ++number);
        fputc('|', out);
        const char *cells[] = {label, when, head, changes, why, where};
        for (unsigned k = 0; k < G_N_ELEMENTS(cells); k++)
            cell(out, cells[k]);
        fputc('\n', out);
        g_free(label);
        g_free(why);
        g_free(changes);
        g_free(head);
        g_free(where);
        g_free(when);
    }
}

/* ---- C ---- */

static char *c_register(const wad_steps *s, const wad_step *step)
{
    const wad_fieldref ref = {.block = step->block, .reg = step->reg, .reg_index = step->reg_index};
    return wadi_emit_place(s->sheet, &ref);
}

static char *statement(const wad_steps *s, const wad_step *step)
{
    char *name = c_register(s, step), *text;
    uint32_t changed = step->before ^ step->after;
    if (step->kind == WAD_STEP_WRITE && step->count > 1)
        text = g_strdup_printf("for (unsigned n = 0; n < %u; n++) %s = 0x%0*Xu;", step->count, name,
                               step->reg->width / 4, step->value);
    else if (step->kind == WAD_STEP_WRITE)
        text = g_strdup_printf("%s = 0x%0*Xu;", name, step->reg->width / 4, step->value);
    else if (changed)
        text = g_strdup_printf("while ((%s & 0x%Xu) != 0x%Xu) {}", name, changed,
                               step->after & changed);
    else
        text = g_strdup_printf("(void)%s;", name);
    g_free(name);
    return text;
}

/* The reason behind the statement, or above it where the line would be long. */
static void show_step_c(const wad_steps *s, const wad_step *step, FILE *out)
{
    char *text = statement(s, step);
    const char *why = wadi_comment_text(step->reason);
    if (*why && strlen(text) + strlen(why) > 84)
        fprintf(out, "    /* %s */\n    %s\n", why, text);
    else if (*why)
        fprintf(out, "    %s /* %s */\n", text, why);
    else
        fprintf(out, "    %s\n", text);
    g_free(text);
}

void wad_show_steps_c(const wad_steps *s, const char *function, FILE *out)
{
    char *lower = g_ascii_strdown(s->sheet->name, -1);
    fprintf(out,
            "/* %s:\n"
            " * the register writes and waits, in order, as recorded by wadium steps.\n"
            " * Waits have no limit here: add one where a source may fail to start. */\n"
            "#include \"%s.h\"\n\nvoid %s(void);\n\nvoid %s(void)\n{\n",
            wadi_comment_text(s->title), lower, function, function);
    for (guint i = 0; i < s->list->len; i++) {
        const wad_step *step = &g_array_index(s->list, wad_step, i);
        if (step->kind != WAD_STEP_FINDING)
            show_step_c(s, step, out);
    }
    fputs("}\n", out);
    g_free(lower);
}
