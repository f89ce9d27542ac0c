/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "cli/shared/cli.h"
#include "wadium/host/rate.h"
#include "wadium/host/words.h"

/* `reset`, `zero` or a number. */
static bool start_value(const char *from, const wad_fieldref *reg, uint64_t *start)
{
    *start = reg->reg->reset;
    if (!from || !strcmp(from, "reset"))
        return true;
    *start = 0;
    return !strcmp(from, "zero") || wad_parse_number(from, start);
}

static int encode(const wad_sheet *sheet, char **args, const char *from, const char *clock,
                  bool all)
{
    wad_encode_rates rates = {.sheet = sheet, .clock = {0, 1}};
    wad_fieldref reg;
    wad_word word;
    char *why = NULL;
    uint64_t start;
    int status = CLI_GOOD;
    if (!wad_sheet_resolve(sheet, args[0], &reg, &why) || reg.field) {
        status = cli_error("%s: %s", sheet->name, why ? why : "name a register, not a field");
    } else if (!start_value(from, &reg, &start)) {
        status = cli_error("--from takes reset, zero or a number, not '%s'", from);
    } else if (clock && !wad_parse_rate(clock, &rates.clock)) {
        status = cli_error("'%s' is no frequency: write 48MHz", clock);
    } else if (!wad_encode_rated(&rates, &reg, start, (const char *const *)args + 1, &word, &why)) {
        status = cli_error("%s", why);
    } else {
        wad_show_encoded(sheet, &word, all, stdout);
        if (rates.told)
            printf("\n%s", rates.told);
        char **doubts = wad_word_doubts(&word);
        status = doubts[0] ? CLI_FAILED : CLI_GOOD;
        g_strfreev(doubts);
    }
    g_free(rates.told);
    g_free(why);
    return status;
}

int cli_encode(int argc, char **argv)
{
    char *from = NULL, *clock = NULL;
    gboolean all = FALSE;
    const GOptionEntry entries[] = {
        {"from", 0, 0, G_OPTION_ARG_STRING, &from,
         "what the other fields hold: reset (as is), zero, "
         "or a word",
         "WORD"},
        {"clock", 0, 0, G_OPTION_ARG_STRING, &clock,
         "the block's clock for settings that are rates, if not as after reset", "HZ"},
        {"explicit", 0, 0, G_OPTION_ARG_NONE, &all, "also fields that are 0 stand in the C", NULL},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "encode", "CHIP BLOCK.REGISTER [FIELD=VALUE...]",
                     "Makes a control word of fields, which take numbers or the names of their "
                     "values: hex, binary,\nthe register drawn with the fields that were set, what "
                     "was left, and the C that writes it.\nWhere a rate law rests on a field it "
                     "takes a rate as well (VALUE=2kHz, VALUE=500ms), and so does\nthe law's name "
                     "(baud=115200). Exit status 1: something is wrong with the word.",
                     entries, &status))
        return status;
    wad_sheet *sheet = NULL;
    if (argc < 3)
        status =
            cli_error("encode takes a chip, a register and fields; see 'wadium encode --help'");
    else
        sheet = cli_read_sheet(argv[1]);
    status = sheet ? encode(sheet, argv + 2, from, clock, all) : CLI_USAGE;
    wad_sheet_free(sheet);
    g_free(from);
    g_free(clock);
    return status;
}
