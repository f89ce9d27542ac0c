/* SPDX-License-Identifier: MIT */
/* Many runs of one bench, each in a process of its own, with interrupts brought elsewhere. */
#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "bench/language/bench.h"

/* What a run's process tells: a head, then the points, then the text. */
typedef struct head {
    uint32_t begun, passed;
    uint32_t findings; /* a sum that tells sets of findings apart */
    uint32_t n_points, n_text;
} head;

typedef struct outcome {
    head head;
    wad_call_in *points;
    char *text;
} outcome;

static void outcome_clear(outcome *o)
{
    g_free(o->points);
    g_free(o->text);
    *o = (outcome){0};
}

/* ---- in the run's process ---- */

static char *first_failure(const wad_bench_result *r)
{
    if (r->run.end != WAD_RUN_TIME)
        return g_strdup_printf("the run ended early: %s", r->run.story);
    for (unsigned i = 0; i < r->n_verdicts; i++)
        if (!r->verdicts[i].passed)
            return g_strdup_printf("%s: %s, wanted %s", r->verdicts[i].subject,
                                   r->verdicts[i].measured, r->verdicts[i].wanted);
    return g_strdup("");
}

static uint32_t sum_of_findings(const wad_sim *sim)
{
    uint32_t sum = 0;
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++) {
        const wad_finding *f = wad_sim_finding(sim, i);
        unsigned line = f->n_places ? f->places[0].line : 0;
        sum += ((uint32_t)f->kind * 2654435761u) ^ (line * 40503u);
    }
    return sum;
}

static void put(int fd, const void *bytes, size_t n)
{
    for (const char *p = bytes; n;) {
        ssize_t done = write(fd, p, n);
        if (done <= 0)
            return;
        p += done;
        n -= (size_t)done;
    }
}

static void run_and_tell(wad_bench *b, const wad_bench_options *options, int fd)
{
    char *why = NULL;
    wad_bench_result *r = wad_bench_run(b, options, &why);
    head h = {.begun = r != NULL};
    char *text = r ? first_failure(r) : g_strdup(why);
    wad_call_in *points = NULL;
    if (r) {
        h.passed = r->passed;
        h.findings = sum_of_findings(r->sim);
        points = wad_sim_explore_points(r->sim, &h.n_points);
    }
    h.n_text = (uint32_t)strlen(text);
    put(fd, &h, sizeof h);
    put(fd, points, h.n_points * sizeof *points);
    put(fd, text, h.n_text);
}

/* ---- in the exploring one ---- */

static bool get(int fd, void *bytes, size_t n)
{
    for (char *p = bytes; n;) {
        ssize_t done = read(fd, p, n);
        if (done < 0 && errno == EINTR)
            continue;
        if (done <= 0)
            return false;
        p += done;
        n -= (size_t)done;
    }
    return true;
}

/* The firmware took its process down: that is a run that failed. */
static void took_down(outcome *o, int status)
{
    g_free(o->text);
    o->head = (head){.begun = true};
    o->text = WIFSIGNALED(status)
                  ? g_strdup_printf("the firmware took its process down: signal %d, %s",
                                    WTERMSIG(status), strsignal(WTERMSIG(status)))
                  : g_strdup_printf("the firmware took its process down: it ended itself with "
                                    "status %d",
                                    WEXITSTATUS(status));
}

static bool run_apart(wad_bench *b, const wad_bench_options *options, outcome *o, char **why)
{
    int fds[2];
    fflush(NULL);
    if (pipe(fds)) {
        *why = g_strdup(g_strerror(errno));
        return false;
    }
    pid_t child = fork();
    if (child == 0) {
        close(fds[0]);
        run_and_tell(b, options, fds[1]);
        _exit(0);
    }
    close(fds[1]);
    bool ok = child > 0 && get(fds[0], &o->head, sizeof o->head);
    if (ok) {
        o->points = g_new(wad_call_in, o->head.n_points + 1);
        o->text = g_malloc0(o->head.n_text + 1);
        ok = get(fds[0], o->points, o->head.n_points * sizeof *o->points) &&
             get(fds[0], o->text, o->head.n_text);
    }
    close(fds[0]);
    int status = 0;
    while (child > 0 && waitpid(child, &status, 0) < 0 && errno == EINTR)
        ;
    if (!ok && child < 0)
        *why = g_strdup_printf("no process is to be had: %s", g_strerror(errno));
    else if (!ok)
        took_down(o, status);
    else if (!o->head.begun)
        *why = g_strdup(o->text);
    return *why == NULL;
}

