/* SPDX-License-Identifier: MIT */
/* The other end of a serial line: edges to bytes, and bytes to edges. */
#ifndef WADI_SERIAL_PEER_H
#define WADI_SERIAL_PEER_H

#include "bench/measure/serial_shift.h"
#include "part.h"

enum { WADI_PEER_TX, WADI_PEER_RX, WADI_PEER_RTS, WADI_PEER_CTS }; /* by the chip's names */

/* How it is set, as the bench says it. */
typedef struct wadi_serial_form {
    wad_serial_format format;
    bool as_chip;               /* baud and format are what the chip is set to */
    bool looped;                /* the chip's TX is wired to its RX, and the peer only listens */
    wad_rational noise;         /* share of the bits to the chip that a pulse falls into */
    struct wadi_reply *replies; /* in the order of the bench */
} wadi_serial_form;

/* `reply LINK "text" to "text"` */
typedef struct wadi_reply {
    const char *to, *text;
    gsize n;
    struct wadi_reply *next;
} wadi_reply;

extern const wadi_shell wadi_serial_shell;

/** While the run goes on: more to send; who hears each byte as it comes, in the place of the
 * script, of which nothing is sent then. */
void wadi_peer_send(wad_part *p, const uint8_t *bytes, gsize n);
void wadi_peer_listen(wad_part *p, wadi_serial_fn fn, void *ctx);
/** Somebody listens: the script is not played. */
bool wadi_peer_is_taken(const wad_part *p);
/** Bytes that have not left yet. */
gsize wadi_peer_waiting(const wad_part *p);
/** Its CTS at the chip: high holds it back. */
void wadi_peer_hold(wad_part *p, bool on);

/** When it had heard `text`, of bytes whose start bits lie in this stretch of time; 0: it has not.
 */
uint64_t wadi_peer_heard(const wad_part *p, const char *text, uint64_t from_ps, uint64_t to_ps);
unsigned wadi_peer_bytes(const wad_part *p, uint64_t from_ps, uint64_t to_ps);
unsigned wadi_peer_errors(const wad_part *p, uint64_t from_ps, uint64_t to_ps);
/** The last bytes it heard, fit to be printed; g_free. */
char *wadi_peer_tail(const wad_part *p);

#endif
