/* SPDX-License-Identifier: MIT */
/* `line 1 TIMERS "timers" { enabled ENA.T0, priority URG.T0 first high }`: what the chip says of an
 * interrupt line itself. */
#include <string.h>

#include "build.h"
#include "path.h"
#include "place.h"
#include "sheet/chip/query.h"

/* One place of the chip, one element. */
static void take_place(wadi_build *b, wadi_cursor *c, const char *word, wad_role_place *place)
{
    wad_role role = {.name = word, .where = c->tok->where};
    if (place->width) {
        wadi_error(b->src, &role.where, "the line's '%s' stands above already", word);
        c->failed = true;
    } else if (wadi_bind_place(b, c, NULL, NULL, NULL, &role)) {
        *place = role.places[0];
        if (place->n_parts > 4) {
            wadi_error(b->src, &role.where, "'%s' lies in more than four places", word);
            c->failed = true;
        }
        if (!place->width) /* `always 0` */
            place->width = 1;
    }
}

static void parse_item(wadi_build *b, const wadi_stmt *stmt, wad_line_def *line)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    if (wadi_take_word(&c, "enabled")) {
        take_place(b, &c, "enabled", &line->enabled);
    } else if (wadi_take_word(&c, "pending")) {
        wad_where where = c.tok->where;
        take_place(b, &c, "pending", &line->pending);
        if (!c.failed && (line->pending.n_parts != 1 || line->pending.parts[0].low)) {
            wadi_error(b->src, &where, "a line shows that it is pending in one field, as it is");
            c.failed = true;
        }
    } else if (wadi_take_word(&c, "priority")) {
        wad_where where = c.tok->where;
        take_place(b, &c, "priority", &line->priority);
        if (wadi_need_word(&c, "first")) {
            line->first_high = wadi_at_word(&c, "high");
            if (!wadi_take_word(&c, "high") && !wadi_take_word(&c, "low"))
                wadi_expected(&c, "'high' or 'low': which priority goes first");
        }
        if (!c.failed && line->priority.width > 31) {
            wadi_error(b->src, &where, "a priority has at most 31 bits");
            c.failed = true;
        }
    } else {
        wadi_expected(&c, "'enabled', 'pending' or 'priority'");
    }
    wadi_need_end(&c);
}

void wadi_build_line(wadi_build *b, const wadi_stmt *stmt, GArray *lines)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    wad_line_def line = {0};
    int64_t number;
    c.tok++;
    line.where = c.tok->where;
    if (!wadi_parse_int(b, &c, NULL, "an interrupt line", 0, 255, &number))
        return;
    line.line = (unsigned)number;
    if (c.tok->type == WADI_T_NAME)
        line.name = (c.tok++)->text;
    if (c.tok->type == WADI_T_STRING)
        line.text = (c.tok++)->text;
    const wadi_group *group = wadi_take_group(&c);
    for (unsigned i = 0; group && i < group->n; i++)
        parse_item(b, &group->stmts[i], &line);
    for (guint i = 0; i < lines->len; i++)
        if (g_array_index(lines, wad_line_def, i).line == line.line) {
            wadi_error(b->src, &line.where, "line %u stands twice", line.line);
            return;
        }
    if (wadi_need_end(&c))
        g_array_append_val(lines, line);
}

/* `on entry { FIELD = NUMBER ... }`: each statement three tokens or a path, and a number. */
bool wadi_is_core_step(const wadi_stmt *stmt)
{
    const wadi_tok *t = stmt->toks;
    bool core = stmt->n == 3 && t[1].type == WADI_T_NAME &&
                (!strcmp(t[1].text, "entry") || !strcmp(t[1].text, "exit")) &&
                t[2].type == WADI_T_GROUP;
    for (unsigned i = 0; core && i < t[2].group->n; i++) {
        const wadi_stmt *s = &t[2].group->stmts[i];
        core = s->n >= 3 && wadi_is_mark(&s->toks[s->n - 2], "=") &&
               s->toks[s->n - 1].type == WADI_T_NUMBER;
    }
    return core;
}

/* `on entry { CPU.STATUS.I = 0 }`, `on exit { ... }`: what the core does by itself. */
void wadi_build_on(wadi_build *b, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    c.tok++;
    bool entry = wadi_at_word(&c, "entry");
    wad_where where = c.tok->where;
    if (!wadi_is_core_step(stmt)) /* a hook */
        return;
    c.tok++;
    if (entry ? b->sheet->n_entry : b->sheet->n_exit) {
        wadi_error(b->src, &where, "'on %s' stands above already", entry ? "entry" : "exit");
        return;
    }
    const wadi_group *group =
        wadi_need_group(&c, "'{' and what is written, as in CPU.STATUS.I = 0");
    if (!group || !wadi_need_end(&c))
        return;
    GArray *list = g_array_new(FALSE, FALSE, sizeof(wad_assign));
    for (unsigned i = 0; i < group->n; i++) {
        wadi_cursor at = wadi_cursor_at(b->src, &group->stmts[i]);
        wadi_path path;
        wad_assign set;
        int64_t value;
        if (!wadi_parse_path(&at, NULL, &path) || !wadi_resolve(b, NULL, NULL, &path, &set.ref) ||
            !wadi_need_punct(&at, "=") ||
            !wadi_parse_int(b, &at, NULL, "the field's value", 0,
                            (INT64_C(1) << MIN(set.ref.width, 32)) - 1, &value) ||
            !wadi_need_end(&at))
            continue;
        set.value = (uint64_t)value;
        g_array_append_val(list, set);
    }
    const wad_assign *all = wadi_arena_copy(b->arena, list->data, list->len, sizeof(wad_assign));
    *(entry ? &b->sheet->entry : &b->sheet->exit) = all;
    *(entry ? &b->sheet->n_entry : &b->sheet->n_exit) = list->len;
    g_array_free(list, TRUE);
}

/* Where each line may come into each handler, the one that is served comes at once again unless
 * something closes the mask. */
void wadi_check_nesting(wadi_build *b, const wad_where *chip)
{
    const wad_sheet *s = b->sheet;
    bool closes = false;
    for (unsigned i = 0; i < s->n_entry; i++)
        closes =
            closes || (wadi_same_field(&s->entry[i].ref, &s->cpu.global) && !s->entry[i].value);
    if (s->cpu.nests == WAD_NESTS_ALWAYS && !(s->cpu.global.reg && closes))
        wadi_error(b->src, chip,
                   "'nests always' goes with a mask that the core closes at the entry: cpu ... "
                   "global CPU.STATUS.I, and on entry { CPU.STATUS.I = 0 }");
}

/* The unit of kind interrupts that has a line already: both would say who masks it. */
static const wad_instance *governor(const wad_sheet *s, const wad_line_def *line)
{
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_layout *l = s->blocks[i]->layout;
        const wad_role *enable = wad_acts_as(l, "interrupts") ? wad_layout_role(l, "enable") : NULL;
        if (enable && line->line < wad_role_count(enable))
            return s->blocks[i];
    }
    return NULL;
}

void wadi_check_lines(wadi_build *b)
{
    const wad_sheet *s = b->sheet;
    for (unsigned i = 0; i < s->n_lines; i++) {
        const wad_line_def *line = &s->lines[i];
        const wad_instance *by = governor(s, line);
        if (by && (line->enabled.width || line->priority.width || line->pending.width))
            wadi_error(
                b->src, &line->where,
                "line %u belongs to %s, whose roles say when it is enabled and how urgent it "
                "is: leave that out here, or the line out of its arrays",
                line->line, by->name);
    }
}
