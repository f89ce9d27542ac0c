/* SPDX-License-Identifier: MIT */
/* Time and memory as the core has them; exceptions and interrupts taken and left. */
#include "core_state.h"

#include "sim/core/advance.h"
#include "sim/core/bus.h"
#include "sim/core/cpu.h"
#include "sim/core/interrupt.h"
#include "sim/core/line.h"
#include "sim/core/master.h"
#include "sim/core/sim.h"
#include "sim/core/stop.h"

/* ---- time ---- */

void wadi_core_settle(wadi_core *c)
{
    uint64_t cycles = c->owed;
    c->owed = 0;
    wadi_cpu_advance(c->sim, cycles);
}

void wadi_core_spend(wadi_core *c, unsigned cycles)
{
    c->owed += cycles;
    if (c->owed >= BATCH || c->sim->now + c->owed * c->sim->cost.cycle_ps >= c->sim->due)
        wadi_core_settle(c);
}

/* ---- memory ---- */

uint8_t *wadi_core_memory_at(const wadi_core *c, uint64_t address, size_t n, bool write)
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
    wadi_core_settle(c);
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
    wadi_core_settle(c);
    wadi_bus_write(c->sim, address, bytes, value);
    return true;
}

bool wadi_core_load_word(void *ctx, uint32_t address, unsigned bytes, uint32_t *value)
{
    wadi_core *c = ctx;
    const uint8_t *p = wadi_core_memory_at(c, address, bytes, false);
    if (c->points->len && address != c->m.r[THUMB_PC])
        watch(c, address, bytes, false);
    if (!p)
        return bus_load(c, address, bytes, value);
    *value = 0;
    memcpy(value, p, bytes);
    return true;
}

bool wadi_core_store_word(void *ctx, uint32_t address, unsigned bytes, uint32_t value)
{
    wadi_core *c = ctx;
    uint8_t *p = wadi_core_memory_at(c, address, bytes, true);
    if (c->points->len)
        watch(c, address, bytes, true);
    if (!p)
        return bus_store(c, address, bytes, value);
    memcpy(p, &value, bytes);
    return true;
}

/* ---- exceptions ---- */

uint32_t wadi_core_word_at(wadi_core *c, uint32_t address)
{
    uint32_t value = 0;
    if (!wadi_core_load_word(c, address, 4, &value))
        c->locked_up = true;
    return value;
}

static void push_word(wadi_core *c, uint32_t address, uint32_t value)
{
    if (!wadi_core_store_word(c, address, 4, value))
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
        m->r[i] = wadi_core_word_at(c, frame + 4 * i);
    m->r[12] = wadi_core_word_at(c, frame + 16);
    m->r[THUMB_LR] = wadi_core_word_at(c, frame + 20);
    pc = wadi_core_word_at(c, frame + 24);
    status = wadi_core_word_at(c, frame + 28);
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
    uint32_t vector = wadi_core_word_at(c, c->table + 4 * exception);
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

bool wadi_core_in_fault(const wadi_core *c)
{
    for (unsigned i = 0; i < c->depth; i++)
        if (c->exceptions[i] == HARD_FAULT)
            return true;
    return false;
}

/* One that the core raises by itself. In a fault there is no way on but reset. */
static void raise_exception(wadi_core *c, unsigned exception)
{
    if (wadi_core_in_fault(c) || c->locked_up || c->depth == NESTED) {
        c->locked_up = true;
        return;
    }
    c->outer[c->depth] = c->sim->cpu.priority;
    c->exceptions[c->depth++] = exception;
    wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_entry);
    enter(c, exception);
    if (exception == SERVICE)
        c->sim->cpu.priority =
            0; /* the most urgent of those that can be set: no line goes between */
}

void wadi_core_fault(wadi_core *c)
{
    wadi_core_settle(c);
    raise_exception(c, HARD_FAULT);
}

/* Where it cannot be served at once, it is a fault at the instruction. */
void wadi_core_call_service(wadi_core *c)
{
    wadi_core_settle(c);
    if (!c->m.masked && c->sim->cpu.priority > 0 && !wadi_core_in_fault(c)) {
        raise_exception(c, SERVICE);
        return;
    }
    c->m.r[THUMB_PC] -= 2;
    raise_exception(c, HARD_FAULT);
}

bool wadi_core_interrupt_is_due(const wadi_core *c)
{
    const wad_sim *sim = c->sim;
    return sim->cpu.best_line != WADI_NO_LINE && sim->cpu.best_priority < sim->cpu.priority &&
           !c->m.masked && c->depth < NESTED && !wadi_core_in_fault(c);
}

/* The line that is most urgent now; its number as an exception. */
static unsigned take_line(wadi_core *c)
{
    wadi_service *s = &c->services[c->depth];
    c->outer[c->depth] = c->sim->cpu.priority;
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
void wadi_core_interrupt(wadi_core *c)
{
    wadi_core_settle(c);
    wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_entry);
    if (wadi_core_interrupt_is_due(c))
        enter(c, take_line(c));
    else /* it went away meanwhile */
        wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_exit);
}

void wadi_core_drop_handler(wadi_core *c)
{
    unsigned exception = c->exceptions[--c->depth];
    if (exception >= FIRST_LINE)
        wadi_irq_leave(c->sim, &c->services[c->depth]);
    c->sim->cpu.priority = c->outer[c->depth];
}

/* The way back must be the one that was told: main with others under it is no place to return to.
 */
static bool can_return(const wadi_core *c, uint32_t returns)
{
    return c->depth &&
           (returns == TO_HANDLER ? c->depth > 1
                                  : c->depth == 1 && (returns == TO_MAIN || returns == TO_PROCESS));
}

void wadi_core_leave(wadi_core *c, uint32_t returns)
{
    wadi_core_settle(c);
    if (!can_return(c, returns)) {
        wadi_core_fault(c);
        return;
    }
    wadi_core_drop_handler(c);
    if (wadi_core_interrupt_is_due(c)) {
        wadi_cpu_advance(c->sim, c->sim->sheet->cpu.interrupt_chain);
        if (wadi_core_interrupt_is_due(c)) {
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
