/* SPDX-License-Identifier: MIT */
/* Findings, told. */
#ifndef WADI_REPORT_H
#define WADI_REPORT_H

#include "register.h"
#include "sim.h"
#include "trace.h"
#include "wadium/host/finding.h"

wadi_trace wadi_trace_here(const wad_sim *sim);

void wadi_report(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot, const char *format,
                 ...) __attribute__((format(printf, 4, 5)));

/* A register as it would stand, and which of its bits the finding is about; bits 0: no picture. */
typedef struct wadi_picture {
    const wadi_slot *slot;
    uint32_t value, bits;
} wadi_picture;

/** The same, with the register drawn. */
void wadi_report_drawn(wad_sim *sim, wad_finding_kind kind, const wadi_picture *picture,
                       const char *format, ...) __attribute__((format(printf, 4, 5)));

/** Counts a finding that was made before: true. False: it is new, and its text is wanted. */
bool wadi_report_again(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                       const wadi_trace *trace);

void wadi_report_at(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                    const wadi_trace *trace, const char *format, ...)
    __attribute__((format(printf, 5, 6)));
bool wadi_on_stack(const wad_sim *sim, const void *p);

/* One finding and what it owns; found again by kind, place and register. */
typedef struct wadi_finding_item {
    wad_finding shown;
    char *what, *hint;
    wadi_trace trace;
    uint64_t address;
} wadi_finding_item;

void wadi_findings_reset(wad_sim *sim);
void wadi_findings_free(wad_sim *sim);

#endif
