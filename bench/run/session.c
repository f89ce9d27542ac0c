/* SPDX-License-Identifier: MIT */
/* Runs a bench: the world is set going, meters listen, expectations are judged. */
#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "bench/live/live.h"
#include "bench/measure/dma.h"
#include "bench/measure/handlers.h"
#include "bench/measure/memory.h"
#include "bench/measure/register_trace.h"
#include "bench/world/button.h"
#include "bench/world/pin_defect.h"
#include "bench/world/serial_bridge.h"
#include "bench/world/serial_peer.h"
#include "bench/world/spi_bus.h"
#include "bench/world/volt_source.h"
#include "gauges.h"
#include "lang/rational.h"

/* One listener: a captured pin. */
typedef struct tap {
    struct session *session;
    unsigned probe;
    unsigned channel;
} tap;

typedef struct step {
    const wad_pin_def *pin;
    wad_level level;
} step;

typedef struct session {
    wad_bench_result result;
    wad_bench *bench;
    wad_sim *sim;
    wad_capture *capture;
    tap *taps;
    wadi_scene scene;
    wadi_gauges *gauges;
    int *irq_channels; /* by line; -1 for none */
    int running_word;  /* of the capture: the line that runs; -1 for none */
    GPtrArray *steps;
    GPtrArray *texts;
    GPtrArray *notes;
    wadi_trace_writer *trace;
    wadi_handlers *handlers;
    wadi_dma_meter *dma;
    GPtrArray *memories; /* wadi_memory_view */
    GArray *shown;       /* wad_memory_shown */
    wadi_peer **peers;   /* one a serial line of the bench */
    wadi_bus_set *buses;
    wadi_bridge *bridge;
    wadi_analog_world *analog;
    wad_live *live;
    wad_verdict *verdicts;
    char *setting;
} session;

/* ---- listening ---- */

static void on_pin(void *ctx, uint64_t ps, wad_level level)
{
    tap *t = ctx;
    wad_capture_edge(t->session->capture, t->channel, ps, level);
    wadi_gauges_hear(t->session->gauges, WADI_ABOUT_PIN, t->probe,
                     &(wadi_heard){.ps = ps, .level = level});
}

/* The line that runs from now on, plus 1; 0 is main. */
static uint32_t running_line(const session *s, const wad_irq_record *r)
{
    if (!r->left_ps)
        return r->line + 1;
    int outer = wadi_handlers_running(s->handlers);
    return outer < 0 ? 0 : (uint32_t)outer + 1;
}

static void on_irq(void *ctx, const wad_irq_record *r)
{
    session *s = ctx;
    wadi_handlers_note(s->handlers, r);
    if (s->running_word >= 0)
        wad_capture_value(s->capture, (unsigned)s->running_word,
                          r->left_ps ? r->left_ps : r->entered_ps, running_line(s, r));
    if (s->irq_channels[r->line] >= 0)
        wad_capture_edge(s->capture, (unsigned)s->irq_channels[r->line],
                         r->left_ps ? r->left_ps : r->entered_ps, r->left_ps ? WAD_LOW : WAD_HIGH);
    if (!r->left_ps)
        wadi_gauges_hear(s->gauges, WADI_ABOUT_INTERRUPT, r->line,
                         &(wadi_heard){.ps = r->entered_ps, .raised_ps = r->raised_ps});
}

static void set_up_taps(session *s)
{
    GArray *probes = s->bench->probes;
    s->taps = g_new0(tap, probes->len + 1);
    for (guint i = 0; i < probes->len; i++) {
        const wadi_probe *p = &g_array_index(probes, wadi_probe, i);
        s->taps[i] = (tap){s, i, wad_capture_channel(s->capture, p->name)};
        if (p->pin)
            wad_sim_watch_pin(s->sim, p->pin, on_pin, &s->taps[i]);
        else
            wadi_dma_meter_listen(s->dma, &p->dma, on_pin, &s->taps[i]);
    }
}

