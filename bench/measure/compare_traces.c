/* SPDX-License-Identifier: MIT */
/* Two register traces, access by access. */
#include <glib.h>
#include <string.h>

#include "files/csv.h"
#include "wadium/host/recording.h"
#include "wadium/host/words.h"

#define AHEAD 32u /* accesses that are looked at to find the way back */

typedef struct one_access {
    wad_fieldref ref;
    bool write;
    uint64_t value;
    unsigned times; /* in a row: a poll */
    char where[48]; /* "lamp.c:37" */
} one_access;

/* ---- reading ---- */

static bool same_place(const one_access *a, const one_access *b)
{
    return a->write == b->write && a->ref.block == b->ref.block && a->ref.reg == b->ref.reg &&
           a->ref.reg_index == b->ref.reg_index;
}

/* Its columns by their headings, so that others may stand between. */
typedef struct columns {
    int file, line, way, reg, value;
} columns;

static int column(char **heads, const char *name)
{
    for (int i = 0; heads[i]; i++)
        if (!strcmp(heads[i], name))
            return i;
    return -1;
}

static const char *cell(char **cells, unsigned n, int which)
{
    return which >= 0 && (unsigned)which < n ? cells[which] : NULL;
}

static bool read_row(const wad_sheet *sheet, char **cells, const columns *c, one_access *a,
                     char **why)
{
    unsigned n = g_strv_length(cells);
    const char *way = cell(cells, n, c->way), *reg = cell(cells, n, c->reg);
    const char *value = cell(cells, n, c->value);
    const char *file = cell(cells, n, c->file), *line = cell(cells, n, c->line);
    *a = (one_access){.times = 1};
    if (!way || !reg || !value || (c->file >= 0 && !file) || (c->line >= 0 && !line)) {
        *why = g_strdup("the row is cut short");
        return false;
    }
    a->write = !strcmp(way, "write");
    if (!a->write && strcmp(way, "read")) {
        *why = g_strdup_printf("'%s' is no access: read or write", way);
        return false;
    }
    if (file && line)
        g_snprintf(a->where, sizeof a->where, "%s:%s", file, line);
    if (!wad_sheet_resolve(sheet, reg, &a->ref, why))
        return false;
    if (!wad_parse_number(value, &a->value) || a->value >> (a->ref.reg->width - 1) >> 1) {
        *why =
            g_strdup_printf("'%s' is no value of a register of %u bits", value, a->ref.reg->width);
        return false;
    }
    return true;
}

/* The last read of a poll is the one that counts. */
static void append(GArray *list, const one_access *a)
{
    one_access *last = list->len ? &g_array_index(list, one_access, list->len - 1) : NULL;
    if (last && !a->write && same_place(last, a)) {
        last->value = a->value;
        last->times++;
    } else
        g_array_append_val(list, *a);
}

static GArray *read_trace(const wad_sheet *sheet, const char *path, char **why)
{
    char *text;
    gsize size;
    GError *error = NULL;
    *why = NULL;
    if (!g_file_get_contents(path, &text, &size, &error)) {
        *why = g_strdup(error->message);
        g_error_free(error);
        return NULL;
    }
    char **lines = g_strsplit(text, "\n", -1),
         **heads = wadi_csv_split(lines[0] ? lines[0] : "", ',');
    const columns c = {column(heads, "file"), column(heads, "line"), column(heads, "access"),
                       column(heads, "register"), column(heads, "value")};
    GArray *list = g_array_new(FALSE, FALSE, sizeof(one_access));
    if (c.way < 0 || c.reg < 0 || c.value < 0 || strlen(text) != size)
        *why = g_strdup_printf("%s is no register trace: 'wadium run --trace FILE.csv' writes them",
                               path);
    for (unsigned i = 1; !*why && lines[0] && lines[i]; i++) {
        one_access a;
        char *wrong = NULL;
        if (!*g_strchomp(lines[i]))
            continue;
        char **cells = wadi_csv_split(lines[i], ',');
        if (read_row(sheet, cells, &c, &a, &wrong))
            append(list, &a);
        else
            *why = g_strdup_printf("%s:%u: %s", path, i + 1, wrong);
        g_free(wrong);
        g_strfreev(cells);
    }
    if (!*why && !list->len)
        *why = g_strdup_printf("%s: a trace without an access", path);
    g_strfreev(heads);
    g_strfreev(lines);
    g_free(text);
    if (!*why)
        return list;
    g_array_free(list, TRUE);
    return NULL;
}

