/* SPDX-License-Identifier: MIT */
/* The simulated chip's insides; see docs/simulator.md for how the files divide. */
#ifndef WADI_SIM_INTERNAL_H
#define WADI_SIM_INTERNAL_H

#include <glib.h>
#include <setjmp.h>
#include <signal.h>
#include <ucontext.h>

#include "wadium/host/model.h"
#include "wadium/host/serial.h"
#include "wadium/host/spi.h"

#define WADI_TRACE   14 /* frames: drivers that call drivers stand between an access and its user */
#define WADI_NO_LINE UINT_MAX
#define WADI_ALARM   UINT_MAX

typedef struct wadi_block wadi_block;

/* Where the firmware was: return addresses, innermost first. */
typedef struct wadi_trace {
    uintptr_t pc[WADI_TRACE];
    unsigned n;
    bool whole; /* pc[0] stands for its function as a whole: its declaration is the place */
} wadi_trace;

/* ---- time ---- */

/* Edges of a clock: grid index j = first + k * step on a grid of n / d edges a second from t0. */
typedef struct wadi_domain {
    uint64_t t0;
    uint64_t n, d;
    uint64_t step;
    uint64_t first;
    bool runs;
    /* derived by wadi_domain_prepare: d seconds hold n edges, which are whole + rest / n ps apart
     */
    uint64_t span, whole, rest;
    double rate;                    /* edges a picosecond */
    uint64_t span_index, span_from; /* the span looked at last */
} wadi_domain;

void wadi_domain_prepare(wadi_domain *dom);
uint64_t wadi_domain_edge(const wadi_domain *dom, uint64_t k);
/** Edges at or before `ps`; edge 0 counts as none. */
uint64_t wadi_domain_count(wadi_domain *dom, uint64_t ps);

typedef struct wadi_queue {
    wad_event **heap; /* heap[1] comes next */
    unsigned n, room;
    uint64_t order;
} wadi_queue;

void wadi_queue_add(wadi_queue *q, wad_event *e, uint64_t ps);
void wadi_queue_remove(wadi_queue *q, wad_event *e);
static inline wad_event *wadi_queue_first(const wadi_queue *q)
{
    return q->n ? q->heap[1] : NULL;
}

/* ---- registers ---- */

enum {
    WADI_SLOT_LIVE = 1,      /* a model refreshes it before a read */
    WADI_SLOT_HEARD = 2,     /* a model hears writes */
    WADI_SLOT_CLOCKS = 4,    /* a clock law, a gate or a need depends on it */
    WADI_SLOT_CHECKS = 8,    /* has stable or forbidden-value fields */
    WADI_SLOT_SEVERAL = 32,  /* more than one of its fields must not be 0 */
    WADI_SLOT_QUIET = 16,    /* a read of it has no effect and needs no help */
    WADI_SLOT_LOCKED = 64,   /* a lock keeps it from being written */
    WADI_SLOT_KEY = 128,     /* a lock's key is written here */
    WADI_SLOT_SPLIT = 512,   /* a part of a running value that nothing holds while it is read */
    WADI_SLOT_POPS = 2048,   /* reading it is an act that the model hears of */
    WADI_SLOT_CLEARS = 1024, /* reading it clears flags elsewhere */
    WADI_SLOT_ROUTES = 256   /* moves a block's signals between groups of pins */
};

/* A lock of one block. */
typedef struct wadi_lock {
    const wad_lock *def;
    unsigned at;     /* values of the key seen in order */
    unsigned writes; /* left until it closes */
    bool open;
} wadi_lock;

/* What else is told of an access, beyond the bus. */
enum {
    WADI_WATCH_RACES = 1,  /* handlers may run: what they share is looked at */
    WADI_WATCH_POINTS = 2, /* exploration counts, or holds the firmware at, call-ins */
    WADI_WATCH_OWNED = 4,  /* a DMA transfer owns memory */
    WADI_WATCH_TRACE = 8,  /* registers accessed are written down */
    WADI_WATCH_VARIABLES = 7,
    WADI_WATCH_REGISTERS = 11
};

/* One register of one block. */
typedef struct wadi_slot {
    uint32_t value;
    uint32_t readable; /* bits that read as stored */
    uint32_t plain;    /* rw and wo bits: stored as written */
    uint32_t w1c, w1s, w0c, rc;
    uint32_t read_only; /* ro and rc bits */
    uint32_t reserved;
    uint32_t must;     /* what reserved bits must be written as */
    uint32_t stable;   /* bits with a condition on when they may change */
    uint32_t not_zero; /* bits of fields that must not be 0 */
    uint32_t foreign;  /* bits that somebody else owns */
    uint32_t at_entry; /* flags that go when the block's handler is entered */
    uint8_t bytes;
    uint8_t quick; /* its bytes while a read needs nothing but the value, else 0 */
    uint16_t flags;
    uint16_t index; /* element of a register array */
    wad_alias alias;
    struct wadi_slot *alias_of;
    wadi_block *block;
    const wad_register *reg;
    wad_role_set roles;
    uint64_t address;
    /* the race finder's */
    wadi_trace *update_trace; /* of a read-modify-write that could be interrupted, or NULL */
    uint64_t update_lines;    /* lines that were enabled then */
    uint32_t wr_entry;        /* handlers entered before the last write */
    uint16_t sync;
    uint8_t update_context, wr_context, wr_line;
} wadi_slot;

