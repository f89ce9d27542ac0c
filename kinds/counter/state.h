/* SPDX-License-Identifier: MIT */
/* Kind counter: what its files share. model.c knows time, count.c counts, outputs.c what comes out.
 */
#ifndef WADI_COUNTER_H
#define WADI_COUNTER_H

#include "sim/core/sim.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_COUNTER(ROLE)
#undef ROLE
};

#define CHANNELS  8
#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef enum direction { UP, DOWN, UPDOWN } direction;
typedef enum action { NO_ACTION, START, GATE, RESTART, COUNT } action;
typedef enum drive { OFF, SET, CLEAR, TOGGLE, PWM, PWM_LOW } drive;

typedef struct counter_channel {
    wad_event event;
    unsigned index;
    struct wadi_slot *flag; /* where its flag is one bit; NULL: it is none, or otherwise */
    uint32_t flag_mask;
    uint64_t compare; /* the one in force */
    drive drive;
    bool level;      /* that it wants */
    wad_event rises; /* a pair's dead time is over */
    bool idle;       /* never compared with, drives nothing: matches at count 0, needs no event */
} counter_channel;

/* Long since what is looked up once is kept: a count is asked for at each access. */
typedef struct counter_state {
    wad_event wrap, first_edge;
    counter_channel ch[CHANNELS];
    unsigned n;
    bool enabled, running;
    bool shadow, one_shot;
    direction dir;
    action action;    /* of the trigger */
    bool gate;        /* closed: it must not count */
    uint64_t divider; /* in force */
    uint64_t reload;  /* in force; with a start value the largest count */
    uint64_t start;   /* in force, 0 without the role */
    uint64_t base;    /* count at position 0 of this period: the start value, or what was written */
    uint64_t length;  /* of this period, in counts */
    uint64_t position; /* while not running */
    uint64_t phase;    /* edges into the prescaler while not running */
    int64_t begin;     /* edge of position 0; may lie before the clock's first edge */
    uint64_t modulus;  /* 2 ** width of the count, a power of 2 */
    /* looked up once */
    bool has_start, load_flags;
    uint32_t prescale_power;
    uint32_t actions[COUNT + 1];
    uint32_t reload_plus, prescale_plus, mode_down, mode_updown, drives[PWM_LOW + 1];
    unsigned awake[CHANNELS], n_awake; /* channels that are not idle */
    struct wadi_slot *idle_flags;
    uint32_t idle_mask; /* match flags of the idle ones, in one register */
    bool stale;         /* prescaler, reload or compares were written since they were taken over */
} counter_state;

uint64_t wadi_counter_count_at(const counter_state *s, uint64_t p);

void wadi_counter_outputs_init(wad_model *m, counter_state *s);
void wadi_counter_outputs_reset(wad_model *m, counter_state *s);
bool wadi_counter_matches_at(const counter_state *s, const counter_channel *ch, uint64_t p);
/** The count has met the channel's value: flag, level, trigger. */
void wadi_counter_match(wad_model *m, counter_channel *ch);
/** The level of a PWM output at a position. */
void wadi_counter_pwm_level(wad_model *m, const counter_state *s, counter_channel *ch, uint64_t p);
/** The next position after `p` at which the channel matches or changes; `length` when none. */
uint64_t wadi_counter_next_position(const counter_state *s, const counter_channel *ch, uint64_t p);
/** Output modes, enables or dead time were written, at position `p`. */
void wadi_counter_set_outputs(wad_model *m, counter_state *s, uint64_t p);

uint64_t wadi_counter_period(wad_model *m, const counter_state *s);
uint64_t wadi_counter_natural_length(const counter_state *s);
uint64_t wadi_counter_position(wad_model *m, const counter_state *s);

#endif
