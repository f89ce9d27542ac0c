/* SPDX-License-Identifier: MIT */
#include "guard.h"

#include <errno.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/syscall.h>
#include <time.h>
#include <unistd.h>

#define TICK_MS     5L
#define TICK_SIGNAL (SIGRTMIN + 5)
#define STACK_SIZE  65536

static const int faults[] = {SIGSEGV, SIGBUS, SIGFPE, SIGILL};

struct wadi_guard {
    timer_t timer;
    void *stack;
    stack_t old_stack;
    uint64_t calls, now; /* at the last tick */
    unsigned silent;     /* ticks without a call-in */
};

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

/* for (;;); as compilers write it: a jump to itself, or to a no-op before it. */
static bool jumps_to_self(const wad_sim *sim, uintptr_t pc)
{
    static const unsigned char forms[][5] = {
        {0xEB, 0xFE}, {0xE9, 0xFB, 0xFF, 0xFF, 0xFF}, {0x90, 0xEB, 0xFD}};
    static const size_t sizes[] = {2, 5, 3};
    for (unsigned i = 0; i < G_N_ELEMENTS(forms); i++)
        for (uintptr_t back = 0; back < 2; back++)
            if (pc - back >= sim->fw.text_start && pc + 5 < sim->fw.text_end &&
                !memcmp((const void *)(pc - back), forms[i], sizes[i]) && back < sizes[i] - 1)
                return true;
    return false;
}

static void idle_entry(void)
{
    wadi_plain_flush(wadi_current);
    wadi_cpu_idle(wadi_current);
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
    return pc >= sim->fw.text_start && pc < sim->fw.text_end;
}

/* The pc of a fault is the instruction itself; places are looked up one before a return address. */
static void stop_at(wad_sim *sim, const ucontext_t *uc, wad_run_end end, char *story)
{
    sim->pc = pc_of(uc) + 1;
    sim->frame = NULL;
    wadi_trace trace = wadi_trace_here(sim);
    void **frame = frame_of(uc);
    while (trace.n < WADI_TRACE && wadi_on_stack(sim, frame) &&
           in_firmware(sim, (uintptr_t)frame[1])) {
        trace.pc[trace.n++] = (uintptr_t)frame[1];
        if ((void **)frame[0] <= frame)
            break;
        frame = frame[0];
    }
    sim->story.trace = trace;
    wadi_run_stop(sim, end, story);
}

static const char *fault_text(const wad_sim *sim, int signo, const void *address)
{
    if (signo == SIGFPE)
        return "division by zero";
    if (signo == SIGILL)
        return "an instruction that does not exist";
    if ((uintptr_t)address < 65536)
        return "access through a null pointer";
    if ((const char *)address >= sim->stack - 65536 &&
        (const char *)address < sim->stack + (size_t)sysconf(_SC_PAGESIZE))
        return "stack overflow";
    return "access to memory that is not there";
}

static void on_fault(int signo, siginfo_t *info, void *context)
{
    wad_sim *sim = wadi_current;
    if (!sim || !sim->running ||
        (sim->fw.handle && !in_firmware(sim, pc_of(context)) &&
         !wadi_on_stack(sim, frame_of(context)))) {
        signal(signo, SIG_DFL); /* not the firmware's: let the host die as it would */
        return;
    }
    stop_at(sim, context, WAD_RUN_CRASHED,
            g_strdup_printf("the firmware crashed: %s (address %p)",
                            fault_text(sim, signo, info->si_addr), info->si_addr));
}

static void on_tick(int signo, siginfo_t *info, void *context)
{
    int saved = errno;
    wad_sim *sim = wadi_current;
    (void)signo;
    (void)info;
    if (!sim || !sim->running || !sim->guard)
        return;
    struct wadi_guard *g = sim->guard;
    uintptr_t pc = pc_of(context);
    if (sim->calls != g->calls || sim->now != g->now || !in_firmware(sim, pc)) {
        g->calls = sim->calls;
        g->now = sim->now;
        g->silent = 0;
    } else if (jumps_to_self(sim, pc)) {
        redirect(context, idle_entry);
    } else if (++g->silent * TICK_MS >= sim->host_limit_s * 1000L) {
        stop_at(sim, context, WAD_RUN_HUNG,
                g_strdup_printf("the firmware ran for %u s of host time without touching a "
                                "register: simulated time stands still here",
                                sim->host_limit_s));
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

static void install_handlers(void)
{
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
    sim->guard = g;
    if (start_timer(g, why))
        return true;
    remove_handlers();
    sigaltstack(&g->old_stack, NULL);
    g_free(g->stack);
    g_free(g);
    sim->guard = NULL;
    return false;
}

void wadi_guard_leave(wad_sim *sim)
{
    struct wadi_guard *g = g_steal_pointer(&sim->guard);
    timer_delete(g->timer);
    remove_handlers();
    sigaltstack(&g->old_stack, NULL);
    g_free(g->stack);
    g_free(g);
}
