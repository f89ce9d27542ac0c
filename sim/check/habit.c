/* SPDX-License-Identifier: MIT */
/* Habits that a chip does not punish at once: handlers that wait, print or are never called, loops
 * that test a tick count for a multiple. */
#include "habit.h"

#include <elfutils/libdw.h>
#include <gelf.h>
#include <string.h>

#include "lang/suggest.h"
#include "sheet/chip/c_name.h"
#include "sim/core/block.h"
#include "sim/core/line.h"
#include "sim/core/register.h"
#include "sim/core/report.h"
#include "sim/core/sim.h"
#include "sim/host/source.h"

/* ---- handlers that wait ---- */

#define READS 256 /* in a row, without a write: no FIFO is that deep */

typedef struct habit {
    /* the reads of the running handler since its last write, of at most four registers */
    struct {
        const wadi_slot *slots[4];
        unsigned n, reads;
    } waits;
    GHashTable *ticks; /* ticks by call-in */
    GPtrArray *strays; /* stray, of the firmware; NULL: not looked for yet */
} habit;

static const char *owner_of(const wad_sim *sim, unsigned line)
{
    const wadi_line *l = &sim->cpu.lines[line];
    return l->owner ? l->owner->inst->name : "?";
}

static void handler_reads(wad_sim *sim, habit *h, const wadi_slot *slot)
{
    unsigned i = 0;
    while (i < h->waits.n && h->waits.slots[i] != slot)
        i++;
    if (i == G_N_ELEMENTS(h->waits.slots))
        h->waits.n = h->waits.reads = i = 0;
    if (i == h->waits.n)
        h->waits.slots[h->waits.n++] = slot;
    if (++h->waits.reads != READS)
        return;
    wadi_trace trace = wadi_trace_here(sim);
    wadi_slot stand_in = {.address = slot->address};
    if (wadi_report_again(sim, WAD_FINDING_HANDLER_WAITS, &stand_in, &trace))
        return;
    char *name = wadi_slot_name(slot);
    wadi_report(
        sim, WAD_FINDING_HANDLER_WAITS, &stand_in,
        "the handler of interrupt %u (%s) has read %s%s %u times without a write between: it "
        "waits, and everything that is no more urgent waits with it",
        sim->cpu.active_line, owner_of(sim, sim->cpu.active_line), name,
        h->waits.n > 1 ? " and others" : "", READS);
    g_free(name);
}

static void handler_sleeps(wad_sim *sim)
{
    wadi_report(sim, WAD_FINDING_HANDLER_WAITS, NULL,
                "the handler of interrupt %u (%s) sleeps: only what is more urgent can wake it",
                sim->cpu.active_line, owner_of(sim, sim->cpu.active_line));
}

wadi_stdio *wadi_firmware_stdio(void)
{
    return wadi_current && wadi_current->run.running ? &wadi_current->ends.stdio : NULL;
}

void wadi_handler_prints(const char *function, uintptr_t pc, void *frame)
{
    wad_sim *sim = wadi_current;
    if (!sim || !sim->run.running || sim->cpu.active_line == WADI_NO_LINE)
        return;
    wadi_flush(sim);
    sim->call.pc = pc;
    sim->call.frame = frame;
    wadi_report(
        sim, WAD_FINDING_HANDLER_WAITS, NULL,
        "the handler of interrupt %u (%s) calls %s: printing takes as long as its line, and "
        "is rarely safe to interrupt",
        sim->cpu.active_line, owner_of(sim, sim->cpu.active_line), function);
}

/* ---- handlers that nothing calls ---- */

typedef struct stray {
    char *name;
    uintptr_t address;
} stray;

static void free_stray(gpointer p)
{
    g_free(((stray *)p)->name);
    g_free(p);
}

/* A block's name, or a number, in capitals as sheets write them: not a function of the user's. */
static bool looks_like_handler(const char *name)
{
    if (!g_str_has_prefix(name, "handle_") || !name[7])
        return false;
    for (const char *p = name + 7; *p; p++)
        if (!g_ascii_isupper(*p) && !g_ascii_isdigit(*p) && *p != '_')
            return g_str_has_prefix(name, "handle_vector_") ||
                   g_str_has_prefix(name, "handle_line_");
    return true;
}

