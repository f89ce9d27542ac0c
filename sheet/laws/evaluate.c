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
        if (code >= e->picks[i].code && code <= e->picks[i].last)
            return wadi_expr_eval(e->picks[i].value, env, out);
    return false;
}

/* Of bits: whole numbers, none negative. */
static bool eval_bits(const wad_expr *e, const wadi_eval *env, wad_rational *out)
{
    wad_rational a, b = {0, 1};
    if (!wadi_expr_eval(e->a, env, &a) || (e->b && !wadi_expr_eval(e->b, env, &b)) || a.den != 1 ||
        b.den != 1)
        return false;
    uint64_t x = (uint64_t)a.num, y = (uint64_t)b.num;
    uint64_t bits = e->op == WADI_OP_AND   ? x & y
                    : e->op == WADI_OP_OR  ? x | y
                    : e->op == WADI_OP_XOR ? x ^ y
                    : e->op == WADI_OP_NOT ? ~x & UINT32_MAX
                                           : (uint64_t)__builtin_popcountll(x);
    *out = wadi_int((int64_t)bits);
    return true;
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
    case WADI_OP_AND:
    case WADI_OP_OR:
    case WADI_OP_XOR:
    case WADI_OP_NOT:
    case WADI_OP_ONES:
        return eval_bits(e, env, out);
    case WADI_OP_WRITTEN:
        *out = wadi_int((int64_t)env->written);
        return true;
    default:
        return eval_binary(e, env, out);
    }
}
