/* SPDX-License-Identifier: MIT */
#include "core_state.h"

#include <fcntl.h>
#include <gelf.h>

#include "sim/core/advance.h"
#include "sim/core/cpu.h"
#include "sim/core/interrupt.h"
#include "sim/core/line.h"
#include "sim/core/master.h"
#include "sim/core/sim.h"
#include "sim/core/sleep.h"
#include "sim/core/stop.h"

static _Thread_local wadi_core *running;

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
    return c->for_event ? wadi_core_interrupt_is_due(c) : c->sim->cpu.best_line != WADI_NO_LINE;
}

static void wait(wadi_core *c, bool for_event)
{
    wadi_core_settle(c);
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
    sim->sleep.asleep_ps += ps;
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
    wadi_core_settle(c);
    uint64_t due = c->sim->due, now = c->sim->now;
    if (due != UINT64_MAX && due > now && c->sim->cost.cycle_ps)
        wadi_cpu_advance(c->sim, (due - now) / c->sim->cost.cycle_ps + 1);
}

static void after(wadi_core *c, thumb_event event, uint32_t at)
{
    switch (event) {
    case THUMB_FAULT:
    case THUMB_UNKNOWN:
        wadi_core_fault(c);
        break;
    case THUMB_WAIT:
    case THUMB_WAIT_EVENT:
        wait(c, event == THUMB_WAIT_EVENT);
        break;
    case THUMB_BREAK:
        if (c->debugged)
            stop(c, 5);
        else /* nobody is there to be told */
            wadi_core_fault(c);
        break;
    case THUMB_SERVICE:
        wadi_core_call_service(c);
        break;
    case THUMB_RETURN:
        wadi_core_leave(c, c->m.returns);
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
    wadi_core_spend(c, c->m.cycles);
    after(c, event, at);
    if (c->locked_up)
        stop(c, 11);
    else if (c->watch || c->stepping)
        stop(c, 5);
}

static void look(wadi_core *c)
{
    wadi_core_settle(c);
    c->look_asked = false;
    c->look(c->look_ctx);
}

static void power_up(wadi_core *c)
{
    thumb *m = &c->m;
    *m = (thumb){.load = wadi_core_load_word, .store = wadi_core_store_word, .ctx = c};
    c->table = 0;
    c->depth = 0;
    c->owed = 0;
    c->asleep = c->for_event = c->locked_up = c->watch = false;
    c->stepping = false;
    m->r[THUMB_LR] = 0xFFFFFFFFu;
    m->r[THUMB_SP] = wadi_core_word_at(c, 0) & ~3u;
    uint32_t start = wadi_core_word_at(c, 4);
    m->r[THUMB_PC] = start & ~1u;
    m->state = start & 1;
    c->sim->cpu.masked = true; /* what is served is decided here */
    if (c->m.r[THUMB_PC] == (0xFFFFFFFFu & ~1u) ||
        !wadi_core_memory_at(c, c->m.r[THUMB_PC], 2, false))
        c->locked_up = true; /* no program */
}

static int run(void)
{
    wadi_core *c = running;
    power_up(c);
    for (;;) {
        if (c->look_asked || c->halted || c->locked_up || c->sim->run.stands)
            look(c);
        else if (wadi_core_interrupt_is_due(c)) {
            wake(c);
            wadi_core_interrupt(c);
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
    if (c->locked_up && wadi_core_memory_at(c, c->m.r[THUMB_PC], 2, false) &&
        !wadi_core_in_fault(c))
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
    return c->halted || c->locked_up || c->sim->run.stands;
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
        wadi_core_drop_handler(c);
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
    return wadi_debug_read(c->sim, wadi_core_memory_at(c, address, n, false), address, bytes, n);
}

bool wadi_core_write(wadi_core *c, uint64_t address, const uint8_t *bytes, size_t n)
{
    uint8_t *p = wadi_core_memory_at(c, address, n, false); /* flash, too: a probe programs it */
    if (address == TABLE_OFFSET && n == 4) {
        memcpy(&c->table, bytes, 4);
        return true;
    }
    return wadi_debug_write(c->sim, p, address, bytes, n);
}

/* ---- programs ---- */

static bool put_segment(wadi_core *c, const GElf_Phdr *ph, const uint8_t *bytes, char **why)
{
    uint8_t *to = wadi_core_memory_at(c, ph->p_paddr, ph->p_filesz, false);
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
