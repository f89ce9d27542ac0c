/* SPDX-License-Identifier: MIT */
#include "race.h"

#include <string.h>
#include <sys/mman.h>

#include "habit.h"
#include "list.h"
#include "sim/core/block.h"
#include "sim/core/line.h"
#include "sim/core/register.h"
#include "sim/core/report.h"
#include "sim/host/source.h"

typedef uint32_t clocks[WADI_CONTEXTS];

enum { HOW_MASK = 3, PROTECTED = 4, WIDE = 8 };

/* once handlers may run */
#define RUNNING (WADI_EAR_READ | WADI_EAR_WRITE | WADI_EAR_VARIABLE)

/* One access to a word of the firmware's variables. */
typedef struct touch {
    uint32_t clock; /* of its context; 0: none yet */
    uint32_t pc;
    uint8_t context, line, how, bytes; /* bytes: a bit each */
} touch;

/* What is known of a word. */
typedef struct shade {
    touch wr, rd[2];                /* the last write; the last reads by main and by handlers */
    uint32_t wr_entry;              /* handlers entered before that write */
    uint16_t update;                /* an update of it that a handler could break, 0: none */
    uint16_t sync;                  /* clocks that its volatile writes carry, 0: none */
    uint8_t urgent, urgent_context; /* line + 1 of a handler that wrote it */
} shade;

/* `x++` of a volatile that no handler has written yet. */
typedef struct update {
    wadi_trace trace;
    uint64_t lines; /* enabled then */
    unsigned context;
} update;

typedef struct last_read {
    uintptr_t key; /* address of a variable, or its slot */
    uintptr_t pc;
    uint32_t entry;
    bool masked;
} last_read;

struct wadi_race {
    wadi_observer *habit;
    uintptr_t start, size; /* of the variables */
    shade *shades;
    clocks clock[WADI_CONTEXTS];
    unsigned priority[WADI_CONTEXTS], n; /* contexts so far; 0 is main */
    unsigned context, stack[64], depth;
    uint32_t entry; /* handlers entered */
    uint64_t news;  /* changes of anything that a judgement rests on */
    struct {
        uintptr_t address, pc;
        uint64_t news;
        bool masked;
    } again;         /* the last read: a loop repeats it */
    GArray *updates; /* update, by number; 0 is not used */
    GArray *sync;    /* clocks, by number; 0 is not used */
    clocks *enabled; /* by line: what was done when it was let through */
    last_read var[WADI_CONTEXTS], reg[WADI_CONTEXTS];
    struct {
        uintptr_t address;
        unsigned bytes;
        shade *at;
        update how;
    } written; /* a volatile write whose value is looked at later */
};

/* ---- contexts ---- */

static unsigned context_of(struct wadi_race *r, unsigned priority)
{
    for (unsigned i = 1; i < r->n; i++)
        if (r->priority[i] == priority)
            return i;
    if (r->n == WADI_CONTEXTS)
        return WADI_CONTEXTS - 1;
    r->priority[r->n] = priority;
    return r->n++;
}

static void join(clocks into, const clocks from)
{
    for (unsigned i = 0; i < WADI_CONTEXTS; i++)
        into[i] = MAX(into[i], from[i]);
}

/* What this context did so far can be known to whoever takes `to` over. */
static void release(struct wadi_race *r, clocks to)
{
    join(to, r->clock[r->context]);
    r->clock[r->context][r->context]++;
    r->news++;
}

static uint16_t new_sync(struct wadi_race *r)
{
    if (r->sync->len > UINT16_MAX)
        return 0;
    g_array_set_size(r->sync, r->sync->len + 1);
    return (uint16_t)(r->sync->len - 1);
}

static void order(struct wadi_race *r, uint16_t *sync, bool write)
{
    if (write && !*sync)
        *sync = new_sync(r);
    if (!*sync)
        return;
    uint32_t *with = g_array_index(r->sync, clocks, *sync);
    if (write)
        release(r, with);
    else
        join(r->clock[r->context], with);
}

/* ---- judging ---- */

static bool line_enabled(const wad_sim *sim, unsigned line)
{
    return line >= 64 || sim->cpu.lines_on >> line & 1;
}