/* One bus address: what reads there and what is written there. */
typedef struct wadi_cell {
    wadi_slot *rd, *wr;
} wadi_cell;

#define WADI_PAGE_BITS 12
typedef struct wadi_page {
    wadi_cell cell[1 << WADI_PAGE_BITS]; /* by bus words of the chip */
} wadi_page;

#define WADI_PAGES(sim) (1u << (32 - WADI_PAGE_BITS - (sim)->word_shift))

/* A role element: up to four parts, low part first. */
typedef struct wadi_part {
    wadi_slot *slot;
    uint32_t mask; /* before shifting */
    uint8_t lsb;
    uint8_t shift; /* place in the value */
} wadi_part;

typedef struct wadi_binding {
    wadi_part *parts; /* n_parts for each element */
    unsigned n_parts;
    unsigned count; /* elements, 0: not bound */
    const wad_role *role;
    struct wadi_signal **signals; /* of a signal role */
} wadi_binding;

struct wad_model {
    wad_sim *sim;
    wadi_block *block;
    const wad_model_class *cls;
    wadi_binding *roles;
    unsigned n_roles;
    GArray *listeners; /* wadi_listener, NULL: none */
    GPtrArray *asks;   /* wadi_request by this block, NULL: none */
    GPtrArray *asked;  /* wadi_request to this block, owned by it; NULL: none */
    bool listens;      /* to the trigger that it selects */
    bool heard;        /* one of its listeners does */
    void *state;
};

typedef struct wadi_need {
    wadi_slot *slot;
    uint32_t mask, value;
    bool equal;
    wad_finding_kind finding; /* GATED or IN_RESET */
    const wad_cond_term *term;
} wadi_need;

enum { WADI_BLOCKED_GATE = 1, WADI_BLOCKED_RESET = 2, WADI_BLOCKED_CLOCK = 4 };

struct wadi_block {
    wad_sim *sim;
    const wad_instance *inst;
    wadi_slot *slots;
    unsigned n_slots;
    wad_model *model; /* NULL: registers only */
    wadi_need *needs;
    unsigned n_needs;
    wadi_lock *locks; /* as the layout lists them */
    wadi_slot *route;
    unsigned blocked; /* WADI_BLOCKED_ bits */
    struct wadi_clock *clock;
    bool at_entry;     /* has flags that go when its handler is entered */
    GArray *clearings; /* wadi_clearing, NULL: none */
    bool in_change;    /* between wadi_blocks_before and _after */
    bool active;       /* draws what the sheet states for that */
    bool configured;   /* written at all */
    bool was_enabled;
    wadi_trace config_trace; /* the last write before it was enabled */
};

/* ---- clocks ---- */

typedef struct wadi_signal wadi_signal;

/* A flag that goes when something else is read. */
typedef struct wadi_clearing {
    const wadi_slot *read;
    wadi_slot *flag;
    uint32_t mask;
} wadi_clearing;

/* Who listens to a role of a model: `target`, while its selector holds `code`. */
typedef struct wadi_listener {
    unsigned role, index;
    wad_model *target;
    unsigned selector; /* its role of that name */
    uint32_t code;
} wadi_listener;

/* What `from` may ask the data mover `target` for, by a flag. */
typedef struct wadi_request {
    wad_model *from, *target;
    const wad_trigger *def;
    unsigned role, index;
    bool level;
    unsigned wanted;  /* channels that wait for it */
    wadi_trace trace; /* where its level came to be, with no channel waiting */
    uint64_t since;   /* then; 0: a channel waited */
} wadi_request;

typedef struct wadi_clock {
    const wad_clock *def;
    wad_sim *sim;
    wadi_domain domain;
    wad_rational hz; /* 0 when it does not run */
    bool on;
    bool ready;
    wad_event ready_event;
    bool complained;
    bool failed;  /* by the bench */
    bool halted;  /* by the core's sleep */
    bool changes; /* its frequency is about to change */
    wad_rational next_hz;
    const wad_clock *next_root;
    wad_rational true_hz; /* of an oscillator: with the bench's error */
    wadi_signal *output;  /* where it comes out, or NULL */
    wad_event toggle;     /* the output's next change ... */
    wadi_domain halves;   /* ... on this grid, twice as fine */
    uint64_t half;
} wadi_clock;

