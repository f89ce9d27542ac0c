/* SPDX-License-Identifier: MIT */
/*
 * Captures: levels over time, in memory and as VCD files (IEEE 1364).
 *
 *     wad_capture *c = wad_capture_new();
 *     unsigned lamp = wad_capture_channel(c, "lamp");
 *     wad_capture_edge(c, lamp, ps, WAD_HIGH);
 *     if (!wad_vcd_write(c, "lamp.vcd", end_ps, &why)) ...
 *
 * A file too large for memory is read by wad_vcd_read, which hands on each
 * change and keeps nothing.
 */
#ifndef WADIUM_HOST_CAPTURE_H
#define WADIUM_HOST_CAPTURE_H

#include "sim.h"
#include "spectrum.h"

typedef struct wad_capture wad_capture;

wad_capture *wad_capture_new(void);
void wad_capture_free(wad_capture *capture);

/** Adds a channel; its number. At most 16384. */
unsigned wad_capture_channel(wad_capture *capture, const char *name);
unsigned wad_capture_channels(const wad_capture *capture);
const char *wad_capture_name(const wad_capture *capture, unsigned channel);
/** The channel of a name, -1 for none. */
int wad_capture_find(const wad_capture *capture, const char *name);

/** Appends a change. Times must not go back. */
void wad_capture_edge(wad_capture *capture, unsigned channel, uint64_t ps, wad_level level);
/** How many changes are stored. */
uint64_t wad_capture_edges(const wad_capture *capture);
/** Forgets all changes, keeps the channels. */
void wad_capture_clear(wad_capture *capture);

/** Adds a number of `bits` bits (1 to 64) that is captured, and its value before the first change;
 * its own number. Only VCD shows it. A name "A.B" is signal B of module A there. */
unsigned wad_capture_word(wad_capture *capture, const char *name, unsigned bits, uint64_t initial);
uint64_t wad_capture_word_initial(const wad_capture *capture, unsigned word);
/** Its value from `ps` on. Times must not go back. */
void wad_capture_value(wad_capture *capture, unsigned word, uint64_t ps, uint64_t value);

typedef struct wad_word_record {
    uint64_t ps, value;
    uint32_t word;
} wad_word_record;
unsigned wad_capture_words(const wad_capture *capture);
const char *wad_capture_word_name(const wad_capture *capture, unsigned word, unsigned *bits);
/** The i-th value captured; NULL past the last. */
const wad_word_record *wad_capture_value_at(const wad_capture *capture, uint64_t i);

/** Adds an analog channel, its unit "V" or "A"; its own number. */
unsigned wad_capture_analog(wad_capture *capture, const char *name, const char *unit);
unsigned wad_capture_analogs(const wad_capture *capture);
const char *wad_capture_analog_name(const wad_capture *capture, unsigned channel,
                                    const char **unit);
/** Its value from `ps` on, until the next one. Times must not go back. */
void wad_capture_sample(wad_capture *capture, unsigned channel, uint64_t ps, double value);
/** All of a channel, by time; how many. */
const wad_sample *wad_capture_samples(const wad_capture *capture, unsigned channel, size_t *n);

/** Writes time in seconds and each channel's value, one line a change; all or nothing. */
bool wad_csv_write(const wad_capture *capture, const char *path, uint64_t end_ps, char **why);

typedef struct wad_edge_record {
    uint64_t ps;
    uint32_t channel;
    wad_level level;
} wad_edge_record;

/** A place in a capture; begin with a zeroed one. */
typedef struct wad_cursor {
    unsigned chunk; /* all private */
    const uint64_t *next, *end;
    uint64_t base;
} wad_cursor;

/** The change at the cursor, which moves on; false at the end. */
bool wad_capture_next(const wad_capture *capture, wad_cursor *cursor, wad_edge_record *edge);

/** Writes a VCD file, all or nothing: false and `why` (free with g_free) leave no file behind. */
bool wad_vcd_write(const wad_capture *capture, const char *path, uint64_t end_ps, char **why);

/** Hears a VCD file as it is read. */
typedef struct wad_vcd_listener {
    /** A one-bit signal; its number counts up from 0. Wider ones are passed over. */
    void (*channel)(void *ctx, unsigned number, const char *name);
    void (*edge)(void *ctx, unsigned channel, uint64_t ps, wad_level level);
    /** A real signal, numbered on its own; NULL: passed over, as its values are. */
    void (*real_channel)(void *ctx, unsigned number, const char *name);
    void (*real)(void *ctx, unsigned channel, uint64_t ps, double value);
    /** The last time that the file names. */
    void (*end)(void *ctx, uint64_t ps);
    void *ctx;
} wad_vcd_listener;

/** Reads a VCD file, ours or anyone's. False: `diags` names file and line. */
bool wad_vcd_read(const char *path, const wad_vcd_listener *listener, wad_diags *diags);
/** The same from memory. */
bool wad_vcd_parse(const char *text, size_t size, const char *name,
                   const wad_vcd_listener *listener, wad_diags *diags);

#endif
