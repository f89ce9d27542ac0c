/* SPDX-License-Identifier: MIT */
#include "columns.h"

#include <math.h>

#include <glib.h>

enum { SEEN_LOW = 1, SEEN_HIGH = 2, SEEN_FLOATING = 4 };

void wadi_columns_mark(wadi_column *cols, const wadi_axis *x, uint64_t from, uint64_t to,
                       uint32_t level)
{
    uint64_t span = x->to - x->from;
    if (to <= x->from || from >= x->to)
        return;
    from = MAX(from, x->from) - x->from;
    to = MIN(to, x->to) - x->from;
    unsigned a = (unsigned)((double)from / (double)span * x->columns);
    unsigned b = (unsigned)((double)(to - 1) / (double)span * x->columns);
    for (unsigned i = a; i <= b && i < x->columns; i++) {
        cols[i].seen |= (unsigned char)(1u << level);
        cols[i].last = (unsigned char)level;
    }
}

wadi_column *wadi_columns_of(const wad_capture *c, unsigned channel, const wadi_axis *x)
{
    wadi_column *cols = g_new0(wadi_column, x->columns);
    uint32_t level = WAD_FLOATING;
    uint64_t since = 0;
    wad_cursor at = {0};
    wad_edge_record e;
    while (wad_capture_next(c, &at, &e)) {
        if (e.channel != channel)
            continue;
        wadi_columns_mark(cols, x, since, e.ps, level);
        level = e.level;
        since = e.ps;
    }
    wadi_columns_mark(cols, x, since, UINT64_MAX, level);
    return cols;
}

bool wadi_column_both(const wadi_column *column)
{
    return (column->seen & (SEEN_LOW | SEEN_HIGH)) == (SEEN_LOW | SEEN_HIGH);
}

const char *wadi_column_glyph(const wadi_column *cols, unsigned i)
{
    if (wadi_column_both(&cols[i])) {
        bool to_low = cols[i].last == WAD_LOW;
        bool from_low = i ? cols[i - 1].last == WAD_LOW : !to_low;
        return from_low == to_low ? "█" : from_low ? "╱" : "╲";
    }
    if (!cols[i].seen)
        return " ";
    if (cols[i].seen & SEEN_FLOATING)
        return "·";
    return cols[i].seen & SEEN_HIGH ? "▔" : "▁";
}

void wadi_append_heights(GString *text, const double *values, unsigned n, double least)
{
    static const char *const bars[] = {"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
    double low = INFINITY, high = -INFINITY;
    for (unsigned i = 0; i < n; i++)
        if (!isnan(values[i])) {
            low = fmin(low, values[i]);
            high = fmax(high, values[i]);
        }
    if (high - low < least) {
        low = (low + high - least) / 2;
        high = low + least;
    }
    for (unsigned i = 0; i < n; i++) {
        double share = high > low ? (values[i] - low) / (high - low) : 0.5;
        g_string_append(text, isnan(values[i]) ? "·" : bars[(unsigned)(share * 7 + 0.5)]);
    }
}
