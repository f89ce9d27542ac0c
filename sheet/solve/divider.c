/* SPDX-License-Identifier: MIT */
/*
 * A law in the form that the target solves: clock * up / (down * prescaler * count).
 *
 * The form is read off the law's values, not its text: T = clock / rate is asked at a few settings,
 * whose differences give slopes and offsets; then the guess must agree with the law at many
 * settings, exactly.
 */
#include <string.h>

#include "sheet/laws/rate.h"

#define CHECKS 300

typedef struct guess {
    const wad_rate_law *law;
    uint64_t base[WAD_RATE_VARS];
    wad_rational at_base; /* T there */
    unsigned linear[WAD_RATE_VARS], n_linear;
    int chosen, prescale, count, fraction; /* variables, -1: none */
    wad_rational unit;                     /* T = unit * prescaler * count */
    wad_rate_target *out;
} guess;

/* T = clock / rate of a setting. */
static bool periods(const guess *g, const uint64_t *values, wad_rational *t)
{
    wad_rational hz;
    return wad_rate_of(g->law, wadi_int(1), values, &hz) && hz.num > 0 &&
           wadi_rat_div(wadi_int(1), hz, t);
}

/* T with some variables one more than at the base. */
static bool stepped(const guess *g, unsigned bits, wad_rational *t)
{
    uint64_t values[WAD_RATE_VARS];
    memcpy(values, g->base, sizeof values);
    for (unsigned i = 0; i < g->law->n_vars; i++)
        values[i] += bits >> i & 1;
    return periods(g, values, t);
}

static bool slope(const guess *g, unsigned var, wad_rational *d)
{
    wad_rational t;
    return stepped(g, 1u << var, &t) && wadi_rat_sub(t, g->at_base, d);
}

/* Do two variables multiply each other? */
static bool cross(const guess *g, unsigned a, unsigned b)
{
    wad_rational both, one, other, sum, rest;
    return stepped(g, 1u << a | 1u << b, &both) && stepped(g, 1u << a, &one) &&
           stepped(g, 1u << b, &other) && wadi_rat_add(one, other, &sum) &&
           wadi_rat_sub(both, sum, &rest) && wadi_rat_add(rest, g->at_base, &rest) && rest.num != 0;
}

static bool is_whole(wad_rational r, int64_t most)
{
    return r.den == 1 && r.num >= 0 && r.num <= most;
}

/* ---- which variable is what ---- */

static uint64_t first_offered(const wadi_rate_variable *v)
{
    uint64_t value = v->min;
    if (v->pick)
        value = v->pick->picks[0].code;
    else if (v->enums)
        value = v->enums->enums[0].code;
    return value;
}

static bool divide_vars(guess *g)
{
    for (unsigned i = 0; i < g->law->n_vars; i++) {
        const wadi_rate_variable *v = &g->law->vars[i];
        g->base[i] = first_offered(v);
        if (!v->chosen)
            g->linear[g->n_linear++] = i;
        else if (g->chosen >= 0)
            return false;
        else
            g->chosen = (int)i;
    }
    return g->n_linear <= 3 && periods(g, g->base, &g->at_base);
}

/* Of two that add up the one that counts more is the integer part. */
static bool pair_up(guess *g, unsigned a, unsigned b)
{
    wad_rational da, db, ratio;
    if (!slope(g, a, &da) || !slope(g, b, &db) || !wadi_rat_div(da, db, &ratio))
        return false;
    bool first = wadi_rat_cmp(ratio, wadi_int(1)) > 0;
    g->count = (int)(first ? a : b);
    g->fraction = (int)(first ? b : a);
    if (!first && !wadi_rat_div(wadi_int(1), ratio, &ratio))
        return false;
    uint64_t steps = g->law->vars[g->fraction].max + 1; /* the fraction fills one whole */
    for (; steps > 1; steps >>= 1)
        g->out->fraction_bits++;
    return ratio.den == 1 && ratio.num == INT64_C(1) << g->out->fraction_bits &&
           g->count < g->fraction;
}

static bool name_vars(guess *g)
{
    const unsigned *l = g->linear;
    if (g->n_linear == 1)
        g->count = (int)l[0];
    if (g->n_linear == 2 && !cross(g, l[0], l[1]))
        return pair_up(g, l[0], l[1]);
    if (g->n_linear == 2) {
        bool second = g->law->vars[l[1]].max < g->law->vars[l[0]].max;
        g->prescale = (int)l[second];
        g->count = (int)l[!second];
    }
    for (unsigned k = 0; g->n_linear == 3 && g->prescale < 0 && k < 3; k++)
        if (!cross(g, l[(k + 1) % 3], l[(k + 2) % 3])) {
            g->prescale = (int)l[k];
            if (!pair_up(g, l[(k + 1) % 3], l[(k + 2) % 3]))
                return false;
        }
    return (g->n_linear < 3 || g->prescale >= 0) && (g->prescale < 0 || g->chosen < 0);
}

