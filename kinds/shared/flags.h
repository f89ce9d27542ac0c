/* SPDX-License-Identifier: MIT */
/* Flags with an interrupt enable each, by role, for models with several of them on one line. */
#ifndef WADI_FLAGS_H
#define WADI_FLAGS_H

#include "sim/core/sim.h"

typedef struct wadi_flag_role {
    unsigned flag, enable;
    bool state; /* it says how things are: that it is set already is no event of old */
} wadi_flag_role;

static inline bool wadi_flags_ask(const wad_model *m, const wadi_flag_role *flags, unsigned n)
{
    for (unsigned i = 0; i < n; i++)
        if (wad_model_get(m, flags[i].enable, 0) && wad_model_get(m, flags[i].flag, 0))
            return true;
    return false;
}

/* After a write to enables: what is asked for from now on. */
static inline void wadi_flags_enabled(wad_model *m, const wadi_flag_role *flags, unsigned n,
                                      const wad_write *w)
{
    bool on = false, stale = false;
    if (!(w->after & ~w->before))
        return;
    for (unsigned i = 0; i < n; i++) {
        bool asked = wad_model_get(m, flags[i].enable, 0) != 0;
        on = on || asked;
        stale = stale || (asked && !flags[i].state && wad_model_get(m, flags[i].flag, 0));
    }
    wad_model_asks(m, 0, on, stale);
}

#endif
