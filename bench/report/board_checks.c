/* SPDX-License-Identifier: MIT */
/* A board's checks, line by line. */
#include "wadium/host/collect.h"

#include <glib.h>
#include <string.h>

#include "xml.h"

#define LINE 1024u /* a longer one is no line of ours */

struct wad_collect {
    GPtrArray *checks; /* wad_collected, in the order of their numbers */
    GPtrArray *trouble;
    GString *line;
    wad_collect_fn fn;
    void *ctx;
    char *board;
    uint64_t us, began_us;
    unsigned planned;
    bool begun, has_plan, sums, ended;
    unsigned damaged, restarts, strangers;
    int last; /* check that a comment may belong to; -1: none */
};

static void free_check(void *p)
{
    wad_collected *k = p;
    g_free((char *)k->name);
    g_free((char *)k->comment);
    g_free(k);
}

wad_collect *wad_collect_new(void)
{
    wad_collect *c = g_new0(wad_collect, 1);
    c->checks = g_ptr_array_new_with_free_func(free_check);
    c->trouble = g_ptr_array_new_with_free_func(g_free);
    c->line = g_string_new(NULL);
    c->last = -1;
    return c;
}

void wad_collect_free(wad_collect *c)
{
    if (!c)
        return;
    g_ptr_array_free(c->checks, TRUE);
    g_ptr_array_free(c->trouble, TRUE);
    g_string_free(c->line, TRUE);
    g_free(c->board);
    g_free(c);
}

void wad_collect_listen(wad_collect *c, wad_collect_fn line, void *ctx)
{
    c->fn = line;
    c->ctx = ctx;
}

/* ---- lines ---- */

/* Takes ` #xx` off; 1: it is right, 0: there is none, -1: it is another one. */
static int take_sum(char *line)
{
    size_t n = strlen(line);
    uint8_t sum = 0;
    if (n < 4 || line[n - 4] != ' ' || line[n - 3] != '#' || !g_ascii_isxdigit(line[n - 2]) ||
        !g_ascii_isxdigit(line[n - 1]))
        return 0;
    int told = g_ascii_xdigit_value(line[n - 2]) << 4 | g_ascii_xdigit_value(line[n - 1]);
    line[n - 4] = 0;
    for (const char *p = line; *p; p++)
        sum = (uint8_t)(sum + (uint8_t)*p);
    return sum == told ? 1 : -1;
}

static wad_collected *check_of(const wad_collect *c, unsigned number)
{
    for (guint i = 0; i < c->checks->len; i++) {
        wad_collected *k = c->checks->pdata[i];
        if (k->number == number)
            return k;
    }
    return NULL;
}

static void begin(wad_collect *c)
{
    if (c->begun) {
        c->restarts++;
        g_ptr_array_set_size(c->checks, 0);
    }
    c->begun = true;
    c->has_plan = c->sums = false;
    c->last = -1;
}

/* "12 - name # SKIP why"; false: it is no check. */
static bool take_check(wad_collect *c, const char *text, bool passed)
{
    char *end;
    guint64 number = g_ascii_strtoull(text, &end, 10);
    bool numbered = end != text;
    if (!numbered)
        number = c->checks->len + 1;
    if (number == 0 || number > 100000 || (*end && *end != ' '))
        return false;
    while (*end == ' ' || *end == '-')
        end++;
    wad_collected *k = check_of(c, (unsigned)number);
    if (k) /* said twice: the worse counts */
        k->passed = k->passed && passed;
    else {
        const char *hash = strstr(end, " # ");
        k = g_new0(wad_collected, 1);
        k->number = (unsigned)number;
        k->name = hash ? g_strndup(end, (gsize)(hash - end)) : g_strdup(end);
        k->skipped = hash && !g_ascii_strncasecmp(hash + 3, "skip", 4);
        k->comment = k->skipped ? g_strdup(g_strchug((char *)hash + 7)) : NULL;
        k->passed = passed;
        k->us = c->us;
        g_ptr_array_add(c->checks, k);
    }
    c->last = (int)k->number;
    return true;
}

