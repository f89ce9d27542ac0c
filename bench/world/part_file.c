/* SPDX-License-Identifier: MIT */
/* A part in a C file of the bench's own: compiled, loaded, and its class looked over. */
#include <string.h>

#include "bench/language/value.h"
#include "c_file.h"
#include "lang/cursor.h"
#include "part_say.h"

static void fail_at(wadi_cursor *c, const wad_where *where, const char *path, const char *why)
{
    char *text = g_strchomp(g_strdup(why));
    if (!c->failed)
        wadi_error(c->src, where, "%s is no part: %s", path, text);
    c->failed = true;
    g_free(text);
}

/* ---- is the class one? ---- */

static bool begins_with(const char *wires, const char *with)
{
    size_t n = strlen(with);
    return wires && !strncmp(wires, with, n) && (!wires[n] || wires[n] == ' ');
}

static const char *wrong_wires(const wad_part_class *cls)
{
    char **words = g_strsplit(cls->wires, " ", -1);
    const char *wrong = NULL;
    unsigned n = 0;
    for (unsigned i = 0; words[i] && !wrong; i++) {
        const char *name = words[i] + strspn(words[i], ">?");
        n += *name != 0;
        if (*words[i] && (!*name || strlen(name) > 15))
            wrong = "a wire's name has 1 to 15 characters";
    }
    g_strfreev(words);
    return n > WAD_PART_WIRES ? "it has more than 8 wires" : wrong;
}

static const char *wrong_class(const wad_part_class *cls)
{
    if (!cls)
        return "wad_part_of_file returns NULL";
    if (!cls->kind || !cls->wires)
        return "its class has no kind, or no wires";
    if (cls->spi && cls->serial)
        return "it is on an SPI bus, or on a serial line, not both";
    if (cls->spi && !begins_with(cls->wires, WAD_WIRES_SPI))
        return "on an SPI bus its wires begin with WAD_WIRES_SPI";
    if (cls->spi && !cls->spi->next)
        return "on an SPI bus it needs 'next', the frame that goes out";
    if (cls->spi && (cls->spi->bits == 1 || cls->spi->bits > 32))
        return "its frames have 2 to 32 bits";
    if (cls->serial && !begins_with(cls->wires, WAD_WIRES_SERIAL))
        return "on a serial line its wires begin with WAD_WIRES_SERIAL";
    if (cls->acts && cls->acts[0].word && !cls->act)
        return "it has acts, and no function 'act'";
    for (unsigned i = 0; cls->acts && cls->acts[i].word; i++)
        for (unsigned k = 0; k < i; k++)
            if (!strcmp(cls->acts[i].word, cls->acts[k].word))
                return "two of its acts have one word";
    return wrong_wires(cls);
}

/* ---- loaded ---- */

typedef const wad_part_class *(*class_fn)(void);

static const wad_part_class *load(wad_bench *b, wadi_cursor *c, const wad_where *where,
                                  const char *path)
{
    char *why = NULL;
    void *symbol = wadi_c_file_load(b, path, "wad_part_of_file", "WAD_PART", &why);
    class_fn of_file;
    memcpy(&of_file, &symbol, sizeof of_file);
    const wad_part_class *cls = symbol ? of_file() : NULL;
    const char *wrong = symbol ? wrong_class(cls) : why;
    if (wrong)
        fail_at(c, where, path, wrong);
    g_free(why);
    return wrong ? NULL : cls;
}

const wad_part_class *wadi_part_from_file(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const char *file = wadi_need_string(c, "a C file's name in quotes");
    if (!file)
        return NULL;
    char *path = wadi_bench_path(b, file);
    const wad_part_class *cls = load(b, c, &where, path);
    g_free(path);
    return cls;
}
