/* SPDX-License-Identifier: MIT */
/* Two of a kind: snapshots of registers, captures of pins, traces of accesses. */
#include <string.h>

#include "cli.h"
#include "wadium/host/snapshot.h"

typedef struct compare_flags {
    gboolean all;
} compare_flags;

/* ---- snapshots ---- */

static wad_snapshot *read_snapshot(const wad_sheet *sheet, const char *path)
{
    char *why = NULL, *note = NULL;
    wad_snapshot *s = wad_snapshot_read(sheet, path, &note, &why);
    if (!s)
        cli_error("%s", why);
    if (note)
        fprintf(stderr, "wadium: %s\n", note);
    g_free(why);
    g_free(note);
    return s;
}

static int compare_snapshots(const char *a, const char *b, const compare_flags *f)
{
    char *why = NULL, *chip = wad_snapshot_chip(a, &why);
    wad_sheet *sheet = chip ? cli_read_sheet(chip) : NULL;
    int status = CLI_USAGE;
    if (!chip)
        cli_error("%s", why);
    wad_snapshot *x = sheet ? read_snapshot(sheet, a) : NULL;
    wad_snapshot *y = x ? read_snapshot(sheet, b) : NULL;
    if (y)
        status = wad_snapshot_compare(x, y, f->all, stdout).different ? CLI_FAILED : CLI_GOOD;
    wad_snapshot_free(x);
    wad_snapshot_free(y);
    wad_sheet_free(sheet);
    g_free(chip);
    g_free(why);
    return status;
}

int cli_compare(int argc, char **argv)
{
    compare_flags f = {0};
    const GOptionEntry entries[] = {
        {"all", 0, 0, G_OPTION_ARG_NONE, &f.all, "what is expected to differ, too", NULL}, {0}};
    int status;
    if (!cli_options(&argc, &argv, "compare", "A.json B.json",
                     "Compares two snapshots of registers field by field. Exit status 1: they "
                     "differ.",
                     entries, &status))
        return status;
    if (argc != 3)
        return cli_error("compare takes two files; see 'wadium compare --help'");
    return compare_snapshots(argv[1], argv[2], &f);
}