static bool more_urgent(const struct wadi_race *r, unsigned a, unsigned b)
{
    return r->priority[a] < r->priority[b];
}

static wadi_trace trace_of(const touch *t)
{
    return (wadi_trace){{t->pc}, 1, false};
}

static void report_shared(wad_sim *sim, uintptr_t address, const wadi_trace *trace, wadi_how how,
                          unsigned line, bool writes)
{
    wad_finding_kind kind = how == WADI_PLAIN ? WAD_FINDING_SHARED_PLAIN : WAD_FINDING_TORN;
    wadi_slot stand_in = {.address = address};
    if (wadi_report_again(sim, kind, &stand_in, trace))
        return;
    char *name = wadi_source_variable(sim, address);
    const wad_instance *owner = wad_sheet_irq_owner(sim->sheet, line);
    if (how == WADI_PLAIN)
        wadi_report_at(
            sim, kind, &stand_in, trace,
            "'%s' is %s here and used by the handler of interrupt %u (%s), and is neither "
            "volatile nor atomic nor guarded",
            name, writes ? "written" : "read", line, owner ? owner->name : "?");
    else
        wadi_report_at(sim, kind, &stand_in, trace,
                       "'%s' takes more than one %u-bit access to %s, and the handler of interrupt "
                       "%u (%s) can come in between",
                       name, sim->sheet->bus_bits, writes ? "write" : "read", line,
                       owner ? owner->name : "?");
    g_free(name);
}

/* This context's access against an earlier one of another context. */
static void judge(wad_sim *sim, uintptr_t address, const touch *other, const touch *mine,
                  bool other_writes, bool i_write)
{
    struct wadi_race *r = sim->race;
    if (!other->clock || other->context == mine->context || !(other->bytes & mine->bytes) ||
        other->clock <= r->clock[mine->context][other->context])
        return;
    bool mine_waits = more_urgent(r, other->context, mine->context);
    const touch *weak = mine_waits ? mine : other, *urgent = mine_waits ? other : mine;
    wadi_how how = (wadi_how)(weak->how & HOW_MASK);
    if (weak->how & PROTECTED || how == WADI_ATOMIC ||
        (how == WADI_VOLATILE && !(weak->how & WIDE)))
        return;
    if (mine_waits && !line_enabled(sim, urgent->line)) /* it cannot come now */
        return;
    wadi_trace trace = mine_waits ? wadi_trace_here(sim) : trace_of(other);
    report_shared(sim, address, &trace, how, urgent->line, mine_waits ? i_write : other_writes);
}

/* ---- variables ---- */

/* `where` is the register, or stands in for a variable's address. Takes `name`. */
static void report_broken(wad_sim *sim, const wadi_slot *where, char *name, const wadi_trace *trace,
                          unsigned line, bool came)
{
    const wad_instance *owner = wad_sheet_irq_owner(sim->sheet, line);
    wadi_report_at(sim, WAD_FINDING_BROKEN_UPDATE, where, trace,
                   "'%s' is read, changed and written back, and the handler of interrupt %u (%s) "
                   "%s",
                   name, line, owner ? owner->name : "?",
                   came ? "wrote it in between: its change is lost"
                        : "writes it too: its change is lost when it comes in between");
    g_free(name);
}

static void report_update(wad_sim *sim, uintptr_t address, const wadi_trace *trace, unsigned line,
                          bool came)
{
    wadi_slot stand_in = {.address = address};
    if (!wadi_report_again(sim, WAD_FINDING_BROKEN_UPDATE, &stand_in, trace))
        report_broken(sim, &stand_in, wadi_source_variable(sim, address), trace, line, came);
}

