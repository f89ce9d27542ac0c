/* SPDX-License-Identifier: MIT */
/* `wadium watch CHIP NAME... --on`: registers and variables of a live target, as they change. */
#include <stdlib.h>
#include <string.h>

#include "cli/shared/bridge.h"
#include "watch.h"

/* One value's line; g_free. NULL: it said why. */
static char *line_of(cli_on *on, const char *name)
{
    wad_fieldref ref;
    char *why = NULL, *line = NULL;
    if (wad_sheet_resolve(on->sheet, name, &ref, &why)) {
        wad_word word = {.ref = ref};
        uint32_t value;
        word.ref.field = NULL;
        if (!wad_target_peek(on->target, &word.ref, false, &value, &why)) {
            cli_on_failed(why);
            return NULL;
        }
        size_t size;
        char *text;
        FILE *memory = open_memstream(&text, &size);
        word.value = value;
        wad_show_word_line(&word, memory);
        fclose(memory);
        line = g_strdup(g_strchomp(text));
        free(text);
        return line;
    }
    g_free(why);
    why = NULL;
    if (!cli_on_variables(on))
        return NULL;
    char *text = wad_target_variable(on->target, on->variables, name, 60, &why);
    if (!text) {
        cli_on_failed(why);
        return NULL;
    }
    line = g_strdup_printf("%-16s %s", name, text);
    g_free(text);
    return line;
}

/* All of them once, those that are not as they were; false: something failed. */
static bool look(cli_on *on, char **names, char **last, double seconds)
{
    for (unsigned i = 0; names[i]; i++) {
        char *line = line_of(on, names[i]);
        if (!line)
            return false;
        if (!last[i] || strcmp(line, last[i]))
            printf("%10.3f s  %s\n", seconds, line);
        g_free(last[i]);
        last[i] = line;
    }
    fflush(stdout);
    return true;
}

static bool go_on(wad_remote *r, uint64_t ps, char **why)
{
    wad_remote_stop stop;
    if (!wad_remote_go(r, why) ||
        !wad_remote_wait(r, (unsigned)MAX(ps / (WAD_PS_PER_S / 1000), 1), &stop, why))
        return false;
    if (stop.end == WAD_REMOTE_RUNNING)
        return wad_remote_halt(r, &stop, why);
    *why = g_strdup_printf(stop.end == WAD_REMOTE_EXITED ? "the program on the target is over (%u)"
                                                         : "the core has stopped by itself (signal "
                                                           "%u)",
                           stop.code);
    return false;
}

static int watch(cli_on *on, char **names, uint64_t every_ps, uint64_t for_ps)
{
    char **last = g_new0(char *, g_strv_length(names) + 1), *why = NULL;
    gint64 began = g_get_monotonic_time();
    int status = CLI_GOOD;
    cli_catch_interrupt();
    while (status == CLI_GOOD && !cli_interrupted()) {
        double seconds = (double)(g_get_monotonic_time() - began) / 1e6;
        if (!look(on, names, last, seconds))
            status = CLI_USAGE;
        else if (for_ps && seconds * 1e12 >= (double)for_ps)
            break;
        else if (!go_on(wad_target_remote(on->target), every_ps, &why))
            status = cli_on_failed(why);
    }
    for (unsigned i = 0; names[i]; i++)
        g_free(last[i]);
    g_free(last);
    return status;
}

int cli_watch_target(cli_on *on, const char *chip, char **names, const char *every,
                     const char *duration)
{
    uint64_t every_ps = WAD_PS_PER_S / 10, for_ps = 0;
    if ((every && !cli_time(every, &every_ps)) || (duration && !cli_time(duration, &for_ps)))
        return CLI_USAGE;
    if (!names[0])
        return cli_error("watch --on takes a chip or board, and registers or variables");
    if (!cli_on_sheet(on, chip) || !cli_on_open(on))
        return CLI_USAGE;
    return watch(on, names, every_ps, for_ps);
}
