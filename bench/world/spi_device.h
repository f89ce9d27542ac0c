/* SPDX-License-Identifier: MIT */
/* An SPI bus in a run: its devices, of which each turns edges into frames, and its jumpers. */
#ifndef WADI_SPI_DEVICE_H
#define WADI_SPI_DEVICE_H

#include "spi_bus.h"

#define WADI_SPI_NOTED 8 /* refusals in words */

struct wadi_spi_device {
    wadi_bus_set *set;
    const wadi_spi_def *def;
    void *state;
    wadi_wire select, clock, mosi, miso; /* of the far end */
    wadi_driver *driver;
    bool selected, clock_level, mosi_level;
    unsigned mode, bits; /* as they are now */
    bool lsb_first;
    unsigned edge, index; /* changes of the clock in this frame; frames of this select */
    uint32_t in, out;
    unsigned frames, selects, refusals;
    GPtrArray *notes;
    GRand *rand;
};

/* A wire between two pins, in a run. */
typedef struct wadi_jumper {
    wadi_wire wire;
    wadi_driver *driver;
} wadi_jumper;

struct wadi_bus_set {
    wad_sim *sim;
    wadi_world *world;
    wadi_spi_device *devices;
    unsigned n;
    wadi_jumper *jumpers;
    GPtrArray *entries;
};

#endif
