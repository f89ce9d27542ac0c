/* SPDX-License-Identifier: MIT */
/* Byte streams under the protocol: TCP, both ends, and a pipe to a server command. */
#ifndef WADI_CONNECTION_H
#define WADI_CONNECTION_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>
#include <sys/types.h>

typedef struct wadi_connection {
    int in, out; /* the same for a socket; -1: closed */
    GPid child;  /* of a pipe; 0: none */
} wadi_connection;

/** "HOST:PORT", ":PORT" or "| COMMAND". False: `why` (g_free). */
bool wadi_connection_open(wadi_connection *w, const char *where, unsigned timeout_ms, char **why);
void wadi_connection_close(wadi_connection *w);
/** Everything, or false: the other end is gone, or takes nothing for `timeout_ms`. */
bool wadi_connection_write(wadi_connection *w, const void *data, size_t n, unsigned timeout_ms);
/** What is there, up to `room`, waiting at most so long; 0: nothing came; -1: the other end is
 * gone. */
ssize_t wadi_connection_read(wadi_connection *w, void *data, size_t room, unsigned timeout_ms);

/** Something has come, or the other end is gone; waits at most so long. */
bool wadi_connection_ready(const wadi_connection *w, unsigned timeout_ms);

/** A listening socket at "HOST:PORT", ":PORT" or "PORT" (loopback); port 0: any free one, `port`
 * says which. -1: `why`. */
int wadi_connection_listen(const char *where, unsigned *port, char **why);
/** Who has called, not waiting; false: nobody. */
bool wadi_connection_accept(int listener, wadi_connection *w);

#endif
