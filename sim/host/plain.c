/* SPDX-License-Identifier: MIT */
/*
 * Plain volatile C: the firmware loads and stores at the registers' real
 * addresses, in pages mapped there; the compiler's instrumentation calls in
 * before each access. Before a load the register's value is placed in the page.
 * A store is noted, and picked up from the page at the next call-in, before any
 * time passes.
 */
#include "plain.h"

#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>
#include <unistd.h>

#include "guard.h"
#include "sim/core/bus.h"
#include "sim/core/register.h"

#ifndef MAP_FIXED_NOREPLACE
#define MAP_FIXED_NOREPLACE 0x100000
#endif

/* ---- pages ---- */

static bool map_pages(uintptr_t start, uintptr_t end, char **why)
{
    void *at = mmap((void *)start, end - start, PROT_READ | PROT_WRITE,
                    MAP_PRIVATE | MAP_ANONYMOUS | MAP_FIXED_NOREPLACE | MAP_NORESERVE, -1, 0);
    if (at == (void *)start)
        return true;
    if (at != MAP_FAILED)
        munmap(at, end - start);
    *why = g_strdup_printf("cannot map the registers at 0x%llx: %s", (unsigned long long)start,
                           errno == EEXIST ? "another plain firmware runs in this process"
                                           : g_strerror(errno));
    return false;
}

/* Registers that are mapped, of whichever chip: a thread that has no chip must not touch them. */
static _Atomic uintptr_t mapped_start, mapped_end;

void wadi_plain_stray(uintptr_t address)
{
    if (address < mapped_start || address >= mapped_end)
        return;
    fputs("wadium: a thread that the firmware made touches registers: a chip has one core\n",
          stderr);
    abort();
}

bool wadi_plain_map(wad_sim *sim, char **why)
{
    uintptr_t page = (uintptr_t)sysconf(_SC_PAGESIZE), start = UINTPTR_MAX, end = 0;
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        const wad_instance *b = sim->sheet->blocks[i];
        start = MIN(start, (uintptr_t)b->base & ~(page - 1));
        end = MAX(end, ((uintptr_t)b->base + b->layout->size + page - 1) & ~(page - 1));
    }
    for (unsigned i = 0; i < sim->sheet->n_windows; i++) {
        const wad_window *w = &sim->sheet->windows[i];
        for (unsigned k = 0; k < w->n_blocks; k++)
            end = MAX(end, ((uintptr_t)(w->blocks[k]->base + w->at) + w->blocks[k]->layout->size +
                            page - 1) &
                               ~(page - 1));
        if (w->size) {
            start = MIN(start, (uintptr_t)w->at & ~(page - 1));
            end = MAX(end, ((uintptr_t)(w->at + w->size * 8 * w->step) + page - 1) & ~(page - 1));
        }
    }
    sim->plain.bias = wad_sheet_address_bias(sim->sheet);
    start += sim->plain.bias;
    end += sim->plain.bias;
    if (end <= start || !map_pages(start, end, why))
        return false;
    sim->plain.regs_start = start;
    sim->plain.regs_end = end;
    mapped_start = start;
    mapped_end = end;
    return true;
}

void wadi_plain_unmap(wad_sim *sim)
{
    if (sim->plain.regs_end)
        munmap((void *)sim->plain.regs_start, sim->plain.regs_end - sim->plain.regs_start);
    if (sim->plain.regs_end == mapped_end)
        mapped_start = mapped_end = 0;
    sim->plain.regs_start = sim->plain.regs_end = 0;
}

/* ---- accesses ---- */

static uint32_t load(uintptr_t address, unsigned bytes)
{
    uint32_t value = 0;
    if (bytes == 4)
        return *(const uint32_t *)address;
    memcpy(&value, (const void *)address, bytes);
    return value;
}

static void place(uintptr_t address, unsigned bytes, uint32_t value)
{
    memcpy((void *)address, &value, bytes);
}

/* Wider accesses than the bus are split, low address first. */
static unsigned step_of(const wad_sim *sim, unsigned bytes)
{
    return MIN(bytes, sim->sheet->bus_bits / 8u);
}

/* The host's memory is little-endian: of a wide access the part at the lower address is its low
 * one, where the chip has its high one. */
static unsigned part_at(const wad_sim *sim, unsigned at, unsigned bytes, unsigned step)
{
    return sim->sheet->big_endian ? bytes - step - at : at;
}

void wadi_plain_pick_up(wad_sim *sim)
{
    uintptr_t address = sim->plain.pending.address, pc = sim->call.pc;
    unsigned bytes = sim->plain.pending.bytes, step = step_of(sim, bytes);
    void *frame = sim->call.frame;
    sim->plain.pending.bytes = 0;
    if (bytes == WADI_ALARM) {
        wadi_guard_alarm(sim);
        return;
    }
    if (address - sim->plain.regs_start >= sim->plain.regs_end - sim->plain.regs_start) {
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_PICKED_UP, .address = address});
        return;
    }
    sim->call.pc = sim->plain.pending.pc;
    sim->call.frame = sim->plain.pending.frame;
    for (unsigned at = 0; at < bytes; at += step)
        wadi_bus_apply(sim, address + at - sim->plain.bias, step,
                       load(address + part_at(sim, at, bytes, step), step));
    sim->call.pc = pc;
    sim->call.frame = frame;
}

void wadi_plain_read_wide(wad_sim *sim, uintptr_t address, unsigned bytes)
{
    unsigned step = step_of(sim, bytes);
    for (unsigned at = 0; at < bytes; at += step)
        place(address + part_at(sim, at, bytes, step), step,
              wadi_bus_read(sim, address + at - sim->plain.bias, step));
}

/* A bit-field's store reads its surroundings first without telling: they are placed as well. */
static void place_surroundings(wad_sim *sim, uintptr_t address)
{
    uint32_t value;
    const wadi_slot *slot = wadi_bus_slot(sim, address - sim->plain.bias, true);
    if (slot && wad_sim_peek(sim, slot->address, &value))
        place((uintptr_t)slot->address + sim->plain.bias, slot->bytes, value);
}

void wadi_plain_write(wad_sim *sim, uintptr_t address, unsigned bytes)
{
    uintptr_t pc = sim->call.pc;
    void *frame = sim->call.frame;
    if (__builtin_expect(sim->ears & WADI_EAR_CALL_IN, 0))
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_CALL_IN, .address = address - sim->plain.bias});
    wadi_cpu_access(sim);
    if (bytes < sim->sheet->bus_bits / 8u)
        place_surroundings(sim, address);
    sim->plain.pending.address = address;
    sim->plain.pending.bytes = bytes;
    sim->plain.pending.pc = pc;
    sim->plain.pending.frame = frame;
}
