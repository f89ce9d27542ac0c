/* SPDX-License-Identifier: MIT */
#include "core.h"
#include "memory.h"

#include <fcntl.h>
#include <gelf.h>
#include <libelf.h>
#include <string.h>
#include <unistd.h>

#include "sim/core/advance.h"
#include "sim/core/bus.h"
#include "sim/core/cpu.h"
#include "sim/core/interrupt.h"
#include "sim/core/line.h"
#include "sim/core/master.h"
#include "sim/core/sim.h"
#include "sim/core/sleep.h"
#include "sim/core/stop.h"

/* The core's own registers, as the architecture has them. */
#define TABLE_OFFSET  0xE000ED08u /* where the vectors lie */
#define RESET_CONTROL 0xE000ED0Cu
#define RESET_WORD    0x05FA0004u

#define FIRST_LINE 16u /* exceptions before the chip's lines */
#define HARD_FAULT 3u
#define SERVICE    11u
#define NESTED     32u /* services at most: one for each priority, and faults */
#define BATCH      64u /* cycles that the chip's time may be behind, without an event in them */

typedef struct point {
    uint64_t address;
    unsigned bytes;
    wad_remote_point kind;
} point;

struct wadi_core {
    thumb m;
    wad_sim *sim;
    GArray *memories; /* wadi_memory, this one owns their bytes */
    GArray *points;
    uint32_t table;
    uint64_t owed; /* cycles not charged yet */
    wadi_service services[NESTED];
    unsigned exceptions[NESTED]; /* number of each that is served, outermost first */
    unsigned outer[NESTED];      /* the priority that each of them interrupted */
    unsigned depth;
    bool asleep, for_event; /* it waits for an event, not for any interrupt */
    bool locked_up;
    bool halted, stepping, look_asked, debugged;
    bool began_at_point; /* the instruction at the breakpoint that it stopped at is executed */
    unsigned why;
    bool watch;
    point hit;
    void (*look)(void *ctx);
    void *look_ctx;
};

static _Thread_local wadi_core *running;

/* ---- time ---- */

static void settle(wadi_core *c)
{
    uint64_t cycles = c->owed;
    c->owed = 0;
    wadi_cpu_advance(c->sim, cycles);
}

static void spend(wadi_core *c, unsigned cycles)
{
    c->owed += cycles;
    if (c->owed >= BATCH || c->sim->now + c->owed * c->sim->cycle_ps >= c->sim->due)
        settle(c);
}

/* ---- memory ---- */

static uint8_t *memory_at(const wadi_core *c, uint64_t address, size_t n, bool write)
{
    for (guint i = 0; i < c->memories->len; i++) {
        const wadi_memory *m = &g_array_index(c->memories, wadi_memory, i);
        if (address - m->base < m->size && n <= m->size - (address - m->base))
            return !write || m->writable ? m->bytes + (address - m->base) : NULL;
    }
    return NULL;
}

static void watch(wadi_core *c, uint32_t address, unsigned bytes, bool write)
{
    for (guint i = 0; i < c->points->len; i++) {
        const point *p = &g_array_index(c->points, point, i);
        if (p->kind < WAD_REMOTE_WRITES || address >= p->address + p->bytes ||
            p->address >= address + bytes ||
            (p->kind != WAD_REMOTE_ACCESSES && (p->kind == WAD_REMOTE_WRITES) != write))
            continue;
        c->watch = true;
        c->hit = *p;
    }
}

/* Registers of blocks; the core looks up before each. */
static bool bus_load(wadi_core *c, uint32_t address, unsigned bytes, uint32_t *value)
{
    const wadi_cell *cell = wadi_find_cell(c->sim, address);
    if (!cell || (!cell->rd && !cell->wr))
        return false;
    settle(c);
    *value = wadi_bus_read(c->sim, address, bytes);
    return true;
}

