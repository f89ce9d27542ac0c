/* SPDX-License-Identifier: MIT */
/* Blocks as a whole. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_BLOCK_H
#define WADIUM_HOST_FINDINGS_BLOCK_H

/* clang-format off */
#define WAD_FINDINGS_BLOCK(X)                                                                                   \
    X(NEVER_ENABLED,   401, "block configured but never enabled",                                               \
      "The block does nothing. Set its enable bit, last.")                                                      \
    X(FRACTION,        402, "typed, but not simulated: fraction of a number",                                   \
      "The model counts in whole numbers, and what comes of this one is off by the rest. Test with a whole one, or measure on the board.")
/* clang-format on */

#endif
