/* SPDX-License-Identifier: MIT */
/* The queue of a port: as deep as the chip says. */
#ifndef WADI_FIFO_H
#define WADI_FIFO_H

#include <stdbool.h>
#include <stdint.h>

#include "sheet/chip/kinds.h"

#define WADI_FIFO_DEEPEST WADI_DEEPEST_QUEUE

typedef struct wadi_fifo {
    uint32_t item[WADI_FIFO_DEEPEST];
    unsigned first, n, depth;
} wadi_fifo;

/** False: it is full. */
static inline bool wadi_fifo_put(wadi_fifo *f, uint32_t item)
{
    if (f->n == f->depth)
        return false;
    f->item[(f->first + f->n++) % WADI_FIFO_DEEPEST] = item;
    return true;
}

/** The oldest one; there must be one. */
static inline uint32_t wadi_fifo_take(wadi_fifo *f)
{
    uint32_t item = f->item[f->first];
    f->first = (f->first + 1) % WADI_FIFO_DEEPEST;
    f->n--;
    return item;
}

#endif
