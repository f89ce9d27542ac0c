/* SPDX-License-Identifier: MIT */
/* A firmware on the desk: connects, runs its main, says what went over the line. */
#include <glib.h>
#include <setjmp.h>
#include <stdlib.h>

#include "link.h"

/* The firmware's own main, renamed by the build. */
int wad_firmware_main(void);
extern jmp_buf wadi_link_way_out;

static int run(const wadi_link_options *o)
{
    volatile int status = 0;
    if (!wadi_link_open(o))
        return 2;
    fprintf(stderr, "wadium: the firmware runs on the desk, interrupts are polled for\n");
    int way = setjmp(wadi_link_way_out);
    if (way)
        status = way - 1;
    else
        status = wad_firmware_main() ? 1 : 0;
    wadi_link_counts n = wadi_link_close();
    printf(
        "%llu reads (%llu of them from shadows), %llu writes in %.3f s: %.0f accesses a second\n",
        (unsigned long long)n.reads, (unsigned long long)n.from_shadow,
        (unsigned long long)n.writes, n.seconds,
        n.seconds > 0 ? (double)(n.reads + n.writes) / n.seconds : 0);
    if (n.handlers)
        printf("%llu handlers were served, after %llu looks\n", (unsigned long long)n.handlers,
               (unsigned long long)n.looks);
    return status;
}

int main(int argc, char **argv)
{
    char *on = NULL, *trace = NULL, *sheet = NULL;
    gboolean shadow = FALSE, batch = FALSE, any = FALSE, as_it_is = FALSE;
    gdouble seconds = 0;
    GError *error = NULL;
    const GOptionEntry entries[] = {
        {"on", 'o', 0, G_OPTION_ARG_STRING, &on,
         "the board's server (else $WADIUM_BOARD, else 127.0.0.1:3333)", "HOST:PORT"},
        {"for", 0, 0, G_OPTION_ARG_DOUBLE, &seconds, "ends after so many seconds", "S"},
        {"trace", 0, 0, G_OPTION_ARG_FILENAME, &trace, "accesses, for 'wadium compare'",
         "FILE.csv"},
        {"shadow", 0, 0, G_OPTION_ARG_NONE, &shadow,
         "registers that only writes change are not read again", NULL},
        {"batch", 0, 0, G_OPTION_ARG_NONE, &batch, "writes do not wait for each other", NULL},
        {"as-it-is", 0, 0, G_OPTION_ARG_NONE, &as_it_is, "the chip is not reset first", NULL},
        {"sheet", 0, 0, G_OPTION_ARG_FILENAME, &sheet, "of the chip, if it is not found", "FILE"},
        {"any-chip", 0, 0, G_OPTION_ARG_NONE, &any, "go on where the chip says to be another one",
         NULL},
        {0}};
    GOptionContext *context =
        g_option_context_new("- firmware on the desk, its registers on a board");
    g_option_context_add_main_entries(context, entries, NULL);
    int status = 2;
    if (!g_option_context_parse(context, &argc, &argv, &error) || argc != 1)
        fprintf(stderr, "wadium: %s\n", error ? error->message : "no arguments, only options");
    else {
        const char *given = g_getenv("WADIUM_BOARD");
        wadi_link_options o = {.where = on      ? on
                                        : given ? given
                                                : "127.0.0.1:3333",
                               .sheet = sheet,
                               .shadow = shadow,
                               .batch = batch,
                               .any_chip = any,
                               .as_it_is = as_it_is,
                               .seconds = seconds,
                               .trace = trace ? fopen(trace, "w") : NULL};
        if (trace && !o.trace)
            fprintf(stderr, "wadium: cannot write '%s'\n", trace);
        else
            status = run(&o);
        if (o.trace && fclose(o.trace))
            status = 2;
    }
    g_clear_error(&error);
    g_option_context_free(context);
    g_free(on);
    g_free(trace);
    g_free(sheet);
    return status;
}