static bool bus_store(wadi_core *c, uint32_t address, unsigned bytes, uint32_t value)
{
    const wadi_cell *cell = wadi_find_cell(c->sim, address);
    if (address == TABLE_OFFSET) {
        c->table = value & ~0x7Fu;
        return true;
    }
    if (address == RESET_CONTROL) {
        if (value == RESET_WORD)
            wadi_run_again(c->sim);
        return true;
    }
    if (!cell || (!cell->rd && !cell->wr))
        return false;
    settle(c);
    wadi_bus_write(c->sim, address, bytes, value);
    return true;
}

static bool load(void *ctx, uint32_t address, unsigned bytes, uint32_t *value)
{
    wadi_core *c = ctx;
    const uint8_t *p = memory_at(c, address, bytes, false);
    if (c->points->len && address != c->m.r[THUMB_PC])
        watch(c, address, bytes, false);
    if (!p)
        return bus_load(c, address, bytes, value);
    *value = 0;
    memcpy(value, p, bytes);
    return true;
}

static bool store(void *ctx, uint32_t address, unsigned bytes, uint32_t value)
{
    wadi_core *c = ctx;
    uint8_t *p = memory_at(c, address, bytes, true);
    if (c->points->len)
        watch(c, address, bytes, true);
    if (!p)
        return bus_store(c, address, bytes, value);
    memcpy(p, &value, bytes);
    return true;
}

/* ---- exceptions ---- */

static uint32_t word_at(wadi_core *c, uint32_t address)
{
    uint32_t value = 0;
    if (!load(c, address, 4, &value))
        c->locked_up = true;
    return value;
}

static void push_word(wadi_core *c, uint32_t address, uint32_t value)
{
    if (!store(c, address, 4, value))
        c->locked_up = true;
}

/* On the stack that is in use, which lies on 8 bytes then: bit 9 of the status keeps whether it
 * did. */
static void push_frame(wadi_core *c)
{
    thumb *m = &c->m;
    uint32_t sp = m->r[THUMB_SP], frame = (sp - 32) & ~7u;
    const uint32_t words[] = {
        m->r[0],  m->r[1],        m->r[2],        m->r[3],
        m->r[12], m->r[THUMB_LR], m->r[THUMB_PC], thumb_status(m) | (sp & 4) << 7};
    for (unsigned i = 0; i < 8; i++)
        push_word(c, frame + 4 * i, words[i]);
    m->r[THUMB_SP] = frame;
}

static void pop_frame(wadi_core *c)
{
    thumb *m = &c->m;
    uint32_t frame = m->r[THUMB_SP], pc, status;
    for (unsigned i = 0; i < 4; i++)
        m->r[i] = word_at(c, frame + 4 * i);
    m->r[12] = word_at(c, frame + 16);
    m->r[THUMB_LR] = word_at(c, frame + 20);
    pc = word_at(c, frame + 24);
    status = word_at(c, frame + 28);
    m->r[THUMB_PC] = pc & ~1u;
    m->r[THUMB_SP] = frame + 32 + (status >> 7 & 4);
    thumb_set_status(m, status);
}

/* What it returns with: to a handler, to main on main's stack, to main on the process's. */
#define TO_HANDLER 0xFFFFFFF1u
#define TO_MAIN    0xFFFFFFF9u
#define TO_PROCESS 0xFFFFFFFDu

static uint32_t way_back(const thumb *m)
{
    return m->exception ? TO_HANDLER : m->process_stack ? TO_PROCESS : TO_MAIN;
}

/* Its first instruction is next; `returns` tells the way back. */
static void begin_handler(wadi_core *c, unsigned exception, uint32_t returns)
{
    thumb *m = &c->m;
    uint32_t vector = word_at(c, c->table + 4 * exception);
    thumb_use_stack(m, false);
    m->r[THUMB_LR] = returns;
    m->exception = exception;
    m->state = vector & 1;
    m->r[THUMB_PC] = vector & ~1u;
    m->event = true;
}

static void enter(wadi_core *c, unsigned exception)
{
    uint32_t returns = way_back(&c->m);
    push_frame(c);
    begin_handler(c, exception, returns);
}

