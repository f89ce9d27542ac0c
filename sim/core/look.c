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
    sim->look.fn = look;
    sim->look.ctx = ctx;
}

void wad_sim_ask_look(wad_sim *sim)
{
    sim->look.asked = sim->look.fn != NULL;
}

void wadi_look(wad_sim *sim)
{
    sim->look.asked = false;
    sim->look.fn(sim->look.ctx);
}
