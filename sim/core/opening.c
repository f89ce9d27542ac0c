/* SPDX-License-Identifier: MIT */
/* A gate or a reset whose time has passed: the block answers from now on. */
#include "block.h"
#include "clock.h"

void wadi_opening_ready(wad_event *e)
{
    wadi_opening *o = (wadi_opening *)e;
    o->ready = true;
    wadi_opening_show(o);
    wadi_clocks_update(o->block->sim);
}
