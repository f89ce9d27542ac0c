/* SPDX-License-Identifier: MIT */
/* Tables of captured signals: CSV. */
#include "csv_read.h"

#include <errno.h>
#include <glib.h>
#include <math.h>
#include <string.h>

#include "files/csv.h"

#define COLUMNS 256

typedef struct csv {
    FILE *file;
    const char *name;
    wad_diags *diags;
    unsigned line;
    char *text; /* of getline */
    size_t room;
    char separator;
    double scale; /* picoseconds in a unit of the time */
    unsigned n;   /* columns behind the time */
    char *names[COLUMNS];
    bool logic[COLUMNS];
    int number[COLUMNS]; /* of the listener's */
} csv;

static bool fail(csv *c, const char *format, const char *arg)
{
    wad_where where = {c->name, c->line, 1};
    wad_diags_add(c->diags, WAD_ERROR, &where, NULL, format, arg);
    return false;
}

static bool is_level(const char *text, wad_level *level)
{
    if (!*text || !strcmp(text, "z") || !strcmp(text, "Z") || !strcmp(text, "x") ||
        !strcmp(text, "X"))
        *level = WAD_FLOATING;
    else if (!strcmp(text, "0") || !strcmp(text, "1"))
        *level = *text == '1' ? WAD_HIGH : WAD_LOW;
    else
        return false;
    return true;
}

static bool is_number(const char *text, double *value)
{
    char *end;
    *value = g_ascii_strtod(text, &end);
    return end != text && !*end;
}

/* "Time (ms)", "t [us]", "time_ns": the last word that is a unit. */
static double unit_of(const char *heading)
{
    static const struct {
        const char *name;
        double ps;
    } units[] = {{"s", 1e12}, {"ms", 1e9}, {"us", 1e6}, {"ns", 1e3}, {"ps", 1}};
    char **words = g_strsplit_set(heading, " _()[]/,:", -1);
    double scale = 1e12;
    for (unsigned i = 0; words[i]; i++)
        for (unsigned k = 0; k < G_N_ELEMENTS(units); k++)
            if (!g_ascii_strcasecmp(words[i], units[k].name))
                scale = units[k].ps;
    g_strfreev(words);
    return scale;
}

static bool next_line(csv *c)
{
    do {
        if (getline(&c->text, &c->room, c->file) < 0)
            return false;
        c->line++;
        g_strchomp(c->text);
    } while (!c->text[0] || c->text[0] == '#' || c->text[0] == ';');
    return true;
}

static char separator_of(const char *line)
{
    return strchr(line, '\t') ? '\t' : strchr(line, ';') && !strchr(line, ',') ? ';' : ',';
}

/* The heading, or names made up where the first line has numbers already; the reading begins at the
 * first row either way. */
static bool read_heading(csv *c)
{
    double number;
    c->scale = 1e12;
    if (!next_line(c))
        return fail(c, "an empty file%s", "");
    c->separator = separator_of(c->text);
    char **cells = wadi_csv_split(c->text, c->separator);
    unsigned n = g_strv_length(cells) - 1;
    bool heading = !is_number(cells[0], &number);
    if (heading)
        c->scale = unit_of(cells[0]);
    for (; c->n < n && c->n < COLUMNS; c->n++) {
        c->names[c->n] =
            heading ? g_strdup(cells[c->n + 1]) : g_strdup_printf("column%u", c->n + 1);
        c->logic[c->n] = true;
    }
    g_strfreev(cells);
    if (n > COLUMNS)
        return fail(c, "more than 256 signals%s", "");
    if (!c->n)
        return fail(c, "no signals: time in the first column, a signal in each further one%s", "");
    if (!heading) {
        rewind(c->file);
        c->line = 0;
    }
    return true;
}

