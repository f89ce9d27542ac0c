/* SPDX-License-Identifier: MIT */
/* Clock frequencies from laws and register values. */
#include "evaluate.h"
#include "lang/rational.h"

typedef struct rate_ctx {
    wad_read_fn read;
    void *ctx;
    const wad_clock *root;
} rate_ctx;

static bool field_value(void *data, const wad_fieldref *ref, uint64_t *code)
{
    rate_ctx *rc = data;
    uint64_t bits =
        rc->read ? rc->read(rc->ctx, ref->block, ref->reg, ref->reg_index) : ref->reg->reset;
    *code = (bits & wad_fieldref_mask(ref)) >> ref->lsb;
    return true;
}

static bool clock_value(void *data, const wad_clock *clock, wad_rational *hz)
{
    rate_ctx *rc = data;
    if (!clock)
        return false;
    if (!clock->law) {
        *hz = clock->hz;
        rc->root = clock;
        return true;
    }
    wadi_eval env = {.field = field_value, .clock = clock_value, .ctx = rc};
    return wadi_expr_eval(clock->law, &env, hz);
}

bool wad_clock_rate(const wad_sheet *sheet, const wad_clock *clock, wad_read_fn read, void *ctx,
                    wad_rational *hz, const wad_clock **root)
{
    rate_ctx rc = {read, ctx, NULL};
    (void)sheet;
    bool ok = clock_value(&rc, clock, hz) && hz->num > 0;
    if (root)
        *root = rc.root;
    return ok;
}

bool wadi_clock_limits(const wad_clock *clock, const wadi_eval *env, wad_rational *min,
                       wad_rational *max)
{
    *min = clock->min_hz;
    *max = clock->max_hz;
    return clock->bounded && (!clock->least || wadi_expr_eval(clock->least, env, min)) &&
           (!clock->most || wadi_expr_eval(clock->most, env, max));
}

bool wadi_clock_beyond(const wad_clock *clock, const wadi_eval *env, wad_rational hz)
{
    wad_rational min, max;
    return wadi_clock_limits(clock, env, &min, &max) &&
           (wadi_rat_cmp(hz, min) < 0 || wadi_rat_cmp(hz, max) > 0);
}

bool wad_clock_limits(const wad_clock *clock, wad_read_fn read, void *ctx, wad_rational *min,
                      wad_rational *max)
{
    rate_ctx rc = {read, ctx, NULL};
    wadi_eval env = {.field = field_value, .clock = clock_value, .ctx = &rc};
    return wadi_clock_limits(clock, &env, min, max);
}
