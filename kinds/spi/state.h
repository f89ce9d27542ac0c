/* SPDX-License-Identifier: MIT */
/* Kind spi: what its files share. model.c knows registers, wire.c clock and bits, end.c what stands
 * at the other end, check.c what is wrong. */
#ifndef WADI_SPI_H
#define WADI_SPI_H

#include "kinds/shared/fifo.h"
#include "kinds/shared/shift.h"
#include "sim/core/sim.h"
#include "wadium/host/spi.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_SPI(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

/* What a controller is about. */
typedef enum spi_stage {
    STAGE_REST,
    STAGE_START, /* the first edge of the clock is awaited, for the select or the frame */
    STAGE_SETUP, /* selected; the frame comes */
    STAGE_SHIFT, /* a frame */
    STAGE_HOLD,  /* the last edge is over; the select ends */
    STAGE_PAUSE  /* no select, or between frames */
} spi_stage;

/* Long as the block is wide: fields as they stand, and what it keeps beside its registers. */
typedef struct spi_state {
    bool on, controller, clocked;
    /* as the fields stand */
    unsigned bits;
    uint64_t bit; /* clock edges of one; of an odd one the first half is the shorter */
    bool phase, idle_high, lsb_first, loop, watch, select_on, select_hold;
    unsigned select, setup, hold, gap;
    uint32_t tx_at, rx_at;
    wadi_trace format_trace, select_trace; /* where they were set last */
    wadi_fifo out, in;
    bool bare; /* what is written goes into the shift register: nothing may be under way */
    /* the frame under way */
    spi_stage stage;
    uint64_t at; /* clock edge on which the stage began */
    wadi_shift shift;
    wad_event next;
    bool active; /* a chip select is, `selected` */
    unsigned selected;
    bool checked; /* the devices, since the format or the select changed */
    /* lines as heard */
    bool clock_in, mosi_in, miso_in, select_in;
    bool loaded;     /* device: the frame to send has been taken */
    unsigned frames; /* device: since it was selected */
    /* habits */
    unsigned moves, seen; /* as kind uart */
    unsigned unread;      /* frames that came and were thrown away */
    unsigned reads;       /* frames that were read */
    uint64_t last_ps;     /* when the last one came */
    wadi_trace sent_trace;
} spi_state;

/* What stands at the other end of the lines. */
typedef struct spi_end {
    wad_sim *sim;
    wad_spi_part end;
} spi_end;

void wadi_spi_update(wad_model *m);
void wadi_spi_flag(wad_model *m, unsigned role);
/** A whole frame has come. */
void wadi_spi_received(wad_model *m, uint32_t word);
static inline uint32_t wadi_spi_mask(unsigned bits)
{
    return bits >= 32 ? UINT32_MAX : (1u << bits) - 1u;
}

void wadi_spi_wire_init(wad_model *m);
/** Begins with the next waiting frame, if it may. */
void wadi_spi_kick(wad_model *m);
/** The select is to end when it can. */
void wadi_spi_release(wad_model *m);
/** Everything stops where it is. */
void wadi_spi_stop(wad_model *m);
/** Lines as the settings say: which way, and where they rest. */
void wadi_spi_show(wad_model *m);
bool wadi_spi_busy(const spi_state *s);
/** May a frame be written? */
bool wadi_spi_has_room(wad_model *m);
/** Device: the clock or the select changed. */
void wadi_spi_hear_clock(wad_model *m, bool level);
void wadi_spi_hear_select(wad_model *m, bool level);

/** Before a frame: do the selected devices take it? */
void wadi_spi_check(wad_model *m);

/** The run is over: frames that came and that nobody read. */
void wadi_spi_ended(wad_model *m);

/* Flags, each with its interrupt enable. */

/** Frames that are given and not gone. */
unsigned wadi_spi_under_way(const spi_state *s);
/** A field of one bit; `otherwise` where the chip has none. */
bool wadi_spi_is_set(wad_model *m, unsigned role, bool otherwise);
void wadi_spi_read_format(wad_model *m, spi_state *s);
void wadi_spi_check_size(wad_model *m, const spi_state *s);
/** As controller or as device. */
bool wadi_spi_works(wad_model *m);

/** Where a line comes out; NULL: nowhere. */
const wad_pin_def *wadi_spi_pin(const wad_model *m, unsigned role);
unsigned wadi_spi_mode(const spi_state *s);
bool wadi_spi_is_selected(const wad_sim *sim, const wad_spi_part *end);

#endif
