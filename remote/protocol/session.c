/* SPDX-License-Identifier: MIT */
/* The client's end of the protocol: connecting, packets, acknowledgements, what is done again. */
#include "session.h"

#include <ctype.h>
#include <string.h>

/* ---- log ---- */

static void log_packet(const wad_remote *r, const char *way, const uint8_t *data, size_t n)
{
    if (!r->options.log)
        return;
    fprintf(r->options.log, "%s ", way);
    for (size_t i = 0; i < n; i++)
        if (isprint(data[i]))
            fputc(data[i], r->options.log);
        else
            fprintf(r->options.log, "\\x%02x", data[i]);
    fputc('\n', r->options.log);
}

/* ---- bytes ---- */

static char *lost(const wad_remote *r)
{
    return g_strdup_printf("the connection to %s is lost: the target or its server has gone",
                           r->where);
}

bool wadi_remote_send(wad_remote *r, const void *data, size_t n, char **why)
{
    if (wadi_connection_write(&r->wire, data, n, r->options.timeout_ms))
        return true;
    *why = lost(r);
    wadi_connection_close(&r->wire);
    return false;
}

/* 1: a byte; 0: none in time; -1: lost, `why`. */
static int next_byte(wad_remote *r, unsigned timeout_ms, uint8_t *byte, char **why)
{
    if (r->at == r->end) {
        ssize_t n = wadi_connection_read(&r->wire, r->buffer, sizeof r->buffer, timeout_ms);
        if (n < 0) {
            *why = lost(r);
            wadi_connection_close(&r->wire);
        }
        if (n <= 0)
            return (int)n;
        r->at = 0;
        r->end = (size_t)n;
    }
    *byte = r->buffer[r->at++];
    return 1;
}

/* ---- packets ---- */

const char *wadi_remote_reply(const wad_remote *r)
{
    return (const char *)r->in.data->data;
}

unsigned wadi_remote_left(gint64 until_us)
{
    gint64 us = until_us - g_get_monotonic_time();
    return us > 0 ? (unsigned)(us / 1000 + 1) : 0;
}

/* One wait for something, however many bytes that are not it come meanwhile. */
static gint64 begin_wait(wad_remote *r, unsigned timeout_ms)
{
    r->late = 0;
    r->heard = 0;
    return g_get_monotonic_time() + (gint64)timeout_ms * 1000;
}

/* What comes next of any kind; WADI_PACKET_NONE: nothing in time. */
static wadi_packet_event next_event(wad_remote *r, gint64 until_us, char **why)
{
    for (;;) {
        uint8_t byte;
        if (r->at == r->end && !wadi_remote_left(until_us) && r->late++)
            return WADI_PACKET_NONE;
        int got = next_byte(r, wadi_remote_left(until_us), &byte, why);
        if (got <= 0)
            return WADI_PACKET_NONE;
        if (++r->heard > (size_t)8 * WADI_PACKET_MAX) {
            *why = g_strdup_printf("%s does not speak the GDB remote protocol: %u bytes, and none "
                                   "of them the end of an answer",
                                   r->where, 8 * WADI_PACKET_MAX);
            return WADI_PACKET_NONE;
        }
        wadi_packet_event e = wadi_unpack(&r->in, byte);
        if (e != WADI_PACKET_NONE && e != WADI_PACKET_NOISE)
            return e;
    }
}

bool wadi_remote_hear(wad_remote *r, unsigned timeout_ms, char **why)
{
    gint64 until = begin_wait(r, timeout_ms);
    for (unsigned bad = 0;;) {
        wadi_packet_event e = next_event(r, until, why);
        if (e == WADI_PACKET_NONE)
            return false;
        if (e == WADI_PACKET_DONE) {
            log_packet(r, "<", r->in.data->data, r->in.data->len);
            if (!r->no_acks && !wadi_remote_send(r, "+", 1, why))
                return false;
            return true;
        }
        if (e != WADI_PACKET_BAD)
            continue;
        if (r->no_acks || ++bad >= r->options.tries) {
            *why = g_strdup_printf("an answer of %s arrived damaged%s", r->where,
                                   r->no_acks ? "" : ", again and again");
            return false;
        }
        if (!wadi_remote_send(r, "-", 1, why)) /* once more, please */
            return false;
    }
}

/* Waits for the acknowledgement: 1 good, 0 send again, -1 nothing came or `why`. A reply that is
 * there says as much. */
