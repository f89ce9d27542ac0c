/* SPDX-License-Identifier: MIT */
/*
 * The simulated chip.
 *
 *     wad_sim *sim = wad_sim_new(sheet);
 *     char *why = NULL;
 *     if (!wad_sim_load(sim, "lamp.wfw", &why))
 *         fprintf(stderr, "%s\n", why);
 *     wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PC3"), on_level, NULL);
 *     wad_run_result r = wad_sim_run(sim, 5 * WAD_PS_PER_S);
 *     printf("%s, %u findings\n", r.story, wad_sim_finding_count(sim));
 *     wad_sim_free(sim);
 *
 * A run begins at reset and ends at the given time, wherever the firmware is.
 * Time is simulated: picoseconds in 64 bits (213 days). Peripheral timing is
 * exact; the CPU's is the sheet's stated model (cycles for each register access,
 * interrupt entry and exit), plain instructions cost nothing.
 *
 * Several chips may live in one process, each used by one thread at a time.
 */
#ifndef WADIUM_HOST_SIM_H
#define WADIUM_HOST_SIM_H

#include "finding.h"
#include "sheet.h"

#define WAD_PS_PER_S UINT64_C(1000000000000)

typedef struct wad_sim wad_sim;

/** NULL when the sheet cannot be simulated; `why` (free with g_free) says what is missing. */
wad_sim *wad_sim_new(const wad_sheet *sheet, char **why);
void wad_sim_free(wad_sim *sim);
const wad_sheet *wad_sim_sheet(const wad_sim *sim);

/** Loads a firmware (.wfw). False: `why` (free with g_free) says why not. */
bool wad_sim_load(wad_sim *sim, const char *path, char **why);

/** Lets the firmware go, so that another plain one can be loaded in this process; the findings of
 * the last run stay. */
void wad_sim_unload(wad_sim *sim);

typedef void (*wad_handler)(void);

/** Uses functions of this very program as firmware: `main_fn`, and `handlers` by interrupt line
 * (NULL entries have no handler). Their variables are not put back at a reset. */
void wad_sim_attach(wad_sim *sim, int (*main_fn)(void), const wad_handler *handlers,
                    unsigned n_handlers);

typedef enum wad_run_end {
    WAD_RUN_TIME,     /**< the time was up: the normal end */
    WAD_RUN_RETURNED, /**< main returned */
    WAD_RUN_CRASHED,  /**< a host signal: null pointer, stack overflow, division by zero */
    WAD_RUN_HUNG,     /**< no register access for the host limit, and not an empty loop */
    WAD_RUN_DEAD      /**< asleep with nothing left that could wake it, or without core clock */
} wad_run_end;

typedef struct wad_run_result {
    wad_run_end end;
    uint64_t end_ps;
    const char *story; /**< one line; lives until the next run */
    wad_place place;   /**< where the firmware was, for all but WAD_RUN_TIME */
    uint64_t awake_ps; /**< time not asleep */
} wad_run_result;

/** What a process that runs firmware leaves for the one that watches it, in memory that they share:
 * firmware may take its whole process down (a damaged heap, exit, a signal of its own). */
typedef struct wad_last_words {
    volatile int busy;         /**< 0: nothing of the firmware's runs; else a wad_busy */
    volatile unsigned beats;   /**< counts on while it does, some 200 times a second */
    volatile uint64_t ps;      /**< simulated time at the last one */
    volatile unsigned n;       /**< of pc */
    volatile uintptr_t pc[16]; /**< where it was, the innermost first */
    char story[240];           /**< empty: the process's end says it all */
} wad_last_words;
typedef enum wad_busy { WAD_BUSY_LOADING = 1, WAD_BUSY_RUNNING, WAD_BUSY_UNLOADING } wad_busy;
/** Of all chips of this process from now on; NULL: no longer. */
void wad_sim_leave_words(wad_last_words *words);
/** The run's end, as the process that watched tells it; `firmware` is the file, for its lines.
 * `how` is what became of the process: "signal 11, Segmentation fault". */
wad_run_result wad_sim_died(wad_sim *sim, const char *firmware, const wad_last_words *words,
                            const char *how);

/** Resets the chip and runs the firmware until `end_ps`. */
wad_run_result wad_sim_run(wad_sim *sim, uint64_t end_ps);

/** Ends the run now, as if its time were up; while a run goes on (wad_sim_at, a watch). */
void wad_sim_stop(wad_sim *sim);

/** The power fails and comes back: the chip forgets all, and main begins anew; time, the world and
 * findings go on. While a run goes on, from wad_sim_at. */
void wad_sim_power_cycle(wad_sim *sim) __attribute__((noreturn));

/** Host seconds without a register access after which a run is given up (10). */
void wad_sim_set_host_limit(wad_sim *sim, unsigned seconds);