/* A grid of edges: an oscillator's, times a PLL's numerator. Lives while its source runs. */
typedef struct wadi_grid {
    const wad_clock *root;
    uint64_t n, d;
    uint64_t t0;
} wadi_grid;

/* ---- pins ---- */

struct wadi_signal {
    const wad_signal *def;
    struct wadi_clock *clock; /* that comes out here, or NULL */
    bool automatic;           /* takes pins by itself while it is used */
    wad_model *model;         /* that hears it, as element `index` of its role, or NULL */
    unsigned role, index;
    bool level;
    bool used, routed;
    bool outward; /* of a signal of both directions: driven by the block now */
    wadi_trace used_trace;
    GPtrArray *nets; /* pins it drives now */
};

typedef struct wadi_watch {
    wad_pin_fn fn;
    void *ctx;
} wadi_watch;

typedef struct wadi_net {
    const wad_pin_def *def;
    wad_model *port;
    bool dir, out;
    wad_level pull, outside, level;
    wad_level stuck; /* a defect: the level it has whatever drives it; floating: none */
    bool no_pull;    /* a defect: its pull resistor does nothing */
    unsigned function;
    wadi_signal *driver; /* of a function, or NULL */
    wadi_signal *group;  /* routed here with its block's others, or NULL */
    GArray *watches;     /* wadi_watch */
} wadi_net;

/* ---- interrupts ---- */

typedef struct wadi_irq_watch {
    wad_irq_fn fn;
    void *ctx;
} wadi_irq_watch;

typedef struct wadi_line {
    bool level;         /* the block asks */
    bool edge;          /* the controller notes its rise ... */
    bool noted;         /* ... here, until the handler is entered */
    bool forced;        /* asked for by software */
    bool asks;          /* all in all */
    uint64_t wanted_ps; /* it is to be served within this time; 0: nobody said */
    uint64_t raised_ps;
    unsigned again; /* services in a row at whose end it asked anew */
    unsigned falls; /* how often the line was let go: a handler that clears makes it fall */
    wadi_block *owner;
    bool asked; /* enabled at the block at some time */
    wadi_trace asked_trace;
    bool ever_raised, served, enabled_at_controller;
} wadi_line;

/* ---- firmware ---- */

typedef struct wadi_segment {
    char *start;
    size_t size;
    void *saved;
} wadi_segment;

/* The chip's memory, as bytes of the host. */
typedef struct wadi_memory {
    uint64_t base, size;
    uint8_t *bytes;
    bool writable;
} wadi_memory;

typedef struct wadi_firmware {
    void *handle;
    char *path;
    char *temp; /* a private copy that was loaded instead, to be removed */
    int (*main_fn)(void);
    const wad_handler *handlers;
    unsigned n_handlers;
    uintptr_t bias;
    uintptr_t text_start, text_end;
    uintptr_t start, end;           /* all of it */
    uintptr_t data_start, data_end; /* what may be written */
    uintptr_t window;               /* a bus address plus this is the host's */
    bool plain;                     /* calls in through the compiler's instrumentation */
    GArray *segments;               /* wadi_segment: writable parts, put back at reset */
} wadi_firmware;

/* A finding that is not to be told, and how many the last run left out for it. */
typedef struct wadi_silence {
    wad_silence rule;
    unsigned hits;
} wadi_silence;

typedef struct wadi_story {
    wad_run_end end;
    char *text;
    wadi_trace trace;
} wadi_story;

/* What stands at the other end of a pin. */
typedef struct wadi_serial_end {
    const wad_pin_def *pin;
    const char *name;
    wad_serial_format format;
} wadi_serial_end;

/* Where the firmware prints to and reads from. */
typedef struct wadi_stdio {
    size_t (*out)(void *context, const char *text, size_t n);
    size_t (*in)(void *context, char *text, size_t n);
    void *context;
} wadi_stdio;

