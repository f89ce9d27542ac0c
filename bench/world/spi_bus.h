/* SPDX-License-Identifier: MIT */
/*
 * Devices on an exchange bus. The shell (spi_bus.c) turns edges into frames, and drives the
 * answer; what a frame means is the device's: an echo register, a thermometer, a flash memory.
 */
#ifndef WADI_SPI_BUS_H
#define WADI_SPI_BUS_H

#include "bench/language/said.h"
#include "wire.h"
#include "wired_pin.h"

typedef struct wadi_spi_device wadi_spi_device;
enum { WADI_SPI_MISO = 1, WADI_SPI_MOSI = 2, WADI_SPI_SCK = 4, WADI_SPI_CS = 8 };

/* All that a bench says of its exchange buses. */
typedef struct wadi_buses {
    const GArray *devices;  /* wadi_spi_def */
    const GArray *values;   /* wadi_spi_value */
    const GArray *jumpers;  /* wadi_jumper_def */
    const GArray *troubles; /* wadi_spi_trouble */
    const GArray *failures; /* uint64_t: the power fails */
    uint32_t seed;
} wadi_buses;

/* ---- what a device does ---- */

struct wadi_spi_class {
    const char *kind; /* as the board names the part */
    unsigned bits;    /* of its frames; 0: any */
    size_t state_size;
    /* May be NULL, all but `next`. */
    bool (*begin)(wadi_spi_device *d, char **why); /* before the run */
    void (*end)(wadi_spi_device *d);               /* after it: memory is freed */
    void (*selected)(wadi_spi_device *d);
    /* Frame `i` of the select is about to go out; what it is. */
    uint32_t (*next)(wadi_spi_device *d, unsigned i);
    void (*came)(wadi_spi_device *d, unsigned i, uint32_t frame);
    /* The select ended after `frames` frames, and `bits` more that make none. */
    void (*deselected)(wadi_spi_device *d, unsigned frames, unsigned bits);
    void (*set)(wadi_spi_device *d, double value);
    void (*power_fails)(wadi_spi_device *d);
    bool (*keep)(const wadi_spi_device *d, const char *path, char **why);
};

extern const wadi_spi_class wadi_spi_echo, wadi_spi_thermometer, wadi_spi_flash;
const wadi_spi_class *wadi_spi_class_of(const char *kind);

/* For the device's own code. */
wad_sim *wadi_spi_sim(const wadi_spi_device *d);
void *wadi_spi_state(const wadi_spi_device *d);
const wadi_spi_def *wadi_spi_def_of(const wadi_spi_device *d);
GRand *wadi_spi_rand(const wadi_spi_device *d);
/** The device does not do what was asked: counted, and the first few are noted. */
void wadi_spi_refuse(wadi_spi_device *d, const char *format, ...)
    __attribute__((format(printf, 2, 3)));

/* ---- for the bench ---- */

typedef struct wadi_bus_set wadi_bus_set;

/** NULL: `why`. */
wadi_bus_set *wadi_bus_set_new(wad_sim *sim, const wadi_buses *buses, char **why);
/** The run is over; what could not be kept, and what was refused, goes to `notes`. */
bool wadi_bus_set_end(wadi_bus_set *set, GPtrArray *notes);
void wadi_bus_set_free(wadi_bus_set *set);
unsigned wadi_spi_frames(const wadi_bus_set *set, unsigned device);
unsigned wadi_spi_selects(const wadi_bus_set *set, unsigned device);
unsigned wadi_spi_refusals(const wadi_bus_set *set, unsigned device);

#endif
