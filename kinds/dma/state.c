/* SPDX-License-Identifier: MIT */
/* Kind dma: what its files share. */
#include "state.h"

void wadi_dma_set_flag(wad_model *m, unsigned role, unsigned i)
{
    if (!m->roles[role].count)
        return;
    wad_model_put(m, role, i, 1);
    wad_model_event(m, role, i);
}
