/* SPDX-License-Identifier: MIT */
#include "cli/shared/on.h"

static int load(cli_on *on, const char *path, bool flash, bool go)
{
    wad_loaded l;
    wad_remote *r = wad_target_remote(on->target);
    char *why = NULL, *text = NULL;
    bool reset = wad_remote_monitor(r, "reset", &text, &why);
    g_free(text);
    if (!reset) { /* a server without it: the chip is as it is */
        fprintf(stderr, "wadium: the chip was not reset first (%s)\n", why);
        g_clear_pointer(&why, g_free);
    }
    if (!wad_target_load(on->target, path, flash, &l, &why))
        return cli_on_failed(why);
    printf("%llu bytes at 0x%08llX, read back as they are; start 0x%08llX",
           (unsigned long long)l.bytes, (unsigned long long)l.table, (unsigned long long)l.start);
    if (l.stack)
        printf(", stack 0x%08llX", (unsigned long long)l.stack);
    puts(go ? "; it runs" : "; it is halted");
    return CLI_GOOD;
}

int cli_load(int argc, char **argv)
{
    cli_on on = {0};
    gboolean flash = FALSE;
    const GOptionEntry entries[] = {
        CLI_ON_OPTIONS(&on),
        {"flash", 0, 0, G_OPTION_ARG_NONE, &flash,
         "write parts that belong into flash as well, where the server programs it", NULL},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "load", "CHIP|BOARD IMAGE.elf",
                     "Writes a program's image into a live target's RAM ('wadium image --ram' "
                     "builds such), reads it back,\nand starts it; with --stay it waits at its "
                     "start.",
                     entries, &status))
        return status;
    status = CLI_USAGE;
    if (argc != 3)
        cli_error("load takes a chip or board and an image; see 'wadium load --help'");
    else if (cli_on_sheet(&on, argv[1]) && cli_on_open(&on))
        status = load(&on, argv[2], flash, !on.stay);
    cli_on_close(&on);
    return status;
}
