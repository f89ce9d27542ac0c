/* SPDX-License-Identifier: MIT */
/* Where the bits of a role are: fields of any register, plain, inverted, joined, listed, or none.
 */
#include "place.h"

#include <string.h>

#include "behaviour.h"
#include "lang/rational.h"
#include "path.h"
#include "sheet/chip/query.h"

#define MOST_ELEMENTS 4096
#define MOST_ALWAYS   256

/* A role that is being bound. */
typedef struct binder {
    wadi_build *b;
    const wad_layout
        *layout; /* whose registers are meant first; NULL: all paths begin with a block */
    wad_role *role;
    const char *index;      /* its name; NULL: no array */
    const wad_value *value; /* the last item was this split value */
    GArray *parts;          /* wad_role_part, of the element under work */
    GArray *places;         /* wad_role_place, finished */
    bool beyond;            /* an index of this element is beyond its array */
} binder;

static bool complain(const binder *r, const wad_where *where, const char *what)
{
    wadi_error(r->b->src, where, "role '%s' %s", r->role->name, what);
    return false;
}

/* ---- one item: `[not] PATH` ---- */

static const wad_value *find_value(const wad_layout *layout, const wadi_path *path)
{
    for (unsigned i = 0; layout && path->n == 1 && i < layout->n_values; i++)
        if (!strcmp(layout->values[i]->name, path->name[0]))
            return layout->values[i];
    return NULL;
}

static void add_value(binder *r, const wad_value *value, int64_t element, bool low)
{
    if (element >= (int64_t)(value->count ? value->count : 1)) {
        r->beyond = true;
        return;
    }
    for (unsigned i = 0; i < value->n_parts; i++) {
        const wad_bitfield *f = value->parts[i];
        wad_role_part part = {.ref = {.reg = f->reg,
                                      .field = f,
                                      .reg_index = element < 0 ? 0 : (uint32_t)element,
                                      .lsb = f->lsb,
                                      .width = f->width},
                              .low = low};
        g_array_append_val(r->parts, part);
    }
    r->value = value;
}

/* A role in another name of bits lies in the bits. */
static bool follow_alias(const binder *r, const wadi_path *path, wad_role_part *part)
{
    wad_fieldref *ref = &part->ref;
    const wad_behaviour *more = ref->field ? ref->field->more : NULL;
    if (ref->reg->alias == WAD_ALIAS_IS)
        ref->reg = ref->reg->alias_of;
    if (!more || !more->alias)
        return true;
    if (more->alias != WAD_ALIAS_IS || !more->alias_of.reg) {
        wadi_error(r->b->src, &path->where,
                   "'%s' %s other bits and holds none: name the field that does",
                   wadi_path_text(r->b->arena, path), wad_alias_word(more->alias));
        return false;
    }
    wad_fieldref to = more->alias_of;
    to.block = to.block ? to.block : ref->block;
    to.reg_index = to.reg_index == UINT32_MAX ? ref->reg_index : to.reg_index;
    to.lsb = (uint8_t)(to.lsb + (ref->lsb - ref->field->lsb));
    to.width = ref->width;
    *ref = to;
    return true;
}

static bool add_field(binder *r, const wadi_path *path, bool first, bool low)
{
    wad_role_part part = {.low = low};
    bool beyond = false;
    bool found = first ? wadi_resolve(r->b, r->layout, NULL, path, &part.ref)
                       : wadi_resolve_element(r->b, r->layout, NULL, path, &part.ref, &beyond);
    r->beyond = r->beyond || beyond;
    if (!found)
        return beyond;
    if (!part.ref.field && part.ref.reg->n_fields == 1 && !part.ref.reg->fields[0]->count) {
        part.ref.field = part.ref.reg->fields[0];
        part.ref.lsb = part.ref.field->lsb;
        part.ref.width = part.ref.field->width;
    }
    if (!follow_alias(r, path, &part))
        return false;
    g_array_append_val(r->parts, part);
    return true;
}

static bool parse_item(binder *r, wadi_cursor *c, const wadi_env *env, bool first)
{
    wadi_path path;
    bool low = wadi_at_word(c, "not") && c->tok[1].type == WADI_T_NAME;
    if (low)
        c->tok++;
    if (!wadi_parse_path(c, env, &path))
        return false;
    const wad_value *value = find_value(r->layout, &path);
    if (value)
        add_value(r, value, path.index[0], low);
    else if (!add_field(r, &path, first, low))
        return false;
    return true;
}

/* ---- one element ---- */

static void end_place(binder *r, wad_place_form form, uint64_t always)
{
    wad_role_place place = {
        form,
        wadi_arena_copy(r->b->arena, r->parts->data, r->parts->len, sizeof(wad_role_part)),
        r->parts->len,
        always,
        form == WAD_PLACE_BITS ? 0 : 1,
        NULL,
        0};
    for (unsigned i = 0; form == WAD_PLACE_BITS && i < place.n_parts; i++)
        place.width = (uint8_t)(place.width + place.parts[i].ref.width);
    while (form == WAD_PLACE_ALWAYS && place.width < 64 && always >> place.width)
        place.width++;
    if (!r->beyond)
        g_array_append_val(r->places, place);
    g_array_set_size(r->parts, 0);
}

