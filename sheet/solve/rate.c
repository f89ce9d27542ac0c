/* SPDX-License-Identifier: MIT */
/*
 * The search for settings. Variables that stand in exponents or choices are tried value by value;
 * for the rest the law is a fraction of polynomials of degree 1 in each. All of those but the
 * widest are tried as well; for the widest the nearest values follow from the law itself:
 *
 *     (a + b y) / (c + d y) = p / q      at      y = (p c - a q) / (b q - p d)
 *
 * and a fraction of that form rises or falls throughout, so no other value is nearer than the whole
 * numbers on both sides.
 */
#include <math.h>
#include <string.h>

#include "sheet/laws/rate.h"

#include "sheet/chip/expression.h"

#define MOST_TRIES (UINT64_C(1) << 26)

/* One setting with its rate num / den, den > 0, and its distance off / (den * q) from p / q. */
typedef struct candidate {
    uint64_t values[WAD_RATE_VARS];
    wadi_i128 num, den, off;
    double distance;
} candidate;

typedef struct search {
    const wad_rate_law *law;
    const wad_rate_options *options;
    wad_rational wanted;
    wadi_rate_ctx rc;
    uint64_t values[WAD_RATE_VARS];
    int place[WAD_RATE_VARS]; /* of a variable in the polynomials, -1: a number now */
    unsigned linear[WADI_POLY_VARS], n_linear;
    candidate *best;
    unsigned n, room;
    bool ends; /* looks for the ends of the range, not for what is near */
    candidate slow, fast;
    bool any;
} search;

/* ---- keeping the best ---- */

static int by_preference(const search *s, const candidate *a, const candidate *b)
{
    for (unsigned i = 0; i < s->law->n_vars; i++)
        if (a->values[i] != b->values[i]) {
            bool large = s->options && s->options->prefer_large >> i & 1;
            return (a->values[i] < b->values[i]) != large ? -1 : 1;
        }
    return 0;
}

/* a / b against c / d in whole numbers; where those would not fit the floating distances decide. */
static int by_distance(const candidate *a, const candidate *b)
{
    double near = 1e-9 * (a->distance + b->distance);
    if (a->distance < b->distance - near || a->distance > b->distance + near)
        return a->distance < b->distance ? -1 : 1;
    wadi_i128 x, y;
    if (__builtin_mul_overflow(a->off, b->den, &x) || __builtin_mul_overflow(b->off, a->den, &y))
        return (a->distance > b->distance) - (a->distance < b->distance);
    return (x > y) - (x < y);
}

static void keep(search *s, const candidate *c)
{
    unsigned at = s->n;
    while (at > 0) {
        const candidate *before = &s->best[at - 1];
        int order = by_distance(c, before);
        if (order > 0 || (order == 0 && by_preference(s, c, before) >= 0))
            break;
        at--;
    }
    if (at == s->room)
        return;
    unsigned tail = MIN(s->n, s->room - 1) - at;
    memmove(&s->best[at + 1], &s->best[at], tail * sizeof *c);
    s->best[at] = *c;
    s->n = MIN(s->n + 1, s->room);
}

static void keep_ends(search *s, const candidate *c)
{
    double rate = (double)c->num / (double)c->den;
    if (!s->any || rate < (double)s->slow.num / (double)s->slow.den)
        s->slow = *c;
    if (!s->any || rate > (double)s->fast.num / (double)s->fast.den)
        s->fast = *c;
    s->any = true;
}

/* ---- one setting ---- */

