/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/words.h"

int cli_diff(int argc, char **argv)
{
    int status;
    if (!cli_options(&argc, &argv, "diff", "CHIP FILE FILE",
                     "Compares two dumps field by field: lines of a register or an address, and a "
                     "value.\nExit status 1: they differ.",
                     NULL, &status))
        return status;
    if (argc != 4)
        return cli_error("diff takes a chip and two dumps; see 'wadium diff --help'");
    wad_sheet *sheet = cli_read_sheet(argv[1]);
    if (!sheet)
        return CLI_USAGE;
    wad_diags *diags = wad_diags_new();
    wad_dump *a = wad_dump_read(sheet, argv[2], diags), *b = wad_dump_read(sheet, argv[3], diags);
    cli_tell(diags);
    status = !a || !b ? CLI_USAGE : wad_dump_diff(a, b, stdout) ? CLI_FAILED : CLI_GOOD;
    if (status == CLI_GOOD)
        puts("the same");
    wad_dump_free(a);
    wad_dump_free(b);
    wad_sheet_free(sheet);
    return status;
}