struct wad_sim {
    /* what an access touches */
    uint64_t now;
    uint64_t due; /* the next time something must be looked at; 0: at once */
    uint64_t access_ps;
    uint64_t access_rem, access_carry, access_den;
    uint64_t cycle_ps, cycle_rem; /* one core cycle: cycle_ps + cycle_rem / access_den */
    wadi_page **pages;
    unsigned word_shift;
    uintptr_t pc; /* of the last call-in: where it returns to, and the frame it came from */
    void *frame;
    uint64_t calls; /* calls from the firmware that may take no time */
    /* the last read, to know a read-modify-write by */
    struct {
        wadi_slot *slot;
        uint32_t value;
        uintptr_t pc;
    } last_read;
    /* plain firmware: a write that was announced and is picked up from memory at the next call-in
     */
    struct {
        uintptr_t address, pc;
        void *frame;
        unsigned bytes; /* 0: none; WADI_ALARM: the host timer wants to be heard */
    } pending;
    uintptr_t regs_start, regs_end;    /* register pages mapped for plain firmware */
    unsigned watch;                    /* WADI_WATCH_ bits */
    uintptr_t align_mask;              /* address bits that must be 0 within an access's size */
    uintptr_t plain_pc, plain_address; /* the last plain read */
    uint64_t plain_reads, plain_writes;
    wadi_stdio stdio;
    GArray *serial_ends; /* wadi_serial_end; NULL: none */
    GPtrArray *spi_ends; /* of models/spi_line.c; NULL: none */
    uint64_t lines_on;   /* enabled at the controller, the first 64 */
    struct wadi_race *race;
    struct wadi_explore *explore;
    wad_access_fn access_fn;
    void *access_ctx;
    struct wadi_analog *analog; /* of analog.c; NULL: nothing was said of volts */
    struct wadi_charge *charge; /* of charge.c; NULL: the sheet states no currents */
    GArray *owned;              /* wadi_owned: memory that DMA works on */
    const wadi_trace *master;   /* another master accesses a register, on behalf of this place */
    uint64_t bus_until;         /* it keeps the bus until then */
    uint64_t bus_free;          /* the core has waited for it, and has the bus until then */
    uint64_t bus_taken, bus_waited; /* by other masters, and the core for them, in this run */
    uintptr_t bias;                 /* where they lie: the bus address plus this */

    const wad_sheet *sheet;
    wadi_queue queue;
    wadi_block *blocks;
    wadi_clock *clocks;
    GArray *grids; /* wadi_grid */
    wadi_signal *signals;
    unsigned n_signals;
    wadi_net *nets;
    GPtrArray *user_events; /* user_event */
    GArray *irq_watches;

    /* cpu */
    wadi_clock *core;
    bool masked;
    bool was_unmasked;
    unsigned priority; /* of what runs; UINT_MAX in main */
    unsigned active_line;
    wad_model *irqc;
    unsigned best_line, best_priority; /* the controller's choice, WADI_NO_LINE when none */
    wadi_line *lines;
    uint64_t asleep_ps;
    wad_model *power;               /* the block that says how deep it sleeps, or NULL */
    bool asleep;                    /* clocks may stand still */
    bool sleeping;                  /* main is in a sleep, and handlers may run in it */
    int sleep_level;                /* of the sheet; -1: it lists none */
    uintptr_t sleep_seen;           /* where the last sleep was looked at */
    uint64_t put_back, put_back_ps; /* handlers that ran in one sleep of main, and its begin */
    uint64_t put_back_most;         /* before main went on */
    wadi_trace put_back_trace;
    wad_sleep_fn sleep_fn;
    void *sleep_ctx;

    /* run */
    wadi_firmware fw;
    GArray *memories; /* wadi_memory: of a core that executes the target's code; NULL: none */
    void (*look)(void *ctx); /* asked for: called where the core stands between two accesses */
    void *look_ctx;
    bool look_asked;
    char *stack, *stack_start; /* with its guard page, and behind it */
    ucontext_t host_context, firmware_context;
    bool running;
    bool outlives;        /* without a clock the core stands still, and the run goes on */
    volatile bool stands; /* it does */
    uint64_t end_ps;
    wad_event end_event;
    wadi_story story;
    uint64_t fault_address;
    bool fault_writes;
    char *fault_story; /* of the first bus fault */
    bool power_cycle;  /* of what restarts it */
    bool restart;      /* the chip was reset: main begins anew */
    bool resetting;    /* registers are being put back, clocks do not stand yet */
    bool chip_reset;   /* and it is not a power-on */
    unsigned resets;
    unsigned load; /* percent */
    unsigned host_limit_s;
    struct wadi_guard *guard;
    volatile sig_atomic_t looking_up; /* debug information: host time that is not the firmware's */

    /* parts of a running value, read one after the other */
    struct {
        const wadi_slot *first, *second; /* NULL: not read yet */
        uint64_t ps;                     /* of the last read */
        wadi_trace trace;
    } split;

    /* the reads of the running handler since its last write, of at most four registers */
    struct {
        const wadi_slot *slots[4];
        unsigned n, reads;
    } waits;
    struct wadi_latency *latency; /* NULL: no line has a time to keep */
    GHashTable *ticks;            /* wadi_ticks by call-in */
    GPtrArray *stray_handlers;    /* of the firmware; NULL: not looked for yet */

    /* findings */
    GPtrArray *findings; /* wadi_finding_item */
    GHashTable *finding_keys;
    uint32_t mark_value, mark_bits; /* of the next finding's register */
    GArray *silences;               /* wadi_silence */
    unsigned n_silenced;
    GPtrArray *notes;                 /* of the firmware; NULL: not looked for yet */
    struct wadi_variables *variables; /* the same */
    struct wadi_source *source;
};

/** The chip whose firmware runs in this thread; NULL outside of a run. */
extern _Thread_local wad_sim *wadi_current;

