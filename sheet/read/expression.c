/* SPDX-License-Identifier: MIT */
#include "expression.h"

#include <string.h>

#include "build.h"
#include "lang/rational.h"
#include "lang/unit.h"
#include "path.h"
#include "sheet/chip/expression.h"
#include "sheet/laws/evaluate.h"

#define MAX_NESTING 64

typedef struct parser {
    wadi_cursor *c;
    const wadi_names *names;
    int depth;
} parser;

static wad_expr *parse_bits(parser *p);

static wad_expr *node(parser *p, wadi_op op)
{
    wad_expr *e = WADI_NEW(p->c->src->arena, wad_expr);
    e->op = op;
    e->where = p->c->tok->where;
    return e;
}

static wad_expr *fail(parser *p, const wad_where *where, const char *format, const char *arg)
{
    if (!p->c->failed)
        wadi_error(p->c->src, where, format, arg);
    p->c->failed = true;
    return NULL;
}

static wad_expr *parse_number(parser *p)
{
    wad_expr *e = node(p, WADI_OP_NUM);
    e->num = p->c->tok->number;
    p->c->tok++;
    wad_rational scale;
    if (!p->names->plain && p->c->tok->type == WADI_T_NAME &&
        wadi_unit(p->c->tok->text, &e->unit, &scale)) {
        if (!wadi_rat_mul(e->num, scale, &e->num))
            return fail(p, &e->where, "%s", "number too large");
        p->c->tok++;
    }
    return e;
}

static wad_expr *parse_function(parser *p, wadi_op op)
{
    wad_expr *e = node(p, op);
    p->c->tok++;
    if (!wadi_need_punct(p->c, "("))
        return NULL;
    e->a = parse_bits(p);
    if (op != WADI_OP_FLOOR && op != WADI_OP_ONES) {
        wadi_need_punct(p->c, ",");
        e->b = parse_bits(p);
    }
    wadi_need_punct(p->c, ")");
    return p->c->failed ? NULL : e;
}

static bool resolve_field(parser *p, const wadi_path *path, wad_fieldref *ref)
{
    const wadi_names *n = p->names;
    if (!wadi_resolve(n->build, n->layout, n->scope, path, ref)) {
        p->c->failed = true;
        return false;
    }
    bool own = n->elements && ref->reg->count == n->elements;
    if (own && !wadi_path_indexed(path, ref))
        ref->reg_index = UINT32_MAX;
    return true;
}

/* The last of them: not one before it, nor more than the field holds. */
static bool can_be_picked(parser *p, const wad_where *where, const GArray *picks,
                          const wad_fieldref *ref)
{
    const wadi_pick *last = &g_array_index(picks, wadi_pick, picks->len - 1);
    for (unsigned i = 0; i + 1 < picks->len; i++) {
        const wadi_pick *one = &g_array_index(picks, wadi_pick, i);
        if (last->code <= one->last && one->code <= last->last) {
            wadi_error(p->c->src, where, "the value %llu picks a line before this one already",
                       (unsigned long long)MAX(last->code, one->code));
            return false;
        }
    }
    if (ref->width < 64 && last->last >> ref->width) {
        wadi_error(p->c->src, where, "the field has %u bits: it never reads %llu", ref->width,
                   (unsigned long long)last->last);
        return false;
    }
    return true;
}

static bool parse_pick_item(parser *p, const wadi_stmt *stmt, GArray *picks,
                            const wad_fieldref *ref)
{
    wadi_cursor item = wadi_cursor_at(p->c->src, stmt);
    parser inner = {&item, p->names, p->depth + 1};
    wadi_pick pick = {0, 0, NULL};
    if (item.tok->type != WADI_T_NUMBER || item.tok->number.den != 1) {
        wadi_expected(&item, "the field's value that picks this line");
        return false;
    }
    wad_where where = item.tok->where;
    pick.code = (uint64_t)item.tok->number.num;
    pick.last = pick.code;
    item.tok++;
    if (wadi_take_punct(&item, "..")) {
        if (item.tok->type != WADI_T_NUMBER || item.tok->number.den != 1) {
            wadi_expected(&item, "the last value that picks this line");
            return false;
        }
        pick.last = (uint64_t)(item.tok++)->number.num;
        if (pick.last < pick.code) {
            wadi_error(p->c->src, &where, "the values %llu .. %llu are none: the smaller first",
                       (unsigned long long)pick.code, (unsigned long long)pick.last);
            return false;
        }
    }
    pick.value = parse_bits(&inner);
    if (!pick.value || !wadi_need_end(&item))
        return false;
    g_array_append_val(picks, pick);
    return can_be_picked(p, &where, picks, ref);
}

