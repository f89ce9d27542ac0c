/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/words.h"

int cli_find(int argc, char **argv)
{
    int status;
    if (!cli_options(&argc, &argv, "find", "CHIP TEXT",
                     "Finds a text, in capitals or not, in the names, descriptions, values and "
                     "references of blocks,\nregisters, fields, clocks and pins; an address finds "
                     "its register. Exit status 1: nowhere.",
                     NULL, &status))
        return status;
    if (argc != 3)
        return cli_error("find takes a chip and a text; see 'wadium find --help'");
    wad_sheet *sheet = cli_read_sheet(argv[1]);
    if (!sheet)
        return CLI_USAGE;
    status = wad_find(sheet, argv[2], stdout) ? CLI_GOOD : CLI_FAILED;
    if (status)
        printf("'%s' is nowhere in %s\n", argv[2], sheet->name);
    wad_sheet_free(sheet);
    return status;
}
