/* SPDX-License-Identifier: MIT */
/* SPI ports. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_SPI_H
#define WADIUM_HOST_FINDINGS_SPI_H

/* clang-format off */
#define WAD_FINDINGS_SPI(X)                                                                                     \
    X(SPI_MODE,        901, "exchange in a form that the device does not take",                                 \
      "It takes and gives other bits than were sent. Set mode, bit order and frame size as its datasheet has them.")\
    X(SPI_CUT,         902, "select or block switched off in the middle of a frame",                            \
      "The device drops the frame, or acts on half of it. Wait until the block is not busy.")                   \
    X(SPI_EARLY,       903, "received data read before the exchange was complete",                              \
      "It is the last frame again, or rubbish. Wait for the received flag, not for room to send.")              \
    X(SPI_OVERRUN,     904, "received frame lost",                                                              \
      "Each frame sent brings one back, wanted or not. Read it, and never have more under way than fit.")       \
    X(SPI_FAST,        905, "clock above the device's limit",                                                   \
      "It may work on the desk and fail in the heat. Take a larger divider: 'wadium rate' has them.")           \
    X(SPI_RESIZED,     906, "frame size changed while a frame was under way",                                   \
      "The frame ends where nobody expects it. Wait until the block is not busy.")                              \
    X(SPI_TWO_SELECTS, 907, "select pin driven by block and port",                                              \
      "Only one of them reaches the pin. Route it to the block, or let the port have it and the block's select off.")\
    X(SPI_UNREAD,      908, "received data never looked at",                                                    \
      "An exchange without a device, or with the wire cut, ends just as well. Read what came, and compare.")    \
    X(SPI_SHORT,       909, "more frames compared than were exchanged",                                         \
      "What lies behind the last frame is not data. Compare as many frames as the exchange moved.")             \
    X(SPI_UNDERRUN,    910, "device without a frame to send",                                                   \
      "The controller takes zeros for data. Give the first frame before it selects, the next in time.")         \
    X(SPI_FAULT,       911, "two controllers on one bus",                                                       \
      "Their outputs fight. Only one may be controller at a time; ask before taking the bus.")                  \
    X(SPI_FULL,        912, "frame given when there was no room",                                               \
      "It is lost. Look at the flag first, or ask for the interrupt.")                                          \
    X(SPI_OFF,         913, "frame given while the block is off",                                               \
      "It is never sent. Enable the block first, and clock it.")                                                \
    X(SPI_BOTH,        914, "two devices selected at once",                                                     \
      "Both drive the received line. End one select before the next begins, and set all of them up inactive.")
/* clang-format on */

#endif
