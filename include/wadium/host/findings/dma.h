/* SPDX-License-Identifier: MIT */
/* DMA. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_DMA_H
#define WADIUM_HOST_FINDINGS_DMA_H

/* clang-format off */
#define WAD_FINDINGS_DMA(X)                                                                                     \
    X(DMA_SIZE,       1201, "element smaller or larger than the register",                                      \
      "Bits are lost, or a neighbour is touched. Make SIZE what the data register holds.")                      \
    X(DMA_STEP,       1202, "address that goes on over a data register",                                        \
      "The second element comes from, or goes to, the next register. Let the peripheral's side stand still.")   \
    X(DMA_BYTES,      1203, "count in bytes where elements are wanted",                                         \
      "It runs beyond the buffer, over what lies behind it. Divide by the element's size.")                     \
    X(DMA_BEYOND,     1204, "transfer beyond its buffer",                                                       \
      "What lies behind it is overwritten, or sent. Count what fits from where it begins.")                     \
    X(DMA_WINDOW,     1205, "window not aligned to its size",                                                   \
      "Addresses run round at multiples of the window's size, not at the buffer's ends. Align the buffer to it.")\
    X(DMA_OVERLAP,    1206, "destination overwrites source not read yet",                                       \
      "What is copied there is read again as source. Copy from the end, or through a buffer.")                  \
    X(DMA_STACK,      1207, "buffer on a stack frame that has returned",                                        \
      "Other functions' variables lie there now. Make it static, or wait for the end before returning.")        \
    X(DMA_LATE,       1208, "half of a ring not taken before the next was full",                                \
      "Data are overwritten while they are worked on. Make the ring larger, or its handler more urgent.")       \
    X(DMA_TWICE,      1209, "request claimed by two channels",                                                  \
      "Each gets some of the elements. Give it to one, or stop the other first.")                               \
    X(DMA_EARLY,      1210, "peripheral that asked before its channel was armed",                               \
      "What came before is lost or old. Arm the channel first, then start the peripheral.")                     \
    X(DMA_ROUND,      1211, "ring where a single transfer was meant",                                           \
      "It began anew at its end, over what had just arrived. Leave repetition off.")                            \
    X(DMA_ENDED,      1212, "single transfer where a ring was meant",                                           \
      "The peripheral goes on asking, and nobody answers. Let the channel repeat, or start it again at its end.")\
    X(DMA_STALE,      1213, "channel armed with its end flag still set",                                        \
      "Whoever polls it takes the last transfer's end for this one's. Clear it before arming.")                 \
    X(DMA_UNASKED,    1214, "channel waits for a peripheral that does not ask",                                 \
      "Not one element moves. Set the peripheral's own request enable, and start it.")                          \
    X(DMA_KEEP,       1215, "peripheral stops asking at the end of the first round",                            \
      "The ring stands still behind it. Set the bit that keeps it asking.")                                     \
    X(DMA_TYPE,       1216, "element size unlike the buffer's type",                                            \
      "Elements lie squeezed or spread in it. Make them alike.")                                                \
    X(DMA_REWIND,     1217, "addresses not rewound before a second start",                                      \
      "They stand where the last transfer ended: it goes on behind the buffer. Write them again.")              \
    X(DMA_PAUSED,     1218, "channel paused for ever",                                                          \
      "The rest never moves. Let it go on, or abort it.")                                                       \
    X(DMA_CHAIN,      1219, "channel chained to itself",                                                        \
      "It begins nothing. Name another one, or let it repeat.")                                                 \
    X(DMA_ALIGN,      1220, "misaligned address",                                                               \
      "The channel stops with an error. An address must be a multiple of the element's size.")                  \
    X(DMA_UNMAPPED,   1221, "transfer where nothing is",                                                        \
      "The channel stops with an error; what was moved stays. Look at the address and the count.")              \
    X(DMA_ZERO,       1222, "transfer of no elements",                                                          \
      "Nothing moves, and no end comes. Write the count before the channel is armed.")                          \
    X(DMA_LOST,       1223, "request lost: the last one still waited",                                          \
      "The channel is too slow for its timer. Make it urgent, or ask less often.")
/* clang-format on */

#endif
