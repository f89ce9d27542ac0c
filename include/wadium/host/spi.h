/* SPDX-License-Identifier: MIT */
/*
 * Ports of kind spi as the world outside sees them: how a port of the chip is set, and what
 * device listens to which select.
 *
 *     wad_spi_part thermo = {.name = "THERMO", .select = pb12, .clock = pb13, .modes = 1u << 0,
 *                           .limit_hz = {4000000, 1}};
 *     wad_sim_spi_part(sim, &thermo);         another mode, or a faster clock, is a finding now
 */
#ifndef WADIUM_HOST_SPI_H
#define WADIUM_HOST_SPI_H

#include "sim.h"

/** How frames go over the wire. */
typedef struct wad_spi_format {
    unsigned mode; /**< 0 to 3: 2 * (the clock rests high) + (bits are taken at the second edge) */
    unsigned bits; /**< 4 to 32 */
    bool lsb_first;
    wad_rational hz; /**< of the clock */
} wad_spi_format;

/** A port of kind spi as its registers stand. */
typedef struct wad_spi_port {
    const wad_instance *block;
    wad_spi_format format;
    bool on; /**< enabled and clocked; the rest means nothing without */
    bool controller;
    bool busy;
    const wad_pin_def *clock, *mosi, *miso; /**< where they are routed; NULL: nowhere */
} wad_spi_port;

/** While a run goes on, or after it. False: the block is no such port. */
bool wad_sim_spi_port(wad_sim *sim, const wad_instance *block, wad_spi_port *port);
/** The enabled controller whose clock comes out at this pin. */
bool wad_sim_spi_at(wad_sim *sim, const wad_pin_def *clock, wad_spi_port *port);

/** A device on the chip's pins, and what it takes. */
typedef struct wad_spi_part {
    const char *name; /**< lives as long as the chip */
    const wad_pin_def *select, *clock;
    bool select_high;
    unsigned modes; /**< that it takes, bit by mode; 0: any */
    unsigned bits;  /**< frames are whole multiples of so many; 0: any */
    bool lsb_first, any_order;
    wad_rational limit_hz; /**< 0: none */
} wad_spi_part;

/** Says what is there, so that W901, W902 and W905 can tell what does not fit. For later runs. */
void wad_sim_spi_part(wad_sim *sim, const wad_spi_part *end);

#endif
