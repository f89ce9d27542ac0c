/* SPDX-License-Identifier: MIT */
#include "resolve.h"

#include <stdarg.h>
#include <string.h>

#include "kinds/spi/state.h"
#include "silence.h"
#include "sim/core/block.h"
#include "sim/core/line.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"
#include "sim/core/register.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"
#include "sim/host/source.h"

static const struct {
    wad_finding_kind kind;
    const char *title, *cure;
} kinds[] = {
#define KIND(name, number, what, cure) {WAD_FINDING_##name, what, cure},
    WAD_FINDINGS(KIND)
#undef KIND
};

const char *wad_finding_title(wad_finding_kind kind)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(kinds); i++)
        if (kinds[i].kind == kind)
            return kinds[i].title;
    return NULL;
}

const char *wad_finding_cure(wad_finding_kind kind)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(kinds); i++)
        if (kinds[i].kind == kind)
            return kinds[i].cure;
    return NULL;
}

/* One finding and what it owns; found again by kind, place and register. */
typedef struct item {
    wad_finding shown;
    char *what, *hint;
    wadi_trace trace;
    uint64_t address;
} item;

static guint item_hash(gconstpointer p)
{
    const item *it = p;
    return (guint)((unsigned)it->shown.kind * UINT64_C(31) + it->trace.pc[0] * 7 + it->address);
}

static gboolean item_equal(gconstpointer a, gconstpointer b)
{
    const item *x = a, *y = b;
    return x->shown.kind == y->shown.kind && x->address == y->address &&
           x->trace.pc[0] == y->trace.pc[0];
}

static void item_free(gpointer p)
{
    item *it = p;
    g_free(it->what);
    g_free(it->hint);
    g_free(it);
}

/* The chain of frames from the last call-in outwards: saved frame pointer, return address. */
wadi_trace wadi_trace_here(const wad_sim *sim)
{
    wadi_trace trace = {.n = 0};
    if (sim->master)
        return *sim->master;
    if (!sim->pc)
        return trace;
    trace.pc[trace.n++] = sim->pc;
    void **frame = sim->frame;
    while (trace.n < WADI_TRACE && wadi_on_stack(sim, frame)) {
        uintptr_t pc = (uintptr_t)frame[1];
        if (pc < sim->fw.text_start || pc >= sim->fw.text_end)
            break;
        trace.pc[trace.n++] = pc;
        if ((void **)frame[0] <= frame)
            break;
        frame = frame[0];
    }
    return trace;
}

static char *hint_for(const wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot)
{
    const wad_sheet *s = sim->sheet;
    GString *hint = g_string_new(wad_finding_cure(kind));
    if (slot && slot->reg && slot->reg->ref)
        g_string_append_printf(hint, " (%s)", slot->reg->ref);
    for (unsigned i = 0; slot && slot->reg && i < s->n_errata; i++)
        if (wad_erratum_touches(&s->errata[i], slot->block->inst, slot->reg))
            g_string_append_printf(hint, "; erratum %s", s->errata[i].title);
    return g_string_free(hint, FALSE);
}

static void report(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                   const wadi_trace *trace, const char *format, va_list args)
{
    item key = {.shown = {.kind = kind}, .trace = *trace, .address = slot ? slot->address : 0};
    item *it = g_hash_table_lookup(sim->finding_keys, &key);
    if (!it) {
        it = g_new0(item, 1);
        *it = key;
        it->what = g_strdup_vprintf(format, args);
        it->hint = hint_for(sim, kind, slot);
        it->shown.what = it->what;
        it->shown.hint = it->hint;
        it->shown.first_ps = sim->now;
        it->shown.reg = slot && sim->mark_bits ? slot->reg : NULL;
        it->shown.reg_index = slot ? slot->index : 0;
        it->shown.value = sim->mark_value;
        it->shown.bits = sim->mark_bits;
        g_hash_table_add(sim->finding_keys, it);
        g_ptr_array_add(sim->findings, it);
    }
    it->shown.count++;
    it->shown.last_ps = sim->now;
    sim->mark_bits = 0;
}

