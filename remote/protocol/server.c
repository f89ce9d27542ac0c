/* SPDX-License-Identifier: MIT */
/* The server's end of the protocol. */
#include <string.h>
#include <unistd.h>

#include "connection.h"
#include "packet.h"
#include "wadium/host/remote_server.h"

struct wad_server {
    const wad_server_target *target;
    int listener;
    unsigned port;
    wadi_connection wire;
    wadi_unpacker in;
    GByteArray *sent; /* the last reply, for whom it did not reach */
    bool no_acks;
    bool running; /* a stop reply is owed */
    bool gone;    /* he has said farewell */
    char stop[64];
    void (*out)(void *ctx, const void *data, size_t n); /* a caller by hand */
    void *out_ctx;
};

/* ---- out ---- */

static void put_bytes(wad_server *s, const void *data, size_t n)
{
    if (s->out)
        s->out(s->out_ctx, data, n);
    else if (!wadi_connection_write(&s->wire, data, n, 5000))
        s->gone = true;
}

static void reply_bytes(wad_server *s, const void *data, size_t n)
{
    g_byte_array_set_size(s->sent, 0);
    wadi_pack(s->sent, data, n, true);
    put_bytes(s, s->sent->data, s->sent->len);
}

static void reply(wad_server *s, const char *text)
{
    reply_bytes(s, text, strlen(text));
}

static void reply_free(wad_server *s, GString *text)
{
    reply_bytes(s, text->str, text->len);
    g_string_free(text, TRUE);
}

static void reply_good(wad_server *s, bool good)
{
    reply(s, good ? "OK" : "E14");
}

/* ---- registers ---- */

static void append_register(const wad_server *s, GString *text, unsigned i)
{
    uint8_t bytes[WAD_SERVER_REGISTER_MAX];
    unsigned size = 0, n = s->target->get(s->target->ctx, i, bytes, &size);
    if (n)
        wadi_hex(text, bytes, n);
    else
        for (unsigned k = 0; k < size; k++)
            g_string_append(text, "xx");
}

static void read_registers(wad_server *s)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < s->target->n_registers; i++)
        append_register(s, text, i);
    reply_free(s, text);
}

/* The value at `*text`, which moves on; false: too short. One of x keeps what there is. */
static bool set_register(wad_server *s, unsigned i, const char **text)
{
    uint8_t bytes[WAD_SERVER_REGISTER_MAX];
    unsigned size = 0;
    s->target->get(s->target->ctx, i, bytes, &size);
    if (strlen(*text) < 2 * (size_t)size)
        return false;
    const char *at = *text;
    *text += 2 * (size_t)size;
    if (*at == 'x')
        return true;
    return wadi_unhex(at, 2 * (size_t)size, bytes, sizeof bytes) == (int)size &&
           s->target->set(s->target->ctx, i, bytes);
}

static void write_registers(wad_server *s, const char *text)
{
    bool good = true;
    for (unsigned i = 0; i < s->target->n_registers && good; i++)
        good = set_register(s, i, &text);
    reply_good(s, good);
}

static void one_register(wad_server *s, const char *text, bool write)
{
    char *end;
    guint64 number = g_ascii_strtoull(text, &end, 16);
    if (number >= s->target->n_registers || (write && *end != '=')) {
        reply(s, "E00");
        return;
    }
    if (write) {
        const char *value = end + 1;
        reply_good(s, set_register(s, (unsigned)number, &value));
        return;
    }
    GString *out = g_string_new(NULL);
    append_register(s, out, (unsigned)number);
    reply_free(s, out);
}

/* ---- memory ---- */

/* "ADDRESS,LENGTH" and what follows; false: it is none. */
static bool numbers(const char *text, uint64_t *address, uint64_t *n, const char **rest)
{
    char *end;
    *address = g_ascii_strtoull(text, &end, 16);
    if (end == text || *end != ',')
        return false;
    text = end + 1;
    *n = g_ascii_strtoull(text, &end, 16);
    *rest = end;
    return end != text;
}

/* The same, no longer than a packet holds. */
static bool span(const char *text, uint64_t *address, uint64_t *n, const char **rest)
{
    return numbers(text, address, n, rest) && *n <= WADI_PACKET_MAX / 2;
}

static void read_memory(wad_server *s, const char *text)
{
    uint8_t bytes[WADI_PACKET_MAX / 2];
    uint64_t address, n;
    const char *rest;
    if (!span(text, &address, &n, &rest) ||
        !s->target->read(s->target->ctx, address, bytes, (size_t)n)) {
        reply(s, "E14");
        return;
    }
    GString *out = g_string_new(NULL);
    wadi_hex(out, bytes, (size_t)n);
    reply_free(s, out);
}

