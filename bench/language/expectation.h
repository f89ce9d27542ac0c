/* SPDX-License-Identifier: MIT */
/* An expectation as the bench says it. What it measures is its class's (bench/expect/). */
#ifndef WADI_LANGUAGE_EXPECTATION_H
#define WADI_LANGUAGE_EXPECTATION_H

#include "wadium/host/bench.h"

/** Whose doings an expectation hears. */
typedef enum wadi_about {
    WADI_ABOUT_RUN,
    WADI_ABOUT_PIN,       /* `number` is its probe's */
    WADI_ABOUT_VOLTS,     /* its analog probe's */
    WADI_ABOUT_INTERRUPT, /* its line's */
    WADI_ABOUT_PEER,      /* of a serial line: its own */
    WADI_ABOUT_DEVICE,    /* on an SPI bus: its own */
    WADI_ABOUT_CHANNEL,   /* of a DMA `block` */
    WADI_ABOUTS
} wadi_about;

typedef struct wadi_expectation_class wadi_expectation_class;

typedef struct wadi_expectation {
    const wadi_expectation_class *cls;
    wad_where where;
    unsigned number;
    const wad_instance *block;
    wad_rational wanted; /* in base units: Hz, s, share */
    wad_rational within;
    wad_unit within_unit;    /* the wanted value's own unit, or WAD_UNIT_PART of it */
    uint64_t at_ps;          /* or by then; UINT64_MAX: whenever */
    uint64_t from_ps, to_ps; /* its window */
    wad_level level;
    const char *says;           /* what is to be heard */
    const char *file;           /* of a finding: where it must stand */
    unsigned file_line;         /* 0: anywhere in it */
    const char *subject, *text; /* for the report: what is measured, and what is wanted */
} wadi_expectation;

#endif