/* Handlers that are captured, or that an expectation names, are high while they run. */
static void set_up_irqs(session *s, bool spans)
{
    const wad_sheet *sheet = s->bench->sheet;
    s->irq_channels = g_new(int, sheet->n_vectors + 1);
    for (unsigned i = 0; i < sheet->n_vectors; i++)
        s->irq_channels[i] = -1;
    for (guint i = 0; i < s->bench->irq_probes->len; i++) {
        const wadi_irq_probe *p = &g_array_index(s->bench->irq_probes, wadi_irq_probe, i);
        unsigned channel = wad_capture_channel(s->capture, p->name);
        wad_capture_edge(s->capture, channel, 0, WAD_LOW);
        s->irq_channels[p->line] = (int)channel;
    }
    s->running_word = -1;
    if (s->bench->irq_probes->len)
        s->running_word = (int)wad_capture_word(s->capture, "running", 8, 0);
    s->handlers = wadi_handlers_new(sheet, spans);
    wad_sim_watch_irq(s->sim, on_irq, s);
    if (spans)
        wad_sim_watch_sleep(s->sim, wadi_handlers_sleep, s->handlers);
}

static void on_volts(void *ctx, unsigned probe, uint64_t ps, double volts)
{
    session *s = ctx;
    (void)volts;
    wadi_gauges_hear(s->gauges, WADI_ABOUT_VOLTS, probe, &(wadi_heard){.ps = ps});
}

/* ---- the world ---- */

typedef struct failing {
    const wad_clock *clock;
    bool fails;
} failing;

static void do_fail(wad_sim *sim, void *ctx)
{
    const failing *f = ctx;
    wad_sim_fail_clock(sim, f->clock, f->fails);
}

static void fail_at(session *s, uint64_t ps, const wad_clock *clock, bool fails)
{
    failing *f = g_new(failing, 1);
    *f = (failing){clock, fails};
    g_ptr_array_add(s->steps, f);
    wad_sim_at(s->sim, ps, do_fail, f);
}

static void do_step(wad_sim *sim, void *ctx)
{
    const step *st = ctx;
    wad_sim_drive(sim, st->pin, st->level);
}

static void at(session *s, uint64_t ps, const wad_pin_def *pin, wad_level level)
{
    step *st = g_new(step, 1);
    *st = (step){pin, level};
    g_ptr_array_add(s->steps, st);
    wad_sim_at(s->sim, ps, do_step, st);
}

/* When something else is done to the pin: a contact that is let go bounces no more from its press.
 */
static uint64_t next_change(const wad_bench *b, const wad_pin_def *pin, uint64_t ps)
{
    uint64_t next = UINT64_MAX;
    for (guint i = 0; i < b->stimuli->len; i++) {
        const wadi_stimulus *st = &g_array_index(b->stimuli, wadi_stimulus, i);
        const uint64_t times[] = {st->at_ps, st->at_ps + st->for_ps};
        for (unsigned k = 0; st->pin == pin && k < (st->for_ps ? 2 : 1); k++)
            if (times[k] > ps)
                next = MIN(next, times[k]);
    }
    return next;
}

/* A contact that bounces: an even number of extra changes at random times, then it rests. */
static void bounce(session *s, GRand *rand, uint64_t ps, uint64_t length, const wad_pin_def *pin,
                   wad_level to, wad_level from)
{
    uint64_t times[8] = {0}, next = next_change(s->bench, pin, ps);
    unsigned n = wadi_bounce_times(rand, ps, MIN(length, next - ps), times);
    at(s, ps, pin, to);
    for (unsigned i = 0; i < n; i++)
        at(s, times[i], pin, i % 2 ? to : from);
}

/* A train of pulses, an edge at a time: they may be many millions. */
typedef struct train {
    wad_event event;
    wad_sim *sim;
    const wadi_stimulus *st;
    uint64_t n, end;
    bool high;
} train;

