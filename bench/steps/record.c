/* SPDX-License-Identifier: MIT */
/* Records the steps of a bring-up: accesses become writes and waits. */
#include "record.h"
#include "bench/language/bench.h"
#include "files/csv.h"

#include <string.h>

#define MOST_STEPS 5000
#define MANY_LOOKS 16 /* without a change: something was waited for in vain */

/* ---- the list ---- */

static wad_steps *steps_new(const wad_sheet *sheet, const char *title)
{
    wad_steps *s = g_new0(wad_steps, 1);
    s->sheet = sheet;
    s->title = g_strdup(title);
    s->list = g_array_new(FALSE, FALSE, sizeof(wad_step));
    s->texts = g_string_chunk_new(1024);
    s->regs = wad_regs_new(sheet);
    s->stages = g_new0(wadi_stage, sheet->n_blocks + 1);
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        s->stages[i].configured = g_hash_table_new(NULL, NULL);
    return s;
}

void wad_steps_free(wad_steps *s)
{
    if (!s)
        return;
    for (unsigned i = 0; i < s->sheet->n_blocks; i++)
        g_hash_table_destroy(s->stages[i].configured);
    g_free(s->stages);
    g_free(s->title);
    g_array_free(s->list, TRUE);
    g_string_chunk_free(s->texts);
    wad_regs_free(s->regs);
    g_free(s);
}

unsigned wad_steps_count(const wad_steps *s)
{
    return s->list->len;
}

const wad_step *wad_steps_at(const wad_steps *s, unsigned i)
{
    return i < s->list->len ? &g_array_index(s->list, wad_step, i) : NULL;
}

unsigned wad_steps_warnings(const wad_steps *s)
{
    return s->warnings;
}

static bool same_place(const wad_place *a, const wad_place *b)
{
    return a->line == b->line && a->file == b->file;
}

static bool same_register(const wad_step *a, const wad_step *b)
{
    return a->block == b->block && a->reg == b->reg && a->reg_index == b->reg_index;
}

static void add(wad_steps *s, wad_step *step)
{
    if (s->list->len >= MOST_STEPS)
        return;
    wad_step *last = s->list->len ? &g_array_index(s->list, wad_step, s->list->len - 1) : NULL;
    if (step->kind == WAD_STEP_WRITE && last && last->kind == WAD_STEP_WRITE &&
        same_register(last, step) && last->value == step->value &&
        same_place(&last->place, &step->place)) {
        last->count++;
        last->end_ps = step->ps;
        return;
    }
    wadi_step_explain(s, step);
    if (step->kind == WAD_STEP_WAIT && !step->reason && !step->warning)
        return; /* a look at what stood already */
    s->warnings += step->warning != NULL;
    g_array_append_val(s->list, *step);
}

/* ---- from accesses to steps ---- */

/* A single look counts when something is waited for there: a clock's ready flag, a block's need. */
static bool is_awaited(const wad_steps *s, const wad_step *look)
{
    for (unsigned i = 0; i < s->sheet->n_clocks; i++)
        if (s->sheet->clocks[i]->ready.reg == look->reg &&
            s->sheet->clocks[i]->ready.block == look->block)
            return true;
    for (unsigned i = 0; i < s->sheet->n_blocks; i++) {
        const wad_cond *needs = &s->sheet->blocks[i]->needs;
        for (unsigned k = 0; k < needs->n; k++)
            if (needs->terms[k].ref.reg == look->reg && needs->terms[k].ref.block == look->block &&
                needs->terms[k].ref.field && needs->terms[k].ref.field->access == WAD_ACCESS_RO)
                return true;
    }
    return false;
}

/* Reads are over when another register, or a write, follows; `by` is that write, or NULL. */
static void end_look(wad_steps *s, const wad_step *by)
{
    if (!s->looking)
        return;
    s->looking = false;
    if (by && same_register(by, &s->look) && s->look.before == s->look.after)
        return; /* read, changed, written back */
    bool changed = s->look.before != s->look.after;
    if (changed || s->look.count >= MANY_LOOKS || is_awaited(s, &s->look))
        add(s, &s->look);
}

