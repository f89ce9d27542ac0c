/* SPDX-License-Identifier: MIT */
/* What happens once, and what it brings about: flags go, held values become active, hooks run. */
#ifndef WADI_HAPPEN_H
#define WADI_HAPPEN_H

#include "register.h"

/* Something that happens. */
typedef struct wadi_bus_event {
    wad_event_sort sort;
    wadi_slot *slot; /* of an access or a flag */
    bool write;
    uint32_t mask, value; /* of an access: mask 0: any */
    wad_model *model;     /* of a role */
    unsigned role, element;
    const wadi_block *unit; /* of an entry or an exit: its lines; NULL: any */
} wadi_bus_event;

typedef enum wadi_takes {
    WADI_TAKES_FLAG,
    WADI_TAKES_HELD,
    WADI_TAKES_HOOK,
    WADI_TAKES_ACT
} wadi_takes;

/* What an event, or one that follows another, brings about. */
struct wadi_clearing {
    wadi_takes takes;
    wadi_slot *flag; /* whose bits go, or become active */
    uint32_t mask;
    struct wadi_hook *hook;
    wadi_block *unit; /* whose role it is ... */
    unsigned role;
    bool then;
    uint32_t noted; /* what was set at the first event */
    bool queued;    /* it has happened, and is served when the access is over */
    uint32_t written;
    wadi_bus_event first, last;
};

/** An access was made: held values become active, flags go, flags are noted, hooks run. */
void wadi_slot_accessed(wadi_slot *slot, bool write, uint32_t value, uint32_t touched);
/** The first of two events: what goes with the second is noted. */
void wadi_event_noted(wadi_clearing *c);
/** A bit that something waits for was set by hardware. */
void wadi_bit_rose(wadi_slot *slot, uint32_t bits);
/** A model's flag was set. */
void wadi_role_happened(wad_model *m, unsigned role, unsigned element);
/** A handler was entered, or has returned. */
void wadi_line_happened(wad_sim *sim, unsigned line, wad_event_sort sort);
/** What has happened in this access or event is served. */
void wadi_happened_settle(wad_sim *sim);

#endif