static void try_rate(search *s, wadi_i128 num, wadi_i128 den)
{
    if (den < 0) {
        num = -num;
        den = -den;
    }
    if (den == 0 || num <= 0) /* no rate */
        return;
    candidate c = {.num = num, .den = den};
    if (s->ends) {
        memcpy(c.values, s->values, sizeof c.values);
        keep_ends(s, &c);
        return;
    }
    wadi_i128 x, y;
    if (__builtin_mul_overflow(num, (wadi_i128)s->wanted.den, &x) ||
        __builtin_mul_overflow(den, (wadi_i128)s->wanted.num, &y))
        return;
    c.off = x > y ? x - y : y - x;
    c.distance = (double)c.off / (double)den;
    if (s->n == s->room && c.distance > s->best[s->n - 1].distance * (1 + 1e-8))
        return;
    memcpy(c.values, s->values, sizeof c.values);
    keep(s, &c);
}

static wadi_i128 floor_of(wadi_i128 t, wadi_i128 u)
{
    /* most fit 64 bits, which divide much faster */
    if (t == (int64_t)t && u == (int64_t)u) {
        int64_t a = (int64_t)t, b = (int64_t)u, f = a / b;
        return f - ((a % b != 0) & ((a < 0) != (b < 0)));
    }
    wadi_i128 f = t / u;
    return f - ((t % u != 0) & ((t < 0) != (u < 0)));
}

/* (a + b y) / (c + d y): the two whole y around the wanted rate. */
static void solve_last(search *s, unsigned var, wadi_i128 a, wadi_i128 b, wadi_i128 c, wadi_i128 d)
{
    const wadi_rate_variable *v = &s->law->vars[var];
    wadi_i128 low = (wadi_i128)v->min, high = (wadi_i128)v->max, first = low, last = high;
    wadi_i128 p = s->wanted.num, q = s->wanted.den;
    wadi_i128 t = p * c - a * q, u = b * q - p * d;
    if (u) {
        first = floor_of(t, u);
        first = first < low ? low : first > high ? high : first;
        last = first < high ? first + 1 : first;
    }
    /* more answers than two may be wanted: their neighbours */
    for (unsigned more = 2; u && more < s->room && last - first + 1 < (int)s->room; more++) {
        first -= first > low;
        last += last < high;
    }
    for (wadi_i128 y = first;; y = last - first > 64 ? last : y + 1) {
        s->values[var] = (uint64_t)y;
        try_rate(s, a + b * y, c + d * y);
        if (y >= last)
            break;
    }
}

static void try_end(search *s, unsigned var, wadi_i128 y, wadi_i128 num, wadi_i128 den)
{
    const wadi_rate_variable *v = &s->law->vars[var];
    if (y < (wadi_i128)v->min || y > (wadi_i128)v->max)
        return;
    s->values[var] = (uint64_t)y;
    try_rate(s, num, den);
}

/* The ends of (a + b y) / (c + d y): those of y, and what lies around where it divides by 0 or
 * passes 0 itself. */
static void solve_ends(search *s, unsigned var, wadi_i128 a, wadi_i128 b, wadi_i128 c, wadi_i128 d)
{
    const wadi_rate_variable *v = &s->law->vars[var];
    wadi_i128 at[] = {(wadi_i128)v->min, (wadi_i128)v->max, d ? floor_of(-c, d) : 0,
                      b ? floor_of(-a, b) : 0};
    for (unsigned i = 0; i < G_N_ELEMENTS(at); i++)
        for (wadi_i128 y = at[i] - 1; y <= at[i] + 1; y++)
            try_end(s, var, y, a + b * y, c + d * y);
}

/* The next value of a field of which the ends are looked for: both of them, and their neighbours,
 * should they divide by 0. */
static uint64_t next_of(const search *s, const wadi_rate_variable *v, uint64_t x)
{
    if (!s->ends || x <= v->min || x + 1 >= v->max)
        return x + 1;
    return v->max - 1;
}

static void solve_widest(search *s, unsigned var, wadi_i128 a, wadi_i128 b, wadi_i128 c,
                         wadi_i128 d)
{
    if (s->ends)
        solve_ends(s, var, a, b, c, d);
    else
        solve_last(s, var, a, b, c, d);
}

/* ---- two linear variables in 64 bits: the commonest by far ---- */