/* `x++` of a volatile: a read and a write of one line; a handler that writes x breaks it. */
static void judge_update(wad_sim *sim, uintptr_t address, unsigned bytes, shade *sh)
{
    struct wadi_race *r = sim->race;
    const last_read *last = &r->var[r->context];
    bool known = sh->urgent && more_urgent(r, sh->urgent_context, r->context);
    if (last->key != address || (last->masked && sim->cpu.masked) ||
        (known && !line_enabled(sim, sh->urgent - 1u)) || (!known && sh->update) ||
        !wadi_source_same_line(sim, last->pc, sim->call.pc))
        return;
    if (known && sh->wr.context != r->context && sh->wr_entry > last->entry) {
        wadi_trace here = wadi_trace_here(sim);
        report_update(sim, address, &here, sh->urgent - 1u, true);
        return;
    }
    if (sim->plain.pending.bytes)
        return;
    /* it did not come now but could: unless 0 is stored, which is how a flag is taken */
    r->written.address = sim->plain.pending.address = address;
    r->written.bytes = sim->plain.pending.bytes = bytes;
    r->written.at = sh;
    r->written.how = (update){wadi_trace_here(sim), sim->cpu.lines_on, r->context};
    sim->plain.pending.pc = sim->call.pc;
    sim->plain.pending.frame = sim->call.frame;
}

static void look_at_written(wad_sim *sim)
{
    struct wadi_race *r = sim->race;
    uint64_t value = 0;
    shade *sh = r->written.at;
    memcpy(&value, (const void *)r->written.address, MIN(r->written.bytes, 8u));
    if (!value)
        return;
    if (sh->urgent && more_urgent(r, sh->urgent_context, r->written.how.context)) {
        report_update(sim, r->written.address, &r->written.how.trace, sh->urgent - 1u, false);
    } else if (!sh->update && r->updates->len < UINT16_MAX) {
        g_array_append_val(r->updates, r->written.how);
        sh->update = (uint16_t)(r->updates->len - 1);
    }
}

/* A handler writes what less urgent code was seen to update. */
static void meet_update(wad_sim *sim, const shade *sh, uintptr_t address)
{
    const struct wadi_race *r = sim->race;
    const update *u = &g_array_index(r->updates, update, sh->update);
    unsigned line = sim->cpu.active_line;
    if (line < 64 && u->lines >> line & 1 && more_urgent(r, r->context, u->context))
        report_update(sim, address, &u->trace, line, false);
}

static void touch_word(wad_sim *sim, shade *sh, uintptr_t address, touch mine, bool write)
{
    struct wadi_race *r = sim->race;
    judge(sim, address, &sh->wr, &mine, true, write);
    if (write)
        for (unsigned i = 0; i < 2; i++)
            judge(sim, address, &sh->rd[i], &mine, false, true);
    if ((mine.how & HOW_MASK) != WADI_PLAIN)
        order(r, &sh->sync, write);
    mine.clock = r->clock[r->context][r->context];
    if (!write) {
        sh->rd[r->context != 0] = mine;
        return;
    }
    if (r->context) {
        sh->urgent = (uint8_t)(mine.line + 1);
        sh->urgent_context = mine.context;
        if (sh->update)
            meet_update(sim, sh, address);
    }
    sh->wr = mine;
    sh->wr_entry = r->entry;
}

void wadi_race_access(wad_sim *sim, uintptr_t address, size_t bytes, bool write, wadi_how how)
{
    struct wadi_race *r = sim->race;
    if (!r || address - r->start >= r->size || !bytes)
        return;
    if (!write && !r->context && r->shades[(address - r->start) / 4].urgent)
        wadi_ticks_read(r->habit, address, bytes);
    if (!write && r->again.address == address && r->again.pc == sim->call.pc &&
        r->again.news == r->news && r->again.masked == sim->cpu.masked)
        return;
    uintptr_t end = MIN(address + bytes, r->start + r->size);
    unsigned bus = sim->sheet->bus_bits / 8u;
    touch mine = {.pc = (uint32_t)sim->call.pc,
                  .context = (uint8_t)r->context,
                  .line = (uint8_t)sim->cpu.active_line,
                  .how = (uint8_t)(how | (sim->cpu.masked ? PROTECTED : 0) |
                                   (bytes > bus && how != WADI_ATOMIC ? WIDE : 0))};
    shade *first = &r->shades[(address - r->start) / 4];
    if (write && how == WADI_VOLATILE)
        judge_update(sim, address, (unsigned)bytes, first);
    for (uintptr_t word = address & ~(uintptr_t)3; word < end; word += 4) {
        unsigned from = word < address ? (unsigned)(address - word) : 0;
        unsigned to = end - word < 4 ? (unsigned)(end - word) : 4;
        mine.bytes = (uint8_t)((0xFu << from & 0xFu) & (0xFu >> (4 - to)));
        touch_word(sim, &r->shades[(word - (r->start & ~(uintptr_t)3)) / 4], MAX(word, address),
                   mine, write);
    }
    if (write) {
        r->news++;
        return;
    }
    r->var[r->context] = (last_read){address, sim->call.pc, r->entry, sim->cpu.masked};
    r->again.address = address;
    r->again.pc = sim->call.pc;
    r->again.news = r->news;
    r->again.masked = sim->cpu.masked;
}

