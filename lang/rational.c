/* SPDX-License-Identifier: MIT */
#include "rational.h"

#include <stdio.h>

static wadi_u128 magnitude(wadi_i128 n)
{
    return n < 0 ? -(wadi_u128)n : (wadi_u128)n;
}

static wadi_u128 gcd(wadi_u128 a, wadi_u128 b)
{
    while (b) {
        wadi_u128 r = a % b;
        a = b;
        b = r;
    }
    return a;
}

bool wadi_rat_make(wadi_i128 num, wadi_i128 den, wad_rational *out)
{
    if (den == 0)
        return false;
    if (den < 0) {
        num = -num;
        den = -den;
    }
    wadi_u128 g = gcd(magnitude(num), (wadi_u128)den);
    if (g > 1) {
        num /= (wadi_i128)g;
        den /= (wadi_i128)g;
    }
    if (num > INT64_MAX || num < -(wadi_i128)INT64_MAX || den > INT64_MAX)
        return false;
    *out = (wad_rational){(int64_t)num, (int64_t)den};
    return true;
}

bool wadi_rat_add(wad_rational a, wad_rational b, wad_rational *out)
{
    return wadi_rat_make((wadi_i128)a.num * b.den + (wadi_i128)b.num * a.den,
                         (wadi_i128)a.den * b.den, out);
}

bool wadi_rat_sub(wad_rational a, wad_rational b, wad_rational *out)
{
    return wadi_rat_add(a, (wad_rational){-b.num, b.den}, out);
}

bool wadi_rat_mul(wad_rational a, wad_rational b, wad_rational *out)
{
    return wadi_rat_make((wadi_i128)a.num * b.num, (wadi_i128)a.den * b.den, out);
}

bool wadi_rat_div(wad_rational a, wad_rational b, wad_rational *out)
{
    return wadi_rat_make((wadi_i128)a.num * b.den, (wadi_i128)a.den * b.num, out);
}

bool wadi_rat_pow(wad_rational a, wad_rational b, wad_rational *out)
{
    if (b.den != 1 || b.num < -63 || b.num > 63)
        return false;
    *out = wadi_int(1);
    for (int64_t i = 0; i < (b.num < 0 ? -b.num : b.num); i++)
        if (!wadi_rat_mul(*out, a, out))
            return false;
    return b.num >= 0 || wadi_rat_div(wadi_int(1), *out, out);
}

int wadi_rat_cmp(wad_rational a, wad_rational b)
{
    wadi_i128 l = (wadi_i128)a.num * b.den, r = (wadi_i128)b.num * a.den;
    return (l > r) - (l < r);
}

int64_t wadi_rat_floor(wad_rational a)
{
    int64_t q = a.num / a.den;
    return q - (a.num % a.den < 0);
}

double wadi_rat_double(wad_rational a)
{
    return (double)a.num / (double)a.den;
}

static void format_scaled(char *text, size_t size, double v, const char *const *units,
                          const double *scales, int n)
{
    int i = 0;
    while (i + 1 < n && v < scales[i] * 0.99999999995)
        i++;
    snprintf(text, size, "%.10g %s", v / scales[i], units[i]);
}

void wad_format_hz(char *text, size_t size, wad_rational hz)
{
    static const char *const units[] = {"MHz", "kHz", "Hz"};
    static const double scales[] = {1e6, 1e3, 1};
    /* 32 768 Hz reads better than 32.768 kHz: a whole number of hertz below 100 kHz stays so */
    if (hz.den == 1 && hz.num < 100000 && hz.num % 1000)
        snprintf(text, size, "%lld Hz", (long long)hz.num);
    else
        format_scaled(text, size, wadi_rat_double(hz), units, scales, 3);
}

void wad_format_seconds(char *text, size_t size, wad_rational s)
{
    static const char *const units[] = {"s", "ms", "us", "ns", "ps"};
    static const double scales[] = {1, 1e-3, 1e-6, 1e-9, 1e-12};
    format_scaled(text, size, wadi_rat_double(s), units, scales, s.num ? 5 : 1);
}
