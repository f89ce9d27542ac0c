/* SPDX-License-Identifier: MIT */
/* What few registers do: all that is not an access kind stands behind one flag of a register. */
#ifndef WADI_RARE_H
#define WADI_RARE_H

#include "register.h"
#include "sheet/chip/expression.h"

/* Bits that read as something else than what is stored. */
typedef struct wadi_shown {
    uint32_t mask;
    uint8_t lsb;
    const wad_expr *expr;           /* or */
    const struct wadi_alias *alias; /* or */
    const struct wadi_number *number;
} wadi_shown;

/* Only those bits of `to` are stored that are 1 in `by`, of one write. */
typedef struct wadi_mask {
    uint32_t by, to;
    uint8_t by_lsb, to_lsb;
} wadi_mask;

typedef struct wadi_key {
    uint32_t mask, value;
    bool resets;
    const wad_bitfield *field;
} wadi_key;

/* Bits that are another name of bits elsewhere. */
typedef struct wadi_alias {
    wad_alias verb;
    wadi_slot *to;
    uint32_t mask; /* of these bits */
    uint8_t lsb, to_lsb;
} wadi_alias;

/* A flag with a number, and where its enable is found. */
typedef struct wadi_numbered {
    wadi_slot *slot;
    uint32_t mask;
    const wadi_block *unit; /* NULL: nothing holds it back */
    unsigned enable, element;
} wadi_numbered;

typedef struct wadi_number {
    const wad_number *def;
    wadi_numbered *flags; /* one a number */
    uint32_t mask;        /* of the field */
    uint8_t lsb;
} wadi_number;

/* Writes that arrive later. */
typedef struct wadi_delay {
    wad_event event;
    const wad_delay *def;
    wadi_slot *slot, *busy;
    uint32_t mask, busy_mask;
    uint32_t value, touched; /* of the write under way */
    bool waits;
} wadi_delay;

/* Bits whose written value waits. */
typedef struct wadi_hold {
    uint32_t mask;
    const wad_cond *when;
    bool until; /* an event lets it through; else the condition's end alone */
} wadi_hold;

/* A part of a value whose other part goes through a byte that all such share. */
typedef struct wadi_through {
    wadi_slot *high, *low;
    uint32_t *temporary;
    bool on_read, on_write;
} wadi_through;

typedef struct wadi_rare {
    GArray *shown;            /* wadi_shown */
    GArray *masks;            /* wadi_mask */
    GArray *keys;             /* wadi_key */
    GPtrArray *aliases;       /* wadi_alias */
    GPtrArray *shown_aliases; /* wadi_alias: of a register that is one as a whole */
    GPtrArray *numbers;       /* wadi_number */
    GPtrArray *delays;        /* wadi_delay */
    GArray *holds;            /* wadi_hold */
    GArray *through;          /* wadi_through */
    uint32_t held, shows_active;
    uint32_t pending, waiting; /* of `held`: what was written and is not active */
    const wad_cond *when;      /* it is there while this holds */
    wadi_slot *next[2];        /* others at its address: when it is read, when written */
} wadi_rare;

wadi_rare *wadi_rare_of(wadi_slot *slot);
void wadi_rare_free(wadi_slot *slot);
void wadi_rare_reset(wadi_slot *slot);

/** Of several registers at one address the one that is there now; NULL: none. */
wadi_slot *wadi_rare_there(wadi_slot *slot, bool write);
/** What it holds as a reader sees it: bits that wait, or what is active. */
uint32_t wadi_rare_stands(const wadi_slot *slot);
/** What the register shows: step 4 of a read. */
uint32_t wadi_rare_reads(wadi_slot *slot);
/** Flags that a number register's access takes. */
void wadi_rare_take_numbers(wadi_slot *slot);

/** Of a write: bits that its masks let through. */
uint32_t wadi_rare_masked(const wadi_slot *slot, uint32_t value, uint32_t touched);
/** False: a wrong key, and the write is over. */
bool wadi_rare_unlocked(wad_sim *sim, wadi_slot *slot, uint32_t value, uint32_t touched);
/** Parks what arrives later; the bits that go on now. */
uint32_t wadi_rare_delayed(wad_sim *sim, wadi_slot *slot, uint32_t value, uint32_t touched);
/** What to begin from where bits wait, and what becomes of a register that is written. */
uint32_t wadi_rare_before(const wadi_slot *slot);
void wadi_rare_store(wadi_slot *slot, uint32_t after, uint32_t touched);
/** Bits that are stored elsewhere. */
uint32_t wadi_rare_elsewhere(const wadi_slot *slot);
/** Step 7: the aliases' targets change, and their models are told by `told`. */
void wadi_rare_forward(wadi_slot *slot, uint32_t value, uint32_t touched,
                       void (*told)(wad_sim *sim, wadi_slot *to, uint32_t before, uint32_t wrote));
/** What waits becomes active; models are told. */
void wadi_rare_release(wadi_slot *slot, uint32_t mask);
/** Of a write to a part that goes through a shared byte: true: that is all for now; else both parts
 * are stored. Of a read of the low part: the high one is kept. */
bool wadi_rare_through_write(wadi_slot *slot, uint32_t value,
                             void (*told)(wad_sim *sim, wadi_slot *to, uint32_t before,
                                          uint32_t wrote));
void wadi_rare_through_read(const wadi_slot *slot);
/** Its busy bit. */
void wadi_delay_busy(const wadi_delay *d, bool on);
/** A condition may have ended: what is no longer held becomes active. */
void wadi_rare_conditions(wad_sim *sim);

#endif
