/* SPDX-License-Identifier: MIT */
/*
 * The contract of an expectation: a class reads its own operands, hears what its subject does, and
 * judges. bench/expect/list.h lists the classes; nothing else knows them by name.
 */
#ifndef WADI_EXPECTATION_H
#define WADI_EXPECTATION_H

#include "bench/language/bench.h"
#include "bench/measure/dma.h"
#include "bench/world/serial_peer.h"
#include "bench/world/spi_shell.h"
#include "lang/cursor.h"

/* Operands, in the order in which they stand. */
enum {
    WADI_TAKES_TEXT = 1,   /* in quotes */
    WADI_TAKES_LEVEL = 2,  /* high, low, floating */
    WADI_TAKES_VALUE = 4,  /* in the class's unit */
    WADI_TAKES_WITHIN = 8, /* `within` a tolerance */
    WADI_TAKES_AT = 16,    /* `at` a time */
    WADI_TAKES_BY = 32     /* perhaps `by` a time */
};

/* One thing that the subject did. */
typedef struct wadi_heard {
    uint64_t ps;        /* when; of an interrupt: its handler's first instruction */
    uint64_t raised_ps; /* of an interrupt: its request */
    wad_level level;    /* of a pin, from then on */
} wadi_heard;

/* What stands while a run goes on, and when it is over. */
typedef struct wadi_scene {
    wad_sim *sim;
    const wad_capture *capture;
    const wad_run_result *run; /* NULL while it goes on */
    const wadi_parts *parts;   /* NULL: a recording has none; so the following */
    const wadi_dma_meter *dma;
} wadi_scene;

typedef struct wadi_judged {
    char *measured; /* g_free */
    bool passed;
} wadi_judged;

struct wadi_expectation_class {
    const char *words;   /* behind the subject: "latency below" */
    const char *example; /* a whole statement; a test runs it */
    wadi_about about;
    wad_unit unit;
    unsigned operands;   /* WADI_TAKES_: read in one place, never dropped */
    bool windowed;       /* may be narrowed by `from`, `to` */
    bool word_is_wanted; /* in reports the words belong to what is wanted: "every 500 ms" */
    size_t state_size;
    /* may be NULL, all but `judge`: */
    /* in the place of `operands`; false: a message was given */
    bool (*parse)(wad_bench *bench, wadi_cursor *c, wadi_expectation *e);
    /* a window stands there: why it can have no effect, NULL: it has one */
    const char *(*no_window)(const wadi_expectation *e);
    /* why its subject has nothing to say to it; NULL: it has */
    const char *(*refuses)(const wad_bench *bench, const wadi_expectation *e);
    /* the subject and the text of reports, where they are not the statement's own words */
    void (*say)(wad_bench *bench, wadi_expectation *e);
    void (*begin)(const wadi_expectation *e, void *state, const wadi_scene *scene);
    void (*hear)(const wadi_expectation *e, void *state, const wadi_heard *h);
    wadi_judged (*judge)(const wadi_expectation *e, void *state, const wadi_scene *scene);
};

const wadi_expectation_class *wadi_expectation_class_at(unsigned i); /* NULL behind the last */

/* ---- for classes ---- */

bool wadi_expect_wanted(wadi_cursor *c, wadi_expectation *e, wad_unit unit);
bool wadi_expect_within(wadi_cursor *c, wadi_expectation *e, wad_unit unit);
/** Is the value within its tolerance? */
bool wadi_expect_close(const wadi_expectation *e, double value);
static inline bool wadi_in_window(const wadi_expectation *e, uint64_t ps)
{
    return ps >= e->from_ps && ps <= e->to_ps;
}
/** A count that must be the wanted one. */
wadi_judged wadi_judge_count(const wadi_expectation *e, uint64_t n);
/** A share that must be below the wanted one. */
wadi_judged wadi_judge_share(const wadi_expectation *e, double share);
/** Every single width or period must hold, not only the mean; `none`: what is said without any. */
wadi_judged wadi_judge_spread(const wadi_expectation *e, const wad_stats *s, const char *none);
/** The longest one must be below the wanted one. */
wadi_judged wadi_judge_latency(const wadi_expectation *e, const wad_stats *s, const char *none);

#endif
