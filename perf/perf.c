/* SPDX-License-Identifier: MIT */
/*
 * Figures of this machine, each beside the one to reach. Ratios are taken
 * within one run; nothing here passes or fails.
 */
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include <glib.h>

#include "rows.h"

unsigned perf_less = 1;

double perf_now(void)
{
    struct timespec t;
    clock_gettime(CLOCK_MONOTONIC, &t);
    return (double)t.tv_sec + (double)t.tv_nsec * 1e-9;
}

wad_sheet *perf_chip(void)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_read(SOURCE_DIR "/chips/corran32.sheet", diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    if (!sheet)
        exit(2);
    return sheet;
}

void perf_figure(const char *what, const char *value, const char *reach)
{
    printf("%-52s %18s   %s\n", what, value, reach);
}

/* The first of `rows` is the program's name, or --small in its place; without others all are
 * wanted. */
static bool wanted(int n, char **rows, const char *name)
{
    for (int i = 1; i < n; i++)
        if (!strcmp(rows[i], name))
            return true;
    return n == 1;
}

static void refuse_unknown(int n, char **rows)
{
    static const char *const all[] = {"access",  "plain", "tick", "uart",   "spi",    "dma",
                                      "capture", "sheet", "rate", "remote", "command"};
    for (int i = 1; i < n; i++) {
        unsigned k = 0;
        while (k < G_N_ELEMENTS(all) && strcmp(rows[i], all[k]))
            k++;
        if (k < G_N_ELEMENTS(all))
            continue;
        fprintf(stderr,
                "perf: there is no row '%s'; perf [--small] [access] [plain] [tick] [uart] "
                "[spi] [dma] [capture] [sheet] [rate] [remote] [command]\n",
                rows[i]);
        exit(2);
    }
}

int main(int argc, char **argv)
{
    if (argc > 1 && !strcmp(argv[1], "--small")) {
        perf_less = 100;
        argc--;
        argv++;
    }
    refuse_unknown(argc, argv);
    wad_sheet *sheet = perf_chip();
    printf("%-52s %18s   %s\n", "", "measured", "to reach");
    if (wanted(argc, argv, "access"))
        perf_run_accesses(sheet);
    if (wanted(argc, argv, "plain"))
        perf_run_plain(sheet);
    if (wanted(argc, argv, "tick"))
        perf_run_hour(sheet);
    if (wanted(argc, argv, "uart"))
        perf_run_uart(sheet);
    if (wanted(argc, argv, "spi"))
        perf_run_spi(sheet);
    if (wanted(argc, argv, "dma"))
        perf_run_movers();
    if (wanted(argc, argv, "capture"))
        perf_run_captures();
    if (wanted(argc, argv, "sheet"))
        perf_run_sheet();
    if (wanted(argc, argv, "rate"))
        perf_run_rate(sheet);
    if (wanted(argc, argv, "remote"))
        perf_run_remote();
    if (wanted(argc, argv, "command"))
        perf_run_command();
    wad_sheet_free(sheet);
    return 0;
}