/* Each edge from its number, so that nothing drifts: n * den / num seconds after the first. */
static uint64_t rise_of(const train *t)
{
    return t->st->at_ps + (uint64_t)((wadi_u128)t->st->pulses_hz.den * WAD_PS_PER_S * t->n /
                                     (uint64_t)t->st->pulses_hz.num);
}

static uint64_t width_of(const wadi_stimulus *st)
{
    return (uint64_t)((wadi_u128)st->pulses_hz.den * WAD_PS_PER_S * (uint64_t)st->duty.num /
                      (uint64_t)st->duty.den / (uint64_t)st->pulses_hz.num);
}

static void on_pulse(wad_event *e)
{
    train *t = (train *)e;
    t->high = !t->high;
    wad_sim_drive(t->sim, t->st->pin, t->high ? WAD_HIGH : WAD_LOW);
    if (t->high) {
        wad_sim_schedule(t->sim, e, rise_of(t) + width_of(t->st));
        return;
    }
    t->n++;
    if (rise_of(t) < t->end)
        wad_sim_schedule(t->sim, e, rise_of(t));
}

static void start_train(wad_sim *sim, void *ctx)
{
    train *t = ctx;
    (void)sim;
    on_pulse(&t->event);
}

static void pulses(session *s, const wadi_stimulus *st)
{
    train *t = g_new0(train, 1);
    t->event.fn = on_pulse;
    t->sim = s->sim;
    t->st = st;
    t->end = st->for_ps ? MIN(st->at_ps + st->for_ps, s->bench->run_ps) : s->bench->run_ps;
    g_ptr_array_add(s->steps, t);
    if (st->at_ps < t->end)
        wad_sim_at(s->sim, st->at_ps, start_train, t);
}

static void set_up_peers(session *s)
{
    const wad_bench *b = s->bench;
    const wadi_lines lines = {b->peers, b->says, b->troubles, b->seed};
    s->scene.peers = s->peers = g_new0(wadi_peer *, b->peers->len + 1);
    for (guint i = 0; i < b->peers->len; i++)
        s->peers[i] = wadi_peer_new(s->sim, &lines, i);
}

static bool set_up_buses(session *s, char **why)
{
    const wad_bench *b = s->bench;
    const wadi_buses buses = {b->devices,      b->values,         b->jumpers,
                              b->spi_troubles, b->power_failures, b->seed};
    s->scene.buses = s->buses = wadi_bus_set_new(s->sim, &buses, why);
    return s->buses != NULL;
}

/* What could not be kept is told beside the results, which then are no success. */
static bool end_peers(session *s)
{
    bool kept = true;
    for (guint i = 0; i < s->bench->peers->len; i++) {
        char *why = NULL;
        if (!wadi_peer_end(s->peers[i], s->result.run.end_ps, &why)) {
            g_ptr_array_add(s->notes, why);
            kept = false;
        }
    }
    return wadi_bus_set_end(s->buses, s->notes) && kept;
}

