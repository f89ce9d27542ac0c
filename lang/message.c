/* SPDX-License-Identifier: MIT */
#include <glib.h>
#include <stdarg.h>
#include <string.h>

#include "wadium/host/diag.h"

#define KEEP 50

typedef struct item {
    wad_diag shown;
    char *file, *text, *quoted;
} item;

struct wad_diags {
    GPtrArray *items;
    unsigned count[3];
};

static void item_free(void *data)
{
    item *it = data;
    g_free(it->file);
    g_free(it->text);
    g_free(it->quoted);
    g_free(it);
}

wad_diags *wad_diags_new(void)
{
    wad_diags *diags = g_new0(wad_diags, 1);
    diags->items = g_ptr_array_new_with_free_func(item_free);
    return diags;
}

void wad_diags_free(wad_diags *diags)
{
    if (!diags)
        return;
    g_ptr_array_free(diags->items, TRUE);
    g_free(diags);
}

/* A layout is read once for each set of parameters: the same mistake is told once. */
static bool already(const wad_diags *diags, const wad_where *where, const char *text)
{
    for (unsigned i = 0; where && i < diags->items->len; i++) {
        const wad_diag *d = wad_diags_at(diags, i);
        if (d->line == where->line && d->col == where->col && !strcmp(d->text, text))
            return true;
    }
    return false;
}

void wad_diags_add(wad_diags *diags, wad_severity severity, const wad_where *where,
                   const char *quoted, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    if (already(diags, where, text)) {
        g_free(text);
        return;
    }
    diags->count[severity]++;
    if (diags->items->len >= KEEP) {
        g_free(text);
        return;
    }
    item *it = g_new0(item, 1);
    it->text = text;
    it->file = g_strdup(where && where->file ? where->file : "?");
    it->quoted = g_strdup(quoted);
    it->shown = (wad_diag){severity, it->file,  where ? where->line : 0, where ? where->col : 0,
                           it->text, it->quoted};
    g_ptr_array_add(diags->items, it);
}

unsigned wad_diags_errors(const wad_diags *diags)
{
    return diags->count[WAD_ERROR];
}

unsigned wad_diags_warnings(const wad_diags *diags)
{
    return diags->count[WAD_WARNING];
}

unsigned wad_diags_count(const wad_diags *diags)
{
    return diags->items->len;
}

const wad_diag *wad_diags_at(const wad_diags *diags, unsigned i)
{
    return i < diags->items->len ? &((item *)diags->items->pdata[i])->shown : NULL;
}

/* Tabs are kept in the caret's indentation, so that it stands right at any tab width. */
static void print_caret(const wad_diag *d, FILE *out)
{
    fprintf(out, "  %s\n  ", d->quoted);
    for (uint32_t i = 0; i + 1 < d->col && d->quoted[i]; i++)
        fputc(d->quoted[i] == '\t' ? '\t' : ' ', out);
    fputs("^\n", out);
}

void wad_diags_print(const wad_diags *diags, FILE *out)
{
    static const char *const words[] = {"note", "warning", "error"};
    for (unsigned i = 0; i < diags->items->len; i++) {
        const wad_diag *d = wad_diags_at(diags, i);
        if (d->line)
            fprintf(out, "%s:%u:%u: ", d->file, d->line, d->col);
        else
            fprintf(out, "%s: ", d->file);
        fprintf(out, "%s: %s\n", words[d->severity], d->text);
        if (d->quoted && d->line)
            print_caret(d, out);
    }
    unsigned all = diags->count[0] + diags->count[1] + diags->count[2];
    if (all > diags->items->len)
        fprintf(out, "... and %u more\n", all - diags->items->len);
}
