/* SPDX-License-Identifier: MIT */
/* The bus: from addresses to registers. */
#ifndef WADI_BUS_H
#define WADI_BUS_H

#include "cpu.h"
#include "register.h"
#include "sim.h"

/* One bus address: what reads there and what is written there. */
typedef struct wadi_cell {
    wadi_slot *rd, *wr;
} wadi_cell;

#define WADI_PAGE_BITS 12

typedef struct wadi_page {
    wadi_cell cell[1 << WADI_PAGE_BITS]; /* by bus words of the chip */
} wadi_page;

#define WADI_PAGES(sim) (1u << (32 - WADI_PAGE_BITS - (sim)->word_shift))

/** A read whose time was charged already. */
uint32_t wadi_bus_fetch(wad_sim *sim, uint64_t address, unsigned bytes);
void wadi_bus_write(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value);

/** A write whose time was charged already. */
void wadi_bus_apply(wad_sim *sim, uint64_t address, unsigned bytes, uint32_t value);

/** A write that was under way arrives. */
void wadi_bus_arrives(wad_event *event);

/** The register at an address, for reading or writing; NULL for none. */
wadi_slot *wadi_bus_slot(wad_sim *sim, uint64_t address, bool write);

static inline wadi_cell *wadi_find_cell(const wad_sim *sim, uint64_t address)
{
    uint64_t word = address >> sim->word_shift;
    if (word >> 32)
        return NULL;
    wadi_page *page = sim->pages[word >> WADI_PAGE_BITS];
    return page ? &page->cell[word & ((1u << WADI_PAGE_BITS) - 1)] : NULL;
}

/* Most reads want a stored value of a block that runs: those make no call. */
static inline uint32_t wadi_bus_read(wad_sim *sim, uint64_t address, unsigned bytes)
{
    if (__builtin_expect(sim->ears & WADI_EAR_CALL_IN, 0))
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_CALL_IN, .address = address});
    wadi_cpu_access(sim);
    const wadi_cell *cell = wadi_find_cell(sim, address);
    wadi_slot *slot = cell ? cell->rd : NULL;
    if (__builtin_expect(!slot || slot->quick != bytes || slot->address != address ||
                             sim->ears & WADI_EAR_ALL_READS,
                         0))
        return wadi_bus_fetch(sim, address, bytes);
    sim->last_read.slot = slot;
    return slot->value & slot->readable;
}

#endif
