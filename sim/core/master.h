/* SPDX-License-Identifier: MIT */
/* Accesses by others than the core. */
#ifndef WADI_MASTER_H
#define WADI_MASTER_H

#include "trace.h"
#include "wadium/host/sim.h"

/* The chip's memory, as bytes of the host. */
typedef struct wadi_memory {
    uint64_t base, size;
    uint8_t *bytes;
    bool writable;
} wadi_memory;

/** The host's address of `bytes` of memory at a bus address, NULL: there is none (to write). */
void *wadi_master_memory(wad_sim *sim, uint64_t address, size_t bytes, bool write);

/** False: nothing is there, or it is misaligned. Findings name `as`. Of a wider register all bits
 * are read. */
bool wadi_master_read(wad_sim *sim, const wadi_trace *as, uint64_t address, unsigned bytes,
                      uint32_t *value);

bool wadi_master_write(wad_sim *sim, const wadi_trace *as, uint64_t address, unsigned bytes,
                       uint32_t value);

/** The bus address of the firmware's own; 0: the bus does not reach it. */
uint32_t wadi_bus_address(const wad_sim *sim, uintptr_t host);

#endif
