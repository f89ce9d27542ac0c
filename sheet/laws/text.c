/* SPDX-License-Identifier: MIT */
/* A law as text. */
#include <glib.h>

#include "sheet/chip/expression.h"

static int strength(wadi_op op)
{
    switch (op) {
    case WADI_OP_ADD:
    case WADI_OP_SUB:
        return 1;
    case WADI_OP_MUL:
    case WADI_OP_DIV:
        return 2;
    case WADI_OP_POW:
    case WADI_OP_NEG:
        return 3;
    case WADI_OP_AND:
    case WADI_OP_OR:
    case WADI_OP_XOR:
        return 0;
    default:
        return 4;
    }
}

static const char *mark_of(wadi_op op)
{
    switch (op) {
    case WADI_OP_ADD:
        return " + ";
    case WADI_OP_SUB:
        return " - ";
    case WADI_OP_MUL:
        return " * ";
    case WADI_OP_DIV:
        return " / ";
    case WADI_OP_POW:
        return " ** ";
    case WADI_OP_AND:
        return " & ";
    case WADI_OP_OR:
        return " | ";
    case WADI_OP_XOR:
        return " ^ ";
    default:
        return ", ";
    }
}

static void append_place(GString *text, const wad_role_place *place)
{
    for (unsigned i = 0; i < place->n_parts; i++) {
        char *name = wad_fieldref_name(&place->parts[i].ref);
        g_string_append_printf(text, "%s%s%s", i ? " : " : "", place->parts[i].low ? "not " : "",
                               name);
        g_free(name);
    }
}

char *wadi_place_text(const wad_role_place *place)
{
    GString *text = g_string_new(NULL);
    append_place(text, place);
    return g_string_free(text, FALSE);
}

/* "HI.V : LO.V", in parentheses among other things. */
static void print_place(const wad_expr *e, int around, GString *text)
{
    g_string_append(text, e->op == WADI_OP_PICK ? "pick (" : around ? "(" : "");
    append_place(text, e->place);
    g_string_append(text, e->op == WADI_OP_PICK ? ") {..}" : around ? ")" : "");
}

static void print_law(const wad_expr *e, int around, GString *text)
{
    int own = strength(e->op);
    if (e->place) {
        print_place(e, around, text);
    } else if (e->value) {
        g_string_append(text, e->value->name);
    } else if (e->op == WADI_OP_NUM) {
        g_string_append_printf(text, e->num.den == 1 ? "%lld" : "%lld / %lld",
                               (long long)e->num.num, (long long)e->num.den);
    } else if (e->op == WADI_OP_CLOCK) {
        g_string_append(text, e->clock ? e->clock->name : "clock");
    } else if (e->op == WADI_OP_FIELD || e->op == WADI_OP_PICK) {
        char *name = wad_fieldref_name(&e->field);
        g_string_append_printf(text, "%s%s%s", e->op == WADI_OP_PICK ? "pick " : "", name,
                               e->op == WADI_OP_PICK ? " {..}" : "");
        g_free(name);
    } else if (e->op == WADI_OP_WRITTEN) {
        g_string_append(text, "written");
    } else if (e->op == WADI_OP_NEG || e->op == WADI_OP_NOT) {
        g_string_append_c(text, e->op == WADI_OP_NEG ? '-' : '~');
        print_law(e->a, own, text);
    } else {
        bool call = e->op == WADI_OP_FLOOR || e->op == WADI_OP_MIN || e->op == WADI_OP_MAX ||
                    e->op == WADI_OP_ONES;
        g_string_append(text, e->op == WADI_OP_FLOOR  ? "floor("
                              : e->op == WADI_OP_ONES ? "ones("
                              : e->op == WADI_OP_MIN  ? "min("
                              : e->op == WADI_OP_MAX  ? "max("
                              : own < around          ? "("
                                                      : "");
        print_law(e->a, call ? 0 : own, text);
        if (e->b) {
            g_string_append(text, mark_of(e->op));
            print_law(e->b, call ? 0 : own + 1, text);
        }
        g_string_append(text, call || own < around ? ")" : "");
    }
}

char *wadi_expr_text(const wad_expr *e)
{
    GString *text = g_string_new(NULL);
    print_law(e, 0, text);
    return g_string_free(text, FALSE);
}

const wad_expr *wadi_first_pick(const wad_expr *e)
{
    if (!e || e->op == WADI_OP_PICK)
        return e;
    const wad_expr *first = wadi_first_pick(e->a);
    return first ? first : wadi_first_pick(e->b);
}