static bool in_fault(const wadi_core *c)
{
    for (unsigned i = 0; i < c->depth; i++)
        if (c->exceptions[i] == HARD_FAULT)
            return true;
    return false;
}

/* One that the core raises by itself. In a fault there is no way on but reset. */
static void raise_exception(wadi_core *c, unsigned exception)
{
    if (in_fault(c) || c->locked_up || c->depth == NESTED) {
        c->locked_up = true;
        return;
    }
    c->outer[c->depth] = c->sim->priority;
    c->exceptions[c->depth++] = exception;
    wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_entry);
    enter(c, exception);
    if (exception == SERVICE)
        c->sim->priority = 0; /* the most urgent of those that can be set: no line goes between */
}

static void fault(wadi_core *c)
{
    settle(c);
    raise_exception(c, HARD_FAULT);
}

/* Where it cannot be served at once, it is a fault at the instruction. */
static void call_service(wadi_core *c)
{
    settle(c);
    if (!c->m.masked && c->sim->priority > 0 && !in_fault(c)) {
        raise_exception(c, SERVICE);
        return;
    }
    c->m.r[THUMB_PC] -= 2;
    raise_exception(c, HARD_FAULT);
}

static bool interrupt_is_due(const wadi_core *c)
{
    const wad_sim *sim = c->sim;
    return sim->best_line != WADI_NO_LINE && sim->best_priority < sim->priority && !c->m.masked &&
           c->depth < NESTED && !in_fault(c);
}

/* The line that is most urgent now; its number as an exception. */
static unsigned take_line(wadi_core *c)
{
    wadi_service *s = &c->services[c->depth];
    c->outer[c->depth] = c->sim->priority;
    wadi_irq_take(c->sim, s);
    c->exceptions[c->depth++] = FIRST_LINE + s->record.line;
    wadi_irq_forget(c->sim, s);
    return FIRST_LINE + s->record.line;
}

/*
 * The same law as of firmware on the simulated chip (wadi_irq_deliver): the line is chosen when the
 * entry is over; from one handler to the next that waits, nothing is put back in between; the way
 * out is paid once.
 */
static void interrupt(wadi_core *c)
{
    settle(c);
    wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_entry);
    if (interrupt_is_due(c))
        enter(c, take_line(c));
    else /* it went away meanwhile */
        wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_exit);
}

static void drop_handler(wadi_core *c)
{
    unsigned exception = c->exceptions[--c->depth];
    if (exception >= FIRST_LINE)
        wadi_irq_leave(c->sim, &c->services[c->depth]);
    c->sim->priority = c->outer[c->depth];
}

/* The way back must be the one that was told: main with others under it is no place to return to.
 */
static bool can_return(const wadi_core *c, uint32_t returns)
{
    return c->depth &&
           (returns == TO_HANDLER ? c->depth > 1
                                  : c->depth == 1 && (returns == TO_MAIN || returns == TO_PROCESS));
}

static void leave(wadi_core *c, uint32_t returns)
{
    settle(c);
    if (!can_return(c, returns)) {
        fault(c);
        return;
    }
    drop_handler(c);
    if (interrupt_is_due(c)) {
        wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_chain);
        if (interrupt_is_due(c)) {
            begin_handler(c, take_line(c), returns);
            return;
        }
    }
    thumb_use_stack(&c->m, false);
    if (returns == TO_PROCESS)
        thumb_use_stack(&c->m, true);
    pop_frame(c);
    c->m.event = true;
    wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_exit);
}

/* ---- sleep ---- */

static void wake(wadi_core *c)
{
    if (c->asleep)
        wadi_sleep_leave(c->sim);
    c->asleep = c->for_event = false;
}

/* One that is pending ends a wait for an interrupt even where the mask keeps it from being served;
 * a wait for an event only if it is served. */
static bool wakes(const wadi_core *c)
{
    return c->for_event ? interrupt_is_due(c) : c->sim->best_line != WADI_NO_LINE;
}

static void wait(wadi_core *c, bool for_event)
{
    settle(c);
    c->for_event = for_event;
    if (wakes(c))
        return;
    wadi_sleep_enter(c->sim);
    c->asleep = true;
}

