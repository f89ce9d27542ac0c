/* SPDX-License-Identifier: MIT */
/*
 * Who is told what the machine does. The machine tells and knows nobody; a checker or an instrument
 * is an observer with a state of its own, which opens the ears it needs. What nobody hears costs a
 * test of `sim->ears`; who hears one kind of event is kept in the order of attachment, which is the
 * order of findings.
 */
#ifndef WADI_OBSERVER_H
#define WADI_OBSERVER_H

#include "register.h"
#include "wadium/host/sim.h"

typedef enum wadi_ear {
    /* accesses of the firmware to registers that are not blocked, before their effect */
    WADI_EAR_READ = 1 << 0,          /* each: closes the quick way */
    WADI_EAR_HANDLER_READ = 1 << 1,  /* in a handler, of those that go the slow way anyhow */
    WADI_EAR_PART_READ = 1 << 2,     /* of a part of a running value that nothing holds */
    WADI_EAR_WRITE = 1 << 3,         /* each */
    WADI_EAR_HANDLER_WRITE = 1 << 4, /* in a handler */
    WADI_EAR_REWRITE = 1 << 5,       /* of flags, to the register that was read last */
    WADI_EAR_FIELDS = 1 << 6,        /* of fields that have conditions: they change, or are 0 */
    WADI_EAR_ODD = 1 << 7,           /* see `odd`; by other masters, too */
    WADI_EAR_ACCESS = 1 << 8, /* each read and write, when it is done: closes the quick way */
    /* of the firmware's other doings */
    WADI_EAR_CALL_IN = 1 << 9,    /* before each access, to `address` */
    WADI_EAR_VARIABLE = 1 << 10,  /* race.c, directly: variables of plain firmware */
    WADI_EAR_OWNED = 1 << 11,     /* owned.c, directly: memory that a DMA transfer works on */
    WADI_EAR_PICKED_UP = 1 << 12, /* a variable's write that was pending stands in memory */
    WADI_EAR_MASK = 1 << 13,      /* the global mask is closed (`on`) or opened */
    /* interrupts */
    WADI_EAR_ENTER = 1 << 14,  /* the core takes `record` */
    WADI_EAR_CALL = 1 << 15,   /* its handler is about to run */
    WADI_EAR_RETURN = 1 << 16, /* it has run: `handler`, `falls` of the line when it began */
    WADI_EAR_LEAVE = 1 << 17,
    WADI_EAR_ENABLE =
        1 << 18, /* something lets the line through; WADI_NO_LINE: the mask, at first */
    /* sleep, clocks */
    WADI_EAR_DOZE = 1 << 19,   /* a handler asks for sleep */
    WADI_EAR_SLEEP = 1 << 20,  /* see `phase` */
    WADI_EAR_STANDS = 1 << 21, /* the core stands (`on`) in sleep `value`, or woke for `line` */
    WADI_EAR_ASLEEP = 1 << 22, /* it stood, from now until `until_ps` */
    WADI_EAR_CLOCKS = 1 << 23, /* clocks, or what a block draws, have changed */
    /* the course of a run */
    WADI_EAR_LOAD = 1 << 24,    /* firmware is loaded (`on`), or let go */
    WADI_EAR_RESTART = 1 << 25, /* the chip was reset from inside, before its reset */
    WADI_EAR_RESET = 1 << 26,   /* before each reset of registers and core */
    WADI_EAR_BEGIN = 1 << 27,   /* a run is about to begin, before its reset */
    WADI_EAR_START = 1 << 28,   /* it stands at its reset values */
    WADI_EAR_END = 1 << 29,
    /* pins */
    WADI_EAR_OUTPUT = 1 << 30, /* a port writes the level of `net` */
    WADI_EARS = 31
} wadi_ear;

/** With one of these open, variables are told as well as registers. */
#define WADI_EAR_MEMORY (WADI_EAR_CALL_IN | WADI_EAR_VARIABLE | WADI_EAR_OWNED)
/** With one of these open, no read is quick. */
#define WADI_EAR_ALL_READS (WADI_EAR_READ | WADI_EAR_ACCESS)

typedef enum wadi_odd {
    WADI_ODD_BLOCKED,    /* the block's clock or reset makes the access void */
    WADI_ODD_WIDTH,      /* `bytes` at `address` are not the register's */
    WADI_ODD_WRITE_ONLY, /* it was read */
    WADI_ODD_BITS,       /* read-only or reserved ones are written wrongly by `value` */
    WADI_ODD_FOREIGN     /* `bits` belong to somebody else */
} wadi_odd;

/* Of a sleep; its level is `value`. */
typedef enum wadi_sleep_phase {
    WADI_SLEEP_BEGINS, /* the level is not told yet */
    WADI_SLEEP_STOPS,  /* clocks are about to stop */
    WADI_SLEEP_STOPPED /* they have */
} wadi_sleep_phase;

/* One event; what does not apply is 0. */
typedef struct wadi_told {
    wadi_ear ear;
    union {
        wadi_odd odd;
        wadi_sleep_phase phase;
    };
    bool write, on;
    unsigned line, bytes, falls;
    wadi_slot *slot;
    uint64_t address, until_ps;
    uint32_t value, before, after, bits;
    wad_handler handler;
    const wad_irq_record *record;
    const struct wadi_net *net;
} wadi_told;

typedef struct wadi_observer wadi_observer;

typedef struct wadi_observer_class {
    const char *name;
    unsigned standing; /* ears that are open from the beginning */
    size_t state_size;
    void (*detach)(wadi_observer *o); /* may be NULL: nothing but `state` is to be freed */
    /* READ, WRITE, HANDLER_READ and HANDLER_WRITE */
    void (*access)(wadi_observer *o, wadi_slot *slot, bool write);
    /* all others */
    void (*hear)(wadi_observer *o, const wadi_told *t);
} wadi_observer_class;

struct wadi_observer {
    const wadi_observer_class *cls;
    wad_sim *sim;
    void *state;
    unsigned open;
    wadi_observer *next; /* in the order of attachment */
};

/* Of one ear. */
typedef struct wadi_hearers {
    wadi_observer **list;
    unsigned n, room;
} wadi_hearers;

/** Attached behind all others; `state` is all zeros. */
wadi_observer *wadi_attach(wad_sim *sim, const wadi_observer_class *cls);
/** NULL: none of the class is attached. */
wadi_observer *wadi_observer_of(const wad_sim *sim, const wadi_observer_class *cls);
void wadi_detach(wadi_observer *o);
void wadi_detach_all(wad_sim *sim);
/** Opens ears, or closes them. */
void wadi_hear(wadi_observer *o, unsigned ears, bool on);

/* Whoever tells asks `sim->ears` first where it is often. */
void wadi_tell(wad_sim *sim, const wadi_told *t);
/** The same for READ, WRITE, HANDLER_READ, HANDLER_WRITE. */
void wadi_tell_access(wad_sim *sim, wadi_ear ear, wadi_slot *slot, bool write);

#endif
