/* SPDX-License-Identifier: MIT */
#include "apart.h"

#include <curses.h>
#include <errno.h>
#include <glib.h>
#include <signal.h>
#include <stdatomic.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <term.h>
#include <termios.h>
#include <time.h>
#include <unistd.h>

#include "cli.h"

#define PATIENCE_S 5  /* for a command that was asked to end */
#define SILENCE_S  15 /* without a beat, of a firmware that keeps the host's signals to itself */

/* In memory that all processes of one command share; NULL: there is one process only. */
static struct shared {
    _Atomic pid_t worker; /* the innermost, which does the work */
    _Atomic int asked;    /* a signal to end has come to the watcher */
    _Atomic bool screen;  /* the terminal shows one, to be taken away */
    wad_last_words words;
} * shared;

static wad_last_words own_words; /* where there is one process only */

const wad_last_words *cli_apart_words(void)
{
    return shared ? &shared->words : &own_words;
}

static bool is_debugged(void)
{
    char line[128];
    int tracer = 0;
    FILE *f = fopen("/proc/self/status", "r");
    while (f && fgets(line, sizeof line, f))
        if (sscanf(line, "TracerPid: %d", &tracer) == 1)
            break;
    if (f)
        fclose(f);
    return tracer != 0;
}

/* ---- ending as a child did ---- */

static void end_like(int status) __attribute__((noreturn));
static void end_like(int status)
{
    if (WIFEXITED(status))
        _exit(WEXITSTATUS(status));
    int number = WTERMSIG(status);
    sigset_t set;
    const struct rlimit no_core = {0, 0};
    setrlimit(RLIMIT_CORE, &no_core); /* it is the child's, not this one's */
    sigemptyset(&set);
    sigaddset(&set, number);
    signal(number, SIG_DFL);
    sigprocmask(SIG_UNBLOCK, &set, NULL);
    raise(number);
    _exit(128 + number);
}

/* Less what this command was begun to ignore, as by nohup: a blocked signal would come all the
 * same. */
static sigset_t ending_signals(void)
{
    static const int ends[] = {SIGINT, SIGTERM, SIGHUP};
    struct sigaction now;
    sigset_t set;
    sigemptyset(&set);
    for (unsigned i = 0; i < G_N_ELEMENTS(ends); i++)
        if (!sigaction(ends[i], NULL, &now) && now.sa_handler != SIG_IGN)
            sigaddset(&set, ends[i]);
    sigaddset(&set, SIGCHLD);
    return set;
}

/* ---- the terminal ---- */

typedef struct terminal {
    bool is_one;
    struct termios settings;
} terminal;

static terminal terminal_now(void)
{
    terminal t;
    t.is_one = tcgetattr(STDIN_FILENO, &t.settings) == 0;
    return t;
}

/* As it was, after a process that had no time for it. */
static void restore(const terminal *t)
{
    if (t->is_one)
        tcsetattr(STDIN_FILENO, TCSANOW, &t->settings);
    if (!shared->screen || setupterm(NULL, STDOUT_FILENO, &(int){0}) != OK)
        return;
    static char exit_screen[] = "rmcup", show_cursor[] = "cnorm";
    const char *const ends[] = {tigetstr(exit_screen), tigetstr(show_cursor)};
    for (unsigned i = 0; i < G_N_ELEMENTS(ends); i++)
        if (ends[i] && ends[i] != (char *)-1)
            putp(ends[i]);
    fflush(stdout);
    shared->screen = false;
}

void cli_apart_screen(bool on)
{
    if (shared)
        shared->screen = on;
}

/* ---- the watcher ---- */

/* Children of children that were left come to this process: they end here. */
static void end_all_children(void)
{
    char path[64];
    g_snprintf(path, sizeof path, "/proc/self/task/%d/children", (int)getpid());
    for (unsigned rounds = 0; rounds < 5000; rounds++) {
        FILE *f = fopen(path, "r");
        int pid, any = 0;
        while (f && fscanf(f, "%d", &pid) == 1 && ++any)
            kill(pid, SIGKILL);
        if (f)
            fclose(f);
        if (waitpid(-1, NULL, any ? 0 : WNOHANG) < 0 && errno == ECHILD)
            return;
        if (!any) /* the list may lack one that is just being handed over */
            g_usleep(1000);
    }
}

static bool has_ended(pid_t child, int *status)
{
    int one;
    pid_t pid;
    while ((pid = waitpid(-1, &one, WNOHANG)) > 0)
        if (pid == child) {
            *status = one;
            return true;
        }
    return false;
}

/* The terminal tells all processes of its group at once; who sends to one process means all. */
static void pass_on(const siginfo_t *info)
{
    static unsigned times;
    bool again = shared->asked && ++times > 1;
    shared->asked = 1;
    if (again)
        kill(shared->worker, SIGKILL);
    else if (info->si_code <= 0)
        kill(shared->worker, info->si_signo);
}

static int watch_over(pid_t child, const sigset_t *set)
{
    int status = 0;
    time_t asked = 0;
    while (!has_ended(child, &status)) {
        siginfo_t info;
        const struct timespec second = {1, 0};
        int number = sigtimedwait(set, &info, &second);
        if (number == SIGINT || number == SIGTERM || number == SIGHUP) {
            pass_on(&info);
            if (number != SIGINT && !asked)
                asked = time(NULL);
        }
        if (asked && time(NULL) > asked + PATIENCE_S)
            kill(shared->worker, SIGKILL);
    }
    return status;
}

