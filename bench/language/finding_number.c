/* SPDX-License-Identifier: MIT */
#include "finding_number.h"

#include "bench.h"
#include "lang/cursor.h"

bool wadi_parse_finding_number(wadi_cursor *c, unsigned *number)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a finding's number, such as W204");
    if (!name)
        return false;
    *number = *name == 'W' ? (unsigned)g_ascii_strtoull(name + 1, NULL, 10) : 0;
    if (!wad_finding_title((wad_finding_kind)*number)) {
        wadi_error(c->src, &where, "there is no finding '%s'; 'wadium findings' lists them", name);
        c->failed = true;
    }
    return !c->failed;
}
