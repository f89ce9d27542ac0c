/* SPDX-License-Identifier: MIT */
#include "input.h"

void wadi_input_hear(wad_model *m, wadi_input *in, bool level, uint64_t stays)
{
    if (!in->known || !wad_model_clocked(m)) { /* where it stands at first is no edge */
        in->known = true;
        in->level = level;
        return;
    }
    bool differs = level != in->level;
    if (differs == in->pending)
        return;
    in->pending = differs;
    if (differs)
        wad_model_schedule(m, &in->event, wad_model_edge(m, wad_model_edges(m) + 1 + stays));
    else /* back before it counted */
        wad_model_cancel(m, &in->event);
}

wadi_input *wadi_input_changed(wad_event *e)
{
    wadi_input *in = (wadi_input *)e; /* its first member */
    in->pending = false;
    in->level = !in->level;
    return in;
}

void wadi_input_forget(wad_model *m, wadi_input *in)
{
    wad_model_cancel(m, &in->event);
    in->pending = false;
}
