/* SPDX-License-Identifier: MIT */
/* The client: memory, register by register or in blocks, and writes that do not wait. */
#include <string.h>

#include "session.h"

static bool halted(const wad_remote *r, char **why)
{
    *why = NULL;
    if (r->stop.end == WAD_REMOTE_STOPPED)
        return true;
    *why = g_strdup(r->stop.end == WAD_REMOTE_EXITED
                        ? "the program on the target is over"
                        : "the core runs: it must be halted to look into its memory");
    return false;
}

static char *span(uint64_t address, size_t bytes, const char *way)
{
    return g_strdup_printf("%s of %zu byte%s at 0x%08" G_GINT64_MODIFIER "x", way, bytes,
                           bytes == 1 ? "" : "s", address);
}

/* ---- reading ---- */

static bool read_part(wad_remote *r, uint64_t address, uint8_t *to, size_t bytes, char **why)
{
    char *packet = g_strdup_printf("m%" G_GINT64_MODIFIER "x,%zx", address, bytes);
    bool good = wadi_remote_ask_text(r, packet, why);
    g_free(packet);
    if (!good)
        return false;
    if (wadi_unhex(wadi_remote_reply(r), r->in.data->len, to, bytes) == (int)bytes)
        return true;
    char *what = span(address, bytes, "read");
    const char *reply = wadi_remote_reply(r);
    if (*reply && !(reply[0] == 'E' && r->in.data->len == 3))
        *why =
            g_strdup_printf("%s: the server answers '%.40s', which is not that many", what, reply);
    else
        (void)wadi_remote_is_ok(r, what, why);
    g_free(what);
    return false;
}

bool wad_remote_read(wad_remote *r, uint64_t address, void *to, size_t bytes, char **why)
{
    size_t most = (r->packet_max - 8) / 2 & ~(size_t)3;
    if (!halted(r, why))
        return false;
    for (size_t at = 0; at < bytes; at += most)
        if (!read_part(r, address + at, (uint8_t *)to + at, MIN(most, bytes - at), why))
            return false;
    return true;
}

void wad_remote_big_endian(wad_remote *r, bool big)
{
    r->big_endian = big;
}

bool wad_remote_get(wad_remote *r, uint64_t address, unsigned bytes, uint32_t *value, char **why)
{
    uint8_t raw[4] = {0};
    if (!halted(r, why) || !read_part(r, address, raw, bytes, why))
        return false;
    *value = 0;
    for (unsigned i = 0; i < bytes; i++)
        *value |= (uint32_t)raw[i] << 8 * wadi_remote_byte(r, i, bytes);
    return true;
}

/* ---- writing ---- */

static GByteArray *write_packet(const wad_remote *r, uint64_t address, const void *from,
                                size_t bytes)
{
    GString *head = g_string_new(NULL);
    g_string_printf(head, "%c%" G_GINT64_MODIFIER "x,%zx:", r->binary ? 'X' : 'M', address, bytes);
    if (r->binary)
        g_string_append_len(head, from, (gssize)bytes);
    else
        wadi_hex(head, from, bytes);
    GByteArray *packet = g_byte_array_new();
    g_byte_array_append(packet, (const guint8 *)head->str, (guint)head->len);
    g_string_free(head, TRUE);
    return packet;
}

/* Half the bytes, where the server takes them as they are. */
static bool try_binary(wad_remote *r, uint64_t address, char **why)
{
    if (r->binary_tried)
        return true;
    char *packet = g_strdup_printf("X%" G_GINT64_MODIFIER "x,0:", address);
    bool good = wadi_remote_ask_text(r, packet, why);
    g_free(packet);
    r->binary_tried = good;
    r->binary = good && !strcmp(wadi_remote_reply(r), "OK");
    return good;
}

static bool write_part(wad_remote *r, uint64_t address, const void *from, size_t bytes, char **why)
{
    GByteArray *packet = write_packet(r, address, from, bytes);
    char *what = span(address, bytes, "write");
    bool good =
        wadi_remote_ask(r, packet->data, packet->len, why) && wadi_remote_is_ok(r, what, why);
    g_free(what);
    g_byte_array_free(packet, TRUE);
    return good;
}

bool wad_remote_write(wad_remote *r, uint64_t address, const void *from, size_t bytes, char **why)
{
    size_t most = (r->packet_max - 32) / 2 & ~(size_t)3;
    if (!halted(r, why) || !try_binary(r, address, why))
        return false;
    for (size_t at = 0; at < bytes; at += most)
        if (!write_part(r, address + at, (const uint8_t *)from + at, MIN(most, bytes - at), why))
            return false;
    return true;
}

bool wad_remote_put(wad_remote *r, uint64_t address, unsigned bytes, uint32_t value, char **why)
{
    uint8_t raw[4] = {0};
    for (unsigned i = 0; i < bytes; i++)
        raw[i] = (uint8_t)(value >> 8 * wadi_remote_byte(r, i, bytes));
    return halted(r, why) && write_part(r, address, raw, bytes, why);
}

/* ---- writing without waiting ---- */

bool wad_remote_post(wad_remote *r, uint64_t address, const void *from, size_t bytes, char **why)
{
    if (!halted(r, why))
        return false;
    if (!r->no_acks) /* one at a time, as the protocol says */
        return write_part(r, address, from, bytes, why);
    if (r->posted == WADI_POSTED_MAX && !wadi_remote_settle_one(r, why))
        return false;
    GByteArray *packet = write_packet(r, address, from, bytes);
    bool good = wadi_remote_tell(r, packet->data, packet->len, why);
    if (good)
        r->posted_at[r->posted++] = address;
    g_byte_array_free(packet, TRUE);
    return good;
}
