/* SPDX-License-Identifier: MIT */
/* Kind dma: what its files share. */
#include "state.h"

static bool asks(const wad_model *m, unsigned flag, unsigned enable)
{
    if (!m->roles[flag].count || !m->roles[enable].count)
        return false;
    for (unsigned i = 0; i < m->roles[flag].count; i++)
        if (wad_model_get(m, flag, i) &&
            wad_model_get(m, enable, i < m->roles[enable].count ? i : 0))
            return true;
    return false;
}

void wadi_dma_update(wad_model *m)
{
    wad_model_line(m, 0,
                   asks(m, ROLE_half, ROLE_half_irq) || asks(m, ROLE_end, ROLE_end_irq) ||
                       asks(m, ROLE_error, ROLE_error_irq));
}

void wadi_dma_set_flag(wad_model *m, unsigned role, unsigned i)
{
    if (!m->roles[role].count)
        return;
    wad_model_put(m, role, i, 1);
    wad_model_event(m, role, i);
    wadi_dma_update(m);
}