static void set_up_world(session *s)
{
    const wad_bench *b = s->bench;
    GRand *rand = g_rand_new_with_seed(b->seed);
    for (unsigned i = 0; b->board && i < b->board->n_parts; i++) {
        const wad_part_def *p = &b->board->parts[i];
        if (!strcmp(p->kind, "button") && p->n_wires && p->wires[0].pin && p->pull &&
            !wadi_pull_is_missing(b, p->wires[0].pin))
            at(s, 0, p->wires[0].pin, p->pull > 0 ? WAD_HIGH : WAD_LOW);
    }
    wadi_set_up_defects(b, s->sim, s->steps);
    for (guint i = 0; i < b->failures->len; i++) {
        const wadi_clock_failure *f = &g_array_index(b->failures, wadi_clock_failure, i);
        fail_at(s, f->at_ps, f->clock, true);
        if (f->until_ps)
            fail_at(s, f->until_ps, f->clock, false);
    }
    for (guint i = 0; i < b->stimuli->len; i++) {
        const wadi_stimulus *st = &g_array_index(b->stimuli, wadi_stimulus, i);
        if (st->pulses_hz.num) {
            pulses(s, st);
            continue;
        }
        if (!st->button) {
            at(s, st->at_ps, st->pin, st->level);
            continue;
        }
        wad_level on = wadi_button_level(st->button, true);
        wad_level off = wadi_pull_is_missing(s->bench, st->pin)
                            ? WAD_FLOATING
                            : wadi_button_level(st->button, false);
        bounce(s, rand, st->at_ps, st->bounce_ps, st->pin, on, off);
        bounce(s, rand, st->at_ps + st->for_ps, st->bounce_ps, st->pin, off, on);
    }
    g_rand_free(rand);
}

/* ---- results ---- */

static const char *keep(session *s, char *text)
{
    g_ptr_array_add(s->texts, text);
    return text;
}

static void judge(session *s)
{
    wad_bench_result *r = &s->result;
    unsigned all = wadi_gauges_count(s->gauges);
    s->verdicts = g_new0(wad_verdict, all + 1);
    r->passed = r->run.end == WAD_RUN_TIME;
    /* somebody did what the bench knows nothing of */
    bool by_hand = s->live && wad_live_by_hand(s->live);
    unsigned n = s->bridge || by_hand ? 0 : all;
    s->scene.run = &r->run;
    for (unsigned i = 0; i < n; i++) {
        const wadi_expectation *e = wadi_gauges_at(s->gauges, i);
        wadi_judged j = wadi_gauges_judge(s->gauges, i);
        s->verdicts[i] =
            (wad_verdict){e->subject, keep(s, j.measured), e->text, j.passed, e->where};
        r->passed = r->passed && j.passed;
    }
    r->verdicts = s->verdicts;
    r->n_verdicts = n;
    if (s->bridge && all)
        g_ptr_array_add(s->notes,
                        g_strdup("somebody was at the line: expectations are not judged"));
    else if (by_hand && all)
        g_ptr_array_add(s->notes, g_strdup("it was not left to itself: expectations are not "
                                           "judged"));
}

/* A rule that took nothing is out of date, or has a slip in it; clocks that are off by intent. */
static void add_notes(session *s)
{
    GArray *rules = s->bench->silences;
    for (guint i = 0; i < rules->len; i++) {
        const wadi_silence_rule *r = &g_array_index(rules, wadi_silence_rule, i);
        if (!wad_sim_silence_hits(s->sim, i))
            g_ptr_array_add(s->notes, g_strdup_printf("%s:%u: silence %s: no such finding",
                                                      r->where.file ? r->where.file : "(said in C)",
                                                      r->where.line, r->text));
    }
    for (guint i = 0; i < s->bench->clock_errors->len; i++) {
        const wadi_clock_error *e = &g_array_index(s->bench->clock_errors, wadi_clock_error, i);
        g_ptr_array_add(s->notes, g_strdup_printf("clock %s runs %+.6g ppm off, as the bench says",
                                                  e->clock->name, wadi_rat_double(e->share) * 1e6));
    }
    for (unsigned i = 0; i < wad_sim_note_count(s->sim); i++)
        g_ptr_array_add(s->notes, g_strdup(wad_sim_note(s->sim, i)));
    s->result.notes = (const char *const *)s->notes->pdata;
    s->result.n_notes = s->notes->len;
}

static char *firmware_path(const wad_bench *b, const wad_bench_options *options)
{
    char *file = g_str_has_suffix(b->firmware, ".wfw") ? g_strdup(b->firmware)
                                                       : g_strconcat(b->firmware, ".wfw", NULL);
    const char *given = options ? options->firmware_dir : NULL;
    char *folder = given ? g_strdup(given) : b->file ? g_path_get_dirname(b->file) : g_strdup(".");
    char *path = g_build_filename(folder, file, NULL);
    g_free(folder);
    g_free(file);
    return path;
}

