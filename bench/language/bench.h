/* SPDX-License-Identifier: MIT */
/* A bench's insides: what was said, before and while it runs. */
#ifndef WADI_BENCH_INTERNAL_H
#define WADI_BENCH_INTERNAL_H

#include <glib.h>

#include "bench/measure/dma.h"
#include "bench/measure/grid.h"
#include "bench/world/serial_peer.h"
#include "bench/world/spi_bus.h"
#include "bench/world/volt_source.h"
#include "sheet/read/build.h"
#include "wadium/host/bench.h"

/* What is captured: a pin under a name. */
typedef struct wadi_probe {
    const char *name;
    const wad_pin_def *pin;  /* or */
    wadi_mover_signal mover; /* of a data mover */
} wadi_probe;

/* Memory that is shown before and after. */
typedef struct wadi_memory_def {
    const char *name;
    uint64_t from_ps, to_ps; /* UINT64_MAX: at the end */
    wad_where where;
} wadi_memory_def;

/* The same in a run. */
typedef struct wadi_memory {
    wad_memory_shown shown;
    uint8_t *before, *after;
    char *why; /* it cannot be shown */
} wadi_memory;

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

typedef enum wadi_expect_type {
    WADI_EXPECT_FREQUENCY,
    WADI_EXPECT_DUTY,
    WADI_EXPECT_HIGH,
    WADI_EXPECT_LOW,
    WADI_EXPECT_PERIOD,
    WADI_EXPECT_EDGES,
    WADI_EXPECT_GRID,
    WADI_EXPECT_LEVEL,
    WADI_EXPECT_IRQ_PERIOD,
    WADI_EXPECT_IRQ_GRID,
    WADI_EXPECT_IRQ_LATENCY,
    WADI_EXPECT_IRQ_COUNT,
    WADI_EXPECT_AWAKE,
    WADI_EXPECT_SAYS,
    WADI_EXPECT_BYTES,
    WADI_EXPECT_PEER_ERRORS,
    WADI_EXPECT_SPI_FRAMES,
    WADI_EXPECT_SPI_SELECTS,
    WADI_EXPECT_SPI_REFUSALS,
    WADI_EXPECT_TONE,
    WADI_EXPECT_AMPLITUDE,
    WADI_EXPECT_MEAN,
    WADI_EXPECT_DISTORTION,
    WADI_EXPECT_SAMPLES,
    WADI_EXPECT_STAYS,
    WADI_EXPECT_CURRENT,
    WADI_EXPECT_CURRENT_BELOW,
    WADI_EXPECT_ELEMENTS,
    WADI_EXPECT_ELEMENT_LATENCY,
    WADI_EXPECT_BUS,
    WADI_EXPECT_NO_FINDINGS,
    WADI_EXPECT_FINDING
} wadi_expect_type;

typedef struct wadi_expect {
    wadi_expect_type type;
    wad_where where;
    unsigned probe; /* of a pin */
    unsigned line;  /* of an interrupt; of a serial line's peer, or a device, its number */
    const wad_instance *mover; /* of its channel `line` */
    const char *says;
    const char *subject;
    wad_rational wanted; /* in base units: Hz, s, share */
    wad_rational within;
    wad_unit within_unit; /* the wanted value's own unit, or WAD_UNIT_PART of it */
    wad_level level;
    uint64_t at_ps;
    uint64_t from_ps, to_ps;
    const char *file; /* of a finding: where it must stand */
    unsigned file_line;
    const char *text; /* as wanted, for the report */
} wadi_expect;

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