static int acknowledged(wad_remote *r, char **why)
{
    gint64 until = begin_wait(r, r->options.timeout_ms);
    for (;;) {
        wadi_packet_event e = next_event(r, until, why);
        if (e == WADI_PACKET_ACK)
            return 1;
        if (e == WADI_PACKET_NAK)
            return 0;
        if (e == WADI_PACKET_NONE)
            return -1;
        /* an old reply, or a damaged one: it will be sent again */
        if (e == WADI_PACKET_DONE && !wadi_remote_send(r, "+", 1, why))
            return -1;
    }
}

bool wadi_remote_tell(wad_remote *r, const void *packet, size_t n, char **why)
{
    GByteArray *bytes = g_byte_array_new();
    bool good = false;
    wadi_pack(bytes, packet, n, false);
    log_packet(r, ">", packet, n);
    for (unsigned i = 0; i < r->options.tries && !good && !*why; i++) {
        if (!wadi_remote_send(r, bytes->data, bytes->len, why) || r->no_acks) {
            good = *why == NULL;
            break;
        }
        int told = acknowledged(r, why);
        good = told > 0;
        if (told < 0)
            break;
    }
    if (!good && !*why)
        *why = g_strdup_printf("%s does not acknowledge what it is sent", r->where);
    g_byte_array_free(bytes, TRUE);
    return good;
}

/* ---- requests ---- */

static bool connect_to(wad_remote *r, char **why);

/* May be sent twice: it changes nothing. */
static bool harmless(const char *packet)
{
    return strchr("?gpmq", *packet) && !g_str_has_prefix(packet, "qRcmd");
}

static bool ask_once(wad_remote *r, const void *packet, size_t n, char **why)
{
    if (r->wire.in < 0) {
        *why = lost(r);
        return false;
    }
    if (!wadi_remote_tell(r, packet, n, why))
        return false;
    if (wadi_remote_hear(r, r->options.timeout_ms, why))
        return true;
    if (!*why)
        *why = g_strdup_printf("no answer from %s within %u ms", r->where, r->options.timeout_ms);
    return false;
}

bool wadi_remote_ask(wad_remote *r, const void *packet, size_t n, char **why)
{
    if (r->posted && !wad_remote_settle(r, why))
        return false;
    if (ask_once(r, packet, n, why))
        return true;
    if (!harmless(packet))
        return false;
    /* what was asked is asked anew: an answer that comes late must not pass for another one's */
    char *first = g_steal_pointer(why);
    wadi_connection_close(&r->wire);
    if (connect_to(r, why) && ask_once(r, packet, n, why)) {
        r->reconnects++;
        g_free(first);
        return true;
    }
    g_free(*why);
    *why = first;
    return false;
}

bool wadi_remote_ask_text(wad_remote *r, const char *packet, char **why)
{
    return wadi_remote_ask(r, packet, strlen(packet), why);
}

bool wadi_remote_is_ok(wad_remote *r, const char *what, char **why)
{
    const char *reply = wadi_remote_reply(r);
    if (!strcmp(reply, "OK"))
        return true;
    if (!*reply)
        *why = g_strdup_printf("%s: the server cannot do that", what);
    else if (reply[0] == 'E')
        *why = g_strdup_printf("%s: the server refuses it (error %s)", what, reply + 1);
    else
        *why = g_strdup_printf("%s: the server answers '%.40s'", what, reply);
    return false;
}

/* ---- connecting ---- */

static bool known(wad_remote *r)
{
    const char *list = wadi_remote_reply(r), *size = strstr(list, "PacketSize=");
    r->packet_max = size ? (size_t)g_ascii_strtoull(size + 11, NULL, 16) : 400;
    r->packet_max = CLAMP(r->packet_max, 64, WADI_PACKET_MAX);
    return strstr(list, "QStartNoAckMode+") != NULL;
}

bool wadi_remote_parse_stop(wad_remote *r, char **why)
{
    const char *reply = wadi_remote_reply(r);
    r->stop = (wad_remote_stop){0};
    if (reply[0] == 'W' || reply[0] == 'X') {
        r->stop.end = WAD_REMOTE_EXITED;
        r->stop.code = (unsigned)g_ascii_strtoull(reply + 1, NULL, 16);
        return true;
    }
    if ((reply[0] != 'S' && reply[0] != 'T') || !g_ascii_isxdigit(reply[1])) {
        *why = g_strdup_printf("%s does not say how the core stands, but '%.40s'", r->where, reply);
        return false;
    }
    const char digits[3] = {reply[1], reply[2], 0};
    r->stop.code = (unsigned)g_ascii_strtoull(digits, NULL, 16);
    const char *watch = strstr(reply, "watch:");
    if (reply[0] == 'T' && watch) {
        r->stop.watch = true;
        r->stop.address = g_ascii_strtoull(watch + 6, NULL, 16);
    }
    return true;
}