static bool is_event(const wadi_cursor *c)
{
    return (wadi_at_word(c, "read") || wadi_at_word(c, "write")) && c->tok[1].type == WADI_T_NAME;
}

/* `write FEED = 0x6C31`: the model is told when it happens. */
static bool parse_event(binder *r, wadi_cursor *c, const wadi_env *env)
{
    layout_build lb = {.b = r->b, .env = env, .layout = (wad_layout *)r->layout};
    wad_role_place place = {.form = WAD_PLACE_EVENT, .width = 1};
    if (!wadi_parse_events(&lb, c, NULL, NULL, &place.on, &place.n_on))
        return false;
    g_array_append_val(r->places, place);
    return true;
}

static bool parse_place(binder *r, wadi_cursor *c, const wadi_env *env, bool first)
{
    wad_where where = c->tok->where;
    if (wadi_at_word(c, "always")) {
        int64_t always = 1;
        c->tok++;
        if (c->tok->type == WADI_T_NUMBER || wadi_at_punct(c, "(") ||
            (c->tok->type == WADI_T_NAME && env && !strcmp(c->tok->text, env->name)))
            wadi_parse_int(r->b, c, env, "what it always reads", 0, UINT32_MAX, &always);
        end_place(r, WAD_PLACE_ALWAYS, (uint64_t)always);
        return !c->failed;
    }
    if (is_event(c))
        return parse_event(r, c, env);
    if (!parse_item(r, c, env, first))
        return false;
    bool all = wadi_at_word(c, "and");
    while (all ? wadi_take_word(c, "and") : wadi_take_punct(c, ":"))
        if (!parse_item(r, c, env, first))
            return false;
    end_place(r, all ? WAD_PLACE_ALL : WAD_PLACE_BITS, 0);
    const wad_role_place *place =
        r->places->len ? &g_array_index(r->places, wad_role_place, r->places->len - 1) : NULL;
    if (place && !r->beyond && place->form == WAD_PLACE_BITS && place->n_parts > 1 &&
        place->width > 64)
        return complain(r, &where, "is joined from more than 64 bits");
    return true;
}

/* ---- `{ A.COM, GRP[1 .. 7].START }`: an element each ---- */

static bool parse_listed(binder *r, const wadi_stmt *stmt, const wadi_env *env)
{
    wadi_cursor c = wadi_cursor_at(r->b->src, stmt);
    bool low = wadi_at_word(&c, "not") && c.tok[1].type == WADI_T_NAME;
    wadi_path path;
    int ranged = -1;
    if (low)
        c.tok++;
    if (!wadi_parse_paths(&c, env, &path, &ranged) || !wadi_need_end(&c))
        return false;
    for (;;) {
        const wad_value *value = find_value(r->layout, &path);
        if (value)
            add_value(r, value, path.index[0], low);
        else if (!add_field(r, &path, true, low))
            return false;
        if (r->beyond)
            return complain(r, &path.where, "names an element that its value does not have");
        end_place(r, WAD_PLACE_BITS, 0);
        if (ranged < 0 || path.index[ranged] == path.last[ranged])
            return true;
        path.index[ranged]++;
    }
}

static bool parse_list(binder *r, wadi_cursor *c, const wadi_env *env)
{
    const wadi_group *group = wadi_take_group(c);
    if (!r->index)
        return complain(r, &r->role->where, "lists several places: write NAME[n] { ... }");
    for (unsigned i = 0; i < group->n; i++)
        if (!parse_listed(r, &group->stmts[i], env))
            return false;
    return r->places->len || complain(r, &r->role->where, "lists no place");
}

/* ---- elements by index ---- */

static bool same_parts(const wad_role_place *a, const wad_role_place *b)
{
    if (a->n_parts != b->n_parts)
        return false;
    for (unsigned i = 0; i < a->n_parts; i++)
        if (!wadi_same_field(&a->parts[i].ref, &b->parts[i].ref))
            return false;
    return true;
}

/* `CC[n].VALUE`, the commonest: the other elements lie by the array's step. */
static bool fill_array(binder *r, const wadi_cursor *start, const wadi_cursor *end)
{
    wad_role_place *first = &g_array_index(r->places, wad_role_place, 0);
    const wadi_tok *by = NULL;
    for (const wadi_tok *t = start->tok; t < end->tok; t++) {
        bool index = t->type == WADI_T_PUNCT && !strcmp(t->text, "[");
        if (index && (by || t[1].type != WADI_T_NAME || strcmp(t[1].text, r->index) ||
                      t[2].type != WADI_T_PUNCT || strcmp(t[2].text, "]")))
            return false;
        by = index ? t : by;
    }
    if (!by || r->value || first->form != WAD_PLACE_BITS || first->n_parts != 1)
        return false;
    wad_role_part part = first->parts[0];
    bool of_field = part.ref.field && part.ref.field->count && by + 3 == end->tok;
    unsigned count = of_field ? part.ref.field->count : part.ref.reg->count;
    if (!count || (!of_field && part.ref.field && part.ref.field->count))
        return false;
    wad_role_part *parts = wadi_arena_alloc(r->b->arena, count * sizeof *parts);
    wad_role_place place = *first;
    for (unsigned n = 1; n < count; n++) {
        if (of_field) {
            part.ref.index = n;
            wadi_place_element(&part.ref);
        } else {
            part.ref.reg_index = n;
        }
        parts[n] = part;
        place.parts = &parts[n];
        g_array_append_val(r->places, place);
    }
    return true;
}