typedef struct pair_law {
    int64_t n0, nx, ny, nxy, d0, dx, dy, dxy; /* (n0 + nx x + ny y + nxy x y) / (d0 + ...) */
} pair_law;

static wadi_i128 magnitude(wadi_i128 n)
{
    return n < 0 ? -n : n;
}

/* Do all numbers of the search stay within 61 bits? */
static bool fits(const search *s, const wadi_poly *p, unsigned x, unsigned y, wadi_i128 factor)
{
    wadi_i128 bx = (wadi_i128)s->law->vars[x].max, by = (wadi_i128)s->law->vars[y].max, sum = 0;
    const wadi_i128 scale[] = {1, bx, by, bx * by};
    for (unsigned t = 0; t < 4; t++) {
        wadi_i128 term;
        if (__builtin_mul_overflow(magnitude(p->term[t]), scale[t], &term) ||
            __builtin_mul_overflow(term, factor, &term) || term >> 60)
            return false;
        sum += term;
    }
    return sum >> 61 == 0;
}

/* A setting that may be nearer than the best so far, to within rounding, is looked at exactly. */
static inline void try_pair(search *s, unsigned x_var, unsigned y_var, int64_t x, int64_t y,
                            int64_t num, int64_t den, double *off_best, double *den_best)
{
    if (den < 0) {
        num = -num;
        den = -den;
    }
    if (num <= 0 || den == 0)
        return;
    int64_t off = num * s->wanted.den - den * s->wanted.num;
    double distance = (double)(off < 0 ? -off : off);
    if (distance * *den_best > *off_best * (double)den * (1 + 1e-12))
        return;
    s->values[x_var] = (uint64_t)x;
    s->values[y_var] = (uint64_t)y;
    try_rate(s, num, den);
    if (s->n) {
        *off_best = (double)s->best[0].off;
        *den_best = (double)s->best[0].den;
    }
}

/* t / u rounded down and what remains, u > 0. Floating division is several times as fast as that of
 * 64 bits, and off by less than 1 while the quotient stays below 2 ** 48: the remainder tells. */
static inline int64_t divide_floor(int64_t t, int64_t u, int64_t *rest)
{
    int64_t y = (int64_t)((double)t / (double)u);
    *rest = t - y * u;
    int64_t more = (*rest >= u) - (*rest < 0);
    *rest -= more * u;
    return y + more;
}

/* Are both whole y around t / u farther off than the best so far? Their distances are what remains,
 * and what is missing to the next, over the denominator. */
static inline bool is_hopeless(int64_t rest, int64_t u, int64_t den, int64_t step, double off_best,
                               double den_best)
{
    double here = fabs((double)den), next = fabs((double)(den + step)),
           limit = off_best * (1 + 1e-12);
    return (double)rest * den_best > limit * here && (double)(u - rest) * den_best > limit * next;
}

/* False: the numbers are too large, or more than the best is wanted; nothing was tried. */
static bool solve_pair(search *s, const wadi_fraction *f, unsigned x_var, unsigned y_var)
{
    const wadi_i128 *n = f->num.term, *d = f->den.term;
    if (s->ends || s->room != 1 || s->law->vars[y_var].max >> 48 ||
        !fits(s, &f->num, x_var, y_var, s->wanted.den) ||
        !fits(s, &f->den, x_var, y_var, s->wanted.num))
        return false;
    const wadi_rate_variable *vx = &s->law->vars[x_var], *vy = &s->law->vars[y_var];
    const pair_law k = {(int64_t)n[0], (int64_t)n[1], (int64_t)n[2], (int64_t)n[3],
                        (int64_t)d[0], (int64_t)d[1], (int64_t)d[2], (int64_t)d[3]};
    int64_t p = s->wanted.num, q = s->wanted.den, low = (int64_t)vy->min, high = (int64_t)vy->max;
    double off_best = s->n ? (double)s->best[0].off : 1,
           den_best = s->n ? (double)s->best[0].den : 0;
    for (int64_t x = (int64_t)vx->min; x <= (int64_t)vx->max; x++) {
        int64_t a = k.n0 + k.nx * x, b = k.ny + k.nxy * x;
        int64_t c = k.d0 + k.dx * x, dy = k.dy + k.dxy * x;
        int64_t t = p * c - a * q, u = b * q - p * dy, y = low;
        if (u) {
            int64_t rest, size = u < 0 ? -u : u;
            y = divide_floor(u < 0 ? -t : t, size, &rest);
            if (y >= low && y < high && is_hopeless(rest, size, c + dy * y, dy, off_best, den_best))
                continue;
            y = y < low ? low : y > high ? high : y;
        }
        int64_t num = a + b * y, den = c + dy * y;
        try_pair(s, x_var, y_var, x, y, num, den, &off_best, &den_best);
        num += b;
        den += dy;
        if (y < high)
            try_pair(s, x_var, y_var, x, y + 1, num, den, &off_best, &den_best);
    }
    return true;
}