/* What kind of signal each column is: levels, as long as nothing else stands there. */
static void classify(csv *c)
{
    long start = ftell(c->file);
    unsigned line = c->line;
    wad_level level;
    while (next_line(c)) {
        char **cells = wadi_csv_split(c->text, c->separator);
        for (unsigned i = 0; i < c->n && cells[i + 1]; i++)
            c->logic[i] = c->logic[i] && is_level(cells[i + 1], &level);
        g_strfreev(cells);
    }
    clearerr(c->file);
    fseek(c->file, start, SEEK_SET);
    c->line = line;
}

static void announce(csv *c, const wad_vcd_listener *to)
{
    unsigned levels = 0, reals = 0;
    for (unsigned i = 0; i < c->n; i++)
        if (c->logic[i]) {
            c->number[i] = (int)levels;
            if (to->channel)
                to->channel(to->ctx, levels, c->names[i]);
            levels++;
        } else {
            c->number[i] = (int)reals;
            if (to->real_channel)
                to->real_channel(to->ctx, reals, c->names[i]);
            reals++;
        }
}

typedef struct last {
    wad_level level[COLUMNS];
    double value[COLUMNS];
    bool known[COLUMNS];
    uint64_t ps;
} last;

static bool cell(csv *c, const wad_vcd_listener *to, unsigned i, const char *text, uint64_t ps,
                 last *was)
{
    wad_level level;
    double value;
    if (c->logic[i]) {
        is_level(text, &level);
        if (to->edge && (!was->known[i] || level != was->level[i]))
            to->edge(to->ctx, (unsigned)c->number[i], ps, level);
        was->level[i] = level;
    } else if (*text) {
        if (!is_number(text, &value))
            return fail(c, "'%s' is no number", text);
        if (to->real && (!was->known[i] || value != was->value[i]))
            to->real(to->ctx, (unsigned)c->number[i], ps, value);
        was->value[i] = value;
    }
    was->known[i] = true;
    return true;
}

static bool cells_of_row(csv *c, const wad_vcd_listener *to, char **cells, double *origin,
                         last *was)
{
    double time;
    if (!is_number(cells[0], &time) || !isfinite(time))
        return fail(c, "'%s' is no time", cells[0]);
    if (was->ps == UINT64_MAX)
        *origin = MIN(time, 0); /* instruments may count from their trigger on */
    double ps = (time - *origin) * c->scale;
    if (ps < 0 || ps > 1.8e19 || (was->ps != UINT64_MAX && (uint64_t)(ps + 0.5) < was->ps))
        return fail(c, "the time goes back to %s", cells[0]);
    was->ps = (uint64_t)(ps + 0.5);
    for (unsigned i = 0; i < c->n; i++) {
        if (!cells[i + 1])
            return fail(c, "the row is cut short: no value of %s", c->names[i]);
        if (!cell(c, to, i, cells[i + 1], was->ps, was))
            return false;
    }
    return cells[c->n + 1]
               ? fail(c, "the row has more fields than the heading: '%s'", cells[c->n + 1])
               : true;
}

static bool row(csv *c, const wad_vcd_listener *to, double *origin, last *was)
{
    char **cells = wadi_csv_split(c->text, c->separator);
    bool good = cells_of_row(c, to, cells, origin, was);
    g_strfreev(cells);
    return good;
}

bool wadi_csv_read(const char *path, const wad_vcd_listener *to, wad_diags *diags)
{
    csv c = {.name = path, .diags = diags, .file = fopen(path, "r")};
    last *was = g_new0(last, 1);
    double origin = 0;
    was->ps = UINT64_MAX;
    bool good = c.file ? read_heading(&c) : fail(&c, "cannot read it: %s", g_strerror(errno));
    if (good) {
        classify(&c);
        announce(&c, to);
        while (good && next_line(&c))
            good = row(&c, to, &origin, was);
        if (good && was->ps == UINT64_MAX)
            good = fail(&c, "no rows%s", "");
        if (good && to->end)
            to->end(to->ctx, was->ps);
    }
    for (unsigned i = 0; i < c.n; i++)
        g_free(c.names[i]);
    free(c.text);
    g_free(was);
    if (c.file)
        fclose(c.file);
    return good;
}
