/* SPDX-License-Identifier: MIT */
/* Laws of rates: which fields they rest on, and what rate values of those give. */
#include "rate.h"

#include <string.h>

#include "lang/unit.h"
#include "sheet/chip/expression.h"

/* ---- laws that a kind gives ---- */

static wad_expr *node(wad_rate_law *law, wadi_op op, wad_expr *a, wad_expr *b)
{
    wad_expr *e = g_new0(wad_expr, 1);
    g_ptr_array_add(law->nodes, e);
    e->op = op;
    e->a = a;
    e->b = b;
    return e;
}

static wad_expr *constant(wad_rate_law *law, int64_t n)
{
    wad_expr *e = node(law, WADI_OP_NUM, NULL, NULL);
    e->num = wadi_int(n);
    return e;
}

static wad_expr *role_value(wad_rate_law *law, const wad_role *role)
{
    wad_expr *e = node(law, WADI_OP_FIELD, NULL, NULL);
    e->value = role->value;
    if (role->field)
        e->field = (wad_fieldref){.reg = role->reg,
                                  .field = role->field,
                                  .lsb = role->field->lsb,
                                  .width = role->field->width};
    return e;
}

static wad_expr *plus(wad_rate_law *law, wad_expr *e, uint64_t n)
{
    return n ? node(law, WADI_OP_ADD, e, constant(law, (int64_t)n)) : e;
}

static uint64_t code(const wad_role *role, const char *name)
{
    uint64_t value;
    return wad_role_code_value(role, name, &value) ? value : 0;
}

static unsigned bits_of(const wad_role *role)
{
    return wad_role_width(role);
}

static wad_expr *prescaled(wad_rate_law *law, const wad_layout *layout)
{
    const wad_role *prescale = wad_layout_role(layout, "prescale");
    if (!prescale)
        return NULL;
    wad_expr *e = role_value(law, prescale);
    if (code(prescale, "power"))
        return node(law, WADI_OP_POW, constant(law, (int64_t)code(prescale, "power")), e);
    return plus(law, e, code(prescale, "plus"));
}

/* clock / (prescaler * counts), or half of it for an output that changes once a period. */
static wad_expr *counter_law(wad_rate_law *law, const wad_layout *layout, bool toggle)
{
    const wad_role *reload = wad_layout_role(layout, "reload");
    const wad_role *start = wad_layout_role(layout, "start");
    wad_expr *counts = NULL, *prescaler = prescaled(law, layout);
    if (reload)
        counts = plus(law, role_value(law, reload), code(reload, "plus"));
    else if (start)
        counts = node(law, WADI_OP_SUB, constant(law, INT64_C(1) << bits_of(start)),
                      role_value(law, start));
    else
        return NULL;
    if (prescaler)
        counts = node(law, WADI_OP_MUL, prescaler, counts);
    if (toggle)
        counts = node(law, WADI_OP_MUL, constant(law, 2), counts);
    return node(law, WADI_OP_DIV, node(law, WADI_OP_CLOCK, NULL, NULL), counts);
}

static const char *const counter_laws[] = {"wrap", "toggle"};

static bool is_counter(const wad_layout *layout)
{
    return layout->kind && !strcmp(layout->kind, "counter");
}

/* ---- the law as text ---- */

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
    default:
        return 4;
    }
}

static void print_law(const wad_expr *e, int around, GString *text)
{
    static const char *const marks[] = {
        [WADI_OP_ADD] = " + ",  [WADI_OP_SUB] = " - ", [WADI_OP_MUL] = " * ", [WADI_OP_DIV] = " / ",
        [WADI_OP_POW] = " ** ", [WADI_OP_MIN] = ", ",  [WADI_OP_MAX] = ", "};
    int own = strength(e->op);
    if (e->value) {
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
    } else if (e->op == WADI_OP_NEG) {
        g_string_append_c(text, '-');
        print_law(e->a, own, text);
    } else {
        bool call = e->op == WADI_OP_FLOOR || e->op == WADI_OP_MIN || e->op == WADI_OP_MAX;
        g_string_append(text, e->op == WADI_OP_FLOOR ? "floor("
                              : e->op == WADI_OP_MIN ? "min("
                              : e->op == WADI_OP_MAX ? "max("
                              : own < around         ? "("
                                                     : "");
        print_law(e->a, call ? 0 : own, text);
        if (e->b) {
            g_string_append(text, marks[e->op]);
            print_law(e->b, call ? 0 : own + 1, text);
        }
        g_string_append(text, call || own < around ? ")" : "");
    }
}

/* ---- variables ---- */

static bool same_field(const wad_fieldref *a, const wad_fieldref *b)
{
    return a->reg == b->reg && a->field == b->field && a->reg_index == b->reg_index &&
           a->index == b->index;
}