/* ---- all but the last of the linear ones ---- */

static void put(wadi_poly *p, unsigned place, uint64_t value)
{
    for (unsigned t = 0; t < WADI_POLY_TERMS; t++)
        if (!(t >> place & 1)) {
            p->term[t] += p->term[t | 1u << place] * (wadi_i128)value;
            p->term[t | 1u << place] = 0;
        }
}

static void solve_linear(search *s, const wadi_fraction *f, unsigned k)
{
    if (!s->n_linear) {
        try_rate(s, f->num.term[0], f->den.term[0]);
        return;
    }
    unsigned var = s->linear[k], bit = 1u << k;
    const wadi_rate_variable *v = &s->law->vars[var];
    if (k + 1 == s->n_linear) {
        solve_widest(s, var, f->num.term[0], f->num.term[bit], f->den.term[0], f->den.term[bit]);
        return;
    }
    if (k == 0 && s->n_linear == 2 && solve_pair(s, f, var, s->linear[1]))
        return;
    if (k + 2 == s->n_linear) { /* no copies of polynomials */
        unsigned last = 1u << (k + 1), both = bit | last;
        const wadi_i128 *n = f->num.term, *d = f->den.term;
        for (uint64_t x = v->min; x <= v->max; x = next_of(s, v, x)) {
            wadi_i128 at = (wadi_i128)x;
            s->values[var] = x;
            solve_widest(s, s->linear[k + 1], n[0] + n[bit] * at, n[last] + n[both] * at,
                         d[0] + d[bit] * at, d[last] + d[both] * at);
        }
        return;
    }
    for (uint64_t x = v->min; x <= v->max; x = next_of(s, v, x)) {
        wadi_fraction g = *f;
        s->values[var] = x;
        put(&g.num, k, x);
        put(&g.den, k, x);
        solve_linear(s, &g, k + 1);
    }
}

/* ---- the chosen ones ---- */

static bool field(void *ctx, const wad_expr *e, wad_rational *value, int *var)
{
    const search *s = ctx;
    int i = wadi_rate_var(s->law, e);
    if (i < 0)
        return false;
    if (s->place[i] >= 0)
        *var = s->place[i];
    else
        *value = e->op == WADI_OP_PICK ? wadi_int((int64_t)s->values[i])
                                       : wadi_rate_meaning(&s->law->vars[i], s->values[i]);
    return true;
}

static bool clock_hz(void *ctx, const wad_clock *clock, wad_rational *hz)
{
    return wadi_rate_clock_hz(&((search *)ctx)->rc, clock, hz);
}

