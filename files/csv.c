/* SPDX-License-Identifier: MIT */
#include "csv.h"

#include <glib.h>
#include <stdbool.h>
#include <string.h>

#include "quote.h"

void wadi_csv_put(FILE *out, const char *text)
{
    char *line = wadi_line_copy(text);
    bool plain = !strpbrk(line, ",;\t\"") && *line != '#' && *line != ' ';
    if (plain)
        fputs(line, out);
    else
        fputc('"', out);
    for (const char *p = line; !plain && *p; p++) {
        if (*p == '"')
            fputc('"', out);
        fputc(*p, out);
    }
    if (!plain)
        fputc('"', out);
    g_free(line);
}

/* `at` stands behind the opening quote; leaves it behind the closing one, or at the line's end. */
static void quoted(const char **at, GString *text)
{
    const char *p = *at;
    for (; *p && (*p != '"' || p[1] == '"'); p++) {
        p += *p == '"';
        g_string_append_c(text, *p);
    }
    *at = *p ? p + 1 : p;
}

char **wadi_csv_split(const char *line, char separator)
{
    GPtrArray *fields = g_ptr_array_new();
    const char *p = line;
    for (;;) {
        GString *text = g_string_new(NULL);
        while (*p == ' ' || (*p == '\t' && separator != '\t'))
            p++;
        bool in_quotes = *p == '"';
        if (in_quotes) {
            p++;
            quoted(&p, text);
        }
        while (*p && *p != separator)
            g_string_append_c(text, *p++);
        if (!in_quotes)
            g_strchomp(text->str);
        g_ptr_array_add(fields, g_string_free(text, FALSE));
        if (!*p)
            break;
        p++;
    }
    g_ptr_array_add(fields, NULL);
    return (char **)g_ptr_array_free(fields, FALSE);
}
