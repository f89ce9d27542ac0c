/* SPDX-License-Identifier: MIT */
/* `expect SUBJECT WORDS OPERANDS [from T] [to T]`: the subject decides which words may follow. */
#include <string.h>

#include "bench/language/block_name.h"
#include "bench/language/dma.h"
#include "bench/language/probe.h"
#include "bench/language/statement.h"
#include "bench/language/value.h"
#include "expectation.h"
#include "lang/rational.h"
#include "lang/suggest.h"
#include "registry.h"

static bool parse_operands(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    unsigned takes = e->cls->operands;
    if (takes & WADI_TAKES_TEXT) {
        const char *text = wadi_need_string(c, "the text in quotes");
        e->says = text ? wadi_arena_strndup(b->arena, text, strlen(text)) : "";
    }
    if (takes & WADI_TAKES_LEVEL)
        wadi_parse_level(c, &e->level);
    if (takes & WADI_TAKES_VALUE && !wadi_expect_wanted(c, e, e->cls->unit))
        return false;
    if (takes & WADI_TAKES_WITHIN)
        wadi_expect_within(c, e, e->cls->unit);
    if (takes & WADI_TAKES_AT && wadi_need_word(c, "at"))
        wadi_parse_ps(c, &e->at_ps);
    if (takes & WADI_TAKES_BY) {
        e->at_ps = UINT64_MAX;
        if (wadi_take_word(c, "by"))
            wadi_parse_ps(c, &e->at_ps);
    }
    return !c->failed;
}

static void parse_window(wadi_cursor *c, wadi_expectation *e)
{
    wad_where where = c->tok->where;
    bool there = wadi_at_word(c, "from") || wadi_at_word(c, "to");
    const char *why = there && e->cls->no_window ? e->cls->no_window(e) : NULL;
    if (why)
        wadi_fail(c, &where, why);
    if (wadi_take_word(c, "from"))
        wadi_parse_ps(c, &e->from_ps);
    if (wadi_take_word(c, "to"))
        wadi_parse_ps(c, &e->to_ps);
    if (e->to_ps <= e->from_ps)
        wadi_fail(c, &where, "the window ends before it begins");
}

/* ---- subjects: each takes its name if it is one; -1: it is none ---- */

static bool interrupt_subject(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    const char *name;
    if (!wadi_take_line(c, b->sheet, &e->number, &name))
        return false;
    if (!c->failed)
        wadi_bench_capture_irq(b, e->number, name);
    return true;
}

static int part_subject(wad_bench *b, const char *name, bool serial)
{
    int i = wadi_bench_part(b, name);
    const wadi_part_said *said = i < 0 ? NULL : b->parts->pdata[i];
    return said && (said->shell == &wadi_serial_shell) == serial ? i : -1;
}

static int peer_subject(wad_bench *b, wadi_cursor *c, const char *name)
{
    (void)c;
    return part_subject(b, name, true);
}

static int device_subject(wad_bench *b, wadi_cursor *c, const char *name)
{
    (void)c;
    return part_subject(b, name, false);
}

static int volts_subject(wad_bench *b, wadi_cursor *c, const char *name)
{
    (void)c;
    return wadi_bench_volts(b, name);
}

static int pin_subject(wad_bench *b, wadi_cursor *c, const char *name)
{
    (void)c;
    return wadi_bench_probe(b, name);
}

static void no_subject(wad_bench *b, wadi_cursor *c, const wad_where *where, const char *name)
{
    GPtrArray *names = g_ptr_array_new();
    for (guint i = 0; i < b->probes->len; i++)
        g_ptr_array_add(names, (gpointer)g_array_index(b->probes, wadi_probe, i).name);
    wadi_error(c->src, where, "nothing is captured as '%s'%s: capture PIN as %s", name,
               wadi_suggest(b->arena, name, (const char *const *)names->pdata, names->len), name);
    g_ptr_array_free(names, TRUE);
    c->failed = true;
}

static bool channel_subject(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    wadi_cursor start = *c;
    e->block = wadi_take_dma(b, c);
    if (!e->block || !wadi_take_word(c, "channel")) {
        *c = start;
        return false;
    }
    wadi_parse_channel(c, e->block, &e->number);
    return true;
}