struct wad_bench {
    wadi_arena *arena;
    const char *title;
    const char *file; /* NULL when said in C */
    const wad_board *board;
    const wad_sheet *sheet;
    wad_board *own_board; /* read because the bench names it */
    wad_sheet *own_sheet;
    const char *firmware;
    uint64_t run_ps;
    uint32_t seed;
    unsigned load;        /* percent */
    GArray *clock_errors; /* wadi_clock_error */
    GArray *failures;     /* wadi_clock_failure */
    GArray *pin_defects;  /* wadi_pin_defect */
    GArray *recorded;     /* wadi_recorded */
    wadi_recording recording;
    GArray *requirements;   /* wadi_requirement */
    GArray *peers;          /* wadi_peer_def */
    GArray *says;           /* wadi_peer_say */
    GArray *troubles;       /* wadi_trouble */
    GArray *devices;        /* wadi_spi_def */
    GArray *values;         /* wadi_spi_value */
    GArray *jumpers;        /* wadi_jumper_def */
    GArray *spi_troubles;   /* wadi_spi_trouble */
    GArray *power_failures; /* uint64_t */
    GArray *silences;       /* wadi_silence_rule */
    GArray *irq_probes;     /* wadi_irq_probe */
    GArray *probes;         /* wadi_probe */
    GArray *stimuli;        /* wadi_stimulus */
    GArray *expects;        /* wadi_expect */
    GArray *memories;       /* wadi_memory_def */
    wadi_analog_said analog;
    GPtrArray *point_lists; /* of analog sources, GArray of wad_sample */
};

/** A button's contact: how it stands pressed, and at rest. */
wad_level wadi_button_level(const wad_part_def *button, bool pressed);
/** Times of an even number of extra changes within `length` of `ps`, ascending; how many. */
unsigned wadi_bounce_times(GRand *rand, uint64_t ps, uint64_t length, uint64_t times[8]);
/** 'high', 'low' or 'floating'. */
bool wadi_parse_level(wadi_cursor *c, wad_level *level);
/** Carries one statement out; messages go to `src`. */
bool wadi_bench_statement(wad_bench *bench, const wadi_source *src, const wadi_stmt *stmt);
/** `W304 at "main.c:17" in FUNCTION "reason"`, or the name of a file of such lines. */
void wadi_say_silence(wad_bench *bench, wadi_cursor *c);
/** A finding's number; false: a message was given. */
bool wadi_parse_finding_number(wadi_cursor *c, unsigned *number);
bool wadi_parse_expect(wad_bench *bench, wadi_cursor *c);
/** A time in picoseconds. */
bool wadi_parse_ps(wadi_cursor *c, uint64_t *ps);
bool wadi_parse_amount(wadi_cursor *c, wad_rational *value, wad_unit *unit);
/** The handler of a line is captured, as `name` unless it is already. */
void wadi_bench_capture_irq(wad_bench *bench, unsigned line, const char *name);
/* ---- say_uart.c ---- */
/** A statement about serial lines; false: it is none. */
bool wadi_say_serial(wad_bench *bench, wadi_cursor *c);
/** A part of the board with wires TX and RX. */
void wadi_peer_on_part(wadi_peer_def *def, const wad_part_def *part);
/** The peer of a name, -1 for none. */
int wadi_bench_peer(const wad_bench *bench, const char *name);

/** `at T [for T]`; with `must_end` for good is not good enough. */
void wadi_parse_span(wadi_cursor *c, uint64_t *at_ps, uint64_t *for_ps, bool must_end);
/** The pin of a part's wire, NULL for none. */
const wad_pin_def *wadi_part_wire(const wad_part_def *part, const char *name);
/** A pin of the chip, or a part's wire; NULL: a message was given. */
const wad_pin_def *wadi_parse_pin(const wad_bench *bench, wadi_cursor *c);
/** `recorded ...`; false when it is none. */
bool wadi_say_recorded(wad_bench *bench, wadi_cursor *c);
/** `stick LEVEL1 low`, `pull TEST missing`: false when it is neither. */
bool wadi_say_defect(wad_bench *bench, wadi_cursor *c);
void wadi_set_up_defects(const wad_bench *bench, wad_sim *sim, GPtrArray *steps);
/** The bench says that a board's or the chip's pull at this pin is missing. */
bool wadi_pull_is_missing(const wad_bench *bench, const wad_pin_def *pin);
/* ---- say_spi.c ---- */
void wadi_buses_init(wad_bench *bench);
void wadi_buses_clear(wad_bench *bench);
/** A statement about exchange buses, jumpers or the power; false: it is none. */
bool wadi_say_bus(wad_bench *bench, wadi_cursor *c);
/** The device of a name, -1 for none. */
int wadi_bench_device(const wad_bench *bench, const char *name);

