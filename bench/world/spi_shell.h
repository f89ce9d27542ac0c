/* SPDX-License-Identifier: MIT */
/* Devices on an SPI bus: edges to frames, and frames to levels of MISO. */
#ifndef WADI_SPI_SHELL_H
#define WADI_SPI_SHELL_H

#include "part.h"

enum { WADI_SPI_CS, WADI_SPI_SCK, WADI_SPI_MOSI, WADI_SPI_MISO, WADI_SPI_WIRES };

/* How its frames are, as the bench says it. */
typedef struct wadi_spi_form {
    bool select_high, lsb_first;
    unsigned mode, bits;
    bool as_chip;          /* mode, size and order are what the chip is set to */
    wad_rational limit_hz; /* 0: none */
} wadi_spi_form;

extern const wadi_shell wadi_spi_shell;

unsigned wadi_spi_frames(const wad_part *p);
unsigned wadi_spi_selects(const wad_part *p);

#endif
