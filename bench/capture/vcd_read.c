/* SPDX-License-Identifier: MIT */
/* VCD reading: one pass over the mapped file, nothing kept but the identifiers. */
#include <glib.h>
#include <string.h>

#include "wadium/host/capture.h"

#define DIRECT 16384 /* identifiers of one and two characters are found by a table */

#define REAL (-2) /* ids from here on down are real signals; -1: passed over */

typedef struct reader {
    const char *p, *end, *start;
    const char *name;
    const wad_vcd_listener *to;
    wad_diags *diags;
    int32_t direct[DIRECT]; /* channel + 1; 0 unknown, -1 known but wide */
    GHashTable *longer;     /* identifiers of three characters and more */
    unsigned channels, reals;
    GString *scope;
    uint64_t scale_num, scale_den; /* picoseconds in one unit of the file's time */
    bool scale_is_ps;
    uint64_t ps;
    bool failed;
} reader;

static unsigned line_of(const reader *r, const char *at)
{
    unsigned line = 1;
    for (const char *p = r->start; p < at && (p = memchr(p, '\n', (size_t)(at - p))); p++)
        line++;
    return line;
}

static bool fail(reader *r, const char *at, const char *format, const char *arg)
{
    wad_where where = {r->name, line_of(r, at), 1};
    if (!r->failed)
        wad_diags_add(r->diags, WAD_ERROR, &where, NULL, format, arg);
    r->failed = true;
    return false;
}

static inline bool is_space(char c)
{
    return c == ' ' || c == '\n' || c == '\t' || c == '\r';
}

static inline void skip_space(reader *r)
{
    const char *p = r->p, *end = r->end;
    while (p < end && is_space(*p))
        p++;
    r->p = p;
}

/* The next word; empty at the end of the file. */
static size_t word(reader *r, const char **start)
{
    skip_space(r);
    *start = r->p;
    while (r->p < r->end && !is_space(*r->p))
        r->p++;
    return (size_t)(r->p - *start);
}

static bool is_word(const char *start, size_t n, const char *text)
{
    return n == strlen(text) && !memcmp(start, text, n);
}

/* ---- identifiers ---- */

static inline unsigned direct_slot(const char *id, size_t n)
{
    return (unsigned char)id[0] % 128u + (n == 2 ? (unsigned char)id[1] % 128u * 128u : 0);
}

static void remember(reader *r, const char *id, size_t n, int32_t value)
{
    if (n <= 2)
        r->direct[direct_slot(id, n)] = value;
    else
        g_hash_table_insert(r->longer, g_strndup(id, n), GINT_TO_POINTER(value));
}

static inline int32_t recall(reader *r, const char *id, size_t n)
{
    if (n <= 2)
        return n ? r->direct[direct_slot(id, n)] : 0;
    char *key = g_strndup(id, n);
    int32_t value = GPOINTER_TO_INT(g_hash_table_lookup(r->longer, key));
    g_free(key);
    return value;
}

/* ---- header ---- */

static bool skip_section(reader *r, const char *from)
{
    const char *w;
    size_t n;
    while ((n = word(r, &w)))
        if (is_word(w, n, "$end"))
            return true;
    return fail(r, from, "this section has no $end%s", "");
}

static bool read_timescale(reader *r, const char *from)
{
    static const struct {
        const char *unit;
        uint64_t num, den;
    } units[] = {{"s", UINT64_C(1000000000000), 1},
                 {"ms", UINT64_C(1000000000), 1},
                 {"us", UINT64_C(1000000), 1},
                 {"ns", 1000, 1},
                 {"ps", 1, 1},
                 {"fs", 1, 1000}};
    const char *w;
    char text[16] = "";
    size_t used = 0, n;
    while ((n = word(r, &w)) && !is_word(w, n, "$end"))
        for (size_t i = 0; i < n && used + 1 < sizeof text; i++)
            text[used++] = w[i];
    char *unit;
    uint64_t count = g_ascii_strtoull(text, &unit, 10);
    for (unsigned i = 0; i < G_N_ELEMENTS(units); i++)
        if (!strcmp(unit, units[i].unit) && (count == 1 || count == 10 || count == 100)) {
            r->scale_num = units[i].num * count;
            r->scale_den = units[i].den;
            r->scale_is_ps = r->scale_num == 1 && r->scale_den == 1;
            return true;
        }
    return fail(r, from, "timescale '%s' is none of 1, 10, 100 of s, ms, us, ns, ps, fs", text);
}

