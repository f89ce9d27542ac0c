/* SPDX-License-Identifier: MIT */
/*
 * What registers do beyond storing what is written: conditions, events, and all that a field or a
 * register says behind its access kind. Part of <wadium/host/sheet.h>, which includes it.
 */
#ifndef WADIUM_HOST_BEHAVIOUR_H
#define WADIUM_HOST_BEHAVIOUR_H

typedef struct wad_cond_term {
    wad_fieldref ref;     /**< block NULL: of the block whose layout says it */
    bool equal;           /**< else: not equal */
    uint64_t value, last; /**< a range; `last` is `value` for a single one */
    wad_where where;
} wad_cond_term;

/** Holds while all of its terms do, or the condition behind `or`. */
struct wad_cond {
    const wad_cond_term *terms;
    unsigned n;
    const wad_cond *or_else; /**< NULL: none */
};

/** Is the term met by this value of its field? */
static inline bool wad_cond_term_met(const wad_cond_term *t, uint64_t value)
{
    return (value >= t->value && value <= t->last) == t->equal;
}

typedef enum wad_event_sort {
    WAD_EVENT_ACCESS, /**< `read STAT`, `write CMD.CLR = 1` */
    WAD_EVENT_FLAG,   /**< `STAT.OVF`: hardware sets it */
    WAD_EVENT_ROLE,   /**< `wrap`, `T0.match[1]`: the same by a unit's role */
    WAD_EVENT_ENTRY,  /**< a handler is entered */
    WAD_EVENT_EXIT
} wad_event_sort;

/** Something that happens once. */
typedef struct wad_bus_event {
    wad_event_sort sort;
    bool write;
    const wad_instance *block; /**< of another block; NULL: of the layout's own */
    const wad_register *reg;
    const struct wad_bitfield *field; /**< NULL: any access */
    uint32_t reg_index;               /**< of an array; unless `by_element` */
    bool by_element;                  /**< element k of the register for element k of the flag */
    uint64_t mask, value;             /**< of a field: it matches while these bits say so */
    const char *unit, *role;          /**< of a role; unit NULL: the block's own */
    uint32_t element;
    wad_where where;
} wad_bus_event;

/** What takes a flag away, or lets a held value through: an event, or one that follows another, and
 * then only what was set at that one. */
typedef struct wad_clearing {
    bool then;
    wad_bus_event first, last; /**< without `then`, `last` alone */
} wad_clearing;

/** `number { 2 CC[1].FLAG, 14 CTL.FLAG } clears otherwise 0` */
typedef struct wad_number_item {
    uint64_t code;
    wad_fieldref flag;
} wad_number_item;

typedef struct wad_number {
    const wad_number_item *items;
    unsigned n;
    bool clears; /**< an access takes the flag whose number it is */
    uint64_t otherwise;
} wad_number;

/** `held until wrap when CTRL.BUF shows active`: what is written waits. */
typedef struct wad_held {
    const wad_cond *when;      /**< else it is not held; NULL: always */
    const wad_clearing *until; /**< n 0: while the condition holds */
    unsigned n_until;
    bool shows_active; /**< it reads as what is active; else as what was written */
} wad_held;

/** `after 3 cycles of slow busy STAT.SYNC`: a write that arrives later. */
typedef struct wad_delay {
    wad_rational amount; /**< seconds, or cycles */
    bool cycles;
    const wad_clock *clock; /**< of the cycles; NULL: the core's */
    wad_fieldref busy;      /**< 1 meanwhile; reg NULL: nothing tells */
} wad_delay;

/** What hardware does at an event: assigns, resets, or does so later. */
typedef struct wad_act {
    wad_fieldref ref;      /**< an index of UINT32_MAX: the element of the event */
    const wad_expr *value; /**< NULL: a reset of the block (of the chip, in the chip) */
    wad_delay delay;       /**< of `acts` */
    const struct wad_act *acts;
    unsigned n_acts; /**< 0: at once */
    wad_where where;
} wad_act;

/** `on write CTL.RST = 1 when CTL.EN { reset }` */
typedef struct wad_hook {
    wad_where where;
    const wad_clearing *on;
    unsigned n_on;
    const wad_cond *when; /**< NULL: always */
    const wad_act *acts;
    unsigned n_acts;
} wad_hook;

/** Registers once more at other addresses: `window at 0x800 toggles of T0 UA`; or an address range
 * bit by bit: `window at 0x7200_0000 bits of 0x7000_0000 size 1 MiB`. */
typedef struct wad_window {
    wad_where where;
    wad_alias verb;
    bool bits;
    uint64_t at; /**< behind each block's base; of bits: absolute */
    const wad_instance *const *blocks;
    unsigned n_blocks;
    uint64_t of, size; /**< of bits: the first address, and how many bytes */
    uint32_t step;     /**< of bits: bytes between them */
    bool by_register;  /**< a register that says `bits`, not the chip */
} wad_window;

/** A gate or a reset: when the block answers after it was opened. */
typedef struct wad_ready {
    wad_fieldref ref; /**< hardware sets it then; reg NULL: nothing tells */
    bool delayed;
    wad_delay delay;
} wad_ready;

/** What a wrong value of a key does. */
typedef enum wad_wrong_key {
    WAD_WRONG_IGNORED, /**< the sequence begins anew, and what was open closes */
    WAD_WRONG_STUCK,   /**< it opens no more until a reset */
    WAD_WRONG_RESETS   /**< the chip */
} wad_wrong_key;

/** What keeps registers from being written: open while a condition holds, or after a sequence of
 * values was written to a key register or field. */
typedef struct wad_lock {
    const char *name;
    const char *text;
    wad_where where;
    const wad_cond *open; /**< NULL: opened by the sequence */
    const wad_register *key;
    const struct wad_bitfield *key_field; /**< NULL: the whole register */
    uint32_t key_index, key_mask;
    uint8_t key_lsb;
    const uint32_t *sequence;
    unsigned n_sequence;
    unsigned writes; /**< closes after so many writes; 0: stays open */
    bool unbroken;   /**< any access between two values begins it anew */
    bool expires;
    wad_delay open_for;     /**< then it closes */
    bool once;              /**< opens once only until a reset ... */
    const wad_cond *unless; /**< ... unless this holds; NULL: never again */
    wad_fieldref shows;     /**< 1: closed; reg NULL: nothing shows it */
    wad_wrong_key wrong;
} wad_lock;

/** All of it; of a field, or of a register as a whole. */
typedef struct wad_behaviour {
    const wad_expr *reads; /**< NULL: what is stored; an index of UINT32_MAX: the own element */
    wad_alias alias;       /**< of a field: another name of these bits, or sets or clears them */
    wad_fieldref alias_of;
    wad_fieldref masks; /**< only those of its bits are stored that are 1 here in the same write */
    bool has_key, key_resets;
    uint64_t key; /**< the write counts if it holds this */
    const wad_number *number;
    const wad_held *held;
    const wad_delay *delay;
    const wad_cond *when; /**< of a register: there while this holds, among others at its address */
} wad_behaviour;

#endif
