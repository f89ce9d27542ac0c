/* SPDX-License-Identifier: MIT */
/* Conditions, and words of access. */
#include <string.h>

#include "build.h"
#include "path.h"
#include "sheet/chip/expression.h"
#include "sheet/laws/evaluate.h"

static const struct {
    const char *word;
    wad_access access;
} accesses[] = {{"rw", WAD_ACCESS_RW},   {"ro", WAD_ACCESS_RO},     {"wo", WAD_ACCESS_WO},
                {"w1c", WAD_ACCESS_W1C}, {"w1s", WAD_ACCESS_W1S},   {"w0c", WAD_ACCESS_W0C},
                {"rc", WAD_ACCESS_RC},   {"w1t", WAD_ACCESS_W1T},   {"w0s", WAD_ACCESS_W0S},
                {"w0t", WAD_ACCESS_W0T}, {"rs", WAD_ACCESS_RS},     {"wc", WAD_ACCESS_WC},
                {"ws", WAD_ACCESS_WS},   {"once", WAD_ACCESS_ONCE}, {"pulse", WAD_ACCESS_PULSE}};

bool wadi_at_access(const wadi_cursor *c)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(accesses); i++)
        if (wadi_at_word(c, accesses[i].word))
            return true;
    return false;
}

wad_access wadi_parse_access(wadi_cursor *c)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(accesses); i++)
        if (wadi_take_word(c, accesses[i].word))
            return accesses[i].access;
    wadi_expected(c,
                  "an access kind (rw, ro, wo, w1c, w1s, w1t, w0c, w0s, w0t, rc, rs, wc, ws, once, "
                  "pulse)");
    return WAD_ACCESS_RESERVED;
}

/* ---- conditions ---- */

static bool parse_cond_value(wadi_build *b, wadi_cursor *c, const wadi_env *env,
                             wad_cond_term *term)
{
    const wad_bitfield *field = term->ref.field;
    if (c->tok->type == WADI_T_NAME && field) {
        for (unsigned i = 0; i < field->n_enums; i++)
            if (!strcmp(field->enums[i].name, c->tok->text)) {
                term->value = field->enums[i].code;
                c->tok++;
                return true;
            }
    }
    int64_t value;
    int64_t max = term->ref.width >= 63 ? INT64_MAX : (INT64_C(1) << term->ref.width) - 1;
    if (!wadi_parse_int(b, c, env, "the field's value", 0, max, &value))
        return false;
    term->value = (uint64_t)value;
    return true;
}

/* Alternatives, each a list of terms that must all hold. */
typedef GPtrArray alternatives; /* of GArray of wad_cond_term */

#define MOST_ALTERNATIVES 64

static void free_terms(gpointer data)
{
    g_array_free(data, TRUE);
}

static alternatives *one_of(const wad_cond_term *term)
{
    alternatives *list = g_ptr_array_new_with_free_func(free_terms);
    GArray *terms = g_array_new(FALSE, FALSE, sizeof(wad_cond_term));
    if (term)
        g_array_append_val(terms, *term);
    g_ptr_array_add(list, terms);
    return list;
}

/* (a or b) and (c or d): every pair. */
static alternatives *both(alternatives *x, alternatives *y)
{
    alternatives *list = g_ptr_array_new_with_free_func(free_terms);
    for (guint i = 0; i < x->len; i++)
        for (guint k = 0; k < y->len && list->len <= MOST_ALTERNATIVES; k++) {
            GArray *a = x->pdata[i], *b = y->pdata[k];
            GArray *terms = g_array_new(FALSE, FALSE, sizeof(wad_cond_term));
            g_array_append_vals(terms, a->data, a->len);
            g_array_append_vals(terms, b->data, b->len);
            g_ptr_array_add(list, terms);
        }
    g_ptr_array_free(x, TRUE);
    g_ptr_array_free(y, TRUE);
    return list;
}

typedef struct cond_reader {
    wadi_build *b;
    wadi_cursor *c;
    const wadi_env *env;
    const wad_instance *scope;
    unsigned depth;
} cond_reader;

static alternatives *read_any(cond_reader *r);

static bool read_value(cond_reader *r, wad_cond_term *term)
{
    if (!parse_cond_value(r->b, r->c, r->env, term))
        return false;
    term->last = term->value;
    if (!wadi_take_punct(r->c, ".."))
        return true;
    wad_cond_term end = *term;
    if (!parse_cond_value(r->b, r->c, r->env, &end))
        return false;
    term->last = end.value;
    if (term->last < term->value) {
        wadi_error(r->c->src, &term->where, "a range begins with its smaller value: %llu .. %llu",
                   (unsigned long long)term->last, (unsigned long long)term->value);
        r->c->failed = true;
    }
    return !r->c->failed;
}

