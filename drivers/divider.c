/* SPDX-License-Identifier: MIT */
/*
 * The nearest setting of a prescaler and a count, by comparing fractions.
 *
 * With a = clock * up * per and b = down * hz the product t = prescaler * count should be a / b.
 * The rate it gives is off by |a - b t| / t, times what is the same for all t; two settings are
 * compared by cross-multiplying, so nothing is ever rounded.
 */
#include <wadium/rate.h>

/* ---- wide numbers ---- */

typedef struct wide {
    uint64_t high, low;
} wide;

static wide multiply(uint64_t x, uint64_t y)
{
    uint64_t xl = (uint32_t)x, xh = x >> 32, yl = (uint32_t)y, yh = y >> 32;
    uint64_t low = xl * yl, mid = xh * yl + (low >> 32), other = xl * yh + (uint32_t)mid;
    return (wide){xh * yh + (mid >> 32) + (other >> 32), other << 32 | (uint32_t)low};
}

static wide difference(wide x, wide y) /* of the larger and the smaller */
{
    bool swap = x.high < y.high || (x.high == y.high && x.low < y.low);
    wide big = swap ? y : x, small = swap ? x : y;
    return (wide){big.high - small.high - (big.low < small.low), big.low - small.low};
}

/* Rounded down; by the processor's own 32-bit division where it fits. */
static uint64_t divide_fast(uint64_t x, uint32_t y)
{
    uint64_t rest;
    return x >> 32 ? wad_divide(x, y, &rest) : (uint32_t)x / y;
}

uint64_t wad_divide(uint64_t x, uint64_t y, uint64_t *rest)
{
    uint64_t quotient = 0, remainder = 0;
    for (unsigned i = 0; i < 64; i++) {
        bool carry = remainder >> 63;
        remainder = remainder << 1 | x >> 63;
        x <<= 1;
        quotient <<= 1;
        if (carry || remainder >= y) {
            remainder -= y;
            quotient |= 1;
        }
    }
    *rest = remainder;
    return quotient;
}

uint32_t wad_divisor(uint64_t scaled_clock, uint32_t rate, int32_t *off_ppm)
{
    uint64_t rest, d = wad_divide(scaled_clock, rate, &rest);
    if (d == 0 || rest * (d + 1u) > (rate - rest) * d)
        d++;
    uint64_t is = rate * d;
    bool slow = is > scaled_clock;
    uint64_t off = wad_divide((slow ? is - scaled_clock : scaled_clock - is) * 1000000u, is, &rest);
    int32_t ppm = off > 2000000u ? 2000000 : (int32_t)off;
    *off_ppm = slow ? -ppm : ppm;
    return d > 0xFFFFFFFFu ? 0xFFFFFFFFu : (uint32_t)d;
}

/* ---- one setting ---- */

typedef struct candidate {
    uint32_t prescale, prescale_value, count;
    uint64_t t;
    wide off; /* |a - b t| */
    bool any;
} candidate;

typedef struct search {
    const wad_divider *d;
    uint64_t a, b;
    uint64_t quotient, rest; /* a / b */
    candidate best;
} search;

/* x * n against y * m: -1, 0, 1 */
static int compare(wide x, uint64_t n, wide y, uint64_t m)
{
    if (!x.high && !y.high && !((x.low | y.low | n | m) >> 32)) {
        uint64_t p = x.low * n, q = y.low * m;
        return (p > q) - (p < q);
    }
    wide xl = multiply(x.low, n), xh = multiply(x.high, n);
    wide yl = multiply(y.low, m), yh = multiply(y.high, m);
    uint64_t xm = xh.low + xl.high, ym = yh.low + yl.high;
    uint64_t xt = xh.high + (xm < xh.low), yt = yh.high + (ym < yh.low);
    if (xt != yt)
        return xt > yt ? 1 : -1;
    if (xm != ym)
        return xm > ym ? 1 : -1;
    return (xl.low > yl.low) - (xl.low < yl.low);
}

static uint32_t count_value(const wad_divider *d, uint32_t count)
{
    return d->counts_up ? d->count_from - count : count - d->count_plus;
}

/* Of equally near ones: by the fields' values, the one that the law names first deciding. */
static bool is_preferred(const search *s, const candidate *c)
{
    uint32_t count = count_value(s->d, c->count), best = count_value(s->d, s->best.count);
    if (c->prescale_value == s->best.prescale_value || (s->d->count_first && count != best))
        return count < best;
    return c->prescale_value < s->best.prescale_value;
}

static void try_count(search *s, uint32_t prescale, uint32_t value, uint32_t count)
{
    candidate c = {.prescale = prescale,
                   .prescale_value = value,
                   .count = count,
                   .t = (uint64_t)prescale * count,
                   .any = true};
    c.off = difference((wide){0, s->a}, multiply(s->b, c.t));
    int order = s->best.any ? compare(c.off, s->best.t, s->best.off, c.t) : -1;
    if (order < 0 || (order == 0 && is_preferred(s, &c)))
        s->best = c;
}

/* The two counts on both sides of what is wanted; returns the lower. */
static uint32_t try_prescale(search *s, uint32_t prescale, uint32_t value)
{
    uint64_t low = divide_fast(s->quotient, prescale);
    uint32_t count = low < s->d->min ? s->d->min : low > s->d->max ? s->d->max : (uint32_t)low;
    try_count(s, prescale, value, count);
    if (count < s->d->max)
        try_count(s, prescale, value, count + 1);
    return count;
}