static bool load(session *s, const wad_bench_options *options, char **why)
{
    wad_bench *b = s->bench;
    s->sim = wad_sim_new(b->sheet, why);
    if (!s->sim)
        return false;
    s->result.sim = s->sim;
    if (b->firmware) {
        s->result.firmware = keep(s, firmware_path(b, options));
        if (!wad_sim_load(s->sim, s->result.firmware, why))
            return false;
    }
    wad_sim_set_load(s->sim, b->load);
    for (guint i = 0; i < b->clock_errors->len; i++) {
        const wadi_clock_error *e = &g_array_index(b->clock_errors, wadi_clock_error, i);
        if (!wad_sim_set_clock_error(s->sim, e->clock, e->share)) {
            *why = g_strdup_printf("clock %s: its error has too many digits", e->clock->name);
            return false;
        }
    }
    for (guint i = 0; i < b->requirements->len; i++) {
        const wadi_requirement *q = &g_array_index(b->requirements, wadi_requirement, i);
        wad_sim_require_latency(s->sim, q->line, q->within_ps);
    }
    for (guint i = 0; i < b->silences->len; i++)
        wad_sim_silence(s->sim, &g_array_index(b->silences, wadi_silence_rule, i).rule);
    if (options && options->prepare)
        options->prepare(s->sim, options->ctx);
    return true;
}

static void set_up_gauges(session *s)
{
    s->scene = (wadi_scene){.sim = s->sim, .capture = s->capture};
    s->gauges = wadi_gauges_new(s->bench, &s->scene);
}

static void set_up_dma(session *s)
{
    s->scene.dma = s->dma = wadi_dma_meter_new(s->sim);
    s->shown = g_array_new(FALSE, FALSE, sizeof(wad_memory_shown));
    s->memories = wadi_memories_begin(s->sim, s->bench->memories);
}

static void end_dma(session *s)
{
    wad_bench_result *r = &s->result;
    r->movers = wadi_dma_meter_table(s->dma, &r->n_movers);
    wadi_memories_end(s->sim, s->memories, s->shown, s->notes);
    r->memories = (const wad_memory_shown *)(void *)s->shown->data;
    r->n_memories = s->shown->len;
}

static session *new_session(wad_bench *b)
{
    session *s = g_new0(session, 1);
    s->bench = b;
    s->texts = g_ptr_array_new_with_free_func(g_free);
    s->notes = g_ptr_array_new_with_free_func(g_free);
    s->steps = g_ptr_array_new_with_free_func(g_free);
    s->capture = wad_capture_new();
    return s;
}

static void describe(session *s)
{
    const wad_bench *b = s->bench;
    s->result.title = b->title;
    s->result.file = b->file;
    s->result.setting = keep(s, b->board ? g_strdup_printf("%s, %s", b->board->name, b->sheet->name)
                                         : g_strdup(b->sheet->name));
    s->result.load = b->load;
}