bool wadi_report_again(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                       const wadi_trace *trace)
{
    item key = {.shown = {.kind = kind}, .trace = *trace, .address = slot ? slot->address : 0};
    item *it = g_hash_table_lookup(sim->finding_keys, &key);
    if (!it)
        return false;
    it->shown.count++;
    it->shown.last_ps = sim->now;
    return true;
}

void wadi_report(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot, const char *format,
                 ...)
{
    wadi_trace trace = wadi_trace_here(sim);
    va_list args;
    va_start(args, format);
    report(sim, kind, slot, &trace, format, args);
    va_end(args);
}

void wadi_report_at(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                    const wadi_trace *trace, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    report(sim, kind, slot, trace, format, args);
    va_end(args);
}

void wadi_findings_reset(wad_sim *sim)
{
    if (!sim->findings) {
        sim->findings = g_ptr_array_new_with_free_func(item_free);
        sim->finding_keys = g_hash_table_new(item_hash, item_equal);
        return;
    }
    sim->n_silenced = 0;
    sim->split.first = sim->split.second = NULL;
    sim->mark_bits = 0;
    g_hash_table_remove_all(sim->finding_keys);
    g_ptr_array_set_size(sim->findings, 0);
}

void wadi_findings_free(wad_sim *sim)
{
    g_hash_table_destroy(sim->finding_keys);
    g_ptr_array_free(sim->findings, TRUE);
}

static bool same_place(const wad_finding *a, const wad_finding *b)
{
    return a->n_places && b->n_places && a->places[0].file &&
           a->places[0].file == b->places[0].file && a->places[0].line == b->places[0].line;
}

/* The read and the write of one `|=` are one mistake: a line tells a register's finding once. */
static bool merge_into_earlier(wad_sim *sim, guint n)
{
    const item *it = sim->findings->pdata[n];
    for (guint i = 0; i < n; i++) {
        item *other = sim->findings->pdata[i];
        if (other->shown.kind != it->shown.kind || other->address != it->address ||
            !same_place(&other->shown, &it->shown))
            continue;
        other->shown.count += it->shown.count;
        other->shown.last_ps = MAX(other->shown.last_ps, it->shown.last_ps);
        return true;
    }
    return false;
}

void wadi_findings_resolve(wad_sim *sim)
{
    for (guint i = 0; i < sim->findings->len; i++) {
        item *it = sim->findings->pdata[i];
        it->shown.n_places =
            wadi_source_places(sim, &it->trace, it->shown.places, WAD_FINDING_PLACES);
        bool silenced = wadi_silenced(sim, &it->shown);
        sim->n_silenced += silenced;
        if (silenced || merge_into_earlier(sim, i)) {
            g_hash_table_remove(sim->finding_keys, it);
            g_ptr_array_remove_index(sim->findings, i--);
        }
    }
}

/* ---- what only the end shows ---- */

static void check_line(wad_sim *sim, unsigned n)
{
    const wadi_line *l = &sim->lines[n];
    const char *name = l->owner ? l->owner->inst->name : "?";
    if (!l->asked || l->served)
        return;
    if (!l->enabled_at_controller)
        wadi_report_at(sim, WAD_FINDING_CHAIN_LINE, NULL, &l->asked_trace,
                       "%s asks for interrupt %u, which %s never enables: its handler never ran",
                       name, n, sim->irqc ? sim->irqc->block->inst->name : "no controller");
    else if (!sim->was_unmasked)
        wadi_report_at(sim, WAD_FINDING_CHAIN_MASK, NULL, &l->asked_trace,
                       "%s asks for interrupt %u, but the global mask was never opened", name, n);
    else if (l->owner && l->owner->blocked)
        wadi_report_at(sim, WAD_FINDING_CHAIN_FLAG, NULL, &l->asked_trace,
                       "interrupt %u of %s is enabled, but the block ended without clock or in "
                       "reset and never raised it",
                       n, name);
    else if (l->ever_raised)
        wadi_report_at(sim, WAD_FINDING_CHAIN_PRIORITY, NULL, &l->asked_trace,
                       "interrupt %u of %s was raised but never served: what ran was as urgent", n,
                       name);
}