/* ---- registers ---- */

static void report_register(wad_sim *sim, const wadi_slot *slot, const wadi_trace *trace,
                            unsigned line, bool came)
{
    if (!wadi_report_again(sim, WAD_FINDING_BROKEN_UPDATE, slot, trace))
        report_broken(sim, slot, wadi_slot_name(slot), trace, line, came);
}

/* Main's `REG |= BIT` and a handler's write of REG, in whichever order they are seen. */
static void judge_register(wad_sim *sim, wadi_slot *slot)
{
    struct wadi_race *r = sim->race;
    const last_read *last = &r->reg[r->context];
    if (last->key != (uintptr_t)slot || (last->masked && sim->cpu.masked) ||
        !wadi_source_same_line(sim, last->pc, sim->call.pc))
        return;
    if (slot->race.wr_entry > last->entry && slot->race.wr_context != r->context) {
        wadi_trace here = wadi_trace_here(sim);
        report_register(sim, slot, &here, slot->race.wr_line, true);
    } else if (!slot->race.update_lines) {
        slot->race.update_trace = g_new(wadi_trace, 1);
        *slot->race.update_trace = wadi_trace_here(sim);
        slot->race.update_lines = sim->cpu.lines_on | UINT64_C(1) << 63;
        slot->race.update_context = (uint8_t)r->context;
    }
}

static void meet_updates(wad_sim *sim, const wadi_slot *slot)
{
    const struct wadi_race *r = sim->race;
    unsigned line = sim->cpu.active_line;
    if (slot->race.update_lines && line < 63 && slot->race.update_lines >> line & 1 &&
        more_urgent(r, r->context, slot->race.update_context))
        report_register(sim, slot, slot->race.update_trace, line, false);
}

static void on_access(wadi_observer *o, wadi_slot *slot, bool write)
{
    wad_sim *sim = o->sim;
    struct wadi_race *r = sim->race;
    if (sim->host.fw.plain)
        order(r, &slot->race.sync, write);
    if (!write) {
        r->reg[r->context] = (last_read){(uintptr_t)slot, sim->call.pc, r->entry, sim->cpu.masked};
        return;
    }
    if (!slot->plain)
        return;
    judge_register(sim, slot);
    if (r->context) {
        meet_updates(sim, slot);
        slot->race.wr_line = (uint8_t)sim->cpu.active_line;
    }
    slot->race.wr_context = (uint8_t)r->context;
    slot->race.wr_entry = r->entry;
}

/* ---- the course of a run ---- */

static void enter(wad_sim *sim, unsigned line)
{
    struct wadi_race *r = sim->race;
    r->entry++;
    if (r->depth < G_N_ELEMENTS(r->stack))
        r->stack[r->depth] = r->context;
    r->depth++;
    r->news++;
    r->context = context_of(r, sim->cpu.priority);
    join(r->clock[r->context], r->enabled[line]);
}

static void leave(wad_sim *sim)
{
    struct wadi_race *r = sim->race;
    r->news++;
    if (r->depth && --r->depth < G_N_ELEMENTS(r->stack))
        r->context = r->stack[r->depth];
}

static void enabled(wad_sim *sim, unsigned line)
{
    struct wadi_race *r = sim->race;
    if (r && line < sim->sheet->n_vectors)
        release(r, r->enabled[line]);
}

/* From now on handlers may run. */
static void begin(wad_sim *sim)
{
    if (!sim->race || sim->ears & WADI_EAR_VARIABLE)
        return;
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++)
        enabled(sim, i);
    wadi_hear(wadi_observer_of(sim, &wadi_check_race), RUNNING, true);
}

