/* SPDX-License-Identifier: MIT */
#include "behaviour.h"

#include <string.h>

#include "hook.h"
#include "lang/rational.h"
#include "number.h"
#include "path.h"
#include "sheet/chip/query.h"

/* ---- what waits for all registers ---- */

static wad_behaviour *behaviour_of(layout_build *lb, wad_register *reg, wad_bitfield *field)
{
    const wad_behaviour *more = field ? field->more : reg->more;
    if (more)
        return (wad_behaviour *)more;
    wad_behaviour *made = WADI_NEW(lb->b->arena, wad_behaviour);
    if (field)
        field->more = made;
    else
        reg->more = made;
    return made;
}

static void wait(layout_build *lb, const wadi_cursor *c, int what, wad_behaviour *more,
                 const wad_register *reg, const wad_bitfield *field)
{
    waiting w = {.at = *c, .more = more, .what = what, .reg = reg, .of = field};
    g_array_append_val(lb->waiting, w);
}

/* Words that may stand behind an expression. */
static bool begins_word(const wadi_tok *t)
{
    static const char *const words[] = {
        "ref",   "not",   "stable", "when",   "cleared", "volatile", "fixed",  "held",
        "after", "key",   "number", "reads",  "is",      "sets",     "clears", "toggles",
        "masks", "reset", "width",  "locked", "bits",    "bytes"};
    bool member = t[-1].type == WADI_T_PUNCT && !strcmp(t[-1].text, ".");
    for (unsigned i = 0; t->type == WADI_T_NAME && !member && i < G_N_ELEMENTS(words); i++)
        if (!strcmp(t->text, words[i]))
            return true;
    return false;
}

/* Over an expression: to the next word, a list of values or a description. */
static void skip_expr(wadi_cursor *c)
{
    if (wadi_at_end(c))
        wadi_expected(c, "what it reads: an expression of fields");
    bool picks = false; /* then the next list is what it picks from */
    while (!wadi_at_end(c) && (picks || c->tok->type != WADI_T_GROUP) &&
           c->tok->type != WADI_T_STRING && !begins_word(c->tok)) {
        picks = c->tok->type != WADI_T_GROUP && (picks || wadi_at_word(c, "pick"));
        c->tok++;
    }
}

/* ---- events ---- */

static bool is_access(const wadi_cursor *c)
{
    return (wadi_at_word(c, "read") || wadi_at_word(c, "write")) && c->tok[1].type == WADI_T_NAME;
}

void wadi_skip_events(layout_build *lb, wadi_cursor *c)
{
    wadi_path path;
    do {
        if (is_access(c))
            c->tok++;
        if (c->tok->type != WADI_T_NAME) {
            wadi_expected(c, "'read REGISTER', 'write REGISTER', a flag or 'entry'");
            return;
        }
        if (!wadi_parse_path(c, lb->env, &path))
            return;
        if (wadi_take_punct(c, "="))
            wadi_skip_const(c, lb->env);
    } while (wadi_take_word(c, "then") || wadi_take_word(c, "or"));
}

typedef struct event_reader {
    layout_build *lb;
    wadi_cursor *c;
    const wad_register *reg; /* whose behaviour it is, and of which field: for elements */
    const wad_bitfield *field;
} event_reader;

static unsigned elements_of(const event_reader *r)
{
    return r->field && r->field->count ? r->field->count : r->reg ? r->reg->count : 0;
}

/* `= 1` behind a field. */
static bool parse_event_value(event_reader *r, const wadi_path *path, const wad_fieldref *ref,
                              wad_bus_event *e)
{
    int64_t value, most = ref->width >= 32 ? UINT32_MAX : (INT64_C(1) << ref->width) - 1;
    bool given = wadi_take_punct(r->c, "=");
    if (!given && !ref->field)
        return true;
    if (!given) {
        wadi_error(r->c->src, &path->where, "say which value: %s = 1",
                   wadi_path_text(r->lb->b->arena, path));
        return false;
    }
    if (!wadi_parse_int(r->lb->b, r->c, r->lb->env, "the value that is written", 0, most, &value))
        return false;
    e->field = ref->field;
    e->mask = wad_fieldref_mask(ref);
    e->value = (uint64_t)value << ref->lsb;
    return true;
}