wad_bench_result *wad_bench_run(wad_bench *b, const wad_bench_options *options, char **why)
{
    session *s = new_session(b);
    *why = NULL;
    if (options && options->live && options->trace)
        *why = g_strdup("a live view and a trace do not go together");
    int bridged =
        !*why && options && options->bridge ? wadi_bridge_line(b, options->bridge->line, why) : -1;
    if (*why || !load(s, options, why)) {
        wad_bench_result_free(&s->result);
        return NULL;
    }
    set_up_gauges(s);
    set_up_dma(s);
    set_up_taps(s);
    set_up_irqs(s, options && options->spans);
    set_up_world(s);
    s->analog = wadi_analog_world_new(s->sim, &b->analog, b->seed, s->capture, on_volts, s);
    set_up_peers(s);
    if (!set_up_buses(s, why)) {
        wad_bench_result_free(&s->result);
        return NULL;
    }
    if (bridged >= 0)
        s->bridge = wadi_bridge_new(s->sim, s->peers[bridged],
                                    &g_array_index(b->peers, wadi_peer_def, (guint)bridged),
                                    options->bridge);
    describe(s);
    uint64_t until = options && options->until_ps ? options->until_ps : b->run_ps;
    if (options && options->live &&
        !(s->live =
              wadi_live_new(b, s->sim, s->analog, options->live, s->result.setting, until, why))) {
        wad_bench_result_free(&s->result);
        return NULL;
    }
    if (options && options->trace)
        s->trace = wadi_trace_start(s->sim, s->capture, options->trace);
    if (options && (options->n_stops || options->log_points))
        wad_sim_explore(s->sim, options->stops, options->n_stops, options->log_points);
    s->result.run = wad_sim_run(s->sim, until);
    if (s->live)
        wadi_live_end(s->live);
    s->result.capture = s->capture;
    s->result.spans = wadi_handlers_spans(s->handlers, &s->result.n_spans, &s->result.lost_spans);
    s->result.sleeps = wadi_handlers_sleeps(s->handlers, &s->result.n_sleeps);
    s->result.handlers = wadi_handlers_table(s->handlers, &s->result.n_handlers);
    wadi_trace_end(s->trace);
    bool kept = end_peers(s);
    end_dma(s);
    judge(s);
    s->result.passed = s->result.passed && kept;
    add_notes(s);
    wad_sim_unload(s->sim); /* a later bench of this process may need its place */
    return &s->result;
}

wad_bench_result *wad_bench_died(wad_bench *b, const wad_bench_options *options,
                                 const wad_last_words *words, const char *how, char **why)
{
    session *s = new_session(b);
    wad_bench_result *r = &s->result;
    *why = NULL;
    r->sim = s->sim = wad_sim_new(b->sheet, why);
    if (!s->sim) {
        wad_bench_result_free(r);
        return NULL;
    }
    describe(s);
    r->capture = s->capture;
    r->firmware = b->firmware ? keep(s, firmware_path(b, options)) : NULL;
    r->run = wad_sim_died(s->sim, r->firmware, words, how);
    unsigned n = b->expects->len;
    s->verdicts = g_new0(wad_verdict, n + 1);
    for (unsigned i = 0; i < n; i++) {
        const wadi_expectation *e = &g_array_index(b->expects, wadi_expectation, i);
        s->verdicts[i] = (wad_verdict){e->subject, "not measured", e->text, false, e->where};
    }
    r->verdicts = s->verdicts;
    r->n_verdicts = n;
    return r;
}

void wad_bench_result_free(wad_bench_result *result)
{
    if (!result)
        return;
    if (result->free) {
        result->free(result);
        return;
    }
    session *s = (session *)result;
    g_free(s->taps);
    wadi_gauges_free(s->gauges);
    wadi_handlers_free(s->handlers);
    wadi_dma_meter_free(s->dma);
    wadi_memories_free(s->memories);
    if (s->shown)
        g_array_free(s->shown, TRUE);
    for (unsigned i = 0; s->peers && s->peers[i]; i++)
        wadi_peer_free(s->peers[i]);
    g_free(s->peers);
    wadi_bridge_free(s->bridge);
    wadi_bus_set_free(s->buses);
    wadi_analog_world_free(s->analog);
    wadi_live_free(s->live);
    g_free(s->irq_channels);
    g_free(s->verdicts);
    g_ptr_array_free(s->steps, TRUE);
    g_ptr_array_free(s->texts, TRUE);
    g_ptr_array_free(s->notes, TRUE);
    wad_capture_free(s->capture);
    wad_sim_free(s->sim);
    g_free(s);
}