static void reset(wad_sim *sim)
{
    struct wadi_race *r = sim->race;
    wadi_hear(wadi_observer_of(sim, &wadi_check_race), RUNNING, false);
    if (!r)
        return;
    if (r->shades)
        madvise(r->shades, (r->size / 4 + 2) * sizeof(shade), MADV_DONTNEED);
    memset(r->clock, 0, sizeof r->clock);
    memset(r->enabled, 0, (sim->sheet->n_vectors + 1) * sizeof(clocks));
    memset(r->var, 0, sizeof r->var);
    memset(r->reg, 0, sizeof r->reg);
    for (unsigned i = 0; i < WADI_CONTEXTS; i++)
        r->clock[i][i] = 1;
    r->priority[0] = UINT_MAX;
    r->n = 1;
    r->context = r->depth = r->entry = 0;
    g_array_set_size(r->sync, 1);
    g_array_set_size(r->updates, 1);
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        for (unsigned k = 0; k < sim->blocks[i].n_slots; k++) {
            wadi_slot *slot = &sim->blocks[i].slots[k];
            slot->race.sync = 0;
            slot->race.update_lines = slot->race.wr_entry = 0;
            g_clear_pointer(&slot->race.update_trace, g_free);
        }
}

static void load(wad_sim *sim)
{
    struct wadi_race *r = g_new0(struct wadi_race, 1);
    uintptr_t end = 0;
    r->start = UINTPTR_MAX;
    for (guint i = 0; sim->host.fw.plain && i < sim->host.fw.segments->len; i++) {
        const wadi_segment *seg = &g_array_index(sim->host.fw.segments, wadi_segment, i);
        r->start = MIN(r->start, (uintptr_t)seg->start & ~(uintptr_t)3);
        end = MAX(end, (uintptr_t)seg->start + seg->size);
    }
    r->size = end > r->start ? end - r->start : 0;
    if (r->size) {
        r->shades = mmap(NULL, (r->size / 4 + 2) * sizeof(shade), PROT_READ | PROT_WRITE,
                         MAP_PRIVATE | MAP_ANONYMOUS | MAP_NORESERVE, -1, 0);
        if (r->shades == MAP_FAILED) {
            r->shades = NULL;
            r->size = 0;
        }
    }
    r->sync = g_array_new(FALSE, TRUE, sizeof(clocks));
    r->updates = g_array_new(FALSE, TRUE, sizeof(update));
    r->enabled = g_malloc0((sim->sheet->n_vectors + 1) * sizeof(clocks));
    r->habit = wadi_observer_of(sim, &wadi_check_habit);
    sim->race = r;
}

static void unload(wad_sim *sim)
{
    struct wadi_race *r = sim->race;
    if (!r)
        return;
    reset(sim);
    if (r->shades)
        munmap(r->shades, (r->size / 4 + 2) * sizeof(shade));
    g_array_free(r->sync, TRUE);
    g_array_free(r->updates, TRUE);
    g_free(r->enabled);
    g_free(r);
    sim->race = NULL;
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    switch (t->ear) {
    case WADI_EAR_PICKED_UP:
        look_at_written(o->sim);
        break;
    case WADI_EAR_CALL:
        if (o->sim->race)
            enter(o->sim, t->line);
        break;
    case WADI_EAR_RETURN:
        if (o->sim->race)
            leave(o->sim);
        break;
    case WADI_EAR_ENABLE:
        if (t->line == WADI_NO_LINE)
            begin(o->sim);
        else
            enabled(o->sim, t->line);
        break;
    case WADI_EAR_LOAD:
        if (t->on)
            load(o->sim);
        else
            unload(o->sim);
        break;
    default:
        reset(o->sim);
    }
}

const wadi_observer_class wadi_check_race = {
    .name = "race",
    .standing = WADI_EAR_CALL | WADI_EAR_RETURN | WADI_EAR_ENABLE | WADI_EAR_PICKED_UP |
                WADI_EAR_LOAD | WADI_EAR_RESET,
    .access = on_access,
    .hear = hear,
};
