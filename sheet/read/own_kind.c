/* SPDX-License-Identifier: MIT */
#include "own_kind.h"

#include <string.h>

#include "lang/unit.h"
#include "sheet/chip/kinds.h"

static const char *quantity_sort(const wadi_tok *tok)
{
    static const char *const sorts[] = {
        [WAD_UNIT_V] = "VOLT",  [WAD_UNIT_S] = "TIME",  [WAD_UNIT_HZ] = "FREQ",
        [WAD_UNIT_OHM] = "OHM", [WAD_UNIT_F] = "FARAD", [WAD_UNIT_PART] = "SHARE"};
    wad_unit unit = WAD_UNIT_NONE;
    wad_rational scale;
    if (tok->type != WADI_T_NAME || !wadi_unit(tok->text, &unit, &scale))
        return "COUNT";
    return unit < G_N_ELEMENTS(sorts) && sorts[unit] ? sorts[unit] : "COUNT";
}

/* What a role's statement says of its sort: behind its name and index. */
static const char *sort_of(const wadi_stmt *stmt)
{
    const wadi_tok *t = &stmt->toks[1];
    while (t->type == WADI_T_PUNCT && strcmp(t->text, "]"))
        t += t[1].type == WADI_T_NAME ? 2 : 1;
    t += t->type == WADI_T_PUNCT;
    if (t->type == WADI_T_NUMBER)
        return quantity_sort(t + 1);
    return t->type == WADI_T_NAME && !strcmp(t->text, "pins") ? "OUTPUT" : "FIELD";
}

const wad_kind *wadi_own_kind(wadi_build *b, const char *name, const wadi_group *group,
                              bool in_chip)
{
    wad_kind *kind = WADI_NEW(b->arena, wad_kind);
    *kind = (wad_kind){.name = name, .own = true};
    wad_role_info *roles = wadi_arena_alloc(b->arena, (group->n + 1) * sizeof *roles);
    kind->roles = roles;
    for (unsigned i = 0; i < group->n; i++) {
        const wadi_stmt *stmt = &group->stmts[i];
        if (stmt->toks[0].type != WADI_T_NAME || (in_chip && wadi_is_unit_statement(stmt, kind)) ||
            wad_kind_role_index(kind, stmt->toks[0].text) >= 0)
            continue;
        roles[kind->n_roles++] = (wad_role_info){stmt->toks[0].text, sort_of(stmt), false, ""};
    }
    int16_t *places = wadi_arena_alloc(b->arena, (kind->n_roles + 1) * sizeof *places);
    wadi_find_enables(kind, places);
    kind->enables = places;
    for (unsigned i = 0; i < kind->n_roles; i++) /* what may interrupt tells others, too */
        if (places[i] >= 0)
            roles[i].sort = "FLAG";
    if (kind->n_roles > WADI_MOST_ROLES)
        wadi_error(b->src, &group->stmts[0].toks[0].where,
                   "kind '%s' has %u roles: a model is told of %d at most", name, kind->n_roles,
                   WADI_MOST_ROLES);
    return kind;
}
