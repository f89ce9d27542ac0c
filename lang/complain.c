/* SPDX-License-Identifier: MIT */
#include "complain.h"

#include <stdarg.h>
#include <string.h>

static char *quote_line(const wadi_source *src, uint32_t line)
{
    const char *p = src->text, *end = src->text + src->size;
    while (--line && p < end) {
        const char *nl = memchr(p, '\n', (size_t)(end - p));
        if (!nl)
            return NULL;
        p = nl + 1;
    }
    const char *nl = memchr(p, '\n', (size_t)(end - p));
    size_t n = (size_t)((nl ? nl : end) - p);
    if (n > 300)
        n = 300;
    char *valid = g_utf8_make_valid(p, (gssize)n);
    return g_strchomp(valid);
}

static void message(const wadi_source *src, wad_severity severity, const wad_where *where,
                    const char *format, va_list args)
{
    char *text = g_strdup_vprintf(format, args);
    while (src->over && strcmp(src->name, where->file))
        src = src->over;
    char *quoted = where->line ? quote_line(src, where->line) : NULL;
    wad_diags_add(src->diags, severity, where, quoted, "%s", text);
    g_free(quoted);
    g_free(text);
}

void wadi_error(const wadi_source *src, const wad_where *where, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    message(src, WAD_ERROR, where, format, args);
    va_end(args);
}

void wadi_warn(const wadi_source *src, const wad_where *where, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    message(src, WAD_WARNING, where, format, args);
    va_end(args);
}

void wadi_note(const wadi_source *src, const wad_where *where, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    message(src, WAD_NOTE, where, format, args);
    va_end(args);
}

char *wadi_read_file(const char *path, const char *what, size_t *size, wad_diags *diags)
{
    char *text;
    GError *error = NULL;
    if (g_file_get_contents(path, &text, size, &error))
        return text;
    wad_diags_add(diags, WAD_ERROR, &(wad_where){path, 0, 0}, NULL, "cannot read the %s: %s", what,
                  error->message);
    g_error_free(error);
    return NULL;
}