static bool read_var(reader *r, const char *from)
{
    const char *type, *width, *id, *name;
    size_t n_type = word(r, &type), n_width = word(r, &width), n_id = word(r, &id),
           n_name = word(r, &name);
    if (!n_type || !n_width || !n_id || !n_name || *name == '$')
        return fail(r, from, "a variable is written: $var wire 1 ID NAME $end%s", "");
    char *key = g_strndup(id, n_id);
    bool known = recall(r, id, n_id) != 0;
    g_free(key);
    if (!known && n_width == 1 && *width == '1') {
        remember(r, id, n_id, (int32_t)++r->channels);
        char *full = g_strdup_printf("%.*s", (int)n_name, name);
        r->to->channel(r->to->ctx, r->channels - 1, full);
        g_free(full);
    } else if (!known && is_word(type, n_type, "real") && r->to->real_channel) {
        remember(r, id, n_id, REAL - (int32_t)r->reals);
        char *full = g_strdup_printf("%.*s", (int)n_name, name);
        r->to->real_channel(r->to->ctx, r->reals++, full);
        g_free(full);
    } else if (!known) {
        remember(r, id, n_id, -1);
    }
    return skip_section(r, from);
}

static bool read_header(reader *r)
{
    for (;;) {
        const char *w;
        size_t n = word(r, &w);
        if (!n)
            return fail(r, r->end, "the file ends within its header%s: no $enddefinitions", "");
        if (is_word(w, n, "$enddefinitions"))
            return skip_section(r, w);
        bool ok = is_word(w, n, "$timescale") ? read_timescale(r, w)
                  : is_word(w, n, "$var")     ? read_var(r, w)
                  : *w == '$'                 ? skip_section(r, w)
                                              : fail(r, w,
                                                     "no VCD file: a section beginning with "
                                                                     "'$' was expected%s",
                                                     "");
        if (!ok)
            return false;
    }
}

/* ---- changes ---- */

/* Eight decimal digits at once; false when one of the bytes is none. Little-endian hosts only. */
static inline bool eight_digits(const char *p, uint64_t *value)
{
    uint64_t v;
    memcpy(&v, p, 8);
    uint64_t above = v + UINT64_C(0x4646464646464646), below = v - UINT64_C(0x3030303030303030);
    if ((above | below) & UINT64_C(0x8080808080808080))
        return false;
    v = below;
    v = v * 10 + (v >> 8);
    *value = (((v & UINT64_C(0x000000FF000000FF)) * UINT64_C(0x000F424000000064) +
               (v >> 16 & UINT64_C(0x000000FF000000FF)) * UINT64_C(0x0000271000000001)) >>
              32);
    return true;
}

/* Here and below the position is kept in a local: through `r` every character read would force a
 * store. */
static inline bool read_time(reader *r)
{
    const char *from = r->p, *p = from + 1, *end = r->end;
    uint64_t t = 0, eight;
    while (end - p >= 8 && eight_digits(p, &eight)) {
        t = t * 100000000 + eight;
        p += 8;
    }
    while (p < end && (unsigned char)(*p - '0') < 10)
        t = t * 10 + (uint64_t)(*p++ - '0');
    r->p = p;
    if (p == from + 1 || p - from > 20 || (p < end && !is_space(*p)))
        return fail(r, from, "'#' must be followed by a time%s", "");
    uint64_t ps = t;
    if (!r->scale_is_ps)
        ps = t * r->scale_num / r->scale_den;
    if (ps < r->ps)
        return fail(r, from, "time goes back%s", "");
    r->ps = ps;
    return true;
}

