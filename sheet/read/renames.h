/* SPDX-License-Identifier: MIT */
/* Words of the languages that had another name before: read with a note, and written anew by
 * `wadium emit sheet`. */
#ifndef WADI_RENAMES_H
#define WADI_RENAMES_H

#include "lang/statement.h"

/** What a token is called today, by the words before it in its statement; NULL: it is so already.
 */
const char *wadi_renamed(const wadi_stmt *stmt, unsigned token);
/** The same for the name of a kind. */
const char *wadi_renamed_kind(const char *kind);

#endif
