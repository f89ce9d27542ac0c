/* SPDX-License-Identifier: MIT */
/* Clock gates, resets, oscillators that are watched. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_CLOCKS_H
#define WADIUM_KINDS_CLOCKS_H

/* clang-format off */
/* clang-format off */
#define WAD_ROLES_CLOCKS(X)                                                                    \
    X(gates,       REG,    MAY,  "clock gates, one bit a block")                               \
    X(resets,      REG,    MAY,  "resets, one bit a block")                                    \
    X(resets_done, REG,    MAY,  "resets that are released and over, one bit a block")         \
    X(lost,        FLAG,   MAY,  "flag: an oscillator that was watched has failed")            \
    X(lost_irq,    FIELD,  MAY,  "interrupt enable for the lost flag")                         \
    X(resets_done_after_cycles, CODE, MAY, "core clock cycles from the release to the end of a reset")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(clocks, WAD_ROLES_CLOCKS)
#endif