static inline wad_level level_of(char c)
{
    return c == '0' ? WAD_LOW : c == '1' ? WAD_HIGH : WAD_FLOATING;
}

static inline bool read_level(reader *r)
{
    const char *from = r->p, *id = from + 1, *p = id, *end = r->end;
    int32_t channel;
    if (end - id >= 2 && id[1] == '\n') { /* by far the commonest: one character, one line */
        channel = r->direct[(unsigned char)id[0] % 128u];
        p += 2;
    } else {
        while (p < end && !is_space(*p))
            p++;
        channel = recall(r, id, (size_t)(p - id));
    }
    r->p = p;
    if (!channel)
        return fail(r, from, "a change of an identifier that no $var declared%s", "");
    if (channel > 0)
        r->to->edge(r->to->ctx, (unsigned)channel - 1, r->ps, level_of(*from));
    return true;
}

/* A vector or real: value, then identifier; one bit written as a vector still counts. */
static bool read_vector(reader *r)
{
    const char *value, *id;
    size_t n_value = word(r, &value), n_id = word(r, &id);
    int32_t channel = n_id ? recall(r, id, n_id) : 0;
    if (!channel)
        return fail(r, value, "a change of an identifier that no $var declared%s", "");
    if (channel <= REAL && r->to->real && (*value == 'r' || *value == 'R')) {
        char *end, text[64];
        g_snprintf(text, sizeof text, "%.*s", (int)n_value - 1, value + 1);
        double number = g_ascii_strtod(text, &end);
        if (end == text || *end)
            return fail(r, value, "'%s' is no number", text);
        r->to->real(r->to->ctx, (unsigned)(REAL - channel), r->ps, number);
    }
    if (channel > 0 && n_value > 1) {
        char c = value[n_value - 1];
        r->to->edge(r->to->ctx, (unsigned)channel - 1, r->ps, level_of(c));
    }
    return true;
}

static bool read_changes(reader *r)
{
    for (;;) {
        if (r->p < r->end && *r->p == '\n')
            r->p++;
        else
            skip_space(r);
        if (r->p >= r->end)
            return true;
        bool ok = true;
        const char *w;
        switch (*r->p) {
        case '#':
            ok = read_time(r);
            break;
        case '0':
        case '1':
        case 'x':
        case 'X':
        case 'z':
        case 'Z':
            ok = read_level(r);
            break;
        case 'b':
        case 'B':
        case 'r':
        case 'R':
            ok = read_vector(r);
            break;
        case '$': { /* $dumpvars and its like bracket changes; $comment does not */
            size_t n = word(r, &w);
            ok = !is_word(w, n, "$comment") || skip_section(r, w);
            break;
        }
        default:
            ok = fail(r, r->p, "neither a time nor a change%s", "");
        }
        if (!ok)
            return false;
    }
}

bool wad_vcd_parse(const char *text, size_t size, const char *name, const wad_vcd_listener *to,
                   wad_diags *diags)
{
    reader *r = g_new0(reader, 1);
    *r = (reader){.p = text,
                  .end = text + size,
                  .start = text,
                  .name = name,
                  .to = to,
                  .diags = diags,
                  .scale_num = 1000,
                  .scale_den = 1};
    r->longer = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    bool ok = read_header(r) && read_changes(r);
    if (ok && to->end)
        to->end(to->ctx, r->ps);
    g_hash_table_destroy(r->longer);
    g_free(r);
    return ok;
}

bool wad_vcd_read(const char *path, const wad_vcd_listener *to, wad_diags *diags)
{
    GError *error = NULL;
    GMappedFile *map = g_mapped_file_new(path, FALSE, &error);
    if (!map) {
        wad_diags_add(diags, WAD_ERROR, &(wad_where){path, 0, 0}, NULL, "cannot read it: %s",
                      error->message);
        g_error_free(error);
        return false;
    }
    const char *text = g_mapped_file_get_contents(map);
    bool ok = wad_vcd_parse(text ? text : "", g_mapped_file_get_length(map), path, to, diags);
    g_mapped_file_unref(map);
    return ok;
}
