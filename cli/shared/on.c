/* SPDX-License-Identifier: MIT */
#include "on.h"

bool cli_on_sheet(cli_on *on, const char *name)
{
    if (cli_find_board(name, &on->board))
        on->sheet = on->board ? on->board->sheet : NULL;
    else
        on->sheet = on->own = cli_read_sheet(name);
    return on->sheet != NULL;
}

int cli_on_failed(char *why)
{
    int status = cli_error("%s", why);
    g_free(why);
    return status;
}

bool cli_on_open(cli_on *on)
{
    char *why = NULL;
    const char *given = g_getenv("WADIUM_BOARD");
    const char *where = on->where ? on->where : given ? given : "127.0.0.1:3333";
    const wad_target_options o = {
        .remote = {.timeout_ms = (unsigned)MAX(on->timeout_ms, 0), .log = on->log ? stderr : NULL},
        .any_chip = on->any_chip,
        .stay = on->stay};
    on->target = wad_target_open(on->sheet, where, &o, &why);
    if (!on->target)
        cli_on_failed(why);
    return on->target != NULL;
}

bool cli_on_variables(cli_on *on)
{
    char *why = NULL;
    if (on->variables)
        return true;
    if (!on->image) {
        cli_error("variables need the program's image: --image FILE.elf");
        return false;
    }
    on->variables = wad_variables_open(on->image, &why);
    if (!on->variables)
        cli_on_failed(why);
    return on->variables != NULL;
}

void cli_on_close(cli_on *on)
{
    if (on->target && wad_remote_reconnects(wad_target_remote(on->target)))
        fprintf(stderr, "wadium: the connection was lost and made anew\n");
    wad_target_close(on->target);
    wad_variables_close(on->variables);
    wad_board_free(on->board);
    wad_sheet_free(on->own);
    g_free(on->where);
    g_free(on->image);
}
