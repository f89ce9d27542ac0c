/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "cli/shared/cli.h"
#include "wadium/host/clocktree.h"

static int no_such(const wad_sheet *sheet, const char *name)
{
    static const char *const tables[] = {"vectors", "triggers", "dma", "clocks", "pins"};
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < G_N_ELEMENTS(tables); i++)
        g_ptr_array_add(names, (gpointer)tables[i]);
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        g_ptr_array_add(names, (gpointer)sheet->blocks[i]->name);
    char *what = g_strdup_printf("table or block of %s", sheet->name);
    cli_unknown(what, name, (const char *const *)names->pdata, names->len);
    g_free(what);
    g_ptr_array_free(names, TRUE);
    return CLI_USAGE;
}

static int show_path(const wad_sheet *sheet, const char *path)
{
    const wad_instance *block = wad_sheet_block(sheet, path);
    if (block) {
        wad_show_block(sheet, block, stdout);
        return CLI_GOOD;
    }
    wad_fieldref ref;
    char *why = NULL;
    if (!strchr(path, '.'))
        return no_such(sheet, path);
    if (!wad_sheet_resolve(sheet, path, &ref, &why)) {
        cli_error("%s: %s", sheet->name, why);
        g_free(why);
        return CLI_USAGE;
    }
    wad_show_register(sheet, ref.block, ref.reg, ref.reg_index, stdout);
    return CLI_GOOD;
}

static int show_pins(const wad_sheet *sheet, const char *what)
{
    if (wad_show_pins(sheet, what, stdout))
        return CLI_GOOD;
    return cli_error("%s has no pin and no block '%s'", sheet->name, what);
}

/* After reset; `wadium clocks` takes other register values. */
static int show_clocks(const wad_sheet *sheet)
{
    wad_regs *regs = wad_regs_new(sheet);
    unsigned broken = wad_show_clocks(sheet, regs, stdout);
    wad_regs_free(regs);
    return broken ? CLI_FAILED : CLI_GOOD;
}

static int show_triggers(const wad_sheet *sheet)
{
    if (!wad_show_triggers(sheet, stdout))
        printf("no block of %s listens to another one\n", sheet->name);
    return CLI_GOOD;
}

static int show_movers(const wad_sheet *sheet)
{
    if (!wad_show_dma(sheet, stdout))
        printf("%s has no DMA controller\n", sheet->name);
    return CLI_GOOD;
}

static int show_chip(const char *name, const char *what, const char *which, bool json)
{
    wad_sheet *sheet = cli_read_sheet(name);
    int status = CLI_GOOD;
    if (!sheet)
        return CLI_USAGE;
    if (json)
        wad_show_chip_json(sheet, stdout);
    else if (!what)
        wad_show_chip(sheet, stdout);
    else if (!strcmp(what, "vectors"))
        wad_show_vectors(sheet, stdout);
    else if (!strcmp(what, "triggers"))
        status = show_triggers(sheet);
    else if (!strcmp(what, "dma"))
        status = show_movers(sheet);
    else if (!strcmp(what, "clocks"))
        status = show_clocks(sheet);
    else if (!strcmp(what, "pins"))
        status = show_pins(sheet, which);
    else
        status = show_path(sheet, what);
    wad_sheet_free(sheet);
    return status;
}

int cli_show(int argc, char **argv)
{
    gboolean json = FALSE;
    const GOptionEntry entries[] = {
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "the whole chip for a machine", NULL}, {0}};
    int status;
    if (!cli_options(
            &argc, &argv, "show",
            "CHIP [BLOCK | BLOCK.REGISTER | vectors | triggers | dma | clocks | pins "
            "[BLOCK | PIN]]  "
            "or  BOARD [dma]",
            "Shows a chip, a block's registers, a register's bits with offsets in bytes "
            "and words,\nabsolute address and reset value, the interrupt vectors, which "
            "block can start,\ngate or clock which, who may ask a DMA controller, the clock "
            "tree after reset, which function "
            "comes out on which pin;\nof a board the wiring "
            "list, or who has which channel of a DMA controller.",
            entries, &status))
        return status;
    bool pins = argc > 2 && !strcmp(argv[2], "pins");
    if (argc < 2 || argc > (pins ? 4 : 3))
        return cli_error("show takes a chip and, if you like, a block or register; see 'wadium "
                         "show --help'");
    wad_board *board;
    char *sheet = wad_locate(argv[1], ".sheet", NULL);
    bool is_board = !sheet && cli_find_board(argv[1], &board);
    g_free(sheet);
    if (!is_board)
        return show_chip(argv[1], argc > 2 ? argv[2] : NULL, argc > 3 ? argv[3] : NULL, json);
    if (!board)
        return CLI_USAGE;
    static const char *const parts[] = {"dma"};
    status = CLI_GOOD;
    if (argc > 2 && !strcmp(argv[2], "dma"))
        wad_show_claims(board, stdout);
    else if (json)
        status = cli_error("--json shows a chip: %s", board->sheet->name);
    else if (argc > 2)
        status = cli_unknown("table of a board", argv[2], parts, 1);
    else
        wad_show_board(board, stdout);
    wad_board_free(board);
    return status;
}
