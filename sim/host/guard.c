/* SPDX-License-Identifier: MIT */
#include "guard.h"

#include <errno.h>
#include <execinfo.h>
#include <pthread.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/syscall.h>
#include <time.h>
#include <unistd.h>

#include "sim/core/cpu.h"
#include "sim/core/fault.h"
#include "sim/core/report.h"
#include "sim/core/stop.h"
#include "source.h"

#define TICK_MS     5L
#define TICK_SIGNAL SIGVTALRM /* debuggers let it pass */
#define STACK_SIZE  (512u << 10)
#define TICK_NS     (TICK_MS * 1000000)
#define DELAY_TICKS 2  /* without any call-in: a delay loop */
#define WAIT_TICKS  40 /* of nothing but reading one plain variable */

static const int faults[] = {SIGSEGV, SIGBUS, SIGFPE, SIGILL, SIGABRT};

struct wadi_guard {
    timer_t timer;
    void *stack;
    stack_t old_stack;
    /* at the last tick that counted */
    uint64_t calls, now, plain_reads, plain_writes;
    uintptr_t plain_pc, plain_address;
    int64_t cpu_ns; /* of this thread, at the last tick */
    int64_t due_ns; /* of that, what is not counted as a tick yet */
    unsigned still; /* ticks of the host in which no simulated time passed */
    /* The same in ticks of the thread's own time: on a busy machine, or under a debugger, it may
     * have had next to none between two of the host's. */
    unsigned busy;
    unsigned silent;  /* of those: no call-in */
    unsigned waiting; /* nothing but one plain variable was read */
    uintptr_t loop_pc;
    wad_finding_kind alarm;
    volatile sig_atomic_t forked; /* the firmware did */
};

/* ---- what is left for who watches this process ---- */

static wad_last_words *last_words;

void wad_sim_leave_words(wad_last_words *words)
{
    last_words = words;
}

void wadi_guard_busy(int busy)
{
    if (last_words)
        last_words->busy = busy;
}

/* Called in signal handlers. */
static void leave(const char *story, const uintptr_t *pc, unsigned n)
{
    if (!last_words)
        return;
    for (unsigned i = 0; i < n && i < G_N_ELEMENTS(last_words->pc); i++)
        last_words->pc[i] = pc[i];
    last_words->n = MIN(n, (unsigned)G_N_ELEMENTS(last_words->pc));
    if (story)
        g_strlcpy(last_words->story, story, sizeof last_words->story);
}

/* ---- the machine's registers at a signal; the only part that knows the host's CPU ---- */

#if !defined(__x86_64__)
#error "the host guard knows x86-64 only: add the registers and the jump-to-self of this CPU"
#endif

static uintptr_t pc_of(const ucontext_t *uc)
{
    return (uintptr_t)uc->uc_mcontext.gregs[REG_RIP];
}

static void *frame_of(const ucontext_t *uc)
{
    return (void *)uc->uc_mcontext.gregs[REG_RBP];
}

/* Bit 1 of the page fault's error code. */
static bool writes(const ucontext_t *uc)
{
    return uc->uc_mcontext.gregs[REG_ERR] & 2;
}

/* for (;;); as compilers write it: a jump to itself, or to a no-op before it. */
static bool jumps_to_self(const wad_sim *sim, uintptr_t pc)
{
    static const unsigned char forms[][5] = {
        {0xEB, 0xFE}, {0xE9, 0xFB, 0xFF, 0xFF, 0xFF}, {0x90, 0xEB, 0xFD}};
    static const size_t sizes[] = {2, 5, 3};
    for (unsigned i = 0; i < G_N_ELEMENTS(forms); i++)
        for (uintptr_t back = 0; back < 2; back++)
            if (pc - back >= sim->host.fw.text_start && pc + 5 < sim->host.fw.text_end &&
                !memcmp((const void *)(pc - back), forms[i], sizes[i]) && back < sizes[i] - 1)
                return true;
    return false;
}