static alternatives *read_term(cond_reader *r)
{
    if (wadi_at_punct(r->c, "(")) {
        if (r->depth++ > 16) {
            wadi_expected(r->c, "a condition that nests less deeply");
            return NULL;
        }
        r->c->tok++;
        alternatives *inner = read_any(r);
        r->depth--;
        if (inner && wadi_need_punct(r->c, ")"))
            return inner;
        if (inner)
            g_ptr_array_free(inner, TRUE);
        return NULL;
    }
    wad_cond_term term = {.equal = true, .value = 1, .last = 1, .where = r->c->tok->where};
    wadi_path path;
    bool ok = wadi_parse_path(r->c, r->env, &path) &&
              wadi_resolve(r->b, r->scope ? r->scope->layout : NULL, r->scope, &path, &term.ref);
    if (ok && wadi_take_punct(r->c, "=")) {
        ok = read_value(r, &term);
    } else if (ok && wadi_take_punct(r->c, "!=")) {
        term.equal = false;
        ok = read_value(r, &term);
    }
    if (!ok)
        return NULL;
    if (r->scope && term.ref.block == r->scope) /* of each block that has the layout */
        term.ref.block = NULL;
    return one_of(&term);
}

static alternatives *read_all(cond_reader *r)
{
    alternatives *list = read_term(r);
    while (list && wadi_take_word(r->c, "and")) {
        alternatives *next = read_term(r);
        if (!next)
            g_ptr_array_free(list, TRUE);
        list = next ? both(list, next) : NULL;
    }
    return list;
}

static alternatives *read_any(cond_reader *r)
{
    alternatives *list = read_all(r);
    while (list && wadi_take_word(r->c, "or")) {
        alternatives *next = read_all(r);
        if (!next) {
            g_ptr_array_free(list, TRUE);
            return NULL;
        }
        for (guint i = 0; i < next->len; i++)
            g_ptr_array_add(list, next->pdata[i]);
        g_ptr_array_set_free_func(next, NULL);
        g_ptr_array_free(next, TRUE);
    }
    return list;
}

bool wadi_parse_cond(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_instance *scope,
                     wad_cond *cond)
{
    cond_reader r = {b, c, env, scope, 0};
    wad_where where = c->tok->where;
    alternatives *list = read_any(&r);
    *cond = (wad_cond){0};
    if (list && list->len > MOST_ALTERNATIVES) {
        wadi_error(c->src, &where, "a condition of more than %u alternatives", MOST_ALTERNATIVES);
        g_ptr_array_free(list, TRUE);
        list = NULL;
    }
    c->failed = c->failed || !list;
    for (guint i = list ? list->len : 0; i-- > 0;) {
        const GArray *terms = list->pdata[i];
        wad_cond *next = NULL;
        if (i + 1 < list->len) {
            next = WADI_NEW(b->arena, wad_cond);
            *next = *cond;
        }
        *cond =
            (wad_cond){wadi_arena_copy(b->arena, terms->data, terms->len, sizeof(wad_cond_term)),
                       terms->len, next};
    }
    if (list)
        g_ptr_array_free(list, TRUE);
    return !c->failed;
}

void wadi_skip_const(wadi_cursor *c, const wadi_env *env)
{
    wadi_build none = {.src = c->src, .arena = c->src->arena};
    wadi_names names = {.build = &none, .env = env, .constant = true, .plain = true};
    bool is_function = c->tok[1].type == WADI_T_PUNCT && !strcmp(c->tok[1].text, "(");
    bool is_known = false;
    for (const wadi_env *v = env; v && c->tok->type == WADI_T_NAME; v = v->next)
        is_known = is_known || !strcmp(v->name, c->tok->text);
    if (c->tok->type == WADI_T_NAME && !is_known && !is_function)
        wadi_skip_token(c); /* one of the field's values */
    else
        wadi_parse_expr(c, &names);
}

void wadi_skip_cond(wadi_cursor *c, const wadi_env *env)
{
    wadi_path path;
    do {
        if (wadi_take_punct(c, "(")) {
            wadi_skip_cond(c, env);
            if (!wadi_need_punct(c, ")"))
                return;
            continue;
        }
        if (!wadi_parse_path(c, env, &path))
            return;
        if (!wadi_take_punct(c, "=") && !wadi_take_punct(c, "!="))
            continue;
        wadi_skip_const(c, env);
        if (wadi_take_punct(c, ".."))
            wadi_skip_const(c, env);
    } while (wadi_take_word(c, "and") || wadi_take_word(c, "or"));
}
