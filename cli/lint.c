/* SPDX-License-Identifier: MIT */
#include "cli.h"

int cli_lint(int argc, char **argv)
{
    int status;
    if (!cli_options(&argc, &argv, "lint", "CHIP",
                     "Reads a sheet and tells what is wrong or doubtful in it: overlapping or "
                     "misplaced fields,\nreset values outside their fields, overlapping blocks, "
                     "unknown names, unbound roles,\npins given away twice, clocks out of their "
                     "limits. Exit status 1 when there is any doubt.",
                     NULL, &status))
        return status;
    if (argc != 2)
        return cli_error("lint takes one chip; see 'wadium lint --help'");
    char *path = wad_locate(argv[1], ".sheet", NULL);
    if (!path)
        return cli_error("there is no chip '%s': give its name or the path of its .sheet file",
                         argv[1]);
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_read(path, diags);
    if (sheet)
        wad_sheet_lint(sheet, diags);
    wad_diags_print(diags, stdout);
    unsigned errors = wad_diags_errors(diags), doubts = wad_diags_warnings(diags);
    printf("%s: %u errors, %u doubts\n", path, errors, doubts);
    wad_sheet_free(sheet);
    wad_diags_free(diags);
    g_free(path);
    return errors ? CLI_USAGE : doubts ? CLI_FAILED : CLI_GOOD;
}
