/* SPDX-License-Identifier: MIT */
/*
 * The contract of a statement: a class knows its first words, reads the rest, and sets going what
 * was said when a run begins. statements.h lists the classes; nothing else knows them by name.
 */
#ifndef WADI_BENCH_STATEMENT_H
#define WADI_BENCH_STATEMENT_H

#include "bench.h"
#include "lang/cursor.h"
#include "wadium/host/sim.h"

/* When something that was said begins. */
typedef enum wadi_phase {
    WADI_WITH_CHIP,  /* before anything else is attached to the chip */
    WADI_WITH_WORLD, /* pins and clocks */
    WADI_WITH_PARTS, /* when all parts are there */
    WADI_PHASES
} wadi_phase;

/* A run that begins. */
typedef struct wadi_setting {
    const wad_bench *bench;
    wad_sim *sim;
    struct wadi_parts *parts; /* NULL before WADI_WITH_PARTS */
    GPtrArray *owned;         /* lives as long as the run; g_free */
    GRand *contacts;          /* of all buttons that bounce */
} wadi_setting;

struct wadi_statement_class {
    const char *words; /* any of which begins it: "press drive"; NULL: none, see `takes` */
    const char *of;    /* whose words they are, in the message that lists all: "a bus's" */
    bool boardless;    /* may stand before the board is named */
    /* may be NULL, all but `parse`, which a class has that only others keep something for: */
    bool (*takes)(const wad_bench *bench, const char *word); /* in the place of `words` */
    /* Of several with the same word the one is meant that this holds for; at what follows it. */
    bool (*fits)(const wad_bench *bench, const wadi_cursor *c);
    void (*parse)(wad_bench *bench, wadi_cursor *c, const char *word);
    size_t said_size; /* of what wadi_bench_keep takes */
    wadi_phase phase;
    bool (*begin)(const wadi_setting *s, const void *said, char **why);
    /* What one should know of it beside the results; NULL: nothing; g_free. `i`: of its class. */
    char *(*note)(const wadi_setting *s, const void *said, unsigned i);
};

/* All classes: wadi_say_NAME. */
#define WADI_STATEMENT(name) extern const wadi_statement_class wadi_say_##name;
#include "statements.h"
#undef WADI_STATEMENT

/** Something of a run's course: `fn` is called at that time with a copy of `what`. */
void wadi_plan(const wadi_setting *s, uint64_t ps, void (*fn)(wad_sim *sim, void *what),
               const void *what, size_t size);

/** What a statement said; lives as long as the bench. */
void wadi_bench_keep(wad_bench *bench, const wadi_statement_class *cls, const void *said);
/** The i-th that was kept for a class; NULL: there are fewer. */
const void *wadi_bench_said(const wad_bench *bench, const wadi_statement_class *cls, unsigned i);

#endif