static bool take_plan(wad_collect *c, const char *text)
{
    char *end;
    guint64 n = g_ascii_strtoull(text, &end, 10);
    if (end == text || n > 100000 || (*end && *end != ' '))
        return false;
    c->planned = (unsigned)n;
    c->has_plan = true;
    return true;
}

static void take_comment(wad_collect *c, const char *text)
{
    static const char own[] = "wadium checks of ";
    wad_collected *k = c->last >= 0 ? check_of(c, (unsigned)c->last) : NULL;
    if (g_str_has_prefix(text, own)) {
        g_free(c->board);
        c->board = g_strdup(text + strlen(own));
    } else if (k && !k->comment) {
        /* "name: is 3, wanted 4": the name stands there already */
        size_t n = strlen(k->name);
        bool named = !strncmp(text, k->name, n) && text[n] == ':';
        k->comment = g_strdup(g_strchug((char *)text + (named ? n + 1 : 0)));
    }
}

/* What a whole line is worth: as wad_collect_fn. */
static unsigned take_line(wad_collect *c, char *line)
{
    if (strstr(line, "TAP version 1")) { /* behind noise, too */
        begin(c);
        return 0;
    }
    int sum = take_sum(line);
    if (sum < 0 || (c->sums && sum == 0)) {
        c->damaged += c->begun;
        return 2;
    }
    if (sum > 0 && !c->begun) /* its first line was lost */
        begin(c);
    c->sums |= sum > 0;
    if (!c->begun) {
        c->strangers++;
        return 2;
    }
    bool good = g_str_has_prefix(line, "ok ")       ? take_check(c, line + 3, true)
                : g_str_has_prefix(line, "not ok ") ? take_check(c, line + 7, false)
                : g_str_has_prefix(line, "1..")     ? take_plan(c, line + 3)
                                                    : false;
    if (good)
        return 0;
    if (!g_str_has_prefix(line, "# ")) {
        c->damaged += *line != 0;
        return 2;
    }
    take_comment(c, line + 2);
    return 1;
}

static void end_line(wad_collect *c)
{
    g_strchomp(c->line->str);
    char *shown = g_strescape(c->line->str, "\"\\");
    if (c->line->str[0]) {
        unsigned heard = take_line(c, c->line->str);
        if (c->fn)
            c->fn(c->ctx, c->began_us, shown, heard);
    }
    g_free(shown);
    g_string_truncate(c->line, 0);
}

void wad_collect_feed(wad_collect *c, const void *bytes, size_t n, uint64_t us)
{
    const char *p = bytes;
    c->us = us;
    for (size_t i = 0; i < n; i++) {
        if (p[i] == '\n') {
            end_line(c);
            continue;
        }
        if (!c->line->len)
            c->began_us = us;
        if (p[i] && c->line->len < LINE)
            g_string_append_c(c->line, p[i]);
    }
}

/* ---- the end ---- */

static unsigned missing(const wad_collect *c)
{
    unsigned n = 0;
    for (unsigned i = 1; i <= c->planned; i++)
        n += !check_of(c, i);
    return n;
}

bool wad_collect_over(const wad_collect *c)
{
    return c->has_plan && (!missing(c) || c->checks->len >= c->planned);
}

static int by_number(const void *a, const void *b)
{
    const wad_collected *x = *(wad_collected *const *)a, *y = *(wad_collected *const *)b;
    return (x->number > y->number) - (x->number < y->number);
}

static void trouble(wad_collect *c, char *text)
{
    g_ptr_array_add(c->trouble, text);
}

static char *missing_numbers(const wad_collect *c)
{
    GString *text = g_string_new(NULL);
    unsigned told = 0;
    for (unsigned i = 1; i <= c->planned && told < 10; i++)
        if (!check_of(c, i))
            g_string_append_printf(text, "%s%u", told++ ? ", " : "", i);
    if (missing(c) > told)
        g_string_append(text, ", ...");
    return g_string_free(text, FALSE);
}

