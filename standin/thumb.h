/* SPDX-License-Identifier: MIT */
/* ARMv6-M instructions, one at a time. Memory is the caller's; so are exceptions and time. */
#ifndef WADI_BOARD_THUMB_H
#define WADI_BOARD_THUMB_H

#include <stdbool.h>
#include <stdint.h>

enum { THUMB_SP = 13, THUMB_LR = 14, THUMB_PC = 15 };

typedef struct thumb {
    uint32_t r[16];    /* 13: the stack pointer in use */
    uint32_t other_sp; /* the one that is not: the process's, or main's while that is in use */
    bool n, z, c, v;
    bool state;         /* Thumb: what else there is in the architecture this core has not */
    bool masked;        /* interrupts are: cpsid */
    bool process_stack; /* of main: the process's stack pointer is in use there */
    bool unprivileged;  /* main is */
    bool event;         /* something happened since the last wait for an event */
    unsigned exception; /* its number; 0: none is served */
    bool faulted;       /* a load or store did not answer */
    unsigned cycles;    /* that the last instruction took, its register accesses' own left out */
    uint32_t returns;   /* with what an exception returns, of THUMB_RETURN */
    /** Of `bytes` (1, 2, 4) at an aligned address; false: nothing answers there. */
    bool (*load)(void *ctx, uint32_t address, unsigned bytes, uint32_t *value);
    bool (*store)(void *ctx, uint32_t address, unsigned bytes, uint32_t value);
    void *ctx;
} thumb;

typedef enum thumb_event {
    THUMB_DONE,
    THUMB_FAULT,      /* nothing answers, an odd address, or a jump to what is no Thumb code */
    THUMB_UNKNOWN,    /* no instruction of this core, or one whose effect is not said */
    THUMB_WAIT,       /* it waits for an interrupt */
    THUMB_WAIT_EVENT, /* it waits for an event */
    THUMB_BREAK,      /* a breakpoint instruction; the program counter stands at it */
    THUMB_SERVICE,    /* a supervisor call */
    THUMB_RETURN      /* of an exception */
} thumb_event;

/** Where it faults, and at an unknown instruction, nothing has changed but memory that was stored
 * to. */
thumb_event thumb_step(thumb *m);

/** Flags and exception as the program status register holds them, and back. */
uint32_t thumb_status(const thumb *m);
void thumb_set_status(thumb *m, uint32_t status);

/** Main's and the process's stack pointer, whichever is in use. */
uint32_t thumb_main_sp(const thumb *m);
uint32_t thumb_process_sp(const thumb *m);
void thumb_set_main_sp(thumb *m, uint32_t value);
void thumb_set_process_sp(thumb *m, uint32_t value);
/** The CONTROL register: bit 0 unprivileged, bit 1 the process's stack. */
uint32_t thumb_control(const thumb *m);
/** Which stack pointer is in use from now on, the other one is kept. */
void thumb_use_stack(thumb *m, bool process);

#endif
