/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/toolchain.h"

int cli_image(int argc, char **argv)
{
    char *output = NULL, *board = NULL, *cpu = NULL, *map = NULL, **flags = NULL;
    gboolean ram = FALSE, quiet = FALSE;
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &output, "the image", "NAME.elf"},
        {"cpu", 'c', 0, G_OPTION_ARG_STRING, &cpu,
         "cortex-m0plus, cortex-m4, rv32, ... (as the sheet says; another name lists them)", "CPU"},
        {"ram", 0, 0, G_OPTION_ARG_NONE, &ram, "all of it in RAM, for 'wadium load'", NULL},
        {"board", 0, 0, G_OPTION_ARG_STRING, &board, "adds the header of its pin names", "BOARD"},
        {"map", 0, 0, G_OPTION_ARG_FILENAME, &map, "the linker's map", "FILE"},
        {"flag", 0, 0, G_OPTION_ARG_STRING_ARRAY, &flags, "for the compiler: --flag=-O2", "FLAG"},
        {"quiet", 'q', 0, G_OPTION_ARG_NONE, &quiet, "no sizes", NULL},
        {0}};
    int status;
    if (!cli_options(
            &argc, &argv, "image", "CHIP FILE.c... -o NAME.elf",
            "Builds the image for the target itself with the cross compiler: the same "
            "sources, the chip's\ngenerated files, Wadium's drivers, start-up and vectors. "
            "Says what takes how much of flash and RAM,\nand how deep the stack can get.",
            entries, &status))
        return status;
    if (argc < 3 || !output) {
        status =
            cli_error("image takes a chip, C files and -o NAME.elf; see 'wadium image --help'");
    } else {
        char *log;
        wad_image_report report;
        const wad_image o = {.chip = argv[1],
                             .board = board,
                             .sources = (const char *const *)(argv + 2),
                             .flags = (const char *const *)flags,
                             .cpu = cpu,
                             .ram = ram,
                             .output = output,
                             .map = map};
        bool ok = wad_build_image(&o, &report, &log);
        fputs(log, stderr);
        status = ok ? CLI_GOOD : CLI_USAGE;
        if (!ok)
            cli_error("'%s' was not built", output);
        else if (!quiet)
            wad_image_report_print(&report, stdout);
        wad_image_report_clear(&report);
        g_free(log);
    }
    g_free(output);
    g_free(board);
    g_free(cpu);
    g_free(map);
    g_strfreev(flags);
    return status;
}