int wadi_rate_var(const wad_rate_law *law, const wad_expr *e)
{
    for (unsigned i = 0; i < law->n_vars; i++)
        if (e->value ? law->vars[i].value == e->value
                     : !law->vars[i].value && same_field(&law->vars[i].field, &e->field))
            return (int)i;
    return -1;
}

static bool has_meanings(const wad_bitfield *f)
{
    for (unsigned i = 0; f && i < f->n_enums; i++)
        if (f->enums[i].has_meaning)
            return true;
    return false;
}

static bool add_var(wad_rate_law *law, const wad_expr *e, bool chosen)
{
    int known = wadi_rate_var(law, e);
    if (known >= 0) {
        law->vars[known].chosen |= chosen;
        return true;
    }
    if (law->n_vars == WAD_RATE_VARS)
        return false;
    wadi_rate_variable *v = &law->vars[law->n_vars++];
    const wad_bitfield *f = e->value ? NULL : e->field.field;
    unsigned width = e->value ? e->value->width : e->field.width;
    *v = (wadi_rate_variable){.value = e->value,
                              .field = e->field,
                              .min = f && f->not_zero,
                              .max = width >= 63 ? INT64_MAX : (UINT64_C(1) << width) - 1,
                              .chosen = chosen || has_meanings(f)};
    v->enums = f && f->n_enums ? f : NULL;
    v->chosen |= v->enums != NULL;
    v->name = e->value ? g_strdup(e->value->name) : wad_fieldref_name(&e->field);
    return true;
}

/* `chosen`: within an exponent, a floor, a choice: each value must be tried. */
static bool collect(wad_rate_law *law, const wad_expr *e, bool chosen)
{
    if (!e)
        return true;
    if (e->value || e->op == WADI_OP_FIELD)
        return add_var(law, e, chosen);
    if (e->op == WADI_OP_PICK && !add_var(law, e, true))
        return false;
    bool inside = chosen || e->op == WADI_OP_FLOOR || e->op == WADI_OP_MIN || e->op == WADI_OP_MAX;
    for (unsigned i = 0; i < e->n_picks; i++)
        if (!collect(law, e->picks[i].value, inside))
            return false;
    return collect(law, e->a, inside) && collect(law, e->b, inside || e->op == WADI_OP_POW);
}

/* ---- open, close, ask ---- */

char *wad_rate_names(const wad_instance *block)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < block->layout->n_laws; i++)
        g_string_append_printf(text, "%s%s", text->len ? ", " : "", block->layout->laws[i].name);
    for (unsigned i = 0; is_counter(block->layout) && i < G_N_ELEMENTS(counter_laws); i++)
        g_string_append_printf(text, "%s%s", text->len ? ", " : "", counter_laws[i]);
    return g_string_free(text, FALSE);
}

static const wad_expr *find_law(wad_rate_law *law, const char *name)
{
    const wad_layout *layout = law->block->layout;
    for (unsigned i = 0; i < layout->n_laws; i++)
        if (!strcmp(layout->laws[i].name, name))
            return layout->laws[i].expr;
    for (unsigned i = 0; is_counter(layout) && i < G_N_ELEMENTS(counter_laws); i++)
        if (!strcmp(counter_laws[i], name))
            return counter_law(law, layout, i == 1);
    return NULL;
}

wad_rate_law *wad_rate_open(const wad_sheet *sheet, const wad_instance *block, const char *name,
                            char **why)
{
    wad_rate_law *law = g_new0(wad_rate_law, 1);
    *why = NULL;
    law->sheet = sheet;
    law->block = block;
    law->nodes = g_ptr_array_new_with_free_func(g_free);
    law->expr = find_law(law, name);
    if (!law->expr) {
        char *names = wad_rate_names(block);
        *why = *names ? g_strdup_printf("%s has no rate '%s': it has %s", block->name, name, names)
                      : g_strdup_printf("%s has no rates", block->name);
        g_free(names);
    } else if (!collect(law, law->expr, false)) {
        *why = g_strdup_printf("the law of %s rests on more than %u fields", name, WAD_RATE_VARS);
    }
    if (*why) {
        wad_rate_close(law);
        return NULL;
    }
    GString *text = g_string_new(NULL);
    print_law(law->expr, 0, text);
    law->text = g_string_free(text, FALSE);
    return law;
}

void wad_rate_close(wad_rate_law *law)
{
    if (!law)
        return;
    for (unsigned i = 0; i < law->n_vars; i++)
        g_free(law->vars[i].name);
    g_ptr_array_free(law->nodes, TRUE);
    g_free(law->text);
    g_free(law);
}

unsigned wad_rate_vars(const wad_rate_law *law)
{
    return law->n_vars;
}

const char *wad_rate_var_name(const wad_rate_law *law, unsigned i)
{
    return law->vars[i].name;
}