/* ---- numbers ---- */

/* count = field + plus, or from - field; in steps of the fraction where there is one. */
static bool find_count(guess *g, wad_rational *fine, uint64_t *count_at_base)
{
    wad_divider *d = &g->out->divider;
    *count_at_base = 1;
    d->min = d->max = 1;
    *fine = g->at_base;
    d->count_plus = g->count < 0; /* no field: its value is 0 */
    if (g->count < 0)
        return true;
    const wadi_rate_variable *v = &g->law->vars[g->count];
    unsigned bits = g->out->fraction_bits;
    wad_rational count, size;
    if (!slope(g, (unsigned)(g->fraction >= 0 ? g->fraction : g->count), fine) || !fine->num)
        return false;
    d->counts_up = fine->num < 0;
    size = *fine;
    size.num = d->counts_up ? -size.num : size.num;
    *fine = size;
    if (!wadi_rat_div(g->at_base, size, &count) || count.den != 1 || count.num < 0 ||
        v->max >> (32 - bits))
        return false;
    int64_t low = (int64_t)v->min << bits,
            high = (int64_t)((v->max << bits) + ((UINT64_C(1) << bits) - 1)), at = low;
    int64_t plus = d->counts_up ? count.num + at : count.num - at;
    if (plus < 0 || (!d->counts_up && plus > UINT32_MAX))
        return false;
    int64_t first = d->counts_up ? plus - high : low + plus;
    int64_t last = d->counts_up ? plus - low : high + plus;
    d->count_from = d->counts_up ? (uint32_t)plus : 0;
    d->count_plus = d->counts_up ? 0 : (uint32_t)plus;
    d->min = (uint32_t)MAX(first, 1);
    d->max = (uint32_t)MIN(last, (int64_t)UINT32_MAX);
    *count_at_base = (uint64_t)count.num;
    return last >= 1;
}

static int64_t gcd(int64_t a, int64_t b)
{
    while (b) {
        int64_t r = a % b;
        a = b;
        b = r;
    }
    return a;
}

static bool add_choice(guess *g, unsigned n, uint64_t code, wad_rational *t)
{
    uint64_t values[WAD_RATE_VARS];
    memcpy(values, g->base, sizeof values);
    values[g->chosen] = code;
    g->out->codes[n] = (uint16_t)code;
    return periods(g, values, t);
}

/* Does each choice divide by the same factor more than the one before it? */
static bool are_powers(wad_rate_target *out, unsigned n)
{
    wad_divider *d = &out->divider;
    uint64_t power = n > 1 ? out->set[1] : 0, p = 1;
    for (unsigned i = 0; i < n; i++, p *= power)
        if (power < 2 || p > UINT32_MAX || out->set[i] != p || out->codes[i] != i)
            return false;
    d->power = (uint32_t)power;
    d->prescale_min = 1;
    d->prescale_max = out->set[n - 1];
    return true;
}

/* The values of the field that chooses, as whole numbers with the least common unit. */
static bool find_set(guess *g, wad_rational *unit)
{
    const wadi_rate_variable *v = &g->law->vars[g->chosen];
    wad_rational t[WAD_RATE_SET], base;
    unsigned n = 0;
    int64_t num = 0, den = 1;
    bool all = true;
    for (uint64_t code = v->min; code <= v->max; code++) {
        if (!wadi_rate_offers(v, code))
            continue;
        if (n == WAD_RATE_SET || !add_choice(g, n, code, &t[n]))
            return false;
        all = all && code == n;
        n++;
    }
    for (unsigned i = 0; i < n; i++) {
        if (t[i].den > INT32_MAX || den > INT32_MAX)
            return false;
        den = den / gcd(den, t[i].den) * t[i].den;
    }
    for (unsigned i = 0; i < n; i++) {
        if (den < 1 || t[i].num > INT64_MAX / den)
            return false;
        num = gcd(t[i].num * (den / t[i].den), num);
    }
    if (!n || !wadi_rat_make(num, den, unit))
        return false;
    for (unsigned i = 0; i < n; i++) {
        if (!wadi_rat_div(t[i], *unit, &base) || !is_whole(base, UINT32_MAX))
            return false;
        g->out->set[i] = (uint32_t)base.num;
    }
    if (all && are_powers(g->out, n))
        return true;
    g->out->divider.set = g->out->set;
    g->out->divider.codes = all ? NULL : g->out->codes;
    g->out->divider.n_set = (uint16_t)n;
    return true;
}

