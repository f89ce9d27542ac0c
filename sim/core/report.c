/* SPDX-License-Identifier: MIT */
#include "report.h"

#include <stdarg.h>
#include <string.h>

#include "block.h"
#include "register.h"
#include "sim.h"
#include "stop.h"

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

static guint item_hash(gconstpointer p)
{
    const wadi_finding_item *it = p;
    return (guint)((unsigned)it->shown.kind * UINT64_C(31) + it->trace.pc[0] * 7 + it->address);
}

static gboolean item_equal(gconstpointer a, gconstpointer b)
{
    const wadi_finding_item *x = a, *y = b;
    return x->shown.kind == y->shown.kind && x->address == y->address &&
           x->trace.pc[0] == y->trace.pc[0];
}

static void item_free(gpointer p)
{
    wadi_finding_item *it = p;
    g_free(it->what);
    g_free(it->hint);
    g_free(it);
}

/* The chain of frames from the last call-in outwards: saved frame pointer, return address. */
wadi_trace wadi_trace_here(const wad_sim *sim)
{
    wadi_trace trace = {.n = 0};
    if (sim->bus.master)
        return *sim->bus.master;
    if (!sim->call.pc)
        return trace;
    trace.pc[trace.n++] = sim->call.pc;
    void **frame = sim->call.frame;
    while (trace.n < WADI_TRACE && wadi_on_stack(sim, frame)) {
        uintptr_t pc = (uintptr_t)frame[1];
        if (pc < sim->host.fw.text_start || pc >= sim->host.fw.text_end)
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

static void report(wad_sim *sim, wad_finding_kind kind, const wadi_picture *picture,
                   const wadi_trace *trace, const char *format, va_list args)
{
    const wadi_slot *slot = picture->slot;
    wadi_finding_item key = {
        .shown = {.kind = kind}, .trace = *trace, .address = slot ? slot->address : 0};
    wadi_finding_item *it = g_hash_table_lookup(sim->told.keys, &key);
    if (!it) {
        it = g_new0(wadi_finding_item, 1);
        *it = key;
        it->what = g_strdup_vprintf(format, args);
        it->hint = hint_for(sim, kind, slot);
        it->shown.what = it->what;
        it->shown.hint = it->hint;
        it->shown.first_ps = sim->now;
        it->shown.reg = slot && picture->bits ? slot->reg : NULL;
        it->shown.reg_index = slot ? slot->index : 0;
        it->shown.value = picture->value;
        it->shown.bits = picture->bits;
        g_hash_table_add(sim->told.keys, it);
        g_ptr_array_add(sim->told.findings, it);
    }
    it->shown.count++;
    it->shown.last_ps = sim->now;
}

bool wadi_report_again(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                       const wadi_trace *trace)
{
    wadi_finding_item key = {
        .shown = {.kind = kind}, .trace = *trace, .address = slot ? slot->address : 0};
    wadi_finding_item *it = g_hash_table_lookup(sim->told.keys, &key);
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
    report(sim, kind, &(wadi_picture){.slot = slot}, &trace, format, args);
    va_end(args);
}

void wadi_report_drawn(wad_sim *sim, wad_finding_kind kind, const wadi_picture *picture,
                       const char *format, ...)
{
    wadi_trace trace = wadi_trace_here(sim);
    va_list args;
    va_start(args, format);
    report(sim, kind, picture, &trace, format, args);
    va_end(args);
}

void wadi_report_at(wad_sim *sim, wad_finding_kind kind, const wadi_slot *slot,
                    const wadi_trace *trace, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    report(sim, kind, &(wadi_picture){.slot = slot}, trace, format, args);
    va_end(args);
}

bool wadi_on_stack(const wad_sim *sim, const void *p)
{
    const char *start = sim->host.stack_start;
    return (const char *)p >= start && (const char *)p + 16 <= start + WADI_STACK_SIZE &&
           ((uintptr_t)p & 7) == 0;
}

void wadi_findings_reset(wad_sim *sim)
{
    if (!sim->told.findings) {
        sim->told.findings = g_ptr_array_new_with_free_func(item_free);
        sim->told.keys = g_hash_table_new(item_hash, item_equal);
        return;
    }
    sim->told.n_silenced = 0;
    g_hash_table_remove_all(sim->told.keys);
    g_ptr_array_set_size(sim->told.findings, 0);
}

void wadi_findings_free(wad_sim *sim)
{
    g_hash_table_destroy(sim->told.keys);
    g_ptr_array_free(sim->told.findings, TRUE);
}
