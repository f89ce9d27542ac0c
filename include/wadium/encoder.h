/* SPDX-License-Identifier: MIT */
/*
 * Two-phase encoders: a wheel whose two tracks say how far it has turned, and which way.
 *
 *     static wad_encoder wheel;
 *
 *     st = wad_encoder_open(&wheel, &corran32_enc, CORRAN32_ROUTE_ENC_A_PC6,
 *                           CORRAN32_ROUTE_ENC_B_PC7, 3);
 *     int32_t quarters = wad_encoder_position(&wheel);       4 for each mark of a track
 *
 * Every edge of either track is a step, and one that comes back undoes it: a wheel that trembles on
 * an edge goes nowhere. Ask at least once while it makes half of the block's range of steps.
 */
#ifndef WADIUM_ENCODER_H
#define WADIUM_ENCODER_H

#include "roles.h"
#include "route.h"
#include "status.h"

/** An encoder in use. The caller owns it. */
typedef struct wad_encoder {
    const wad_block *block; /**< read-only */
    uint32_t last;          /* private from here: the count when it was asked */
    int32_t position;
} wad_encoder;

/**
 * Brings the block up, takes both inputs and starts at position 0.
 * @param filter  clock edges for which an input must stay before it counts; 0: none
 * WAD_E_ABSENT: the chip has no encoder; WAD_E_RANGE: no such filter; WAD_E_TIMEOUT: it stays in
 * reset; else as wad_pin_route. Blocks for the reset only.
 */
WAD_MUST_CHECK wad_status wad_encoder_open(wad_encoder *encoder, const wad_block *block,
                                           wad_route a, wad_route b, unsigned filter);

/** Quarter steps since the opening, negative to the other side. Never blocks; from one priority
 * only. */
int32_t wad_encoder_position(wad_encoder *encoder);

/** True when both inputs have changed at once since the last call: steps are lost, the wheel is too
 * fast for the filter or a track is broken. Never blocks. */
bool wad_encoder_fault(const wad_encoder *encoder);

#endif
