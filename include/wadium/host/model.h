/* SPDX-License-Identifier: MIT */
/*
 * Behaviour of a block, for models of one's own.
 *
 * A model sees its unit through roles: what the sheet binds, by kind. The bus
 * does what access kinds say (storing, clearing, setting); the model adds what
 * makes the unit live. It sets flags; which interrupt line asks for them follows
 * from the sheet.
 *
 *     static void beat(wad_event *e)                      an event of the model
 *     {
 *         wad_model *m = e->model;
 *         wad_model_put(m, ROLE_wrap, 0, 1);
 *         wad_model_schedule(m, e, wad_model_edge(m, next_edge));
 *     }
 *
 *     static const wad_model_class my_counter = {
 *         .kind = "counter", .state_size = sizeof(state), .reset = my_reset, .written = ...};
 *
 *     wad_sim_register(sim, &my_counter, "CNT0", &why);   instead of the built-in one
 *     WAD_MODEL(my_counter)                               of a file: model "my.c" for CNT0
 */
#ifndef WADIUM_HOST_MODEL_H
#define WADIUM_HOST_MODEL_H

#include "sim.h"

typedef struct wad_model wad_model;
typedef struct wad_event wad_event;

/** A bit for each role of the kind, by its place in the list of <wadium/kinds.h>. */
typedef uint64_t wad_role_set;
#define WAD_ROLE_BIT(role) (UINT64_C(1) << (role))

/** Something that will happen. Embed it in the model's state; never copy it while scheduled. */
struct wad_event {
    uint64_t ps;
    void (*fn)(wad_event *event);
    wad_model *model;
    uint64_t order;     /* private: ties are served as scheduled */
    unsigned heap_slot; /* private: place in the queue + 1, 0 when not scheduled */
};

/** A write, after the bus has carried it out. */
typedef struct wad_write {
    wad_role_set roles; /**< roles that lie in the register */
    const wad_register *reg;
    uint32_t reg_index;
    uint32_t before; /**< the register before */
    uint32_t after;  /**< and now */
    uint32_t wrote;  /**< what was written */
} wad_write;

/** What a block that listens to another one is told. */
typedef enum wad_trigger_edge {
    WAD_TRIGGER_EVENT, /**< a flag was set */
    WAD_TRIGGER_RISE,  /**< an output went high */
    WAD_TRIGGER_FALL
} wad_trigger_edge;

typedef struct wad_model_class {
    const char *kind;
    size_t state_size;
    wad_role_set on_read; /**< roles whose reading by the firmware is an act of its own: `read` */
    wad_role_set live;    /**< roles whose value must be brought up to date before they are read */
    /** Once, after all blocks exist. May be NULL, as all of these. */
    void (*init)(wad_model *m);
    /** At power-on and while the block is put into reset: registers hold their reset values. */
    void (*reset)(wad_model *m);
    /** Store live values (wad_model_put); `roles` are those in the register about to be read. */
    void (*refresh)(wad_model *m, wad_role_set roles);
    void (*written)(wad_model *m, const wad_write *write);
    /** The firmware has read a register that holds a role of `on_read`. */
    void (*read)(wad_model *m, const wad_register *reg);
    /** The block's clock is about to change or stop (`before`), or has changed. */
    void (*clock)(wad_model *m, bool before);
    /** The i-th signal of a signal role, an input, has this level now at its pin; may be told again
     * without a change. */
    void (*input)(wad_model *m, unsigned role, unsigned i, bool level);
    /** The trigger that the block's role `trigger` selects. */
    void (*trigger)(wad_model *m, wad_trigger_edge edge);
    /** Somebody begins to listen to this block's flags and outputs. */
    void (*heard)(wad_model *m);
    /** Flags that say how things are, as `there is room`; the others tell what has happened. */
    wad_role_set follows;
    /** Flags whose requests to a DMA controller are levels, told by wad_model_request; the others
     * request an element at each wad_model_event. */
    wad_role_set asks;
    /** Of a DMA controller: a request that its list numbers `code` has come, or a level has ended.
     */
    void (*request)(wad_model *m, uint32_t code, bool on);
    /** An element was moved for this block's request; `last`: the transfer has ended with it. */
    void (*moved)(wad_model *m, unsigned role, unsigned i, bool last);
    /** A handler returned while the block's interrupt line still asks, and no flag fell meanwhile.
     * True: that is as it should be, or a finding has been made; `handler` is its address. */
    bool (*still_asks)(wad_model *m, uintptr_t handler);
    /** What the i-th signal of an analog role drives now: volts, and the resistance behind them.
     * False: nothing. */
    bool (*analog)(wad_model *m, unsigned role, unsigned i, double *volts, double *ohms);
    /** Something goes on that a stop of the block's clock would break off; NULL: never. */
    bool (*busy)(wad_model *m);
    /** The run is over: what only its end shows. */
    void (*ended)(wad_model *m);
    /** A pin of the port changed its level; for kind gpio. */
    void (*pin)(wad_model *m, unsigned number, wad_level level);
    /** Of a kind of the sheet's own (`acts as own can`): its roles in the order in which the class
     * numbers them, separated by spaces, `!` before those that it cannot do without:
     * "enable !data done done_irq out". NULL for Wadium's kinds. */
    const char *roles;
} wad_model_class;

