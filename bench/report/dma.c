/* SPDX-License-Identifier: MIT */
/* Reports: what DMA controllers did, and memory before and after. */
#include <string.h>

#include "bench/language/bench.h"
#include "bench/measure/text.h"

#define ROW 16 /* bytes in a line */

void wad_report_dma(const wad_bench_result *r, FILE *out)
{
    uint64_t waited, taken = wad_sim_bus_taken(r->sim, &waited);
    double end = (double)r->run.end_ps;
    if (!r->n_dma)
        return;
    fprintf(out, "\n  %-8s %-8s %-10s %-12s %-8s %-30s %s\n", "DMA", "channel", "elements",
            "bytes a s", "bursts", "latency: min, mean, max", "bus");
    for (unsigned i = 0; i < r->n_dma; i++) {
        const wad_dma_stats *m = &r->dma[i];
        double seconds = (double)(m->last_ps - m->first_ps) / 1e12;
        double each = m->elements > 1 ? (double)m->bytes * (double)(m->elements - 1) /
                                            (double)m->elements / seconds
                                      : 0;
        char *rate = m->elements > 1 ? g_strdup_printf("%.6g", each) : g_strdup("-");
        char *late = g_strdup("-");
        if (m->latency.n) {
            char *min = wadi_seconds((double)m->latency.min / 1e12),
                 *mean = wadi_seconds(wad_stats_mean(&m->latency) / 1e12),
                 *max = wadi_seconds((double)m->latency.max / 1e12);
            g_free(late);
            late = g_strdup_printf("%s, %s, %s", min, mean, max);
            g_free(min);
            g_free(mean);
            g_free(max);
        }
        fprintf(out, "  %-8s %-8u %-10llu %-12s %-8llu %-30s %.3g %%\n", m->block->name, m->channel,
                (unsigned long long)m->elements, rate, (unsigned long long)m->bursts, late,
                100 * (double)m->bus_ps / end);
        g_free(rate);
        g_free(late);
    }
    char *wait = wadi_seconds((double)waited / 1e12);
    fprintf(out, "  the bus was theirs for %.4g %% of the time; the core waited %s for it\n",
            100 * (double)taken / end, wait);
    g_free(wait);
}

/* ---- memory ---- */

static bool row_differs(const wad_memory_shown *m, size_t from)
{
    size_t n = MIN((size_t)ROW, m->bytes - from);
    return memcmp(m->before + from, m->after + from, n) != 0;
}

static void put_bytes(const uint8_t *bytes, const wad_memory_shown *m, size_t from, bool mark,
                      bool colour, FILE *out)
{
    for (size_t i = 0; i < ROW; i++) {
        bool there = from + i < m->bytes;
        bool changed = there && mark && m->before[from + i] != m->after[from + i];
        if (!there)
            fputs("   ", out);
        else
            fprintf(out,
                    changed && colour ? "\033[1;31m %02x\033[0m"
                    : changed         ? ">%02x"
                                      : " %02x",
                    bytes[from + i]);
        if (i == ROW / 2 - 1)
            fputc(' ', out);
    }
}

static void put_memory(const wad_memory_shown *m, bool colour, FILE *out)
{
    char *from = wadi_seconds((double)m->from_ps / 1e12),
         *to = wadi_seconds((double)m->to_ps / 1e12);
    size_t changed = 0;
    for (size_t i = 0; i < m->bytes; i++)
        changed += m->before[i] != m->after[i];
    fprintf(out, "\n  memory %s, %zu bytes, %s to %s: %zu changed\n", m->name, m->bytes, from, to,
            changed);
    for (size_t at = 0; at < m->bytes; at += ROW) {
        if (!row_differs(m, at)) {
            fprintf(out, "    %04zx  ", at);
            put_bytes(m->after, m, at, false, colour, out);
            fputc('\n', out);
            continue;
        }
        fprintf(out, "    %04zx -", at);
        put_bytes(m->before, m, at, false, colour, out);
        fprintf(out, "\n         +");
        put_bytes(m->after, m, at, true, colour, out);
        fputc('\n', out);
    }
    g_free(to);
    g_free(from);
}

void wad_report_memories(const wad_bench_result *r, bool colour, FILE *out)
{
    for (unsigned i = 0; i < r->n_memories; i++)
        put_memory(&r->memories[i], colour, out);
}
