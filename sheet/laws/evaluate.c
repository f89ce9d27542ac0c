/* SPDX-License-Identifier: MIT */
#include "evaluate.h"

#include "lang/rational.h"
#include "sheet/chip/expression.h"

/* A law counts with what a code stands for, where the sheet says that it `is` something. */
static bool eval_field(const wad_expr *e, const wadi_eval *env, wad_rational *out)
{
    uint64_t code;
    if (!env->field || !env->field(env->ctx, &e->field, &code))
        return false;
    const wad_enumerator *en = e->field.field ? wad_bitfield_enum(e->field.field, code) : NULL;
    *out = en && en->has_meaning ? en->meaning : wadi_int((int64_t)code);
    return true;
}

/* It chooses by what is written. */
static bool eval_pick(const wad_expr *e, const wadi_eval *env, wad_rational *out)
{
    uint64_t code;
    if (!env->field || !env->field(env->ctx, &e->field, &code))
        return false;
    for (unsigned i = 0; i < e->n_picks; i++)
        if (e->picks[i].code == code)
            return wadi_expr_eval(e->picks[i].value, env, out);
    return false;
}

static bool eval_binary(const wad_expr *e, const wadi_eval *env, wad_rational *out)
{
    wad_rational a, b;
    if (!wadi_expr_eval(e->a, env, &a) || !wadi_expr_eval(e->b, env, &b))
        return false;
    switch (e->op) {
    case WADI_OP_ADD:
        return wadi_rat_add(a, b, out);
    case WADI_OP_SUB:
        return wadi_rat_sub(a, b, out);
    case WADI_OP_MUL:
        return wadi_rat_mul(a, b, out);
    case WADI_OP_DIV:
        return wadi_rat_div(a, b, out);
    case WADI_OP_POW:
        return wadi_rat_pow(a, b, out);
    default:
        *out = (wadi_rat_cmp(a, b) < 0) == (e->op == WADI_OP_MIN) ? a : b;
        return true;
    }
}

bool wadi_expr_eval(const wad_expr *e, const wadi_eval *env, wad_rational *out)
{
    switch (e->op) {
    case WADI_OP_NUM:
        *out = e->num;
        return true;
    case WADI_OP_CLOCK:
        return env->clock && env->clock(env->ctx, e->clock, out);
    case WADI_OP_FIELD:
        return eval_field(e, env, out);
    case WADI_OP_PICK:
        return eval_pick(e, env, out);
    case WADI_OP_NEG:
        if (!wadi_expr_eval(e->a, env, out))
            return false;
        out->num = -out->num;
        return true;
    case WADI_OP_FLOOR:
        if (!wadi_expr_eval(e->a, env, out))
            return false;
        *out = wadi_int(wadi_rat_floor(*out));
        return true;
    default:
        return eval_binary(e, env, out);
    }
}
