/* SPDX-License-Identifier: MIT */
/* Kind dma: what its files share. model.c knows registers, transfer.c when channels begin and end,
 * and moves elements, check.c says what is wrong with a transfer. */
#ifndef WADI_DMA_H
#define WADI_DMA_H

#include "sim/core/model.h"
#include "sim/core/sim.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_DMA(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)
#define CHANNELS  32
#define NOBODY    UINT_MAX

typedef struct dma_channel {
    bool armed;
    bool came;                                /* an event that it waits for */
    bool going;                               /* one request moves all: it has come */
    bool halved;                              /* half of this round is over */
    bool dying;                               /* ends behind the element in flight */
    bool written_source, written_destination; /* since it began last */
    uint32_t count;                           /* as written: elements of a round */
    uint32_t left;
    bool waits;
    uint32_t code;                /* what it waits for */
    bool wants;                   /* and it does */
    uint32_t source, destination; /* where this round began */
    uint64_t moved, rounds;       /* since it was armed */
    uint64_t armed_ps, ended_ps;
    uint32_t link;    /* the next descriptor, 0: none */
    bool owns;        /* memory; the firmware's touching it is a finding */
    wadi_trace trace; /* where it was armed, or set up where another channel armed it */
    bool by_hand;     /* armed by the firmware, not by another channel */
    bool was_ended, stack;
} dma_channel;

typedef struct dma_state {
    dma_channel ch[CHANNELS];
    unsigned n;
    unsigned flying; /* whose element is under way, or NOBODY */
    unsigned last;   /* who was served last */
    uint32_t value;  /* the element */
    bool ok;
    wad_event next;
    bool scheduled;
    uint64_t loading; /* clock cycles that descriptors take, still to pass */
    wad_dma_fn fn;
    void *ctx;
} dma_state;

/* A role that the chip may lack, or have once for all channels. */
static inline uint32_t dma_get(const wad_model *m, unsigned role, unsigned i)
{
    unsigned n = m->roles[role].count;
    return n ? wad_model_get(m, role, i < n ? i : 0) : 0;
}

static inline unsigned dma_bytes(const wad_model *m, unsigned i)
{
    return 1u << (wad_model_get(m, ROLE_size, i) & 3);
}

static inline bool dma_waits_for(const wad_model *m, const dma_channel *c)
{
    return m->roles[ROLE_request].count && c->code != wad_model_code(m, ROLE_request, "none", 0);
}

/** Bits of the window that the address on this side runs round in, 0: none. */
static inline unsigned dma_window(const wad_model *m, unsigned i, bool destination)
{
    uint32_t bits = dma_get(m, ROLE_wrap, i);
    return bits && (dma_get(m, ROLE_wrap_destination, i) != 0) == destination ? bits : 0;
}

/** The channel begins: armed by a write, by another channel, by a descriptor. */
void wadi_dma_begin(wad_model *m, unsigned i);
/** All elements are moved. */
void wadi_dma_round_over(wad_model *m, unsigned i);
void wadi_dma_half_over(wad_model *m, unsigned i);
/** It is armed no longer, however that came. */
void wadi_dma_disarm(wad_model *m, unsigned i);
/** Memory of the half (or all) that it works on now is its own. */
void wadi_dma_own(wad_model *m, unsigned i, bool on);

void wadi_dma_on_next(wad_event *e);
/** Something may be ready to move. */
void wadi_dma_kick(wad_model *m);
bool wadi_dma_is_ready(const wad_model *m, unsigned i);
void wadi_dma_tell(wad_model *m, unsigned i, wad_dma_what what);
void wadi_dma_tell_request(wad_model *m, uint32_t code, wad_dma_what what);

void wadi_dma_check_begin(wad_model *m, unsigned i);
void wadi_dma_check_moved(wad_model *m, unsigned i);
void wadi_dma_check_late(wad_model *m, unsigned i, const char *what);
void wadi_dma_check_keeps(wad_model *m, unsigned i);
void wadi_dma_check_stopped(wad_model *m, unsigned i);
void wadi_dma_check_lost(wad_model *m, unsigned i);
void wadi_dma_check_narrow(wad_model *m, unsigned i, uint32_t value);
void wadi_dma_failed(wad_model *m, unsigned i, uint32_t address, bool write);
void wadi_dma_ended(wad_model *m);

void wadi_dma_set_flag(wad_model *m, unsigned role, unsigned i);
/** The descriptor at an address. */
void wadi_dma_load_and_begin(wad_model *m, unsigned i, uint32_t at);
void wadi_dma_set_wants(wad_model *m, dma_channel *c, bool on);

#endif
