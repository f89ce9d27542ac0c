/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/pinplan.h"

static int plan(const wad_sheet *sheet, const wad_board *board, char **wants)
{
    char *why;
    wad_pin_plan *p = wad_pin_plan_make(sheet, board, (const char *const *)wants, &why);
    if (!p) {
        int status = cli_error("%s", why);
        g_free(why);
        return status;
    }
    wad_show_pin_plan(p, stdout);
    int status = wad_pin_plan_works(p) ? CLI_GOOD : CLI_FAILED;
    wad_pin_plan_free(p);
    return status;
}

int cli_pins(int argc, char **argv)
{
    int status;
    if (!cli_options(&argc, &argv, "pins", "CHIP|BOARD WANT...",
                     "Finds pins for signals, with the fewest moves, and the registers that route "
                     "them. A want is\n"
                     "  BLOCK             all of its signals\n"
                     "  BLOCK.SIGNAL      one, anywhere\n"
                     "  BLOCK.SIGNAL=PIN  fixed there\n"
                     "  BLOCK.SIGNAL@PIN  there now, may move\n"
                     "  PIN=NAME          the pin is taken for something else\n"
                     "Pins that a board's parts are wired to are taken, but for signals that stand "
                     "there. Exit status 1:\nno assignment meets all wants; what collides is told.",
                     NULL, &status))
        return status;
    if (argc < 3)
        return cli_error("pins takes a chip or a board, and wants; see 'wadium pins --help'");
    wad_board *board = NULL;
    char *path = wad_locate(argv[1], ".sheet", NULL);
    bool is_board = !path && cli_find_board(argv[1], &board);
    g_free(path);
    if (is_board) {
        status = board ? plan(board->sheet, board, argv + 2) : CLI_USAGE;
        wad_board_free(board);
        return status;
    }
    wad_sheet *sheet = cli_read_sheet(argv[1]);
    status = sheet ? plan(sheet, NULL, argv + 2) : CLI_USAGE;
    wad_sheet_free(sheet);
    return status;
}
