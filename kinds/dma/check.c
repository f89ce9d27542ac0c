/* SPDX-License-Identifier: MIT */
/* Kind dma: what is wrong with a transfer, said where it was set up. */
#include <string.h>

#include "sim/core/block.h"
#include "sim/core/bus.h"
#include "sim/core/line.h"
#include "sim/core/master.h"
#include "sim/core/report.h"
#include "sim/core/trigger.h"
#include "sim/host/variables.h"
#include "state.h"

/* At the line that set the channel up, once a place. */
#define COMPLAIN(m, i, kind, ...)                                                                  \
    do {                                                                                           \
        const wadi_trace *at_ = &((dma_state *)(m)->state)->ch[i].trace;                           \
        wadi_slot stand_in_ = {.address = (m)->block->inst->base + (i)};                           \
        if (!wadi_report_again((m)->sim, WAD_FINDING_##kind, &stand_in_, at_))                     \
            wadi_report_at((m)->sim, WAD_FINDING_##kind, &stand_in_, at_, __VA_ARGS__);            \
    } while (0)

#define NAME(m) ((m)->block->inst->name)

/* One side of a transfer as it is about to begin. */
typedef struct side {
    bool destination, steps;
    uint32_t address;
    unsigned bytes;
    uint64_t size;         /* all elements */
    const wadi_slot *slot; /* the register there, or NULL */
    bool known;            /* what holds it: */
    wadi_extent variable;
    uint32_t begin; /* its bus address */
} side;

static const char *word(const side *s)
{
    return s->destination ? "destination" : "source";
}

static side side_of(wad_model *m, unsigned i, bool destination)
{
    const dma_channel *c = &((dma_state *)m->state)->ch[i];
    side s = {.destination = destination, .bytes = dma_bytes(m, i)};
    s.address = wad_model_get(m, destination ? ROLE_destination : ROLE_source, i);
    s.steps = dma_get(m, destination ? ROLE_destination_step : ROLE_source_step, i) != 0;
    s.size = (uint64_t)c->count * s.bytes;
    s.slot = wadi_bus_slot(m->sim, s.address, destination);
    const void *host = s.slot ? NULL : wadi_master_memory(m->sim, s.address, 1, destination);
    if (host && wadi_variable_around(m->sim, (uintptr_t)host, &s.variable)) {
        s.known = true;
        s.begin = s.address - (uint32_t)((uintptr_t)host - s.variable.start);
    }
    return s;
}

/* ---- registers ---- */

/* A register whose neighbour is another thing: data of a peripheral. */
static bool is_data(const wadi_slot *slot)
{
    static const char *const names[] = {"data", "rx_data", "tx_data"};
    const wadi_hearer *h;
    for (unsigned i = 0; (h = wadi_hearer_at(slot, i)); i++)
        for (unsigned k = 0; k < G_N_ELEMENTS(names); k++) {
            int role = wad_kind_role_index(h->model->kind, names[k]);
            if (role >= 0 && h->roles & WAD_ROLE_BIT((unsigned)role))
                return true;
        }
    return false;
}

static void check_register(wad_model *m, unsigned i, const side *s)
{
    const dma_channel *c = &((dma_state *)m->state)->ch[i];
    char *name = wadi_slot_name(s->slot);
    if (s->steps && c->count > 1 && is_data(s->slot))
        COMPLAIN(m, i, DMA_STEP,
                 "channel %u of %s: its %s is %s and goes on by %u bytes at each "
                 "element",
                 i, NAME(m), word(s), name, s->bytes);
    if (s->bytes > s->slot->bytes)
        COMPLAIN(m, i, DMA_SIZE, "channel %u of %s: elements of %u bits, and %s has %u", i, NAME(m),
                 s->bytes * 8, name, s->slot->bytes * 8);
    g_free(name);
}

void wadi_dma_check_narrow(wad_model *m, unsigned i, uint32_t value)
{
    unsigned bytes = dma_bytes(m, i);
    if (bytes >= 4 || value >> bytes * 8 == 0)
        return;
    const wadi_cell *cell = wadi_find_cell(m->sim, wad_model_get(m, ROLE_source, i));
    if (!cell || !cell->rd)
        return; /* memory has no more than was read */
    char *name = wadi_slot_name(cell->rd);
    COMPLAIN(m, i, DMA_SIZE, "channel %u of %s: elements of %u bits, and %s gave 0x%x", i, NAME(m),
             bytes * 8, name, value);
    g_free(name);
}

/* ---- memory ---- */

static void check_room(wad_model *m, unsigned i, const side *s)
{
    const dma_channel *c = &((dma_state *)m->state)->ch[i];
    if (!s->known || !s->steps || dma_window(m, i, s->destination))
        return;
    uint64_t behind = s->variable.bytes - (s->address - s->begin);
    if (s->size <= behind)
        return;
    if (s->bytes > 1 && c->count == behind)
        COMPLAIN(m, i, DMA_BYTES,
                 "channel %u of %s: %u elements of %u bytes, and '%s' has %llu "
                 "bytes",
                 i, NAME(m), c->count, s->bytes, s->variable.name, (unsigned long long)behind);
    else
        COMPLAIN(m, i, DMA_BEYOND,
                 "channel %u of %s: %u elements of %u bytes, and '%s' has %llu "
                 "bytes from there",
                 i, NAME(m), c->count, s->bytes, s->variable.name, (unsigned long long)behind);
}

/* The last transfer ended at its buffer's end, and this one begins there. */
static void check_rewound(wad_model *m, unsigned i, const side *s)
{
    const void *last = wadi_master_memory(m->sim, s->address - s->bytes, s->bytes, s->destination);
    wadi_extent before;
    if (s->slot || !s->steps || dma_window(m, i, s->destination) || !last ||
        !wadi_variable_around(m->sim, (uintptr_t)last, &before) ||
        (uintptr_t)last + s->bytes < before.start + before.bytes)
        return;
    COMPLAIN(m, i, DMA_REWIND,
             "channel %u of %s begins again with its %s where the last transfer "
             "ended: behind '%s'",
             i, NAME(m), word(s), before.name);
}

static void check_window(wad_model *m, unsigned i, const side *s)
{
    unsigned bits = dma_window(m, i, s->destination);
    uint32_t size = UINT32_C(1) << bits, off = s->address & (size - 1);
    if (!bits || !off || s->slot)
        return;
    COMPLAIN(m, i, DMA_WINDOW,
             "channel %u of %s: its %s runs round from 0x%08x on, %u bytes, and "
             "begins at 0x%08x%s%s%s",
             i, NAME(m), word(s), s->address - off, size, s->address, s->known ? " ('" : "",
             s->known ? s->variable.name : "", s->known ? "')" : "");
}

static void check_memory(wad_model *m, unsigned i, const side *s)
{
    check_room(m, i, s);
    check_window(m, i, s);
}

static void check_type(wad_model *m, unsigned i, const side *memory, const side *other)
{
    if (!memory->known || !memory->variable.element || !other->slot ||
        memory->variable.element == memory->bytes)
        return;
    COMPLAIN(m, i, DMA_TYPE,
             "channel %u of %s: elements of %u bits, and '%s' is an array of %u "
             "bits each",
             i, NAME(m), memory->bytes * 8, memory->variable.name, memory->variable.element * 8);
}

static void check_overlap(wad_model *m, unsigned i, const side *from, const side *to)
{
    if (from->slot || to->slot || !from->steps || !to->steps || dma_get(m, ROLE_wrap, i))
        return;
    if (to->address > from->address && to->address < from->address + from->size)
        COMPLAIN(m, i, DMA_OVERLAP,
                 "channel %u of %s copies %llu bytes from 0x%08x to 0x%08x, over "
                 "what it has still to read",
                 i, NAME(m), (unsigned long long)from->size, from->address, to->address);
}

/* A variable of a function's: who returns leaves it to others. */
static bool on_stack(wad_model *m, const side *s)
{
    void *host = s->slot ? NULL : wadi_master_memory(m->sim, s->address, s->bytes, s->destination);
    return host && wadi_on_stack(m->sim, (void *)((uintptr_t)host & ~(uintptr_t)7));
}

/* ---- when a channel begins ---- */

static void check_request(wad_model *m, unsigned i)
{
    dma_state *s = m->state;
    dma_channel *c = &s->ch[i];
    if (!dma_waits_for(m, c))
        return;
    const wadi_request *r = wadi_request_of(m, c->code);
    for (unsigned k = 0; k < s->n; k++)
        if (k != i && s->ch[k].armed && s->ch[k].code == c->code)
            COMPLAIN(m, i, DMA_TWICE,
                     "channel %u of %s waits for request %u%s%s%s, and so does "
                     "channel %u",
                     i, NAME(m), c->code, r ? ", " : "", r ? r->from->block->inst->name : "",
                     r ? "'s" : "", k);
    if (!r || !r->level || !r->since || strcmp(r->def->role->name, "tx_ready") == 0 ||
        strcmp(r->def->role->name, "empty") == 0)
        return;
    COMPLAIN(m, i, DMA_EARLY, "%s has asked since %.3f us, and channel %u of %s is armed only now",
             r->from->block->inst->name, (double)(r->since - 1) / 1e6, i, NAME(m));
}

void wadi_dma_check_begin(wad_model *m, unsigned i)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    side from = side_of(m, i, false), to = side_of(m, i, true);
    if (!c->count) {
        COMPLAIN(m, i, DMA_ZERO, "channel %u of %s was armed with a count of 0", i, NAME(m));
        return;
    }
    if (from.slot)
        check_register(m, i, &from);
    if (to.slot)
        check_register(m, i, &to);
    bool first = !c->ended_ps;
    if (first || c->written_source)
        check_memory(m, i, &from);
    else
        check_rewound(m, i, &from);
    if (first || c->written_destination)
        check_memory(m, i, &to);
    else
        check_rewound(m, i, &to);
    check_type(m, i, &from, &to);
    check_type(m, i, &to, &from);
    check_overlap(m, i, &from, &to);
    c->stack = on_stack(m, &from) || on_stack(m, &to);
    if (dma_get(m, ROLE_chain, i) && dma_get(m, ROLE_next, i) == i)
        COMPLAIN(m, i, DMA_CHAIN, "channel %u of %s is to be followed by itself", i, NAME(m));
    if (dma_get(m, ROLE_end, i) && !dma_get(m, ROLE_end_irq, i) && c->by_hand)
        COMPLAIN(m, i, DMA_STALE,
                 "channel %u of %s is armed, and the flag of its last end is still "
                 "set",
                 i, NAME(m));
    check_request(m, i);
}

/* ---- while it moves ---- */

static bool is_gone(wad_model *m, unsigned i, unsigned role)
{
    const wad_sim *sim = m->sim;
    uint32_t address = wad_model_get(m, role, i);
    const void *host = wadi_master_memory(m->sim, address, 1, false);
    return host && wadi_on_stack(sim, (void *)((uintptr_t)host & ~(uintptr_t)7)) &&
           (uintptr_t)host + 16 < (uintptr_t)sim->call.frame; /* the caller's frame lies above it */
}

void wadi_dma_check_moved(wad_model *m, unsigned i)
{
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    if (!c->stack || m->sim->cpu.active_line != WADI_NO_LINE)
        return;
    if (!is_gone(m, i, ROLE_source) && !is_gone(m, i, ROLE_destination))
        return;
    c->stack = false;
    COMPLAIN(m, i, DMA_STACK,
             "channel %u of %s moves a variable of a function that has returned, "
             "%llu elements after it began",
             i, NAME(m), (unsigned long long)c->moved);
}

void wadi_dma_check_late(wad_model *m, unsigned i, const char *what)
{
    bool half = *what == 'h';
    dma_channel *c = &((dma_state *)m->state)->ch[i];
    if (!dma_get(m, ROLE_repeat, i) || !c->moved)
        return;
    /* the other half's flag still stands: nobody has come for it, and now it is written again */
    unsigned flag = half ? ROLE_half : ROLE_end, enable = half ? ROLE_half_irq : ROLE_end_irq;
    if (dma_get(m, flag, i) && dma_get(m, enable, i))
        COMPLAIN(m, i, DMA_LATE,
                 "channel %u of %s is at its %s again, and the last one's flag is "
                 "still set: nobody came for a whole round",
                 i, NAME(m), what);
    else if (half && dma_get(m, ROLE_end, i) && dma_get(m, ROLE_end_irq, i))
        COMPLAIN(m, i, DMA_LATE,
                 "channel %u of %s has filled the first half again, and nobody has "
                 "come for the second one",
                 i, NAME(m));
    else if (!half && dma_get(m, ROLE_half, i) && dma_get(m, ROLE_half_irq, i))
        COMPLAIN(m, i, DMA_LATE,
                 "channel %u of %s has filled the second half, and nobody has come "
                 "for the first one",
                 i, NAME(m));
}

void wadi_dma_check_keeps(wad_model *m, unsigned i)
{
    const dma_channel *c = &((dma_state *)m->state)->ch[i];
    const wadi_request *r = dma_waits_for(m, c) ? wadi_request_of(m, c->code) : NULL;
    int keep = r ? wad_kind_role_index(r->from->kind, "dma_keep") : -1;
    if (keep < 0 || !r->from->roles[keep].count || wad_model_get(r->from, (unsigned)keep, 0))
        return;
    wad_fieldref ref = wad_role_ref(r->from->block->inst, r->from->roles[keep].role, 0);
    char *name = wad_fieldref_name(&ref);
    COMPLAIN(m, i, DMA_KEEP,
             "channel %u of %s begins its second round, and %s asks no more: %s is "
             "0",
             i, NAME(m), r->from->block->inst->name, name);
    g_free(name);
}

/* Stopped in its second round, and only its end was asked for. */
void wadi_dma_check_stopped(wad_model *m, unsigned i)
{
    const dma_channel *c = &((dma_state *)m->state)->ch[i];
    if (!dma_get(m, ROLE_repeat, i) || c->rounds != 1 || dma_get(m, ROLE_half_irq, i) ||
        c->left < c->count / 2)
        return;
    COMPLAIN(m, i, DMA_ROUND, "channel %u of %s was stopped %u elements into its second round", i,
             NAME(m), c->count - c->left);
}

void wadi_dma_check_lost(wad_model *m, unsigned i)
{
    const dma_channel *c = &((dma_state *)m->state)->ch[i];
    const wad_trigger *from = wad_model_request_source(m, c->code);
    COMPLAIN(m, i, DMA_LOST,
             "a request of %s came while the last one still waited for channel %u "
             "of %s",
             from ? from->from->name : "nobody", i, NAME(m));
}

void wadi_dma_failed(wad_model *m, unsigned i, uint32_t address, bool write)
{
    unsigned bytes = dma_bytes(m, i);
    const dma_channel *c = &((dma_state *)m->state)->ch[i];
    if (m->roles[ROLE_error].count)
        wad_model_put(m, ROLE_error, i, 1);
    if (address & (bytes - 1))
        COMPLAIN(m, i, DMA_ALIGN,
                 "channel %u of %s stops: 0x%08x is no multiple of %u, %u elements "
                 "are left",
                 i, NAME(m), address, bytes, c->left);
    else
        COMPLAIN(m, i, DMA_UNMAPPED,
                 "channel %u of %s stops: nothing is at 0x%08x to %s, %u "
                 "elements are left",
                 i, NAME(m), address, write ? "write" : "read", c->left);
}

/* ---- when the run is over ---- */

/* The field by which the peripheral itself lets requests out. */
static char *enable_that_is_off(const wadi_request *r)
{
    const wad_role *enable = wad_request_enable(r->def);
    int role = enable ? wad_kind_role_index(r->from->kind, enable->name) : -1;
    if (role < 0 || !r->from->roles[role].count || wad_model_get(r->from, (unsigned)role, 0))
        return NULL;
    wad_fieldref ref = wad_role_ref(r->from->block->inst, enable, 0);
    return wad_fieldref_name(&ref);
}

static void end_of_channel(wad_model *m, unsigned i)
{
    const dma_channel *c = &((dma_state *)m->state)->ch[i];
    const wadi_request *r = wadi_request_of(m, c->code);
    if (c->armed && dma_get(m, ROLE_pause, i)) {
        COMPLAIN(m, i, DMA_PAUSED, "channel %u of %s is paused with %u elements left", i, NAME(m),
                 c->left);
        return;
    }
    char *off = c->armed && !c->moved && r ? enable_that_is_off(r) : NULL;
    if (off)
        COMPLAIN(m, i, DMA_UNASKED, "channel %u of %s has waited for %s since %.3f us: %s is 0", i,
                 NAME(m), r->from->block->inst->name, (double)c->armed_ps / 1e6, off);
    g_free(off);
    bool reads =
        r && (!strcmp(r->def->role->name, "rx_ready") || !strcmp(r->def->role->name, "done"));
    if (!c->armed && c->was_ended && reads && r->level && r->since &&
        m->sim->now - c->ended_ps > c->ended_ps - c->armed_ps)
        COMPLAIN(m, i, DMA_ENDED,
                 "channel %u of %s ended at %.3f us, and %s has asked since %.3f us", i, NAME(m),
                 (double)c->ended_ps / 1e6, r->from->block->inst->name,
                 (double)(r->since - 1) / 1e6);
}

void wadi_dma_ended(wad_model *m)
{
    const dma_state *s = m->state;
    for (unsigned i = 0; i < s->n; i++)
        end_of_channel(m, i);
}
