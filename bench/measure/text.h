/* SPDX-License-Identifier: MIT */
/* Measured values as text. */
#ifndef WADI_TEXT_H
#define WADI_TEXT_H

#include "wadium/host/meter.h"

/** "500 ms, all 10 within 83.3 ps"; g_free. */
char *wadi_spread(const wad_stats *s);

/** "1.5 ms"; g_free. */
char *wadi_seconds(double s);

#endif