/** The simulated time now, in picoseconds. */
uint64_t wad_sim_now(const wad_sim *sim);

/** Of the run so far: how long the core has slept, and whether it does now. */
uint64_t wad_sim_asleep(const wad_sim *sim, bool *now);

/** While a watch or an event takes long (a person looks): host time counts as nobody's, not as the
 * firmware's. Each `true` needs its `false`. */
void wad_sim_hold(wad_sim *sim, bool on);

/** Calls `fn` at a time of the next run; kept for all later runs until wad_sim_clear_events. */
void wad_sim_at(wad_sim *sim, uint64_t ps, void (*fn)(wad_sim *sim, void *ctx), void *ctx);
void wad_sim_clear_events(wad_sim *sim);

typedef enum wad_level { WAD_LOW, WAD_HIGH, WAD_FLOATING } wad_level;

/** Drives a pin from outside, or lets it go (WAD_FLOATING). */
void wad_sim_drive(wad_sim *sim, const wad_pin_def *pin, wad_level level);
wad_level wad_sim_level(const wad_sim *sim, const wad_pin_def *pin);

/** Defects of the board: a pin that has this level whatever drives it (WAD_FLOATING: no longer; a
 * run begins without), and one whose pull resistor does nothing, in all later runs. */
void wad_sim_stick_pin(wad_sim *sim, const wad_pin_def *pin, wad_level level);
void wad_sim_break_pull(wad_sim *sim, const wad_pin_def *pin);

/** `fn` hears each change of a pin's level, and its level at the start of a run. */
typedef void (*wad_pin_fn)(void *ctx, uint64_t ps, wad_level level);
void wad_sim_watch_pin(wad_sim *sim, const wad_pin_def *pin, wad_pin_fn fn, void *ctx);

/** One service of an interrupt: when the line was raised, and its handler entered and left. */
typedef struct wad_irq_record {
    unsigned line;
    uint64_t raised_ps;
    uint64_t entered_ps;
    uint64_t left_ps; /**< 0: told at the entry, not over yet */
} wad_irq_record;

/** `fn` hears each entry (left_ps 0) and each exit. */
typedef void (*wad_irq_fn)(void *ctx, const wad_irq_record *record);
void wad_sim_watch_irq(wad_sim *sim, wad_irq_fn fn, void *ctx);

/** `fn` hears the stretches of time that the core sleeps; one sleep may come in several that touch.
 * NULL ends it. */
typedef void (*wad_sleep_fn)(void *ctx, uint64_t from_ps, uint64_t to_ps);
void wad_sim_watch_sleep(wad_sim *sim, wad_sleep_fn fn, void *ctx);

/** The line is to be served within `ps` of its request; when it is later, the finding W311 says
 * what held it up. 0: no requirement. For later runs. */
void wad_sim_require_latency(wad_sim *sim, unsigned line, uint64_t ps);

/** An oscillator stops, as a cracked crystal does, or runs again; while a run goes on (wad_sim_at).
 * False: it is derived from another one. */
bool wad_sim_fail_clock(wad_sim *sim, const wad_clock *clock, bool fails);

/**
 * Exploration: interrupts that come elsewhere. In the next runs the firmware waits, at its
 * `stops`-th call-ins (ascending, counted from 0 while interrupts are open), until an interrupt has
 * been served, 20 ms at the most: as if the CPU had been slower up to there. The same stops give
 * the same run. With `log`, call-ins are kept for wad_sim_explore_points.
 */
void wad_sim_explore(wad_sim *sim, const uint64_t *stops, unsigned n_stops, bool log);
typedef struct wad_call_in {
    uint64_t number; /**< counted from 0 while interrupts are open */
    uint64_t pc;     /**< where in the firmware's code */
} wad_call_in;
/** Of the last run: the call-ins that touched what code of several priorities touches; g_free. */
wad_call_in *wad_sim_explore_points(const wad_sim *sim, unsigned *n);

/** One access of the firmware to a register, after it was carried out. */
typedef struct wad_access_record {
    uint64_t ps;
    bool write;
    const wad_instance *block;
    const wad_register *reg;
    uint32_t reg_index;
    unsigned bytes;  /**< of the register */
    uint32_t value;  /**< read, or written */
    uint32_t before; /**< the register before, with what a model had to add */
    uint32_t after;
} wad_access_record;

/** `fn` hears each access to a register that answers; NULL ends it. Costs nothing without. */
typedef void (*wad_access_fn)(void *ctx, const wad_access_record *record);
void wad_sim_watch_access(wad_sim *sim, wad_access_fn fn, void *ctx);