static bool place_event(event_reader *r, const wadi_path *path, const wad_fieldref *ref,
                        wad_bus_event *e)
{
    e->block = ref->block;
    e->reg = ref->reg;
    e->reg_index = ref->reg_index;
    e->by_element = ref->reg->count && !wadi_path_indexed(path, ref);
    if (e->by_element && (!r->reg || ref->reg->count != elements_of(r))) {
        wadi_error(r->c->src, &path->where,
                   "'%s' has another number of elements than the field that this is about",
                   ref->reg->name);
        return false;
    }
    return true;
}

/* `wrap`, `T0.match[1]`: whether there is such a role shows when the units are known. */
static bool is_role(const event_reader *r, const wadi_path *path)
{
    const wad_layout *l = r->lb->layout;
    if (l)
        return path->n <= 2 && !wad_layout_register(l, path->name[0]) &&
               !wadi_is_group(l, path->name[0]);
    for (unsigned i = 0; path->n == 2 && i < r->lb->b->blocks->len; i++) {
        const wad_instance *block = r->lb->b->blocks->pdata[i];
        if (!strcmp(block->name, path->name[0]))
            return !wad_layout_register(block->layout, path->name[1]);
    }
    return path->n == 2;
}

static void note_role(event_reader *r, const wadi_path *path, wad_bus_event *e)
{
    unsigned last = path->n - 1u;
    e->sort = WAD_EVENT_ROLE;
    e->unit = path->n > 1 ? path->name[0] : NULL;
    if (path->n > 1 && path->index[0] >= 0)
        e->unit = wadi_arena_printf(r->lb->b->arena, "%s[%d]", e->unit, (int)path->index[0]);
    e->role = path->name[last];
    e->element = path->index[last] < 0 ? 0 : (uint32_t)path->index[last];
    wadi_role_event role = {r->lb->layout, *e};
    g_array_append_val(r->lb->b->role_events, role);
}

static bool parse_event(event_reader *r, wad_bus_event *e)
{
    wadi_path path;
    wad_fieldref ref;
    bool access = is_access(r->c);
    *e = (wad_bus_event){.where = r->c->tok->where};
    if (!access && (wadi_at_word(r->c, "entry") || wadi_at_word(r->c, "exit"))) {
        e->sort = wadi_at_word(r->c, "entry") ? WAD_EVENT_ENTRY : WAD_EVENT_EXIT;
        r->c->tok++;
        return true;
    }
    e->write = access && wadi_at_word(r->c, "write");
    r->c->tok += access;
    if (!wadi_parse_path(r->c, r->lb->env, &path))
        return false;
    if (!access && !r->lb->layout && path.n == 1) {
        wadi_error(r->c->src, &path.where,
                   "expected 'entry', 'exit', 'read BLOCK.REGISTER', 'write BLOCK.REGISTER', or a "
                   "flag as in TICK.wrap");
        return false;
    }
    if (!access && is_role(r, &path)) {
        note_role(r, &path, e);
        return true;
    }
    if (!wadi_resolve(r->lb->b, r->lb->layout, NULL, &path, &ref) ||
        !place_event(r, &path, &ref, e))
        return false;
    if (access)
        return parse_event_value(r, &path, &ref, e);
    e->sort = WAD_EVENT_FLAG;
    if (!ref.field) {
        wadi_error(r->c->src, &path.where,
                   "say whether reading or writing it is meant: %sread %s ('wadium emit sheet "
                   "FILE' writes sheets of before so)",
                   r->field ? "cleared by " : "", path.name[0]);
        return false;
    }
    e->field = ref.field;
    e->mask = wad_fieldref_mask(&ref);
    return true;
}

bool wadi_parse_events(layout_build *lb, wadi_cursor *c, const wad_register *reg,
                       const wad_bitfield *owner, const wad_clearing **list, unsigned *n)
{
    event_reader r = {lb, c, reg, owner};
    GArray *events = g_array_new(FALSE, TRUE, sizeof(wad_clearing));
    bool good;
    do {
        wad_clearing one = {0};
        good = parse_event(&r, &one.last);
        if (good && wadi_take_word(c, "then")) {
            one.then = true;
            one.first = one.last;
            good = parse_event(&r, &one.last);
        }
        g_array_append_val(events, one);
    } while (good && wadi_take_word(c, "or"));
    c->failed = c->failed || !good;
    *n = good ? events->len : 0;
    *list = wadi_arena_copy(lb->b->arena, events->data, *n, sizeof(wad_clearing));
    g_array_free(events, TRUE);
    return good;
}

