/* SPDX-License-Identifier: MIT */
/*
 * Results for others to read: one self-contained page, and JUnit XML for CI servers.
 *
 *     const wad_page page = {.title = "Skerry, night run", .version = "0.1.0"};
 *     if (!wad_report_html(results, n, &page, "report.html", &why)) ...
 *     wad_report_junit(results, n, out);
 */
#ifndef WADIUM_HOST_REPORT_H
#define WADIUM_HOST_REPORT_H

#include "bench.h"
#include "collect.h"
#include "snapshot.h"

typedef struct wad_page {
    const char *title;   /**< NULL: the bench file's name, or the board's */
    const char *version; /**< of Wadium */
    /* of a board's checks only */
    const wad_sheet *sheet;       /**< NULL: not told */
    const char *firmware;         /**< path of what ran on the board; NULL: not told */
    const wad_snapshot *snapshot; /**< of its registers; NULL: none */
} wad_page;

/** Verdicts with what was measured and wanted, diagrams, findings with their source, registers that
 * are not as after reset, versions and sums of sheet, firmware and bench. The page needs no
 * network. All or nothing; false: `why` (g_free). */
bool wad_report_html(wad_bench_result *const *results, unsigned n, const wad_page *page,
                     const char *path, char **why);
void wad_report_junit(wad_bench_result *const *results, unsigned n, FILE *out);

/** The same of a board's checks. */
bool wad_collect_html(const wad_collect *collect, const wad_page *page, const char *path,
                      char **why);

#endif
