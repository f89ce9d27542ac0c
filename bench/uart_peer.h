/* SPDX-License-Identifier: MIT */
/* The other end of a serial line: says what the bench wrote, keeps what it heard. */
#ifndef WADI_UART_PEER_H
#define WADI_UART_PEER_H

#include <glib.h>

#include "serial.h"

/* What a bench says of a peer. */
typedef struct wadi_peer_def {
    const char *name;
    const wad_pin_def *hears, *drives; /* the chip's TX and RX pins; NULL: not wired */
    wadi_serial_format format;
} wadi_peer_def;

/* `send LINK "text" at 1 s`, or `reply LINK "text" to "text"`. */
typedef struct wadi_peer_say {
    unsigned peer;
    const char *text;
    gsize n;
    uint64_t at_ps;
    const char *to; /* NULL: at its time */
} wadi_peer_say;

typedef struct wadi_peer wadi_peer;

wadi_peer *wadi_peer_new(wad_sim *sim, const wadi_peer_def *def, const GArray *says,
                         unsigned number);
void wadi_peer_free(wadi_peer *peer);
/** The run is over: what was under way is told. */
void wadi_peer_end(wadi_peer *peer, uint64_t ps);

/** When it had heard `text`; 0: it has not. */
uint64_t wadi_peer_heard(const wadi_peer *peer, const char *text);
unsigned wadi_peer_bytes(const wadi_peer *peer);
unsigned wadi_peer_errors(const wadi_peer *peer);
/** The last bytes it heard, fit to be printed; g_free. */
char *wadi_peer_tail(const wadi_peer *peer);

#endif
