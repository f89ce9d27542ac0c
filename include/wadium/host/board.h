/* SPDX-License-Identifier: MIT */
/*
 * A board: which chip, and what is wired to its pins (docs/board-language.md).
 *
 *     wad_board *b = wad_board_read("boards/skerry.board", diags);
 *     wad_show_board(b, stdout);
 *     wad_emit_pins(b, stdout);         a header of pin names
 *     wad_board_free(b);
 */
#ifndef WADIUM_HOST_BOARD_H
#define WADIUM_HOST_BOARD_H

#include "sheet.h"

/** One wire of a part or connector. */
typedef struct wad_wire {
    const char *name;       /**< "CS"; "" for the only wire of a part */
    const wad_pin_def *pin; /**< NULL: not a pin of the chip (supply, ground) */
    const char *net;        /**< as written: "PB12", "GND" */
} wad_wire;

typedef struct wad_part_def {
    const char *name;
    const char *kind; /**< "lamp", "button", "connector", ... */
    const char *text;
    wad_where where;
    const wad_wire *wires;
    unsigned n_wires;
    bool active_low;
    int pull; /**< resistor on the board: 1 up, -1 down, 0 none */
    wad_rational bounce_s;
} wad_part_def;

/** A channel of a DMA controller that is somebody's: `dma DMA0 channel 1 for UART0.rx_ready
 * "commands"`. */
typedef struct wad_claim {
    const wad_instance *mover;
    unsigned channel;
    const wad_trigger *request; /**< NULL: it waits for none */
    const char *text;
    wad_where where;
} wad_claim;

/** A unit's model in a C file: `model "can.c" for CAN0`. */
typedef struct wad_model_file {
    const char *file; /**< found, beside the board */
    const wad_instance *unit;
    wad_where where;
} wad_model_file;

typedef struct wad_board {
    const char *name;
    const char *summary;
    const char *file;
    const wad_sheet *sheet;
    const wad_part_def *parts;
    unsigned n_parts;
    const wad_claim *claims;
    unsigned n_claims;
    const wad_model_file *models;
    unsigned n_models;
} wad_board;

/** Reads a board and its chip's sheet. NULL on errors; `diags` says which. */
wad_board *wad_board_read(const char *path, wad_diags *diags);
/** The same with the chip of another sheet's file: one with errata, for instance. */
wad_board *wad_board_read_on(const char *path, const char *sheet, wad_diags *diags);
/** The same from memory; the chip is looked for beside `name`, as wad_locate does. */
wad_board *wad_board_parse(const char *text, size_t size, const char *name, wad_diags *diags);
void wad_board_free(wad_board *board);

const wad_part_def *wad_board_part(const wad_board *board, const char *name);

/** What contradicts itself: channels or requests of DMA controllers that are given away twice. */
void wad_board_lint(const wad_board *board, wad_diags *diags);

/** Who has which channel of a DMA controller. */
void wad_show_claims(const wad_board *board, FILE *out);
/** The wiring list, and the same by pin. */
void wad_show_board(const wad_board *board, FILE *out);
/** A header that names the board's pins for the drivers: SKERRY_WARN and so on. */
void wad_emit_pins(const wad_board *board, FILE *out);

#endif
