/* SPDX-License-Identifier: MIT */
/* One register of one block. */
#ifndef WADI_REGISTER_H
#define WADI_REGISTER_H

#include <glib.h>

#include "trace.h"
#include "wadium/host/model.h"

typedef struct wadi_block wadi_block;
typedef struct wadi_clearing wadi_clearing;

enum {
    WADI_SLOT_LIVE = 1,       /* a model refreshes it before a read */
    WADI_SLOT_HEARD = 2,      /* a model hears writes */
    WADI_SLOT_CLOCKS = 4,     /* a clock law, a gate or a need depends on it */
    WADI_SLOT_CHECKS = 8,     /* has stable or forbidden-value fields */
    WADI_SLOT_SEVERAL = 32,   /* more than one of its fields must not be 0 */
    WADI_SLOT_QUIET = 16,     /* a read of it has no effect and needs no help */
    WADI_SLOT_LOCKED = 64,    /* a lock keeps it from being written */
    WADI_SLOT_KEY = 128,      /* a lock's key is written here */
    WADI_SLOT_SPLIT = 512,    /* a part of a running value that nothing holds while it is read */
    WADI_SLOT_POPS = 2048,    /* reading it is an act that the model hears of */
    WADI_SLOT_CLEARS = 1024,  /* accesses to it clear flags, or note them */
    WADI_SLOT_KINDS = 8192,   /* has fields of the rarer access kinds */
    WADI_SLOT_FAR = 4096,     /* has roles of another block or unit */
    WADI_SLOT_RARE = 16384,   /* has what few registers have: see rare.h */
    WADI_SLOT_WINDOW = 65536, /* the register itself at another address, by the alias' verb */
    WADI_SLOT_ENDS = 32768,   /* a condition rests on it that lets held values through */
    WADI_SLOT_ROUTES = 256    /* moves a block's signals between groups of pins */
};

/* A model with roles in a register: of its own block, or of another. */
typedef struct wadi_hearer {
    wad_model *model;
    wad_role_set roles;
    wad_role_set live; /* of those, what it brings up to date before a read */
    bool reads;        /* reading is an act that it hears of */
    uint32_t bits;     /* of its roles here */
} wadi_hearer;

/* A feed of an interrupt line, and its bits in a register. */
typedef struct wadi_watched {
    struct wadi_feed *feed;
    uint32_t mask;
} wadi_watched;

/* Bits that mean something by a list alone. */
typedef struct wadi_coded {
    uint32_t mask;
    uint8_t lsb;
    const wad_role *role;
} wadi_coded;

/* One register of one block. */
typedef struct wadi_slot {
    uint32_t value;
    uint32_t readable; /* bits that read as stored */
    uint32_t plain;    /* rw and wo bits: stored as written */
    uint32_t w1c, w1s, w0c, rc, rs;
    uint32_t once, once_done; /* stored once after reset; which have been */
    uint32_t settable;        /* by software, of the rarer kinds */
    uint32_t pulse;           /* read 0, and are 1 while models are told */
    uint32_t read_only;       /* ro and rc bits */
    uint32_t reserved;
    uint32_t must;     /* what reserved bits must be written as */
    uint32_t stable;   /* bits with a condition on when they may change */
    uint32_t not_zero; /* bits of fields that must not be 0 */
    uint32_t foreign;  /* bits that somebody else owns */
    uint32_t at_entry; /* flags that go when the block's handler is entered */
    uint8_t bytes;
    uint8_t quick; /* its bytes while a read needs nothing but the value, else 0 */
    uint32_t flags;
    uint16_t index; /* element of a register array */
    wad_alias alias;
    struct wadi_slot *alias_of;
    wadi_block *block;
    const wad_register *reg;
    wadi_hearer first, *more; /* nearly always there is one; model NULL: none */
    uint8_t n_more;
    bool touched;     /* it stands in the list of those that changed */
    bool gates;       /* masks or ranks lines */
    uint32_t watched; /* flags and enables */
    uint32_t raised;  /* bits that a model sets as flags */
    uint32_t enables; /* of them */
    uint32_t changed; /* of them, since the lines followed last */
    wadi_watched *feeds;
    unsigned n_feeds;
    GPtrArray *accessed;    /* wadi_clearing: what an access here brings about; NULL: nothing */
    GPtrArray *noted;       /* wadi_clearing: flags here that may have been noted */
    GPtrArray *rises;       /* wadi_clearing: what a bit brings about that hardware sets here */
    GArray *coded;          /* wadi_coded: bits with a list of codes; NULL: none */
    struct wadi_rare *rare; /* NULL: nothing of the kind */
    uint64_t address;
    struct {
        wadi_trace *update_trace; /* of a read-modify-write that could be interrupted, or NULL */
        uint64_t update_lines;    /* lines that were enabled then */
        uint32_t wr_entry;        /* handlers entered before the last write */
        uint16_t sync;
        uint8_t update_context, wr_context, wr_line;
    } race; /* the race finder's */
} wadi_slot;

/** Flags or enables in it have changed: lines follow when the access or event is over. */
void wadi_touch(wadi_slot *slot, uint32_t changed, uint32_t fell);

/** Every change of a register's value comes through here. */
static inline void wadi_slot_store(wadi_slot *slot, uint32_t value)
{
    uint32_t changed = slot->value ^ value;
    slot->value = value;
    if (__builtin_expect(changed & slot->watched, 0))
        wadi_touch(slot, changed, changed & ~value);
}

/** Where a field's bits are stored, through its other names; `own`: of a field without a block,
 * `element`: of an index that means the own one. */
wadi_slot *wadi_field_slot(wad_sim *sim, const wad_instance *own, unsigned element,
                           wad_fieldref *ref);
/** What is stored there. */
uint64_t wadi_field_value(wad_sim *sim, const wad_instance *own, unsigned element,
                          const wad_fieldref *ref);

void wadi_slot_refresh(wadi_slot *slot);
/** Roles of a model that lie in the register. */
wad_role_set wadi_slot_roles(const wadi_slot *slot, const wad_model *m);
/** The i-th model with roles in the register; NULL: there are no more. */
static inline const wadi_hearer *wadi_hearer_at(const wadi_slot *slot, unsigned i)
{
    return i == 0 ? (slot->first.model ? &slot->first : NULL)
                  : (i <= slot->n_more ? &slot->more[i - 1] : NULL);
}
char *wadi_slot_name(const wadi_slot *slot);
/** Flags that go now. */
void wadi_take_flags(wadi_slot *flag, uint32_t mask);

#endif
