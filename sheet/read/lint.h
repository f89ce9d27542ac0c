/* SPDX-License-Identifier: MIT */
/* What the files that look for doubts share. */
#ifndef WADI_LINT_H
#define WADI_LINT_H

#include "wadium/host/sheet.h"
#include "wadium/host/warnings.h"

typedef struct linter {
    const wad_sheet *sheet;
    wad_diags *diags;
    const wad_layout *layout;
} linter;

/* Each has its number, so that one can be looked up, and left out. */
#define DOUBT(l, name, where, format, ...)                                                         \
    wad_diags_add((l)->diags, WAD_WARNING, (where), NULL, format " [L%d]", __VA_ARGS__,            \
                  WAD_WARNING_##name)

/** What is typed, and neither a model nor a rule of the bus does anything with it. */
void wadi_lint_served(linter *l);

#endif
