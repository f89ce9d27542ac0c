/* SPDX-License-Identifier: MIT */
/* Runs a bench: the world is set going, meters listen, expectations are judged. */
#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "bench/language/statement.h"
#include "bench/live/live.h"
#include "bench/measure/dma.h"
#include "bench/measure/handlers.h"
#include "bench/measure/memory.h"
#include "bench/measure/register_trace.h"
#include "bench/world/model_say.h"
#include "bench/world/serial_bridge.h"
#include "bench/world/stimulus.h"
#include "bench/world/volt_source.h"
#include "gauges.h"
#include "lang/rational.h"
#include "statements.h"

/* One listener: a captured pin. */
typedef struct tap {
    struct session *session;
    unsigned probe;
    unsigned channel;
} tap;

typedef struct session {
    wad_bench_result result;
    wad_bench *bench;
    wad_sim *sim;
    wad_capture *capture;
    tap *taps;
    wadi_scene scene;
    wadi_gauges *gauges;
    int *irq_channels;    /* by line; -1 for none */
    int running_word;     /* of the capture: the line that runs; -1 for none */
    wadi_setting setting; /* for what was said */
    wadi_parts *parts;
    GPtrArray *texts;
    GPtrArray *notes;
    wadi_trace_writer *trace;
    wadi_handlers *handlers;
    wadi_dma_meter *dma;
    GPtrArray *memories; /* wadi_memory_view */
    GArray *shown;       /* wad_memory_shown */
    wadi_bridge *bridge;
    wadi_analog_world *analog;
    wad_live *live;
    wad_verdict *verdicts;
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

/* In the order in which captures show what happens at one time. */
static bool set_up_world(session *s, char **why)
{
    const wad_bench *b = s->bench;
    wadi_rest_buttons(&s->setting);
    if (!wadi_bench_begin(&s->setting, WADI_WITH_WORLD, why))
        return false;
    s->analog = wadi_analog_world_new(s->sim, &b->analog, b->seed, s->capture, on_volts, s);
    s->parts = wadi_parts_new(&s->setting, why);
    s->scene.parts = s->setting.parts = s->parts;
    return s->parts && wadi_bench_begin(&s->setting, WADI_WITH_PARTS, why);
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

static void add_notes(session *s)
{
    wadi_bench_notes(&s->setting, s->notes);
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
    s->setting.sim = s->sim;
    if (wadi_models_of_board(b, why) || !wadi_bench_begin(&s->setting, WADI_WITH_CHIP, why))
        return false;
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
    r->dma = wadi_dma_meter_table(s->dma, &r->n_dma);
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
    s->setting = (wadi_setting){.bench = b,
                                .owned = g_ptr_array_new_with_free_func(g_free),
                                .contacts = g_rand_new_with_seed(b->seed)};
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
    if (!set_up_world(s, why)) {
        wad_bench_result_free(&s->result);
        return NULL;
    }
    if (bridged >= 0)
        s->bridge =
            wadi_bridge_new(s->sim, wadi_part_at(s->parts, (unsigned)bridged), options->bridge);
    describe(s);
    uint64_t until = options && options->until_ps ? options->until_ps : b->run_ps;
    if (options && options->live &&
        !(s->live = wadi_live_new(b, s->sim, s->analog, s->parts, options->live, s->result.setting,
                                  until, why))) {
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
    bool kept = wadi_parts_end(s->parts, s->result.run.end_ps, s->notes);
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
    wadi_bridge_free(s->bridge);
    wadi_parts_free(s->parts);
    wadi_analog_world_free(s->analog);
    wadi_live_free(s->live);
    g_free(s->irq_channels);
    g_free(s->verdicts);
    g_ptr_array_free(s->setting.owned, TRUE);
    g_rand_free(s->setting.contacts);
    g_ptr_array_free(s->texts, TRUE);
    g_ptr_array_free(s->notes, TRUE);
    wad_capture_free(s->capture);
    wad_sim_free(s->sim);
    g_free(s);
}
