/* SPDX-License-Identifier: MIT */
/* A bench's expectations on a recording: the same meters, fed from a file. */
#include <glib.h>
#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/said.h"
#include "gauges.h"
#include "wadium/host/recording.h"

/* One signal of the file that the bench knows. */
typedef struct pin_signal {
    int probe;    /* -1: the bench does not know it */
    int channel;  /* of the result's capture */
    wad_level is; /* as told so far */
    bool held;    /* a change that may be a glitch */
    wad_level next;
    uint64_t next_ps;
} pin_signal;

typedef struct judging {
    wad_bench_result result; /* first: it is what the caller has */
    wad_bench *bench;
    wadi_scene scene;
    wadi_gauges *gauges;
    GArray *signals; /* by the file's numbers */
    bool *found;     /* by probe */
    GPtrArray *notes, *texts;
    wad_verdict *verdicts;
    bool begun; /* the edge that is time zero has come */
    uint64_t zero_ps, end_ps;
    unsigned glitches;
} judging;

/* ---- which signal is which ---- */

static int probe_named(const wad_bench *b, const char *name)
{
    for (guint i = 0; i < b->recorded->len; i++) {
        const wadi_recorded *r = &g_array_index(b->recorded, wadi_recorded, i);
        if (!strcmp(r->name, name))
            return (int)r->probe;
    }
    for (guint i = 0; i < b->probes->len; i++)
        if (!strcmp(g_array_index(b->probes, wadi_probe, i).name, name))
            return (int)i;
    return -1;
}

/* Levels that were there before the beginning count from it on. */
static void on_channel(void *ctx, unsigned number, const char *name)
{
    judging *j = ctx;
    const char *last = strrchr(name, '.');
    int probe = probe_named(j->bench, name);
    if (probe < 0 && last)
        probe = probe_named(j->bench, last + 1);
    pin_signal s = {.probe = probe, .channel = -1, .is = WAD_FLOATING, .next = WAD_FLOATING};
    (void)number;
    if (probe >= 0) {
        j->found[probe] = true;
        s.channel = (int)wad_capture_channel(
            (wad_capture *)j->result.capture,
            g_array_index(j->bench->probes, wadi_probe, (guint)probe).name);
    }
    g_array_append_val(j->signals, s);
}

/* ---- edges ---- */

static void feed(judging *j, const pin_signal *s, uint64_t ps, wad_level level)
{
    wad_capture_edge((wad_capture *)j->result.capture, (unsigned)s->channel, ps, level);
    wadi_gauges_hear(j->gauges, WADI_ABOUT_PIN, (unsigned)s->probe,
                     &(wadi_heard){.ps = ps, .level = level});
}

/* Is this the edge that the bench counts from? */
static bool is_zero(const judging *j, const pin_signal *s, wad_level level)
{
    const wadi_recording *r = &j->bench->recording;
    return s->probe == (int)r->zero_probe && level == (r->zero_falls ? WAD_LOW : WAD_HIGH) &&
           s->is == (r->zero_falls ? WAD_HIGH : WAD_LOW);
}

static void begin(judging *j, uint64_t ps)
{
    j->begun = true;
    j->zero_ps = ps;
    for (guint i = 0; i < j->signals->len; i++) {
        const pin_signal *s = &g_array_index(j->signals, pin_signal, i);
        if (s->probe >= 0 && s->is != WAD_FLOATING)
            feed(j, s, j->bench->recording.zero_at_ps, s->is);
    }
}

static void settle(judging *j, pin_signal *s)
{
    if (!s->held)
        return;
    s->held = false;
    if (!j->begun && is_zero(j, s, s->next))
        begin(j, s->next_ps);
    s->is = s->next;
    if (j->begun)
        feed(j, s, s->next_ps - j->zero_ps + j->bench->recording.zero_at_ps, s->is);
}

/* Changes that have stayed long enough, in the order of their times. */
static void settle_until(judging *j, uint64_t ps)
{
    for (;;) {
        pin_signal *first = NULL;
        for (guint i = 0; i < j->signals->len; i++) {
            pin_signal *s = &g_array_index(j->signals, pin_signal, i);
            if (s->held && (!first || s->next_ps < first->next_ps))
                first = s;
        }
        if (!first || ps - first->next_ps < j->bench->recording.glitch_ps)
            return;
        settle(j, first);
    }
}

static void on_edge(void *ctx, unsigned channel, uint64_t ps, wad_level level)
{
    judging *j = ctx;
    settle_until(j, ps);
    pin_signal *s = &g_array_index(j->signals, pin_signal, channel);
    uint64_t limit = j->bench->recording.glitch_ps;
    if (s->probe < 0 || level == (s->held ? s->next : s->is))
        return;
    if (s->held && ps - s->next_ps < limit && level == s->is) {
        s->held = false; /* there and back at once */
        j->glitches++;
        return;
    }
    settle(j, s);
    s->held = true;
    s->next = level;
    s->next_ps = ps;
    if (!limit)
        settle(j, s);
}

static void on_end(void *ctx, uint64_t ps)
{
    judging *j = ctx;
    settle_until(j, UINT64_MAX);
    j->end_ps = ps;
}

/* ---- verdicts ---- */

static const char *keep(judging *j, char *text)
{
    g_ptr_array_add(j->texts, text);
    return text;
}

static void note(judging *j, char *text)
{
    g_ptr_array_add(j->notes, text);
}