static wad_expr *parse_pick(parser *p)
{
    wad_expr *e = node(p, WADI_OP_PICK);
    wadi_path path;
    p->c->tok++;
    if (!wadi_parse_path(p->c, p->names->env, &path) || !resolve_field(p, &path, &e->field))
        return NULL;
    const wadi_group *group = wadi_need_group(p->c, "'{' and one line a value");
    if (!group)
        return NULL;
    GArray *picks = g_array_new(FALSE, FALSE, sizeof(wadi_pick));
    for (unsigned i = 0; i < group->n; i++)
        if (!parse_pick_item(p, &group->stmts[i], picks, &e->field))
            p->c->failed = true;
    e->n_picks = picks->len;
    e->picks = wadi_arena_copy(p->c->src->arena, picks->data, picks->len, sizeof(wadi_pick));
    g_array_free(picks, TRUE);
    if (e->n_picks == 0)
        fail(p, &group->where, "%s", "'pick' needs at least one line");
    return p->c->failed ? NULL : e;
}

static const wad_clock *find_clock(const wadi_build *b, const char *name)
{
    for (unsigned i = 0; i < b->clocks->len; i++) {
        const wad_clock *clock = b->clocks->pdata[i];
        if (!strcmp(clock->name, name))
            return clock;
    }
    return NULL;
}

static wad_expr *whole(parser *p, wadi_op op, wad_expr *a, wad_expr *b)
{
    wad_expr *e = node(p, op);
    e->a = a;
    e->b = b;
    return e;
}

/* A split value: high * 2 ** n + low, which every evaluator understands; marked as one number. */
static wad_expr *value_parts(parser *p, const wad_value *value)
{
    wad_expr *sum = NULL;
    for (unsigned i = 0; i < value->n_parts; i++) {
        const wad_bitfield *f = value->parts[i];
        wad_expr *part = node(p, WADI_OP_FIELD), *scale = node(p, WADI_OP_NUM);
        part->field = (wad_fieldref){.reg = f->reg, .field = f, .lsb = f->lsb, .width = f->width};
        scale->num = (wad_rational){INT64_C(1) << f->width, 1};
        sum = sum ? whole(p, WADI_OP_ADD, whole(p, WADI_OP_MUL, sum, scale), part) : part;
    }
    if (sum)
        sum->value = value;
    return sum;
}

static const wad_value *find_value(const wad_layout *layout, const char *name)
{
    for (unsigned i = 0; layout && i < layout->n_values; i++)
        if (!strcmp(layout->values[i]->name, name) && !layout->values[i]->count)
            return layout->values[i];
    return NULL;
}

static wad_expr *parse_name(parser *p)
{
    const wadi_names *n = p->names;
    wad_expr *e = node(p, WADI_OP_FIELD);
    wadi_path path;
    if (!wadi_parse_path(p->c, n->env, &path))
        return NULL;
    if (path.n == 1 && path.index[0] < 0) {
        for (const wadi_env *v = n->env; v; v = v->next)
            if (!strcmp(v->name, path.name[0])) {
                e->op = WADI_OP_NUM;
                e->num = v->value;
                return e;
            }
        if (n->layout && !strcmp(path.name[0], "clock")) {
            e->op = WADI_OP_CLOCK;
            return e;
        }
        const wad_value *value = n->constant ? NULL : find_value(n->layout, path.name[0]);
        if (value)
            return value_parts(p, value);
        e->clock = n->constant ? NULL : find_clock(n->build, path.name[0]);
        if (e->clock) {
            e->op = WADI_OP_CLOCK;
            return e;
        }
    }
    if (n->constant)
        return fail(p, &path.where, "'%s' is not known here: a number or a parameter is",
                    wadi_path_text(p->c->src->arena, &path));
    return resolve_field(p, &path, &e->field) ? e : NULL;
}

