/* SPDX-License-Identifier: MIT */
/*
 * Corrections: `change` and `without` in blocks and errata.
 *
 * They are collected before any layout is built and carried out while it is: a block's first, then
 * errata, each over what the layout says. A block with changes of its own has a layout of its own.
 */
#include <string.h>

#include "layout.h"
#include "path.h"
#include "register_words.h"

/* ---- collecting ---- */

bool wadi_change_is_for(const wadi_change *change, const char *layout, const char *block)
{
    bool is_layout = change->owner && !strcmp(change->owner, layout);
    bool is_block = change->owner && block && !strcmp(change->owner, block);
    return (is_layout && change->level != WADI_CHANGE_BLOCK) ||
           (is_block && change->level != WADI_CHANGE_LAYOUT);
}

bool wadi_has_changes(const wadi_build *b, const char *owner)
{
    for (guint i = 0; i < b->changes->len; i++) {
        const wadi_change *change = b->changes->pdata[i];
        if (change->owner && change->level != WADI_CHANGE_LAYOUT && !strcmp(change->owner, owner))
            return true;
    }
    return false;
}

/* What a statement behind its path would set, as words. */
static const char *property_of(const wadi_tok *tok)
{
    static const char *const words[] = {"at",  "reset",  "ref",  "width",  "locked",
                                        "not", "stable", "when", "within", "tolerance",
                                        "on",  "ready",  "after"};
    static const char *const accesses[] = {"rw", "ro", "wo", "w1c", "w1s", "w0c", "rc"};
    if (tok->type == WADI_T_STRING)
        return "description";
    if (tok->type == WADI_T_GROUP)
        return "list";
    for (unsigned i = 0; tok->type == WADI_T_NAME && i < G_N_ELEMENTS(words); i++)
        if (!strcmp(tok->text, words[i]))
            return words[i];
    for (unsigned i = 0; tok->type == WADI_T_NAME && i < G_N_ELEMENTS(accesses); i++)
        if (!strcmp(tok->text, accesses[i]))
            return "access";
    return NULL;
}

void wadi_claim_properties(wadi_build *b, const wadi_change *change)
{
    bool ref = false; /* the text behind `ref` is no description */
    for (const wadi_tok *tok = change->at.tok;; tok++) {
        const char *property = change->without ? "existence" : ref ? NULL : property_of(tok);
        ref = !change->without && property && !strcmp(property, "ref");
        if (property) {
            const char *key = wadi_arena_printf(
                b->arena, "%d %s %s %s", change->level,
                change->clock ? change->clock : change->owner,
                change->path ? wadi_path_text(b->arena, change->path) : "", property);
            if (!g_hash_table_add(b->claims, (gpointer)key))
                wadi_error(change->at.src, &change->where,
                           "two changes of one level set the %s of this: the order would decide",
                           property);
        }
        if (change->without || tok->type == WADI_T_END)
            return;
    }
}

/* More than one index, or one where no register of an array can stand. */
static bool is_odd(const wadi_path *path, unsigned first)
{
    bool odd = path->n <= first || path->n > first + 3 || (first && path->index[0] >= 0);
    for (unsigned i = 0; i < path->n; i++)
        odd |= path->index_name[i] != NULL;
    return odd;
}

static wadi_change *parse_change(wadi_build *b, wadi_cursor *c, const char *owner, bool is_layout)
{
    wadi_change *change = WADI_NEW(b->arena, wadi_change);
    wadi_path *path = WADI_NEW(b->arena, wadi_path);
    change->without = wadi_at_word(c, "without");
    change->level = is_layout ? WADI_CHANGE_LAYOUT
                    : owner   ? WADI_CHANGE_BLOCK
                              : WADI_CHANGE_ERRATUM;
    c->tok++;
    change->where = c->tok->where;
    if (!owner && !change->without && wadi_at_word(c, "clock") && c->tok[1].type == WADI_T_NAME) {
        c->tok++;
        change->clock = wadi_need_name(c, "the clock's name");
        change->at = *c;
        return change;
    }
    if (!wadi_parse_path(c, NULL, path))
        return NULL;
    change->first = owner ? 0 : 1;
    change->owner = owner ? owner : path->name[0];
    if (is_odd(path, change->first)) {
        wadi_error(c->src, &path->where, "name what is meant as %s, one of an array as CC[0].FLAG",
                   owner ? "REGISTER or REGISTER.FIELD" : "BLOCK.REGISTER or BLOCK.REGISTER.FIELD");
        c->failed = true;
        return NULL;
    }
    change->path = path;
    change->at = *c;
    if (change->without && !wadi_need_end(c))
        return NULL;
    return change;
}

