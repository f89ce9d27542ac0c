/* SPDX-License-Identifier: MIT */
/* Results as text, TAP and JSON. */
#include <glib.h>
#include <string.h>

#include "files/json.h"
#include "files/quote.h"
#include "wadium/host/bench.h"

/* ---- text ---- */

static int column(const wad_bench_result *r, size_t offset)
{
    size_t widest = 8;
    for (unsigned i = 0; i < r->n_verdicts; i++) {
        const char *text = *(const char *const *)((const char *)&r->verdicts[i] + offset);
        widest = MAX(widest, strlen(text));
    }
    return (int)widest;
}

static void print_story(const wad_bench_result *r, FILE *out)
{
    if (r->run.end == WAD_RUN_TIME)
        return;
    fprintf(out, "  the run ended early, at %.6f s: %s\n", (double)r->run.end_ps / 1e12,
            r->run.story);
    if (r->run.place.file)
        fprintf(out, "  at %s:%u%s%s\n", r->run.place.file, r->run.place.line,
                r->run.place.function ? " in " : "",
                r->run.place.function ? r->run.place.function : "");
}

static void print_run(const wad_bench_result *r, FILE *out)
{
    const wad_cpu *cpu = &wad_sim_sheet(r->sim)->cpu;
    fprintf(out, "%s\n  %s, %.6g s simulated, CPU awake %.3g %% of it (%u cycle%s an access",
            r->title, r->setting, (double)r->run.end_ps / 1e12,
            r->run.end_ps ? 100.0 * (double)r->run.awake_ps / (double)r->run.end_ps : 0,
            cpu->access, cpu->access == 1 ? "" : "s");
    if (r->load)
        fprintf(out, ", load %u %%", r->load);
}

void wad_report_text(const wad_bench_result *r, FILE *out)
{
    int subject = column(r, offsetof(wad_verdict, subject));
    int measured = column(r, offsetof(wad_verdict, measured));
    unsigned n = wad_sim_finding_count(r->sim), failed = 0;
    if (r->recording)
        fprintf(out, "%s\n  %s, %.6g s of it", r->title, r->setting, (double)r->run.end_ps / 1e12);
    else
        print_run(r, out);
    fputs(r->recording ? "\n" : ")\n", out);
    print_story(r, out);
    for (unsigned i = 0; i < r->n_verdicts; i++) {
        const wad_verdict *v = &r->verdicts[i];
        failed += !v->passed;
        fprintf(out, "  %-5s %-*s  %-*s  wanted %s\n", v->passed ? "ok" : "FAIL", subject,
                v->subject, measured, v->measured, v->wanted);
    }
    for (unsigned i = 0; i < n; i++) {
        fputc('\n', out);
        wad_finding_print(wad_sim_finding(r->sim, i), out);
    }
    if (r->n_notes)
        fputc('\n', out);
    for (unsigned i = 0; i < r->n_notes; i++)
        fprintf(out, "note  %s\n", r->notes[i]);
    fputs(n || r->n_notes ? "\n  " : "  ", out);
    if (r->n_verdicts || r->recording)
        fprintf(out, "%u of %u expectations met%s", r->n_verdicts - failed, r->n_verdicts,
                r->recording ? "" : ", ");
    if (!r->recording)
        fprintf(out, "%u finding%s", n, n == 1 ? "" : "s");
    if (wad_sim_silenced(r->sim))
        fprintf(out, ", %u silenced", wad_sim_silenced(r->sim));
    fputc('\n', out);
}

static char *duration(double ps)
{
    static const char *const units[] = {"ps", "ns", "us", "ms", "s"};
    unsigned i = 0;
    while (ps >= 999.99999995 && i < 4) {
        ps /= 1000;
        i++;
    }
    return g_strdup_printf("%.6g %s", ps, units[i]);
}

/* ---- handlers ---- */

static void handler_times(const wad_stats *s, FILE *out)
{
    char *min = duration((double)s->min), *mean = duration(wad_stats_mean(s)),
         *max = duration((double)s->max);
    char *all = s->n == 0          ? g_strdup("-")
                : s->min == s->max ? g_strdup(min)
                                   : g_strdup_printf("%s, %s, %s", min, mean, max);
    fprintf(out, "  %-32s", all);
    g_free(all);
    g_free(min);
    g_free(mean);
    g_free(max);
}

