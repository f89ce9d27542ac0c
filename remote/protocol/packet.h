/* SPDX-License-Identifier: MIT */
/* Packets of the GDB remote serial protocol: `$data#xx`, one at a time, byte by byte. */
#ifndef WADI_REMOTE_PACKET_H
#define WADI_REMOTE_PACKET_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

/* What one of us takes in a packet; longer ones are dropped as damaged. */
#define WADI_PACKET_MAX 0x4000u

typedef enum wadi_packet_event {
    WADI_PACKET_NONE,  /* more is to come */
    WADI_PACKET_DONE,  /* a whole one, its checksum good: `data` */
    WADI_PACKET_BAD,   /* its checksum is wrong, or it is too long */
    WADI_PACKET_ACK,   /* + */
    WADI_PACKET_NAK,   /* - */
    WADI_PACKET_BREAK, /* 0x03 between packets */
    WADI_PACKET_NOISE  /* a byte that belongs to nothing */
} wadi_packet_event;

typedef struct wadi_unpacker {
    GByteArray *data; /* escapes and runs undone; a NUL follows its last byte */
    unsigned state;
    uint8_t sum, told, last;
} wadi_unpacker;

void wadi_unpacker_init(wadi_unpacker *u);
void wadi_unpacker_clear(wadi_unpacker *u);
wadi_packet_event wadi_unpack(wadi_unpacker *u, uint8_t byte);

/** `$data#xx` at the end of `out`, with what must be escaped; `runs`: equal bytes are folded, which
 * only replies may. */
void wadi_pack(GByteArray *out, const void *data, size_t n, bool runs);

/** Hexadecimal digits, two a byte. */
void wadi_hex(GString *out, const void *data, size_t n);
/** Back; how many bytes, up to `room`; -1: no such digits. */
int wadi_unhex(const char *text, size_t digits, uint8_t *bytes, size_t room);

#endif
