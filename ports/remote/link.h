/* SPDX-License-Identifier: MIT */
/* The way from the desk to the board: one for the program. */
#ifndef WADI_PORT_REMOTE_LINK_H
#define WADI_PORT_REMOTE_LINK_H

#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

typedef struct wadi_link_options {
    const char *where;
    const char *sheet; /* path; NULL: found by the firmware's chip */
    bool shadow;       /* registers that only writes change are read from memory here */
    bool batch;        /* writes do not wait for each other */
    bool any_chip;
    bool as_it_is;  /* the chip is not reset first */
    double seconds; /* ends after so long; 0: when main returns */
    FILE *trace;    /* accesses as CSV; NULL: none */
} wadi_link_options;

typedef struct wadi_link_counts {
    uint64_t reads, writes; /* of the firmware */
    uint64_t from_shadow;   /* reads that did not go to the board */
    uint64_t looks;         /* for pending interrupts */
    uint64_t handlers;
    double seconds;
} wadi_link_counts;

/** Connects, and identifies the chip. False: it said why. */
bool wadi_link_open(const wadi_link_options *options);
wadi_link_counts wadi_link_close(void);
/** Leaves the firmware: its time is up, or something failed. */
void wadi_link_end(int status) __attribute__((noreturn));

uint32_t wadi_link_read(uint64_t address, unsigned bytes);
void wadi_link_write(uint64_t address, unsigned bytes, uint32_t value);

/* ---- interrupts, by looking ---- */
bool wadi_link_masked(void);
void wadi_link_mask(bool on);
/** Serves what is pending and enabled, if the mask is open; true when something was. */
bool wadi_link_serve(void);
/** Until something is pending and enabled, masked or not. */
void wadi_link_sleep(void);

#endif