static void report_wait(wad_sim *sim, uintptr_t pc)
{
    wadi_trace trace = {{pc}, 1, false};
    wadi_slot stand_in = {.address = sim->plain.read_address};
    char *name = wadi_source_variable(sim, sim->plain.read_address);
    wadi_report_at(sim, WAD_FINDING_HOISTED, &stand_in, &trace,
                   "waits for '%s', which is plain: nothing makes the compiler read it again",
                   name);
    g_free(name);
}

/* An empty loop. When the last thing before it was a plain read of the same line, the optimiser has
 * made it from a loop on that variable. */
static void idle_entry(void)
{
    wad_sim *sim = wadi_current;
    uintptr_t pc = sim->host.guard->loop_pc;
    wadi_flush(sim);
    if (sim->plain.read_pc && wadi_source_same_line(sim, sim->plain.read_pc, pc))
        report_wait(sim, pc);
    wadi_cpu_idle(sim);
}

void wadi_guard_alarm(wad_sim *sim)
{
    struct wadi_guard *g = sim->host.guard;
    wad_finding_kind kind = g->alarm;
    wadi_trace trace = {{g->loop_pc}, 1, false};
    g->alarm = 0;
    if (kind == WAD_FINDING_HOISTED) {
        report_wait(sim, g->loop_pc);
        wadi_cpu_idle(sim);
    }
    if (kind == WAD_FINDING_DELAY_LOOP && !wadi_report_again(sim, kind, NULL, &trace))
        wadi_report_at(sim, kind, NULL, &trace,
                       "a loop works without touching anything: it takes no simulated time");
}

/* Goes on in `fn` as if the interrupted place had called it, the red zone left alone. */
static void redirect(ucontext_t *uc, void (*fn)(void))
{
    greg_t *regs = uc->uc_mcontext.gregs;
    uintptr_t sp = ((uintptr_t)regs[REG_RSP] - 256) & ~(uintptr_t)15;
    sp -= sizeof(uintptr_t);
    *(uintptr_t *)sp = (uintptr_t)regs[REG_RIP];
    regs[REG_RSP] = (greg_t)sp;
    regs[REG_RIP] = (greg_t)(uintptr_t)fn;
}

/* ---- handlers ---- */

static bool in_firmware(const wad_sim *sim, uintptr_t pc)
{
    return pc >= sim->host.fw.text_start && pc < sim->host.fw.text_end;
}

/* The pc of a fault is the instruction itself; places are looked up one before a return address. */
static void stop_at(wad_sim *sim, const ucontext_t *uc, wad_run_end end, char *story)
{
    wadi_trace trace = {.n = 0};
    void **frame = frame_of(uc);
    if (in_firmware(sim, pc_of(uc)))
        trace.pc[trace.n++] = pc_of(uc) + 1;
    /* a stack may overflow in a call-in: our own frames stand before the firmware's */
    while (trace.n < WADI_TRACE && wadi_on_stack(sim, frame)) {
        bool inside = in_firmware(sim, (uintptr_t)frame[1]);
        if (inside)
            trace.pc[trace.n++] = (uintptr_t)frame[1];
        if ((trace.n && !inside) || (void **)frame[0] <= frame)
            break;
        frame = frame[0];
    }
    if (!trace.n && sim->call.pc)
        trace = wadi_trace_here(sim);
    sim->run.story.trace = trace;
    wadi_run_stop(sim, end, story);
}

/* The firmware's own places among the callers of where a signal came, through libraries that keep
 * no frame pointers. */
static unsigned firmware_callers(const wad_sim *sim, uintptr_t *pc, unsigned room)
{
    void *frames[64];
    int n = backtrace(frames, G_N_ELEMENTS(frames));
    unsigned found = 0;
    for (int i = 0; i < n && found < room; i++)
        if (in_firmware(sim, (uintptr_t)frames[i]))
            pc[found++] = (uintptr_t)frames[i];
    return found;
}

/* The process will not live on: say where the firmware was. */
static void leave_place(const wad_sim *sim, const char *story)
{
    uintptr_t pc[WADI_TRACE];
    leave(story, &sim->call.pc,
          sim->call.pc ? 1 : 0); /* what follows may not end, on a stack that is none */
    unsigned n = sim->host.fw.handle ? firmware_callers(sim, pc, WADI_TRACE) : 0;
    if (n)
        leave(story, pc, n);
}