/* `owner` NULL: the path begins with a block or a layout. */
static wadi_change *collect(wadi_build *b, wadi_cursor *c, const char *owner, bool is_layout)
{
    wadi_change *change = parse_change(b, c, owner, is_layout);
    if (!change)
        return NULL;
    if (!change->without && change->at.tok->type == WADI_T_END) {
        wadi_expected(c, "what changes: an access, a description, 'reset', 'at', a list ...");
        return NULL;
    }
    wadi_claim_properties(b, change);
    g_ptr_array_add(b->changes, change);
    return change;
}

void wadi_collect_changes(wadi_build *b, const char *owner, bool is_layout, const wadi_group *body)
{
    for (unsigned i = 0; body && i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (wadi_at_word(&c, "change") || (!is_layout && wadi_at_word(&c, "without")))
            collect(b, &c, owner, is_layout);
    }
}

/* `affects UART0.CTRL`: shown there, changes nothing. */
static bool parse_affects(wadi_cursor *c, wad_erratum_place *place)
{
    wadi_path path;
    c->tok++;
    if (wadi_at_word(c, "clock") && c->tok[1].type == WADI_T_NAME) {
        c->tok++;
        place->clock = wadi_need_name(c, "the clock's name");
        return wadi_need_end(c);
    }
    if (!wadi_parse_path(c, NULL, &path) || !wadi_need_end(c))
        return false;
    *place = (wad_erratum_place){.owner = path.name[0],
                                 .reg = path.n > 1 ? path.name[1] : NULL,
                                 .field = path.n > 2 ? path.name[2] : NULL};
    return true;
}

static void parse_erratum_item(wadi_build *b, const wadi_source *src, const wadi_stmt *stmt,
                               GArray *places, GPtrArray *found)
{
    wadi_cursor c = wadi_cursor_at(src, stmt);
    wad_erratum_place place = {0};
    const wadi_change *change = NULL;
    if (wadi_at_word(&c, "change") || wadi_at_word(&c, "without")) {
        change = collect(b, &c, NULL, false);
        if (!change)
            return;
        place = (wad_erratum_place){.owner = change->owner, .clock = change->clock};
    } else if (wadi_at_word(&c, "affects")) {
        if (!parse_affects(&c, &place))
            return;
    } else {
        wadi_expected(&c, "'change', 'without' or 'affects'");
        return;
    }
    g_array_append_val(places, place);
    g_ptr_array_add(found, (gpointer)change);
}

void wadi_collect_erratum(wadi_build *b, const wadi_source *src, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(src, stmt);
    wad_erratum erratum = {.where = c.tok->where};
    c.tok++;
    erratum.title = wadi_need_string(&c, "the erratum in quotes, such as \"E7: ...\"");
    while (!c.failed && c.tok->type == WADI_T_NAME) {
        if (wadi_take_word(&c, "ref"))
            erratum.ref = wadi_need_string(&c, "a reference in quotes");
        else if (wadi_take_word(&c, "workaround"))
            erratum.workaround = wadi_need_string(&c, "the workaround in quotes");
        else
            wadi_expected(&c, "'ref', 'workaround' or '{'");
    }
    const wadi_group *body = wadi_need_group(&c, "'{' and what it changes or affects");
    if (!body || !wadi_need_end(&c))
        return;
    GArray *places = g_array_new(FALSE, FALSE, sizeof(wad_erratum_place));
    GPtrArray *found = g_ptr_array_new(); /* the change of each place, NULL: none */
    for (unsigned i = 0; i < body->n; i++)
        parse_erratum_item(b, src, &body->stmts[i], places, found);
    erratum.n_places = places->len;
    wad_erratum_place *copy =
        wadi_arena_copy(b->arena, places->data, places->len, sizeof(wad_erratum_place));
    for (guint i = 0; i < found->len; i++)
        if (found->pdata[i]) /* what it touches is known when it is carried out */
            ((wadi_change *)found->pdata[i])->place = &copy[i];
    erratum.places = copy;
    g_ptr_array_free(found, TRUE);
    g_array_free(places, TRUE);
    g_array_append_val(b->errata, erratum);
}

/* ---- carrying out ---- */