static void take(wad_steps *s, wad_step *step, bool write)
{
    if (write) {
        end_look(s, step);
        add(s, step);
        const wad_register *reg = step->reg->alias ? step->reg->alias_of : step->reg;
        wad_fieldref ref = {.block = step->block, .reg = reg, .reg_index = step->reg_index};
        wad_regs_put(s->regs, &ref, step->after);
        return;
    }
    if (s->looking && same_register(&s->look, step) && same_place(&s->look.place, &step->place)) {
        s->look.count++;
        s->look.after = s->look.value = step->value;
        s->look.end_ps = step->ps;
        return;
    }
    end_look(s, NULL);
    step->kind = WAD_STEP_WAIT;
    step->before = step->after = step->value;
    s->look = *step;
    s->looking = true;
}

/* ---- from a run ---- */

typedef struct recorder {
    wad_steps *steps;
    const wad_steps_options *options;
    wad_sim *sim;
    unsigned depth; /* of handlers */
} recorder;

static bool is_wanted(const wad_steps_options *o, const wad_instance *block)
{
    return !o->blocks || !*o->blocks || g_strv_contains(o->blocks, block->name);
}

static bool is_inside(recorder *r)
{
    wad_place places[24];
    unsigned n = r->options->call ? wad_sim_stack(r->sim, places, G_N_ELEMENTS(places)) : 0;
    for (unsigned i = 0; i < n; i++)
        if (places[i].function && !strcmp(places[i].function, r->options->call))
            return true;
    return !r->options->call;
}

static void on_access(void *ctx, const wad_access_record *a)
{
    recorder *r = ctx;
    if ((r->depth && !r->options->handlers) || !is_wanted(r->options, a->block) || !is_inside(r))
        return;
    wad_step step = {.ps = a->ps,
                     .end_ps = a->ps,
                     .count = 1,
                     .block = a->block,
                     .reg = a->reg,
                     .reg_index = a->reg_index,
                     .value = a->value,
                     .before = a->before,
                     .after = a->after};
    wad_sim_here(r->sim, &step.place);
    take(r->steps, &step, a->write);
}

static void on_irq(void *ctx, const wad_irq_record *record)
{
    recorder *r = ctx;
    r->depth += record->left_ps ? -1u : 1u;
}

static void prepare(wad_sim *sim, void *ctx)
{
    recorder *r = ctx;
    r->sim = sim;
    wad_sim_watch_access(sim, on_access, r);
    wad_sim_watch_irq(sim, on_irq, r);
}

static const char *keep(wad_steps *s, const char *text)
{
    return text ? g_string_chunk_insert_const(s->texts, text) : NULL;
}

/* The simulator lets places go with the run. */
static void keep_places(wad_steps *s)
{
    for (guint i = 0; i < s->list->len; i++) {
        wad_place *p = &g_array_index(s->list, wad_step, i).place;
        *p = (wad_place){keep(s, p->function), keep(s, p->file), p->line};
    }
}

static gint by_time(gconstpointer a, gconstpointer b)
{
    const wad_step *x = a, *y = b;
    return x->ps < y->ps ? -1 : x->ps > y->ps;
}

static bool finding_wanted(const wad_steps_options *o, const wad_finding *f)
{
    bool inside = !o->call;
    for (unsigned i = 0; i < f->n_places && !inside; i++)
        inside = f->places[i].function && !strcmp(f->places[i].function, o->call);
    return inside;
}

static void add_findings(wad_steps *s, const wad_sim *sim, const wad_steps_options *o)
{
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++) {
        const wad_finding *f = wad_sim_finding(sim, i);
        if (!finding_wanted(o, f))
            continue;
        char *text =
            g_strdup_printf("W%d %s: %s", (int)f->kind, wad_finding_title(f->kind), f->what);
        wad_step step = {.kind = WAD_STEP_FINDING,
                         .ps = f->first_ps,
                         .end_ps = f->last_ps,
                         .count = f->count,
                         .warning = keep(s, text)};
        if (f->n_places)
            step.place = f->places[0];
        g_array_append_val(s->list, step);
        s->warnings++;
        g_free(text);
    }
    g_array_sort(s->list, by_time);
}

wad_steps *wad_steps_run(wad_bench *bench, const wad_steps_options *options, char **why)
{
    static const wad_steps_options plain;
    const wad_steps_options *o = options ? options : &plain;
    wad_steps *steps = steps_new(wad_bench_sheet(bench), wad_bench_title(bench));
    recorder r = {steps, o, NULL, 0};
    wad_bench_options run = {
        .firmware_dir = o->firmware_dir, .until_ps = o->until_ps, .prepare = prepare, .ctx = &r};
    wad_bench_result *result = wad_bench_run(bench, &run, why);
    if (!result) {
        wad_steps_free(steps);
        return NULL;
    }
    end_look(steps, NULL);
    add_findings(steps, result->sim, o);
    steps->judged = true;
    keep_places(steps);
    wadi_steps_finish(steps);
    wad_bench_result_free(result);
    return steps;
}