/* ---- words of fields and registers ---- */

/* `held until wrap when CTRL.BUF shows active` */
static void parse_held(layout_build *lb, wadi_cursor *c, wad_register *reg, wad_bitfield *field)
{
    wad_behaviour *more = behaviour_of(lb, reg, field);
    wad_held *held = WADI_NEW(lb->b->arena, wad_held);
    wad_where where = c->tok->where;
    more->held = held;
    if (wadi_take_word(c, "until")) {
        wait(lb, c, UNTIL, more, reg, field);
        wadi_skip_events(lb, c);
        held->n_until = 1; /* counted when it is read */
    }
    if (wadi_take_word(c, "when")) {
        wait(lb, c, HELD_WHEN, more, reg, field);
        wadi_skip_cond(c, lb->env);
        held->when = WADI_NEW(lb->b->arena, wad_cond);
    }
    if (!c->failed && !held->n_until && !held->when) {
        wadi_error(c->src, &where, "say how long: held until EVENT, or held when CONDITION");
        c->failed = true;
    }
    if (wadi_take_word(c, "shows"))
        held->shows_active = wadi_need_word(c, "active");
}

static const wad_clock *need_clock(layout_build *lb, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "the clock whose cycles they are");
    for (unsigned i = 0; name && i < lb->b->clocks->len; i++) {
        const wad_clock *clock = lb->b->clocks->pdata[i];
        if (!strcmp(clock->name, name))
            return clock;
    }
    if (name)
        wadi_error(c->src, &where, "there is no clock '%s'", name);
    c->failed = true;
    return NULL;
}

bool wadi_parse_delay(layout_build *lb, wadi_cursor *c, wad_delay *delay)
{
    wad_where where = c->tok->where;
    wad_unit unit;
    if (!wadi_take_amount(c, &delay->amount, &unit))
        return false;
    delay->cycles = unit == WAD_UNIT_CYCLE;
    if (!delay->cycles && unit != WAD_UNIT_S)
        wadi_error(c->src, &where,
                   "expected cycles or a time: after 3 cycles of slow, after 20 us");
    else if (delay->amount.num <= 0)
        wadi_error(c->src, &where, "a delay is longer than 0");
    else if (!delay->cycles && wadi_at_word(c, "of"))
        wadi_error(c->src, &where, "a time is one by itself: 'of CLOCK' stands behind cycles");
    else if (delay->cycles && wadi_take_word(c, "of"))
        delay->clock = need_clock(lb, c);
    c->failed = c->failed || (!delay->cycles && unit != WAD_UNIT_S) || delay->amount.num <= 0 ||
                wadi_at_word(c, "of");
    return !c->failed;
}

/* `after 3 cycles of slow busy STAT.SYNC` */
static void parse_after(layout_build *lb, wadi_cursor *c, wad_register *reg, wad_bitfield *field)
{
    wad_behaviour *more = behaviour_of(lb, reg, field);
    wad_delay *delay = WADI_NEW(lb->b->arena, wad_delay);
    more->delay = delay;
    if (wadi_parse_delay(lb, c, delay) && wadi_take_word(c, "busy")) {
        wadi_path path;
        wait(lb, c, BUSY, more, reg, field);
        wadi_parse_path(c, lb->env, &path);
    }
}

bool wadi_take_common(layout_build *lb, wadi_cursor *c, wad_register *reg, wad_bitfield *field)
{
    if (wadi_take_word(c, "reads")) {
        wait(lb, c, READS, behaviour_of(lb, reg, field), reg, field);
        skip_expr(c);
    } else if (wadi_take_word(c, "held")) {
        parse_held(lb, c, reg, field);
    } else if (wadi_take_word(c, "after")) {
        parse_after(lb, c, reg, field);
    } else if (!field && wadi_take_word(c, "when")) {
        wad_behaviour *more = behaviour_of(lb, reg, NULL);
        wait(lb, c, THERE_WHEN, more, reg, NULL);
        more->when = WADI_NEW(lb->b->arena, wad_cond);
        wadi_skip_cond(c, lb->env);
    } else {
        return false;
    }
    return true;
}

