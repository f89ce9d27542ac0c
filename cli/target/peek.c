/* SPDX-License-Identifier: MIT */
/* Registers and variables of a live target: peek, poke. */
#include <string.h>

#include "cli/shared/on.h"
#include "wadium/host/words.h"

/* ---- what is meant ---- */

/* A register by name or address; false: it is none, and `why` may say what comes close. */
static bool find_register(const wad_sheet *sheet, const char *name, wad_fieldref *ref, char **why)
{
    uint64_t address;
    *why = NULL;
    if (!wad_parse_address(sheet, name, &address))
        return wad_sheet_resolve(sheet, name, ref, why);
    return wad_sheet_at(sheet, address, ref) && wad_fieldref_address(ref) == address;
}

/* BLOCK.SOMETHING is meant as a register, not as a variable. */
static bool names_block(const wad_sheet *sheet, const char *name)
{
    char *block = g_strndup(name, strcspn(name, ".["));
    bool known = wad_sheet_block(sheet, block) != NULL;
    g_free(block);
    return known;
}

/* ---- peek ---- */

typedef struct peek_flags {
    cli_on on;
    gboolean effects, line;
} peek_flags;

static int peek_register(peek_flags *f, const wad_fieldref *ref, bool one)
{
    char *why = NULL;
    wad_word word = {.ref = *ref};
    uint32_t value;
    word.ref.field = NULL;
    if (!wad_target_peek(f->on.target, &word.ref, f->effects, &value, &why))
        return cli_on_failed(why);
    word.value = value;
    if (one && !f->line)
        wad_show_decoded(f->on.sheet, &word, stdout);
    else
        wad_show_word_line(&word, stdout);
    return CLI_GOOD;
}

static int peek_memory(peek_flags *f, uint64_t address)
{
    char *why = NULL;
    uint32_t value;
    if (!wad_remote_get(wad_target_remote(f->on.target), address, 4, &value, &why))
        return cli_on_failed(why);
    printf("0x%08llX       0x%08X\n", (unsigned long long)address, value);
    return CLI_GOOD;
}

static int peek_variable(peek_flags *f, const char *name)
{
    char *why = NULL;
    if (!cli_on_variables(&f->on))
        return CLI_USAGE;
    char *text = wad_target_variable(f->on.target, f->on.variables, name, 60, &why);
    if (!text)
        return cli_on_failed(why);
    printf("%-16s %s\n", name, text);
    g_free(text);
    return CLI_GOOD;
}

static int peek_one(peek_flags *f, const char *name, bool one)
{
    wad_fieldref ref;
    uint64_t address;
    char *why = NULL;
    if (find_register(f->on.sheet, name, &ref, &why))
        return peek_register(f, &ref, one);
    if (wad_parse_address(f->on.sheet, name, &address)) {
        g_free(why);
        return peek_memory(f, address);
    }
    if (why && names_block(f->on.sheet, name))
        return cli_on_failed(why);
    g_free(why);
    return peek_variable(f, name);
}

int cli_peek(int argc, char **argv)
{
    peek_flags f = {0};
    const GOptionEntry entries[] = {
        CLI_ON_OPTIONS(&f.on),
        {"image", 'i', 0, G_OPTION_ARG_FILENAME, &f.on.image,
         "the program on the target, for its variables", "FILE.elf"},
        {"effects", 0, 0, G_OPTION_ARG_NONE, &f.effects,
         "read registers too whose reading takes or clears something", NULL},
        {"line", 'l', 0, G_OPTION_ARG_NONE, &f.line, "one line each, as of several", NULL},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "peek", "CHIP|BOARD REGISTER|ADDRESS|VARIABLE...",
                     "Reads a live target over the GDB remote protocol: registers with their "
                     "fields, words of memory,\nthe program's variables. The core stands still "
                     "meanwhile. The chip's identity is read first.",
                     entries, &status))
        return status;
    status = CLI_USAGE;
    if (argc < 3)
        cli_error("peek takes a chip or board, and what to read; see 'wadium peek --help'");
    else if (cli_on_sheet(&f.on, argv[1]) && cli_on_open(&f.on)) {
        status = CLI_GOOD;
        for (int i = 2; i < argc; i++)
            if (peek_one(&f, argv[i], argc == 3))
                status = CLI_USAGE;
    }
    cli_on_close(&f.on);
    return status;
}

/* ---- poke ---- */

