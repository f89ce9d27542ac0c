/* SPDX-License-Identifier: MIT */
/* The other end of a serial line: says what the bench wrote, keeps what it heard. What happens to
 * the wires between is wire.h's. */
#ifndef WADI_UART_PEER_H
#define WADI_UART_PEER_H

#include <glib.h>

#include "bench/language/said.h"
#include "bench/measure/serial_shift.h"
#include "wire.h"

/* All that a bench says of its serial lines. */
typedef struct wadi_lines {
    const GArray *defs;     /* wadi_peer_def */
    const GArray *says;     /* wadi_peer_say */
    const GArray *troubles; /* wadi_trouble */
    uint32_t seed;
} wadi_lines;

typedef struct wadi_peer wadi_peer;

wadi_peer *wadi_peer_new(wad_sim *sim, const wadi_lines *lines, unsigned number);
void wadi_peer_free(wadi_peer *peer);
/** The run is over: what was under way is told, what was to be kept is written. False: `why`. */
bool wadi_peer_end(wadi_peer *peer, uint64_t ps, char **why);

/** While the run goes on: more to send; who hears each byte as it comes, in the place of the
 * script, of which nothing is sent then. */
void wadi_peer_send(wadi_peer *peer, const uint8_t *bytes, gsize n);
void wadi_peer_listen(wadi_peer *peer, wadi_serial_fn fn, void *ctx);
/** Bytes that have not left yet. */
gsize wadi_peer_waiting(const wadi_peer *peer);

/** When it had heard `text`, of bytes whose start bits lie in this stretch of time; 0: it has not.
 */
uint64_t wadi_peer_heard(const wadi_peer *peer, const char *text, uint64_t from_ps, uint64_t to_ps);
unsigned wadi_peer_bytes(const wadi_peer *peer, uint64_t from_ps, uint64_t to_ps);
unsigned wadi_peer_errors(const wadi_peer *peer, uint64_t from_ps, uint64_t to_ps);
/** The last bytes it heard, fit to be printed; g_free. */
char *wadi_peer_tail(const wadi_peer *peer);

#endif
