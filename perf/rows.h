/* SPDX-License-Identifier: MIT */
/* Rows of figures. */
#ifndef PERF_ROWS_H
#define PERF_ROWS_H

#include "wadium/host/bench.h"

/* With --small a hundredth of the work, to count instructions by: what is printed then times
 * nothing. */
extern unsigned perf_less;
#define ACCESSES (20000000u / perf_less)
#define EDGES    (20000000u / perf_less)

double perf_now(void); /* seconds */
wad_sheet *perf_chip(void);
void perf_figure(const char *what, const char *value, const char *reach);

void perf_run_accesses(const wad_sheet *sheet);
void perf_run_plain(const wad_sheet *sheet);
void perf_run_hour(const wad_sheet *sheet);
void perf_run_uart(const wad_sheet *sheet);
void perf_run_spi(const wad_sheet *sheet);
void perf_run_captures(void);
void perf_run_sheet(void);
void perf_run_rate(const wad_sheet *sheet);
void perf_run_movers(void);
void perf_run_remote(void);
void perf_run_command(void);

#endif