static wad_expr *parse_atom(parser *p)
{
    static const struct {
        const char *name;
        wadi_op op;
    } functions[] = {{"floor", WADI_OP_FLOOR},
                     {"min", WADI_OP_MIN},
                     {"max", WADI_OP_MAX},
                     {"ones", WADI_OP_ONES}};
    unsigned n_functions = G_N_ELEMENTS(functions) - (p->names->bits ? 0 : 1);
    if (p->depth++ > MAX_NESTING)
        return fail(p, &p->c->tok->where, "%s", "expression nests too deeply");
    if (p->c->failed)
        return NULL;
    if (p->c->tok->type == WADI_T_NUMBER)
        return parse_number(p);
    if (wadi_take_punct(p->c, "(")) {
        wad_expr *e = parse_bits(p);
        return wadi_need_punct(p->c, ")") ? e : NULL;
    }
    if (wadi_at_word(p->c, "pick"))
        return parse_pick(p);
    if (p->names->hook && wadi_at_word(p->c, "written")) {
        wad_expr *e = node(p, WADI_OP_WRITTEN);
        p->c->tok++;
        return e;
    }
    for (unsigned i = 0; i < n_functions; i++)
        if (wadi_at_word(p->c, functions[i].name))
            return parse_function(p, functions[i].op);
    if (p->c->tok->type == WADI_T_NAME)
        return parse_name(p);
    wadi_expected(p->c, "a number or a name");
    return NULL;
}

static wad_expr *binary(parser *p, wadi_op op, wad_expr *a, wad_expr *b)
{
    if (!a || !b)
        return NULL;
    wad_expr *e = node(p, op);
    e->where = a->where;
    e->a = a;
    e->b = b;
    return e;
}

static wad_expr *parse_power(parser *p)
{
    bool inverts = p->names->bits && wadi_at_punct(p->c, "~");
    if (inverts || wadi_at_punct(p->c, "-")) {
        wad_expr *e = node(p, inverts ? WADI_OP_NOT : WADI_OP_NEG);
        p->c->tok++;
        if (p->depth++ > MAX_NESTING)
            return fail(p, &e->where, "%s", "expression nests too deeply");
        e->a = parse_power(p);
        return e->a ? e : NULL;
    }
    int depth = p->depth;
    wad_expr *e = parse_atom(p);
    if (e && wadi_take_punct(p->c, "**"))
        e = binary(p, WADI_OP_POW, e, parse_power(p));
    p->depth = depth;
    return e;
}

static wad_expr *parse_product(parser *p)
{
    wad_expr *e = parse_power(p);
    while (e && (wadi_at_punct(p->c, "*") || wadi_at_punct(p->c, "/"))) {
        wadi_op op = *p->c->tok->text == '*' ? WADI_OP_MUL : WADI_OP_DIV;
        p->c->tok++;
        e = binary(p, op, e, parse_power(p));
    }
    return e;
}

static wad_expr *parse_sum(parser *p)
{
    wad_expr *e = parse_product(p);
    while (e && (wadi_at_punct(p->c, "+") || wadi_at_punct(p->c, "-"))) {
        wadi_op op = *p->c->tok->text == '+' ? WADI_OP_ADD : WADI_OP_SUB;
        p->c->tok++;
        e = binary(p, op, e, parse_product(p));
    }
    return e;
}

static wad_expr *parse_masked(parser *p)
{
    wad_expr *e = parse_sum(p);
    while (e && p->names->bits && wadi_take_punct(p->c, "&"))
        e = binary(p, WADI_OP_AND, e, parse_sum(p));
    return e;
}

