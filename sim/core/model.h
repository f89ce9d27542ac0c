/* SPDX-License-Identifier: MIT */
/* A model of a kind, bound to its block's roles. */
#ifndef WADI_MODEL_H
#define WADI_MODEL_H

#include <glib.h>

#include "block.h"
#include "register.h"

/* A role element: up to four parts, low part first. */
typedef struct wadi_part {
    wadi_slot *slot;
    uint32_t mask; /* before shifting */
    uint32_t flip; /* bits that count inverted */
    uint8_t lsb;
    uint8_t shift; /* place in the value */
} wadi_part;

/* An element that is not simply its parts beside each other. */
typedef struct wadi_odd_place {
    wad_place_form form;
    uint8_t n_parts;
    uint64_t always;
} wadi_odd_place;

/* While the role reads this, the unit does not run. */
typedef struct wadi_stop {
    unsigned role;
    uint64_t code;
} wadi_stop;

struct wadi_way;

typedef struct wadi_binding {
    wadi_part *parts; /* n_parts for each element */
    unsigned n_parts;
    wadi_odd_place *odd; /* one an element; NULL: all are their parts beside each other */
    unsigned count;      /* elements, 0: not bound */
    const wad_role *role;
    struct wadi_way *ways; /* how it may be bound, by conditions; NULL: in one way */
    unsigned n_ways;
    const wad_role **chosen; /* of each element, where there are ways; NULL: none now */
    bool *events;            /* by element, of a flag that is set when its level rises: the level */
    bool scaled;             /* of ways, which may multiply or add otherwise than one another */
    bool spoken;             /* of ways, whose codes for a word may differ */
    bool is_switch;          /* its codes say on and off: it reads 1 and 0 */
    wadi_stop *stops;        /* of `enable` */
    unsigned n_stops;
    struct wadi_signal **signals; /* of a signal role */
} wadi_binding;

struct wad_model {
    wad_sim *sim;
    wadi_block *block;
    const wad_model_class *cls;
    const wad_kind *kind; /* by whose list roles are numbered */
    wad_kind *own_kind;   /* the same, where the class numbers them; owned */
    wadi_binding *roles;
    unsigned n_roles;
    GPtrArray *feeds;  /* wadi_feed of this model, NULL: none */
    GPtrArray *fires;  /* wadi_clearing: what its flags bring about; NULL: nothing */
    bool pulses;       /* one of them notes moments alone */
    GArray *listeners; /* wadi_listener, NULL: none */
    GPtrArray *asks;   /* wadi_request by this block, NULL: none */
    GPtrArray *asked;  /* wadi_request to this block, owned by it; NULL: none */
    bool resetting;    /* it is being put back: nothing begins by that */
    bool built_in;     /* its class is Wadium's own, so its state is known */
    bool listens;      /* to the trigger that it selects */
    bool heard;        /* one of its listeners does */
    void *state;
};

/** Does the element have bits in the register that was written? */
bool wadi_model_lies_in(const wad_model *m, unsigned role, unsigned i, const wad_write *w);

/** The model cannot take a number as it is, and takes another: one finding for each place. */
void wadi_model_rounds(const wad_model *m, unsigned role, unsigned i, wad_rational said,
                       double taken);

/** Is it Wadium's own model of this kind? A user's has a state of its own. */
bool wadi_model_is(const wad_model *m, const char *kind);

/** A register was written, by whomever: tells the models with roles in it. */
static inline void wadi_tell_models(const wadi_slot *slot, wad_write *w)
{
    if (!(slot->flags & WADI_SLOT_HEARD))
        return;
    w->roles = slot->first.roles;
    if (slot->first.model->cls->written)
        slot->first.model->cls->written(slot->first.model, w);
    for (unsigned i = 0; __builtin_expect(i < slot->n_more, 0); i++) {
        w->roles = slot->more[i].roles;
        if (slot->more[i].model->cls->written)
            slot->more[i].model->cls->written(slot->more[i].model, w);
    }
}

#endif
