/* SPDX-License-Identifier: MIT */
/* Somebody real at the other end of a serial line: looked after every millisecond of the chip's
 * time, which is held back to real time. */
#include "serial_bridge.h"

#include <string.h>

#include "bench/language/probe.h"
#include "serial_peer.h"
#include "serial_say.h"
#include "wadium/host/model.h"

#define STEP    (WAD_PS_PER_S / 1000)
#define BACKLOG 64 /* bytes typed that wait for their turn on the wire, at most */

struct wadi_bridge {
    wad_event event;
    wad_sim *sim;
    wad_part *peer;
    const wad_pin_def *pin;
    const wad_bridge *with;
    gint64 began_us;
    wad_serial_port port; /* as told last */
};

/* ---- which line ---- */

static bool leads_to(const wad_instance *block, const wad_part_def *part)
{
    for (unsigned i = 0; i < block->n_signals; i++)
        for (unsigned k = 0; k < block->signals[i].n_options; k++)
            for (unsigned w = 0; w < part->n_wires; w++)
                if (!strcmp(part->wires[w].name, block->signals[i].name) &&
                    !strcmp(part->wires[w].name, "TX") &&
                    part->wires[w].pin == block->signals[i].options[k].pin)
                    return true;
    return false;
}

static char *lines_of(const wad_board *board)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < board->n_parts; i++) {
        wadi_part_said said;
        if (wadi_serial_on_part(&said, &board->parts[i]))
            g_string_append_printf(text, "%s%s", text->len ? ", " : "", board->parts[i].name);
    }
    return g_string_free(text, FALSE);
}

static const wad_part_def *find_part(const wad_bench *b, const char *line)
{
    const wad_part_def *part = wad_board_part(b->board, line);
    const wad_instance *block = wad_sheet_block(b->sheet, line);
    for (unsigned i = 0; !part && block && i < b->board->n_parts; i++)
        if (leads_to(block, &b->board->parts[i]))
            part = &b->board->parts[i];
    return part;
}

int wadi_bridge_line(wad_bench *b, const char *line, char **why)
{
    if (!b->board) {
        *why = g_strdup("a terminal needs a board: the bench has a bare chip");
        return -1;
    }
    const wad_part_def *part = find_part(b, line);
    wadi_part_said said;
    if (!part || !wadi_serial_on_part(&said, part)) {
        char *lines = lines_of(b->board);
        *why = g_strdup_printf("'%s' is no serial line of the board, nor a port that leads to one; "
                               "it has %s",
                               line, *lines ? lines : "none");
        g_free(lines);
        return -1;
    }
    int known = wadi_bench_part(b, part->name);
    return known >= 0 ? known : wadi_serial_add(b, part);
}

/* ---- while the run goes on ---- */

static bool same(const wad_serial_format *a, const wad_serial_format *b)
{
    return a->baud.num == b->baud.num && a->baud.den == b->baud.den && a->bits == b->bits &&
           a->parity == b->parity && a->stop_halves == b->stop_halves;
}

static void tell_setting(wadi_bridge *g)
{
    wad_serial_port port;
    if (!g->with->set || !wad_sim_serial_at(g->sim, g->pin, &port))
        return;
    if (g->port.block == port.block && same(&port.format, &g->port.format) &&
        port.flow == g->port.flow)
        return;
    g->port = port;
    g->with->set(g->with->ctx, &port);
}

/* How long until real time has caught up. */
static uint64_t ahead_us(const wadi_bridge *g)
{
    if (g->with->pace <= 0)
        return 0;
    double want = (double)wad_sim_now(g->sim) / 1e6 / g->with->pace;
    double is = (double)(g_get_monotonic_time() - g->began_us);
    return want > is ? (uint64_t)(want - is) : 0;
}

static void on_step(wad_event *e)
{
    wadi_bridge *g = (wadi_bridge *)((char *)e - offsetof(wadi_bridge, event));
    uint8_t bytes[BACKLOG];
    gsize waiting = wadi_peer_waiting(g->peer);
    tell_setting(g);
    if (g->with->take) {
        size_t room = waiting < BACKLOG ? BACKLOG - waiting : 0;
        size_t n = g->with->take(g->with->ctx, bytes, room, ahead_us(g));
        if (n)
            wadi_peer_send(g->peer, bytes, MIN(n, room));
    }
    uint64_t left = ahead_us(g); /* something came before the time */
    if (left)
        g_usleep(left);
    if (g->with->over && g->with->over(g->with->ctx))
        wad_sim_stop(g->sim);
    else
        wad_sim_schedule(g->sim, &g->event, e->ps + STEP);
}

static void on_begin(wad_sim *sim, void *ctx)
{
    wadi_bridge *g = ctx;
    g->began_us = g_get_monotonic_time();
    wad_sim_schedule(sim, &g->event, STEP);
}

static void on_byte(void *ctx, const wadi_serial_byte *byte)
{
    const wadi_bridge *g = ctx;
    const wad_serial_heard heard = {byte->ps, byte->data, byte->framing, byte->parity,
                                    byte->is_break};
    if (g->with->give)
        g->with->give(g->with->ctx, &heard);
}

wadi_bridge *wadi_bridge_new(wad_sim *sim, wad_part *peer, const wad_bridge *with)
{
    const wad_pin_def *const *pins = peer->said->pins;
    wadi_bridge *g = g_new0(wadi_bridge, 1);
    g->event.fn = on_step;
    g->sim = sim;
    g->peer = peer;
    g->pin = pins[WADI_PEER_TX] ? pins[WADI_PEER_TX] : pins[WADI_PEER_RX];
    g->with = with;
    wadi_peer_listen(peer, on_byte, g);
    wad_sim_at(sim, 0, on_begin, g);
    return g;
}

void wadi_bridge_free(wadi_bridge *g)
{
    g_free(g);
}
