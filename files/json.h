/* SPDX-License-Identifier: MIT */
/* JSON that every reader takes: numbers by one writer. */
#ifndef WADI_JSON_H
#define WADI_JSON_H

#include <json-glib/json-glib.h>
#include <stdio.h>

/** A tree as text, two blanks a level, a line's end behind it. What is no number there (NaN,
 * infinity) is null; text that is no UTF-8 is made so. Takes the node. */
void wadi_json_write(JsonNode *root, FILE *out);

#endif
