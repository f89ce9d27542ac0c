/* SPDX-License-Identifier: MIT */
#include "block_name.h"

#include <glib.h>
#include <string.h>

#define PARTS 3 /* BLOCK.UNIT[3], and a flag behind it */

/* `NAME`, `NAME[3]` as text at `at`, with a dot before it if it is not the first. */
static const wadi_tok *part_at(const wadi_tok *at, bool first, GString *text)
{
    if (!first) {
        if (at->type != WADI_T_PUNCT || strcmp(at->text, "."))
            return NULL;
        at++;
    }
    if (at->type != WADI_T_NAME)
        return NULL;
    g_string_append_printf(text, "%s%s", first ? "" : ".", at->text);
    at++;
    if (at->type == WADI_T_PUNCT && !strcmp(at->text, "[") && at[1].type == WADI_T_NUMBER &&
        at[2].type == WADI_T_PUNCT && !strcmp(at[2].text, "]")) {
        g_string_append_printf(text, "[%lld]", (long long)at[1].number.num);
        at += 3;
    }
    return at;
}

const wad_instance *wadi_take_unit(wadi_cursor *c, const wad_sheet *sheet)
{
    const wad_instance *found = NULL;
    const wadi_tok *behind = c->tok, *at = c->failed ? NULL : c->tok;
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; at && i < PARTS; i++) {
        at = part_at(at, i == 0, text);
        const wad_instance *unit = at ? wad_sheet_block(sheet, text->str) : NULL;
        if (unit) {
            found = unit;
            behind = at;
        }
    }
    g_string_free(text, TRUE);
    c->tok = behind;
    return found;
}

/* Which of its lines the flag has; -1: none. */
static int line_of(const wad_instance *unit, const char *flag)
{
    char *name = g_strdup(flag), *open = strchr(name, '[');
    unsigned element = open ? (unsigned)g_ascii_strtoull(open + 1, NULL, 10) : 0;
    int found = -1;
    if (open)
        *open = 0;
    const wad_role *role = wad_layout_role(unit->layout, name);
    int place = role ? wad_kind_role_index(unit->layout->kind, name) : -1;
    bool asks = place >= 0 && wad_kind_enable_of(unit->layout->kind, (unsigned)place) >= 0 &&
                element < wad_role_count(role) && (open != NULL) == role->indexed;
    for (unsigned i = 0; asks && i < unit->n_irqs && found < 0; i++)
        if (wad_irq_fed(unit, i, role, element, &(wad_fieldref){0}))
            found = unit->irqs[i];
    g_free(name);
    return found;
}

/* "TIM_T0_wrap_irq" */
static const char *capture_name(wadi_cursor *c, const wad_instance *unit, const char *flag)
{
    GString *text = g_string_new(unit->name);
    g_string_append_printf(text, "%s%s_irq", *flag ? "." : "", flag);
    for (char *p = text->str; *p; p++)
        if (*p == '.' || *p == '[')
            *p = '_';
    char *end = text->str;
    for (const char *p = text->str; *p; p++)
        if (*p != ']')
            *end++ = *p;
    char *copy = wadi_arena_strndup(c->src->arena, text->str, (size_t)(end - text->str));
    g_string_free(text, TRUE);
    return copy;
}

bool wadi_take_line(wadi_cursor *c, const wad_sheet *sheet, unsigned *line, const char **name)
{
    wadi_cursor start = *c;
    const wad_instance *unit = wadi_take_unit(c, sheet);
    GString *flag = g_string_new(NULL);
    wad_where where = start.tok->where;
    if (unit && wadi_take_punct(c, ".")) {
        const wadi_tok *behind = part_at(c->tok, true, flag);
        c->tok = behind ? behind : c->tok;
    }
    bool here = unit && wadi_take_word(c, "interrupt");
    if (!here) {
        *c = start;
    } else {
        int number = flag->len ? line_of(unit, flag->str) : unit->n_irqs ? unit->irqs[0] : -1;
        if (number < 0) {
            wadi_error(c->src, &where,
                       flag->len ? "%s %s has no interrupt line for '%s'"
                                 : "%s %s has no interrupt line%s",
                       unit->home ? "unit" : "block", unit->name, flag->len ? flag->str : "");
            c->failed = true;
        } else if (!flag->len && unit->n_irqs > 1) {
            wadi_error(c->src, &where,
                       "%s has %u interrupt lines: name the flag, as in %s.wrap "
                       "interrupt",
                       unit->name, unit->n_irqs, unit->name);
            c->failed = true;
        }
        *line = number < 0 ? 0 : (unsigned)number;
        *name = capture_name(c, unit, flag->str);
    }
    g_string_free(flag, TRUE);
    return here;
}
