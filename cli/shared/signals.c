/* SPDX-License-Identifier: MIT */
/* Signals of a recording, as the verbs read them. */
#include "cli.h"
#include "wadium/host/recording.h"

wad_capture *cli_load_signals(const char *path, const wad_wanted_signal *wanted, uint64_t *end_ps)
{
    wad_diags *diags = wad_diags_new();
    char *missing = NULL;
    wad_capture *capture = wad_recording_load_some(path, wanted, end_ps, &missing, diags);
    cli_tell(diags);
    if (missing)
        cli_error("%s", missing);
    g_free(missing);
    return capture;
}

wad_wanted_signal *cli_wanted_signals(const char *names)
{
    char **list = names ? g_strsplit(names, ",", -1) : NULL;
    wad_wanted_signal *wanted = list ? g_new0(wad_wanted_signal, g_strv_length(list) + 1) : NULL;
    for (unsigned i = 0; list && list[i]; i++)
        wanted[i].name = list[i];
    g_free(list); /* the names are the caller's now */
    return wanted;
}

void cli_free_wanted(wad_wanted_signal *wanted)
{
    for (unsigned i = 0; wanted && wanted[i].name; i++)
        g_free((char *)wanted[i].name);
    g_free(wanted);
}
