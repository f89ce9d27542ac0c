/* SPDX-License-Identifier: MIT */
/* What a bench says of data movers and of memory: captures, expectations, memory before and after.
 */
#include <string.h>

#include "bench/language/bench.h"
#include "lang/rational.h"
#include "sheet/read/path.h"
#include "wadium/host/variables.h"

static const wad_instance *mover_at(const wad_bench *b, const wadi_cursor *c)
{
    const wad_instance *block =
        c->tok->type == WADI_T_NAME ? wad_sheet_block(b->sheet, c->tok->text) : NULL;
    return block && block->layout->kind && !strcmp(block->layout->kind, "dma") ? block : NULL;
}

static bool parse_channel(wadi_cursor *c, const wad_instance *block, unsigned *channel)
{
    unsigned n = wad_role_count(wad_layout_role(block->layout, "enable"));
    wad_where where = c->tok->where;
    if (c->tok->type == WADI_T_NUMBER && c->tok->number.den == 1 && c->tok->number.num >= 0 &&
        c->tok->number.num < (int64_t)n) {
        *channel = (unsigned)c->tok->number.num;
        c->tok++;
        return true;
    }
    wadi_error(c->src, &where, "%s has channels 0 to %u", block->name, n - 1);
    c->failed = true;
    return false;
}

static bool parse_request(wadi_cursor *c, const wad_instance *block, unsigned *code)
{
    wad_where where = c->tok->where;
    wadi_path path;
    if (!wadi_parse_path(c, NULL, &path))
        return false;
    const wad_role *role = wad_layout_role(block->layout, "request");
    const char *name = wadi_path_text(c->src->arena, &path);
    const wad_trigger *t = role ? wad_selected_by_name(block, role->field, name) : NULL;
    if (t) {
        *code = t->code;
        return true;
    }
    wadi_error(c->src, &where, "'%s' does not ask %s: 'wadium show CHIP dma' lists who does", name,
               block->name);
    c->failed = true;
    return false;
}

bool wadi_say_capture_mover(wad_bench *b, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    wadi_probe probe = {.mover.block = mover_at(b, c)};
    if (!probe.mover.block)
        return false;
    c->tok++;
    probe.mover.is_request = wadi_take_word(c, "request");
    if (probe.mover.is_request) {
        if (parse_request(c, probe.mover.block, &probe.mover.number))
            probe.name = wadi_arena_printf(b->arena, "request_%u", probe.mover.number);
    } else if (wadi_take_word(c, "channel")) {
        if (parse_channel(c, probe.mover.block, &probe.mover.number))
            probe.name = wadi_arena_printf(b->arena, "channel_%u", probe.mover.number);
    } else {
        wadi_expected(c, "'channel NUMBER' or 'request BLOCK.ROLE'");
    }
    if (!c->failed && wadi_take_word(c, "as")) {
        const char *name = wadi_need_name(c, "a name for the captured signal");
        probe.name = name ? wadi_arena_strndup(b->arena, name, strlen(name)) : probe.name;
    }
    if (c->failed || !wadi_need_end(c))
        return true;
    if (wadi_bench_probe(b, probe.name) >= 0) {
        wadi_error(c->src, &where, "'%s' is captured already", probe.name);
        c->failed = true;
        return true;
    }
    g_array_append_val(b->probes, probe);
    return true;
}

/* ---- expectations ---- */

bool wadi_parse_mover(wad_bench *b, wadi_cursor *c, wadi_expect *e)
{
    e->mover = mover_at(b, c);
    if (!e->mover || c->tok[1].type != WADI_T_NAME || strcmp(c->tok[1].text, "channel"))
        return false;
    c->tok += 2;
    if (!parse_channel(c, e->mover, &e->line))
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

/* ---- memory before and after ---- */

/* `memory table from 1 ms to 5 ms` */
bool wadi_say_memory(wad_bench *b, wadi_cursor *c)
{
    wadi_memory_def m = {.where = c->tok->where, .to_ps = UINT64_MAX};
    if (!wadi_take_word(c, "memory"))
        return false;
    const char *name = wadi_need_name(c, "a variable of the firmware");
    if (!name)
        return true;
    m.name = wadi_arena_strndup(b->arena, name, strlen(name));
    if (wadi_take_word(c, "from"))
        wadi_parse_ps(c, &m.from_ps);
    if (wadi_take_word(c, "to"))
        wadi_parse_ps(c, &m.to_ps);
    if (!c->failed && m.to_ps <= m.from_ps) {
        wadi_error(c->src, &m.where, "it ends before it begins");
        c->failed = true;
    }
    if (wadi_need_end(c))
        g_array_append_val(b->memories, m);
    return true;
}

static void look(wad_sim *sim, wadi_memory *m, uint8_t **bytes, uint64_t *at)
{
    wad_variable v;
    char *why = NULL;
    *at = wad_sim_now(sim);
    if (wad_variable_find(sim, m->shown.name, &v, &why)) {
        m->shown.bytes = v.bytes;
        *bytes = g_memdup2(v.address, v.bytes);
    } else if (!m->why) {
        m->why = why;
        why = NULL;
    }
    g_free(why);
}

static void look_before(wad_sim *sim, void *ctx)
{
    wadi_memory *m = ctx;
    look(sim, m, &m->before, &m->shown.from_ps);
}

static void look_after(wad_sim *sim, void *ctx)
{
    wadi_memory *m = ctx;
    look(sim, m, &m->after, &m->shown.to_ps);
}

GPtrArray *wadi_memories_begin(wad_sim *sim, GArray *defs)
{
    GPtrArray *list = g_ptr_array_new();
    for (guint i = 0; i < defs->len; i++) {
        const wadi_memory_def *d = &g_array_index(defs, wadi_memory_def, i);
        wadi_memory *m = g_new0(wadi_memory, 1);
        m->shown.name = d->name;
        wad_sim_at(sim, d->from_ps, look_before, m);
        if (d->to_ps != UINT64_MAX)
            wad_sim_at(sim, d->to_ps, look_after, m);
        g_ptr_array_add(list, m);
    }
    return list;
}

void wadi_memories_end(wad_sim *sim, GPtrArray *list, GArray *shown, GPtrArray *notes)
{
    for (guint i = 0; i < list->len; i++) {
        wadi_memory *m = list->pdata[i];
        if (!m->after)
            look_after(sim, m);
        m->shown.before = m->before;
        m->shown.after = m->after;
        if (m->before && m->after)
            g_array_append_val(shown, m->shown);
        else
            g_ptr_array_add(notes,
                            g_strdup_printf("memory %s: %s", m->shown.name,
                                            m->why ? m->why : "the run ended before that time"));
    }
}

void wadi_memories_free(GPtrArray *list)
{
    for (guint i = 0; list && i < list->len; i++) {
        wadi_memory *m = list->pdata[i];
        g_free(m->before);
        g_free(m->after);
        g_free(m->why);
        g_free(m);
    }
    if (list)
        g_ptr_array_free(list, TRUE);
}
