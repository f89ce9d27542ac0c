/* SPDX-License-Identifier: MIT */
/* One page that needs nothing else: text is escaped, styles and pictures are inside. */
#ifndef WADI_BENCH_HTML_H
#define WADI_BENCH_HTML_H

#include <glib.h>
#include <stdbool.h>
#include <stdio.h>

void wadi_html_begin(FILE *out, const char *title);
void wadi_html_end(FILE *out);
/** With &, <, > and quotes escaped; what is no text is shown as such. */
void wadi_html_text(FILE *out, const char *text);
/** `<tag>text</tag>` and a new line. */
void wadi_html_element(FILE *out, const char *tag, const char *text);
/** A row of cells; `kind`: th or td; `style`: a class of the row, or NULL. */
void wadi_html_row(FILE *out, const char *kind, const char *style, const char *const *cells,
                   unsigned n);
/** The picture of an .svg file, inside of the page. False: it cannot be read. */
bool wadi_html_svg(FILE *out, const char *path);
/** "path, SHA-256 ..." of a file as a row; nothing for NULL. */
void wadi_html_file(FILE *out, const char *what, const char *path);

#endif