void wad_report_handlers(const wad_bench_result *r, FILE *out)
{
    if (!r->n_handlers)
        return;
    fprintf(out, "\n  %-8s %-4s %-8s  %-32s  %-32s  %-32s %s\n", "handler", "line", "count",
            "every: min, mean, max", "latency", "time in it", "CPU");
    for (unsigned i = 0; i < r->n_handlers; i++) {
        const wad_handler_stats *h = &r->handlers[i];
        double share = wad_stats_mean(&h->time) * (double)h->time.n / (double)r->run.end_ps;
        fprintf(out, "  %-8s %-4u %-8llu", h->owner, h->line, (unsigned long long)h->count);
        handler_times(&h->every, out);
        handler_times(&h->latency, out);
        handler_times(&h->time, out);
        fprintf(out, " %.3g %%\n", share * 100);
    }
}

/* ---- TAP ---- */

/* One line, and '#' begins a directive in TAP. */
static char *tap_text(const char *text)
{
    char *line = wadi_line_copy(text), **parts = g_strsplit(line, "#", -1);
    char *clean = g_strjoinv("\\#", parts);
    g_strfreev(parts);
    g_free(line);
    return clean;
}

static void tap_line(bool ok, unsigned n, const char *title, const char *what, FILE *out)
{
    char *text = tap_text(what), *head = tap_text(title);
    fprintf(out, "%sok %u - %s: %s\n", ok ? "" : "not ", n, head, text);
    g_free(text);
    g_free(head);
}

static void tap_yaml(FILE *out, const char *a, const char *text_a, const char *b,
                     const char *text_b)
{
    fprintf(out, "  ---\n  %s: ", a);
    wadi_yaml_text(out, text_a);
    if (b) {
        fprintf(out, "\n  %s: ", b);
        wadi_yaml_text(out, text_b);
    }
    fputs("\n  ...\n", out);
}

static void tap_finding(const wad_finding *f, FILE *out)
{
    char *what = wadi_line_copy(f->what), *file = NULL;
    fprintf(out, "# W%d %s", (int)f->kind, what);
    if (f->n_places && f->places[0].file) {
        file = wadi_line_copy(f->places[0].file);
        fprintf(out, " at %s:%u", file, f->places[0].line);
    }
    fputc('\n', out);
    g_free(what);
    g_free(file);
}

void wad_report_tap(wad_bench_result *const *results, unsigned n, FILE *out)
{
    unsigned lines = 0, at = 0;
    for (unsigned i = 0; i < n; i++)
        lines += results[i]->n_verdicts + 1;
    fprintf(out, "TAP version 13\n1..%u\n", lines);
    for (unsigned i = 0; i < n; i++) {
        const wad_bench_result *r = results[i];
        tap_line(r->run.end == WAD_RUN_TIME, ++at, r->title, "runs to its end", out);
        if (r->run.end != WAD_RUN_TIME)
            tap_yaml(out, "message", r->run.story, NULL, NULL);
        for (unsigned k = 0; k < r->n_verdicts; k++) {
            const wad_verdict *v = &r->verdicts[k];
            tap_line(v->passed, ++at, r->title, v->subject, out);
            tap_yaml(out, "measured", v->measured, "wanted", v->wanted);
        }
        for (unsigned k = 0; k < wad_sim_finding_count(r->sim); k++)
            tap_finding(wad_sim_finding(r->sim, k), out);
    }
}

/* ---- JSON ---- */

static void text(JsonBuilder *b, const char *name, const char *value)
{
    json_builder_set_member_name(b, name);
    if (value)
        json_builder_add_string_value(b, value);
    else
        json_builder_add_null_value(b);
}

static void number(JsonBuilder *b, const char *name, uint64_t value)
{
    json_builder_set_member_name(b, name);
    json_builder_add_int_value(b, (gint64)value);
}

