/* SPDX-License-Identifier: MIT */
/* Kind clocks: resets that take a moment to be over. Sources and laws are the clock tree's. */
#include "sim/core/model.h"
#include "sim/core/clock.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_CLOCKS(ROLE)
#undef ROLE
};

#define DEFAULT_CYCLES 4

typedef struct clocks_state {
    wad_event done;
} clocks_state;

static void on_done(wad_event *e)
{
    wad_model *m = e->model;
    uint32_t held = wad_model_get(m, ROLE_resets, 0);
    uint32_t known = (uint32_t)~wad_register_mask(
        wad_role_ref(m->block->inst, m->roles[ROLE_resets].role, 0).reg, WAD_ACCESS_RESERVED);
    wad_model_put(m, ROLE_resets_done, 0, ~held & known);
    wadi_clocks_update(m->sim);
}

static void reset(wad_model *m)
{
    clocks_state *s = wad_model_state(m);
    wad_model_cancel(m, &s->done);
    wad_model_enabled(m);
}

static void written(wad_model *m, const wad_write *w)
{
    clocks_state *s = wad_model_state(m);
    if (!(w->roles & WAD_ROLE_BIT(ROLE_resets)) || !wad_model_has(m, ROLE_resets_done))
        return;
    uint32_t held = wad_model_get(m, ROLE_resets, 0);
    wad_model_put(m, ROLE_resets_done, 0, wad_model_get(m, ROLE_resets_done, 0) & ~held);
    uint32_t cycles = wad_model_code(m, ROLE_resets_done, "after_cycles", DEFAULT_CYCLES);
    s->done.fn = on_done;
    wad_model_schedule(m, &s->done, wad_model_edge(m, wad_model_edges(m) + cycles));
}

const wad_model_class wadi_model_clocks = {
    .kind = "clocks", .state_size = sizeof(clocks_state), .reset = reset, .written = written};
