/* SPDX-License-Identifier: MIT */
/*
 * Rings of bytes between main and a handler.
 *
 *     static uint8_t in[64];
 *     static const wad_uart link = {..., .in = WAD_RING(in)};
 *
 * One side puts, the other takes, and neither masks the other: each index has one writer, and both
 * are as wide as the chip's core reads at once, so that none is ever read in halves. Indices count
 * on without end; the bytes are volatile like them, which keeps the compiler from moving one past
 * the other.
 */
#ifndef WADIUM_RING_H
#define WADIUM_RING_H

#include <stddef.h>
#include <stdint.h>

/* The chip's header says how wide its bus is. */
#if defined(WADI_BUS_BITS) && WADI_BUS_BITS == 8
typedef uint8_t wad_index;
#define WADI_MOST_RING 128u
#elif defined(WADI_BUS_BITS) && WADI_BUS_BITS == 16
typedef uint16_t wad_index;
#define WADI_MOST_RING 32768u
#else
typedef uint32_t wad_index;
#define WADI_MOST_RING 65536u
#endif

/* What main and handler share of a ring. */
struct wadi_ring_at {
    volatile wad_index put, taken;
};

/** A ring: an object of its own, made by WAD_RING. */
typedef struct wad_ring {
    volatile uint8_t *data;
    wad_index mask; /**< size - 1 */
    struct wadi_ring_at *at;
} wad_ring;

#define WADI_CHECK(condition, text)                                                                \
    (0u * sizeof(struct {                                                                          \
         int x;                                                                                    \
         _Static_assert(condition, text);                                                          \
     }))

/** Of an array of bytes whose size is a power of 2, from 2 to 65536 (32768 on a 16-bit chip, 128 on
 * one of 8 bits); else the build ends. In a file of its own only: in a shared header each file
 * would have another ring over the same bytes. */
#define WAD_RING(array)                                                                            \
    &(const wad_ring)                                                                              \
    {                                                                                              \
        (array),                                                                                   \
            (wad_index)(sizeof(array) - 1u +                                                       \
                        WADI_CHECK(sizeof(array) >= 2u && sizeof(array) <= WADI_MOST_RING &&       \
                                       !(sizeof(array) & (sizeof(array) - 1u)),                    \
                                   "the size of a ring is a power of 2, from 2 to what "           \
                                   "<wadium/ring.h> says")),                                       \
            &(struct wadi_ring_at)                                                                 \
        {                                                                                          \
            0, 0                                                                                   \
        }                                                                                          \
    }

/* Bytes between two indices of one ring. */
static inline __attribute__((always_inline)) size_t wadi_ring_between(wad_index from, wad_index to)
{
    return (size_t)(wad_index)(to - from);
}

static inline __attribute__((always_inline)) size_t wadi_ring_held(const wad_ring *ring)
{
    return wadi_ring_between(ring->at->taken, ring->at->put);
}

static inline __attribute__((always_inline)) size_t wadi_ring_room(const wad_ring *ring)
{
    return (size_t)ring->mask + 1u - wadi_ring_held(ring);
}

/* Puts as many of `n` bytes as there is room for; how many. One at a time. */
static inline __attribute__((always_inline)) size_t wadi_ring_put(const wad_ring *ring,
                                                                  const uint8_t *data, size_t n)
{
    wad_index put = ring->at->put;
    size_t room = (size_t)ring->mask + 1u - wadi_ring_between(ring->at->taken, put);
    if (n > room)
        n = room;
    for (size_t i = 0; i < n; i++, put++)
        ring->data[put & ring->mask] = data[i];
    ring->at->put = put;
    return n;
}

/* Both begin anew: nobody may be at it. */
static inline void wadi_ring_empty(const wad_ring *ring)
{
    ring->at->put = ring->at->taken = 0;
}

/* Takes up to `n` of the `held` bytes; how many. */
size_t wadi_ring_take(const wad_ring *ring, size_t held, void *data, size_t n);

/* The same of what it holds. */
size_t wadi_ring_read(const wad_ring *ring, void *data, size_t n);

/* A line of those bytes, without its end and with a 0 behind it; -1: not whole yet. */
int wadi_ring_line(const wad_ring *ring, size_t held, char *line, size_t room, char end);

#endif
