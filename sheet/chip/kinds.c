/* SPDX-License-Identifier: MIT */
#include "wadium/kinds.h"

#include <glib.h>
#include <string.h>

#include "wadium/host/sheet.h"

#define NEED_MUST                         true
#define NEED_MAY                          false
#define ROLE_INFO(name, sort, need, text) {#name, #sort, NEED_##need, text},

#define WAD_KIND(kind, list) static const wad_role_info kind##_roles[] = {list(ROLE_INFO)};
#include "wadium/kinds/all.h"
#undef WAD_KIND

static const struct {
    const char *name;
    const wad_role_info *roles;
    unsigned n;
} kinds[] = {
#define WAD_KIND(kind, list) {#kind, kind##_roles, sizeof kind##_roles / sizeof kind##_roles[0]},
#include "wadium/kinds/all.h"
#undef WAD_KIND
};

const wad_role_info *wad_kind_roles(const char *kind, unsigned *n)
{
    for (unsigned i = 0; i < sizeof kinds / sizeof kinds[0]; i++)
        if (!strcmp(kinds[i].name, kind)) {
            *n = kinds[i].n;
            return kinds[i].roles;
        }
    *n = 0;
    return NULL;
}

const wad_quantity_sort *wad_quantity_sort_of(const wad_role_info *info)
{
    static const wad_quantity_sort sorts[] = {
        {"VOLT", WAD_UNIT_V, 1000000, "uV"},
        {"TIME", WAD_UNIT_S, 1000000000, "ns"},
        {"FREQ", WAD_UNIT_HZ, 1, "Hz"},
        {"OHM", WAD_UNIT_OHM, 1, "ohm"},
        {"FARAD", WAD_UNIT_F, INT64_C(1000000000000000), "fF"},
        {"SHARE", WAD_UNIT_PART, 1000000, "ppm"},
        {"COUNT", WAD_UNIT_NONE, 1, ""}};
    for (unsigned i = 0; i < sizeof sorts / sizeof sorts[0]; i++)
        if (!strcmp(sorts[i].sort, info->sort))
            return &sorts[i];
    return NULL;
}

bool wad_role_is_event(const wad_role_info *info)
{
    return !strcmp(info->sort, "FLAG") || !strcmp(info->sort, "OUTPUT");
}

/* `FLAG_irq`, and what is called otherwise. */
static bool is_enable_of(const char *kind, const char *flag, const char *enable)
{
    static const struct {
        const char *kind, *flag, *enable;
    } others[] = {{"uart", "parity_error", "parity_irq"},
                  {"uart", "break_seen", "break_irq"},
                  {"gpio", "flag", "irq"}};
    size_t n = strlen(flag);
    for (unsigned i = 0; i < sizeof others / sizeof others[0]; i++)
        if (!strcmp(kind, others[i].kind) && !strcmp(flag, others[i].flag))
            return !strcmp(enable, others[i].enable);
    return !strncmp(enable, flag, n) && !strcmp(enable + n, "_irq");
}

#define MOST_ROLES 128

/* A chip asks for each of its roles: once a kind is enough. */
static const int16_t *enables_of(unsigned kind)
{
    static int16_t tables[sizeof kinds / sizeof kinds[0]][MOST_ROLES];
    static gsize done[sizeof kinds / sizeof kinds[0]];
    if (g_once_init_enter(&done[kind])) {
        unsigned n = MIN(kinds[kind].n, MOST_ROLES);
        memset(tables[kind], -1, sizeof tables[kind]);
        for (unsigned e = 0; e < n; e++) {
            const char *enable = kinds[kind].roles[e].name;
            bool one = g_str_has_suffix(enable, "irq");
            for (unsigned i = 0; one && i < n; i++)
                if (is_enable_of(kinds[kind].name, kinds[kind].roles[i].name, enable))
                    tables[kind][i] = (int16_t)e;
        }
        g_once_init_leave(&done[kind], 1);
    }
    return tables[kind];
}

int wad_kind_enable_of(const char *kind, unsigned flag)
{
    for (unsigned i = 0; i < sizeof kinds / sizeof kinds[0]; i++)
        if (!strcmp(kinds[i].name, kind))
            return flag < MIN(kinds[i].n, MOST_ROLES) ? enables_of(i)[flag] : -1;
    return -1;
}

bool wad_kind_flag(const char *kind, unsigned role)
{
    unsigned n;
    const wad_role_info *roles = wad_kind_roles(kind, &n);
    return role < n && (!strcmp(roles[role].sort, "FLAG") || wad_kind_enable_of(kind, role) >= 0);
}

int wad_kind_role_index(const char *kind, const char *role)
{
    unsigned n;
    const wad_role_info *roles = wad_kind_roles(kind, &n);
    for (unsigned i = 0; i < n; i++)
        if (!strcmp(roles[i].name, role))
            return (int)i;
    return -1;
}
