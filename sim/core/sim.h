/* SPDX-License-Identifier: MIT */
/* A chip in simulation. What each member is about has its header. */
#ifndef WADI_SIM_H
#define WADI_SIM_H

#include <glib.h>
#include <limits.h>
#include <setjmp.h>
#include <signal.h>
#include <ucontext.h>

#include "carrier.h"
#include "observer.h"
#include "time.h"
#include "trace.h"
#include "wadium/host/model.h"

typedef struct wadi_block wadi_block;
typedef struct wadi_clock wadi_clock;
typedef struct wadi_line wadi_line;
typedef struct wadi_net wadi_net;
typedef struct wadi_page wadi_page;
typedef struct wadi_signal wadi_signal;
typedef struct wadi_slot wadi_slot;

#define WADI_ALARM UINT_MAX

/* What the path of each access touches stands by itself and first, all else in groups. */
struct wad_sim {
    uint64_t now;
    uint64_t due; /* the next time something must be looked at; 0: at once */
    struct {
        uint64_t access_ps;
        uint64_t access_rem, access_carry, access_den;
        uint64_t cycle_ps, cycle_rem; /* one core cycle: cycle_ps + cycle_rem / access_den */
    } cost;
    wadi_page **pages;
    unsigned word_shift;
    struct {
        uintptr_t pc; /* of the last call-in: where it returns to, and the frame it came from */
        void *frame;
        uint64_t count; /* calls from the firmware that may take no time */
    } call;
    /* the last read, to know a read-modify-write by */
    struct {
        wadi_slot *slot;
        uint32_t value;
        uintptr_t pc;
    } last_read;
    unsigned ears; /* WADI_EAR_ bits that somebody has open */
    /* plain firmware */
    struct {
        /* a write that was announced and is picked up from memory at the next call-in */
        struct {
            uintptr_t address, pc;
            void *frame;
            unsigned bytes; /* 0: none; WADI_ALARM: the host timer wants to be heard */
        } pending;
        uintptr_t regs_start, regs_end;  /* register pages mapped for it */
        uintptr_t bias;                  /* where they lie: the bus address plus this */
        uintptr_t align_mask;            /* address bits that must be 0 in an access's size */
        uintptr_t read_pc, read_address; /* the last read */
        uint64_t reads, writes;
    } plain;
    /* the bus, where others than the core have it at times */
    struct {
        const wadi_trace *master; /* another master's access, on behalf of this place */
        uint64_t until;           /* it keeps the bus until then */
        uint64_t free_ps;         /* the core has waited for it, and has the bus until then */
        uint64_t taken, waited;   /* by other masters, and the core for them, in this run */
    } bus;

    /* registers whose flags or enables have changed in this access or event */
    struct {
        wadi_slot **slots;
        unsigned n;
        unsigned happened;           /* something that waits in `happened` ... */
        void (*serve)(wad_sim *sim); /* ... for this */
    } touched;
    GPtrArray *happened; /* wadi_clearing: served when the access or event is over */
    GPtrArray *at_lines; /* wadi_clearing: what entries and exits bring about */
    GPtrArray *holders;  /* wadi_slot: with values that a condition holds */
    GPtrArray *hooks;    /* wadi_hook, owned */
    GPtrArray *laters;   /* wad_event: what hooks of the chip have put off */
    GPtrArray *choosers; /* wad_model: with roles that conditions choose */

    const wad_sheet *sheet;
    GPtrArray *feeds; /* wadi_feed: what asks by interrupt lines */
    wadi_queue queue;
    wadi_block *blocks;
    wadi_clock *clocks;
    GArray *grids; /* wadi_grid */
    wadi_signal *signals;
    unsigned n_signals;
    wadi_net *nets;
    struct wadi_race *race;
    struct wadi_analog *analog; /* of electric/volt.c; NULL: nothing was said of volts */
    GArray *owned;              /* wadi_owned: memory that DMA works on */

