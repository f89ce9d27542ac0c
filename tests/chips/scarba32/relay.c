/* SPDX-License-Identifier: MIT */
/* A relay: its coil is driven for as many milliseconds as is set; then it bounces, and has been
 * pulled. */
#include <wadium/host/model.h>

enum { ENABLE, GO, HOLD, PULLED, PULLED_IRQ, COIL, BOUNCE };

typedef struct relay {
    wad_event next;
    bool driven;
} relay;

static void next(wad_event *e)
{
    wad_model *m = e->model;
    relay *r = wad_model_state(m);
    wad_rational bounce;
    if (r->driven && wad_model_quantity(m, BOUNCE, &bounce)) {
        r->driven = false;
        wad_model_drive(m, COIL, 0, false);
        wad_model_schedule(m, e, e->ps + (uint64_t)(bounce.num * 1000000000000 / bounce.den));
        return;
    }
    wad_model_put(m, PULLED, 0, 1);
    wad_model_event(m, PULLED, 0);
}

static void reset(wad_model *m)
{
    relay *r = wad_model_state(m);
    r->driven = false;
    r->next.fn = next;
    wad_model_cancel(m, &r->next);
    wad_model_uses(m, COIL, 0, true);
    wad_model_drive(m, COIL, 0, false);
}

static void written(wad_model *m, const wad_write *w)
{
    relay *r = wad_model_state(m);
    uint64_t ms;
    if (!(w->roles & WAD_ROLE_BIT(GO)) || !wad_model_get(m, GO, 0) || !wad_model_get(m, ENABLE, 0))
        return;
    if (!wad_model_whole(m, HOLD, 0, &ms))
        ms = wad_model_get(m, HOLD, 0) + wad_model_code(m, HOLD, "plus", 0);
    wad_model_enabled(m);
    r->driven = true;
    wad_model_drive(m, COIL, 0, true);
    wad_model_schedule(m, &r->next, wad_sim_now(wad_model_sim(m)) + ms * 1000000000);
}

static const wad_model_class relay_model = {.kind = "relay",
                                            .state_size = sizeof(relay),
                                            .roles =
                                                "enable !go hold !pulled pulled_irq coil bounce",
                                            .reset = reset,
                                            .written = written};
WAD_MODEL(relay_model)