/* ---- bus.c ---- */
/** A read whose time was charged already. */
uint32_t wadi_bus_fetch(wad_sim *sim, uint64_t address, unsigned bytes);
/** Which registers can be read the quick way changes with their block. */
void wadi_block_quicken(struct wadi_block *block);
void wadi_bus_write(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value);
/** A write whose time was charged already. */
void wadi_bus_apply(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value);
/** The register at an address, for reading or writing; NULL for none. */
wadi_slot *wadi_bus_slot(wad_sim *sim, uint64_t address, bool write);
void wadi_slot_refresh(wadi_slot *slot);
char *wadi_slot_name(const wadi_slot *slot);

/* ---- blocks.c ---- */
bool wadi_blocks_build(wad_sim *sim, char **why);
void wadi_blocks_free(wad_sim *sim);
void wadi_blocks_reset(wad_sim *sim);
void wadi_block_to_reset_values(wadi_block *block);
/** Around a change of clocks, gates or resets: models stop counting, then start anew. */
void wadi_blocks_before(wad_sim *sim);
void wadi_blocks_after(wad_sim *sim);
wadi_slot *wadi_find_slot(wad_sim *sim, const wad_instance *block, const wad_register *reg,
                          unsigned index);

/** A handler of the block is entered: flags that this clears are cleared. */
void wadi_block_entered(wadi_block *block);

/* ---- clocktree.c ---- */
/** An oscillator stops for good, or comes back. */
void wadi_clock_fail(wad_sim *sim, const wad_clock *clock, bool fails);
/** A model that counts is about to: tells when its clock gets another rate. `counts`: edges in a
 * period, 0 for none. */
void wadi_rate_changes(wad_model *m, uint64_t counts);
void wadi_clocks_build(wad_sim *sim);
void wadi_clocks_reset(wad_sim *sim);
/** Stops what a sleep level stops, or lets it run again, from an edge of its own. */
void wadi_clocks_halt(wad_sim *sim, const wad_sleep_def *level, bool halt);
bool wadi_clock_cond_holds(const wad_sim *sim, const wad_cond *cond);
/** Recomputes all clocks after a register, or a ready flag, changed. */
void wadi_clocks_update(wad_sim *sim);

/* ---- split.c ---- */
/** A part of a running value that nothing holds was read. */
void wadi_split_read(wad_sim *sim, const wadi_slot *slot);
/** The run is over: a read that nobody checked is told. */
void wadi_split_end(wad_sim *sim);

/* ---- clockout.c ---- */
void wadi_clockouts_build(wad_sim *sim);
/** After a clock, or where a signal comes out, changed: the outputs run or stop. */
void wadi_clockouts_update(wad_sim *sim);
void wadi_clockout_update(wad_sim *sim, wadi_signal *signal);

/* ---- interrupt.c ---- */
bool wadi_irq_deliverable(const wad_sim *sim);
/** Serves what is deliverable, and what comes meanwhile. */
void wadi_irq_deliver(wad_sim *sim);
/* One service of the line that the controller chose, for whoever runs handlers himself. */
typedef struct wadi_service {
    unsigned outer_priority, outer_line;
    wad_irq_record record;
} wadi_service;
void wadi_irq_take(wad_sim *sim, wadi_service *s);
/** Hardware forgets what it serves: requests by software or by an edge. */
void wadi_irq_forget(wad_sim *sim, const wadi_service *s);
void wadi_irq_leave(wad_sim *sim, wadi_service *s);
/** Software asks for a line, or takes back what is noted of it. */
void wadi_line_force(wad_sim *sim, unsigned line, bool on);

/* ---- latency.c: interrupts that are to be served within a time ---- */
void wadi_latency_reset(wad_sim *sim);
void wadi_latency_free(wad_sim *sim);
void wadi_latency_entered(wad_sim *sim, const wad_irq_record *record);
void wadi_latency_left(wad_sim *sim, const wad_irq_record *record, wad_handler handler);
/** The global mask was closed, or opened. */
void wadi_latency_mask(wad_sim *sim, bool closed);

/* ---- habits.c: what handlers and loops should not do ---- */
void wadi_handler_entered(wad_sim *sim);
void wadi_handler_sleeps(wad_sim *sim);
/** A function that prints was called, by its name. */
void wadi_handler_prints(const char *function, uintptr_t pc, void *frame);
/** Where the running firmware's standard output and input go; NULL: none runs. */
wadi_stdio *wadi_firmware_stdio(void);
void wadi_handler_reads(wad_sim *sim, const wadi_slot *slot);
static inline void wadi_handler_writes(wad_sim *sim)
{
    sim->waits.reads = 0;
}
/** Handlers of the firmware that no vector calls. */
void wadi_check_handler_names(wad_sim *sim);
/** A variable that handlers write was read outside of them. */
void wadi_ticks_read(wad_sim *sim, uintptr_t address, size_t bytes);
void wadi_ticks_end(wad_sim *sim);
void wadi_ticks_reset(wad_sim *sim);

