/* SPDX-License-Identifier: MIT */
/* Laws of rates: which fields they rest on, and what rate values of those give. */
#include "rate.h"

#include <string.h>

#include "kind_rates.h"
#include "lang/unit.h"
#include "sheet/chip/expression.h"

/* ---- variables ---- */

static bool same_field(const wad_fieldref *a, const wad_fieldref *b)
{
    return a->reg == b->reg && a->field == b->field && a->reg_index == b->reg_index &&
           a->index == b->index;
}

static bool same_bits(const wad_expr *a, const wad_expr *b)
{
    return a->value == b->value && a->place == b->place &&
           (a->value || a->place || same_field(&a->field, &b->field));
}

int wadi_rate_var(const wad_rate_law *law, const wad_expr *e)
{
    for (unsigned i = 0; i < law->n_vars; i++)
        if (same_bits(law->vars[i].node, e))
            return (int)i;
    return -1;
}

const wad_fieldref *wadi_rate_field(const wadi_rate_variable *v)
{
    return v->n_parts == 1 && !v->parts[0].low ? &v->parts[0].ref : NULL;
}

static bool has_meanings(const wad_bitfield *f)
{
    for (unsigned i = 0; f && i < f->n_enums; i++)
        if (f->enums[i].has_meaning)
            return true;
    return false;
}

/* False: it lies in too many parts. */
static bool take_parts(wadi_rate_variable *v, const wad_expr *e, unsigned *width)
{
    unsigned n = e->value ? e->value->n_parts : e->place ? e->place->n_parts : 1;
    if (n > WADI_RATE_PARTS)
        return false;
    v->n_parts = n;
    *width = e->value ? e->value->width : e->place ? e->place->width : e->field.width;
    for (unsigned i = 0; i < n; i++) {
        const wad_bitfield *f = e->value ? e->value->parts[i] : NULL;
        v->parts[i] = e->place ? e->place->parts[i] : (wad_role_part){.ref = e->field};
        if (f)
            v->parts[i].ref =
                (wad_fieldref){.reg = f->reg, .field = f, .lsb = f->lsb, .width = f->width};
    }
    return true;
}

static char *name_of(const wadi_rate_variable *v)
{
    const wad_expr *e = v->node;
    if (e->value)
        return g_strdup(e->value->name);
    return e->place ? wadi_place_text(e->place) : wad_fieldref_name(&e->field);
}

