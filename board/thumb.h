/* SPDX-License-Identifier: MIT */
/* ARMv6-M instructions, one at a time. Memory is the caller's; so are exceptions and time. */
#ifndef WADI_BOARD_THUMB_H
#define WADI_BOARD_THUMB_H

#include <stdbool.h>
#include <stdint.h>

enum { THUMB_SP = 13, THUMB_LR = 14, THUMB_PC = 15 };

/* Addresses from here on are no code: a jump there ends an exception. */
#define THUMB_RETURN_FROM 0xFFFFFFE0u

typedef struct thumb {
    uint32_t r[16];
    bool n, z, c, v;
    bool masked;        /* interrupts are: cpsid */
    unsigned exception; /* its number; 0: none is served */
    bool faulted;       /* a load or store did not answer */
    unsigned cycles;    /* that the last instruction took, its register accesses' own left out */
    /** Of `bytes` (1, 2, 4) at an aligned address; false: nothing answers there. */
    bool (*load)(void *ctx, uint32_t address, unsigned bytes, uint32_t *value);
    bool (*store)(void *ctx, uint32_t address, unsigned bytes, uint32_t value);
    void *ctx;
} thumb;

typedef enum thumb_event {
    THUMB_DONE,
    THUMB_FAULT,   /* nothing answers, or an odd address */
    THUMB_UNKNOWN, /* no instruction of this core */
    THUMB_WAIT,    /* it waits for an interrupt */
    THUMB_BREAK,   /* a breakpoint instruction; the program counter stands at it */
    THUMB_SERVICE, /* a supervisor call */
    THUMB_RETURN   /* of an exception */
} thumb_event;

thumb_event thumb_step(thumb *m);
/** Flags and exception as the program status register holds them, and back. */
uint32_t thumb_status(const thumb *m);
void thumb_set_status(thumb *m, uint32_t status);

#endif
