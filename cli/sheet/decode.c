/* SPDX-License-Identifier: MIT */
#include "cli/shared/cli.h"
#include "wadium/host/words.h"

static bool has_doubts(const wad_word *word)
{
    char **doubts = wad_word_doubts(word);
    bool any = doubts[0] != NULL;
    g_strfreev(doubts);
    return any;
}

/* From the named register or address on, a word a value. */
static int decode_values(const wad_sheet *sheet, const char *where, char **values, int n)
{
    wad_word word = {0};
    uint64_t address;
    char *why = NULL;
    if (wad_parse_address(sheet, where, &address)) {
        if (!wad_sheet_at(sheet, address, &word.ref))
            return cli_error("%s: no register lies at %s", sheet->name, where);
    } else if (!wad_sheet_resolve(sheet, where, &word.ref, &why)) {
        int status = cli_error("%s: %s", sheet->name, why);
        g_free(why);
        return status;
    }
    int status = CLI_GOOD;
    word.ref.field = NULL;
    for (int i = 0; i < n; i++) {
        if (!wad_parse_number(values[i], &word.value))
            return cli_error("'%s' is no number", values[i]);
        if (n == 1)
            wad_show_decoded(sheet, &word, stdout);
        else
            wad_show_word_line(&word, stdout);
        status = has_doubts(&word) ? CLI_FAILED : status;
        uint64_t next = wad_fieldref_address(&word.ref) + wad_register_bytes(word.ref.reg);
        if (i + 1 < n && !wad_sheet_at(sheet, next, &word.ref))
            return cli_error("%s: no register lies at 0x%llx, where value %d would be", sheet->name,
                             (unsigned long long)next, i + 2);
    }
    return status;
}

static int decode_file(const wad_sheet *sheet, const char *path)
{
    wad_diags *diags = wad_diags_new();
    wad_dump *dump = wad_dump_read(sheet, path, diags);
    int status = dump ? CLI_GOOD : CLI_USAGE;
    cli_tell(diags);
    for (unsigned i = 0; dump && i < wad_dump_count(dump); i++) {
        wad_show_word_line(wad_dump_word(dump, i), stdout);
        status = has_doubts(wad_dump_word(dump, i)) ? CLI_FAILED : status;
    }
    wad_dump_free(dump);
    return status;
}

int cli_decode(int argc, char **argv)
{
    int status;
    if (!cli_options(
            &argc, &argv, "decode", "CHIP REGISTER VALUE...  or  CHIP @FILE",
            "Takes a register's value apart: fields, their meanings, and what is wrong with "
            "it. REGISTER is\nBLOCK.REGISTER or an address; further values are those of the "
            "words that follow. A file has a\nregister or an address and a value on each "
            "line. Exit status 1: something is wrong with a value.",
            NULL, &status))
        return status;
    bool file = argc == 3 && *argv[2] == '@';
    if (argc < 4 && !file)
        return cli_error(
            "decode takes a chip, a register and a value, or @FILE; see 'wadium decode "
            "--help'");
    wad_sheet *sheet = cli_read_sheet(argv[1]);
    if (!sheet)
        return CLI_USAGE;
    status =
        file ? decode_file(sheet, argv[2] + 1) : decode_values(sheet, argv[2], argv + 3, argc - 3);
    wad_sheet_free(sheet);
    return status;
}
