/* SPDX-License-Identifier: MIT */
#include "observer.h"

#include "sim.h"

/* Who hears one ear, in the order of attachment. */
static void list_again(wad_sim *sim, unsigned ear)
{
    wadi_hearers *h = &sim->hearers[ear];
    h->n = 0;
    for (wadi_observer *o = sim->observers; o; o = o->next) {
        if (!(o->open >> ear & 1))
            continue;
        if (h->n == h->room) {
            h->room = h->room ? 2 * h->room : 4;
            h->list = g_renew(wadi_observer *, h->list, h->room);
        }
        h->list[h->n++] = o;
    }
    sim->ears = h->n ? sim->ears | 1u << ear : sim->ears & ~(1u << ear);
}

static void list_all(wad_sim *sim, unsigned ears)
{
    for (unsigned ear = 0; ears >> ear; ear++)
        if (ears >> ear & 1)
            list_again(sim, ear);
}

wadi_observer *wadi_attach(wad_sim *sim, const wadi_observer_class *cls)
{
    wadi_observer *o = g_new0(wadi_observer, 1), **last = &sim->observers;
    *o = (wadi_observer){.cls = cls, .sim = sim, .state = g_malloc0(cls->state_size)};
    while (*last)
        last = &(*last)->next;
    *last = o;
    wadi_hear(o, cls->standing, true);
    return o;
}

wadi_observer *wadi_observer_of(const wad_sim *sim, const wadi_observer_class *cls)
{
    wadi_observer *o = sim->observers;
    while (o && o->cls != cls)
        o = o->next;
    return o;
}

/* No longer in the list. */
static void end(wadi_observer *o)
{
    list_all(o->sim, o->open);
    if (o->cls->detach)
        o->cls->detach(o);
    g_free(o->state);
    g_free(o);
}

void wadi_detach(wadi_observer *o)
{
    wadi_observer **at = &o->sim->observers;
    while (*at != o)
        at = &(*at)->next;
    *at = o->next;
    end(o);
}

void wadi_detach_all(wad_sim *sim)
{
    for (wadi_observer *o = sim->observers, *next; o; o = next) {
        next = o->next;
        sim->observers = next;
        end(o);
    }
    for (unsigned ear = 0; ear < WADI_EARS; ear++)
        g_clear_pointer(&sim->hearers[ear].list, g_free);
}

void wadi_hear(wadi_observer *o, unsigned ears, bool on)
{
    unsigned was = o->open;
    o->open = on ? was | ears : was & ~ears;
    list_all(o->sim, o->open ^ was);
}

void wadi_tell(wad_sim *sim, const wadi_told *t)
{
    const wadi_hearers *h = &sim->hearers[__builtin_ctz(t->ear)];
    for (unsigned i = 0; i < h->n; i++)
        h->list[i]->cls->hear(h->list[i], t);
}

void wadi_tell_access(wad_sim *sim, wadi_ear ear, wadi_slot *slot, bool write)
{
    const wadi_hearers *h = &sim->hearers[__builtin_ctz(ear)];
    for (unsigned i = 0; i < h->n; i++)
        h->list[i]->cls->access(h->list[i], slot, write);
}
