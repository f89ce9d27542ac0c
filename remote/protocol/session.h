/* SPDX-License-Identifier: MIT */
/* What the parts of the client share. */
#ifndef WADI_REMOTE_CLIENT_H
#define WADI_REMOTE_CLIENT_H

#include "connection.h"
#include "packet.h"
#include "wadium/host/remote.h"

#define WADI_POSTED_MAX 32u

/** A breakpoint that is set. */
typedef struct wadi_point {
    uint64_t address;
    unsigned bytes;
    wad_remote_point kind;
} wadi_point;

struct wad_remote {
    char *where;
    wad_remote_options options;
    wadi_connection wire;
    wadi_unpacker in;
    unsigned annexes;     /* of the description of registers, fetched so far */
    unsigned late;        /* reads of this wait after its time was over: one takes what is there */
    size_t heard;         /* bytes in this wait */
    uint8_t buffer[4096]; /* come, not looked at yet */
    size_t at, end;
    bool big_endian; /* the target's words begin with their high byte */
    bool no_acks;
    bool binary, binary_tried; /* takes X packets */
    bool v_cont;               /* wants to be told of all threads */
    size_t packet_max;
    unsigned posted;
    uint64_t posted_at[WADI_POSTED_MAX]; /* addresses, for what goes wrong */
    unsigned reconnects;
    wad_remote_stop stop;
    GArray *points; /* wadi_point */
    wad_remote_register *registers;
    unsigned n_registers;
};

/** Which byte of a word, 0 its lowest, lies `i` bytes behind its address. */
static inline unsigned wadi_remote_byte(const wad_remote *r, unsigned i, unsigned bytes)
{
    return r->big_endian ? bytes - 1 - i : i;
}

/** Sends a packet and waits for its reply, `r->in.data`. A harmless one is sent again where nothing
 * came, over a new connection where the old one is lost. */
bool wadi_remote_ask(wad_remote *r, const void *packet, size_t n, char **why);
bool wadi_remote_ask_text(wad_remote *r, const char *packet, char **why);
/** The reply is "OK"; else `why` says `what` failed, and how. */
bool wadi_remote_is_ok(wad_remote *r, const char *what, char **why);
/** Sends without waiting for a reply. */
bool wadi_remote_tell(wad_remote *r, const void *packet, size_t n, char **why);
/** The next packet, into `r->in.data`; false: none within the time (`*why` stays NULL), or `why`.
 */
bool wadi_remote_hear(wad_remote *r, unsigned timeout_ms, char **why);
const char *wadi_remote_reply(const wad_remote *r);
/** Raw bytes, as the break character. */
bool wadi_remote_send(wad_remote *r, const void *data, size_t n, char **why);
/** Milliseconds until then; 0: it is over. */
unsigned wadi_remote_left(gint64 until_us);
/** A stop's packet in `r->in.data`, into `r->stop`. */
bool wadi_remote_parse_stop(wad_remote *r, char **why);
/** Hears the answer to the oldest write that is under way. */
bool wadi_remote_settle_one(wad_remote *r, char **why);

#endif