static void truth(JsonBuilder *b, const char *name, bool value)
{
    json_builder_set_member_name(b, name);
    json_builder_add_boolean_value(b, value);
}

static void add_places(JsonBuilder *b, const wad_finding *f)
{
    json_builder_set_member_name(b, "places");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < f->n_places; i++) {
        json_builder_begin_object(b);
        text(b, "file", f->places[i].file);
        number(b, "line", f->places[i].line);
        text(b, "function", f->places[i].function);
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
}

static void add_findings(JsonBuilder *b, const wad_sim *sim)
{
    json_builder_set_member_name(b, "findings");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++) {
        const wad_finding *f = wad_sim_finding(sim, i);
        json_builder_begin_object(b);
        number(b, "number", f->kind);
        text(b, "title", wad_finding_title(f->kind));
        text(b, "what", f->what);
        text(b, "cure", f->hint);
        number(b, "count", f->count);
        number(b, "first_ps", f->first_ps);
        number(b, "last_ps", f->last_ps);
        if (f->reg && f->bits) {
            text(b, "register", f->reg->name);
            number(b, "value", f->value);
            number(b, "bits", f->bits);
        }
        add_places(b, f);
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
    number(b, "silenced", wad_sim_silenced(sim));
}

static void add_notes(JsonBuilder *b, const wad_bench_result *r)
{
    json_builder_set_member_name(b, "notes");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < r->n_notes; i++)
        json_builder_add_string_value(b, r->notes[i]);
    json_builder_end_array(b);
}

static void add_stats(JsonBuilder *b, const char *name, const wad_stats *s)
{
    json_builder_set_member_name(b, name);
    json_builder_begin_object(b);
    number(b, "n", s->n);
    number(b, "min_ps", s->n ? s->min : 0);
    number(b, "mean_ps", s->n ? (uint64_t)(wad_stats_mean(s) + 0.5) : 0);
    number(b, "max_ps", s->n ? s->max : 0);
    json_builder_end_object(b);
}

static void add_handlers(JsonBuilder *b, const wad_bench_result *r)
{
    json_builder_set_member_name(b, "handlers");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < r->n_handlers; i++) {
        const wad_handler_stats *h = &r->handlers[i];
        json_builder_begin_object(b);
        text(b, "block", h->owner);
        number(b, "line", h->line);
        number(b, "count", h->count);
        number(b, "deepest", h->deepest);
        add_stats(b, "every", &h->every);
        add_stats(b, "latency", &h->latency);
        add_stats(b, "time", &h->time);
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
}

static void add_movers(JsonBuilder *b, const wad_bench_result *r)
{
    uint64_t waited, taken = wad_sim_bus_taken(r->sim, &waited);
    json_builder_set_member_name(b, "dma");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < r->n_dma; i++) {
        const wad_dma_stats *m = &r->dma[i];
        json_builder_begin_object(b);
        text(b, "block", m->block->name);
        number(b, "channel", m->channel);
        number(b, "elements", m->elements);
        number(b, "bytes", m->bytes);
        number(b, "bursts", m->bursts);
        number(b, "bus_ps", m->bus_ps);
        add_stats(b, "latency", &m->latency);
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
    number(b, "bus_taken_ps", taken);
    number(b, "core_waited_ps", waited);
}

static void add_real(JsonBuilder *b, const char *name, double value)
{
    json_builder_set_member_name(b, name);
    json_builder_add_double_value(b, value);
}

static void add_charge(JsonBuilder *b, const wad_bench_result *r)
{
    const wad_charge *c = wad_sim_charge(r->sim);
    if (!c->known)
        return;
    json_builder_set_member_name(b, "charge");
    json_builder_begin_object(b);
    add_real(b, "volts", c->volts);
    add_real(b, "coulombs", c->coulombs);
    add_real(b, "average_amperes", c->average);
    json_builder_set_member_name(b, "consumers");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < c->n_consumers; i++) {
        json_builder_begin_object(b);
        text(b, "name", c->consumers[i].name);
        add_real(b, "coulombs", c->consumers[i].coulombs);
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
    json_builder_end_object(b);
}