/* ---- serial.c, models/uart_line.c ---- */
/** The rate of the block's clock times a fraction, 0 while it does not run. */
wad_rational wadi_serial_baud(wad_model *m, int64_t num, int64_t den);
const wadi_serial_end *wadi_serial_end_of(const wad_sim *sim, const wad_pin_def *pin);
void wadi_uart_describe(wad_model *m, wad_serial_port *port);

static inline double wadi_number(wad_rational r)
{
    return (double)r.num / (double)r.den;
}

/* ---- models/spi_line.c ---- */
/** The port writes the level of a pin: does a chip select come out there? */
void wadi_spi_gpio_select(const wadi_net *net);
/** The run is over; any model may be given. */
void wadi_spi_at_end(wad_model *m);

/* ---- analog.c; analog.h has the rest ---- */
void wadi_analog_free(wad_sim *sim);
/** Tells those who watch where the analog outputs stand when the run begins. */
void wadi_analog_announce(wad_sim *sim);

/* ---- charge.c: what the chip draws ---- */
void wadi_charge_build(wad_sim *sim);
void wadi_charge_free(wad_sim *sim);
void wadi_charge_reset(wad_sim *sim);
/** Clocks, blocks or the core's sleep have changed: the charge up to now is taken. */
void wadi_charge_update(wad_sim *sim);
/** The core has woken for a line (WADI_NO_LINE: the run began), or goes to sleep. */
void wadi_charge_wakes(wad_sim *sim, unsigned line);
void wadi_charge_sleeps(wad_sim *sim);

/* ---- sleep.c: how deep, and the way back ---- */
/** The core stops: clocks of the level that is set stop with it. */
void wadi_sleep_enter(wad_sim *sim);
/** A request has come: the time to wake passes, the clocks are back. */
void wadi_sleep_leave(wad_sim *sim);
/** The last handler has returned: does the core go back to sleep? */
bool wadi_sleep_again(wad_sim *sim);
/** The same where main was not asleep: only a bit that asks for it does that. */
bool wadi_sleep_on_exit(const wad_sim *sim);
/** The run ends in a sleep that nothing has ended, or goes on for ever. */
void wadi_sleep_at_end(wad_sim *sim);

/* ---- master.c: accesses by others than the core ---- */
/** The host's address of `bytes` of memory at a bus address, NULL: there is none (to write). */
void *wadi_master_memory(wad_sim *sim, uint64_t address, size_t bytes, bool write);
/** False: nothing is there, or it is misaligned. Findings name `as`. Of a wider register all bits
 * are read. */
bool wadi_master_read(wad_sim *sim, const wadi_trace *as, uint64_t address, unsigned bytes,
                      uint32_t *value);
bool wadi_master_write(wad_sim *sim, const wadi_trace *as, uint64_t address, unsigned bytes,
                       uint32_t value);
/** The bus address of the firmware's own; 0: the bus does not reach it. */
uint32_t wadi_bus_address(const wad_sim *sim, uintptr_t host);

/* ---- request.c: who asks a data mover for what ---- */
void wadi_requests_build(wad_sim *sim);
void wadi_requests_free(wad_model *m);
void wadi_request_event(wad_model *m, unsigned role, unsigned i);
/** Does a channel wait for an event of this block? */
bool wadi_requests_wanted(const wad_model *m);
const wadi_request *wadi_request_of(const wad_model *m, uint32_t code);

/* ---- trigger.c ---- */
/** Who listens to the block has changed. */
void wadi_trigger_recheck(wad_model *m);
void wadi_triggers_build(wad_sim *sim);
/** Tells those that listen to a role: `level` of a signal, or an event (rises and falls). */
void wadi_trigger_tell(wad_model *m, unsigned role, unsigned i, wad_trigger_edge edge);

/* ---- cpu.c ---- */
void wadi_cpu_advance(wad_sim *sim, uint64_t cycles);
/** Takes `cycles` of core time: events that fall due run, interrupts are delivered. */
void wadi_cpu_spend(wad_sim *sim, uint64_t cycles);
/** The slow half of an access: events and interrupts that are due. */
void wadi_cpu_service(wad_sim *sim);
void wadi_cpu_recheck(wad_sim *sim);
void wadi_cpu_sleep(wad_sim *sim);
/** Time passes, events run, no handler is entered. */
void wadi_cpu_let_pass(wad_sim *sim, uint64_t ps);
/** Waits for an interrupt to be served, `limit_ps` at the most. */
void wadi_cpu_hold(wad_sim *sim, uint64_t limit_ps);
/** Never returns: main is an empty loop, or a default handler has parked. */
void wadi_cpu_idle(wad_sim *sim) __attribute__((noreturn));
/** The default handler: reports that the line has none, and parks. */
void wadi_cpu_no_handler(wad_sim *sim, unsigned line) __attribute__((noreturn));
void wadi_cpu_set_core(wad_sim *sim);
void wadi_cpu_reset(wad_sim *sim);
void wadi_schedule(wad_sim *sim, wad_event *e, uint64_t ps);
void wadi_unschedule(wad_sim *sim, wad_event *e);