/* `key 0x2D else reset` */
static void parse_key(layout_build *lb, wadi_cursor *c, wad_bitfield *field)
{
    wad_behaviour *more = behaviour_of(lb, (wad_register *)field->reg, field);
    int64_t key, most = field->width >= 62 ? INT64_MAX : (INT64_C(1) << field->width) - 1;
    if (!wadi_parse_int(lb->b, c, lb->env, "the key", 0, most, &key))
        return;
    more->has_key = true;
    more->key = (uint64_t)key;
    if (wadi_take_word(c, "else")) {
        more->key_resets = wadi_take_word(c, "reset");
        if (!more->key_resets && !wadi_take_word(c, "ignored"))
            wadi_expected(c, "'reset' or 'ignored': what a wrong key does");
    }
}

/* `number { 2 CC[1].FLAG, 14 CTL.FLAG } clears otherwise 0` */
static void parse_number(layout_build *lb, wadi_cursor *c, wad_bitfield *field)
{
    wad_behaviour *more = behaviour_of(lb, (wad_register *)field->reg, field);
    wad_number *number = WADI_NEW(lb->b->arena, wad_number);
    int64_t otherwise = 0, most = (INT64_C(1) << MIN(field->width, 62)) - 1;
    more->number = number;
    wait(lb, c, NUMBER, more, field->reg, field);
    if (!wadi_need_group(c, "'{' and the flags with their numbers"))
        return;
    number->clears = wadi_take_word(c, "clears");
    if (wadi_take_word(c, "otherwise"))
        wadi_parse_int(lb->b, c, lb->env, "the number while no flag asks", 0, most, &otherwise);
    number->otherwise = (uint64_t)otherwise;
}

static bool take_verb(layout_build *lb, wadi_cursor *c, wad_bitfield *field)
{
    for (unsigned i = WAD_ALIAS_SETS; i <= WAD_ALIAS_IS; i++)
        if (wadi_take_word(c, wad_alias_word((wad_alias)i))) {
            wad_behaviour *more = behaviour_of(lb, (wad_register *)field->reg, field);
            wadi_path path;
            more->alias = (wad_alias)i;
            wait(lb, c, ALIAS_OF, more, field->reg, field);
            wadi_parse_path(c, lb->env, &path);
            return true;
        }
    return false;
}

bool wadi_take_field_word(layout_build *lb, wadi_cursor *c, wad_bitfield *field)
{
    wadi_path path;
    if (take_verb(lb, c, field))
        return true;
    if (wadi_take_word(c, "masks")) {
        wait(lb, c, MASKS, behaviour_of(lb, (wad_register *)field->reg, field), field->reg, field);
        wadi_parse_path(c, lb->env, &path);
    } else if (wadi_take_word(c, "key")) {
        parse_key(lb, c, field);
    } else if (wadi_take_word(c, "number")) {
        parse_number(lb, c, field);
    } else {
        return false;
    }
    return true;
}

/* ---- read when all registers exist ---- */

static void complain(waiting *w, const wad_where *where, const char *what)
{
    if (!w->at.failed)
        wadi_error(w->at.src, where, "%s", what);
    w->at.failed = true;
}

static bool need_path(layout_build *lb, waiting *w, wadi_path *path, wad_fieldref *ref)
{
    if (!wadi_parse_path(&w->at, lb->env, path))
        return false;
    bool beside = path->n == 1 && w->reg && !wad_layout_register(lb->layout, path->name[0]) &&
                  wad_register_field(w->reg, path->name[0]);
    if (beside) { /* a field of the own register */
        path->name[1] = path->name[0];
        path->index[1] = path->index[0];
        path->last[1] = path->last[0];
        path->index_name[1] = path->index_name[0];
        path->name[0] = w->reg->name;
        path->index[0] = path->last[0] = -1;
        path->index_name[0] = NULL;
        path->n = 2;
    }
    return wadi_resolve(lb->b, lb->layout, NULL, path, ref);
}

static void finish_reads(layout_build *lb, waiting *w)
{
    wadi_names names = {.build = lb->b,
                        .env = lb->env,
                        .layout = lb->layout,
                        .bits = true,
                        .plain = true,
                        .elements = w->reg->count};
    w->more->reads = wadi_parse_expr(&w->at, &names);
    if (w->more->reads)
        wadi_check_law(lb->b, w->more->reads);
}

