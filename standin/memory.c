/* SPDX-License-Identifier: MIT */
/* Memory as a debugger reads and writes it: registers by whole accesses, which have the side
 * effects that they have for the core. */
#include "memory.h"

#include <string.h>

#include "sim/core/bus.h"
#include "sim/core/master.h"
#include "sim/core/register.h"
#include "sim/core/sim.h"

static const wadi_trace by_debugger;

/* The widest access that the rest of the range and its address allow: a register's own. */
static unsigned width(const wad_sim *sim, uint64_t address, size_t left, bool write)
{
    const wadi_cell *cell = wadi_find_cell(sim, address);
    const wadi_slot *slot = !cell ? NULL : write ? cell->wr : cell->rd;
    if (!slot)
        return 0;
    unsigned own = slot->bytes;
    if (slot->address == address && own <= left)
        return own;
    return own > 1 && address % 2 == 0 && left >= 2 ? 2 : 1;
}

bool wadi_debug_read(wad_sim *sim, const uint8_t *memory, uint64_t address, uint8_t *bytes,
                     size_t n)
{
    if (memory)
        memcpy(bytes, memory, n);
    for (size_t at = 0; !memory && at < n;) {
        unsigned w = width(sim, address + at, n - at, false);
        uint32_t value = 0;
        if (!w) { /* between registers nothing answers; a range that touches one reads as zero */
            if (n <= 4)
                return false;
            bytes[at++] = 0;
            continue;
        }
        if (!wadi_master_read(sim, &by_debugger, address + at, w, &value))
            return false;
        memcpy(bytes + at, &value, w);
        at += w;
    }
    return true;
}

bool wadi_debug_write(wad_sim *sim, uint8_t *memory, uint64_t address, const uint8_t *bytes,
                      size_t n)
{
    if (memory)
        memcpy(memory, bytes, n);
    for (size_t at = 0; !memory && at < n;) {
        unsigned w = width(sim, address + at, n - at, true);
        uint32_t value = 0;
        if (!w)
            return false;
        memcpy(&value, bytes + at, w);
        if (!wadi_master_write(sim, &by_debugger, address + at, w, value))
            return false;
        at += w;
    }
    return true;
}
