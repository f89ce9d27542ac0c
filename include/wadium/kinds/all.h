/* SPDX-License-Identifier: MIT */
/*
 * The kinds, one line each; everything else is derived from it:
 *
 *     #define WAD_KIND(kind, LIST) ...
 *     #include <wadium/kinds/all.h>
 *     #undef WAD_KIND
 *
 * Not guarded: it may be included again with another meaning of WAD_KIND.
 */
/* clang-format off */
#include "clocks.h"
#include "gpio.h"
#include "interrupts.h"
#include "counter.h"
#include "tick.h"
#include "encoder.h"
#include "uart.h"
#include "spi.h"
#include "frames.h"
#include "adc.h"
#include "dac.h"
#include "power.h"
#include "dma.h"
#include "watchdog.h"
#include "timebase.h"
/* clang-format on */
