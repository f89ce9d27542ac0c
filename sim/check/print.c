/* SPDX-License-Identifier: MIT */
/* A finding as text. */
#include <string.h>

#include "sim/core/sim.h"

static void print_time(FILE *out, uint64_t ps)
{
    if (ps < WAD_PS_PER_S / 1000)
        fprintf(out, "%.3f us", (double)ps / 1e6);
    else if (ps < WAD_PS_PER_S)
        fprintf(out, "%.6f ms", (double)ps / 1e9);
    else
        fprintf(out, "%.9f s", (double)ps / 1e12);
}

static void print_source_line(const wad_place *place, FILE *out)
{
    char *text = NULL;
    if (!place->file || !g_file_get_contents(place->file, &text, NULL, NULL))
        return;
    char **lines = g_strsplit(text, "\n", -1);
    if (place->line && place->line <= g_strv_length(lines))
        fprintf(out, "      %5u | %s\n", place->line, lines[place->line - 1]);
    g_strfreev(lines);
    g_free(text);
}

/* Below the working folder a relative path reads better. */
static const char *short_path(const char *file)
{
    char *cwd = g_get_current_dir();
    size_t n = strlen(cwd);
    bool below = g_str_has_prefix(file, cwd) && file[n] == '/';
    g_free(cwd);
    return below ? file + n + 1 : file;
}

static void print_place(const wad_place *place, FILE *out)
{
    if (place->file)
        fprintf(out, "%s:%u", short_path(place->file), place->line);
    else
        fputs("(no source line known)", out);
    if (place->function)
        fprintf(out, " in %s", place->function);
}

void wad_finding_print(const wad_finding *f, FILE *out)
{
    fprintf(out, "W%d  %s\n      %s\n", (int)f->kind, wad_finding_title(f->kind), f->what);
    if (f->n_places) {
        fputs("      at ", out);
        print_place(&f->places[0], out);
        fputc('\n', out);
        print_source_line(&f->places[0], out);
    }
    if (f->reg && f->bits)
        wad_show_bits(f->reg, f->reg_index, f->value, f->bits, 6, out);
    for (unsigned i = 1; i < f->n_places; i++) {
        fputs("      called from ", out);
        print_place(&f->places[i], out);
        fputc('\n', out);
    }
    fputs("      ", out);
    if (f->count > 1)
        fprintf(out, "%u times, ", f->count);
    fputs(f->count > 1 ? "first at " : "at ", out);
    print_time(out, f->first_ps);
    if (f->count > 1) {
        fputs(", last at ", out);
        print_time(out, f->last_ps);
    }
    fprintf(out, "\n      cure: %s\n", f->hint);
}
