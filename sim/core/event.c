/* SPDX-License-Identifier: MIT */
/* Events of whoever runs a chip. */
#include "event.h"

#include <string.h>
#include <sys/mman.h>
#include <unistd.h>

#include "advance.h"

typedef struct user_event {
    wad_event event;
    uint64_t ps;
    void (*fn)(wad_sim *sim, void *ctx);
    void *ctx;
    wad_sim *sim;
} user_event;

static void fire_user_event(wad_event *e)
{
    user_event *u = (user_event *)e;
    u->fn(u->sim, u->ctx);
}

void wad_sim_at(wad_sim *sim, uint64_t ps, void (*fn)(wad_sim *sim, void *ctx), void *ctx)
{
    user_event *u = g_new0(user_event, 1);
    *u = (user_event){.event = {.fn = fire_user_event}, .ps = ps, .fn = fn, .ctx = ctx, .sim = sim};
    g_ptr_array_add(sim->run.user_events, u);
    if (sim->run.running)
        wadi_schedule(sim, &u->event, ps);
}

void wad_sim_schedule(wad_sim *sim, wad_event *event, uint64_t ps)
{
    wadi_schedule(sim, event, ps);
}

void wad_sim_cancel(wad_sim *sim, wad_event *event)
{
    wadi_unschedule(sim, event);
}

void wad_sim_clear_events(wad_sim *sim)
{
    g_ptr_array_set_size(sim->run.user_events, 0);
}

void wadi_user_events_begin(wad_sim *sim)
{
    for (guint i = 0; i < sim->run.user_events->len; i++) {
        user_event *u = sim->run.user_events->pdata[i];
        wadi_schedule(sim, &u->event, u->ps);
    }
}