/* Until the next event. */
static void sleep_on(wadi_core *c)
{
    wad_sim *sim = c->sim;
    const wad_event *e = wadi_queue_first(&sim->queue);
    uint64_t ps = e && e->ps > sim->now ? e->ps - sim->now : 0;
    sim->asleep_ps += ps;
    wadi_cpu_let_pass(sim, ps);
    if (wakes(c))
        wake(c);
}

/* ---- stops ---- */

static void stop(wadi_core *c, unsigned signal)
{
    c->halted = true;
    c->stepping = false;
    c->why = signal;
    c->began_at_point = true;
}

static bool at_point(const wadi_core *c)
{
    for (guint i = 0; i < c->points->len; i++) {
        const point *p = &g_array_index(c->points, point, i);
        if (p->kind <= WAD_REMOTE_HARD && (p->address & ~1u) == c->m.r[THUMB_PC])
            return true;
    }
    return false;
}

/* ---- the loop ---- */

/* `b .`: nothing happens until something else does. */
static void idle(wadi_core *c)
{
    settle(c);
    uint64_t due = c->sim->due, now = c->sim->now;
    if (due != UINT64_MAX && due > now && c->sim->cycle_ps)
        wadi_cpu_advance(c->sim, (due - now) / c->sim->cycle_ps + 1);
}

static void after(wadi_core *c, thumb_event event, uint32_t at)
{
    switch (event) {
    case THUMB_FAULT:
    case THUMB_UNKNOWN:
        fault(c);
        break;
    case THUMB_WAIT:
    case THUMB_WAIT_EVENT:
        wait(c, event == THUMB_WAIT_EVENT);
        break;
    case THUMB_BREAK:
        if (c->debugged)
            stop(c, 5);
        else /* nobody is there to be told */
            fault(c);
        break;
    case THUMB_SERVICE:
        call_service(c);
        break;
    case THUMB_RETURN:
        leave(c, c->m.returns);
        break;
    default:
        if (c->m.r[THUMB_PC] == at)
            idle(c);
    }
}

static void one(wadi_core *c)
{
    uint32_t at = c->m.r[THUMB_PC];
    c->began_at_point = false;
    thumb_event event = thumb_step(&c->m);
    spend(c, c->m.cycles);
    after(c, event, at);
    if (c->locked_up)
        stop(c, 11);
    else if (c->watch || c->stepping)
        stop(c, 5);
}

static void look(wadi_core *c)
{
    settle(c);
    c->look_asked = false;
    c->look(c->look_ctx);
}

static void power_up(wadi_core *c)
{
    thumb *m = &c->m;
    *m = (thumb){.load = load, .store = store, .ctx = c};
    c->table = 0;
    c->depth = 0;
    c->owed = 0;
    c->asleep = c->for_event = c->locked_up = c->watch = false;
    c->stepping = false;
    m->r[THUMB_LR] = 0xFFFFFFFFu;
    m->r[THUMB_SP] = word_at(c, 0) & ~3u;
    uint32_t start = word_at(c, 4);
    m->r[THUMB_PC] = start & ~1u;
    m->state = start & 1;
    c->sim->masked = true; /* what is served is decided here */
    if (c->m.r[THUMB_PC] == (0xFFFFFFFFu & ~1u) || !memory_at(c, c->m.r[THUMB_PC], 2, false))
        c->locked_up = true; /* no program */
}

static int run(void)
{
    wadi_core *c = running;
    power_up(c);
    for (;;) {
        if (c->look_asked || c->halted || c->locked_up || c->sim->stands)
            look(c);
        else if (interrupt_is_due(c)) {
            wake(c);
            interrupt(c);
        } else if (c->asleep)
            sleep_on(c);
        else if (c->points->len && !c->began_at_point && at_point(c))
            stop(c, 5);
        else
            one(c);
    }
    return 0;
}

/* ---- from outside ---- */