static bool is_low_register(const wad_sim *sim, uintptr_t address)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (address - sim->sheet->blocks[i]->base < sim->sheet->blocks[i]->layout->size)
            return true;
    return false;
}

static const char *fault_text(const wad_sim *sim, int signo, const void *address)
{
    if (signo == SIGFPE)
        return "division by zero";
    if (signo == SIGILL)
        return "an instruction that does not exist";
    if ((uintptr_t)address < 65536)
        return is_low_register(sim, (uintptr_t)address)
                   ? "an address of the chip's registers that no host can map; let the generated "
                     "header's WAD_ADDRESS() make it"
                   : "access through a null pointer";
    if ((const char *)address >= sim->host.stack - 65536 &&
        (const char *)address < sim->host.stack + (size_t)sysconf(_SC_PAGESIZE))
        return "stack overflow";
    return "access to memory that is not there";
}

/* A load or store of the firmware at an address that neither the chip nor the host has. */
static void fault_entry(void)
{
    wad_sim *sim = wadi_current;
    sim->plain.pending.bytes = 0;
    wadi_unmapped(sim, sim->fault.address, sim->fault.writes ? "write to" : "read of");
}

static bool is_bus_fault(const wad_sim *sim, int signo, const void *address)
{
    const char *at = address;
    return (signo == SIGSEGV || signo == SIGBUS) && sim->host.fw.plain && (uintptr_t)at >= 65536 &&
           (uintptr_t)at <= UINT32_MAX &&
           !(at >= sim->host.stack - 65536 && at < sim->host.stack + (size_t)sysconf(_SC_PAGESIZE));
}

static void on_fault(int signo, siginfo_t *info, void *context)
{
    wad_sim *sim = wadi_current;
    if (signo == SIGABRT || !sim || !sim->run.running ||
        (sim->host.fw.handle && !in_firmware(sim, pc_of(context)) &&
         !wadi_on_stack(sim, frame_of(context)))) {
        if (!sim)
            leave("a thread that the firmware made touches registers, or crashes: a chip has one "
                  "core",
                  NULL, 0);
        else if (sim->run.running)
            leave_place(sim, NULL);
        signal(signo, SIG_DFL); /* not the firmware's: let the host die as it would */
        return;
    }
    if (is_bus_fault(sim, signo, info->si_addr)) {
        sim->fault.address = (uintptr_t)info->si_addr - sim->plain.bias;
        sim->fault.writes = writes(context);
        sim->call.pc = pc_of(context) + 1;
        sim->call.frame = frame_of(context);
        redirect(context, fault_entry);
        return;
    }
    stop_at(sim, context, WAD_RUN_CRASHED,
            g_strdup_printf("the firmware crashed: %s (address %p)",
                            fault_text(sim, signo, info->si_addr), info->si_addr));
}

static void remember(struct wadi_guard *g, const wad_sim *sim)
{
    g->calls = sim->call.count;
    g->now = sim->now;
    g->plain_reads = sim->plain.reads;
    g->plain_writes = sim->plain.writes;
    g->plain_pc = sim->plain.read_pc;
    g->plain_address = sim->plain.read_address;
}

/* To be heard at the next call-in: a report needs the firmware's own context. */
static void ring(wad_sim *sim, wad_finding_kind kind, uintptr_t pc)
{
    if (sim->plain.pending.bytes)
        return;
    sim->host.guard->alarm = kind;
    sim->host.guard->loop_pc = pc;
    sim->plain.pending.bytes = WADI_ALARM;
}

/* A loop that has been silent for long, on the line of the last plain read: it waits for what it
 * does not read again. The firmware was interrupted in its own code, so nothing of ours is half
 * done. */
static bool is_hoisted(wad_sim *sim, const ucontext_t *context)
{
    return sim->plain.read_pc && wadi_source_same_line(sim, sim->plain.read_pc, pc_of(context) + 1);
}

static void idle_at(wad_sim *sim, ucontext_t *context)
{
    sim->host.guard->loop_pc = pc_of(context) + 1;
    if (sim->plain.pending.bytes == WADI_ALARM)
        sim->plain.pending.bytes = 0;
    redirect(context, idle_entry);
}