/* Is there a description among what follows? That behind `ref` is none. */
static bool describes(const wadi_cursor *c)
{
    bool ref = false, found = false;
    for (const wadi_tok *t = c->tok; t->type != WADI_T_END; t++) {
        found = found || (t->type == WADI_T_STRING && !ref);
        ref = t->type == WADI_T_NAME && !strcmp(t->text, "ref");
    }
    return found;
}

/* `at 7:6`, an access, a description stand before what every field may have. */
static void change_field(layout_build *lb, wadi_cursor *c, wad_register *reg, wad_bitfield *field)
{
    int64_t lsb, msb;
    if (wadi_take_word(c, "at")) {
        if (!wadi_parse_bits(lb, c, reg, &lsb, &msb))
            return;
        field->lsb = (uint8_t)lsb;
        field->width = (uint8_t)(msb - lsb + 1);
    }
    if (wadi_at_access(c))
        field->access = wadi_parse_access(c);
    if (describes(c))
        field->text = NULL;
    wadi_parse_field_attrs(lb, c, field);
}

static guint field_named(GPtrArray *fields, const char *name)
{
    guint i = 0;
    while (i < fields->len && (!((wad_bitfield *)fields->pdata[i])->name ||
                               strcmp(((wad_bitfield *)fields->pdata[i])->name, name)))
        i++;
    return i;
}

/* Fields that stand in the list replace those of their name; the others stay. */
static void replace_fields(layout_build *lb, const wadi_source *src, const wadi_group *group,
                           wad_register *reg, GPtrArray *fields)
{
    for (unsigned i = 0; i < group->n; i++) {
        wadi_cursor c = wadi_cursor_at(src, &group->stmts[i]);
        wad_bitfield *field = wadi_parse_field(lb, &c, reg);
        if (!field)
            continue;
        guint at = field->name ? field_named(fields, field->name) : fields->len;
        if (at < fields->len)
            fields->pdata[at] = field;
        else
            g_ptr_array_add(fields, field);
    }
}

static void change_register(layout_build *lb, wadi_cursor *c, wad_register *reg, GPtrArray *fields)
{
    int64_t offset;
    if (wadi_take_word(c, "at") &&
        wadi_parse_int(lb->b, c, lb->env, "the offset in bytes", 0, 65535, &offset))
        reg->offset = (uint32_t)offset;
    if (wadi_at_access(c)) {
        wad_access was = reg->access;
        reg->access = wadi_parse_access(c);
        for (guint i = 0; i < fields->len; i++) {
            wad_bitfield *f = fields->pdata[i];
            if (f->access == was) /* it had the register's */
                f->access = reg->access;
        }
    }
    if (describes(c))
        reg->text = NULL;
    wadi_parse_reg_attrs(lb, c, reg);
    const wadi_group *group = wadi_take_group(c);
    if (group)
        replace_fields(lb, c->src, group, reg, fields);
    wadi_need_end(c);
}

/* Does the path name this register, and which element (-1: all), and which field behind it? By its
 * own name, or in its group. */
static bool names(const wadi_change *change, const wad_register *reg, int64_t *element,
                  const char **field)
{
    const wadi_path *p = change->path;
    unsigned at = change->first;
    *element = p->index[at];
    if (!strcmp(p->name[at], reg->name)) {
        *field = at + 1 < p->n ? p->name[at + 1] : NULL;
        return at + 2 >= p->n && (at + 1 >= p->n || p->index[at + 1] < 0);
    }
    if (!reg->group || at + 1 >= p->n || strcmp(p->name[at], reg->group->name) ||
        strcmp(p->name[at + 1], reg->member))
        return false;
    if (reg->is_array_member && *element >= 0 && *element != reg->group_index)
        return false;
    if (reg->is_array_member || !reg->group->count)
        *element = p->index[at + 1];
    *field = at + 2 < p->n ? p->name[at + 2] : NULL;
    return at + 3 >= p->n && (at + 2 >= p->n || p->index[at + 2] < 0);
}

static bool applies(const layout_build *lb, const wadi_change *change, const wad_register *reg,
                    int64_t *element, const char **field)
{
    return change->path && wadi_change_is_for(change, lb->layout->base, lb->block) &&
           names(change, reg, element, field);
}

bool wadi_changes_element(const layout_build *lb, const wad_register *reg, uint32_t element)
{
    const GPtrArray *changes = lb->b->changes;
    int64_t which;
    const char *field;
    for (guint i = 0; i < changes->len; i++)
        if (applies(lb, changes->pdata[i], reg, &which, &field) && which == (int64_t)element)
            return true;
    return false;
}

