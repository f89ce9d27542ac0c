/* SPDX-License-Identifier: MIT */
/* Paths, conditions and constants. */
#include <string.h>

#include "build.h"
#include "path.h"
#include "sheet/chip/expression.h"
#include "sheet/laws/evaluate.h"

bool wadi_parse_int(wadi_build *b, wadi_cursor *c, const wadi_env *env, const char *what,
                    int64_t min, int64_t max, int64_t *value)
{
    wadi_names names = {.build = b, .env = env, .constant = true, .plain = true};
    wad_where where = c->tok->where;
    wad_rational r;
    if (c->failed)
        return false;
    if (wadi_at_end(c) || c->tok->type == WADI_T_GROUP || c->tok->type == WADI_T_STRING) {
        wadi_expected(c, what);
        return false;
    }
    wad_expr *e = wadi_parse_expr(c, &names);
    if (!e)
        return false;
    if (!wadi_expr_eval(e, &(wadi_eval){0}, &r) || r.den != 1 || r.num < min || r.num > max) {
        wadi_error(c->src, &where, "%s must be a whole number from %lld to %lld", what,
                   (long long)min, (long long)max);
        c->failed = true;
        return false;
    }
    *value = r.num;
    return true;
}

static const char *unit_example(wad_unit unit)
{
    static const char *const examples[] = {"a plain number",
                                           "a frequency such as 8 MHz",
                                           "a time such as 2 ms",
                                           "a share such as 1 % or 30 ppm",
                                           "percentage points such as 0.1 points",
                                           "a size such as 32 KiB",
                                           "a voltage such as 3.3 V",
                                           "a number of cycles",
                                           "a resistance such as 10 kohm",
                                           "a capacity such as 8 pF",
                                           "a current such as 12 uA"};
    return examples[unit];
}

bool wadi_parse_quantity(wadi_build *b, wadi_cursor *c, const wadi_env *env, wad_unit unit,
                         wad_rational *value)
{
    wadi_names names = {.build = b, .env = env, .constant = true};
    if (c->failed)
        return false;
    wad_where where = c->tok->where;
    wad_expr *e = wadi_parse_expr(c, &names);
    if (!e)
        return false;
    if (e->op != WADI_OP_NUM || e->unit != unit) {
        wadi_error(c->src, &where, "expected %s", unit_example(unit));
        c->failed = true;
        return false;
    }
    *value = e->num;
    return true;
}

static const struct {
    const char *word;
    wad_access access;
} accesses[] = {{"rw", WAD_ACCESS_RW},   {"ro", WAD_ACCESS_RO},   {"wo", WAD_ACCESS_WO},
                {"w1c", WAD_ACCESS_W1C}, {"w1s", WAD_ACCESS_W1S}, {"w0c", WAD_ACCESS_W0C},
                {"rc", WAD_ACCESS_RC}};

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
    wadi_expected(c, "an access kind (rw, ro, wo, w1c, w1s, w0c, rc)");
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

bool wadi_parse_cond(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_instance *scope,
                     wad_cond *cond)
{
    GArray *terms = g_array_new(FALSE, FALSE, sizeof(wad_cond_term));
    bool ok = true;
    do {
        wad_cond_term term = {.equal = true, .value = 1, .where = c->tok->where};
        wadi_path path;
        ok = wadi_parse_path(c, env, &path) &&
             wadi_resolve(b, scope ? scope->layout : NULL, scope, &path, &term.ref);
        if (ok && wadi_take_punct(c, "=")) {
            ok = parse_cond_value(b, c, env, &term);
        } else if (ok && wadi_take_punct(c, "!=")) {
            term.equal = false;
            ok = parse_cond_value(b, c, env, &term);
        }
        g_array_append_val(terms, term);
    } while (ok && wadi_take_word(c, "and"));
    cond->n = ok ? terms->len : 0;
    cond->terms = wadi_arena_copy(b->arena, terms->data, cond->n, sizeof(wad_cond_term));
    g_array_free(terms, TRUE);
    c->failed = c->failed || !ok;
    return ok;
}