/* Whether the thread has worked for a tick since the last one that counted. */
static bool has_worked(struct wadi_guard *g)
{
    struct timespec t;
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
    int64_t now = t.tv_sec * INT64_C(1000000000) + t.tv_nsec;
    g->due_ns += now - g->cpu_ns;
    g->cpu_ns = now;
    if (g->due_ns < TICK_NS)
        return false;
    g->due_ns %= TICK_NS; /* the first tick finds all that the thread has ever worked */
    return true;
}

/* No simulated time has passed since the last tick that counted. */
static void stand_still(wad_sim *sim, ucontext_t *context, bool inside)
{
    struct wadi_guard *g = sim->host.guard;
    bool wrote = sim->plain.writes != g->plain_writes, read = sim->plain.reads != g->plain_reads;
    bool same = sim->plain.read_pc == g->plain_pc && sim->plain.read_address == g->plain_address;
    g->busy++;
    g->silent = read || wrote ? 0 : g->silent + inside;
    g->waiting = read && !wrote && same ? g->waiting + 1 : 0;
    if (g->silent == DELAY_TICKS)
        ring(sim, WAD_FINDING_DELAY_LOOP, pc_of(context) + 1);
    else if (inside && g->silent >= WAIT_TICKS && g->silent % WAIT_TICKS == 0 &&
             is_hoisted(sim, context))
        idle_at(sim, context);
    else if (g->waiting == WAIT_TICKS)
        ring(sim, WAD_FINDING_HOISTED, sim->plain.read_pc);
}

/* What firmware of a chip has no business with: the host's own signals. */
static const char *meddles(const struct wadi_guard *g)
{
    struct sigaction now;
    for (unsigned i = 0; i < G_N_ELEMENTS(faults); i++)
        if (!sigaction(faults[i], NULL, &now) && now.sa_sigaction != on_fault)
            return "installs a handler for a signal of the host";
    return g->forked ? "calls fork" : NULL;
}

/* It waits in a function of the host, or came from one: the innermost places are the host's. */
static void stop_outside(wad_sim *sim, wad_run_end end, char *story)
{
    wadi_trace trace = {.n = 0};
    trace.n = sim->host.fw.handle ? firmware_callers(sim, trace.pc, WADI_TRACE) : 0;
    sim->run.story.trace = trace.n || !sim->call.pc ? trace : wadi_trace_here(sim);
    wadi_run_stop(sim, end, story);
}

static void on_tick(int signo, siginfo_t *info, void *context)
{
    int saved = errno;
    wad_sim *sim = wadi_current;
    (void)signo;
    (void)info;
    if (!sim || !sim->run.running || !sim->host.guard)
        return;
    struct wadi_guard *g = sim->host.guard;
    uintptr_t pc = pc_of(context);
    bool inside = in_firmware(sim, pc);
    if (last_words) {
        last_words->beats++;
        last_words->ps = sim->now;
        if (sim->call.pc)
            leave(NULL, &sim->call.pc, 1);
    }
    bool worked = has_worked(g);
    const char *meddling = meddles(g);
    if (meddling) {
        if (last_words) /* in case that its handler stands in the way */
            leave_place(sim, NULL);
        stop_outside(
            sim, WAD_RUN_CRASHED,
            g_strdup_printf("the firmware %s: that is the host's, a chip has none", meddling));
    }
    if (sim->call.count != g->calls || sim->now != g->now || sim->host.looking_up) {
        g->still = g->busy = g->silent = g->waiting = 0;
        g->due_ns = 0;
        remember(g, sim);
    } else if (inside && jumps_to_self(sim, pc)) {
        idle_at(sim, context);
    } else {
        g->still++;
        if (worked) {
            stand_still(sim, context, inside);
            remember(g, sim);
        }
        if (g->busy * TICK_MS >= sim->host.host_limit_s * 1000L && inside)
            stop_at(sim, context, WAD_RUN_HUNG,
                    g_strdup_printf("the firmware ran for %u s of host time without touching a "
                                    "register: simulated time stands still here",
                                    sim->host.host_limit_s));
        if ((long)g->still * TICK_MS >= 2000L * sim->host.host_limit_s && !inside)
            stop_outside(
                sim, WAD_RUN_HUNG,
                g_strdup_printf("the firmware waited for %u s in a function of the host's C "
                                "library: simulated time stands still here",
                                2 * sim->host.host_limit_s));
    }
    errno = saved;
}

