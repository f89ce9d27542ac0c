/* SPDX-License-Identifier: MIT */
/* Texts of users on their way into another language: what they hold is text there, never more. */
#ifndef WADI_QUOTE_H
#define WADI_QUOTE_H

#include <stdio.h>

/** On one line: control characters as blanks, what is no UTF-8 replaced. NULL is "". g_free. */
char *wadi_line_copy(const char *text);
/** The same that lives as long as the process: for what a sheet holds, not for what a run says. */
const char *wadi_line_text(const char *text);
/** That for inside of a C comment. */
const char *wadi_comment_text(const char *text);
/** In a Markdown table's cell. */
void wadi_markdown_text(FILE *out, const char *text);
/** As a double-quoted scalar of YAML, its quotes included. */
void wadi_yaml_text(FILE *out, const char *text);

#endif
