/* SPDX-License-Identifier: MIT */
#include "quote.h"

#include <glib.h>
#include <stdbool.h>
#include <string.h>

/* U+2028 and U+2029 end lines in some readers. */
static bool ends_lines(gunichar c)
{
    return g_unichar_iscntrl(c) || c == 0x2028 || c == 0x2029;
}

static GString *line_of(const char *text)
{
    char *valid = g_utf8_make_valid(text ? text : "", -1);
    GString *line = g_string_new(NULL);
    for (const char *p = valid; *p; p = g_utf8_next_char(p)) {
        gunichar c = g_utf8_get_char(p);
        g_string_append_unichar(line, ends_lines(c) ? ' ' : c);
    }
    g_free(valid);
    return line;
}

static const char *keep(GString *text)
{
    const char *kept = g_intern_string(text->str);
    g_string_free(text, TRUE);
    return kept;
}

char *wadi_line_copy(const char *text)
{
    return g_string_free(line_of(text), FALSE);
}

const char *wadi_line_text(const char *text)
{
    return keep(line_of(text));
}

const char *wadi_comment_text(const char *text)
{
    GString *line = line_of(text);
    g_string_replace(line, "*/", "* /", 0);
    g_string_replace(line, "/*", "/ *", 0);
    if (g_str_has_suffix(line->str, "*")) /* ours may follow at once */
        g_string_append_c(line, ' ');
    return keep(line);
}

void wadi_markdown_text(FILE *out, const char *text)
{
    GString *line = line_of(text);
    for (const char *p = line->str; *p; p++) {
        if (strchr("|`<[\\", *p))
            fputc('\\', out);
        fputc(*p, out);
    }
    g_string_free(line, TRUE);
}

void wadi_yaml_text(FILE *out, const char *text)
{
    char *valid = g_utf8_make_valid(text ? text : "", -1);
    fputc('"', out);
    for (const char *p = valid; *p; p = g_utf8_next_char(p)) {
        gunichar c = g_utf8_get_char(p);
        if (c == '"' || c == '\\')
            fprintf(out, "\\%c", (char)c);
        else if (c == '\n')
            fputs("\\n", out);
        else if (ends_lines(c))
            fprintf(out, c < 0x100 ? "\\x%02X" : "\\u%04X", c);
        else
            fwrite(p, 1, (size_t)(g_utf8_next_char(p) - p), out);
    }
    fputc('"', out);
    g_free(valid);
}
