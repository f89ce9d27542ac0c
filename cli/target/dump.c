/* SPDX-License-Identifier: MIT */
/* Snapshots of a live target: where it is to stand, what is read. */
#include <string.h>

#include "cli/shared/on.h"

typedef struct dump_flags {
    cli_on on;
    char *output, *after, *until;
    gboolean reset;
} dump_flags;

/* ---- to the place where it is looked at ---- */

static bool go_for(wad_remote *r, uint64_t ps, char **why)
{
    wad_remote_stop stop;
    unsigned ms = (unsigned)(ps / (WAD_PS_PER_S / 1000));
    return wad_remote_go(r, why) && wad_remote_wait(r, ms, &stop, why) &&
           (stop.end != WAD_REMOTE_RUNNING || wad_remote_halt(r, &stop, why));
}

static bool go_until(dump_flags *f, wad_remote *r, char **why)
{
    wad_remote_stop stop = {0};
    uint64_t address;
    if (!f->on.image) {
        *why = g_strdup("--until needs the program's image: --image FILE.elf");
        return false;
    }
    if (!wad_image_symbol(f->on.image, f->until, &address, why) ||
        !wad_remote_set_point(r, WAD_REMOTE_HARD, address, 2, true, why))
        return false;
    char *late = NULL;
    bool good = wad_remote_go(r, why) && wad_remote_wait(r, 10000, &stop, why);
    if (good && stop.end == WAD_REMOTE_RUNNING) {
        *why = g_strdup_printf("the program does not come to %s within 10 s", f->until);
        good = wad_remote_halt(r, &stop, &late) && false;
    }
    g_free(late);
    late = NULL;
    wad_remote_set_point(r, WAD_REMOTE_HARD, address, 2, false, &late);
    g_free(late);
    return good;
}

static bool to_the_place(dump_flags *f, char **why)
{
    wad_remote *r = wad_target_remote(f->on.target);
    uint64_t ps = 0;
    char *text = NULL;
    if (f->after && !cli_time(f->after, &ps)) {
        *why = g_strdup("nothing was read");
        return false;
    }
    if (f->reset && !wad_remote_monitor(r, "reset", &text, why))
        return false;
    g_free(text);
    if (f->until && !go_until(f, r, why))
        return false;
    return !f->after || go_for(r, ps, why);
}

/* ---- the dump ---- */

static char *source_of(const dump_flags *f)
{
    const char *given = g_getenv("WADIUM_BOARD");
    GString *text = g_string_new("the board at ");
    g_string_append(text, f->on.where ? f->on.where : given ? given : "127.0.0.1:3333");
    if (f->until)
        g_string_append_printf(text, " at %s", f->until);
    if (f->after)
        g_string_append_printf(text, ", %s later", f->after);
    return g_string_free(text, FALSE);
}

static void tell_left_out(const wad_snapshot *s)
{
    const char *why, *told = "";
    const wad_fieldref *ref;
    for (unsigned i = 0; (ref = wad_snapshot_left_out(s, i, &why)); i++) {
        bool off = strstr(why, " is off") != NULL;
        char *name = off ? g_strdup(ref->block->name) : wad_fieldref_name(ref);
        if (strcmp(why, told))
            fprintf(stderr, "left out: %s%s%s\n", off ? "" : name, off ? "" : ", ", why);
        told = why;
        g_free(name);
    }
}

static int write_snapshot(dump_flags *f, const wad_snapshot *s)
{
    if (!f->output)
        for (unsigned i = 0; i < wad_snapshot_count(s); i++)
            wad_show_word_line(wad_snapshot_word(s, i), stdout);
    tell_left_out(s);
    if (!f->output)
        return CLI_GOOD;
    cli_output out;
    if (!cli_open_output(&out, f->output))
        return CLI_USAGE;
    wad_snapshot_write(s, out.file);
    if (!cli_close_output(&out))
        return CLI_USAGE;
    printf("%u registers in %s\n", wad_snapshot_count(s), f->output);
    return CLI_GOOD;
}

static int dump(dump_flags *f, char **blocks)
{
    char *why = NULL, *source = source_of(f);
    wad_snapshot *s = wad_snapshot_new(f->on.sheet, source);
    bool good =
        to_the_place(f, &why) &&
        wad_target_snapshot(f->on.target, blocks[0] ? (const char *const *)blocks : NULL, s, &why);
    int status = good ? write_snapshot(f, s) : cli_on_failed(why);
    wad_snapshot_free(s);
    g_free(source);
    return status;
}

int cli_dump(int argc, char **argv)
{
    dump_flags f = {0};
    const GOptionEntry entries[] = {
        CLI_ON_OPTIONS(&f.on),
        {"json", 'j', 0, G_OPTION_ARG_FILENAME, &f.output, "a snapshot, for 'wadium compare'",
         "FILE.json"},
        {"reset", 0, 0, G_OPTION_ARG_NONE, &f.reset,
         "resets the chip first, by the server's command of that name", NULL},
        {"until", 0, 0, G_OPTION_ARG_STRING, &f.until,
         "lets the core go until it comes to this function (with --image)", "FUNCTION"},
        {"image", 'i', 0, G_OPTION_ARG_FILENAME, &f.on.image, "the program on the target",
         "FILE.elf"},
        {"after", 0, 0, G_OPTION_ARG_STRING, &f.after, "lets the core go for so long", "TIME"},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "dump", "CHIP|BOARD [BLOCK...]",
                     "Reads all registers of a live target that can be read without an effect: "
                     "lines with their fields, or a\nsnapshot that 'wadium compare' holds against "
                     "the simulator's ('wadium run --snapshot').",
                     entries, &status))
        return status;
    status = CLI_USAGE;
    if (argc < 2)
        cli_error("dump takes a chip or board; see 'wadium dump --help'");
    else if (cli_on_sheet(&f.on, argv[1]) && cli_on_open(&f.on))
        status = dump(&f, argv + 2);
    cli_on_close(&f.on);
    g_free(f.output);
    g_free(f.after);
    g_free(f.until);
    return status;
}
