/* SPDX-License-Identifier: MIT */
/* Rings of bytes between main and a handler: what takes more than a line. */
#include WAD_CHIP

#include <wadium/ring.h>

size_t wadi_ring_take(const wad_ring *ring, size_t held, void *data, size_t n)
{
    uint8_t *bytes = data;
    wad_index taken = ring->at->taken;
    if (n > held)
        n = held;
    for (size_t i = 0; i < n; i++, taken++)
        bytes[i] = ring->data[taken & ring->mask];
    ring->at->taken = taken;
    return n;
}

size_t wadi_ring_read(const wad_ring *ring, void *data, size_t n)
{
    return wadi_ring_take(ring, wadi_ring_held(ring), data, n);
}

int wadi_ring_line(const wad_ring *ring, size_t held, char *line, size_t room, char end)
{
    wad_index at = ring->at->taken;
    size_t n = 0;
    while (n < held && n + 1u < room && ring->data[at & ring->mask] != (uint8_t)end) {
        n++;
        at++;
    }
    bool whole = n < held && ring->data[at & ring->mask] == (uint8_t)end;
    if (room < 2u || (!whole && n + 1u < room && n <= ring->mask))
        return -1;
    n = wadi_ring_take(ring, held, line, n);
    line[n] = 0;
    if (whole)
        ring->at->taken = (wad_index)(ring->at->taken + 1u);
    return (int)n;
}
