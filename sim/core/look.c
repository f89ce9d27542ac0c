/* SPDX-License-Identifier: MIT */
/* A look from outside, where the core stands between two accesses. */
#include "advance.h"
#include "block.h"
#include "cpu.h"
#include "fault.h"
#include "interrupt.h"
#include "line.h"
#include "report.h"
#include "sleep.h"
#include "stop.h"

void wad_sim_on_look(wad_sim *sim, void (*look)(void *ctx), void *ctx)
{
    sim->look = look;
    sim->look_ctx = ctx;
}

void wad_sim_ask_look(wad_sim *sim)
{
    sim->look_asked = sim->look != NULL;
}

void wadi_look(wad_sim *sim)
{
    sim->look_asked = false;
    sim->look(sim->look_ctx);
}
