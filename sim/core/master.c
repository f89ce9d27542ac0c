/* SPDX-License-Identifier: MIT */
/*
 * Accesses by another master than the core: to registers as the core's, but on behalf of the place
 * that set the transfer up, and without the core's time; to memory where the firmware has it.
 */
#include "master.h"

#include <string.h>

#include "bus.h"
#include "register.h"
#include "report.h"
#include "sim.h"

/* ---- memory ---- */

/* Chips of 16 bits see the window of 64 KiB that holds the firmware's variables. */
#define NARROW(sim) ((sim)->sheet->bus_bits < 32)

static uintptr_t host_of(const wad_sim *sim, uint64_t address)
{
    const wadi_firmware *fw = &sim->host.fw;
    uintptr_t host = (uintptr_t)address + fw->window;
    if (NARROW(sim) || (host >= fw->start && host < fw->end))
        return host;
    return (uintptr_t)address; /* the stack */
}

static bool lies_in(uintptr_t host, size_t bytes, uintptr_t start, uintptr_t end)
{
    return host >= start && host < end && bytes <= end - host;
}

/* That a core has which executes the target's own code. */
static void *given_memory(const wad_sim *sim, uint64_t address, size_t bytes, bool write)
{
    for (guint i = 0; i < sim->host.memories->len; i++) {
        const wadi_memory *m = &g_array_index(sim->host.memories, wadi_memory, i);
        if (address >= m->base && address - m->base < m->size &&
            bytes <= m->size - (address - m->base))
            return !write || m->writable ? m->bytes + (address - m->base) : NULL;
    }
    return NULL;
}

void wad_sim_give_memory(wad_sim *sim, uint64_t base, void *bytes, uint64_t size, bool writable)
{
    const wadi_memory m = {base, size, bytes, writable};
    if (!sim->host.memories)
        sim->host.memories = g_array_new(FALSE, FALSE, sizeof m);
    g_array_append_val(sim->host.memories, m);
}

void *wadi_master_memory(wad_sim *sim, uint64_t address, size_t bytes, bool write)
{
    const wadi_firmware *fw = &sim->host.fw;
    if (sim->host.memories)
        return given_memory(sim, address, bytes, write);
    uintptr_t host = host_of(sim, address);
    if (NARROW(sim) && address + bytes > 0x10000)
        return NULL;
    if (lies_in(host, bytes, write ? fw->data_start : fw->start, write ? fw->data_end : fw->end) ||
        (wadi_on_stack(sim, (void *)(host & ~(uintptr_t)7)) &&
         wadi_on_stack(sim, (void *)((host + bytes - 1) & ~(uintptr_t)7))))
        return (void *)host;
    return NULL;
}

const void *wad_sim_memory(wad_sim *sim, uint64_t address, size_t bytes)
{
    return wadi_master_memory(sim, address, bytes, false);
}

uint32_t wadi_bus_address(const wad_sim *sim, uintptr_t host)
{
    const wadi_firmware *fw = &sim->host.fw;
    if (host >= fw->start && host < fw->end)
        return host - fw->window < (NARROW(sim) ? 0x10000u : UINT32_MAX)
                   ? (uint32_t)(host - fw->window)
                   : 0;
    return NARROW(sim) && host >= 0x10000 ? 0 : (uint32_t)host; /* a register, or the stack */
}

/* ---- accesses ---- */

static const wadi_slot *slot_at(wad_sim *sim, uint64_t address, bool write)
{
    return wadi_bus_slot(sim, address, write);
}

/* A register gives all that it has, and takes the rest as 0. */
static unsigned width_at(const wadi_slot *slot, uint64_t address, unsigned bytes)
{
    return slot->address == address ? MAX(slot->bytes, bytes) : bytes;
}

static bool reaches_bus(const wad_sim *sim, uint64_t address, unsigned bytes)
{
    return !(address & (bytes - 1)) && bytes * 8 <= sim->sheet->bus_bits;
}

bool wadi_master_read(wad_sim *sim, const wadi_trace *as, uint64_t address, unsigned bytes,
                      uint32_t *value)
{
    *value = 0;
    if (!reaches_bus(sim, address, bytes))
        return false;
    const wadi_slot *slot = slot_at(sim, address, false);
    if (slot) {
        __typeof__(sim->last_read) kept = sim->last_read;
        sim->bus.master = as;
        *value = wadi_bus_fetch(sim, address, width_at(slot, address, bytes));
        sim->bus.master = NULL;
        sim->last_read = kept;
        return true;
    }
    const void *memory = wadi_master_memory(sim, address, bytes, false);
    if (memory)
        memcpy(value, memory, bytes);
    return memory != NULL;
}

bool wadi_master_write(wad_sim *sim, const wadi_trace *as, uint64_t address, unsigned bytes,
                       uint32_t value)
{
    if (!reaches_bus(sim, address, bytes))
        return false;
    const wadi_slot *slot = slot_at(sim, address, true);
    if (slot) {
        __typeof__(sim->last_read) kept = sim->last_read;
        sim->bus.master = as;
        sim->last_read.slot = NULL;
        wadi_bus_apply(sim, address, width_at(slot, address, bytes), value);
        sim->bus.master = NULL;
        sim->last_read = kept;
        return true;
    }
    void *memory = wadi_master_memory(sim, address, bytes, true);
    if (memory)
        memcpy(memory, &value, bytes);
    return memory != NULL;
}