static void write_memory(wad_server *s, const char *text, bool binary)
{
    const char *whole = (const char *)s->in.data->data, *rest;
    uint8_t bytes[WADI_PACKET_MAX];
    uint64_t address, n;
    if (!span(text, &address, &n, &rest) || *rest != ':') {
        reply(s, "E22");
        return;
    }
    rest++;
    size_t there = s->in.data->len - (size_t)(rest - whole);
    if (binary ? there != n : wadi_unhex(rest, there, bytes, sizeof bytes) != (int)n) {
        reply(s, "E22"); /* not what it says: nothing is written */
        return;
    }
    if (binary)
        memcpy(bytes, rest, there);
    reply_good(s, n == 0 || s->target->write(s->target->ctx, address, bytes, (size_t)n));
}

/* ---- stops ---- */

static void set_point(wad_server *s, const char *text, bool on)
{
    uint64_t address, n;
    const char *rest;
    if (text[0] < '0' || text[0] > '4' || text[1] != ',' || !span(text + 2, &address, &n, &rest))
        reply(s, "E22");
    else if (!s->target->point(s->target->ctx, (wad_remote_point)(text[0] - '0'), address,
                               (unsigned)n, on))
        reply(s, "");
    else
        reply(s, "OK");
}

static void set_off(wad_server *s, const char *text, bool step)
{
    if (g_ascii_isxdigit(*text))
        s->target->jump(s->target->ctx, g_ascii_strtoull(text, NULL, 16));
    s->running = true;
    s->target->go(s->target->ctx, step);
}

static void stopped(wad_server *s, const char *how)
{
    g_strlcpy(s->stop, how, sizeof s->stop);
    if (!s->running)
        return;
    s->running = false;
    if (s->out || s->wire.in >= 0)
        reply(s, s->stop);
}

void wad_server_stopped(wad_server *s, unsigned signal)
{
    char how[16];
    g_snprintf(how, sizeof how, "T%02xthread:1;", signal & 0xFF);
    stopped(s, how);
}

void wad_server_stopped_at(wad_server *s, wad_remote_point kind, uint64_t address)
{
    char how[64];
    g_snprintf(how, sizeof how, "T05%swatch:%" G_GINT64_MODIFIER "x;thread:1;",
               kind == WAD_REMOTE_READS      ? "r"
               : kind == WAD_REMOTE_ACCESSES ? "a"
                                             : "",
               address);
    stopped(s, how);
}

/* ---- queries ---- */

/* "ANNEX:OFFSET,LENGTH" of a text. */
static void transfer(wad_server *s, const char *text, const char *range)
{
    uint64_t at, n;
    const char *rest;
    if (!numbers(range, &at, &n, &rest)) {
        reply(s, "E00");
        return;
    }
    n = MIN(n, WADI_PACKET_MAX / 2);
    size_t size = strlen(text);
    GString *out = g_string_new(at + n < size ? "m" : "l");
    if (at < size)
        g_string_append_len(out, text + at, (gssize)MIN(n, size - at));
    reply_free(s, out);
}

static void monitor(wad_server *s, const char *digits)
{
    char command[256];
    int n = wadi_unhex(digits, strlen(digits), (uint8_t *)command, sizeof command - 1);
    char *answer = NULL;
    if (n >= 0) {
        command[n] = 0;
        answer = s->target->monitor(s->target->ctx, command);
    }
    if (!answer)
        answer = g_strdup("unknown command; 'help' lists them\n");
    GString *out = g_string_new(NULL);
    wadi_hex(out, answer, strlen(answer));
    if (!out->len)
        g_string_assign(out, "OK");
    g_free(answer);
    reply_free(s, out);
}

static void supported(wad_server *s)
{
    char *text = g_strdup_printf("PacketSize=%x;QStartNoAckMode+;qXfer:features:read+%s",
                                 WADI_PACKET_MAX - 8,
                                 s->target->memory_map ? ";qXfer:memory-map:read+" : "");
    reply(s, text);
    g_free(text);
}

static void query(wad_server *s, const char *p)
{
    static const char features[] = "qXfer:features:read:target.xml:";
    static const char map[] = "qXfer:memory-map:read::";
    if (g_str_has_prefix(p, "qSupported"))
        supported(s);
    else if (g_str_has_prefix(p, features))
        transfer(s, s->target->description, p + strlen(features));
    else if (g_str_has_prefix(p, map) && s->target->memory_map)
        transfer(s, s->target->memory_map, p + strlen(map));
    else if (g_str_has_prefix(p, "qXfer:features"))
        reply(s, "E00");
    else if (g_str_has_prefix(p, "qRcmd,"))
        monitor(s, p + 6);
    else if (!strcmp(p, "qfThreadInfo"))
        reply(s, "m1");
    else if (!strcmp(p, "qsThreadInfo"))
        reply(s, "l");
    else if (!strcmp(p, "qC"))
        reply(s, "QC1");
    else if (g_str_has_prefix(p, "qAttached"))
        reply(s, "1");
    else
        reply(s, "");
}

