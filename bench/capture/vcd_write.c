/* SPDX-License-Identifier: MIT */
/* VCD writing: one large buffer, digits by hand, moved into place when whole. */
#include <glib.h>
#include <string.h>

#include "wadium/host/capture.h"
#include "wadium/host/output.h"

#define ROOM  (1u << 18)
#define SLACK 96 /* the longest change: '#', 20 digits, level, identifier; and put_time's copy */

typedef struct writer {
    FILE *file;
    char *buffer;
    size_t used;
} writer;

static void flush(writer *w)
{
    fwrite(w->buffer, 1, w->used, w->file);
    w->used = 0;
}

/* Decimal text of a time that mostly grows in its last eight digits: the rest is kept as text. */
typedef struct clock_text {
    uint64_t high; /* time / 10^8 */
    char text[24]; /* '#' and the digits of `high`, without leading zeros */
    unsigned n;
} clock_text;

static void put_8_digits(char *p, uint32_t n)
{
    static const char pairs[] = "00010203040506070809101112131415161718192021222324"
                                "25262728293031323334353637383940414243444546474849"
                                "50515253545556575859606162636465666768697071727374"
                                "75767778798081828384858687888990919293949596979899";
    size_t a = n / 10000, b = n % 10000;
    memcpy(p, pairs + a / 100 * 2, 2);
    memcpy(p + 2, pairs + a % 100 * 2, 2);
    memcpy(p + 4, pairs + b / 100 * 2, 2);
    memcpy(p + 6, pairs + b % 100 * 2, 2);
}

static inline char *put_time(char *p, clock_text *clock, uint64_t ps)
{
    uint64_t high = ps / 100000000;
    uint32_t low = (uint32_t)(ps - high * 100000000);
    if (__builtin_expect(high == 0, 0))
        return p + sprintf(p, "#%u", low);
    if (__builtin_expect(high != clock->high, 0)) {
        clock->high = high;
        clock->n = (unsigned)sprintf(clock->text, "#%llu", (unsigned long long)high);
    }
    memcpy(p, clock->text,
           sizeof clock->text); /* a fixed size copies fast; the rest is overwritten */
    put_8_digits(p + clock->n, low);
    return p + clock->n + 8;
}

/* Identifiers from the printable characters, shortest first. */
static unsigned put_id(char *p, unsigned channel)
{
    unsigned n = 0;
    do {
        p[n++] = (char)('!' + channel % 94);
        channel /= 94;
    } while (channel--);
    return n;
}

static unsigned analog_id(const wad_capture *c, unsigned i)
{
    return wad_capture_channels(c) + wad_capture_words(c) + i;
}

static void write_header(writer *w, const wad_capture *c)
{
    fputs("$version wadium $end\n$timescale 1 ps $end\n$scope module board $end\n", w->file);
    for (unsigned i = 0; i < wad_capture_channels(c); i++) {
        char id[8];
        char *name = g_strdelimit(g_strdup(wad_capture_name(c, i)), " \t", '_');
        fprintf(w->file, "$var wire 1 %.*s %s $end\n", (int)put_id(id, i), id, name);
        g_free(name);
    }
    fputs("$upscope $end\n", w->file);
    for (unsigned i = 0; i < wad_capture_words(c); i++) {
        char id[8];
        unsigned bits;
        char **parts = g_strsplit(wad_capture_word_name(c, i, &bits), ".", 2);
        g_strdelimit(parts[1] ? parts[1] : parts[0], "[", '_');
        g_strdelimit(parts[1] ? parts[1] : parts[0], "]", ' ');
        fprintf(w->file, "$scope module %s $end\n$var reg %u %.*s %s $end\n$upscope $end\n",
                parts[1] ? parts[0] : "words", bits, (int)put_id(id, wad_capture_channels(c) + i),
                id, g_strchomp(parts[1] ? parts[1] : parts[0]));
        g_strfreev(parts);
    }
    for (unsigned i = 0; i < wad_capture_analogs(c); i++) {
        char id[8], *name = g_strdelimit(g_strdup(wad_capture_analog_name(c, i, NULL)), " \t", '_');
        fprintf(w->file, "$var real 64 %.*s %s $end\n", (int)put_id(id, analog_id(c, i)), id, name);
        g_free(name);
    }
    fputs("$enddefinitions $end\n", w->file);
}