static bool greet(wad_remote *r, char **why)
{
    static const char hello[] = "qSupported:xmlRegisters=arm,riscv,i386;swbreak+;hwbreak+";
    bool offers;
    r->no_acks = false;
    r->at = r->end = 0;
    r->posted = 0;
    r->binary_tried = r->binary = false;
    if (!wadi_remote_send(r, "+", 1, why) || !ask_once(r, hello, strlen(hello), why))
        return false;
    offers = known(r);
    if (!r->options.acks && offers) {
        if (!ask_once(r, "QStartNoAckMode", 15, why))
            return false;
        r->no_acks = !strcmp(wadi_remote_reply(r), "OK");
    }
    if (!ask_once(r, "vCont?", 6, why))
        return false;
    r->v_cont = g_str_has_prefix(wadi_remote_reply(r), "vCont") &&
                strstr(wadi_remote_reply(r), ";c") && strstr(wadi_remote_reply(r), ";s");
    return ask_once(r, "?", 1, why) && wadi_remote_parse_stop(r, why);
}

static bool connect_to(wad_remote *r, char **why)
{
    wadi_unpacker_clear(&r->in);
    wadi_unpacker_init(&r->in);
    if (!wadi_connection_open(&r->wire, r->where, r->options.timeout_ms, why))
        return false;
    if (greet(r, why))
        return true;
    wadi_connection_close(&r->wire);
    return false;
}

wad_remote *wad_remote_open(const char *where, const wad_remote_options *options, char **why)
{
    wad_remote *r = g_new0(wad_remote, 1);
    *why = NULL;
    if (options)
        r->options = *options;
    if (!r->options.timeout_ms)
        r->options.timeout_ms = 5000;
    if (!r->options.tries)
        r->options.tries = 3;
    r->where = g_strstrip(g_strdup(where));
    r->wire = (wadi_connection){-1, -1, 0};
    wadi_unpacker_init(&r->in);
    r->points = g_array_new(FALSE, FALSE, sizeof(wadi_point));
    if (connect_to(r, why))
        return r;
    wad_remote_close(r, false);
    return NULL;
}

void wad_remote_close(wad_remote *r, bool go)
{
    if (!r)
        return;
    char *why = NULL;
    if (go && r->wire.in >= 0 && r->stop.end != WAD_REMOTE_RUNNING)
        (void)wadi_remote_ask_text(r, "D", &why);
    g_free(why);
    wadi_connection_close(&r->wire);
    wadi_unpacker_clear(&r->in);
    for (unsigned i = 0; i < r->n_registers; i++)
        g_free((char *)r->registers[i].name);
    g_free(r->registers);
    g_array_free(r->points, TRUE);
    g_free(r->where);
    g_free(r);
}

unsigned wad_remote_reconnects(const wad_remote *r)
{
    return r->reconnects;
}

/* ---- writes that are under way ---- */

wad_remote_stop wad_remote_state(const wad_remote *r)
{
    return r->stop;
}

bool wadi_remote_settle_one(wad_remote *r, char **why)
{
    uint64_t address = r->posted_at[0];
    bool good = wadi_remote_hear(r, r->options.timeout_ms, why);
    r->posted--;
    memmove(r->posted_at, r->posted_at + 1, r->posted * sizeof *r->posted_at);
    if (good) {
        char *what = g_strdup_printf("write at 0x%08" G_GINT64_MODIFIER "x", address);
        good = wadi_remote_is_ok(r, what, why);
        g_free(what);
    } else if (!*why)
        *why = g_strdup_printf("no answer from %s to the write at 0x%08" G_GINT64_MODIFIER "x",
                               r->where, address);
    if (!good)
        r->posted = 0;
    return good;
}

bool wad_remote_settle(wad_remote *r, char **why)
{
    *why = NULL;
    while (r->posted)
        if (!wadi_remote_settle_one(r, why))
            return false;
    return true;
}
