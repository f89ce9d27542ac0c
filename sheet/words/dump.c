/* SPDX-License-Identifier: MIT */
/* Addresses to registers; dumps: a register's value a line. */
#include <glib.h>
#include <string.h>

#include "lang/complain.h"
#include "sheet/laws/rate.h"
#include "wadium/host/words.h"

bool wad_sheet_at(const wad_sheet *sheet, uint64_t address, wad_fieldref *ref)
{
    bool found = false;
    for (unsigned i = 0; i < sheet->n_blocks; i++) {
        const wad_instance *b = sheet->blocks[i];
        if (address < b->base || address >= b->base + b->layout->size)
            continue;
        for (unsigned k = 0; k < b->layout->n_regs; k++) {
            const wad_register *r = b->layout->regs[k];
            for (uint32_t n = 0; n < (r->count ? r->count : 1); n++) {
                uint64_t at = b->base + r->offset + (uint64_t)n * r->step;
                bool writes_only = r->access == WAD_ACCESS_WO;
                if (address < at || address >= at + wad_register_bytes(r) || (found && writes_only))
                    continue;
                *ref = (wad_fieldref){.block = b,
                                      .reg = wad_register_element(r, n),
                                      .reg_index = n,
                                      .width = r->width};
                found = true;
            }
        }
    }
    return found;
}

struct wad_dump {
    GArray *words; /* wad_word */
};

static void wrong_line(wad_diags *diags, const char *name, unsigned line, const char *what,
                       const char *detail)
{
    wad_where where = {name, line, 1};
    wad_diags_add(diags, WAD_ERROR, &where, NULL, "%s%s", what, detail);
}

static bool dump_line(const wad_sheet *sheet, wad_dump *dump, const char *text, const char *name,
                      unsigned line, wad_diags *diags)
{
    char **parts = g_strsplit_set(text, " \t:=,", -1);
    const char *key = NULL, *value = NULL;
    unsigned n = 0;
    bool ok = true;
    for (unsigned i = 0; parts[i] && *parts[i] != '#'; i++)
        if (*parts[i]) {
            key = n == 0 ? parts[i] : key;
            value = n == 1 ? parts[i] : value;
            n++;
        }
    wad_word w = {0};
    uint64_t address;
    char *why = NULL;
    if (n == 1 || n > 2) {
        wrong_line(diags, name, line, "a line is an address or BLOCK.REGISTER, and a value", "");
        ok = false;
    } else if (n == 2) {
        bool number = wad_parse_number(key, &address);
        if (number ? !wad_sheet_at(sheet, address, &w.ref)
                   : !wad_sheet_resolve(sheet, key, &w.ref, &why)) {
            wrong_line(diags, name, line, why ? why : "no register lies at ", why ? "" : key);
            ok = false;
        } else if (!wad_parse_number(value, &w.value)) {
            wrong_line(diags, name, line, "this is no number: ", value);
            ok = false;
        } else {
            g_array_append_val(dump->words, w);
        }
    }
    g_free(why);
    g_strfreev(parts);
    return ok;
}

wad_dump *wad_dump_parse(const wad_sheet *sheet, const char *text, const char *name,
                         wad_diags *diags)
{
    wad_dump *dump = g_new0(wad_dump, 1);
    bool ok = true;
    dump->words = g_array_new(FALSE, FALSE, sizeof(wad_word));
    char **lines = g_strsplit(text, "\n", -1);
    for (unsigned i = 0; lines[i]; i++)
        ok = dump_line(sheet, dump, g_strchomp(lines[i]), name, i + 1, diags) && ok;
    g_strfreev(lines);
    if (ok && !dump->words->len) {
        wad_diags_add(diags, WAD_ERROR, &(wad_where){name, 0, 0}, NULL,
                      "the dump is empty: lines of an address or BLOCK.REGISTER and a value");
        ok = false;
    }
    if (ok)
        return dump;
    wad_dump_free(dump);
    return NULL;
}

wad_dump *wad_dump_read(const wad_sheet *sheet, const char *path, wad_diags *diags)
{
    size_t size;
    char *text = wadi_read_file(path, "dump", &size, diags);
    bool is_text = text && strlen(text) == size && g_utf8_validate(text, -1, NULL);
    if (text && !is_text)
        wad_diags_add(diags, WAD_ERROR, &(wad_where){path, 0, 0}, NULL,
                      "this is no dump: lines of an address or BLOCK.REGISTER and a value");
    wad_dump *dump = is_text ? wad_dump_parse(sheet, text, path, diags) : NULL;
    g_free(text);
    return dump;
}

void wad_dump_free(wad_dump *dump)
{
    if (!dump)
        return;
    g_array_free(dump->words, TRUE);
    g_free(dump);
}

unsigned wad_dump_count(const wad_dump *dump)
{
    return dump->words->len;
}

const wad_word *wad_dump_word(const wad_dump *dump, unsigned i)
{
    return i < dump->words->len ? &g_array_index(dump->words, wad_word, i) : NULL;
}
