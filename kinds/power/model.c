/* SPDX-License-Identifier: MIT */
/* Kind power: registers only; what they mean for the core is sim/core/sleep.c's. */
#include "sim/core/sim.h"

static void reset(wad_model *m)
{
    wad_model_enabled(m);
}

const wad_model_class wadi_model_power = {.kind = "power", .reset = reset};
