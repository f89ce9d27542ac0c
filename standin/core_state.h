/* SPDX-License-Identifier: MIT */
/* The stand-in's core in memory, and what its loop asks of memory and exceptions. */
#ifndef WADI_CORE_STATE_H
#define WADI_CORE_STATE_H

#include "core.h"
#include "memory.h"
#include "sim/core/cpu.h"
#include "sim/core/interrupt.h"
#include "sim/core/sim.h"

/* The core's own registers, as the architecture has them. */
#define TABLE_OFFSET  0xE000ED08u /* where the vectors lie */
#define RESET_CONTROL 0xE000ED0Cu
#define RESET_WORD    0x05FA0004u

#define FIRST_LINE 16u /* exceptions before the chip's lines */
#define HARD_FAULT 3u
#define SERVICE    11u
#define NESTED     32u /* services at most: one for each priority, and faults */
#define BATCH      64u /* cycles that the chip's time may be behind, without an event in them */

typedef struct point {
    uint64_t address;
    unsigned bytes;
    wad_remote_point kind;
} point;

struct wadi_core {
    thumb m;
    wad_sim *sim;
    GArray *memories; /* wadi_memory, this one owns their bytes */
    GArray *points;
    uint32_t table;
    uint64_t owed; /* cycles not charged yet */
    wadi_service services[NESTED];
    unsigned exceptions[NESTED]; /* number of each that is served, outermost first */
    unsigned outer[NESTED];      /* the priority that each of them interrupted */
    unsigned depth;
    bool asleep, for_event; /* it waits for an event, not for any interrupt */
    bool locked_up;
    bool halted, stepping, look_asked, debugged;
    bool began_at_point; /* the instruction at the breakpoint that it stopped at is executed */
    unsigned why;
    bool watch;
    point hit;
    void (*look)(void *ctx);
    void *look_ctx;
};

void wadi_core_settle(wadi_core *c);
void wadi_core_spend(wadi_core *c, unsigned cycles);
uint8_t *wadi_core_memory_at(const wadi_core *c, uint64_t address, size_t n, bool write);
bool wadi_core_load_word(void *ctx, uint32_t address, unsigned bytes, uint32_t *value);
bool wadi_core_store_word(void *ctx, uint32_t address, unsigned bytes, uint32_t value);
uint32_t wadi_core_word_at(wadi_core *c, uint32_t address);
bool wadi_core_in_fault(const wadi_core *c);
void wadi_core_fault(wadi_core *c);
void wadi_core_call_service(wadi_core *c);
bool wadi_core_interrupt_is_due(const wadi_core *c);
void wadi_core_interrupt(wadi_core *c);
void wadi_core_drop_handler(wadi_core *c);
void wadi_core_leave(wadi_core *c, uint32_t returns);

#endif