/* n runs while each index exists. */
static bool parse_elements(binder *r, wadi_cursor *c, const wadi_env *env)
{
    wadi_cursor start = *c, end = *c;
    wad_where where = c->tok->where;
    bool always = wadi_at_word(c, "always"); /* as often as the unit's other roles have elements */
    for (unsigned n = 0; n < (!r->index ? 1 : always ? MOST_ALWAYS : MOST_ELEMENTS); n++) {
        wadi_env element = {r->index, wadi_int(n), env};
        wadi_cursor at = start;
        r->beyond = false;
        if (!parse_place(r, &at, r->index ? &element : env, n == 0)) {
            c->failed = true;
            return false;
        }
        if (r->beyond)
            break;
        end = at;
        if (n == 0 && r->index && !always && fill_array(r, &start, &end))
            break;
        if (n == 1 && !always &&
            same_parts(&g_array_index(r->places, wad_role_place, 0),
                       &g_array_index(r->places, wad_role_place, 1))) {
            wadi_error(r->b->src, &where, "the index of role '%s' must stand in its path",
                       r->role->name);
            return false;
        }
    }
    *c = end;
    return r->places->len ||
           complain(r, &where, "has no element: its first index is beyond the array");
}

/* ---- what the form of before can say as well ---- */

/* One field or register of the own layout, or a whole array of such. */
static void note_plain(const binder *r, wad_role *role)
{
    const wad_role_place *first = &role->places[0];
    if (first->form != WAD_PLACE_BITS || first->parts[0].low || first->parts[0].ref.block)
        return;
    if (r->value && first->n_parts == r->value->n_parts &&
        role->n_places == (role->indexed && r->value->count ? r->value->count : 1)) {
        role->value = r->value;
        role->sort = WAD_ROLE_VALUE;
        return;
    }
    if (first->n_parts != 1)
        return;
    wad_role plain = *role;
    plain.reg = first->parts[0].ref.reg;
    plain.field = first->parts[0].ref.field;
    for (unsigned i = 0; i < role->n_places; i++) {
        wad_fieldref ref = wadi_plain_ref(&plain, i);
        const wad_role_place *place = &role->places[i];
        if (place->form != WAD_PLACE_BITS || place->n_parts != 1 || place->parts[0].low ||
            !wadi_same_field(&ref, &place->parts[0].ref))
            return;
    }
    if (role->n_places != wadi_plain_count(&plain) ||
        (!role->indexed && (first->parts[0].ref.reg_index || first->parts[0].ref.index ||
                            plain.reg->count || (plain.field && plain.field->count))))
        return;
    role->reg = plain.reg;
    role->field = plain.field;
    role->sort = role->field ? WAD_ROLE_FIELD : WAD_ROLE_REG;
}

bool wadi_bind_place(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_layout *layout,
                     const char *index, wad_role *role)
{
    binder r = {b,
                layout,
                role,
                index,
                NULL,
                g_array_new(FALSE, FALSE, sizeof(wad_role_part)),
                g_array_new(FALSE, FALSE, sizeof(wad_role_place)),
                false};
    if (is_event(c) && index) {
        wadi_error(c->src, &role->where, "an event is one: write %s %s ...", role->name,
                   c->tok->text);
        c->failed = true;
    }
    bool good = c->tok->type == WADI_T_GROUP ? parse_list(&r, c, env) : parse_elements(&r, c, env);
    role->sort = WAD_ROLE_PLACE;
    role->n_places = r.places->len;
    role->places = wadi_arena_copy(b->arena, r.places->data, r.places->len, sizeof(wad_role_place));
    if (good)
        note_plain(&r, role);
    g_array_free(r.parts, TRUE);
    g_array_free(r.places, TRUE);
    return good;
}

/* `match[n] always 0` has as many elements as the unit's longest other role. */
void wadi_count_always(wad_role *roles, unsigned n)
{
    unsigned most = 1;
    for (unsigned i = 0; i < n; i++)
        if (roles[i].indexed && roles[i].n_places && roles[i].places[0].form != WAD_PLACE_ALWAYS)
            most = MAX(most, roles[i].n_places);
    for (unsigned i = 0; i < n; i++)
        if (roles[i].indexed && roles[i].n_places && roles[i].places[0].form == WAD_PLACE_ALWAYS)
            roles[i].n_places = MIN(most, roles[i].n_places);
}
