/* SPDX-License-Identifier: MIT */
/* What a bench says that several look at: parts, volts, captures. What only one statement knows of
 * is kept by its class (statement.h). */
#ifndef WADI_SAID_H
#define WADI_SAID_H

#include <glib.h>

#include "wadium/host/analog.h"
#include "wadium/host/bench.h"
#include "wadium/host/part.h"

typedef struct wadi_statement_class wadi_statement_class;

/* Something that was said. */
typedef struct wadi_said {
    const wadi_statement_class *cls;
    const void *what;
} wadi_said;

/* A part beside the chip: what a bench says of it. */
typedef struct wadi_part_said {
    const char *name;
    const wad_part_class *cls;
    const struct wadi_shell *shell; /* of its bus (world/part.h); NULL: edges are the part's own */
    void *form;                     /* the shell's: how it is set */
    const wad_pin_def *pins[WAD_PART_WIRES]; /* by the class's wires; NULL: goes nowhere */
    unsigned number;                         /* among those of its shell: of its random numbers */
    const char *image;                       /* file that its contents begin with; NULL: none */
    const char *keep;                        /* file that takes what it holds; NULL: none */
} wadi_part_said;

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

/* All that the bench says of volts. */
typedef struct wadi_analog_said {
    GArray *sources, *probes, *trims;
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
    wadi_dma_signal dma;    /* of a DMA controller */
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

#endif
