/* SPDX-License-Identifier: MIT */
#include "cli.h"

int cli_findings(int argc, char **argv)
{
    int status;
    if (!cli_options(&argc, &argv, "findings", "", "Lists every finding with its number and cure.",
                     NULL, &status))
        return status;
    if (argc != 1)
        return cli_error("findings takes no argument");
#define LIST(name, number, what, cure) printf("W%d  %s\n      %s\n", number, what, cure);
    WAD_FINDINGS(LIST)
#undef LIST
    return CLI_GOOD;
}
