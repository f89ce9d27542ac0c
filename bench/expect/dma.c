/* SPDX-License-Identifier: MIT */
/* Expectations of DMA channels and of the bus. */
#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/dma.h"
#include "bench/measure/dma.h"
#include "bench/measure/text.h"
#include "expect.h"
#include "lang/cursor.h"
#include "lang/rational.h"

bool wadi_parse_mover(wad_bench *b, wadi_cursor *c, wadi_expect *e)
{
    e->mover = wadi_mover_at(b, c);
    if (!e->mover || c->tok[1].type != WADI_T_NAME || strcmp(c->tok[1].text, "channel"))
        return false;
    c->tok += 2;
    if (!wadi_parse_channel(c, e->mover, &e->line))
        return true;
    if (wadi_take_word(c, "elements")) {
        e->type = WADI_EXPECT_ELEMENTS;
        wadi_expect_wanted(c, e, WAD_UNIT_NONE);
    } else if (wadi_take_word(c, "latency")) {
        e->type = WADI_EXPECT_ELEMENT_LATENCY;
        if (wadi_need_word(c, "below"))
            wadi_expect_wanted(c, e, WAD_UNIT_S);
    } else {
        wadi_expected(c, "'elements' or 'latency below'");
    }
    return true;
}

wadi_judged wadi_judge_mover(const wadi_gauge *g, wad_sim *sim, const wad_run_result *run)
{
    const wadi_expect *e = g->expect;
    double wanted = wadi_rat_double(e->wanted);
    if (e->type == WADI_EXPECT_BUS) {
        uint64_t waited, taken = wad_sim_bus_taken(sim, &waited);
        double share = run->end_ps ? (double)taken / (double)run->end_ps : 0;
        return (wadi_judged){g_strdup_printf("%.4g %%", 100 * share), share < wanted};
    }
    const wad_mover_stats *s = wadi_movers_channel(g->movers, e->mover, e->line);
    uint64_t n = s ? s->elements : 0;
    if (e->type == WADI_EXPECT_ELEMENTS)
        return (wadi_judged){g_strdup_printf("%llu", (unsigned long long)n), (double)n == wanted};
    if (!s || !s->latency.n)
        return (wadi_judged){g_strdup("no request was answered"), false};
    char *most = wadi_seconds((double)s->latency.max / 1e12);
    char *mean = wadi_seconds(wad_stats_mean(&s->latency) / 1e12);
    wadi_judged j = {g_strdup_printf("%s at most, mean %s", most, mean),
                     (double)s->latency.max / 1e12 < wanted};
    g_free(mean);
    g_free(most);
    return j;
}