static inline void wadi_cpu_access(wad_sim *sim)
{
    sim->now += sim->access_ps;
    sim->access_carry += sim->access_rem;
    if (sim->access_carry >= sim->access_den) {
        sim->access_carry -= sim->access_den;
        sim->now++;
    }
    if (sim->now >= sim->due)
        wadi_cpu_service(sim);
}

/* ---- fault.c ---- */
/** After an access that the core cannot complete: takes `story`. */
void wadi_bus_fault(wad_sim *sim, char *story) __attribute__((noreturn));
/** The default handler of bus faults was entered. */
void wadi_bus_fault_unhandled(wad_sim *sim) __attribute__((noreturn));
/** An access ("read of", "write to") where nothing is. */
void wadi_unmapped(wad_sim *sim, uint64_t address, const char *what) __attribute__((noreturn));
void wadi_misaligned(wad_sim *sim, uint64_t address, unsigned bytes) __attribute__((noreturn));

/* ---- race.c; race.h has the rest ---- */
/** Something lets the line through: what was done so far is done before its handler runs. */
void wadi_race_enabled(wad_sim *sim, unsigned line);

/* ---- silence.c ---- */
bool wadi_silenced(wad_sim *sim, const wad_finding *finding);

/* ---- owned.c: memory that DMA works on ---- */
void wadi_owned_access(wad_sim *sim, uintptr_t address, size_t bytes, bool write);
void wadi_owned_reset(wad_sim *sim);

/* ---- locks.c ---- */
void wadi_locks_build(wadi_block *block);
void wadi_locks_reset(wadi_block *block);
/** Before a write to a locked register or a key register: false when the write is ignored. */
bool wadi_locks_allow(wad_sim *sim, const wadi_slot *slot, uint32_t value);
bool wadi_cond_holds(const wadi_block *block, const wad_cond *cond);

static inline wadi_cell *wadi_find_cell(const wad_sim *sim, uint64_t address)
{
    uint64_t word = address >> sim->word_shift;
    if (word >> 32)
        return NULL;
    wadi_page *page = sim->pages[word >> WADI_PAGE_BITS];
    return page ? &page->cell[word & ((1u << WADI_PAGE_BITS) - 1)] : NULL;
}

void wadi_explore_point(wad_sim *sim, uintptr_t key);

/* Most reads want a stored value of a block that runs: those make no call. */
static inline uint32_t wadi_bus_read(wad_sim *sim, uint64_t address, unsigned bytes)
{
    if (__builtin_expect(sim->watch & WADI_WATCH_POINTS, 0))
        wadi_explore_point(sim, (uintptr_t)address);
    wadi_cpu_access(sim);
    const wadi_cell *cell = wadi_find_cell(sim, address);
    wadi_slot *slot = cell ? cell->rd : NULL;
    if (__builtin_expect(!slot || slot->quick != bytes || slot->address != address ||
                             sim->watch & (WADI_WATCH_RACES | WADI_WATCH_TRACE),
                         0))
        return wadi_bus_fetch(sim, address, bytes);
    sim->last_read.slot = slot;
    return slot->value & slot->readable;
}

/* ---- pins.c ---- */
/** Moves signals to the groups of pins that their route fields name. */
void wadi_pins_regroup(wad_sim *sim);
void wadi_pins_build(wad_sim *sim);
void wadi_pins_free(wad_sim *sim);
void wadi_pins_reset(wad_sim *sim);
wadi_net *wadi_net_of(wad_sim *sim, const wad_instance *port, unsigned number);
void wadi_net_update(wadi_net *net);
void wadi_net_route(wadi_net *net, unsigned function);
void wadi_signal_drive(wadi_signal *signal, bool level);
wadi_signal *wadi_signal_find(wad_sim *sim, const wad_instance *block, const char *name);
void wadi_pins_announce(wad_sim *sim);

/* ---- findings.c ---- */
wadi_trace wadi_trace_here(const wad_sim *sim);
void wadi_report(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot, const char *format,
                 ...) __attribute__((format(printf, 4, 5)));
/** The next report draws its register with `value`, and marks `bits`. */
static inline void wadi_mark(wad_sim *sim, uint32_t value, uint32_t bits)
{
    sim->mark_value = value;
    sim->mark_bits = bits;
}
/** Counts a finding that was made before: true. False: it is new, and its text is wanted. */
bool wadi_report_again(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                       const wadi_trace *trace);
void wadi_report_at(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                    const wadi_trace *trace, const char *format, ...)
    __attribute__((format(printf, 5, 6)));
