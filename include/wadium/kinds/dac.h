/* SPDX-License-Identifier: MIT */
/* Converters to volts. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_DAC_H
#define WADIUM_KINDS_DAC_H

/* clang-format off */
#define WAD_ROLES_DAC(X)                                                                       \
    X(enable,       FIELD,  MAY,  "drives its output while 1")                                 \
    X(data,         FIELD,  MUST, "what comes out, at once or with the next trigger")          \
    X(align_left,   FIELD,  MAY,  "the register's first bit is the value's first")             \
    X(buffer,       FIELD,  MAY,  "1: a buffer drives the pin")                                \
    X(trigger_on,   FIELD,  MAY,  "1: what was written comes out with the next trigger")       \
    X(trigger,      FIELD,  MAY,  "which trigger it listens to, as the block's list numbers them") \
    X(start,        FIELD,  MAY,  "writing 1 is a trigger")                                    \
    X(wave,         FIELD,  MAY,  "what is added to the value at each trigger")                \
    X(wave_size,    FIELD,  MAY,  "its size: 2 ** (value + 1) - 1 steps")                      \
    X(empty,        FLAG,   MAY,  "flag: what was written is out, and the next can be written")\
    X(empty_irq,    FIELD,  MAY,  "interrupt enable for it")                                   \
    X(dma_on,       FIELD,  MAY,  "asks DMA for the next value when the last one is out")      \
    X(underrun,     FLAG,   MAY,  "flag: a trigger came, and nothing new was written")         \
    X(underrun_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(output,       OUTPUT, MUST, "analog pin")                                                \
    X(bits,         COUNT,  MAY,  "of a value; without it, as wide as the field")              \
    X(settle,       TIME,   MAY,  "from a step of full scale to half a step of the result")    \
    X(resistance,   OHM,    MAY,  "of the output without buffer")                              \
    X(headroom,     VOLT,   MAY,  "that the buffer keeps from ground and supply")              \
    X(wave_off,     CODE,   MAY,  "nothing")                                                   \
    X(wave_triangle,CODE,   MAY,  "up and down in steps of 1")                                 \
    X(wave_noise,   CODE,   MAY,  "pseudo-random bits")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(dac, WAD_ROLES_DAC)
#endif