/* ---- from a trace ---- */

/* What a write leaves, as the register's kind says; flags that the hardware set are not known. */
static uint32_t left_by(const wad_register *reg, uint32_t before, uint32_t value)
{
    if (reg->alias == WAD_ALIAS_SETS)
        return before | value;
    if (reg->alias == WAD_ALIAS_CLEARS)
        return before & ~value;
    if (reg->alias == WAD_ALIAS_TOGGLES)
        return before ^ value;
    return (uint32_t)wad_register_after(reg, before, value, UINT32_MAX);
}

#define TRACE_COLUMNS "time_ps,file,line,function,access,register,value"

static bool take_line(wad_steps *s, const wad_steps_options *o, char **cells, char **why)
{
    wad_fieldref ref;
    uint64_t value;
    char *end;
    wad_step step = {.count = 1};
    if (g_strv_length(cells) < 7 || (strcmp(cells[4], "write") && strcmp(cells[4], "read"))) {
        *why = g_strdup("a line of a trace has a time, a place, an access, a register and a value");
        return false;
    }
    if (!wad_sheet_resolve(s->sheet, cells[5], &ref, why))
        return false;
    step.ps = step.end_ps = g_ascii_strtoull(cells[0], &end, 10);
    if (*end || !wad_parse_number(cells[6], &value)) {
        *why = g_strdup_printf("'%s' is no %s", *end ? cells[0] : cells[6],
                               *end ? "time in picoseconds" : "value");
        return false;
    }
    if ((o->call && strcmp(cells[3], o->call)) || !is_wanted(o, ref.block) ||
        (o->until_ps && step.ps > o->until_ps))
        return true;
    step.block = ref.block;
    step.reg = ref.reg;
    step.reg_index = ref.reg_index;
    step.value = (uint32_t)value;
    const wad_register *own = ref.reg->alias ? ref.reg->alias_of : ref.reg;
    step.before = (uint32_t)wad_regs_read(s->regs, ref.block, own, ref.reg_index);
    step.after = left_by(ref.reg, step.before, step.value);
    step.place = (wad_place){*cells[3] ? keep(s, cells[3]) : NULL, keep(s, cells[1]),
                             (unsigned)g_ascii_strtoull(cells[2], NULL, 10)};
    take(s, &step, !strcmp(cells[4], "write"));
    return true;
}

wad_steps *wad_steps_read(const wad_sheet *sheet, const char *path,
                          const wad_steps_options *options, wad_diags *diags)
{
    static const wad_steps_options plain;
    char *text = NULL, *base = g_path_get_basename(path);
    wad_steps *s = steps_new(sheet, base);
    GError *error = NULL;
    bool ok = g_file_get_contents(path, &text, NULL, &error);
    g_free(base);
    if (!ok) {
        wad_diags_add(diags, WAD_ERROR, &(wad_where){path, 0, 0}, NULL, "%s", error->message);
        g_error_free(error);
    }
    char **lines = g_strsplit(text ? text : "", "\n", -1);
    if (ok && (!lines[0] || !g_str_has_prefix(lines[0], TRACE_COLUMNS))) {
        wad_diags_add(diags, WAD_ERROR, &(wad_where){path, 1, 1}, NULL,
                      "no register trace: 'wadium run --trace FILE.csv' writes them");
        ok = false;
    }
    for (unsigned i = 1; ok && lines[i]; i++) { /* the first names the columns */
        char *why = NULL, **cells = wadi_csv_split(g_strchomp(lines[i]), ',');
        ok = !*lines[i] || take_line(s, options ? options : &plain, cells, &why);
        if (!ok)
            wad_diags_add(diags, WAD_ERROR, &(wad_where){path, i + 1, 1}, lines[i], "%s", why);
        g_strfreev(cells);
        g_free(why);
    }
    g_strfreev(lines);
    g_free(text);
    if (!ok) {
        wad_steps_free(s);
        return NULL;
    }
    end_look(s, NULL);
    wadi_steps_finish(s);
    return s;
}