static wadi_about parse_subject(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    static const struct {
        wadi_about about;
        int (*take)(wad_bench *b, wadi_cursor *c, const char *name);
    } subjects[] = {{WADI_ABOUT_PEER, peer_subject},
                    {WADI_ABOUT_DEVICE, device_subject},
                    {WADI_ABOUT_VOLTS, volts_subject},
                    {WADI_ABOUT_PIN, pin_subject}};
    wad_where where = c->tok->where;
    if (wadi_expectation_next(c, WADI_ABOUT_RUN))
        return WADI_ABOUT_RUN;
    if (channel_subject(b, c, e))
        return WADI_ABOUT_CHANNEL;
    if (interrupt_subject(b, c, e))
        return WADI_ABOUT_INTERRUPT;
    const char *name = wadi_need_name(c, "what is expected");
    for (unsigned i = 0; name && i < G_N_ELEMENTS(subjects); i++) {
        int number = subjects[i].take(b, c, name);
        if (number < 0)
            continue;
        e->number = (unsigned)number;
        return subjects[i].about;
    }
    if (name)
        no_subject(b, c, &where, name);
    return WADI_ABOUTS;
}

/* ---- the statement ---- */

/* A text in its quotes, so that what does not print is seen. */
static void append_word(GString *text, const wadi_tok *t)
{
    char *shown = t->type == WADI_T_STRING ? g_strescape(t->text, NULL) : NULL;
    if (shown)
        g_string_append_printf(text, "\"%s\"", shown);
    else
        g_string_append(text, t->text ? t->text : "");
    g_free(shown);
}

static const char *text_between(wad_bench *b, const wadi_tok *from, const wadi_tok *to)
{
    GString *text = g_string_new(NULL);
    for (const wadi_tok *t = from; t < to; t++) {
        bool behind_dot = t > from && t[-1].type == WADI_T_PUNCT && !strcmp(t[-1].text, ".");
        bool glue = t == from || (t->glued && (t->type != WADI_T_NAME || behind_dot));
        g_string_append(text, glue ? "" : " ");
        if (t->type == WADI_T_NUMBER)
            g_string_append_printf(text, "%.12g", wadi_rat_double(t->number));
        else
            append_word(text, t);
    }
    char *copy = wadi_arena_strndup(b->arena, text->str, text->len);
    g_string_free(text, TRUE);
    return copy;
}

static bool take_words(wadi_cursor *c, const wadi_expectation_class *cls)
{
    char **words = g_strsplit(cls->words, " ", -1);
    for (unsigned i = 0; words[i]; i++)
        wadi_need_word(c, words[i]);
    g_strfreev(words);
    return !c->failed;
}

static const wadi_expectation_class *parse_class(wadi_cursor *c, wadi_about about)
{
    if (c->failed || about == WADI_ABOUTS)
        return NULL;
    const wadi_expectation_class *cls = wadi_expectation_next(c, about);
    if (cls)
        return cls;
    char *words = wadi_expectation_words(about);
    wadi_expected(c, words);
    g_free(words);
    return NULL;
}

static void parse_expect(wad_bench *b, wadi_cursor *c, const char *word)
{
    (void)word;
    const wadi_tok *start = c->tok;
    wadi_expectation e = {.where = start->where, .to_ps = UINT64_MAX};
    e.where.file = b->file ? b->file : "(said in C)"; /* lives as long as the bench */
    wadi_about about = parse_subject(b, c, &e);
    const wadi_tok *words = c->tok;
    e.cls = parse_class(c, about);
    if (!e.cls || !take_words(c, e.cls) ||
        !(e.cls->parse ? e.cls->parse : parse_operands)(b, c, &e))
        return;
    const char *why = e.cls->refuses ? e.cls->refuses(b, &e) : NULL;
    if (why)
        wadi_fail(c, &start->where, why);
    if (e.cls->windowed || e.cls->no_window)
        parse_window(c, &e);
    if (!wadi_need_end(c))
        return;
    const wadi_tok *wanted = words + !e.cls->word_is_wanted;
    e.subject = text_between(b, start, wanted);
    e.text = text_between(b, wanted, c->tok);
    if (e.cls->say)
        e.cls->say(b, &e);
    g_array_append_val(b->expects, e);
}

const wadi_statement_class wadi_say_expect = {.words = "expect", .parse = parse_expect};
