/* SPDX-License-Identifier: MIT */
/*
 * Serial lines as the world outside sees them: how a port of the chip is set, and what is at the
 * other end of its pins.
 *
 *     wad_serial_port port;
 *     if (wad_sim_serial_at(sim, wad_sheet_pin(sheet, "PA9"), &port))
 *         printf("%s sends at %.0f baud\n", port.block->name, ...);
 */
#ifndef WADIUM_HOST_SERIAL_H
#define WADIUM_HOST_SERIAL_H

#include "sim.h"

typedef struct wad_serial_format {
    wad_rational baud;
    unsigned bits;        /**< 5 to 9 */
    char parity;          /**< 'N', 'E', 'O', 'M', 'S' */
    unsigned stop_halves; /**< stop bits, times 2: 2, 3, 4 */
} wad_serial_format;

/** "8N1", "7E1.5" into bits, parity and stop bits; false: it is none. */
bool wad_serial_parse(const char *text, wad_serial_format *format);
/** The same the other way; `text` has room for 8. */
void wad_serial_name(const wad_serial_format *format, char *text);

/** A port of kind uart as its registers stand. */
typedef struct wad_serial_port {
    const wad_instance *block;
    wad_serial_format format;
    unsigned samples; /**< a bit */
    bool on;          /**< enabled and clocked; the rest means nothing without */
    bool sends, receives, flow, msb_first, invert_tx, invert_rx;
    const wad_pin_def *tx, *rx; /**< where they are routed; NULL: nowhere */
} wad_serial_port;

/** While a run goes on, or after it. False: the block is no serial port. */
bool wad_sim_serial_port(wad_sim *sim, const wad_instance *block, wad_serial_port *port);
/** The enabled port that sends on this pin, or receives from it. */
bool wad_sim_serial_at(wad_sim *sim, const wad_pin_def *pin, wad_serial_port *port);

/** Says what is at the other end of a pin, so that the finding W810 can tell a baud that is too far
 * off, and others can name what differs. For later runs; `name` must live as long as the chip. */
void wad_sim_serial_end(wad_sim *sim, const wad_pin_def *pin, const char *name,
                        const wad_serial_format *format);

#endif