void wadi_findings_at_end(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++)
        check_line(sim, i);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++) {
        const wadi_block *block = &sim->blocks[i];
        if (block->configured && !block->was_enabled)
            wadi_report_at(sim, WAD_FINDING_NEVER_ENABLED, NULL, &block->config_trace,
                           "%s was configured (last here) but never enabled", block->inst->name);
        if (block->model)
            wadi_spi_at_end(block->model);
        if (block->model && block->model->cls->ended)
            block->model->cls->ended(block->model);
    }
    for (unsigned i = 0; i < sim->n_signals; i++) {
        const wadi_signal *signal = &sim->signals[i];
        if (!signal->used || signal->routed)
            continue;
        GString *pins = g_string_new(NULL);
        for (unsigned k = 0; k < signal->def->n_options; k++)
            g_string_append_printf(pins, "%s%s fn %u", k ? ", " : "",
                                   signal->def->options[k].pin->name, signal->def->options[k].fn);
        wadi_report_at(sim, WAD_FINDING_NOT_ROUTED, NULL, &signal->used_trace,
                       "%s.%s is used but comes out on no pin (it could on %s)",
                       signal->def->block->name, signal->def->name, pins->str);
        g_string_free(pins, TRUE);
    }
}

unsigned wad_sim_finding_count(const wad_sim *sim)
{
    return sim->findings->len;
}

const wad_finding *wad_sim_finding(const wad_sim *sim, unsigned i)
{
    return i < sim->findings->len ? &((item *)sim->findings->pdata[i])->shown : NULL;
}

/* ---- text ---- */

static void print_time(FILE *out, uint64_t ps)
{
    if (ps < WAD_PS_PER_S / 1000)
        fprintf(out, "%.3f us", (double)ps / 1e6);
    else if (ps < WAD_PS_PER_S)
        fprintf(out, "%.6f ms", (double)ps / 1e9);
    else
        fprintf(out, "%.9f s", (double)ps / 1e12);
}

static void print_source_line(const wad_place *place, FILE *out)
{
    char *text = NULL;
    if (!place->file || !g_file_get_contents(place->file, &text, NULL, NULL))
        return;
    char **lines = g_strsplit(text, "\n", -1);
    if (place->line && place->line <= g_strv_length(lines))
        fprintf(out, "      %5u | %s\n", place->line, lines[place->line - 1]);
    g_strfreev(lines);
    g_free(text);
}

/* Below the working folder a relative path reads better. */
static const char *short_path(const char *file)
{
    char *cwd = g_get_current_dir();
    size_t n = strlen(cwd);
    bool below = g_str_has_prefix(file, cwd) && file[n] == '/';
    g_free(cwd);
    return below ? file + n + 1 : file;
}

static void print_place(const wad_place *place, FILE *out)
{
    if (place->file)
        fprintf(out, "%s:%u", short_path(place->file), place->line);
    else
        fputs("(no source line known)", out);
    if (place->function)
        fprintf(out, " in %s", place->function);
}

void wad_finding_print(const wad_finding *f, FILE *out)
{
    fprintf(out, "W%d  %s\n      %s\n", (int)f->kind, wad_finding_title(f->kind), f->what);
    if (f->n_places) {
        fputs("      at ", out);
        print_place(&f->places[0], out);
        fputc('\n', out);
        print_source_line(&f->places[0], out);
    }
    if (f->reg && f->bits)
        wad_show_bits(f->reg, f->reg_index, f->value, f->bits, 6, out);
    for (unsigned i = 1; i < f->n_places; i++) {
        fputs("      called from ", out);
        print_place(&f->places[i], out);
        fputc('\n', out);
    }
    fputs("      ", out);
    if (f->count > 1)
        fprintf(out, "%u times, ", f->count);
    fputs(f->count > 1 ? "first at " : "at ", out);
    print_time(out, f->first_ps);
    if (f->count > 1) {
        fputs(", last at ", out);
        print_time(out, f->last_ps);
    }
    fprintf(out, "\n      cure: %s\n", f->hint);
}
