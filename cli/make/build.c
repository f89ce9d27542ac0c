/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/toolchain.h"

int cli_build(int argc, char **argv)
{
    char *output = NULL, *board = NULL, *compiler = NULL, **flags = NULL;
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &output, "the firmware", "NAME.wfw"},
        {"board", 0, 0, G_OPTION_ARG_STRING, &board, "adds the header of its pin names", "BOARD"},
        {"compiler", 0, 0, G_OPTION_ARG_STRING, &compiler, "gcc (11 or later) or clang (14)", "CC"},
        {"flag", 0, 0, G_OPTION_ARG_STRING_ARRAY, &flags, "for the compiler: --flag=-O0", "FLAG"},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "build", "CHIP FILE.c... -o NAME.wfw",
                     "Builds firmware for the simulated chip: generates the chip's header, role "
                     "tables and vectors,\ncompiles the sources so that plain volatile C is seen, "
                     "and links Wadium's drivers.",
                     entries, &status))
        return status;
    if (argc < 3 || !output) {
        status =
            cli_error("build takes a chip, C files and -o NAME.wfw; see 'wadium build --help'");
    } else {
        char *log;
        wad_build b = {.chip = argv[1],
                       .board = board,
                       .sources = (const char *const *)(argv + 2),
                       .flags = (const char *const *)flags,
                       .compiler = compiler,
                       .output = output};
        bool ok = wad_build_firmware(&b, &log);
        fputs(log, stderr);
        status = ok ? CLI_GOOD : CLI_USAGE;
        if (!ok)
            cli_error("'%s' was not built", output);
        g_free(log);
    }
    g_free(output);
    g_free(board);
    g_free(compiler);
    g_strfreev(flags);
    return status;
}
