/* SPDX-License-Identifier: MIT */
/*
 * A core that executes the target's own machine code on the simulated chip: memory, exceptions,
 * sleep, breakpoints; halted and stepped from outside.
 */
#ifndef WADI_BOARD_CORE_H
#define WADI_BOARD_CORE_H

#include "thumb.h"
#include "wadium/host/remote.h"
#include "wadium/host/sim.h"

typedef struct wadi_core wadi_core;

/** NULL: the chip's core is another one; `why`. Attaches itself to the chip. */
wadi_core *wadi_core_new(wad_sim *sim, char **why);
void wadi_core_free(wadi_core *c);

/** Puts an ELF file's bytes into memory. False: `why`. */
bool wadi_core_load(wadi_core *c, const char *elf, char **why);

/** `look` is called between two instructions when a look was asked for, and over and over while
 * the core is halted: it lets time pass. */
void wadi_core_on_look(wadi_core *c, void (*look)(void *ctx), void *ctx);
void wadi_core_ask_look(wadi_core *c);

/** Halted, locked up or without a clock, it executes nothing; time, peripherals and DMA controllers
 * go on. */
void wadi_core_halt(wadi_core *c);
void wadi_core_go(wadi_core *c, bool step);
bool wadi_core_halted(const wadi_core *c);
/** Why it halted by itself: a signal (5 breakpoint or step, 11 fault that cannot be taken), or the
 * kind and address of a watchpoint; 0: it did not. Forgotten by the call. */
unsigned wadi_core_why(wadi_core *c, bool *watch, wad_remote_point *kind, uint64_t *address);

/** A debugger is there: breakpoint instructions halt the core, else they are faults. */
void wadi_core_debugged(wadi_core *c, bool on);

/** Registers 0 to 15, then these. */
enum {
    WADI_CORE_STATUS = 16,
    WADI_CORE_MAIN_SP,
    WADI_CORE_PROCESS_SP,
    WADI_CORE_MASK,
    WADI_CORE_CONTROL
};
uint32_t wadi_core_register(const wadi_core *c, unsigned number);
void wadi_core_set_register(wadi_core *c, unsigned number, uint32_t value);
bool wadi_core_read(wadi_core *c, uint64_t address, uint8_t *bytes, size_t n);
bool wadi_core_write(wadi_core *c, uint64_t address, const uint8_t *bytes, size_t n);
bool wadi_core_point(wadi_core *c, wad_remote_point kind, uint64_t address, unsigned bytes,
                     bool on);
/** From the look: the chip begins anew, as by its reset pin; does not return. */
void wadi_core_reset(wadi_core *c) __attribute__((noreturn));

#endif