static wad_expr *parse_bits(parser *p)
{
    wad_expr *e = parse_masked(p);
    while (e && p->names->bits && (wadi_at_punct(p->c, "|") || wadi_at_punct(p->c, "^"))) {
        wadi_op op = *p->c->tok->text == '|' ? WADI_OP_OR : WADI_OP_XOR;
        p->c->tok++;
        e = binary(p, op, e, parse_masked(p));
    }
    return e;
}

wad_expr *wadi_parse_expr(wadi_cursor *c, const wadi_names *names)
{
    parser p = {c, names, 0};
    wad_expr *e = parse_bits(&p);
    return c->failed ? NULL : e;
}

/* ---- paths: their indices are expressions, and expressions hold paths ---- */

static bool parse_number_index(wadi_cursor *c, const wadi_env *env, const char *what, int64_t least,
                               int64_t *index)
{
    wadi_build none = {.src = c->src, .arena = c->src->arena};
    wadi_names names = {.build = &none, .env = env, .constant = true, .plain = true};
    wad_where where = c->tok->where;
    wad_rational r;
    wad_expr *e = wadi_parse_expr(c, &names);
    if (!e)
        return false;
    if (!wadi_expr_eval(e, &(wadi_eval){0}, &r) || r.den != 1 || r.num < least || r.num > 65535) {
        wadi_error(c->src, &where, "%s must be a whole number from %lld to 65535", what,
                   (long long)least);
        c->failed = true;
        return false;
    }
    *index = r.num;
    return true;
}

/* `[2]`, `[n]`, `[n + 1]` */
static bool parse_one_index(wadi_cursor *c, const wadi_env *env, wadi_path *path, unsigned i)
{
    const wadi_tok *next = c->tok + 1;
    if (c->tok->type == WADI_T_NAME && next->type == WADI_T_PUNCT && !strcmp(next->text, "]")) {
        path->index_name[i] = c->tok->text;
        for (const wadi_env *v = env; v && path->index[i] < 0; v = v->next)
            if (!strcmp(v->name, c->tok->text) && v->value.den == 1)
                path->index[i] = v->value.num;
        if (path->index[i] < 0) {
            wadi_error(c->src, &c->tok->where, "'%s' is no number and no index here", c->tok->text);
            c->failed = true;
            return false;
        }
        c->tok++;
        return true;
    }
    if (wadi_at_punct(c, "]")) {
        wadi_expected(c, "an index");
        return false;
    }
    return parse_number_index(c, env, "an index", 0, &path->index[i]);
}

static bool parse_index(wadi_cursor *c, const wadi_env *env, wadi_path *path, unsigned i,
                        int *ranged)
{
    path->index[i] = path->last[i] = -1;
    path->index_name[i] = NULL;
    if (!wadi_take_punct(c, "["))
        return true;
    if (!parse_one_index(c, env, path, i))
        return false;
    path->last[i] = path->index[i];
    if (ranged && *ranged < 0 && wadi_take_punct(c, "..")) {
        *ranged = (int)i;
        parse_number_index(c, env, "the last index", path->index[i], &path->last[i]);
    }
    return wadi_need_punct(c, "]");
}

bool wadi_parse_paths(wadi_cursor *c, const wadi_env *env, wadi_path *path, int *ranged)
{
    *path = (wadi_path){.where = c->tok->where};
    do {
        if (path->n == WADI_PATH_PARTS) {
            wadi_expected(c, "at most BLOCK.REGISTER.FIELD");
            return false;
        }
        path->name[path->n] = wadi_need_name(c, "a name");
        if (!path->name[path->n] || !parse_index(c, env, path, path->n, ranged))
            return false;
        path->n++;
    } while (wadi_take_punct(c, "."));
    return true;
}

bool wadi_parse_path(wadi_cursor *c, const wadi_env *env, wadi_path *path)
{
    return wadi_parse_paths(c, env, path, NULL);
}