/** Uses `cls` for the named block or unit. Before the first run. False: `why` (g_free) says what it
 * is instead, or which role the class does not know, or misses. */
bool wad_sim_register(wad_sim *sim, const wad_model_class *cls, const char *block, char **why);

/** At the end of a C file that a bench or a board names, `model "can.c" for CAN0`: the class that
 * it holds. */
#define WAD_MODEL(cls)                                                                             \
    const wad_model_class *wad_model_of_file(void);                                                \
    const wad_model_class *wad_model_of_file(void)                                                 \
    {                                                                                              \
        return &(cls);                                                                             \
    }
const wad_model_class *wad_model_of_file(void);

/** The model's own memory, `state_size` bytes, zero at creation. */
void *wad_model_state(wad_model *m);
wad_sim *wad_model_sim(wad_model *m);
const wad_instance *wad_model_block(wad_model *m);

/** Is the role bound; how many elements; its value; a code of it. */
bool wad_model_has(const wad_model *m, unsigned role);
unsigned wad_model_count(const wad_model *m, unsigned role);
uint32_t wad_model_get(const wad_model *m, unsigned role, unsigned i);
void wad_model_put(wad_model *m, unsigned role, unsigned i, uint32_t value);
/** The same for roles that are bound to values of up to 64 bits; how many bits. */
uint64_t wad_model_get64(const wad_model *m, unsigned role, unsigned i);
void wad_model_put64(wad_model *m, unsigned role, unsigned i, uint64_t value);
unsigned wad_model_width(const wad_model *m, unsigned role);
/** The number that the sheet says behind the element's code (`2 is 8`), or that a role's law gives.
 * False: it says none, and the kind's own formula over the bits stands. */
bool wad_model_says(const wad_model *m, unsigned role, unsigned i, wad_rational *number);
/** The same rounded down, for what counts; false as well for a negative one. */
bool wad_model_whole(const wad_model *m, unsigned role, unsigned i, uint64_t *number);
uint32_t wad_model_code(const wad_model *m, unsigned role, const char *code, uint32_t otherwise);

/** A role that is a quantity (`bounce 200 us`), in the base unit of its kind: seconds, hertz,
 * volts. False: it is not bound, or is none. */
bool wad_model_quantity(const wad_model *m, unsigned role, wad_rational *quantity);

/** An event of the world outside, while a run goes on; `event->fn` is set by the caller, `model`
 * not used. Forgotten at the run's end. */
void wad_sim_schedule(wad_sim *sim, wad_event *event, uint64_t ps);
void wad_sim_cancel(wad_sim *sim, wad_event *event);

void wad_model_schedule(wad_model *m, wad_event *event, uint64_t ps);
void wad_model_cancel(wad_model *m, wad_event *event);

/** The block's clock: does it run; its edges counted from its last change; when edge k comes. */
bool wad_model_clocked(const wad_model *m);
uint64_t wad_model_edges(const wad_model *m);
uint64_t wad_model_edge(const wad_model *m, uint64_t k);

/**
 * Memory at a bus address belongs to the model's transfer from now on, which fills it (`writes`) or
 * only reads it; the CPU's touching it meanwhile is a finding in plain firmware. Until disowned, or
 * the chip's reset.
 */
void wad_model_own(wad_model *m, uint64_t address, uint64_t size, bool writes);
void wad_model_disown(wad_model *m, uint64_t address);

/** The i-th signal of a signal role: its level, and whether the block uses it at all. */
void wad_model_drive(wad_model *m, unsigned role, unsigned i, bool level);
/** Which way a signal of both directions goes now: out of the block, or into it (at reset). */
void wad_model_outward(wad_model *m, unsigned role, unsigned i, bool outward);
void wad_model_uses(wad_model *m, unsigned role, unsigned i, bool used);

/** A flag was set that other blocks may listen to, by role; outputs tell by themselves. */
void wad_model_event(wad_model *m, unsigned role, unsigned i);
/** The block listens to the trigger that it selects from now on, or no longer; also when it selects
 * another one. */
void wad_model_listens(wad_model *m, bool on);
/** Where the output that the block listens to stands; false as well for an event. */
bool wad_model_trigger_level(const wad_model *m);

/** The block asks a DMA controller for an element by this flag, or no longer; roles of `asks`. */
void wad_model_request(wad_model *m, unsigned role, unsigned i, bool on);

/** Of a DMA controller, by the numbers of its list: does somebody ask now; who it is (NULL: nobody
 * in the list); a channel waits for it from now on, or no longer; an element was moved for it. */
bool wad_model_requested(const wad_model *m, uint32_t code);
const wad_trigger *wad_model_request_source(const wad_model *m, uint32_t code);
void wad_model_wants(wad_model *m, uint32_t code, bool on);
void wad_model_moved(wad_model *m, uint32_t code, bool last);

/** The block draws its `active` current from now on, or no longer. */
void wad_model_active(wad_model *m, bool on);

/** The block was enabled: no finding about a block that never was. */
void wad_model_enabled(wad_model *m);

#endif
