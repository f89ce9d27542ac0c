/* SPDX-License-Identifier: MIT */
/* JUnit XML, as CI servers read it, written through libxml2. */
#ifndef WADI_BENCH_XML_H
#define WADI_BENCH_XML_H

#include <glib.h>
#include <stdio.h>

typedef struct wadi_junit {
    FILE *out;
    void *doc, *root, *suite; /* of libxml2 */
    unsigned tests, failures, skipped;
} wadi_junit;

void wadi_junit_begin(wadi_junit *j, FILE *out);
void wadi_junit_suite(wadi_junit *j, const char *name);
/** `failure`: why it failed, NULL: it passed; `skip`: why it was skipped, NULL: it was not. */
void wadi_junit_case(wadi_junit *j, const char *name, const char *failure, const char *skip);
/** Writes it. */
void wadi_junit_end(wadi_junit *j);

#endif