static void write_value(writer *w, const wad_capture *c, const wad_word_record *r)
{
    char id[8], digits[65] = "";
    unsigned bits, n = 0;
    wad_capture_word_name(c, r->word, &bits);
    while (bits > 1 && !(r->value >> (bits - 1) & 1))
        bits--;
    while (bits)
        digits[n++] = r->value >> --bits & 1 ? '1' : '0';
    fprintf(w->file, "b%.*s %.*s\n", (int)n, digits,
            (int)put_id(id, wad_capture_channels(c) + r->word), id);
}

/* The analog channel whose next sample comes first; false: none is left. */
static bool first_sample(const wad_capture *c, const size_t *next, unsigned *channel,
                         wad_sample *sample)
{
    bool any = false;
    for (unsigned i = 0; i < wad_capture_analogs(c); i++) {
        size_t n;
        const wad_sample *s = wad_capture_samples(c, i, &n);
        if (next[i] >= n || (any && s[next[i]].ps >= sample->ps))
            continue;
        *sample = s[next[i]];
        *channel = i;
        any = true;
    }
    return any;
}

static void write_real(writer *w, const wad_capture *c, unsigned channel, double value)
{
    char id[8], number[G_ASCII_DTOSTR_BUF_SIZE];
    g_ascii_formatd(number, sizeof number, "%.9g", value);
    fprintf(w->file, "r%s %.*s\n", number, (int)put_id(id, analog_id(c, channel)), id);
}

/* Levels, words and volts in one stream of time; slower, and only for captures that have words. */
static void write_merged(writer *w, const wad_capture *c, uint64_t end_ps)
{
    static const char levels[] = "01zz";
    uint64_t now = UINT64_MAX, i = 0;
    size_t *next = g_new0(size_t, wad_capture_analogs(c) + 1);
    unsigned channel = 0;
    wad_sample sample = {0};
    wad_cursor at = {0};
    wad_edge_record e;
    const wad_word_record *r;
    bool edge = wad_capture_next(c, &at, &e), volts = first_sample(c, next, &channel, &sample);
    fputs("$dumpvars\n", w->file);
    for (unsigned k = 0; k < wad_capture_words(c); k++)
        write_value(w, c, &(wad_word_record){0, wad_capture_word_initial(c, k), k});
    fputs("$end\n", w->file);
    while ((r = wad_capture_value_at(c, i)) || edge || volts) {
        uint64_t ps = MIN(r ? r->ps : UINT64_MAX,
                          MIN(edge ? e.ps : UINT64_MAX, volts ? sample.ps : UINT64_MAX));
        if (ps != now)
            fprintf(w->file, "#%llu\n", (unsigned long long)ps);
        now = ps;
        if (edge && e.ps == ps) {
            char id[8];
            fprintf(w->file, "%c%.*s\n", levels[e.level], (int)put_id(id, e.channel), id);
            edge = wad_capture_next(c, &at, &e);
        } else if (r && r->ps == ps) {
            write_value(w, c, r);
            i++;
        } else {
            write_real(w, c, channel, sample.value);
            next[channel]++;
            volts = first_sample(c, next, &channel, &sample);
        }
    }
    if (end_ps != now)
        fprintf(w->file, "#%llu\n", (unsigned long long)end_ps);
    g_free(next);
}

static void write_edges(writer *w, const wad_capture *c, uint64_t end_ps)
{
    static const char levels[] = "01zz";
    uint64_t now = UINT64_MAX;
    clock_text clock = {0};
    wad_cursor at = {0};
    wad_edge_record e;
    while (wad_capture_next(c, &at, &e)) {
        char *p = w->buffer + w->used;
        if (e.ps != now) {
            now = e.ps;
            p = put_time(p, &clock, now);
            *p++ = '\n';
        }
        *p++ = levels[e.level];
        if (e.channel < 94)
            *p++ = (char)('!' + e.channel);
        else
            p += put_id(p, e.channel);
        *p++ = '\n';
        w->used = (size_t)(p - w->buffer);
        if (w->used > ROOM - SLACK)
            flush(w);
    }
    flush(w);
    if (end_ps != now)
        fprintf(w->file, "#%llu\n", (unsigned long long)end_ps);
}

bool wad_vcd_write(const wad_capture *c, const char *path, uint64_t end_ps, char **why)
{
    wad_output *out = wad_output_open(path, why);
    if (!out)
        return false;
    writer w = {.file = wad_output_file(out), .buffer = g_malloc(ROOM)};
    write_header(&w, c);
    if (wad_capture_words(c) || wad_capture_analogs(c))
        write_merged(&w, c, end_ps);
    else
        write_edges(&w, c, end_ps);
    g_free(w.buffer);
    return wad_output_close(out, why);
}
