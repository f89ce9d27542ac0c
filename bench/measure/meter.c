/* SPDX-License-Identifier: MIT */
#include "wadium/host/meter.h"

#include <math.h>
#include <string.h>

void wad_stats_add(wad_stats *s, uint64_t value)
{
    if (__builtin_expect(!s->n++, 0)) {
        s->first = s->min = s->max = value;
        return;
    }
    if (value == s->first)
        return; /* adds nothing to the sums, and lies between the extremes */
    s->min = value < s->min ? value : s->min;
    s->max = value > s->max ? value : s->max;
    double dev = (double)(int64_t)(value - s->first);
    s->sum_dev += dev;
    s->sum_squares += dev * dev;
}

double wad_stats_mean(const wad_stats *s)
{
    return s->n ? (double)s->first + s->sum_dev / (double)s->n : 0;
}

double wad_stats_deviation(const wad_stats *s)
{
    if (s->n < 2)
        return 0;
    double mean = s->sum_dev / (double)s->n, var = s->sum_squares / (double)s->n - mean * mean;
    return var > 0 ? sqrt(var) : 0;
}

void wad_meter_init(wad_meter *m, uint64_t from_ps, uint64_t to_ps)
{
    memset(m, 0, sizeof *m);
    m->from_ps = from_ps;
    m->to_ps = to_ps;
    m->since = from_ps;
    m->level = m->driven = WAD_FLOATING;
}

static void rise(wad_meter *m, uint64_t ps)
{
    if (m->rises) {
        wad_stats_add(&m->period, ps - m->last_rise);
        if (m->falls)
            wad_stats_add(&m->low, ps - m->last_fall);
        m->high_ps += m->last_fall >= m->last_rise && m->falls ? m->last_fall - m->last_rise : 0;
    } else {
        m->first_rise = ps;
        if (m->falls)
            wad_stats_add(&m->low, ps - m->last_fall);
    }
    m->rises++;
    m->last_rise = ps;
}

static void fall(wad_meter *m, uint64_t ps)
{
    if (m->rises)
        wad_stats_add(&m->high, ps - m->last_rise);
    m->falls++;
    m->last_fall = ps;
}

void wad_meter_edge(wad_meter *m, uint64_t ps, wad_level level)
{
    if (ps > m->to_ps || level == m->level)
        return;
    wad_level before = m->level, driven = m->driven;
    m->level = level;
    if (level != WAD_FLOATING)
        m->driven = level;
    if (ps < m->from_ps)
        return;
    if (before == WAD_HIGH)
        m->all_high += ps - m->since;
    m->since = ps;
    if (driven == WAD_FLOATING || m->driven == driven)
        return;
    m->edges++;
    if (level == WAD_HIGH)
        rise(m, ps);
    else
        fall(m, ps);
}

void wad_meter_end(wad_meter *m, uint64_t end_ps)
{
    m->end_ps = end_ps < m->to_ps ? end_ps : m->to_ps;
    if (m->level == WAD_HIGH && m->end_ps > m->since)
        m->all_high += m->end_ps - m->since;
    m->since = m->end_ps;
}

double wad_meter_hz(const wad_meter *m)
{
    if (m->rises < 2)
        return 0;
    return (double)(m->rises - 1) * 1e12 / (double)(m->last_rise - m->first_rise);
}

double wad_meter_duty(const wad_meter *m)
{
    if (m->rises >= 2)
        return (double)m->high_ps / (double)(m->last_rise - m->first_rise);
    if (m->end_ps <= m->from_ps)
        return 0;
    return (double)m->all_high / (double)(m->end_ps - m->from_ps);
}
