/* SPDX-License-Identifier: MIT */
#include "cli.h"

typedef struct run_flags {
    gboolean tap, json;
    char *firmware_dir, *vcd;
} run_flags;

static int run_all(const wad_bench_list *list, const run_flags *flags)
{
    unsigned n = wad_bench_list_count(list), done = 0;
    wad_bench_result **results = g_new0(wad_bench_result *, n + 1);
    wad_bench_options options = {.firmware_dir = flags->firmware_dir};
    int status = CLI_GOOD;
    for (unsigned i = 0; i < n; i++) {
        char *why = NULL;
        wad_bench_result *r = wad_bench_run(wad_bench_list_at(list, i), &options, &why);
        if (!r) {
            status = cli_error("%s: %s", wad_bench_title(wad_bench_list_at(list, i)), why);
            g_free(why);
            continue;
        }
        if (!r->passed && status == CLI_GOOD)
            status = CLI_FAILED;
        if (!flags->tap && !flags->json)
            wad_report_text(r, stdout);
        results[done++] = r;
    }
    if (flags->tap)
        wad_report_tap(results, done, stdout);
    else if (flags->json)
        wad_report_json(results, done, stdout);
    for (unsigned i = 0; i < done; i++) {
        char *why = NULL;
        if (i == 0 && flags->vcd &&
            !wad_vcd_write(results[i]->capture, flags->vcd, results[i]->run.end_ps, &why))
            status = cli_error("%s", why);
        g_free(why);
        wad_bench_result_free(results[i]);
    }
    g_free(results);
    return status;
}

int cli_run(int argc, char **argv)
{
    run_flags flags = {0};
    const GOptionEntry entries[] = {
        {"firmware-dir", 'd', 0, G_OPTION_ARG_FILENAME, &flags.firmware_dir,
         "where the firmware lies, if not beside the bench", "DIR"},
        {"vcd", 0, 0, G_OPTION_ARG_FILENAME, &flags.vcd, "write the first bench's capture", "FILE"},
        {"tap", 0, 0, G_OPTION_ARG_NONE, &flags.tap, "report as TAP", NULL},
        {"json", 0, 0, G_OPTION_ARG_NONE, &flags.json, "report as JSON", NULL},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "run", "FILE.bench",
                     "Runs the benches of a file: loads the firmware, simulates, measures, and "
                     "judges each\nexpectation, printing measured against wanted; then the "
                     "findings with their source lines.\nExit status 1: an expectation failed or "
                     "the firmware ended by itself.",
                     entries, &status))
        return status;
    if (argc != 2)
        return cli_error("run takes one bench file; see 'wadium run --help'");
    wad_diags *diags = wad_diags_new();
    wad_bench_list *list = wad_bench_read(argv[1], diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    status = list ? run_all(list, &flags) : CLI_USAGE;
    wad_bench_list_free(list);
    g_free(flags.firmware_dir);
    g_free(flags.vcd);
    return status;
}