static bool is_vector(const wad_sim *sim, const char *name)
{
    bool found = false;
    for (unsigned i = 0; i < sim->sheet->n_vectors && !found; i++) {
        char *handler = wadi_emit_handler(sim->sheet, i);
        char *number = g_strdup_printf("handle_vector_%u", i);
        found = !strcmp(handler, name) || !strcmp(number, name);
        g_free(handler);
        g_free(number);
    }
    return found;
}

static void look_through(const wad_sim *sim, Elf_Scn *section, Elf *elf, GPtrArray *list)
{
    GElf_Shdr head;
    Elf_Data *data = elf_getdata(section, NULL);
    if (!gelf_getshdr(section, &head) || !data || !head.sh_entsize)
        return;
    for (size_t i = 0; i < head.sh_size / head.sh_entsize; i++) {
        GElf_Sym sym;
        const char *name =
            gelf_getsym(data, (int)i, &sym) ? elf_strptr(elf, head.sh_link, sym.st_name) : NULL;
        if (!name || sym.st_shndx == SHN_UNDEF || GELF_ST_BIND(sym.st_info) != STB_GLOBAL ||
            GELF_ST_TYPE(sym.st_info) != STT_FUNC || !looks_like_handler(name) ||
            is_vector(sim, name))
            continue;
        stray *s = g_new(stray, 1);
        *s = (stray){g_strdup(name), sym.st_value + sim->host.fw.bias};
        g_ptr_array_add(list, s);
    }
}

static GPtrArray *find_strays(wad_sim *sim)
{
    GPtrArray *list = g_ptr_array_new_with_free_func(free_stray);
    Dwarf *dwarf = sim->host.fw.path ? wadi_source_dwarf(sim) : NULL;
    Elf *elf = dwarf ? dwarf_getelf(dwarf) : NULL;
    for (Elf_Scn *s = elf ? elf_nextscn(elf, NULL) : NULL; s; s = elf_nextscn(elf, s)) {
        GElf_Shdr head;
        if (gelf_getshdr(s, &head) && head.sh_type == SHT_SYMTAB)
            look_through(sim, s, elf, list);
    }
    return list;
}

/* The vector whose name comes closest, for the message. */
static char *nearest(const wad_sim *sim, const char *name)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    wadi_arena *arena = wadi_arena_new();
    for (unsigned i = 0; i < sim->sheet->n_vectors; i++)
        g_ptr_array_add(names, wadi_emit_handler(sim->sheet, i));
    char *text = g_strdup(wadi_suggest(arena, name, (const char *const *)names->pdata, names->len));
    wadi_arena_free(arena);
    g_ptr_array_free(names, TRUE);
    return text;
}

static void check_handler_names(wad_sim *sim, habit *h)
{
    if (!h->strays)
        h->strays = find_strays(sim);
    for (guint i = 0; i < h->strays->len; i++) {
        const stray *s = h->strays->pdata[i];
        wadi_trace trace = {{s->address + 1}, 1, true};
        char *near = nearest(sim, s->name);
        wadi_report_at(sim, WAD_FINDING_NO_VECTOR, NULL, &trace,
                       "'%s' is the handler of no interrupt of %s: nothing will call it%s", s->name,
                       sim->sheet->name, near);
        g_free(near);
    }
}

/* ---- `tick % n` in a loop ---- */

/* A place that tests a handler's count for a multiple. */
typedef struct ticks {
    bool tests; /* the line says so */
    bool begun;
    uint64_t last;
    uint64_t repeats, longest, row; /* the same value again: in all, at most in a row */
    uint64_t missed;
    uintptr_t address;
    wadi_trace trace;
} ticks;

/* `if (tick % 500 == 0)`, `while (!(tick % 10))`: a test, and a remainder taken. */
static bool line_tests(const char *line)
{
    const char *percent = line;
    bool tests = strstr(line, "if") || strstr(line, "while") || strchr(line, '?');
    while ((percent = strchr(percent, '%')) != NULL) {
        bool quoted = strchr(line, '"') && strchr(line, '"') < percent;
        if (!quoted)
            return tests;
        percent++;
    }
    return false;
}

