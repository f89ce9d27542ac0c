/* SPDX-License-Identifier: MIT */
/* Results as a page and for CI servers. */
#include <glib/gstdio.h>
#include <unistd.h>

#include "html.h"
#include "wadium/host/output.h"
#include "wadium/host/report.h"
#include "xml.h"

/* ---- pieces ---- */

static void verdict(FILE *out, bool passed, const char *text)
{
    fprintf(out, "<p><span class=\"verdict%s\">%s</span> ", passed ? "" : " bad",
            passed ? "passed" : "failed");
    wadi_html_text(out, text);
    fputs("</p>\n", out);
}

static void table(FILE *out, const char *const *heads, unsigned n)
{
    fputs("<table>\n", out);
    wadi_html_row(out, "th", NULL, heads, n);
}

static void end_table(FILE *out)
{
    fputs("</table>\n", out);
}

static void add_verdicts(FILE *out, const wad_bench_result *r)
{
    static const char *const heads[] = {"", "expectation", "measured", "wanted"};
    if (!r->n_verdicts)
        return;
    table(out, heads, 4);
    for (unsigned i = 0; i < r->n_verdicts; i++) {
        const wad_verdict *v = &r->verdicts[i];
        const char *const cells[] = {v->passed ? "ok" : "FAIL", v->subject, v->measured, v->wanted};
        wadi_html_row(out, "td", v->passed ? "good" : "bad", cells, 4);
    }
    end_table(out);
}

static void add_diagram(FILE *out, const wad_bench_result *r)
{
    char *why = NULL;
    unsigned rows = wad_capture_channels(r->capture) + 2 * wad_capture_analogs(r->capture);
    const wad_plot_options o = {
        .title = "", .width = 1150, .height = CLAMP(110 + 60 * rows, 180, 900)};
    if (!wad_capture_channels(r->capture) && !wad_capture_analogs(r->capture))
        return;
    char *folder = wad_output_folder("wadium-page", &why);
    char *path = g_build_filename(folder ? folder : ".", "captured.svg", NULL);
    wadi_html_element(out, "h3", "Captured");
    if (!folder || !wad_plot_file(r->capture, r->run.end_ps, &o, path, &why) ||
        !wadi_html_svg(out, path))
        wadi_html_element(out, "p class=\"dim\"", why ? why : "no picture could be drawn");
    wad_output_remove_folder(folder);
    g_free(folder);
    g_free(path);
    g_free(why);
}

static void add_findings(FILE *out, const wad_bench_result *r)
{
    unsigned n = wad_sim_finding_count(r->sim);
    wadi_html_element(out, "h3", n ? "Findings" : "No findings");
    for (unsigned i = 0; i < n; i++) {
        char *text;
        size_t size;
        FILE *memory = open_memstream(&text, &size);
        wad_finding_print(wad_sim_finding(r->sim, i), memory);
        fclose(memory);
        wadi_html_element(out, "pre", text);
        free(text);
    }
}

static void add_word(FILE *out, const wad_word *w)
{
    char *name = wad_fieldref_name(&w->ref), *one;
    char *value = g_strdup_printf("0x%0*llX", w->ref.reg->width / 4, (unsigned long long)w->value);
    GString *fields = g_string_new(NULL);
    wad_fieldref ref;
    for (unsigned i = 0; (one = wad_word_field(w, i, &ref)); i++) {
        if (w->value & wad_fieldref_mask(&ref))
            g_string_append_printf(fields, "%s%s", fields->len ? ", " : "", one);
        g_free(one);
    }
    const char *const cells[] = {name, value, fields->str};
    wadi_html_row(out, "td", NULL, cells, 3);
    g_string_free(fields, TRUE);
    g_free(value);
    g_free(name);
}

static void add_registers(FILE *out, const wad_snapshot *s)
{
    static const char *const heads[] = {"register", "value", "fields"};
    fputs("<details><summary>Registers that are not as after reset, ", out);
    wadi_html_text(out, wad_snapshot_source(s));
    fputs("</summary>\n", out);
    table(out, heads, 3);
    for (unsigned i = 0; i < wad_snapshot_count(s); i++) {
        const wad_word *w = wad_snapshot_word(s, i);
        if (w->value != w->ref.reg->reset)
            add_word(out, w);
    }
    end_table(out);
    fputs("</details>\n", out);
}

static void add_versions(FILE *out, const char *version, const wad_sheet *sheet,
                         const char *firmware, const char *bench)
{
    const char *const own[] = {"Wadium", version ? version : "", ""};
    wadi_html_element(out, "h3", "What was used");
    fputs("<table>\n", out);
    wadi_html_row(out, "td", NULL, own, 3);
    if (sheet) {
        char *hash = g_strdup_printf("sheet %s", sheet->hash);
        const char *const cells[] = {"chip", sheet->name, hash};
        wadi_html_row(out, "td", NULL, cells, 3);
        g_free(hash);
        wadi_html_file(out, "sheet", sheet->file);
    }
    wadi_html_file(out, "firmware", firmware);
    wadi_html_file(out, "bench", bench);
    end_table(out);
}

