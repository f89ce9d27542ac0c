/* SPDX-License-Identifier: MIT */
/* What a bench says of the world: of parts, wires, volts, defects, captures. */
#ifndef WADI_SAID_H
#define WADI_SAID_H

#include <glib.h>

#include "wadium/host/analog.h"
#include "wadium/host/bench.h"
#include "wadium/host/serial.h"

/* What happens to a wire. */
typedef enum wadi_trouble_kind {
    WADI_TROUBLE_CUT,
    WADI_TROUBLE_STUCK,
    WADI_TROUBLE_GLITCH, /* the other level */
    WADI_TROUBLE_HOLD    /* the peer's CTS: the chip is to wait */
} wadi_trouble_kind;

/* What a bench says of a peer. */
typedef struct wadi_peer_def {
    const char *name;
    const wad_pin_def *hears, *drives; /* the chip's TX and RX pins; NULL: not wired */
    const wad_pin_def *rts, *cts;      /* the chip's; NULL: not wired */
    wad_serial_format format;
    bool as_chip;       /* baud and format are what the chip is set to */
    bool looped;        /* the chip's TX is wired to its RX, and the peer only listens */
    wad_rational noise; /* share of the bits to the chip that a pulse falls into */
    const char *keep;   /* file that takes what it heard; NULL: none */
} wadi_peer_def;

/* `send LINK "text" at 1 s`, or `reply LINK "text" to "text"`. */
typedef struct wadi_peer_say {
    unsigned peer;
    const char *text;
    gsize n;
    uint64_t at_ps;
    const char *to; /* NULL: at its time */
} wadi_peer_say;

typedef struct wadi_trouble {
    unsigned peer;
    wadi_trouble_kind kind;
    bool rx, tx;
    bool level;             /* that it is stuck at */
    uint64_t at_ps, for_ps; /* for 0: for good */
} wadi_trouble;

typedef struct wadi_spi_class wadi_spi_class;

/* What a bench says of a device. */
typedef struct wadi_spi_def {
    const char *name;
    const wadi_spi_class *cls;
    const wad_pin_def *select, *clock, *miso,
        *mosi; /* the chip's pins; only `select` may be NULL */
    bool select_high, lsb_first;
    unsigned mode, bits;
    bool as_chip;          /* mode, size and order are what the chip is set to */
    wad_rational limit_hz; /* 0: none */
    const char *image;     /* file that a memory begins with; NULL: erased */
    const char *keep;      /* file that takes its contents at the end; NULL: none */
} wadi_spi_def;

/* `temperature THERMO 11.25 at 2 s` */
typedef struct wadi_spi_value {
    unsigned device;
    double value;
    uint64_t at_ps;
} wadi_spi_value;

/* A wire between two pins. */
typedef struct wadi_jumper_def {
    const char *name;
    const wad_pin_def *from, *to;
} wadi_jumper_def;

/* What happens to a jumper, or to wires of a device. */
typedef struct wadi_spi_trouble {
    bool jumper;
    unsigned number; /* of the jumper, or of the device */
    unsigned wires;
    wadi_trouble_kind kind;
    bool level;
    uint64_t at_ps, for_ps; /* for 0: for good */
} wadi_spi_trouble;

typedef enum wadi_shape {
    WADI_LEVEL,
    WADI_SINE,
    WADI_SQUARE,
    WADI_RAMP,
    WADI_FILE,
    WADI_PIN,
    WADI_OPEN
} wadi_shape;

/* One `analog` statement: from `at_ps` on, until the next one of the pin. */
typedef struct wadi_analog_def {
    const wad_pin_def *pin, *from;
    wadi_shape shape;
    double level, size, hz, seconds; /* ramp: from level by size in seconds */
    bool repeats, supply;            /* supply: at the level of the chip's own */
    double ohms, noise;
    GArray *points; /* wad_sample, of a file; owned by the bench */
    uint64_t at_ps;
} wadi_analog_def;

/* A captured pin, or without one the chip's current. */
typedef struct wadi_analog_probe {
    const char *name;
    const wad_pin_def *pin;
    uint64_t every_ps; /* 0: at its steps only */
} wadi_analog_probe;

typedef struct wadi_trim_def {
    const wad_instance *block;
    wad_converter_trim trim;
} wadi_trim_def;

/* The chip's temperature from a time on. */
typedef struct wadi_degrees {
    double celsius;
    uint64_t at_ps;
} wadi_degrees;

/* All that the bench says of volts. */
typedef struct wadi_analog_said {
    GArray *sources, *probes, *trims, *degrees;
    double supply; /* 0: the sheet's */
} wadi_analog_said;

/** What of a mover is captured: a channel (an element has the bus), or a request (it stands). */
typedef struct wadi_dma_signal {
    const wad_instance *block; /* NULL: none */
    bool is_request;
    unsigned number; /* of the channel, or the request's code */
} wadi_dma_signal;

/* What is captured: a pin under a name. */
typedef struct wadi_probe {
    const char *name;
    const wad_pin_def *pin; /* or */
    wadi_dma_signal dma;    /* of a data mover */
} wadi_probe;

/* Memory that is shown before and after. */
typedef struct wadi_memory_def {
    const char *name;
    uint64_t from_ps, to_ps; /* UINT64_MAX: at the end */
    wad_where where;
} wadi_memory_def;

/* A handler that is captured: high while it runs. */
typedef struct wadi_irq_probe {
    const char *name;
    unsigned line;
} wadi_irq_probe;

/* A finding that is not to be told. */
typedef struct wadi_silence_rule {
    wad_silence rule;
    wad_where where;
    const char *text; /* as written */
} wadi_silence_rule;

/* What is done to a pin, and when. */
typedef struct wadi_stimulus {
    const wad_pin_def *pin;
    const wad_part_def *button; /* of a press, else NULL */
    wad_level level;
    uint64_t at_ps, for_ps, bounce_ps;
    wad_rational pulses_hz; /* num 0: a level, once */
    wad_rational duty;
} wadi_stimulus;

/* `recorded lamp as "D0"`: a captured pin's name in recordings made elsewhere. */
typedef struct wadi_recorded {
    const char *name;
    unsigned probe;
} wadi_recorded;

/* How recordings are taken: `recorded glitches below 200 ns`, `recorded from rising lamp at 0 s`.
 */
typedef struct wadi_recording {
    uint64_t glitch_ps; /* shorter pulses are left out; 0: none are */
    bool has_zero, zero_falls;
    unsigned zero_probe;
    uint64_t zero_at_ps;
} wadi_recording;

/* What is wrong with a pin. */
typedef struct wadi_pin_defect {
    const wad_pin_def *pin;
    wad_level stuck; /* floating: its pull is missing */
    uint64_t at_ps, for_ps;
} wadi_pin_defect;

/* An oscillator that is off its frequency by a share. */
typedef struct wadi_clock_error {
    const wad_clock *clock;
    wad_rational share;
} wadi_clock_error;

/* An oscillator that stops, and perhaps runs again. */
typedef struct wadi_clock_failure {
    const wad_clock *clock;
    uint64_t at_ps, until_ps; /* until 0: for good */
} wadi_clock_failure;

/* A line that must be served in time. */
typedef struct wadi_requirement {
    unsigned line;
    uint64_t within_ps;
} wadi_requirement;

#endif