/* ---- comparing ---- */

static uint64_t volatile_bits(const wad_register *r)
{
    uint64_t bits = 0;
    for (unsigned i = 0; i < r->n_fields; i++) {
        const wad_bitfield *f = r->fields[i];
        for (unsigned k = 0; f->is_volatile && k < f->per_reg; k++)
            bits |= ((UINT64_C(1) << f->width) - 1) << (f->lsb + k * f->step);
    }
    return bits;
}

static void tell(FILE *out, const char *mark, unsigned number, const one_access *a)
{
    const wad_word w = {.ref = a->ref, .value = a->value};
    fprintf(out, "  %s %4u %-5s %-16s ", mark, number, a->write ? "write" : "read", a->where);
    wad_show_word_line(&w, out);
}

static const one_access *at(const GArray *list, unsigned i)
{
    return i < list->len ? &g_array_index(list, one_access, i) : NULL;
}

/* How far to skip in each until they go on alike; false: they do not any more. */
static bool find_way(const GArray *a, unsigned i, const GArray *b, unsigned k, unsigned *skip_a,
                     unsigned *skip_b)
{
    for (unsigned sum = 1; sum <= AHEAD; sum++)
        for (unsigned x = 0; x <= sum; x++) {
            const one_access *p = at(a, i + x), *q = at(b, k + (sum - x));
            if (p && q && same_place(p, q)) {
                *skip_a = x;
                *skip_b = sum - x;
                return true;
            }
        }
    return false;
}

static void compare_pair(const one_access *p, const one_access *q, unsigned number,
                         wad_traces_compared *r, FILE *out)
{
    uint64_t differ = p->value ^ q->value, by_itself = p->write ? 0 : volatile_bits(p->ref.reg);
    r->accesses++;
    if (!differ)
        return;
    if (!(differ & ~by_itself)) {
        r->expected++;
        return;
    }
    r->different++;
    tell(out, "-", number, p);
    tell(out, "+", number, q);
}

static void tell_only(const GArray *list, unsigned from, unsigned n, const char *mark,
                      wad_traces_compared *r, FILE *out)
{
    for (unsigned i = 0; i < n && at(list, from + i); i++) {
        r->different++;
        if (i < AHEAD)
            tell(out, mark, from + i + 1, at(list, from + i));
    }
}

bool wad_trace_compare(const wad_sheet *sheet, const char *path_a, const char *path_b,
                       wad_traces_compared *r, FILE *out, char **why)
{
    GArray *a = read_trace(sheet, path_a, why), *b = a ? read_trace(sheet, path_b, why) : NULL;
    unsigned i = 0, k = 0;
    *r = (wad_traces_compared){0};
    while (b && (at(a, i) || at(b, k))) {
        const one_access *p = at(a, i), *q = at(b, k);
        unsigned skip_a = a->len - i, skip_b = b->len - k;
        if (p && q && same_place(p, q)) {
            compare_pair(p, q, i + 1, r, out);
            i++;
            k++;
            continue;
        }
        if (!p || !q) { /* one was recorded for longer */
            fprintf(out, "the %s ends after %u accesses, the %s has %u more\n",
                    p ? "second" : "first", p ? k : i, p ? "first" : "second", p ? skip_a : skip_b);
            break;
        }
        find_way(a, i, b, k, &skip_a, &skip_b);
        tell_only(a, i, skip_a, "-", r, out);
        tell_only(b, k, skip_b, "+", r, out);
        i += skip_a;
        k += skip_b;
    }
    if (b)
        fprintf(out, "%u accesses compared: %u differ%s, %u in what the chip changes by itself\n",
                r->accesses, r->different, r->different == 1 ? "s" : "", r->expected);
    bool good = b != NULL;
    if (a)
        g_array_free(a, TRUE);
    if (b)
        g_array_free(b, TRUE);
    return good;
}
