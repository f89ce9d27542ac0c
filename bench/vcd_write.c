/* SPDX-License-Identifier: MIT */
/* VCD writing: one large buffer, digits by hand, moved into place when whole. */
#include <errno.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>

#include "wadium/host/capture.h"

#define ROOM  (1u << 18)
#define SLACK 64 /* the longest change: '#', 20 digits, level, identifier */

typedef struct writer {
    FILE *file;
    char *buffer;
    size_t used;
    bool failed;
} writer;

static void flush(writer *w)
{
    if (w->used && fwrite(w->buffer, 1, w->used, w->file) != w->used)
        w->failed = true;
    w->used = 0;
}

static inline char *put_number(char *p, uint64_t n)
{
    static const char pairs[] = "00010203040506070809101112131415161718192021222324"
                                "25262728293031323334353637383940414243444546474849"
                                "50515253545556575859606162636465666768697071727374"
                                "75767778798081828384858687888990919293949596979899";
    char digits[20];
    unsigned at = 20;
    while (n >= 100) {
        at -= 2;
        memcpy(digits + at, pairs + n % 100 * 2, 2);
        n /= 100;
    }
    if (n >= 10) {
        at -= 2;
        memcpy(digits + at, pairs + n * 2, 2);
    } else {
        digits[--at] = (char)('0' + n);
    }
    memcpy(p, digits + at, 20 - at);
    return p + 20 - at;
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

static void write_header(writer *w, const wad_capture *c)
{
    fputs("$version wadium $end\n$timescale 1 ps $end\n$scope module board $end\n", w->file);
    for (unsigned i = 0; i < wad_capture_channels(c); i++) {
        char id[8];
        char *name = g_strdelimit(g_strdup(wad_capture_name(c, i)), " \t", '_');
        fprintf(w->file, "$var wire 1 %.*s %s $end\n", (int)put_id(id, i), id, name);
        g_free(name);
    }
    fputs("$upscope $end\n$enddefinitions $end\n", w->file);
}

static void write_edges(writer *w, const wad_capture *c, uint64_t end_ps)
{
    static const char levels[] = "01z";
    uint64_t n = wad_capture_edges(c), now = UINT64_MAX;
    for (uint64_t i = 0; i < n; i++) {
        wad_edge_record e = wad_capture_at(c, i);
        char *p = w->buffer + w->used;
        if (e.ps != now) {
            now = e.ps;
            *p++ = '#';
            p = put_number(p, now);
            *p++ = '\n';
        }
        *p++ = levels[e.level];
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
    char *temp = g_strconcat(path, ".part", NULL);
    writer w = {.file = g_fopen(temp, "wb")};
    *why = NULL;
    if (w.file) {
        w.buffer = g_malloc(ROOM);
        write_header(&w, c);
        write_edges(&w, c, end_ps);
        w.failed |= ferror(w.file) != 0;
        w.failed |= fclose(w.file) != 0;
        g_free(w.buffer);
    }
    if (!w.file || w.failed || g_rename(temp, path)) {
        *why = g_strdup_printf("cannot write '%s': %s", path, g_strerror(errno));
        g_unlink(temp);
    }
    g_free(temp);
    return *why == NULL;
}