static bool refuse(wadi_change *change, const char *what)
{
    wadi_error(change->at.src, &change->where, "%s", what);
    change->met = true;
    return true;
}

static void is_met(wadi_change *change, const wad_register *reg, const char *field)
{
    change->met = true;
    change->reg = reg->name;
    change->field = field;
    if (change->place) {
        change->place->reg = reg->name;
        change->place->field = field;
    }
}

/* False: the register is taken out. */
static bool carry_out(layout_build *lb, wadi_change *change, const char *field, bool one,
                      wad_register *reg, GPtrArray *fields)
{
    wadi_cursor c = change->at;
    if (one && !field && change->without)
        return refuse(change, "one of an array cannot be taken out: its place in it would stay");
    if (one && !field && wadi_at_word(&c, "at"))
        return refuse(change, "one of an array stays where the array has it");
    if (!field) {
        uint8_t width = reg->width;
        is_met(change, reg, NULL);
        if (change->without)
            return false;
        change_register(lb, &c, reg, fields);
        return !one || reg->width == width ||
               refuse(change, "one of an array is as wide as the others");
    }
    guint at = field_named(fields, field);
    if (at == fields->len)
        return true;
    is_met(change, reg, field);
    if (change->without)
        g_ptr_array_remove_index(fields, at);
    else
        change_field(lb, &c, reg, fields->pdata[at]);
    return true;
}

bool wadi_change_register(layout_build *lb, wad_register *reg, int64_t element)
{
    const GPtrArray *changes = lb->b->changes;
    GPtrArray *fields = NULL;
    bool stays = true;
    for (int level = WADI_CHANGE_LAYOUT; level <= WADI_CHANGE_ERRATUM; level++)
        for (guint i = 0; i < changes->len && stays; i++) {
            wadi_change *change = changes->pdata[i];
            int64_t which;
            const char *field;
            if ((int)change->level != level || !applies(lb, change, reg, &which, &field))
                continue;
            if (which >= 0 && which >= (int64_t)reg->count) {
                refuse(change, wadi_arena_printf(lb->b->arena, "'%s' has no element %lld",
                                                 reg->name, (long long)which));
                continue;
            }
            if (which >= 0 && which != element)
                continue;
            if (!fields) {
                fields = g_ptr_array_new();
                for (unsigned k = 0; k < reg->n_fields; k++)
                    g_ptr_array_add(fields, (gpointer)reg->fields[k]);
            }
            stays = carry_out(lb, change, field, which >= 0, reg, fields);
        }
    if (fields) {
        wadi_set_fields(lb, reg, fields);
        g_ptr_array_free(fields, TRUE);
    }
    return stays;
}

/* ---- what was named but is not there ---- */

static bool place_exists(const wad_sheet *s, const wad_erratum_place *place)
{
    if (place->clock)
        return wad_sheet_clock(s, place->clock) != NULL;
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_instance *b = s->blocks[i];
        if (strcmp(b->name, place->owner) && strcmp(b->layout->base, place->owner))
            continue;
        const wad_register *r = place->reg ? wad_layout_register(b->layout, place->reg) : NULL;
        if (!place->reg || (r && (!place->field || wad_register_field(r, place->field))))
            return true;
    }
    return false;
}

void wadi_check_changes(wadi_build *b)
{
    for (guint i = 0; i < b->changes->len; i++) {
        const wadi_change *change = b->changes->pdata[i];
        if (!change->met)
            wadi_error(change->at.src, &change->where,
                       "there is nothing of this name to %s in a block or a layout that a block "
                       "uses",
                       change->without ? "take out" : "change");
    }
    for (guint i = 0; i < b->errata->len; i++) {
        const wad_erratum *e = &g_array_index(b->errata, wad_erratum, i);
        for (unsigned k = 0; k < e->n_places; k++) {
            bool taken_out = false;
            for (guint n = 0; n < b->changes->len; n++) {
                const wadi_change *change = b->changes->pdata[n];
                taken_out |= change->without && change->met && change->reg == e->places[k].reg;
            }
            if (!taken_out && !place_exists(b->sheet, &e->places[k]))
                wadi_error(b->src, &e->where, "\"%s\" affects '%s%s%s', which is not there",
                           e->title, e->places[k].clock ? e->places[k].clock : e->places[k].owner,
                           e->places[k].reg ? "." : "", e->places[k].reg ? e->places[k].reg : "");
        }
    }
}
