/* SPDX-License-Identifier: MIT */
/* Sizes by object, read off the linker's map. */
#include <string.h>

#include "measure.h"

static void free_part(void *p)
{
    wad_image_part *part = p;
    g_free(part->name);
    g_free(part->group);
    g_free(part);
}

/* "3_uart.o" of the builder's; -1: somebody else's, the compiler's library. */
static int number_of(const wadi_builder *w, const char *file)
{
    for (guint i = 0; i < w->objects->len; i++)
        if (!strcmp(w->objects->pdata[i], file))
            return (int)i;
    return -1;
}

static wad_image_part *part_of(const wadi_builder *w, const char *file, wadi_group_of group,
                               void *ctx, GPtrArray *parts)
{
    int n = number_of(w, file);
    char *base = n >= 0 ? g_path_get_basename(file) : g_strdup("support routines");
    const char *name = n >= 0 ? strchr(base, '_') + 1 : base;
    char *stem = g_strndup(name, strcspn(name, "."));
    wad_image_part *part = NULL;
    for (guint i = 0; i < parts->len && !part; i++)
        if (!strcmp(((wad_image_part *)parts->pdata[i])->name, stem))
            part = parts->pdata[i];
    if (!part) {
        part = g_new0(wad_image_part, 1);
        part->name = g_strdup(stem);
        part->group = g_strdup(n >= 0 ? group(ctx, (unsigned)n) : "compiler");
        g_ptr_array_add(parts, part);
    }
    g_free(stem);
    g_free(base);
    return part;
}

static bool begins(const char *text, const char *const *with)
{
    for (unsigned i = 0; with[i]; i++)
        if (g_str_has_prefix(text, with[i]))
            return true;
    return false;
}

static void count(wad_image_part *part, const char *section, unsigned bytes)
{
    static const char *const code[] = {".text", ".rodata", ".srodata", ".vectors", NULL};
    static const char *const data[] = {".data", ".sdata", NULL};
    static const char *const zero[] = {".bss", ".sbss", ".noinit", "COMMON", NULL};
    if (begins(section, code))
        part->code += bytes;
    else if (begins(section, data))
        part->data += bytes;
    else if (begins(section, zero))
        part->zero += bytes;
}

/* " .text.name  0xADDRESS  0xSIZE  FILE", the name on a line of its own where it is long. */
static void map_line(const wadi_builder *w, const char *line, char *pending, size_t room,
                     wadi_group_of group, void *ctx, GPtrArray *parts)
{
    char **word = g_strsplit_set(g_strstrip((char *)line), " \t", -1);
    GPtrArray *words = g_ptr_array_new();
    for (unsigned i = 0; word[i]; i++)
        if (*word[i])
            g_ptr_array_add(words, word[i]);
    bool continued = words->len >= 3 && *pending && g_str_has_prefix(words->pdata[0], "0x");
    const char *section = continued ? pending : words->len ? words->pdata[0] : "";
    unsigned at = continued ? 0 : 1;
    if (words->len == 1 && (*section == '.' || !strcmp(section, "COMMON"))) {
        g_strlcpy(pending, section, room);
    } else {
        guint64 size = 0;
        if (words->len >= at + 3 && g_str_has_prefix(words->pdata[at], "0x") &&
            g_str_has_prefix(words->pdata[at + 1], "0x"))
            size = g_ascii_strtoull(words->pdata[at + 1], NULL, 16);
        if (size)
            count(part_of(w, words->pdata[at + 2], group, ctx, parts), section, (unsigned)size);
        *pending = 0;
    }
    g_ptr_array_free(words, TRUE);
    g_strfreev(word);
}

static int by_size(const void *a, const void *b)
{
    const wad_image_part *x = *(wad_image_part *const *)a, *y = *(wad_image_part *const *)b;
    unsigned m = x->code + x->data + x->zero, n = y->code + y->data + y->zero;
    return m != n ? (m < n) - (m > n) : strcmp(x->name, y->name);
}

bool wadi_measure_sizes(wadi_builder *w, const char *map, wadi_group_of group, void *ctx,
                        wad_image_report *report)
{
    char *text, pending[256] = "";
    GError *error = NULL;
    report->parts = g_ptr_array_new_with_free_func(free_part);
    if (!g_file_get_contents(map, &text, NULL, &error)) {
        wadi_builder_fail(w, "%s", error->message);
        g_error_free(error);
        return false;
    }
    /* what was thrown away stands before it */
    const char *from = strstr(text, "Linker script and memory map");
    char **lines = g_strsplit(from ? from : text, "\n", -1);
    for (unsigned i = 0; lines[i]; i++)
        if (*lines[i] == ' ')
            map_line(w, lines[i], pending, sizeof pending, group, ctx, report->parts);
    g_strfreev(lines);
    g_free(text);
    for (guint i = report->parts->len; i-- > 0;) {
        const wad_image_part *p = report->parts->pdata[i];
        report->code += p->code;
        report->data += p->data;
        report->zero += p->zero;
        if (!p->code && !p->data && !p->zero)
            g_ptr_array_remove_index(report->parts, i);
    }
    g_ptr_array_sort(report->parts, by_size);
    return true;
}
