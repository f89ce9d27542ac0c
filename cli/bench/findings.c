/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/warnings.h"

int cli_findings(int argc, char **argv)
{
    gboolean markdown = FALSE;
    const GOptionEntry entries[] = {
        {"markdown", 0, 0, G_OPTION_ARG_NONE, &markdown, "as docs/findings.md", NULL}, {0}};
    int status;
    if (!cli_options(&argc, &argv, "findings", "",
                     "Lists every finding with its number, what silicon does, and the cure.",
                     entries, &status))
        return status;
    if (argc != 1)
        return cli_error("findings takes no argument");
    if (markdown)
        fputs("# Findings\n\nNumbers are stable. Made by `make docs` from "
              "`include/wadium/host/findings/`.\n\n"
              "| number | what | what silicon does, and the cure |\n|---|---|---|\n",
              stdout);
#define LIST(name, number, what, cure)                                                             \
    printf(markdown ? "| W%d | %s | %s |\n" : "W%d  %s\n      %s\n", number, what, cure);
    WAD_FINDINGS(LIST)
#undef LIST
    fputs(
        markdown
            ? "\n# What lint doubts\n\nOf `include/wadium/host/warnings.h`; `wadium lint CHIP`.\n\n"
              "| number | what | what to do |\n|---|---|---|\n"
            : "\nWhat 'wadium lint' doubts:\n",
        stdout);
#define LIST(name, number, what, cure)                                                             \
    printf(markdown ? "| L%d | %s | %s |\n" : "L%d  %s\n      %s\n", number, what, cure);
    WAD_WARNINGS(LIST)
#undef LIST
    return CLI_GOOD;
}