static void add_result(JsonBuilder *b, const wad_bench_result *r)
{
    static const char *const ends[] = {"time", "returned", "crashed", "hung", "dead"};
    json_builder_begin_object(b);
    text(b, "bench", r->title);
    text(b, "setting", r->setting);
    truth(b, "passed", r->passed);
    text(b, "end", ends[r->run.end]);
    text(b, "story", r->run.story);
    number(b, "end_ps", r->run.end_ps);
    number(b, "awake_ps", r->run.awake_ps);
    json_builder_set_member_name(b, "expectations");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < r->n_verdicts; i++) {
        json_builder_begin_object(b);
        text(b, "subject", r->verdicts[i].subject);
        text(b, "measured", r->verdicts[i].measured);
        text(b, "wanted", r->verdicts[i].wanted);
        truth(b, "passed", r->verdicts[i].passed);
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
    add_charge(b, r);
    add_handlers(b, r);
    if (r->n_dma)
        add_movers(b, r);
    add_findings(b, r->sim);
    add_notes(b, r);
    json_builder_end_object(b);
}

static void print_json(JsonBuilder *b, FILE *out)
{
    wadi_json_write(json_builder_get_root(b), out);
    g_object_unref(b);
}

void wad_report_json(wad_bench_result *const *results, unsigned n, FILE *out)
{
    JsonBuilder *b = json_builder_new();
    json_builder_begin_array(b);
    for (unsigned i = 0; i < n; i++)
        add_result(b, results[i]);
    json_builder_end_array(b);
    print_json(b, out);
}

/* ---- wadium measure ---- */

static char *cell(const wad_stats *s, double ps)
{
    return s->n ? duration(ps) : g_strdup("-");
}

void wad_report_measured(const wad_measured *channels, unsigned n, uint64_t end_ps, FILE *out)
{
    char *end = duration((double)end_ps);
    fprintf(out, "%u signals over %s\n\n", n, end);
    g_free(end);
    fprintf(out, "%-12s %9s %13s %10s %12s %12s %12s %12s\n", "signal", "edges", "frequency",
            "duty", "high, mean", "period, min", "period, max", "jitter, sd");
    for (unsigned i = 0; i < n; i++) {
        const wad_meter *m = &channels[i].meter;
        char *high = cell(&m->high, wad_stats_mean(&m->high));
        char *min = cell(&m->period, (double)m->period.min);
        char *max = cell(&m->period, (double)m->period.max);
        char *jitter = cell(&m->period, wad_stats_deviation(&m->period));
        char hz[32] = "-";
        if (m->rises >= 2)
            snprintf(hz, sizeof hz, "%.8g Hz", wad_meter_hz(m));
        fprintf(out, "%-12s %9llu %13s %8.4f %% %12s %12s %12s %12s\n", channels[i].name,
                (unsigned long long)m->edges, hz, 100 * wad_meter_duty(m), high, min, max, jitter);
        g_free(high);
        g_free(min);
        g_free(max);
        g_free(jitter);
    }
}

static void real(JsonBuilder *b, const char *name, double value)
{
    json_builder_set_member_name(b, name);
    json_builder_add_double_value(b, value);
}

void wad_report_measured_json(const wad_measured *channels, unsigned n, uint64_t end_ps, FILE *out)
{
    JsonBuilder *b = json_builder_new();
    json_builder_begin_object(b);
    number(b, "end_ps", end_ps);
    json_builder_set_member_name(b, "signals");
    json_builder_begin_array(b);
    for (unsigned i = 0; i < n; i++) {
        const wad_meter *m = &channels[i].meter;
        json_builder_begin_object(b);
        text(b, "name", channels[i].name);
        number(b, "edges", m->edges);
        real(b, "hz", wad_meter_hz(m));
        real(b, "duty", wad_meter_duty(m));
        real(b, "high_mean_ps", wad_stats_mean(&m->high));
        number(b, "period_min_ps", m->period.min);
        number(b, "period_max_ps", m->period.max);
        real(b, "period_deviation_ps", wad_stats_deviation(&m->period));
        json_builder_end_object(b);
    }
    json_builder_end_array(b);
    json_builder_end_object(b);
    print_json(b, out);
}