static void finish_alias_of(layout_build *lb, waiting *w)
{
    wadi_path path;
    wad_fieldref ref;
    if (!need_path(lb, w, &path, &ref))
        return;
    if (!ref.field && ref.reg->n_fields == 1 && !ref.reg->fields[0]->count) {
        ref.field = ref.reg->fields[0];
        ref.width = ref.field->width;
    }
    if (!ref.field) {
        complain(w, &path.where, "a field is another name of a field: REGISTER.FIELD");
        return;
    }
    if (ref.field == w->of || (ref.field->more && ref.field->more->alias)) {
        complain(w, &path.where,
                 "that is another name itself: name the field that stores the bits");
        return;
    }
    if (w->of->width > ref.width) {
        complain(w, &path.where, "it has more bits than the field that it acts on");
        return;
    }
    if (ref.reg->count && !wadi_path_indexed(&path, &ref) && w->reg->count == ref.reg->count)
        ref.reg_index = UINT32_MAX;
    w->more->alias_of = ref;
}

static void finish_masks(layout_build *lb, waiting *w)
{
    wadi_path path;
    wad_fieldref ref;
    if (!need_path(lb, w, &path, &ref))
        return;
    if (ref.block || ref.reg != w->reg || !ref.field) {
        complain(w, &path.where,
                 "a mask lets bits of its own register through: name a field of the same register");
        return;
    }
    unsigned width =
        ref.field->count ? ref.field->step * (ref.field->per_reg - 1u) + ref.width : ref.width;
    if (w->of->width != width) {
        complain(w, &path.where, "a mask has as many bits as the field that it masks");
        return;
    }
    ref.width = (uint8_t)width;
    w->more->masks = ref;
}

static bool parse_number_item(layout_build *lb, const wadi_stmt *stmt, uint64_t most,
                              wad_number_item *item)
{
    wadi_cursor c = wadi_cursor_at(lb->b->src, stmt);
    wadi_path path;
    int64_t code;
    if (!wadi_parse_int(lb->b, &c, lb->env, "the flag's number", 0, (int64_t)most, &code) ||
        !wadi_parse_path(&c, lb->env, &path) ||
        !wadi_resolve(lb->b, lb->layout, NULL, &path, &item->flag))
        return false;
    item->code = (uint64_t)code;
    if (!item->flag.field || item->flag.width != 1) {
        wadi_error(c.src, &path.where, "a number is that of a flag of one bit: REGISTER.FIELD");
        return false;
    }
    return wadi_need_end(&c);
}

static void finish_number(layout_build *lb, waiting *w)
{
    const wadi_group *group = wadi_take_group(&w->at);
    GArray *items = g_array_new(FALSE, TRUE, sizeof(wad_number_item));
    uint64_t most = (UINT64_C(1) << MIN(w->of->width, 62)) - 1;
    for (unsigned i = 0; group && i < group->n; i++) {
        wad_number_item item = {0};
        if (parse_number_item(lb, &group->stmts[i], most, &item))
            g_array_append_val(items, item);
    }
    if (group && !group->n)
        complain(w, &group->where, "a number register lists the flags that it numbers");
    wad_number *number = (wad_number *)w->more->number;
    number->n = items->len;
    number->items = wadi_arena_copy(lb->b->arena, items->data, items->len, sizeof(wad_number_item));
    g_array_free(items, TRUE);
}

static void finish_cond(layout_build *lb, waiting *w, const wad_cond *into)
{
    wad_instance scope = {.layout = lb->layout};
    wadi_parse_cond(lb->b, &w->at, lb->env, &scope, (wad_cond *)into);
}

static void finish_busy(layout_build *lb, waiting *w)
{
    wadi_path path;
    wad_fieldref ref;
    if (!need_path(lb, w, &path, &ref))
        return;
    if (!ref.field || ref.width != 1)
        complain(w, &path.where, "one bit says that it is busy: REGISTER.FIELD");
    else
        ((wad_delay *)w->more->delay)->busy = ref;
}

void wadi_finish_behaviour(layout_build *lb, waiting *w)
{
    wad_held *held = (wad_held *)w->more->held;
    switch (w->what) {
    case READS:
        finish_reads(lb, w);
        break;
    case ALIAS_OF:
        finish_alias_of(lb, w);
        break;
    case MASKS:
        finish_masks(lb, w);
        break;
    case NUMBER:
        finish_number(lb, w);
        break;
    case UNTIL:
        wadi_parse_events(lb, &w->at, w->reg, w->of, &held->until, &held->n_until);
        break;
    case HELD_WHEN:
        finish_cond(lb, w, held->when);
        break;
    case THERE_WHEN:
        finish_cond(lb, w, w->more->when);
        break;
    case BUSY:
        finish_busy(lb, w);
        break;
    }
}