/* The line of a register without its name. */
static void show_value(const char *what, const wad_fieldref *ref, uint32_t value)
{
    const wad_word word = {.ref = *ref, .value = value};
    char *text, *name = wad_fieldref_name(ref);
    size_t size;
    FILE *line = open_memstream(&text, &size);
    wad_show_word_line(&word, line);
    fclose(line);
    printf("  %-6s %s", what, text + strlen(name) + strspn(text + strlen(name), " "));
    free(text);
    g_free(name);
}

static void show_poked(const wad_fieldref *ref, const wad_poked *p)
{
    char *name = wad_fieldref_name(ref);
    puts(name);
    if (p->readable)
        show_value("was", ref, p->before);
    show_value("wrote", ref, p->wrote);
    if (p->readable)
        show_value("is", ref, p->after);
    else
        puts("  it cannot be read back");
    g_free(name);
}

static int tell_stuck(const wad_fieldref *ref, const wad_poked *p)
{
    if (!p->stuck)
        return CLI_GOOD;
    printf("  bits 0x%0*X did not take what was written", ref->reg->width / 4, p->stuck);
    if (ref->reg->lock) {
        char *lock = wad_lock_text(ref->reg->lock);
        printf(": the register is locked, %s", lock);
        g_free(lock);
    }
    putchar('\n');
    return CLI_FAILED;
}

static int poke_register(cli_on *on, const wad_fieldref *ref, char **values)
{
    uint64_t number;
    bool whole = wad_parse_number(values[0], &number);
    uint32_t value = (uint32_t)number;
    wad_poked p;
    char *why = NULL;
    if (whole && values[1])
        return cli_error("one value, or fields: FIELD=VALUE ...");
    if (whole && number >> ref->reg->width)
        return cli_error("%s does not fit into %u bits", values[0], ref->reg->width);
    if (!wad_target_poke(on->target, ref, (const char *const *)values, whole ? &value : NULL, &p,
                         &why))
        return cli_on_failed(why);
    show_poked(ref, &p);
    return tell_stuck(ref, &p);
}

static int poke_memory(cli_on *on, uint64_t address, const char *text)
{
    uint64_t number;
    uint32_t before, after;
    char *why = NULL;
    wad_remote *r = wad_target_remote(on->target);
    if (!wad_parse_number(text, &number) || number >> 32)
        return cli_error("'%s' is no 32-bit number", text);
    if (!wad_remote_get(r, address, 4, &before, &why) ||
        !wad_remote_put(r, address, 4, (uint32_t)number, &why) ||
        !wad_remote_get(r, address, 4, &after, &why))
        return cli_on_failed(why);
    printf("0x%08llX       0x%08X -> 0x%08X\n", (unsigned long long)address, before, after);
    if (after == number)
        return CLI_GOOD;
    printf("  bits 0x%08X did not take what was written\n", after ^ (uint32_t)number);
    return CLI_FAILED;
}

static int poke(cli_on *on, const char *name, char **values)
{
    wad_fieldref ref;
    uint64_t address;
    char *why = NULL;
    if (find_register(on->sheet, name, &ref, &why)) {
        if (ref.field)
            return cli_error("poke takes a register and fields: %s.%s %s=VALUE", ref.block->name,
                             ref.reg->name, ref.field->name);
        return poke_register(on, &ref, values);
    }
    bool memory = wad_parse_address(on->sheet, name, &address);
    int status = memory ? poke_memory(on, address, values[0]) : cli_error("%s", why);
    g_free(why);
    return status;
}

int cli_poke(int argc, char **argv)
{
    cli_on on = {0};
    const GOptionEntry entries[] = {CLI_ON_OPTIONS(&on), {0}};
    int status;
    if (!cli_options(&argc, &argv, "poke",
                     "CHIP|BOARD REGISTER VALUE  or  CHIP|BOARD REGISTER FIELD=VALUE...",
                     "Writes a register of a live target, and reads it back: what it was, what was "
                     "written, what it is.\nFlags that are cleared by writing 1 stay unless they "
                     "are named. Exit status 1: bits did not take.",
                     entries, &status))
        return status;
    status = CLI_USAGE;
    if (argc < 4)
        cli_error("poke takes a chip or board, a register and a value; see 'wadium poke --help'");
    else if (cli_on_sheet(&on, argv[1]) && cli_on_open(&on))
        status = poke(&on, argv[2], argv + 3);
    cli_on_close(&on);
    return status;
}
