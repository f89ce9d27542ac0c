/* SPDX-License-Identifier: MIT */
/* A look at a run: time held and let go (live.c), what is shown (live_panels.c), what is said to it
 * (live_say.c). */
#ifndef WADI_LIVE_H
#define WADI_LIVE_H

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "bench/world/part.h"
#include "bench/world/volt_source.h"
#include "wadium/host/model.h"
#include "wadium/host/variables.h"

#define WADI_LIVE_RATES                                                                            \
    32 /* looks that the rate of interrupts is taken over, a second at the most */

/* A pin that is shown, with its past: levels, or volts. */
typedef struct wadi_live_pin {
    struct wad_live *live;
    const char *name;
    const wad_pin_def *pin;
    bool analog;
    GArray *past; /* wad_sample, by time */
    guint limit;  /* when to forget what is too old */
} wadi_live_pin;

/* An input that a hand can move. */
typedef struct wadi_live_input {
    const char *name;
    const wad_pin_def *pin;
    const wad_part_def *button; /* NULL: volts */
    bool pressed;
} wadi_live_input;

/* A level that comes at a time, or volts when `def` says so. */
typedef struct wadi_live_move {
    uint64_t ps;
    const wad_pin_def *pin;
    wad_level level;
    const wadi_analog_def *def;
} wadi_live_move;

typedef enum wadi_live_goal { WADI_GOAL_NONE, WADI_GOAL_ACCESS, WADI_GOAL_IRQ } wadi_live_goal;

struct wad_live {
    wad_bench *bench;
    wad_sim *sim;
    wadi_analog_world *analog;
    const wadi_parts *parts;
    const wad_live_options *options;
    char *setting;
    uint64_t end_ps, window_ps;

    wad_event tick, stop, sample, move;
    bool started, looking, goes, by_hand;
    struct {
        wadi_live_goal is;
        const wad_instance *block;
        const wad_register *reg;
        unsigned line; /* UINT_MAX: any */
        char *what;    /* as it came */
        wad_place place;
    } goal;
    gint64 began_us; /* when the chip's time was 0, were it in step */
    GRand *rand;     /* of contacts that bounce */

    GPtrArray *pins;     /* wadi_live_pin */
    GArray *inputs;      /* wadi_live_input */
    GArray *moves;       /* wadi_live_move, by time */
    GPtrArray *defs;     /* wadi_analog_def by hand */
    GHashTable *touched; /* wad_instance */
    GArray *variables;   /* wad_variable */
    uint64_t *irq_counts;
    GArray *rates; /* wadi_live_rate */

    struct {
        GStringChunk *texts; /* of the rows */
        GArray *rows[WAD_LIVE_PANELS];
        GHashTable *before[WAD_LIVE_PANELS]; /* text by name */
        GHashTable *values;                  /* of registers, by address */
        bool seen;                           /* there is something before */
    } shown;
};

/** How many interrupts of each line there were at a time. */
typedef struct wadi_live_rate {
    uint64_t ps;
    uint64_t *counts;
} wadi_live_rate;

/** NULL: a variable or block that is asked for does not exist; `why`. */
wad_live *wadi_live_new(wad_bench *bench, wad_sim *sim, wadi_analog_world *analog,
                        const wadi_parts *parts, const wad_live_options *options,
                        const char *setting, uint64_t end_ps, char **why);
/** The last look. */
void wadi_live_end(wad_live *live);
void wadi_live_free(wad_live *live);

/* ---- live_panels.c ---- */
bool wadi_live_panels_init(wad_live *live, char **why);
void wadi_live_panels_free(wad_live *live);
/** Takes all in; what differs from the last time is marked. */
void wadi_live_take_in(wad_live *live);
/** "writes PINC.OUT 0x08 (OUT[3] 0 > 1)"; g_free. */
char *wadi_live_access_text(const wad_access_record *r);

/* ---- live.c, for live_say.c ---- */
/** Something comes to the pin at a time, now or later. */
void wadi_live_move_at(wad_live *live, wadi_live_move move);
/** What was to be done to a pin from a time on is not. */
void wadi_live_forget(wad_live *l, const wad_pin_def *pin, uint64_t from_ps);

#endif
