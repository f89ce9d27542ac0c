/* SPDX-License-Identifier: MIT */
/*
 * A frame that goes over a wire bit by bit: 2 changes of the clock a bit. Phase 0: a bit stands on
 * the wire from the begin, is taken at the first change and followed by the next bit at the second;
 * phase 1: it comes with the first change and is taken at the second.
 */
#ifndef WADI_SHIFT_H
#define WADI_SHIFT_H

#include <stdbool.h>
#include <stdint.h>

typedef struct wadi_shift {
    unsigned bits, edge; /* of the frame; changes so far */
    bool phase, lsb_first;
    uint32_t out, in;
} wadi_shift;

static inline void wadi_shift_begin(wadi_shift *s, unsigned bits, uint32_t out)
{
    s->bits = bits;
    s->out = out;
    s->in = 0;
    s->edge = 0;
}

static inline unsigned wadi_shift_place(const wadi_shift *s, unsigned i)
{
    return s->lsb_first ? i : s->bits - 1 - i;
}

static inline bool wadi_shift_bit(const wadi_shift *s, unsigned i)
{
    return s->out >> wadi_shift_place(s, i) & 1;
}

/* A bit is taken at change `k`; else the next one is shown. */
static inline bool wadi_shift_takes(const wadi_shift *s, unsigned k)
{
    return (k & 1) == s->phase;
}

static inline void wadi_shift_take(wadi_shift *s, unsigned k, bool level)
{
    s->in |= (uint32_t)level << wadi_shift_place(s, k / 2);
}

/* The bit to show after change `k`; -1: none. */
static inline int wadi_shift_next(const wadi_shift *s, unsigned k)
{
    unsigned i = s->phase ? k / 2 : (k + 1) / 2;
    return wadi_shift_takes(s, k) || i >= s->bits ? -1 : (int)i;
}

static inline bool wadi_shift_over(const wadi_shift *s)
{
    return s->edge >= 2 * s->bits;
}

#endif