wadi_core *wadi_core_new(wad_sim *sim, char **why)
{
    const wad_sheet *s = sim->sheet;
    if (strcmp(s->cpu.isa, "armv6m")) {
        *why = g_strdup_printf("%s has a %s core, whose machine code is not executed here: give "
                               "firmware for the simulated chip (.wfw)",
                               s->name, s->cpu.isa);
        return NULL;
    }
    wadi_core *c = g_new0(wadi_core, 1);
    c->sim = sim;
    c->memories = g_array_new(FALSE, FALSE, sizeof(wadi_memory));
    c->points = g_array_new(FALSE, FALSE, sizeof(point));
    wad_sim_attach(sim, run, NULL, 0);
    for (unsigned i = 0; i < s->n_memories; i++) {
        const wad_memory *m = &s->memories[i];
        bool flash = g_str_has_prefix(m->name, "flash");
        wadi_memory mine = {m->base, m->size, g_malloc(m->size), !flash};
        memset(mine.bytes, flash ? 0xFF : 0xA5, m->size); /* what nobody wrote */
        g_array_append_val(c->memories, mine);
        wad_sim_give_memory(sim, m->base, mine.bytes, m->size, !flash);
    }
    running = c;
    return c;
}

void wadi_core_free(wadi_core *c)
{
    if (!c)
        return;
    for (guint i = 0; i < c->memories->len; i++)
        g_free(g_array_index(c->memories, wadi_memory, i).bytes);
    g_array_free(c->memories, TRUE);
    g_array_free(c->points, TRUE);
    if (running == c)
        running = NULL;
    g_free(c);
}

void wadi_core_on_look(wadi_core *c, void (*look_fn)(void *ctx), void *ctx)
{
    c->look = look_fn;
    c->look_ctx = ctx;
}

void wadi_core_ask_look(wadi_core *c)
{
    c->look_asked = true;
}

void wadi_core_halt(wadi_core *c)
{
    c->halted = true;
}

void wadi_core_go(wadi_core *c, bool step)
{
    if (c->locked_up && memory_at(c, c->m.r[THUMB_PC], 2, false) && !in_fault(c))
        c->locked_up = false; /* a program was put there meanwhile */
    c->halted = c->watch = false;
    c->why = 0;
    c->stepping = step;
    c->began_at_point = true;
    if (step)
        wake(c);
    if (c->locked_up) { /* it cannot */
        c->halted = true;
        c->why = 11;
    }
}

bool wadi_core_halted(const wadi_core *c)
{
    return c->halted || c->locked_up || c->sim->stands;
}

void wadi_core_debugged(wadi_core *c, bool on)
{
    c->debugged = on;
}

unsigned wadi_core_why(wadi_core *c, bool *is_watch, wad_remote_point *kind, uint64_t *address)
{
    unsigned why = c->why;
    c->why = 0;
    *is_watch = c->watch;
    *kind = c->hit.kind;
    *address = c->hit.address;
    return why;
}

uint32_t wadi_core_register(const wadi_core *c, unsigned number)
{
    const thumb *m = &c->m;
    switch (number) {
    case WADI_CORE_STATUS:
        return thumb_status(m);
    case WADI_CORE_MAIN_SP:
        return thumb_main_sp(m);
    case WADI_CORE_PROCESS_SP:
        return thumb_process_sp(m);
    case WADI_CORE_MASK:
        return m->masked;
    case WADI_CORE_CONTROL:
        return thumb_control(m);
    default:
        return m->r[number & 15];
    }
}

/* Out of all handlers: a debugger that starts from the vectors says so by the status. */
static void set_status(wadi_core *c, uint32_t value)
{
    thumb_set_status(&c->m, value);
    while (!c->m.exception && c->depth)
        drop_handler(c);
}

/* Where the program counter is set the core leaves what it was about: the sleep, and at a start
 * from the vectors the handlers as well. */
