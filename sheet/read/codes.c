/* SPDX-License-Identifier: MIT */
#include "codes.h"

#include <string.h>

#include "lang/rational.h"
#include "lang/suggest.h"
#include "sheet/chip/query.h"

/* Is it a word of the role? `stopped` may stand in any list. */
static bool check_word(wadi_build *b, const wad_where *where, const wad_kind *kind,
                       const char *role, const char *word)
{
    unsigned n = kind->n_roles;
    const wad_role_info *roles = kind->roles;
    size_t stem = strlen(role);
    bool known = kind->own || !strcmp(word, "stopped"), any = false;
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < n; i++) {
        bool code = !strcmp(roles[i].sort, "CODE") && !strncmp(roles[i].name, role, stem) &&
                    roles[i].name[stem] == '_';
        if (!code)
            continue;
        known = known || !strcmp(roles[i].name + stem + 1, word);
        any = true;
        g_ptr_array_add(names, (gpointer)(roles[i].name + stem + 1));
    }
    /* what is on or off may say so by codes */
    bool enables = g_str_has_suffix(role, "irq"); /* the line takes it as a bit */
    known = known || (!any && !enables && (!strcmp(word, "on") || !strcmp(word, "off")));
    if (!known)
        wadi_error(b->src, where, "kind '%s' knows no '%s' of role '%s'%s", kind->name, word, role,
                   wadi_suggest(b->arena, word, (const char *const *)names->pdata, names->len));
    g_ptr_array_free(names, TRUE);
    return known;
}

static bool parse_meaning(wadi_build *b, const wadi_stmt *stmt, const wadi_env *env,
                          const wad_layout *layout, const wad_kind *kind, const wad_role *role,
                          wad_role_meaning *m)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    unsigned width = wad_role_width(role);
    int64_t first, last, most = width >= 63 ? INT64_MAX : (INT64_C(1) << width) - 1;
    m->where = c.tok->where;
    if (!wadi_parse_int(b, &c, env, "a code: what the bits hold", 0, most, &first))
        return false;
    last = first;
    if (wadi_take_punct(&c, "..") &&
        !wadi_parse_int(b, &c, env, "the last of these codes", first, most, &last))
        return false;
    m->first = (uint64_t)first;
    m->last = (uint64_t)last;
    if (!wadi_at_word(&c, "is")) {
        wad_where where = c.tok->where;
        m->word = wadi_need_name(&c, "a word of the role, or 'is' and a number");
        if (!m->word || !check_word(b, &where, kind, role->name, m->word))
            return false;
    }
    if (wadi_take_word(&c, "is")) {
        wadi_names names = {.build = b, .env = env, .layout = layout, .plain = true};
        m->is = wadi_parse_expr(&c, &names);
        if (m->is)
            wadi_check_law(b, m->is);
    }
    return wadi_need_end(&c);
}

static bool check_others(wadi_build *b, const GArray *list, const wad_role_meaning *m)
{
    for (unsigned i = 0; i < list->len; i++) {
        const wad_role_meaning *other = &g_array_index(list, wad_role_meaning, i);
        if (m->first <= other->last && other->first <= m->last) {
            wadi_error(b->src, &m->where, "code %llu stands twice in this list",
                       (unsigned long long)MAX(m->first, other->first));
            return false;
        }
    }
    return true;
}

bool wadi_parse_meanings(wadi_build *b, const wadi_group *group, const wadi_env *env,
                         const wad_layout *layout, const wad_kind *kind, wad_role *role)
{
    GArray *list = g_array_new(FALSE, TRUE, sizeof(wad_role_meaning));
    bool good = true;
    for (unsigned i = 0; i < group->n; i++) {
        wad_role_meaning m = {0};
        bool one = parse_meaning(b, &group->stmts[i], env, layout, kind, role, &m) &&
                   check_others(b, list, &m);
        good = good && one;
        g_array_append_val(list, m);
    }
    role->n_meanings = list->len;
    role->meanings = wadi_arena_copy(b->arena, list->data, list->len, sizeof(wad_role_meaning));
    g_array_free(list, TRUE);
    return good;
}
