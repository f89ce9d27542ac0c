/* SPDX-License-Identifier: MIT */
/*
 * Parts beside the chip: what hangs on its wires, and does something of its own. A bench names a C
 * file with one (docs/parts.md):
 *
 *     part WELL in "well.c"               wires of the board's part WELL, by their names
 *     rise WELL 30 at 2 s                 a statement of the part's own
 *     cut WELL REED at 3 s for 1 s        wires of any part can be cut, stuck, disturbed
 *     expect WELL counts "turns" 12
 *
 *     static void rise(wad_part *p, unsigned act, const wad_part_value *v) { ... }
 *     static const wad_part_act acts[] = {{"rise", WAD_ACT_NUMBER, WAD_UNIT_NONE, 0, 1000}, {0}};
 *     static const wad_part_class well = {.kind = "well", .wires = ">REED", .acts = acts,
 *                                         .act = rise, ...};
 *     WAD_PART(well)
 *
 * All functions of a class run on the host while the chip's time stands still, and must not block;
 * those that are NULL are not called. A part of an earlier run is never seen: each run begins anew.
 */
#ifndef WADIUM_HOST_PART_H
#define WADIUM_HOST_PART_H

#include "sim.h"

typedef struct wad_part wad_part;

/** What a statement of the part's own takes behind the part's name. */
typedef enum wad_act_takes { WAD_ACT_NOTHING, WAD_ACT_NUMBER, WAD_ACT_TEXT } wad_act_takes;

/** `WORD NAME [VALUE] [at T]`. */
typedef struct wad_part_act {
    const char *word; /**< none of the bench language's own */
    wad_act_takes takes;
    wad_unit unit;      /**< of a number; WAD_UNIT_NONE: a bare one */
    double least, most; /**< of a number, in the unit's base */
    const char *wrong;  /**< told for a number that is not so; NULL: the range is */
} wad_part_act;

typedef struct wad_part_value {
    double number;
    const char *text;
    size_t bytes; /**< of the text, which may hold zeros */
} wad_part_value;

#define WAD_PART_WIRES 8 /**< that a part has at most */

/** The first wires of a device on an SPI bus, and of the other end of a serial line. */
#define WAD_WIRES_SPI    "CS SCK MOSI >MISO"
#define WAD_WIRES_SERIAL "?TX ?>RX ?RTS ?>CTS"

/**
 * A device on an SPI bus (`spi NAME in "FILE.c"`): Wadium makes frames of the edges, by the mode,
 * size and order that the bench says, and tells what does not fit the chip's port.
 */
typedef struct wad_part_spi {
    unsigned bits; /**< of its frames; 0: as the bench says */
    void (*selected)(wad_part *p);
    /** Frame `i` of the select is about to go out; what it is. Never NULL. */
    uint32_t (*next)(wad_part *p, unsigned i);
    void (*came)(wad_part *p, unsigned i, uint32_t frame);
    /** The select ended after `frames` frames, and `bits` more that make none. */
    void (*deselected)(wad_part *p, unsigned frames, unsigned bits);
} wad_part_spi;

/** A byte that the chip sent on a serial line. */
typedef struct wad_serial_heard {
    uint64_t ps; /**< of its start bit */
    uint16_t data;
    bool framing, parity, is_break;
} wad_serial_heard;

/** The other end of a serial line (`uart NAME at 9600 in "FILE.c"`): bytes of the edges. */
typedef struct wad_part_serial {
    void (*byte)(wad_part *p, const wad_serial_heard *byte);
} wad_part_serial;

typedef struct wad_part_class {
    const char *kind; /**< as a board names the part: "thermometer" */
    /**
     * Names of its wires, by which all else numbers them from 0: `>` before those that it drives
     * towards the chip, `?` before those that a board may leave out. A device on a bus begins with
     * WAD_WIRES_SPI or WAD_WIRES_SERIAL, and has further ones behind them.
     */
    const char *wires;
    size_t state_size;        /**< of its memory, which is zero when a run begins */
    const wad_part_act *acts; /**< up to one whose word is NULL; NULL: none */
    const char *counts;       /**< names of what it counts, for `expect NAME counts "turns" 3` */
    const wad_part_spi *spi;  /**< it is a device on an SPI bus; or */
    const wad_part_serial *serial; /**< it is the other end of a serial line */
    /** Before the run. False: the run does not begin; `why` by g_strdup. */
    bool (*begin)(wad_part *p, char **why);
    /** A wire that the chip drives has a new level, after all that the bench does to it. Wires of
     * a bus come here too. */
    void (*edge)(wad_part *p, unsigned wire, uint64_t ps, wad_level level);
    /** The time of wad_part_wake has come. */
    void (*wake)(wad_part *p, uint64_t ps);
    void (*act)(wad_part *p, unsigned act, const wad_part_value *value);
    void (*power_fails)(wad_part *p);
    /** `keep NAME in "FILE"`: writes what it holds. False: `why` by g_strdup. */
    bool (*keep)(const wad_part *p, const char *path, char **why);
    /** The run is over, and its results were taken: memory of its own is freed. */
    void (*end)(wad_part *p);
} wad_part_class;

/** At the end of a bench's C file: the class that it holds. */
#define WAD_PART(cls)                                                                              \
    const wad_part_class *wad_part_of_file(void);                                                  \
    const wad_part_class *wad_part_of_file(void)                                                   \
    {                                                                                              \
        return &(cls);                                                                             \
    }
const wad_part_class *wad_part_of_file(void);

/* ---- for the functions of a class ---- */

void *wad_part_state(const wad_part *p);
const char *wad_part_name(const wad_part *p);
/** The file that `image NAME in "FILE"` names; NULL: none. */
const char *wad_part_image(const wad_part *p);
/** The chip's time, in picoseconds since reset. */
uint64_t wad_part_now(const wad_part *p);
/** How a wire stands at the part's end; WAD_FLOATING where it is cut, or goes nowhere. */
wad_level wad_part_level(const wad_part *p, unsigned wire);
/** From now on; WAD_FLOATING lets go. Where two drive a pin against each other low wins. */
void wad_part_drive(wad_part *p, unsigned wire, wad_level level);
/** `wake` is called then, in the place of what was asked for before; never for a time gone by. */
void wad_part_wake(wad_part *p, uint64_t ps);
/** The bench's seed gives them: the same in each run. */
uint32_t wad_part_random(wad_part *p);
/** One more of what `counts` names; another name is a refusal, as below. */
void wad_part_count(wad_part *p, const char *what);
/** The part does not do what was asked of it: counted (`expect NAME refusals 0`), and the first few
 * are told beside the results. */
void wad_part_refuse(wad_part *p, const char *format, ...) __attribute__((format(printf, 2, 3)));
/** The other end of a serial line sends these, behind what it is still about to send. */
void wad_part_send(wad_part *p, const uint8_t *bytes, size_t n);

#endif
