/* SPDX-License-Identifier: MIT */
/*
 * Kind encoder: counts the quarter steps of two inputs of which one follows the other.
 *
 *     A  __##__##    position rises: A changes while B is as A was,
 *     B  _##__##_    so each edge of either input is one quarter step
 */
#include "sim/core/model.h"
#include "kinds/shared/input.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_ENCODER(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef struct encoder_state {
    wadi_input in[2];
    uint64_t last_edge; /* on which an input changed */
    unsigned last_input;
} encoder_state;

static bool runs(const wad_model *m)
{
    return wad_model_get(m, ROLE_enable, 0) && wad_model_clocked(m);
}

static void count_step(wad_model *m, bool up)
{
    uint32_t width = wad_model_width(m, ROLE_count);
    uint32_t most = width >= 32 ? UINT32_MAX : (1u << width) - 1;
    uint32_t limit = wad_model_has(m, ROLE_limit) ? wad_model_get(m, ROLE_limit, 0) : most;
    uint32_t at = wad_model_get(m, ROLE_count, 0);
    at = up ? (at >= limit ? 0 : at + 1) : (at ? at - 1 : limit);
    wad_model_put(m, ROLE_count, 0, at);
    wad_model_put(m, ROLE_down, 0, !up);
    wad_model_put(m, ROLE_step, 0, 1);
    wad_model_event(m, ROLE_step, 0);
}

/* Both with one edge of the clock: which came first cannot be known, and the step is undone. */
static void on_input(wad_event *e)
{
    wad_model *m = e->model;
    encoder_state *s = wad_model_state(m);
    const wadi_input *in = wadi_input_changed(e);
    uint64_t edge = wad_model_edges(m);
    if (!runs(m))
        return;
    if (s->last_edge == edge && s->last_input != in->index) {
        bool went_down = wad_model_get(m, ROLE_down, 0) != 0;
        count_step(m, went_down);
        wad_model_put(m, ROLE_fault, 0, 1);
        wad_model_event(m, ROLE_fault, 0);
    } else {
        count_step(m, (s->in[0].level != s->in[1].level) == (in->index == 0));
    }
    s->last_edge = edge;
    s->last_input = in->index;
}

static void hear(wad_model *m, unsigned role, unsigned i, bool level)
{
    encoder_state *s = wad_model_state(m);
    (void)i;
    wadi_input_hear(m, &s->in[role == ROLE_input_b], level, wad_model_get(m, ROLE_filter, 0));
}

static void reset(wad_model *m)
{
    encoder_state *s = wad_model_state(m);
    for (unsigned i = 0; i < 2; i++) {
        wad_model_cancel(m, &s->in[i].event);
        s->in[i] = (wadi_input){.event = {.fn = on_input},
                                .index = i,
                                .level = s->in[i].level,
                                .known = s->in[i].known && !m->sim->reset.resetting};
    }
    s->last_edge = 0;
}

static void written(wad_model *m, const wad_write *w)
{
    if (w->roles & BIT(enable) && wad_model_get(m, ROLE_enable, 0)) {
        wad_model_enabled(m);
        wad_model_uses(m, ROLE_input_a, 0, true);
        wad_model_uses(m, ROLE_input_b, 0, true);
    }
}

/* Edges of another grid are no edges at once; levels stay. */
static void clock_changes(wad_model *m, bool before)
{
    encoder_state *s = wad_model_state(m);
    for (unsigned i = 0; before && i < 2; i++)
        wadi_input_forget(m, &s->in[i]);
    if (!before)
        s->last_edge = UINT64_MAX;
}

const wad_model_class wadi_model_encoder = {.kind = "encoder",
                                            .state_size = sizeof(encoder_state),
                                            .reset = reset,
                                            .written = written,
                                            .input = hear,
                                            .clock = clock_changes};