/* ---- packets ---- */

static void leave(wad_server *s)
{
    s->gone = true;
    s->running = false;
    s->target->go(s->target->ctx, false);
}

static void packet(wad_server *s)
{
    const char *p = (const char *)s->in.data->data;
    switch (*p) {
    case '?':
        reply(s, s->stop);
        break;
    case 'g':
        read_registers(s);
        break;
    case 'G':
        write_registers(s, p + 1);
        break;
    case 'p':
    case 'P':
        one_register(s, p + 1, *p == 'P');
        break;
    case 'm':
        read_memory(s, p + 1);
        break;
    case 'M':
    case 'X':
        write_memory(s, p + 1, *p == 'X');
        break;
    case 'c':
    case 's':
        set_off(s, p + 1, *p == 's');
        break;
    case 'Z':
    case 'z':
        set_point(s, p + 1, *p == 'Z');
        break;
    case 'q':
        query(s, p);
        break;
    case 'Q':
        if (!strcmp(p, "QStartNoAckMode")) {
            s->no_acks = true; /* the acknowledgement of this one is out */
            reply(s, "OK");
        } else
            reply(s, "");
        break;
    case 'H':
    case 'T':
        reply(s, "OK");
        break;
    case 'D':
        reply(s, "OK");
        leave(s);
        break;
    case 'k':
        leave(s);
        break;
    default:
        reply(s, "");
    }
}

static void on_break(wad_server *s)
{
    if (!s->running)
        return;
    s->target->halt(s->target->ctx);
    wad_server_stopped(s, 2);
}

static void take(wad_server *s, uint8_t byte)
{
    switch (wadi_unpack(&s->in, byte)) {
    case WADI_PACKET_DONE:
        if (!s->no_acks)
            put_bytes(s, "+", 1);
        if (s->running) /* nothing is answered while the core runs but the break */
            break;
        packet(s);
        break;
    case WADI_PACKET_BAD:
        if (!s->no_acks)
            put_bytes(s, "-", 1);
        break;
    case WADI_PACKET_NAK:
        if (!s->no_acks && s->sent->len)
            put_bytes(s, s->sent->data, s->sent->len);
        break;
    case WADI_PACKET_BREAK:
        on_break(s);
        break;
    default:
        break;
    }
}

/* ---- callers ---- */

static void begin(wad_server *s)
{
    s->no_acks = s->running = s->gone = false;
    g_byte_array_set_size(s->sent, 0);
    g_strlcpy(s->stop, "T02thread:1;", sizeof s->stop);
    s->target->halt(s->target->ctx);
}

static void end(wad_server *s)
{
    wadi_connection_close(&s->wire);
    wadi_unpacker_clear(&s->in);
    wadi_unpacker_init(&s->in);
    if (!s->gone || s->running)
        s->target->go(s->target->ctx, false);
    s->running = false;
}

wad_server *wad_server_new(const char *listen, const wad_server_target *target, char **why)
{
    wad_server *s = g_new0(wad_server, 1);
    *why = NULL;
    s->target = target;
    s->wire = (wadi_connection){-1, -1, 0};
    s->listener = listen ? wadi_connection_listen(listen, &s->port, why) : -1;
    wadi_unpacker_init(&s->in);
    s->sent = g_byte_array_new();
    g_strlcpy(s->stop, "T02thread:1;", sizeof s->stop);
    if (!*why)
        return s;
    wad_server_free(s);
    return NULL;
}

void wad_server_free(wad_server *s)
{
    if (!s)
        return;
    wadi_connection_close(&s->wire);
    if (s->listener >= 0)
        close(s->listener);
    wadi_unpacker_clear(&s->in);
    g_byte_array_free(s->sent, TRUE);
    g_free(s);
}

unsigned wad_server_port(const wad_server *s)
{
    return s->port;
}

bool wad_server_connected(const wad_server *s)
{
    return s->wire.in >= 0;
}

void wad_server_poll(wad_server *s, unsigned wait_ms)
{
    uint8_t bytes[4096];
    if (s->wire.in < 0) {
        wadi_connection waiting = {s->listener, -1, 0};
        if (!wadi_connection_ready(&waiting, wait_ms) ||
            !wadi_connection_accept(s->listener, &s->wire))
            return;
        begin(s);
    }
    ssize_t n = wadi_connection_read(&s->wire, bytes, sizeof bytes, wait_ms);
    for (ssize_t i = 0; i < n && !s->gone; i++)
        take(s, bytes[i]);
    if (n < 0 || s->gone)
        end(s);
}

void wad_server_feed(wad_server *s, const void *data, size_t n,
                     void (*out)(void *ctx, const void *data, size_t n), void *ctx)
{
    s->out = out;
    s->out_ctx = ctx;
    for (size_t i = 0; i < n; i++)
        take(s, ((const uint8_t *)data)[i]);
    s->out = NULL;
}
