/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "cli/shared/cli.h"

static const struct {
    const char *what;
    void (*emit)(const wad_sheet *sheet, FILE *out);
} writers[] = {{"header", wad_emit_header},
               {"roles", wad_emit_roles},
               {"vectors", wad_emit_vectors},
               {"linker", wad_emit_linker},
               {"gdb", wad_emit_gdb}};

static int emit_chip(unsigned writer, const char *name, const char *path)
{
    wad_sheet *sheet = cli_read_sheet(name);
    cli_output out;
    if (!sheet)
        return CLI_USAGE;
    wad_diags *diags = wad_diags_new();
    bool ok = writers[writer].emit != wad_emit_roles || wad_emit_check(sheet, diags);
    cli_tell(diags);
    ok = ok && cli_open_output(&out, path);
    if (ok) {
        writers[writer].emit(sheet, out.file);
        ok = cli_close_output(&out);
    }
    wad_sheet_free(sheet);
    return ok ? CLI_GOOD : CLI_USAGE;
}

static int emit_pins(const char *name, const char *path)
{
    wad_board *board;
    cli_output out;
    if (!cli_find_board(name, &board))
        return cli_error("there is no board '%s': give its name or the path of its .board file",
                         name);
    if (!board)
        return CLI_USAGE;
    bool ok = cli_open_output(&out, path);
    if (ok) {
        wad_emit_pins(board, out.file);
        ok = cli_close_output(&out);
    }
    wad_board_free(board);
    return ok ? CLI_GOOD : CLI_USAGE;
}

static int emit_anew(const char *file, const char *path)
{
    wad_diags *diags = wad_diags_new();
    cli_output out;
    char *text;
    size_t size;
    char *found = wad_locate(file, ".sheet", NULL);
    found = found ? found : wad_locate(file, ".board", NULL);
    FILE *memory = open_memstream(&text, &size);
    bool ok = wad_emit_anew(found ? found : file, memory, diags);
    fclose(memory);
    g_free(found);
    cli_tell(diags);
    ok = ok && cli_open_output(&out, path);
    if (ok) {
        fwrite(text, 1, size, out.file);
        ok = cli_close_output(&out);
    }
    free(text);
    return ok ? CLI_GOOD : CLI_USAGE;
}

int cli_emit(int argc, char **argv)
{
    char *path = NULL;
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &path, "write there instead of stdout", "FILE"},
        {0}};
    int status = CLI_USAGE;
    if (!cli_options(
            &argc, &argv, "emit",
            "header|roles|vectors|linker|gdb CHIP  or  pins BOARD  or  sheet FILE",
            "Writes C from a sheet: register header, role tables for the drivers, vector "
            "table with\nweak default handlers, memories for the linker, commands for "
            "gdb that show\nregisters by name; from a board the header of pin names;\n"
            "of a sheet, board or bench with words of before the same in today's. The same "
            "sheet gives\nthe same bytes.",
            entries, &status))
        return status;
    if (argc != 3) {
        g_free(path);
        return cli_error("emit takes what to write and a chip or board; see 'wadium emit --help'");
    }
    bool known = !strcmp(argv[1], "pins") || !strcmp(argv[1], "sheet");
    if (known)
        status = (*argv[1] == 'p' ? emit_pins : emit_anew)(argv[2], path);
    for (unsigned i = 0; i < G_N_ELEMENTS(writers); i++)
        if (!strcmp(argv[1], writers[i].what)) {
            known = true;
            status = emit_chip(i, argv[2], path);
        }
    if (!known)
        status = cli_error(
            "cannot emit '%s': header, roles, vectors, linker, gdb, pins and sheet can be",
            argv[1]);
    g_free(path);
    return status;
}