/* False: the law is no fraction of such polynomials with these variables. */
static bool choose(search *s, unsigned i)
{
    if (i == s->law->n_vars) {
        wadi_poly_env env = {field, clock_hz, s};
        wadi_fraction f;
        if (!wadi_poly_make(s->law->expr, &env, &f))
            return s->n_linear == 0; /* divides by 0: not offered */
        solve_linear(s, &f, 0);
        return true;
    }
    if (s->place[i] >= 0)
        return choose(s, i + 1);
    const wadi_rate_variable *v = &s->law->vars[i];
    bool fixed = s->options && s->options->fixed >> i & 1;
    uint64_t from = fixed ? s->options->values[i] : v->min, to = fixed ? from : v->max;
    for (uint64_t value = from; value <= to; value++) {
        s->values[i] = value;
        if (wadi_rate_offers(v, value) && !choose(s, i + 1))
            return false;
    }
    return true;
}

/* Which variables are linear: all that are not chosen or fixed, at most four, the widest last. */
static void divide(search *s, unsigned demoted)
{
    s->n_linear = 0;
    for (unsigned i = 0; i < s->law->n_vars; i++) {
        bool fixed = s->options && s->options->fixed >> i & 1;
        s->place[i] = -1;
        if (!fixed && !s->law->vars[i].chosen && !(demoted >> i & 1) &&
            s->n_linear < WADI_POLY_VARS)
            s->linear[s->n_linear++] = i;
    }
    for (unsigned k = 0; k + 1 < s->n_linear; k++)
        if (s->law->vars[s->linear[k]].max > s->law->vars[s->linear[s->n_linear - 1]].max) {
            unsigned wide = s->linear[k];
            memmove(&s->linear[k], &s->linear[k + 1], (s->n_linear - 1 - k) * sizeof wide);
            s->linear[s->n_linear - 1] = wide;
        }
    for (unsigned k = 0; k < s->n_linear; k++)
        s->place[s->linear[k]] = (int)k;
}

static uint64_t tries(const search *s)
{
    double product = 1;
    for (unsigned i = 0; i < s->law->n_vars; i++) {
        bool fixed = s->options && s->options->fixed >> i & 1;
        bool last = s->n_linear && s->linear[s->n_linear - 1] == i;
        if (!fixed && !last)
            product *= (double)(s->law->vars[i].max - s->law->vars[i].min) + 1;
    }
    return product > 1e18 ? UINT64_MAX : (uint64_t)product;
}

static bool run(search *s)
{
    for (unsigned demoted = 0;;) {
        divide(s, demoted);
        if (tries(s) > MOST_TRIES)
            return false;
        s->n = 0;
        s->any = false;
        if (choose(s, 0))
            return true;
        demoted |= 1u << s->linear[0]; /* some degree is too high: one less that is linear */
    }
}

/* ---- answers ---- */

static bool answer(const search *s, const candidate *c, wad_rate_answer *a)
{
    memcpy(a->values, c->values, sizeof a->values);
    if (!wadi_rat_make(c->num, c->den, &a->actual))
        return false;
    a->ppm = 0;
    if (s->wanted.num && c->off)
        a->ppm = (wadi_rat_double(a->actual) / wadi_rat_double(s->wanted) - 1) * 1e6;
    return true;
}

unsigned wad_rate_solve(const wad_rate_law *law, wad_rational clock, wad_rational wanted,
                        const wad_rate_options *options, wad_rate_answer *answers, unsigned n)
{
    search s = {.law = law, .options = options, .wanted = wanted, .rc = {law, clock, NULL}};
    if (!n || wanted.num <= 0)
        return 0;
    s.room = n;
    s.best = g_new(candidate, n + 1);
    unsigned found = 0;
    if (run(&s))
        for (unsigned i = 0; i < s.n; i++)
            found += answer(&s, &s.best[i], &answers[found]);
    g_free(s.best);
    return found;
}

bool wad_rate_range(const wad_rate_law *law, wad_rational clock, const wad_rate_options *options,
                    wad_rate_answer *slowest, wad_rate_answer *fastest)
{
    search s = {
        .law = law, .options = options, .wanted = {0, 1}, .rc = {law, clock, NULL}, .ends = true};
    return run(&s) && s.any && answer(&s, &s.slow, slowest) && answer(&s, &s.fast, fastest);
}