/* Any prescaler: field + plus. */
static bool find_prescale(guess *g, uint64_t *at_base)
{
    wad_divider *d = &g->out->divider;
    const wadi_rate_variable *v = &g->law->vars[g->prescale];
    wad_rational step, value;
    if (!slope(g, (unsigned)g->prescale, &step) || step.num <= 0 ||
        !wadi_rat_div(g->at_base, step, &value) || !is_whole(value, UINT32_MAX) ||
        value.num < (int64_t)v->min || value.num - (int64_t)v->min > UINT16_MAX)
        return false;
    d->prescale_plus = (uint16_t)(value.num - (int64_t)v->min);
    if (v->max + d->prescale_plus > UINT32_MAX)
        return false;
    d->prescale_min = (uint32_t)v->min + d->prescale_plus;
    d->prescale_max = (uint32_t)v->max + d->prescale_plus;
    *at_base = (uint64_t)value.num;
    return d->prescale_min > 0;
}

static bool find_numbers(guess *g)
{
    wad_divider *d = &g->out->divider;
    wad_rational fine, unit;
    uint64_t count, prescale = 1;
    d->prescale_min = d->prescale_max = 1;
    d->prescale_plus = g->prescale < 0 && g->chosen < 0; /* no field: its value is 0 */
    if (!find_count(g, &fine, &count) || count == 0)
        return false;
    if (g->prescale >= 0 && !find_prescale(g, &prescale))
        return false;
    if (g->chosen >= 0) { /* its unit holds the count at the base */
        if (!find_set(g, &unit) || !wadi_rat_div(unit, wadi_int((int64_t)count), &g->unit))
            return false;
    } else if (!wadi_rat_div(fine, wadi_int((int64_t)prescale), &g->unit)) {
        return false;
    }
    if (g->unit.num > UINT16_MAX || g->unit.den > UINT16_MAX)
        return false;
    d->down = (uint32_t)g->unit.num;
    d->up = (uint32_t)g->unit.den;
    uint32_t whole = 1u << g->out->fraction_bits;
    for (unsigned i = 0; d->down == 1 && d->set && whole % d->up == 0 && i < d->n_set; i++)
        g->out->set[i] *= whole / d->up; /* 16 and 8 samples, not 2 and 1 of a finer unit */
    if (d->down == 1 && d->set && whole % d->up == 0) {
        d->up = whole;
        g->unit = (wad_rational){1, whole};
    }
    int divides = g->prescale >= 0 ? g->prescale : g->chosen;
    d->count_first = g->count >= 0 && divides >= 0 && g->count < divides;
    return true;
}

/* ---- does the guess hold? ---- */

static bool factors(const guess *g, const uint64_t *values, uint64_t *prescale, uint64_t *count)
{
    const wad_divider *d = &g->out->divider;
    uint64_t field = g->count >= 0 ? values[g->count] << g->out->fraction_bits : 0;
    field |= g->fraction >= 0 ? values[g->fraction] : 0;
    uint64_t from = d->count_from ? d->count_from : UINT64_C(1) << 32;
    *count = g->count < 0 ? 1 : d->counts_up ? from - field : field + d->count_plus;
    *prescale = g->prescale >= 0 ? values[g->prescale] + d->prescale_plus : 1;
    for (unsigned i = 0; g->chosen >= 0 && d->set && i < d->n_set; i++)
        if (g->out->codes[i] == values[g->chosen])
            *prescale = d->set[i];
    for (uint64_t i = 0; g->chosen >= 0 && d->power && i < values[g->chosen]; i++)
        *prescale *= d->power;
    return *count >= d->min && *count <= d->max;
}

static bool holds(const guess *g)
{
    GRand *rand = g_rand_new_with_seed(1);
    bool ok = true;
    for (unsigned n = 0; n < CHECKS && ok; n++) {
        uint64_t values[WAD_RATE_VARS], prescale, count;
        wad_rational t, want;
        for (unsigned i = 0; i < g->law->n_vars; i++) {
            const wadi_rate_variable *v = &g->law->vars[i];
            uint64_t span = v->max - v->min + 1;
            uint64_t r = (uint64_t)g_rand_int(rand) << 32 | g_rand_int(rand);
            values[i] = span ? v->min + r % span : r;
            if (v->pick)
                values[i] = v->pick->picks[r % v->pick->n_picks].code;
            else if (v->enums)
                values[i] = v->enums->enums[r % v->enums->n_enums].code;
        }
        if (!factors(g, values, &prescale, &count)) /* more than 32 bits of count: left out */
            continue;
        ok = periods(g, values, &t) && wadi_rat_div(t, g->unit, &want) && want.den == 1 &&
             (wadi_u128)want.num == (wadi_u128)prescale * count;
    }
    g_rand_free(rand);
    return ok;
}

bool wad_rate_for_target(const wad_rate_law *law, wad_rate_target *out)
{
    guess g = {.law = law, .chosen = -1, .prescale = -1, .count = -1, .fraction = -1, .out = out};
    memset(out, 0, sizeof *out);
    bool ok = divide_vars(&g) && name_vars(&g) && find_numbers(&g) && holds(&g);
    out->prescale_var = g.prescale >= 0 ? g.prescale : g.chosen;
    out->count_var = g.count;
    out->fraction_var = g.fraction;
    return ok;
}