/* ---- install, remove ---- */

static bool start_timer(struct wadi_guard *g, char **why)
{
    struct sigevent ev = {.sigev_notify = SIGEV_THREAD_ID, .sigev_signo = TICK_SIGNAL};
    ev._sigev_un._tid = (pid_t)syscall(SYS_gettid);
    struct itimerspec every = {{0, TICK_MS * 1000000L}, {0, TICK_MS * 1000000L}};
    if (timer_create(CLOCK_MONOTONIC, &ev, &g->timer)) {
        *why = g_strdup_printf("no host timer: %s", strerror(errno));
        return false;
    }
    timer_settime(g->timer, 0, &every, NULL);
    return true;
}

/* Signal handlers belong to the process: the first run installs them, the last one puts the old
 * ones back, so that chips in several threads do not take them from each other. */
static struct {
    GMutex lock;
    unsigned users;
    struct sigaction old_faults[G_N_ELEMENTS(faults)];
} handlers;

/* A second process of the firmware's would go on as the simulator: it ends before it begins. */
static void in_fork_child(void)
{
    if (wadi_current && wadi_current->run.running && !wadi_current->host.looking_up)
        _exit(0);
}

static void in_fork_parent(void)
{
    wad_sim *sim = wadi_current;
    if (!sim || !sim->run.running || !sim->host.guard || sim->host.looking_up)
        return;
    sim->host.guard->forked = 1;
    pthread_kill(pthread_self(), TICK_SIGNAL);
}

static void prepare_process(void)
{
    void *frames[4];
    backtrace(frames, 4); /* it takes memory the first time, which a signal handler cannot */
    pthread_atfork(NULL, in_fork_parent, in_fork_child);
}

static void install_handlers(void)
{
    static pthread_once_t once = PTHREAD_ONCE_INIT;
    pthread_once(&once, prepare_process);
    struct sigaction act = {.sa_sigaction = on_fault, .sa_flags = SA_SIGINFO | SA_ONSTACK};
    g_mutex_lock(&handlers.lock);
    if (handlers.users++ == 0) {
        for (unsigned i = 0; i < G_N_ELEMENTS(faults); i++)
            sigaction(faults[i], &act, &handlers.old_faults[i]);
        act.sa_sigaction = on_tick;
        act.sa_flags |= SA_RESTART;
        sigaction(TICK_SIGNAL, &act, NULL);
    }
    g_mutex_unlock(&handlers.lock);
}

static void remove_handlers(void)
{
    g_mutex_lock(&handlers.lock);
    if (--handlers.users == 0) {
        for (unsigned i = 0; i < G_N_ELEMENTS(faults); i++)
            sigaction(faults[i], &handlers.old_faults[i], NULL);
        signal(TICK_SIGNAL, SIG_IGN); /* a tick that is under way must not end the process */
    }
    g_mutex_unlock(&handlers.lock);
}

bool wadi_guard_enter(wad_sim *sim, char **why)
{
    struct wadi_guard *g = g_new0(struct wadi_guard, 1);
    g->stack = g_malloc(STACK_SIZE);
    stack_t stack = {.ss_sp = g->stack, .ss_size = STACK_SIZE};
    sigaltstack(&stack, &g->old_stack);
    install_handlers();
    sim->host.guard = g;
    if (start_timer(g, why))
        return true;
    remove_handlers();
    sigaltstack(&g->old_stack, NULL);
    g_free(g->stack);
    g_free(g);
    sim->host.guard = NULL;
    return false;
}

void wadi_guard_leave(wad_sim *sim)
{
    struct wadi_guard *g = g_steal_pointer(&sim->host.guard);
    timer_delete(g->timer);
    remove_handlers();
    sigaltstack(&g->old_stack, NULL);
    g_free(g->stack);
    g_free(g);
}
