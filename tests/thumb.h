/* SPDX-License-Identifier: MIT */
/*
 * Runs ARMv6-M code as its disassembly reads, to learn which registers a target's build touches.
 * For the tests only: it knows what compilers emit for plain C, and times nothing.
 */
#ifndef THUMB_H
#define THUMB_H

#include <stdbool.h>
#include <stdint.h>

typedef struct thumb_bus {
    /** A load or store of `bytes` outside of RAM and code; false ends the run. */
    bool (*load)(void *ctx, uint32_t address, unsigned bytes, uint32_t *value);
    bool (*store)(void *ctx, uint32_t address, unsigned bytes, uint32_t value);
    void *ctx;
} thumb_bus;

typedef enum thumb_end { THUMB_IRQ_ON, THUMB_BUS, THUMB_UNKNOWN, THUMB_TOO_LONG } thumb_end;

/** Runs the ELF file's `main` until it opens interrupts (cpsie), the bus ends it, or `steps` are
 * over. `at` is the address of the last instruction. */
thumb_end thumb_run(const char *elf, const thumb_bus *bus, uint64_t steps, uint32_t *at);

#endif
