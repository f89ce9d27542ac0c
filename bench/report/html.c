/* SPDX-License-Identifier: MIT */
#include "html.h"

#include <string.h>

static const char style[] =
    "body{font:15px/1.45 system-ui,sans-serif;color:#1d2a33;background:#fff;margin:2em auto;"
    "max-width:76em;padding:0 1em}"
    "h1{font-size:1.6em;margin:0 0 .2em}h2{font-size:1.25em;margin:2em 0 .4em;border-bottom:2px "
    "solid #c9d6dc;padding-bottom:.2em}h3{font-size:1em;margin:1.4em 0 .4em}"
    "table{border-collapse:collapse;margin:.4em 0 1em}th,td{text-align:left;padding:.25em .9em "
    ".25em 0;border-bottom:1px solid #e2e9ec;vertical-align:top}th{color:#5b6d78;font-weight:600}"
    "td{font-variant-numeric:tabular-nums}"
    "tr.good td:first-child{color:#1b7f4d;font-weight:700}"
    "tr.bad td{background:#fdf0ee}tr.bad td:first-child{color:#b3261e;font-weight:700}"
    "pre{background:#f4f7f8;padding:.8em 1em;overflow:auto;font-size:13px}"
    ".verdict{display:inline-block;padding:.15em .7em;border-radius:.3em;color:#fff;"
    "font-weight:700;background:#1b7f4d}.verdict.bad{background:#b3261e}"
    ".dim{color:#5b6d78}svg{max-width:100%;height:auto}";

void wadi_html_text(FILE *out, const char *text)
{
    char *valid = g_utf8_make_valid(text, -1), *escaped = g_markup_escape_text(valid, -1);
    fputs(escaped, out);
    g_free(escaped);
    g_free(valid);
}

void wadi_html_element(FILE *out, const char *tag, const char *text)
{
    fprintf(out, "<%s>", tag);
    wadi_html_text(out, text);
    fprintf(out, "</%.*s>\n", (int)strcspn(tag, " "), tag);
}

void wadi_html_begin(FILE *out, const char *title)
{
    fputs("<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n", out);
    wadi_html_element(out, "title", title);
    fprintf(out, "<style>%s</style>\n</head>\n<body>\n", style);
    wadi_html_element(out, "h1", title);
}

void wadi_html_end(FILE *out)
{
    fputs("</body>\n</html>\n", out);
}

void wadi_html_row(FILE *out, const char *kind, const char *row_style, const char *const *cells,
                   unsigned n)
{
    if (row_style)
        fprintf(out, "<tr class=\"%s\">", row_style);
    else
        fputs("<tr>", out);
    for (unsigned i = 0; i < n; i++) {
        fprintf(out, "<%s>", kind);
        wadi_html_text(out, cells[i] ? cells[i] : "");
        fprintf(out, "</%s>", kind);
    }
    fputs("</tr>\n", out);
}

bool wadi_html_svg(FILE *out, const char *path)
{
    char *text;
    if (!g_file_get_contents(path, &text, NULL, NULL))
        return false;
    const char *from = strstr(text, "<svg"); /* what stands before is a file's, not a page's */
    if (from)
        fputs(from, out);
    g_free(text);
    return from != NULL;
}

void wadi_html_file(FILE *out, const char *what, const char *path)
{
    char *bytes = NULL, *sum = NULL;
    gsize size;
    if (!path)
        return;
    if (g_file_get_contents(path, &bytes, &size, NULL))
        sum = g_compute_checksum_for_data(G_CHECKSUM_SHA256, (const guchar *)bytes, size);
    char *base = g_path_get_basename(path);
    char *shown = g_strdup_printf("SHA-256 %s", sum ? sum : "unknown: it cannot be read");
    const char *const cells[] = {what, base, shown};
    wadi_html_row(out, "td", NULL, cells, 3);
    g_free(shown);
    g_free(base);
    g_free(sum);
    g_free(bytes);
}
