/* SPDX-License-Identifier: MIT */
#include "number.h"

#include "build.h"
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

/* A bench or a board builds no chip: the names in its numbers mean nothing. */
static wadi_build nothing(const wadi_cursor *c)
{
    return (wadi_build){.src = c->src, .arena = c->src->arena};
}

bool wadi_take_number(wadi_cursor *c, const char *what, int64_t min, int64_t max, int64_t *value)
{
    wadi_build none = nothing(c);
    return wadi_parse_int(&none, c, NULL, what, min, max, value);
}

bool wadi_take_quantity(wadi_cursor *c, wad_unit unit, wad_rational *value)
{
    wadi_build none = nothing(c);
    return wadi_parse_quantity(&none, c, NULL, unit, value);
}

bool wadi_take_amount(wadi_cursor *c, wad_rational *value, wad_unit *unit)
{
    wadi_build none = nothing(c);
    wadi_names names = {.build = &none, .constant = true};
    if (c->failed)
        return false;
    wad_where where = c->tok->where;
    wad_expr *e = wadi_parse_expr(c, &names);
    if (!e)
        return false;
    if (e->op != WADI_OP_NUM) {
        wadi_error(c->src, &where, "expected a number with its unit");
        c->failed = true;
        return false;
    }
    *value = e->num;
    *unit = e->unit;
    return true;
}