static bool place_tests(wad_sim *sim, const wadi_trace *trace)
{
    char *line;
    if (!wadi_source_before(sim, trace, &line, 1))
        return false;
    bool tests = line_tests(line);
    g_free(line);
    return tests;
}

static ticks *ticks_at(wad_sim *sim, habit *h, uintptr_t address)
{
    if (!h->ticks)
        h->ticks = g_hash_table_new_full(NULL, NULL, NULL, g_free);
    ticks *t = g_hash_table_lookup(h->ticks, (gpointer)sim->call.pc);
    if (t)
        return t;
    t = g_new0(ticks, 1);
    t->trace = wadi_trace_here(sim);
    t->address = address;
    t->tests = place_tests(sim, &t->trace);
    g_hash_table_insert(h->ticks, (gpointer)sim->call.pc, t);
    return t;
}

void wadi_ticks_read(wadi_observer *o, uintptr_t address, size_t bytes)
{
    ticks *t = ticks_at(o->sim, o->state, address);
    uint64_t value = 0;
    if (!t->tests || t->address != address || bytes > sizeof value)
        return;
    memcpy(&value, (const void *)address, bytes);
    if (t->begun && value == t->last) {
        t->repeats++;
        t->row++;
        t->longest = MAX(t->longest, t->row);
    } else if (t->begun && value > t->last) {
        t->missed += value - t->last - 1;
        t->row = 0;
    }
    t->begun = true;
    t->last = value;
}

static void ticks_end(wad_sim *sim, const habit *h)
{
    GHashTableIter it;
    gpointer value;
    if (!h->ticks)
        return;
    g_hash_table_iter_init(&it, h->ticks);
    while (g_hash_table_iter_next(&it, NULL, &value)) {
        const ticks *t = value;
        if (!t->repeats && !t->missed)
            continue;
        char *name = wadi_source_variable(sim, t->address);
        GString *text = g_string_new(NULL);
        if (t->repeats)
            g_string_append_printf(text, "one value was tested %llu times",
                                   (unsigned long long)t->longest + 1);
        if (t->missed)
            g_string_append_printf(text, "%s%llu values were never tested", text->len ? ", " : "",
                                   (unsigned long long)t->missed);
        wadi_report_at(sim, WAD_FINDING_TICK_MODULO, NULL, &t->trace,
                       "'%s' is tested for a multiple in a loop: %s", name, text->str);
        g_string_free(text, TRUE);
        g_free(name);
    }
}

static void forget_ticks(habit *h)
{
    if (h->ticks)
        g_hash_table_destroy(g_steal_pointer(&h->ticks));
}

static void forget_strays(habit *h)
{
    if (h->strays)
        g_ptr_array_free(g_steal_pointer(&h->strays), TRUE);
}

/* ---- what is heard ---- */

static void on_access(wadi_observer *o, wadi_slot *slot, bool write)
{
    habit *h = o->state;
    if (write)
        h->waits.reads = 0;
    else
        handler_reads(o->sim, h, slot);
}

static void hear(wadi_observer *o, const wadi_told *t)
{
    habit *h = o->state;
    switch (t->ear) {
    case WADI_EAR_ENTER:
    case WADI_EAR_RESTART:
        h->waits.n = h->waits.reads = 0;
        break;
    case WADI_EAR_DOZE:
        handler_sleeps(o->sim);
        break;
    case WADI_EAR_LOAD:
        forget_strays(h);
        break;
    case WADI_EAR_BEGIN:
        forget_ticks(h);
        break;
    case WADI_EAR_START:
        check_handler_names(o->sim, h);
        break;
    default:
        ticks_end(o->sim, h);
    }
}

static void detach(wadi_observer *o)
{
    forget_ticks(o->state);
    forget_strays(o->state);
}

const wadi_observer_class wadi_check_habit = {
    .name = "habit",
    .standing = WADI_EAR_HANDLER_READ | WADI_EAR_HANDLER_WRITE | WADI_EAR_ENTER | WADI_EAR_RESTART |
                WADI_EAR_DOZE | WADI_EAR_LOAD | WADI_EAR_BEGIN | WADI_EAR_START | WADI_EAR_END,
    .state_size = sizeof(habit),
    .detach = detach,
    .access = on_access,
    .hear = hear,
};