/* ---- all settings that could be nearest ---- */

/* Nothing can be nearer than the whole number next to a / b. */
static bool is_perfect(const search *s)
{
    if (!s->rest)
        return s->best.t == s->quotient;
    /* the one below is off by rest / q, the one above by (b - rest) / (q + 1) */
    int order =
        compare((wide){0, s->rest}, s->quotient + 1, (wide){0, s->b - s->rest}, s->quotient);
    return (order < 0 && s->best.t == s->quotient) || (order > 0 && s->best.t == s->quotient + 1);
}

/* Upwards: what a prescaler above the count could reach, one below it has reached already. */
static void try_all(search *s)
{
    const wad_divider *d = s->d;
    uint32_t first = d->prescale_min;
    uint64_t reach = divide_fast(s->quotient, d->max); /* below it the count is at its largest */
    if (reach > first)
        first = reach < d->prescale_max ? (uint32_t)reach : d->prescale_max;
    bool mirrors =
        !d->count_first && d->prescale_min == 1 && d->prescale_max <= d->max && d->min == 1;
    if (d->count_first) /* ties may prefer the largest prescaler */
        first = d->prescale_min;
    for (uint32_t p = first;; p++) {
        uint32_t count = try_prescale(s, p, p - d->prescale_plus);
        if (p == d->prescale_max || (!d->count_first && is_perfect(s)) ||
            (mirrors && p > count + 1u && count < d->max))
            return;
    }
}

static void try_powers(search *s)
{
    uint32_t value = 0;
    for (uint32_t p = 1;; p *= s->d->power, value++) {
        if (p >= s->d->prescale_min)
            try_prescale(s, p, value);
        if (p > s->d->prescale_max / s->d->power)
            return;
    }
}

static void try_set(search *s)
{
    for (uint32_t i = 0; i < s->d->n_set; i++)
        try_prescale(s, s->d->set[i], s->d->codes ? s->d->codes[i] : i);
}

/* ---- the answer ---- */

/* (a - b t) / (b t) in millionths, rounded to nearest. */
static int32_t error_ppm(const search *s)
{
    wide got = multiply(s->b, s->best.t), off = s->best.off;
    bool slow = got.high || got.low > s->a;
    while (off.high || off.low >> 44 || got.high) { /* keep off * 1 000 000 within 64 bits */
        off.low = off.low >> 1 | off.high << 63;
        off.high >>= 1;
        got.low = got.low >> 1 | got.high << 63;
        got.high >>= 1;
    }
    uint64_t rest, ppm = wad_divide(off.low * 1000000u, got.low ? got.low : 1, &rest);
    ppm += rest >= (got.low ? got.low : 1) - rest;
    int32_t error = ppm > INT32_MAX ? INT32_MAX : (int32_t)ppm;
    return slow ? -error : error;
}

static uint32_t smallest_prescale(const wad_divider *d)
{
    uint32_t least = d->set ? d->set[0] : d->prescale_min;
    for (uint32_t i = 1; d->set && i < d->n_set; i++)
        least = d->set[i] < least ? d->set[i] : least;
    return least;
}

static uint32_t largest_prescale(const wad_divider *d)
{
    uint32_t most = d->set ? d->set[0] : d->prescale_max, p = 1;
    for (uint32_t i = 1; d->set && i < d->n_set; i++)
        most = d->set[i] > most ? d->set[i] : most;
    while (!d->set && d->power > 1 && p <= d->prescale_max / d->power)
        p *= d->power;
    return !d->set && d->power > 1 ? p : most;
}

/* The whole number of clocks nearest to a period lies beyond what the fields divide by. */
static bool is_beyond(const search *s)
{
    uint64_t nearest = s->quotient + (s->rest >= s->b - s->rest);
    uint64_t least = (uint64_t)smallest_prescale(s->d) * s->d->min;
    uint64_t most = (uint64_t)largest_prescale(s->d) * s->d->max;
    return nearest < least || nearest > most;
}

static bool is_whole(const wad_divider *d, uint32_t clock_hz, wad_rate rate)
{
    return clock_hz && rate.hz && rate.per && d->up && d->down && d->min && d->max >= d->min &&
           (d->set ? d->n_set != 0 : d->prescale_min && d->prescale_max >= d->prescale_min);
}

wad_status wad_divider_solve(const wad_divider *d, uint32_t clock_hz, wad_rate rate,
                             wad_divider_setting *setting)
{
    search s = {.d = d};
    if (!is_whole(d, clock_hz, rate))
        return WAD_E_ARG;
    wide a = multiply((uint64_t)clock_hz * rate.per, d->up);
    if (a.high || a.low >> 63)
        return WAD_E_ARG;
    s.a = a.low;
    s.b = (uint64_t)d->down * rate.hz;
    if (s.a >> 32 || s.b >> 32) {
        s.quotient = wad_divide(s.a, s.b, &s.rest);
    } else {
        s.quotient = (uint32_t)s.a / (uint32_t)s.b;
        s.rest = (uint32_t)s.a % (uint32_t)s.b;
    }
    if (d->set)
        try_set(&s);
    else if (d->power > 1)
        try_powers(&s);
    else
        try_all(&s);
    setting->prescale = s.best.prescale;
    setting->count = s.best.count;
    setting->prescale_value = s.best.prescale_value;
    setting->count_value = count_value(d, s.best.count);
    setting->error_ppm = error_ppm(&s);
    return is_beyond(&s) ? WAD_E_RANGE : WAD_OK;
}
