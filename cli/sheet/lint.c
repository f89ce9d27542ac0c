/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"

/* How it ends: what was found is on standard output. */
static int told(const char *path, wad_diags *diags)
{
    unsigned errors = wad_diags_errors(diags), doubts = wad_diags_warnings(diags);
    wad_diags_print(diags, stdout);
    printf("%s: %u errors, %u doubts\n", path, errors, doubts);
    wad_diags_free(diags);
    return errors ? CLI_USAGE : doubts ? CLI_FAILED : CLI_GOOD;
}

static int lint_board(const char *path)
{
    wad_diags *diags = wad_diags_new();
    wad_board *board = wad_board_read(path, diags);
    if (board)
        wad_board_lint(board, diags);
    wad_board_free(board);
    return told(path, diags);
}

int cli_lint(int argc, char **argv)
{
    int status;
    if (!cli_options(
            &argc, &argv, "lint", "CHIP | BOARD",
            "Reads a sheet and tells what is wrong or doubtful in it: overlapping or "
            "misplaced fields,\nreset values outside their fields, overlapping blocks, "
            "unknown names, unbound roles,\npins given away twice, clocks out of their "
            "limits; of a board, channels\nand requests of DMA controllers given away twice. "
            "Exit status 1 when there is any doubt.",
            NULL, &status))
        return status;
    if (argc != 2)
        return cli_error("lint takes one chip or board; see 'wadium lint --help'");
    char *path = wad_locate(argv[1], ".sheet", NULL);
    char *board = path ? NULL : wad_locate(argv[1], ".board", NULL);
    if (board) {
        status = lint_board(board);
        g_free(board);
        return status;
    }
    if (!path)
        return cli_error("there is no chip and no board '%s': give its name or the path of its "
                         ".sheet or .board file",
                         argv[1]);
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_read(path, diags);
    if (sheet)
        wad_sheet_lint(sheet, diags);
    wad_sheet_free(sheet);
    status = told(path, diags);
    g_free(path);
    return status;
}