uint64_t wad_rate_var_max(const wad_rate_law *law, unsigned i)
{
    return law->vars[i].max;
}

const char *wad_rate_text(const wad_rate_law *law)
{
    return law->text;
}

unsigned wad_rate_var_words(const wad_rate_law *law, unsigned i, uint64_t value, wad_fieldref *refs,
                            uint64_t *bits, unsigned room)
{
    const wadi_rate_variable *v = &law->vars[i];
    unsigned n = 0;
    if (!v->value) {
        refs[0] = v->field;
        refs[0].block = law->block;
        bits[0] = value << v->field.lsb;
        return 1;
    }
    unsigned shift = v->value->width;
    for (; n < v->value->n_parts && n < room; n++) { /* high part first */
        const wad_bitfield *f = v->value->parts[n];
        shift -= f->width;
        refs[n] = (wad_fieldref){
            .block = law->block, .reg = f->reg, .field = f, .lsb = f->lsb, .width = f->width};
        bits[n] = (value >> shift & ((UINT64_C(1) << f->width) - 1)) << f->lsb;
    }
    return n;
}

bool wad_rate_clock(const wad_rate_law *law, wad_rational *hz)
{
    const wad_clock *clock = law->block->clock ? law->block->clock : law->sheet->core;
    return wad_clock_rate(law->sheet, clock, NULL, NULL, hz, NULL);
}

/* ---- a rate from values ---- */

bool wadi_rate_clock_hz(void *ctx, const wad_clock *clock, wad_rational *hz)
{
    const wadi_rate_ctx *rc = ctx;
    if (!clock) {
        *hz = rc->clock;
        return true;
    }
    return wad_clock_rate(rc->law->sheet, clock, NULL, NULL, hz, NULL);
}

wad_rational wadi_rate_meaning(const wadi_rate_variable *v, uint64_t value)
{
    const wad_enumerator *e = v->value ? NULL : wad_bitfield_enum(v->field.field, value);
    return e && e->has_meaning ? e->meaning : wadi_int((int64_t)value);
}

/* All variables are numbers here: the law's value is its constant part. */
static bool every_field(void *ctx, const wad_expr *e, wad_rational *value, int *var)
{
    const wadi_rate_ctx *rc = ctx;
    int i = wadi_rate_var(rc->law, e);
    (void)var;
    if (i < 0)
        return false;
    *value = e->op == WADI_OP_PICK ? wadi_int((int64_t)rc->values[i])
                                   : wadi_rate_meaning(&rc->law->vars[i], rc->values[i]);
    return true;
}

bool wad_rate_of(const wad_rate_law *law, wad_rational clock, const uint64_t *values,
                 wad_rational *hz)
{
    wadi_rate_ctx rc = {law, clock, values};
    wadi_poly_env env = {every_field, wadi_rate_clock_hz, &rc};
    wadi_fraction f;
    return wadi_poly_make(law->expr, &env, &f) && wadi_rat_make(f.num.term[0], f.den.term[0], hz);
}

/* ---- rates as people write them ---- */

/* "1.5 kHz": the number exactly, and what follows it. */
static bool parse_decimal(const char *text, wad_rational *value, const char **rest)
{
    wadi_i128 num = 0, den = 1;
    bool point = false, any = false;
    for (; g_ascii_isdigit(*text) || *text == '.' || *text == '_'; text++) {
        if (*text == '.' && point)
            return false;
        point |= *text == '.';
        if (!g_ascii_isdigit(*text))
            continue;
        if (num > INT64_MAX / 10 || den > INT64_MAX / 10)
            return false;
        num = num * 10 + (*text - '0');
        den *= point ? 10 : 1;
        any = true;
    }
    while (*text == ' ')
        text++;
    *rest = text;
    return any && wadi_rat_make(num, den, value);
}

bool wad_parse_rate(const char *text, wad_rational *hz)
{
    const char *rest;
    wad_rational scale;
    wad_unit unit = WAD_UNIT_NONE;
    if (!parse_decimal(text, hz, &rest) || hz->num == 0)
        return false;
    if (!*rest)
        return true;
    if (!wadi_unit(rest, &unit, &scale) || !wadi_rat_mul(*hz, scale, hz))
        return false;
    if (unit == WAD_UNIT_S)
        return wadi_rat_div(wadi_int(1), *hz, hz);
    return unit == WAD_UNIT_HZ;
}

bool wad_parse_share(const char *text, wad_rational *share)
{
    const char *rest;
    wad_rational scale;
    wad_unit unit;
    if (!parse_decimal(text, share, &rest))
        return false;
    if (!strcmp(rest, "%"))
        return wadi_rat_div(*share, wadi_int(100), share);
    return wadi_unit(rest, &unit, &scale) && unit == WAD_UNIT_PART &&
           wadi_rat_mul(*share, scale, share);
}