/** What a channel of a DMA controller does. */
typedef enum wad_dma_what {
    WAD_DMA_ARMED,
    WAD_DMA_BEGINS, /**< an element is read, and has the bus */
    WAD_DMA_MOVED,  /**< it is written */
    WAD_DMA_ENDED,  /**< the channel is armed no longer */
    WAD_DMA_ASKED,  /**< a request came, or its level rose; `channel` means nothing */
    WAD_DMA_SERVED  /**< its element sets out, or its level fell */
} wad_dma_what;

typedef struct wad_dma_record {
    uint64_t ps;
    const wad_instance *block;
    unsigned channel;
    wad_dma_what what;
    unsigned bytes;               /**< of an element */
    uint32_t source, destination; /**< as they stand now */
    uint32_t left;                /**< elements of this round */
    uint32_t request;             /**< that the channel waits for, or that came */
    bool waits;                   /**< false: the channel waits for none */
} wad_dma_record;

/** `fn` hears what all channels do; NULL ends it. */
typedef void (*wad_dma_fn)(void *ctx, const wad_dma_record *record);
void wad_sim_watch_dma(wad_sim *sim, wad_dma_fn fn, void *ctx);
/** How long DMA controllers had the bus in this run, and the core waited for it. */
uint64_t wad_sim_bus_taken(const wad_sim *sim, uint64_t *waited_ps);
/** The chip's memory at a bus address, NULL: none of `bytes` is there; while firmware is loaded. */
const void *wad_sim_memory(wad_sim *sim, uint64_t address, size_t bytes);

/** Memory of the chip as bytes of the caller, for a core that executes the target's own code
 * (wad_sim_attach); DMA controllers find it there. Outlives the chip's runs. */
void wad_sim_give_memory(wad_sim *sim, uint64_t base, void *bytes, uint64_t size, bool writable);

/** `look` is called while a run goes on, once after each wad_sim_ask_look, where the firmware is
 * between two accesses: for whoever halts the core from outside. NULL ends it. */
void wad_sim_on_look(wad_sim *sim, void (*look)(void *ctx), void *ctx);
void wad_sim_ask_look(wad_sim *sim);
/** Within a look: time goes on, the core does nothing meanwhile. */
void wad_sim_let_pass(wad_sim *sim, uint64_t ps);

/** Where the firmware is, the library's own frames left out; while a watch is called. */
bool wad_sim_here(wad_sim *sim, wad_place *place);

/** All of the frames that the firmware is in, innermost first, the library's included; how many. */
unsigned wad_sim_stack(wad_sim *sim, wad_place *places, unsigned room);

/** A register's value as it stands, without the side effects of reading; for peeking tools. */
bool wad_sim_peek(wad_sim *sim, uint64_t address, uint32_t *value);

/** All registers that can be read, as they stand, without the side effects of reading: lines that
 * wad_dump_read takes. */
void wad_sim_dump(wad_sim *sim, FILE *out);

/** The same into a snapshot (<wadium/host/snapshot.h>). */
struct wad_snapshot;
void wad_sim_snapshot(wad_sim *sim, struct wad_snapshot *snapshot);

/** Frequency of a clock as it stands; false when it does not run. */
bool wad_sim_clock_hz(wad_sim *sim, const wad_clock *clock, wad_rational *hz);

/** From the next run on an oscillator runs fast by `share` of its frequency (negative: slow), as a
 * real one does within its tolerance. False: it is derived, not an oscillator, or the share has too
 * many digits. */
bool wad_sim_set_clock_error(wad_sim *sim, const wad_clock *clock, wad_rational share);

/** What one should know of a firmware besides findings, one line each: where its data model differs
 * from the target's. */
unsigned wad_sim_note_count(wad_sim *sim);
const char *wad_sim_note(wad_sim *sim, unsigned i);

/** What is not to be told any more: a number, anywhere, at a file (and line), or in a function. */
typedef struct wad_silence {
    wad_finding_kind kind;
    const char *file; /**< name, or end of a path; NULL: any */
    unsigned line;    /**< 0: any */
    const char *function;
} wad_silence;

/** For all later runs; the rule is copied. */
void wad_sim_silence(wad_sim *sim, const wad_silence *rule);
void wad_sim_clear_silences(wad_sim *sim);
/** Of the last run: findings left out, and how many of them the i-th rule took. */
unsigned wad_sim_silenced(const wad_sim *sim);
unsigned wad_sim_silence_hits(const wad_sim *sim, unsigned i);

/** Percent of the CPU's time that goes to work the firmware does not show, 0 to 95: everything it
 * does takes 100 / (100 - percent) as long. For later runs. */
void wad_sim_set_load(wad_sim *sim, unsigned percent);

unsigned wad_sim_finding_count(const wad_sim *sim);
const wad_finding *wad_sim_finding(const wad_sim *sim, unsigned i);

#endif
