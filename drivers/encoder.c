/* SPDX-License-Identifier: MIT */
/* Built once for a chip: WAD_CHIP names its generated roles header. */
#include <wadium/clock.h>
#include <wadium/encoder.h>

#include WAD_CHIP

#ifdef WAD_ENCODER_TABLE

#define R           WAD_ENCODER_TABLE
#define RESET_POLLS 1000u

wad_status wad_encoder_open(wad_encoder *e, const wad_block *block, wad_route a, wad_route b,
                            unsigned filter)
{
    *e = (wad_encoder){.block = block};
    if (filter > (wad_has(R.filter) ? wadi_ones(R.filter) : 0u))
        return WAD_E_RANGE;
    if (!wad_block_up(block, RESET_POLLS))
        return WAD_E_TIMEOUT;
    wad_put(block->base, R.enable, 0);
    if (wad_has(R.filter))
        wad_put(block->base, R.filter, filter);
    if (wad_has(R.limit)) /* all of it: a position's difference is then right across the wrap */
        wad_put(block->base, R.limit, wadi_ones(R.limit));
    wad_put(block->base, R.count, 0);
    wad_status st = wadi_route_any(a);
    if (st == WAD_OK)
        st = wadi_route_any(b);
    if (st != WAD_OK)
        return st;
    if (wad_has(R.fault))
        wad_clear(block->base, R.fault);
    wad_put(block->base, R.enable, 1);
    return WAD_OK;
}

int32_t wad_encoder_position(wad_encoder *e)
{
    uint32_t ones = wadi_ones(R.count), count = wad_get(e->block->base, R.count);
    uint32_t moved = (count - e->last) & ones;
    e->last = count;
    e->position += moved <= ones / 2u ? (int32_t)moved : -(int32_t)(((0u - moved) & ones));
    return e->position;
}

bool wad_encoder_fault(const wad_encoder *e)
{
    return wad_has(R.fault) && wad_take(e->block->base, R.fault);
}

#endif