void wadi_findings_reset(wad_sim *sim);
void wadi_findings_free(wad_sim *sim);
/** Looks the source lines of all findings up. */
void wadi_findings_resolve(wad_sim *sim);
/** What only the end of a run shows: chains that are not complete, blocks never enabled. */
void wadi_findings_at_end(wad_sim *sim);

/* ---- source.c ---- */
typedef struct wadi_source wadi_source;
void wadi_source_free(wadi_source *source);
/** The user's own line first; at most `room` places. */
unsigned wadi_source_places(wad_sim *sim, const wadi_trace *trace, wad_place *places,
                            unsigned room);
struct Dwarf;
/** A plain access outside of a chip's run; ends the process where it is one to a chip's registers.
 */
void wadi_plain_stray(uintptr_t address);
/** The firmware's debug information, NULL without. */
struct Dwarf *wadi_source_dwarf(wad_sim *sim);
/** Drivers, headers and ports of the library itself. */
bool wadi_source_is_library(const char *file);
/** The line of a place and those before it, at most `room`, the line itself first; g_free each. */
unsigned wadi_source_before(wad_sim *sim, const wadi_trace *trace, char **lines, unsigned room);
/** The first line behind it that is not empty, NULL without. */
char *wadi_source_after(wad_sim *sim, const wadi_trace *trace);
/** Does a place, or one of the two lines behind it, shift or divide? */
bool wadi_source_line_shifts(wad_sim *sim, const wadi_trace *trace);
/** The name of the variable at an address, "buffer+4", or the address; g_free. */
char *wadi_source_variable(wad_sim *sim, uintptr_t address);
/** True when both addresses come from one source line (inlined calls counted at their caller). */
bool wadi_source_same_line(wad_sim *sim, uintptr_t a, uintptr_t b);

/* ---- variables.c ---- */
/** A variable of the firmware's, by an address in it. */
typedef struct wadi_extent {
    const char *name;
    uintptr_t start; /* in the host */
    size_t bytes;
    unsigned element; /* of an array of numbers, else 0 */
} wadi_extent;
/** False: there is none. */
bool wadi_variable_around(wad_sim *sim, uintptr_t host, wadi_extent *extent);
typedef struct wadi_variables wadi_variables;
void wadi_variables_free(wadi_variables *all);

/* ---- firmware.c ---- */
void wadi_firmware_unload(wad_sim *sim);
void wadi_firmware_restore(wad_sim *sim);
/** The handler of a line, NULL without one. */
wad_handler wadi_firmware_handler(const wad_sim *sim, unsigned line);

/* ---- plain.c: firmware of plain volatile C ---- */
/** Maps the chip's register pages at their real addresses; false: `why` (g_free). */
bool wadi_plain_map(wad_sim *sim, char **why);
void wadi_plain_unmap(wad_sim *sim);
/** Carries out the write that waits in memory. */
void wadi_plain_pick_up(wad_sim *sim);
static inline void wadi_plain_flush(wad_sim *sim)
{
    if (__builtin_expect(sim->pending.bytes != 0, 0))
        wadi_plain_pick_up(sim);
}
/** An access wider than the bus, piece by piece. */
void wadi_plain_read_wide(wad_sim *sim, uintptr_t address, unsigned bytes);
/** Before the firmware's own load: the value is placed where it will look. */
static inline void wadi_plain_read(wad_sim *sim, uintptr_t address, unsigned bytes)
{
    if (bytes * 8 > sim->sheet->bus_bits) {
        wadi_plain_read_wide(sim, address, bytes);
        return;
    }
    uint32_t value = wadi_bus_read(sim, address - sim->bias, bytes);
    __builtin_memcpy((void *)address, &value, bytes <= 4 ? bytes : 4);
}
/** Before the firmware's own store: noted, and picked up at the next call-in. */
void wadi_plain_write(wad_sim *sim, uintptr_t address, unsigned bytes);

/* ---- run.c ---- */
/** Ends the run from inside the firmware: back to wad_sim_run. */
void wadi_run_stop(wad_sim *sim, wad_run_end end, char *story) __attribute__((noreturn));
/** Resets the chip from inside: registers, variables, and main from its beginning; time goes on. */
void wadi_run_reset(wad_sim *sim, const char *by) __attribute__((noreturn));
/** The chip begins anew as by its reset pin: nobody is to blame. */
void wadi_run_again(wad_sim *sim) __attribute__((noreturn));
bool wadi_on_stack(const wad_sim *sim, const void *p);

/* ---- built-in models ---- */
extern const wad_model_class wadi_model_clocks, wadi_model_pins, wadi_model_irqc,
    wadi_model_counter, wadi_model_watchdog, wadi_model_timebase, wadi_model_tick,
    wadi_model_encoder, wadi_model_uart, wadi_model_spi, wadi_model_frames, wadi_model_adc,
    wadi_model_dac, wadi_model_power, wadi_model_dma;

#endif
