/* SPDX-License-Identifier: MIT */
/* Parts in a run: their wires with all that happens to them, and the shells that make frames or
 * bytes of edges. */
#ifndef WADI_PART_H
#define WADI_PART_H

#include "bench/language/said.h"
#include "bench/language/statement.h"
#include "wadium/host/model.h"
#include "wire.h"
#include "wired_pin.h"

#define WADI_PART_NOTED 8 /* refusals in words */

/* What stands between the wires and the classes of a bus: bytes of a line, frames of a select. */
typedef struct wadi_shell {
    unsigned cuts;          /* wires that `cut NAME` means; 0: those that must be there */
    const char *name_wires; /* what is told where a trouble does not name its wire; NULL: a list */
    size_t state_size;
    void (*begin)(wad_part *p);
    void (*edge)(wad_part *p, unsigned wire, uint64_t ps, wad_level level);
    void (*power_fails)(wad_part *p);
    bool keeps; /* `keep` takes what came, whatever the class */
    bool (*end)(wad_part *p, uint64_t ps, char **why); /* the run is over */
    void (*free)(wad_part *p);
} wadi_shell;

/* A wire by its name in the class. */
typedef struct wadi_wire_def {
    char name[16];
    bool drives, optional;
} wadi_wire_def;

/** The wires of a class; how many. */
unsigned wadi_part_wires(const wad_part_class *cls, wadi_wire_def wires[WAD_PART_WIRES]);

typedef struct wadi_run_wire {
    wadi_wire wire;
    wad_part *part;
    unsigned number;
    bool drives;
    wadi_driver *driver; /* NULL: the chip drives it, or it goes nowhere */
} wadi_run_wire;

struct wad_part {
    const wadi_part_said *said;
    wad_sim *sim;
    void *state, *shell;
    wadi_run_wire wires[WAD_PART_WIRES];
    unsigned n_wires;
    wad_event wake;
    uint64_t first_wake; /* asked for before the run began */
    bool begun;
    GRand *rand;
    unsigned refusals;
    GPtrArray *notes;
    GHashTable *counts; /* by name, of what the class counts */
};

typedef struct wadi_parts wadi_parts;

/** All that the bench speaks of. NULL: one cannot begin; `why`. */
wadi_parts *wadi_parts_new(const wadi_setting *s, char **why);
void wadi_parts_free(wadi_parts *parts);
wad_part *wadi_part_at(const wadi_parts *parts, unsigned i);
/** The run is over. What could not be kept, and what was refused, goes to `notes`. */
bool wadi_parts_end(wadi_parts *parts, uint64_t ps, GPtrArray *notes);
/** They lose their power. */
void wadi_parts_power_fails(wadi_parts *parts);

/** How often the part counted `what`. */
unsigned wadi_part_counted(const wad_part *p, const char *what);
/** For a shell: the class hears of an edge as well. */
void wadi_part_edge(wad_part *p, unsigned wire, uint64_t ps, wad_level level);

#endif