/* ---- say_analog.c ---- */
void wadi_volts_init(wad_bench *bench);
void wadi_volts_clear(wad_bench *bench);
/** A statement about volts; false: it is none. */
bool wadi_say_volts(wad_bench *bench, wadi_cursor *c);
/** `PRESSURE level 1.2 V behind 10 kohm noise 2 mV at 3 s` */
void wadi_parse_source(wad_bench *bench, wadi_cursor *c, wadi_analog_def *def);
/** The chip has this temperature from a time on. */
void wadi_volts_degrees(wad_bench *bench, double celsius, uint64_t at_ps);
/** "50 mV", perhaps with a minus. */
bool wadi_parse_volts_amount(wadi_cursor *c, double *volts);
/** The analog probe of a name, -1 for none. */
int wadi_bench_volts(const wad_bench *bench, const char *name);
/** Behind `capture PIN` (NULL: `capture current`); false: it is no analog capture. */
bool wadi_capture_volts(wad_bench *bench, wadi_cursor *c, const wad_pin_def *pin, const char *name);

/* ---- say_dma.c ---- */
/** Behind `capture`; false: it names no data mover. */
bool wadi_say_capture_mover(wad_bench *bench, wadi_cursor *c);
/** Behind `expect`; false: it names no data mover. */
bool wadi_parse_mover(wad_bench *bench, wadi_cursor *c, wadi_expect *e);
/** `memory NAME from T to T`; false: it is something else. */
bool wadi_say_memory(wad_bench *bench, wadi_cursor *c);

/** The probe of a name, -1 for none. */
int wadi_bench_probe(const wad_bench *bench, const char *name);

/* ---- while it runs ---- */

/* Meters of one expectation. */
typedef struct wadi_gauge {
    const wadi_expect *expect;
    wad_meter meter;
    wad_stats period, latency;
    wadi_grid_meter grid;
    uint64_t count, last_entry;
    const wadi_peer *peer;
    const wadi_bus_set *buses;
    const wadi_movers *movers;
    wad_level level_then;
    double charge_then; /* coulombs at the window's begin */
} wadi_gauge;

/* Takes one more edge of the gauge's probe into what its expectation measures. */
void wadi_gauge_edge(wadi_gauge *gauge, uint64_t ps, wad_level level);

typedef struct wadi_judged {
    char *measured;
    bool passed;
} wadi_judged;

/* ---- expect.c, for expect_analog.c ---- */
bool wadi_expect_wanted(wadi_cursor *c, wadi_expect *e, wad_unit unit);
bool wadi_expect_within(wadi_cursor *c, wadi_expect *e, wad_unit unit);
bool wadi_expect_close(const wadi_expect *e, double value);
/** "500 ms, all 10 within 83.3 ps"; g_free. */
char *wadi_spread(const wad_stats *s);

/** "1.5 ms"; g_free. */
char *wadi_seconds(double s);

/* ---- say_dma.c ---- */
wadi_judged wadi_judge_mover(const wadi_gauge *gauge, wad_sim *sim, const wad_run_result *run);
/** Memory is looked at, at its times; what came of it; wadi_memory *, freed by _free. */
GPtrArray *wadi_memories_begin(wad_sim *sim, GArray *defs);
void wadi_memories_end(wad_sim *sim, GPtrArray *list, GArray *shown, GPtrArray *notes);
void wadi_memories_free(GPtrArray *list);

/* ---- expect_analog.c ---- */
void wadi_parse_volts(wadi_cursor *c, wadi_expect *e);
void wadi_parse_current(wadi_cursor *c, wadi_expect *e);
wadi_judged wadi_judge_volts(const wadi_gauge *gauge, const wad_capture *capture,
                             const wad_run_result *run);
wadi_judged wadi_judge_current(const wadi_gauge *gauge, wad_sim *sim, const wad_run_result *run);

wadi_judged wadi_judge(const wadi_gauge *gauge, wad_sim *sim, const wad_capture *capture,
                       const wad_run_result *run);

#endif
