/* SPDX-License-Identifier: MIT */
/*
 * Findings: misuse of registers, interrupts and pins that silicon keeps quiet about.
 *
 *     for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
 *         wad_finding_print(sim, wad_sim_finding(sim, i), stdout);
 *
 * Numbers are stable: a script may match on them. docs/findings.md tells each
 * one's meaning and cure; it is generated from this list.
 */
#ifndef WADIUM_HOST_FINDING_H
#define WADIUM_HOST_FINDING_H

#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

#include "findings/analog.h"
#include "findings/block.h"
#include "findings/clock.h"
#include "findings/dma.h"
#include "findings/interrupt.h"
#include "findings/pin.h"
#include "findings/race.h"
#include "findings/register.h"
#include "findings/run.h"
#include "findings/serial.h"
#include "findings/sleep.h"
#include "findings/spi.h"

/* X(NAME, number, "what it is", "what silicon does, and the cure"), by who makes them */
#define WAD_FINDINGS(X)                                                                            \
    WAD_FINDINGS_CLOCK(X)                                                                          \
    WAD_FINDINGS_REGISTER(X)                                                                       \
    WAD_FINDINGS_INTERRUPT(X)                                                                      \
    WAD_FINDINGS_BLOCK(X)                                                                          \
    WAD_FINDINGS_PIN(X)                                                                            \
    WAD_FINDINGS_RUN(X)                                                                            \
    WAD_FINDINGS_SERIAL(X)                                                                         \
    WAD_FINDINGS_SPI(X)                                                                            \
    WAD_FINDINGS_ANALOG(X)                                                                         \
    WAD_FINDINGS_SLEEP(X)                                                                          \
    WAD_FINDINGS_DMA(X)                                                                            \
    WAD_FINDINGS_RACE(X)

typedef enum wad_finding_kind {
#define WAD_FINDING_KIND(name, number, what, cure) WAD_FINDING_##name = number,
    WAD_FINDINGS(WAD_FINDING_KIND)
#undef WAD_FINDING_KIND
} wad_finding_kind;

/** A place in the firmware's source; NULL and 0 where unknown. */
typedef struct wad_place {
    const char *function;
    const char *file;
    unsigned line;
} wad_place;

/** `wanted` is the path, or its end from a folder's or the file's name on: "main.c" is not
 * "domain.c". */
bool wad_place_is_in(const char *path, const char *wanted);

#define WAD_FINDING_PLACES 6

typedef struct wad_finding {
    wad_finding_kind kind;
    const char *what; /**< one line, with register, field and value */
    const char *hint; /**< the cure, with the datasheet's reference where the sheet has one */
    uint64_t first_ps;
    uint64_t last_ps;
    unsigned count;
    /** Where: the user's own line first, then its callers; library frames inside it are left out.
     */
    wad_place places[WAD_FINDING_PLACES];
    unsigned n_places;
    /** The register with the value that was written (or stood there) and the bits in question;
     * `bits` 0: none to show. */
    const struct wad_register *reg;
    uint32_t reg_index;
    uint64_t value, bits;
} wad_finding;

/** "clock gated", ... for a number; NULL for an unknown one. */
const char *wad_finding_title(wad_finding_kind kind);
const char *wad_finding_cure(wad_finding_kind kind);

/** Text as the command line shows it, the source line quoted. */
void wad_finding_print(const wad_finding *finding, FILE *out);

#endif