/* ---- a bench ---- */

static void add_result(FILE *out, const wad_bench_result *r, const wad_page *page)
{
    unsigned met = 0;
    for (unsigned i = 0; i < r->n_verdicts; i++)
        met += r->verdicts[i].passed;
    char *line = g_strdup_printf("%s: %u of %u expectations met, %u finding%s, %.6g s simulated",
                                 r->setting, met, r->n_verdicts, wad_sim_finding_count(r->sim),
                                 wad_sim_finding_count(r->sim) == 1 ? "" : "s",
                                 (double)r->run.end_ps / WAD_PS_PER_S);
    wadi_html_element(out, "h2", r->title);
    verdict(out, r->passed, line);
    g_free(line);
    if (r->run.end != WAD_RUN_TIME)
        wadi_html_element(out, "p", r->run.story);
    add_verdicts(out, r);
    for (unsigned i = 0; i < r->n_notes; i++)
        wadi_html_element(out, "p class=\"dim\"", r->notes[i]);
    add_diagram(out, r);
    if (r->recording) {
        add_versions(out, page->version, wad_sim_sheet(r->sim), NULL, r->file);
        return;
    }
    add_findings(out, r);
    char *source = g_strdup_printf("at %.9g s", (double)r->run.end_ps / WAD_PS_PER_S);
    wad_snapshot *s = wad_snapshot_new(wad_sim_sheet(r->sim), source);
    wad_sim_snapshot(r->sim, s);
    add_registers(out, s);
    wad_snapshot_free(s);
    g_free(source);
    add_versions(out, page->version, wad_sim_sheet(r->sim), r->firmware, r->file);
}

bool wad_report_html(wad_bench_result *const *results, unsigned n, const wad_page *page,
                     const char *path, char **why)
{
    wad_output *page_file = wad_output_open(path, why);
    if (!page_file)
        return false;
    FILE *out = wad_output_file(page_file);
    char *file = n && results[0]->file ? g_path_get_basename(results[0]->file) : NULL;
    wadi_html_begin(out, page->title ? page->title : file ? file : "benches");
    g_free(file);
    for (unsigned i = 0; i < n; i++)
        add_result(out, results[i], page);
    wadi_html_end(out);
    return wad_output_close(page_file, why);
}

void wad_report_junit(wad_bench_result *const *results, unsigned n, FILE *out)
{
    wadi_junit j;
    wadi_junit_begin(&j, out);
    for (unsigned i = 0; i < n; i++) {
        const wad_bench_result *r = results[i];
        wadi_junit_suite(&j, r->title);
        for (unsigned k = 0; k < r->n_verdicts; k++) {
            const wad_verdict *v = &r->verdicts[k];
            char *why = g_strdup_printf("%s, wanted %s", v->measured, v->wanted);
            wadi_junit_case(&j, v->subject, v->passed ? NULL : why, NULL);
            g_free(why);
        }
        if (r->run.end != WAD_RUN_TIME)
            wadi_junit_case(&j, "the run reaches its time", r->run.story, NULL);
    }
    wadi_junit_end(&j);
}

/* ---- a board's checks ---- */

static void add_checks(FILE *out, const wad_collect *c)
{
    static const char *const heads[] = {"", "check", "what", "measured", "after"};
    table(out, heads, 5);
    for (unsigned i = 0; i < wad_collect_count(c); i++) {
        const wad_collected *k = wad_collect_at(c, i);
        char *number = g_strdup_printf("%u", k->number);
        char *at = g_strdup_printf("%.3f s", (double)k->us / 1e6);
        const char *const cells[] = {k->skipped  ? "skip"
                                     : k->passed ? "ok"
                                                 : "FAIL",
                                     number, k->name, k->comment, at};
        wadi_html_row(out, "td", k->passed ? "good" : "bad", cells, 5);
        g_free(number);
        g_free(at);
    }
    end_table(out);
}

bool wad_collect_html(const wad_collect *c, const wad_page *page, const char *path, char **why)
{
    unsigned n = wad_collect_count(c), passed = 0;
    const char *board = wad_collect_board(c), *text;
    for (unsigned i = 0; i < n; i++)
        passed += wad_collect_at(c, i)->passed;
    wad_output *page_file = wad_output_open(path, why);
    if (!page_file)
        return false;
    FILE *out = wad_output_file(page_file);
    char *line =
        g_strdup_printf("%s: %u of %u checks passed", board ? board : "the board", passed, n);
    wadi_html_begin(out, page->title ? page->title : board ? board : "a board's checks");
    verdict(out, wad_collect_passed(c), line);
    for (unsigned i = 0; (text = wad_collect_trouble(c, i)); i++)
        wadi_html_element(out, "p", text);
    add_checks(out, c);
    if (page->snapshot)
        add_registers(out, page->snapshot);
    add_versions(out, page->version, page->sheet, page->firmware, NULL);
    wadi_html_end(out);
    g_free(line);
    return wad_output_close(page_file, why);
}
