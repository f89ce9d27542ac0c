/* SPDX-License-Identifier: MIT */
/* Comma-separated values, as RFC 4180 has them: a field with a comma, a quote or a line's end
 * stands in quotes, a quote in it doubled. */
#ifndef WADI_CSV_H
#define WADI_CSV_H

#include <stdio.h>

/** A field, in quotes where it needs them; line ends as blanks. */
void wadi_csv_put(FILE *out, const char *text);
/** The fields of a line, blanks around them and quotes taken off; g_strfreev. Never empty. */
char **wadi_csv_split(const char *line, char separator);

#endif