    /* what runs, and what waits */
    struct {
        wadi_clock *core;
        bool masked;
        bool was_unmasked;
        unsigned priority; /* of what runs; UINT_MAX in main */
        unsigned active_line;
        wad_model *controller;
        unsigned best_line, best_priority; /* the controller's choice, WADI_NO_LINE when none */
        wadi_line *lines;
        GArray *entry, *exit; /* wadi_set: what the core writes by itself */
        GPtrArray *gates;     /* of controller.c: registers that mask or rank lines */
        bool steps;           /* an entry or an exit does more than to run a handler */
        wadi_slot *saves;     /* the status register that an entry saves, or NULL */
        uint32_t *saved;      /* its word of the handler that runs; NULL: none runs */
        wadi_slot *global;    /* where the sheet has the global mask, or NULL */
        wad_role_part global_part;
        uint64_t asking[4], enabled[4]; /* lines, a bit each */
        uint32_t threshold;             /* lines whose key is not below it wait */
        uint64_t lines_on;              /* enabled at the controller, the first 64 */
    } cpu;
    struct {
        uint64_t asleep_ps;
        wad_model *power;               /* the block that says how deep it sleeps, or NULL */
        bool asleep;                    /* clocks may stand still */
        bool sleeping;                  /* main is in a sleep, and handlers may run in it */
        int sleep_level;                /* of the sheet; -1: it lists none */
        uint64_t put_back, put_back_ps; /* handlers that ran in one sleep of main, and its begin */
        uint64_t put_back_most;         /* before main went on */
        wadi_trace put_back_trace;
    } sleep;
    struct {
        bool running;
        bool outlives;        /* without a clock the core stands still, and the run goes on */
        volatile bool stands; /* it does */
        uint64_t end_ps;
        wad_event end_event;
        wadi_story story;
        unsigned load;          /* percent */
        GPtrArray *user_events; /* user_event */
    } run;
    /* the first bus fault */
    struct {
        uint64_t address;
        bool writes;
        char *story;
    } fault;
    struct {
        bool power_cycle; /* of what restarts it */
        bool restart;     /* the chip was reset: main begins anew */
        bool resetting;   /* registers are being put back, clocks do not stand yet */
        bool by_chip;     /* and it is not a power-on */
        unsigned count;
    } reset;

    /* what carries the firmware */
    struct {
        const wadi_carrier *carrier;
        wadi_firmware fw;
        GArray *memories; /* wadi_memory: of a core that executes the target's code; NULL: none */
        char *stack, *stack_start; /* with its guard page, and behind it */
        ucontext_t host_context, firmware_context;
        unsigned host_limit_s;
        struct wadi_guard *guard;
        volatile sig_atomic_t looking_up; /* debug information: time that is not the firmware's */
        struct wadi_variables *variables; /* NULL: not looked for yet */
        struct wadi_debug_info *source;
    } host;
    /* asked for: called where the core stands between two accesses */
    struct {
        void (*fn)(void *ctx);
        void *ctx;
        bool asked;
    } look;
    /* other ends of the chip's pins */
    struct {
        wadi_stdio stdio;
        GArray *serial; /* wadi_serial_end; NULL: none */
        GPtrArray *spi; /* of kinds/spi/end.c; NULL: none */
    } ends;

    wadi_observer *observers;
    wadi_hearers hearers[WADI_EARS];
    struct {
        GPtrArray *findings; /* wadi_finding_item */
        GHashTable *keys;
        GArray *silences; /* wadi_silence */
        unsigned n_silenced;
        GPtrArray *notes; /* of the firmware; NULL: not looked for yet */
    } told;
};

/** The chip whose firmware runs in this thread; NULL outside of a run. */
extern _Thread_local wad_sim *wadi_current;

/** Carries out what the firmware has written and the machine has not seen yet. */
static inline void wadi_flush(wad_sim *sim)
{
    if (__builtin_expect(sim->plain.pending.bytes != 0, 0))
        sim->host.carrier->flush(sim);
}

#endif