static char *schedule_text(const uint64_t *stops, unsigned n)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < n; i++)
        g_string_append_printf(text, "%s%llu", i ? "," : "", (unsigned long long)stops[i]);
    return g_string_free(text, FALSE);
}

bool wad_schedule_parse(const char *text, uint64_t **stops, unsigned *n)
{
    GArray *list = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    bool ok = true;
    for (const char *p = text; *p && ok;) {
        char *end;
        uint64_t stop = g_ascii_strtoull(p, &end, 10);
        ok = g_ascii_isdigit(*p) && (*end == ',' || !*end) && !(*end == ',' && !end[1]) &&
             (!list->len || stop > g_array_index(list, uint64_t, list->len - 1));
        g_array_append_val(list, stop);
        p = *end ? end + 1 : end;
    }
    *n = list->len;
    *stops = (uint64_t *)g_array_free(list, FALSE);
    if (ok)
        return true;
    g_free(*stops);
    *stops = NULL;
    return false;
}

static gint by_pc(gconstpointer a, gconstpointer b)
{
    const wad_call_in *x = a, *y = b;
    if (x->pc != y->pc)
        return x->pc < y->pc ? -1 : 1;
    return x->number < y->number ? -1 : x->number > y->number;
}

/* Where each place in the code begins in the sorted points: a loop that waits must not drown the
 * one access that matters. */
static GArray *sort_by_place(outcome *base)
{
    GArray *starts = g_array_new(FALSE, FALSE, sizeof(unsigned));
    unsigned end = base->points ? base->head.n_points : 0;
    if (end)
        qsort(base->points, end, sizeof *base->points, by_pc);
    for (unsigned i = 0; i < end; i++)
        if (!i || base->points[i].pc != base->points[i - 1].pc)
            g_array_append_val(starts, i);
    g_array_append_val(starts, end);
    return starts;
}

static uint64_t random_point(GRand *rand, const outcome *base, const GArray *starts, unsigned place)
{
    unsigned from = g_array_index(starts, unsigned, place);
    unsigned to = g_array_index(starts, unsigned, place + 1);
    return base->points[g_rand_int_range(rand, (gint32)from, (gint32)to)].number;
}

/* The places take turns, each time at a random one of their call-ins; every fourth round at two
 * places at once. */
static unsigned choose(GRand *rand, const outcome *base, const GArray *starts, unsigned run,
                       uint64_t stops[2])
{
    unsigned places = starts->len - 1;
    uint64_t a = random_point(rand, base, starts, run % places), b = a;
    if (run / places % 4 == 3)
        b = random_point(rand, base, starts, (unsigned)g_rand_int_range(rand, 0, (gint32)places));
    stops[0] = MIN(a, b);
    stops[1] = MAX(a, b);
    return a == b ? 1 : 2;
}

static void note_run(wad_exploration *result, const outcome *o, const outcome *base,
                     const uint64_t *stops, unsigned n)
{
    bool broke = !o->head.passed, found = o->head.findings != base->head.findings;
    if (broke && result->broke++ == 0) {
        result->schedule = schedule_text(stops, n);
        result->what = g_strdup(o->text);
    }
    if (!broke && found && result->found++ == 0)
        result->found_schedule = schedule_text(stops, n);
}

bool wad_bench_explore(wad_bench *b, const wad_bench_options *given, unsigned runs, uint32_t seed,
                       wad_exploration *result, char **why)
{
    wad_bench_options options = given ? *given : (wad_bench_options){0};
    outcome base = {0};
    *result = (wad_exploration){0};
    *why = NULL;
    options.log_points = true;
    bool ok = run_apart(b, &options, &base, why);
    if (ok)
        note_run(result, &base, &base, NULL, 0);
    result->points = ok ? base.head.n_points : 0;
    options.log_points = false;
    GRand *rand = g_rand_new_with_seed(seed);
    GArray *starts = sort_by_place(&base);
    result->places = starts->len - 1;
    for (unsigned i = 0; ok && base.head.n_points && i < runs; i++) {
        outcome o = {0};
        uint64_t stops[2];
        options.stops = stops;
        options.n_stops = choose(rand, &base, starts, i, stops);
        ok = run_apart(b, &options, &o, why);
        result->runs++;
        if (ok)
            note_run(result, &o, &base, stops, options.n_stops);
        outcome_clear(&o);
    }
    g_rand_free(rand);
    g_array_free(starts, TRUE);
    outcome_clear(&base);
    return ok;
}

void wad_exploration_clear(wad_exploration *result)
{
    g_free(result->schedule);
    g_free(result->found_schedule);
    g_free(result->what);
    *result = (wad_exploration){0};
}
