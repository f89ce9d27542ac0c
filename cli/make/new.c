/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/toolchain.h"

int cli_new(int argc, char **argv)
{
    int status;
    if (!cli_options(&argc, &argv, "new", "CHIP FOLDER",
                     "Writes a project that builds and runs as it is: main.c, a bench, a README.",
                     NULL, &status))
        return status;
    if (argc != 3)
        return cli_error("new takes a chip and a new folder; see 'wadium new --help'");
    char *why;
    if (!wad_new_project(argv[1], argv[2], &why)) {
        status = cli_error("%s", why);
        g_free(why);
        return status;
    }
    char *name = g_path_get_basename(argv[2]);
    printf("cd %s\nwadium build %s main.c -o %s.wfw\nwadium run %s.bench\n", argv[2], argv[1], name,
           name);
    g_free(name);
    return CLI_GOOD;
}