static bool add_var(wad_rate_law *law, const wad_expr *e, bool chosen)
{
    int known = wadi_rate_var(law, e);
    unsigned width;
    if (known < 0 && law->n_vars == WAD_RATE_VARS)
        return false;
    wadi_rate_variable *v = &law->vars[known < 0 ? (int)law->n_vars : known];
    if (known < 0) {
        *v = (wadi_rate_variable){.node = e};
        if (!take_parts(v, e, &width))
            return false;
        const wad_fieldref *plain = wadi_rate_field(v);
        const wad_bitfield *f = plain ? plain->field : NULL;
        v->min = (f && f->not_zero) || e == law->not_zero;
        v->max = width >= 63 ? INT64_MAX : (UINT64_C(1) << width) - 1;
        v->chosen = has_meanings(f);
        v->enums = f && f->n_enums ? f : NULL;
        v->name = name_of(v);
        law->n_vars++;
    }
    v->pick = v->pick || e->op != WADI_OP_PICK ? v->pick : e;
    if (v->pick)
        v->enums = NULL; /* its list says more */
    v->chosen |= chosen || v->enums;
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

static wad_rate_law *new_law(const wad_sheet *sheet, const wad_instance *block)
{
    wad_rate_law *law = g_new0(wad_rate_law, 1);
    law->sheet = sheet;
    law->block = block;
    law->nodes = g_ptr_array_new_with_free_func(g_free);
    return law;
}

static const wad_expr *sheet_law(const wad_layout *layout, const char *name)
{
    for (unsigned i = 0; i < layout->n_laws; i++)
        if (!strcmp(layout->laws[i].name, name))
            return layout->laws[i].expr;
    return NULL;
}

/* "bitrate[2]" */
static bool split_name(wad_rate_law *law, const char *name, char **stem)
{
    const char *open = strchr(name, '[');
    char *end = NULL;
    *stem = open ? g_strndup(name, (gsize)(open - name)) : g_strdup(name);
    if (!open)
        return true;
    guint64 n = g_ascii_strtoull(open + 1, &end, 10);
    law->element = (unsigned)n;
    return g_ascii_isdigit(open[1]) && !strcmp(end, "]") && n < 65536;
}

/* What the sheet says goes before what the kind does. */
static const wad_expr *find_law(wad_rate_law *law, const char *name)
{
    char *stem = NULL;
    const wad_expr *e = sheet_law(law->block->layout, name);
    if (!e && split_name(law, name, &stem))
        e = wadi_kind_rate(law, stem);
    if (!e && law->why == NULL && law->element)
        law->why = g_strdup_printf("%s has no '%s': its roles have no element %u", law->block->name,
                                   name, law->element);
    g_free(stem);
    return e;
}

char *wad_rate_names(const wad_sheet *sheet, const wad_instance *block)
{
    GString *text = g_string_new(NULL);
    const wad_layout *layout = block->layout;
    for (unsigned i = 0; i < layout->n_laws; i++)
        g_string_append_printf(text, "%s%s", text->len ? ", " : "", layout->laws[i].name);
    const char *name;
    for (unsigned i = 0; (name = wadi_kind_rate_name(layout, i)) != NULL; i++) {
        wad_rate_law *law = new_law(sheet, block);
        if (!sheet_law(layout, name) && wadi_kind_rate(law, name))
            g_string_append_printf(text, "%s%s", text->len ? ", " : "", name);
        wad_rate_close(law);
    }
    return g_string_free(text, FALSE);
}

/* "TIM has no rates; those of its units: TIM.T0 wrap, toggle; TIM.T1 wrap, toggle" */
static char *no_such_rate(const wad_sheet *sheet, const wad_instance *block, const char *name)
{
    char *names = wad_rate_names(sheet, block);
    GString *text = g_string_new(block->name);
    if (*names)
        g_string_append_printf(text, " has no rate '%s': it has %s", name, names);
    else
        g_string_append(text, " has no rates");
    g_free(names);
    for (unsigned i = 0, n = 0; i < sheet->n_blocks; i++) {
        const wad_instance *unit = sheet->blocks[i];
        names = unit->home == block ? wad_rate_names(sheet, unit) : g_strdup("");
        if (*names)
            g_string_append_printf(text, "%s %s %s",
                                   n++ ? ";" : "; those of its units:", unit->name, names);
        g_free(names);
    }
    return g_string_free(text, FALSE);
}

wad_rate_law *wad_rate_open_with(const wad_sheet *sheet, const wad_instance *block,
                                 const char *name, wad_rate_setting *settings, unsigned n,
                                 char **why)
{
    wad_rate_law *law = new_law(sheet, block);
    law->settings = settings;
    law->n_settings = n;
    *why = NULL;
    law->expr = find_law(law, name);
    if (!law->expr)
        *why = law->why ? g_strdup(law->why) : no_such_rate(sheet, block, name);
    else if (!collect(law, law->expr, false))
        *why = g_strdup_printf("the law of %s rests on more than %u fields, or on one of more than "
                               "%u parts",
                               name, WAD_RATE_VARS, WADI_RATE_PARTS);
    if (*why) {
        wad_rate_close(law);
        return NULL;
    }
    law->text = wadi_expr_text(law->expr);
    return law;
}

wad_rate_law *wad_rate_open(const wad_sheet *sheet, const wad_instance *block, const char *name,
                            char **why)
{
    return wad_rate_open_with(sheet, block, name, NULL, 0, why);
}

void wad_rate_close(wad_rate_law *law)
{
    if (!law)
        return;
    for (unsigned i = 0; i < law->n_vars; i++)
        g_free(law->vars[i].name);
    g_ptr_array_free(law->nodes, TRUE);
    if (law->ways)
        g_string_free(law->ways, TRUE);
    g_free(law->why);
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

const char *wad_rate_while(const wad_rate_law *law)
{
    return law->ways ? law->ways->str : NULL;
}

unsigned wad_rate_var_words(const wad_rate_law *law, unsigned i, uint64_t value, wad_fieldref *refs,
                            uint64_t *bits, unsigned room)
{
    const wadi_rate_variable *v = &law->vars[i];
    unsigned n = 0, shift = 0;
    for (unsigned k = 0; k < v->n_parts; k++)
        shift += v->parts[k].ref.width;
    for (; n < v->n_parts && n < room; n++) { /* high part first */
        refs[n] = wad_role_part_ref(law->block, &v->parts[n]);
        uint64_t ones = wad_fieldref_mask(&refs[n]) >> refs[n].lsb;
        shift -= refs[n].width;
        bits[n] = ((value >> shift ^ (v->parts[n].low ? ones : 0)) & ones) << refs[n].lsb;
    }
    return n;
}

/* ---- a rate from values ---- */

wad_rational wadi_rate_meaning(const wadi_rate_variable *v, uint64_t value)
{
    const wad_fieldref *plain = wadi_rate_field(v);
    const wad_enumerator *e = plain && plain->field ? wad_bitfield_enum(plain->field, value) : NULL;
    return e && e->has_meaning ? e->meaning : wadi_int((int64_t)value);
}

bool wadi_rate_offers(const wadi_rate_variable *v, uint64_t value)
{
    for (unsigned i = 0; v->pick && i < v->pick->n_picks; i++)
        if (value >= v->pick->picks[i].code && value <= v->pick->picks[i].last)
            return true;
    return !v->pick && (!v->enums || wad_bitfield_enum(v->enums, value));
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