void wadi_core_set_register(wadi_core *c, unsigned number, uint32_t value)
{
    thumb *m = &c->m;
    switch (number) {
    case WADI_CORE_STATUS:
        set_status(c, value);
        break;
    case WADI_CORE_MAIN_SP:
        thumb_set_main_sp(m, value);
        break;
    case WADI_CORE_PROCESS_SP:
        thumb_set_process_sp(m, value);
        break;
    case WADI_CORE_MASK:
        m->masked = value & 1;
        break;
    case WADI_CORE_CONTROL:
        m->unprivileged = value & 1;
        if (!m->exception)
            thumb_use_stack(m, value & 2);
        break;
    case THUMB_PC:
        m->r[THUMB_PC] = value & ~1u;
        m->state = true;
        wake(c);
        c->began_at_point = true;
        break;
    default:
        m->r[number & 15] = number == THUMB_SP ? value & ~3u : value;
    }
}

void wadi_core_reset(wadi_core *c)
{
    c->owed = 0;
    wadi_run_again(c->sim);
}

bool wadi_core_point(wadi_core *c, wad_remote_point kind, uint64_t address, unsigned bytes, bool on)
{
    const point p = {address, MAX(bytes, 1u), kind};
    for (guint i = 0; i < c->points->len; i++) {
        const point *q = &g_array_index(c->points, point, i);
        if (q->address == p.address && q->kind == p.kind && q->bytes == p.bytes) {
            if (!on)
                g_array_remove_index_fast(c->points, i);
            return true;
        }
    }
    if (on)
        g_array_append_val(c->points, p);
    return true;
}

/* ---- memory from outside: registers by accesses of their own width ---- */

bool wadi_core_read(wadi_core *c, uint64_t address, uint8_t *bytes, size_t n)
{
    return wadi_debug_read(c->sim, memory_at(c, address, n, false), address, bytes, n);
}

bool wadi_core_write(wadi_core *c, uint64_t address, const uint8_t *bytes, size_t n)
{
    uint8_t *p = memory_at(c, address, n, false); /* flash, too: a probe programs it */
    if (address == TABLE_OFFSET && n == 4) {
        memcpy(&c->table, bytes, 4);
        return true;
    }
    return wadi_debug_write(c->sim, p, address, bytes, n);
}

/* ---- programs ---- */

static bool put_segment(wadi_core *c, const GElf_Phdr *ph, const uint8_t *bytes, char **why)
{
    uint8_t *to = memory_at(c, ph->p_paddr, ph->p_filesz, false);
    if (!ph->p_filesz)
        return true;
    if (!to) {
        *why = g_strdup_printf("0x%08llx is no memory of %s: the image is another chip's",
                               (unsigned long long)ph->p_paddr, c->sim->sheet->name);
        return false;
    }
    memcpy(to, bytes + ph->p_offset, ph->p_filesz);
    return true;
}

bool wadi_core_load(wadi_core *c, const char *path, char **why)
{
    size_t n = 0, size = 0;
    int fd = open(path, O_RDONLY | O_CLOEXEC);
    elf_version(EV_CURRENT);
    Elf *elf = fd < 0 ? NULL : elf_begin(fd, ELF_C_READ, NULL);
    GElf_Ehdr head;
    *why = NULL;
    if (fd < 0)
        *why = g_strdup_printf("there is no image '%s'", path);
    else if (!elf || !gelf_getehdr(elf, &head) || head.e_machine != EM_ARM ||
             elf_getphdrnum(elf, &n))
        *why = g_strdup_printf("'%s' is no ELF file for this core", path);
    const char *bytes = elf ? elf_rawfile(elf, &size) : NULL;
    for (size_t i = 0; i < n && !*why; i++) {
        GElf_Phdr ph;
        if (!gelf_getphdr(elf, (int)i, &ph) || ph.p_type != PT_LOAD)
            continue;
        if (ph.p_offset > size || ph.p_filesz > size - ph.p_offset)
            *why = g_strdup_printf("'%s' is cut short", path);
        else
            put_segment(c, &ph, (const uint8_t *)bytes, why);
    }
    if (elf)
        elf_end(elf);
    if (fd >= 0)
        close(fd);
    return *why == NULL;
}
