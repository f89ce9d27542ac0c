/* SPDX-License-Identifier: MIT */
/* Statements of a unit in the chip, which stand among its roles. */
#include <string.h>

#include "build.h"

/* In the chip a unit's statements stand among its roles; `clock pins SCK` is a role. */
bool wadi_is_unit_statement(const wadi_stmt *stmt, const wad_kind *kind)
{
    static const char *const words[] = {"clock",    "needs",   "irq",   "route",  "pins",
                                        "triggers", "carries", "draws", "active", "requests"};
    const wadi_tok *t = stmt->toks;
    bool known = false;
    for (unsigned i = 0; t->type == WADI_T_NAME && i < G_N_ELEMENTS(words); i++)
        known = known || !strcmp(t->text, words[i]);
    bool signal = known && t[1].type == WADI_T_NAME && !strcmp(t[1].text, "pins");
    return known && !(signal && wad_kind_role_index(kind, t->text) >= 0);
}
