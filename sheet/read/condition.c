/* SPDX-License-Identifier: MIT */
/* Conditions, and words of access. */
#include <string.h>

#include "build.h"
#include "path.h"
#include "sheet/chip/expression.h"
#include "sheet/laws/evaluate.h"

static const struct {
    const char *word;
    wad_access access;
} accesses[] = {{"rw", WAD_ACCESS_RW},   {"ro", WAD_ACCESS_RO},     {"wo", WAD_ACCESS_WO},
                {"w1c", WAD_ACCESS_W1C}, {"w1s", WAD_ACCESS_W1S},   {"w0c", WAD_ACCESS_W0C},
                {"rc", WAD_ACCESS_RC},   {"w1t", WAD_ACCESS_W1T},   {"w0s", WAD_ACCESS_W0S},
                {"w0t", WAD_ACCESS_W0T}, {"rs", WAD_ACCESS_RS},     {"wc", WAD_ACCESS_WC},
                {"ws", WAD_ACCESS_WS},   {"once", WAD_ACCESS_ONCE}, {"pulse", WAD_ACCESS_PULSE}};

bool wadi_at_access(const wadi_cursor *c)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(accesses); i++)
        if (wadi_at_word(c, accesses[i].word))
            return true;
    return false;
}

wad_access wadi_parse_access(wadi_cursor *c)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(accesses); i++)
        if (wadi_take_word(c, accesses[i].word))
            return accesses[i].access;
    wadi_expected(c,
                  "an access kind (rw, ro, wo, w1c, w1s, w1t, w0c, w0s, w0t, rc, rs, wc, ws, once, "
                  "pulse)");
    return WAD_ACCESS_RESERVED;
}

/* ---- conditions ---- */

static bool parse_cond_value(wadi_build *b, wadi_cursor *c, const wadi_env *env,
                             wad_cond_term *term)
{
    const wad_bitfield *field = term->ref.field;
    if (c->tok->type == WADI_T_NAME && field) {
        for (unsigned i = 0; i < field->n_enums; i++)
            if (!strcmp(field->enums[i].name, c->tok->text)) {
                term->value = field->enums[i].code;
                c->tok++;
                return true;
            }
    }
    int64_t value;
    int64_t max = term->ref.width >= 63 ? INT64_MAX : (INT64_C(1) << term->ref.width) - 1;
    if (!wadi_parse_int(b, c, env, "the field's value", 0, max, &value))
        return false;
    term->value = (uint64_t)value;
    return true;
}

bool wadi_parse_cond(wadi_build *b, wadi_cursor *c, const wadi_env *env, const wad_instance *scope,
                     wad_cond *cond)
{
    GArray *terms = g_array_new(FALSE, FALSE, sizeof(wad_cond_term));
    bool ok = true;
    do {
        wad_cond_term term = {.equal = true, .value = 1, .where = c->tok->where};
        wadi_path path;
        ok = wadi_parse_path(c, env, &path) &&
             wadi_resolve(b, scope ? scope->layout : NULL, scope, &path, &term.ref);
        if (ok && wadi_take_punct(c, "=")) {
            ok = parse_cond_value(b, c, env, &term);
        } else if (ok && wadi_take_punct(c, "!=")) {
            term.equal = false;
            ok = parse_cond_value(b, c, env, &term);
        }
        g_array_append_val(terms, term);
    } while (ok && wadi_take_word(c, "and"));
    cond->n = ok ? terms->len : 0;
    cond->terms = wadi_arena_copy(b->arena, terms->data, cond->n, sizeof(wad_cond_term));
    g_array_free(terms, TRUE);
    c->failed = c->failed || !ok;
    return ok;
}