/* A recording of pins gives levels of pins, and nothing else. */
static bool is_shown(const wad_bench *b, const wadi_expectation *e)
{
    return e->cls->about == WADI_ABOUT_PIN && g_array_index(b->probes, wadi_probe, e->number).pin;
}

static void judge(judging *j)
{
    unsigned n = 0, others = 0;
    wad_bench_result *r = &j->result;
    r->passed = true;
    j->scene.run = &r->run;
    for (unsigned i = 0; i < wadi_gauges_count(j->gauges); i++) {
        const wadi_expectation *e = wadi_gauges_at(j->gauges, i);
        if (!is_shown(j->bench, e)) {
            others++;
            continue;
        }
        wadi_judged v = wadi_gauges_judge(j->gauges, i);
        bool there = j->found[e->number];
        if (!there) {
            g_free(v.measured);
            v.measured = g_strdup("not recorded");
        }
        j->verdicts[n++] =
            (wad_verdict){e->subject, keep(j, v.measured), e->text, v.passed && there, e->where};
        r->passed = r->passed && v.passed && there;
    }
    r->verdicts = j->verdicts;
    r->n_verdicts = n;
    if (others)
        note(j, g_strdup_printf("%u expectation%s not judged: a recording of pins does not show it",
                                others, others == 1 ? " is" : "s are"));
    if (j->glitches)
        note(j,
             g_strdup_printf("%u pulse%s shorter than the bench's limit %s left out", j->glitches,
                             j->glitches == 1 ? "" : "s", j->glitches == 1 ? "is" : "are"));
}

static void set_up(judging *j)
{
    const wad_bench *b = j->bench;
    j->verdicts = g_new0(wad_verdict, b->expects->len + 1);
    j->found = g_new0(bool, b->probes->len + 1);
    j->scene = (wadi_scene){.sim = j->result.sim, .capture = j->result.capture};
    j->gauges = wadi_gauges_new(b, &j->scene);
    j->begun = !b->recording.has_zero;
    j->zero_ps = 0;
}

static bool read_file(judging *j, const char *path, char **why)
{
    const wad_vcd_listener to = {.channel = on_channel, .edge = on_edge, .end = on_end, .ctx = j};
    wad_diags *diags = wad_diags_new();
    bool good = wad_recording_read(path, &to, diags);
    if (!good) {
        char *text;
        size_t size;
        FILE *f = open_memstream(&text, &size);
        wad_diags_print(diags, f);
        fclose(f);
        *why = g_strdup(g_strchomp(text));
        free(text);
    } else if (!j->begun) {
        *why = g_strdup_printf("%s: the edge that the bench counts from (recorded from ...) does "
                               "not come",
                               path);
    }
    wad_diags_free(diags);
    return *why == NULL;
}

static void free_judging(wad_bench_result *r)
{
    judging *j = (judging *)r;
    wadi_gauges_free(j->gauges);
    g_free(j->verdicts);
    g_free(j->found);
    g_array_free(j->signals, TRUE);
    g_ptr_array_free(j->notes, TRUE);
    g_ptr_array_free(j->texts, TRUE);
    wad_capture_free((wad_capture *)r->capture);
    wad_sim_free(r->sim);
    g_free(j);
}

wad_bench_result *wad_bench_judge(wad_bench *b, const char *path, char **why)
{
    judging *j = g_new0(judging, 1);
    *why = NULL;
    j->bench = b;
    j->signals = g_array_new(FALSE, FALSE, sizeof(pin_signal));
    j->notes = g_ptr_array_new_with_free_func(g_free);
    j->texts = g_ptr_array_new_with_free_func(g_free);
    j->result.free = free_judging;
    j->result.capture = wad_capture_new();
    j->result.sim = wad_sim_new(b->sheet, why); /* never run: no findings */
    set_up(j);
    if (*why || !read_file(j, path, why)) {
        free_judging(&j->result);
        return NULL;
    }
    j->result.title = b->title;
    j->result.file = b->file;
    j->result.recording = keep(j, g_path_get_basename(path));
    j->result.setting = keep(j, g_strdup_printf("recorded in %s", j->result.recording));
    uint64_t zero = j->zero_ps, at = b->recording.zero_at_ps;
    j->result.run = (wad_run_result){.end = WAD_RUN_TIME,
                                     .end_ps = j->end_ps > zero ? j->end_ps - zero + at : at,
                                     .story = "the recording ends"};
    judge(j);
    if (!j->result.n_verdicts) {
        *why = g_strdup("a recording shows pins, and the bench expects nothing of one: there is "
                        "nothing to judge");
        free_judging(&j->result);
        return NULL;
    }
    j->result.notes = (const char *const *)j->notes->pdata;
    j->result.n_notes = j->notes->len;
    return &j->result;
}

void wad_report_side_by_side(const wad_bench_result *a, const wad_bench_result *b, FILE *out)
{
    fprintf(out, "%s\n  %-26s %-5s %-26s %-5s %-26s wanted\n", a->title, "", "", a->recording, "",
            b->recording);
    for (unsigned i = 0; i < a->n_verdicts && i < b->n_verdicts; i++) {
        const wad_verdict *x = &a->verdicts[i], *y = &b->verdicts[i];
        fprintf(out, "  %-26s %-5s %-26s %-5s %-26s %s\n", x->subject, x->passed ? "ok" : "FAIL",
                x->measured, y->passed ? "ok" : "FAIL", y->measured, x->wanted);
    }
}
