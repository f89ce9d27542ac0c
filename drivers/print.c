/* SPDX-License-Identifier: MIT */
#include <stdbool.h>
#include <wadium/print.h>

typedef struct out {
    wad_put_fn put;
    void *context;
    size_t n;
} out;

static void put(out *o, char c)
{
    o->put(c, o->context);
    o->n++;
}

/* What stands between the percent sign and its letter. */
typedef struct spec {
    bool left, zeros;
    unsigned width;
    int point; /* digits behind it; -1: no point */
} spec;

static void pad(out *o, const spec *s, unsigned used, char with)
{
    for (unsigned i = used; i < s->width; i++)
        put(o, with);
}

/* Digits from the last one on, then the other way round: 10 of a 32-bit number, its point, its
 * sign. */
static void put_number(out *o, const spec *s, uint32_t value, unsigned radix, bool negative)
{
    char text[16];
    unsigned n = 0;
    do {
        if (s->point > 0 && n == (unsigned)s->point)
            text[n++] = '.';
        text[n++] = "0123456789abcdef"[value % radix];
        value /= radix;
    } while (value || (s->point >= 0 && n <= (unsigned)s->point + (s->point > 0)));
    unsigned used = n + negative;
    if (!s->left && !s->zeros)
        pad(o, s, used, ' ');
    if (negative)
        put(o, '-');
    if (!s->left && s->zeros)
        pad(o, s, used, '0');
    while (n)
        put(o, text[--n]);
    if (s->left)
        pad(o, s, used, ' ');
}

static void put_text(out *o, const spec *s, const char *text)
{
    unsigned n = 0;
    while (text[n])
        n++;
    if (!s->left)
        pad(o, s, n, ' ');
    for (unsigned i = 0; i < n; i++)
        put(o, text[i]);
    if (s->left)
        pad(o, s, n, ' ');
}

static const char *read_spec(const char *p, spec *s)
{
    *s = (spec){.point = -1};
    for (; *p == '-' || *p == '0'; p++) {
        s->left = s->left || *p == '-';
        s->zeros = s->zeros || *p == '0';
    }
    for (; *p >= '0' && *p <= '9'; p++)
        s->width = s->width * 10u + (unsigned)(*p - '0');
    if (*p == '.')
        for (s->point = 0, p++; *p >= '0' && *p <= '9'; p++)
            s->point = s->point * 10 + (*p - '0');
    if (s->point > 9)
        s->point = 9;
    return p;
}

size_t wad_vprint(wad_put_fn fn, void *context, const char *format, va_list args)
{
    out o = {fn, context, 0};
    for (const char *p = format; *p; p++) {
        spec s;
        if (*p != '%') {
            put(&o, *p);
            continue;
        }
        const char *from = p;
        p = read_spec(p + 1, &s);
        if (*p == 'd' || *p == 'i') {
            int32_t value = va_arg(args, int32_t);
            uint32_t size = value < 0 ? 0u - (uint32_t)value : (uint32_t)value;
            put_number(&o, &s, size, 10, value < 0);
        } else if (*p == 'u' || *p == 'x') {
            put_number(&o, &s, va_arg(args, uint32_t), *p == 'x' ? 16 : 10, false);
        } else if (*p == 'c') {
            put(&o, (char)va_arg(args, int));
        } else if (*p == 's') {
            put_text(&o, &s, va_arg(args, const char *));
        } else if (*p == '%') {
            put(&o, '%');
        } else { /* as it stands, and not beyond the end */
            for (; from < p; from++)
                put(&o, *from);
            if (!*p)
                break;
            put(&o, *p);
        }
    }
    return o.n;
}

size_t wad_print(wad_put_fn fn, void *context, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    size_t n = wad_vprint(fn, context, format, args);
    va_end(args);
    return n;
}

typedef struct buffer {
    char *at;
    size_t left;
} buffer;

static void put_buffer(char c, void *context)
{
    buffer *b = context;
    if (b->left > 1) {
        *b->at++ = c;
        b->left--;
    }
}

size_t wad_format(char *text, size_t size, const char *format, ...)
{
    buffer b = {text, size};
    va_list args;
    va_start(args, format);
    size_t n = wad_vprint(put_buffer, &b, format, args);
    va_end(args);
    if (size)
        *b.at = 0;
    return n;
}

void wad_print_memory(wad_put_fn fn, void *context, const void *data, size_t n, uint32_t address)
{
    const uint8_t *bytes = data;
    for (size_t row = 0; row < n; row += 16) {
        wad_print(fn, context, "%08x ", (unsigned)(address + (uint32_t)row));
        for (size_t i = row; i < row + 16; i++)
            if (i < n)
                wad_print(fn, context, "%s%02x", i % 8 ? " " : "  ", (unsigned)bytes[i]);
            else
                wad_print(fn, context, "%s  ", i % 8 ? " " : "  ");
        wad_print(fn, context, "  |");
        for (size_t i = row; i < row + 16 && i < n; i++)
            fn(bytes[i] >= 0x20 && bytes[i] < 0x7F ? (char)bytes[i] : '.', context);
        wad_print(fn, context, "|\r\n");
    }
}
