/* SPDX-License-Identifier: MIT */
/* Firmware of plain volatile C. */
#ifndef WADI_PLAIN_H
#define WADI_PLAIN_H

#include "sim/core/bus.h"
#include "sim/core/sim.h"

/** A plain access outside of a chip's run; ends the process where it is one to a chip's registers.
 */
void wadi_plain_stray(uintptr_t address);

/** Maps the chip's register pages at their real addresses; false: `why` (g_free). */
bool wadi_plain_map(wad_sim *sim, char **why);
void wadi_plain_unmap(wad_sim *sim);

/** Carries out the write that waits in memory. */
void wadi_plain_pick_up(wad_sim *sim);

/** An access wider than the bus, piece by piece. */
void wadi_plain_read_wide(wad_sim *sim, uintptr_t address, unsigned bytes);

/** Before the firmware's own load: the value is placed where it will look. Inlined by force: it is
 * the path of each access, and whether the compiler does so by itself changes with its callers. */
static inline __attribute__((always_inline)) void wadi_plain_read(wad_sim *sim, uintptr_t address,
                                                                  unsigned bytes)
{
    if (bytes * 8 > sim->sheet->bus_bits) {
        wadi_plain_read_wide(sim, address, bytes);
        return;
    }
    uint32_t value = wadi_bus_read(sim, address - sim->plain.bias, bytes);
    __builtin_memcpy((void *)address, &value, bytes <= 4 ? bytes : 4);
}

/** Before the firmware's own store: noted, and picked up at the next call-in. */
void wadi_plain_write(wad_sim *sim, uintptr_t address, unsigned bytes);

#endif
