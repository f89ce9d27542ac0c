/* SPDX-License-Identifier: MIT */
#include <string.h>

#include "session.h"

#define MOST_ANSWER (1u << 20) /* bytes of a server's command */

static bool set_off(wad_remote *r, const char *packet, char **why)
{
    *why = NULL;
    if (r->stop.end == WAD_REMOTE_RUNNING)
        return true;
    char *all = g_strdup_printf("vCont;%s", packet);
    const char *said = r->v_cont ? all : packet;
    bool good =
        (!r->posted || wad_remote_settle(r, why)) && wadi_remote_tell(r, said, strlen(said), why);
    g_free(all);
    if (!good)
        return false;
    r->stop = (wad_remote_stop){.end = WAD_REMOTE_RUNNING};
    return true;
}

/* A breakpoint where the core stands would stop it again at once. */
static const wadi_point *point_here(wad_remote *r)
{
    static const char *const names[] = {"pc", "rip", "eip"};
    uint64_t pc = 0;
    bool known = false;
    for (unsigned i = 0; r->points->len && i < G_N_ELEMENTS(names) && !known; i++) {
        char *why = NULL;
        known = wad_remote_get_register(r, names[i], &pc, &why);
        g_free(why);
    }
    for (guint i = 0; known && i < r->points->len; i++)
        if (g_array_index(r->points, wadi_point, i).address == pc)
            return &g_array_index(r->points, wadi_point, i);
    return NULL;
}

static bool move_point(wad_remote *r, const wadi_point *p, bool on, char **why)
{
    char *packet = g_strdup_printf("%c%u,%" G_GINT64_MODIFIER "x,%u", on ? 'Z' : 'z', p->kind,
                                   p->address, p->bytes);
    bool good = wadi_remote_ask_text(r, packet, why);
    g_free(packet);
    return good;
}

/* One instruction, off a breakpoint if there is one; false: `why`, or it stopped otherwise. */
static bool step_off(wad_remote *r, wad_remote_stop *stop, char **why)
{
    const wadi_point *here = point_here(r);
    const wadi_point p = here ? *here : (wadi_point){0};
    if ((here && !move_point(r, &p, false, why)) || !set_off(r, "s", why) ||
        !wad_remote_wait(r, r->options.timeout_ms, stop, why))
        return false;
    return !here || stop->end != WAD_REMOTE_STOPPED || move_point(r, &p, true, why);
}

bool wad_remote_go(wad_remote *r, char **why)
{
    wad_remote_stop stop = r->stop;
    *why = NULL;
    if (stop.end == WAD_REMOTE_STOPPED && point_here(r)) {
        if (!step_off(r, &stop, why))
            return false;
        if (stop.end != WAD_REMOTE_STOPPED || stop.code != 5)
            return true; /* something else stopped it: that is to be seen */
    }
    return set_off(r, "c", why);
}

bool wad_remote_wait(wad_remote *r, unsigned timeout_ms, wad_remote_stop *stop, char **why)
{
    *why = NULL;
    gint64 until = g_get_monotonic_time() + (gint64)timeout_ms * 1000;
    while (r->stop.end == WAD_REMOTE_RUNNING && wadi_remote_hear(r, wadi_remote_left(until), why)) {
        if (*wadi_remote_reply(r) == 'O') /* what the program prints through the server */
            continue;
        if (!wadi_remote_parse_stop(r, why))
            return false;
    }
    *stop = r->stop;
    return *why == NULL;
}

bool wad_remote_step(wad_remote *r, wad_remote_stop *stop, char **why)
{
    *why = NULL;
    if (!step_off(r, stop, why))
        return false;
    if (stop->end == WAD_REMOTE_RUNNING)
        *why = g_strdup_printf("%s does not say that the step is done", r->where);
    return *why == NULL;
}

bool wad_remote_halt(wad_remote *r, wad_remote_stop *stop, char **why)
{
    *why = NULL;
    if (r->stop.end == WAD_REMOTE_RUNNING && !wadi_remote_send(r, "\x03", 1, why))
        return false;
    if (!wad_remote_wait(r, r->options.timeout_ms, stop, why))
        return false;
    if (stop->end == WAD_REMOTE_RUNNING)
        *why = g_strdup_printf("the core at %s does not halt", r->where);
    return *why == NULL;
}

static void note_point(wad_remote *r, const wadi_point *p, bool on)
{
    for (guint i = 0; i < r->points->len; i++)
        if (g_array_index(r->points, wadi_point, i).address == p->address) {
            g_array_remove_index_fast(r->points, i);
            break;
        }
    if (on)
        g_array_append_vals(r->points, p, 1);
}

bool wad_remote_set_point(wad_remote *r, wad_remote_point kind, uint64_t address, unsigned bytes,
                          bool on, char **why)
{
    const wadi_point p = {address, bytes, kind};
    *why = NULL;
    if (!move_point(r, &p, on, why) ||
        !wadi_remote_is_ok(r, kind < 2 ? "a breakpoint" : "a watchpoint", why))
        return false;
    if (kind <= WAD_REMOTE_HARD)
        note_point(r, &p, on);
    return true;
}

bool wad_remote_monitor(wad_remote *r, const char *command, char **text, char **why)
{
    GString *packet = g_string_new("qRcmd,"), *out = g_string_new(NULL);
    uint8_t bytes[WADI_PACKET_MAX];
    *why = *text = NULL;
    wadi_hex(packet, command, strlen(command));
    bool good = wadi_remote_ask_text(r, packet->str, why);
    gint64 until =
        g_get_monotonic_time() + (gint64)30 * G_USEC_PER_SEC; /* erasing a flash may take some */
    while (good) {
        const char *reply = wadi_remote_reply(r);
        if (!strcmp(reply, "OK") || !*reply || *reply == 'E') {
            good = wadi_remote_is_ok(r, command, why);
            break;
        }
        const char *digits = *reply == 'O' ? reply + 1 : reply;
        int n = wadi_unhex(digits, strlen(digits), bytes, sizeof bytes);
        if (n > 0)
            g_string_append_len(out, (char *)bytes, n);
        if (*reply != 'O')
            break;
        good = wadi_remote_left(until) && out->len < MOST_ANSWER &&
               wadi_remote_hear(r, r->options.timeout_ms, why);
        if (!good && !*why)
            *why = g_strdup_printf("%s: the server does not come to an end", command);
    }
    *text = g_string_free(out, !good);
    g_string_free(packet, TRUE);
    return good;
}