void wad_collect_end(wad_collect *c)
{
    if (c->ended)
        return;
    c->ended = true;
    if (c->line->len)
        end_line(c);
    g_ptr_array_sort(c->checks, by_number);
    if (c->restarts)
        trouble(c, g_strdup_printf("the board began anew %u time%s in the middle: what it said "
                                   "before does not count",
                                   c->restarts, c->restarts == 1 ? "" : "s"));
    if (!c->begun)
        trouble(c, g_strdup_printf("no check was heard%s", c->strangers
                                                               ? ", only lines that are none: is "
                                                                 "the baud right?"
                                                               : ": is the line the right one, and "
                                                                 "the board running?"));
    else if (!c->has_plan)
        trouble(c, g_strdup("the end was not heard: the board stopped in the middle, or its last "
                            "line was lost"));
    else if (missing(c)) {
        char *numbers = missing_numbers(c);
        trouble(c, g_strdup_printf("%u of %u checks did not come: %s", missing(c), c->planned,
                                   numbers));
        g_free(numbers);
    }
    if (c->damaged)
        trouble(c, g_strdup_printf("%u line%s damaged, and not believed", c->damaged,
                                   c->damaged == 1 ? " was" : "s were"));
}

const char *wad_collect_board(const wad_collect *c)
{
    return c->board;
}

unsigned wad_collect_count(const wad_collect *c)
{
    return c->checks->len;
}

const wad_collected *wad_collect_at(const wad_collect *c, unsigned i)
{
    return i < c->checks->len ? c->checks->pdata[i] : NULL;
}

const char *wad_collect_trouble(const wad_collect *c, unsigned i)
{
    return i < c->trouble->len ? c->trouble->pdata[i] : NULL;
}

static unsigned failed(const wad_collect *c)
{
    unsigned n = 0;
    for (guint i = 0; i < c->checks->len; i++)
        n += !((const wad_collected *)c->checks->pdata[i])->passed;
    return n;
}

bool wad_collect_passed(const wad_collect *c)
{
    return c->begun && c->has_plan && !c->restarts && !missing(c) && !failed(c);
}

/* ---- reports ---- */

void wad_collect_text(const wad_collect *c, FILE *out)
{
    unsigned n = c->checks->len, bad = failed(c);
    for (guint i = 0; i < n; i++) {
        const wad_collected *k = c->checks->pdata[i];
        if (!k->passed)
            fprintf(out, "FAIL  %u %s%s%s\n", k->number, k->name, k->comment ? ": " : "",
                    k->comment ? k->comment : "");
    }
    for (guint i = 0; i < c->trouble->len; i++)
        fprintf(out, "note  %s\n", (const char *)c->trouble->pdata[i]);
    fprintf(out, "%s: %u of %u checks passed\n", c->board ? c->board : "the board", n - bad,
            c->has_plan ? c->planned : n);
}

void wad_collect_junit(const wad_collect *c, const char *name, FILE *out)
{
    wadi_junit j;
    char *title = c->board ? g_strdup_printf("%s %s", name, c->board) : g_strdup(name);
    wadi_junit_begin(&j, out);
    wadi_junit_suite(&j, title);
    for (guint i = 0; i < c->checks->len; i++) {
        const wad_collected *k = c->checks->pdata[i];
        wadi_junit_case(&j, k->name,
                        k->passed    ? NULL
                        : k->comment ? k->comment
                                     : "failed",
                        k->skipped ? k->comment : NULL);
    }
    if (!wad_collect_passed(c))
        for (guint i = 0; i < c->trouble->len; i++)
            wadi_junit_case(&j, "the stream", c->trouble->pdata[i], NULL);
    wadi_junit_end(&j);
    g_free(title);
}