void cli_apart_begin(void)
{
    if (is_debugged())
        return;
    void *memory =
        mmap(NULL, sizeof *shared, PROT_READ | PROT_WRITE, MAP_SHARED | MAP_ANONYMOUS, -1, 0);
    if (memory == MAP_FAILED)
        return;
    sigset_t set = ending_signals(), old;
    shared = memory;
    terminal before = terminal_now();
    wad_output_sweep(); /* nothing yet; the list is shared from here on */
    prctl(PR_SET_CHILD_SUBREAPER, 1);
    sigprocmask(SIG_BLOCK, &set, &old);
    pid_t child = fork();
    if (child < 0) { /* no process is to be had: as under a debugger */
        shared = NULL;
        sigprocmask(SIG_SETMASK, &old, NULL);
        return;
    }
    if (child == 0) {
        prctl(PR_SET_CHILD_SUBREAPER, 0);
        prctl(PR_SET_PDEATHSIG, SIGKILL);
        shared->worker = getpid();
        wad_sim_leave_words(&shared->words);
        sigprocmask(SIG_SETMASK, &old, NULL);
        return;
    }
    int status = watch_over(child, &set);
    end_all_children();
    wad_output_sweep();
    if (WIFSIGNALED(status))
        restore(&before);
    end_like(status);
}

/* ---- a run ---- */

/* Somebody asked for the end, or reads no longer what is written: not the firmware's doing. */
static bool was_asked_to_end(int status)
{
    int number = WIFSIGNALED(status) ? WTERMSIG(status) : 0;
    if (number == SIGPIPE)
        return true;
    for (unsigned i = 0; i < 10 && !shared->asked; i++) /* the watcher hears it at the same time */
        g_usleep(number == SIGINT || number == SIGTERM || number == SIGHUP ? 10000 : 0);
    return number && shared->asked;
}

/* Firmware that ends the process itself, while it runs or by what it left to be done at the end. */
static char *tell(int status)
{
    if (WIFSIGNALED(status))
        return g_strdup_printf("signal %d, %s", WTERMSIG(status), strsignal(WTERMSIG(status)));
    return g_strdup_printf("it ended itself with status %d", WEXITSTATUS(status));
}

/* Of a firmware that neither lets the host's timer ring nor comes to an end. */
static bool is_stuck(pid_t child, unsigned *beats, time_t *since)
{
    char path[64], state = 0;
    if (!shared->words.busy || shared->words.beats != *beats) {
        *beats = shared->words.beats;
        *since = time(NULL);
        return false;
    }
    g_snprintf(path, sizeof path, "/proc/%d/stat", (int)child);
    FILE *f = fopen(path, "r");
    if (f && fscanf(f, "%*d (%*[^)]) %c", &state) != 1)
        state = 0;
    if (f)
        fclose(f);
    if (state == 'T' || state == 't') /* somebody has stopped it, perhaps with a debugger */
        *since = time(NULL);
    return time(NULL) > *since + SILENCE_S;
}

static int wait_for(pid_t child, const sigset_t *set, bool *stuck)
{
    int status;
    unsigned beats = 0;
    time_t since = time(NULL);
    *stuck = false;
    while (waitpid(child, &status, WNOHANG) == 0) {
        siginfo_t info;
        const struct timespec second = {1, 0};
        int number = sigtimedwait(set, &info, &second);
        if (number > 0 && number != SIGCHLD && info.si_code <= 0) /* meant for who works now */
            kill(child, number);
        if (!*stuck && shared->worker == child && is_stuck(child, &beats, &since)) {
            *stuck = true;
            kill(child, SIGKILL);
        }
    }
    return status;
}

bool cli_apart_run(char **how)
{
    *how = NULL;
    if (!shared)
        return true;
    sigset_t set = ending_signals(), old;
    fflush(NULL);
    memset((void *)&shared->words, 0, sizeof shared->words);
    sigprocmask(SIG_BLOCK, &set, &old);
    pid_t child = fork();
    if (child <= 0) { /* no process is to be had: in this one */
        shared->worker = getpid();
        if (child == 0)
            prctl(PR_SET_PDEATHSIG, SIGKILL);
        sigprocmask(SIG_SETMASK, &old, NULL);
        return true;
    }
    bool stuck;
    terminal before = terminal_now();
    int status = wait_for(child, &set, &stuck);
    if (stuck || WIFSIGNALED(status))
        restore(&before);
    if (!stuck && (was_asked_to_end(status) || (WIFEXITED(status) && !shared->words.busy)))
        end_like(status);
    shared->worker = getpid();
    sigprocmask(SIG_SETMASK, &old, NULL);
    *how =
        stuck
            ? g_strdup_printf("it did nothing for %d s that the simulator could see, and was ended",
                              SILENCE_S)
            : tell(status);
    return false;
}

int cli_apart_died(wad_bench *bench, const wad_bench_options *options, char *how)
{
    char *why;
    wad_bench_result *r = wad_bench_died(bench, options, cli_apart_words(), how, &why);
    if (r)
        wad_report_text(r, stdout);
    else
        cli_error("%s", why);
    wad_bench_result_free(r);
    g_free(why);
    g_free(how);
    return CLI_FAILED;
}
