/* SPDX-License-Identifier: MIT */
/* Synchronous serial ports. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_SPI_H
#define WADIUM_KINDS_SPI_H

/* clang-format off */
/* The codes stand last: what a model hears of must be among the first 64. */
#define WAD_ROLES_SPI(X)                                                                       \
    X(enable,       FIELD,  MAY,  "the block works")                                           \
    X(controller,   FIELD,  MAY,  "1: it drives clock and selects, 0: it is a device; without it, 1") \
    X(divider,      FIELD,  MUST, "clock edges a bit: times * (value + plus), or times * power ** value") \
    X(phase,        FIELD,  MAY,  "1: bits are taken at the second edge of the clock, 0: at the first") \
    X(idle_high,    FIELD,  MAY,  "the clock rests high")                                      \
    X(lsb_first,    FIELD,  MAY,  "the least significant bit goes first")                      \
    X(bits,         FIELD,  MAY,  "bits of a frame: step * value + plus; without it, 8")       \
    X(loop,         FIELD,  MAY,  "what goes out comes in")                                    \
    X(select_on,    FIELD,  MAY,  "the block drives a chip select")                            \
    X(select,       FIELD,  MAY,  "which one")                                                 \
    X(select_hold,  FIELD,  MAY,  "it stays active between frames, until this is 0")           \
    X(select_high,  FIELD,  MAY,  "active level, by chip select; without it, low")             \
    X(setup,        FIELD,  MAY,  "half bits from the select to the first frame")              \
    X(hold,         FIELD,  MAY,  "half bits from the last edge to the select's end")          \
    X(gap,          FIELD,  MAY,  "half bits between frames")                                  \
    X(watch,        FIELD,  MAY,  "chip select 0 is an input: active, it tells of another controller") \
    X(tx_data,      FIELD,  MUST, "frame to send; `depth`: room for so many, 0: the shift register")\
    X(rx_data,      FIELD,  MUST, "received frame; reading takes it; `depth`: room for so many") \
    X(tx_level,     FIELD,  MAY,  "frames that wait to be sent")                               \
    X(rx_level,     FIELD,  MAY,  "frames that have arrived")                                  \
    X(tx_at,        FIELD,  MAY,  "tx_ready when so many wait, or fewer")                      \
    X(rx_at,        FIELD,  MAY,  "rx_ready when more than so many have arrived")              \
    X(tx_ready,     FLAG,   MUST, "flag: there is room")                                       \
    X(tx_ready_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(tx_dma,       FIELD,  MAY,  "asks DMA for a frame while there is room")                  \
    X(rx_ready,     FLAG,   MUST, "flag: a frame has arrived")                                 \
    X(rx_ready_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(rx_dma,       FIELD,  MAY,  "asks DMA to take a frame while one has arrived")            \
    X(done,         FLAG,   MAY,  "flag: the last edge is over, and the select where it ends then") \
    X(done_irq,     FIELD,  MAY,  "interrupt enable for it")                                   \
    X(busy,         FIELD,  MAY,  "a frame or a select's time is under way")                   \
    X(overrun,      FLAG,   MAY,  "flag: a frame came, and there was no room")                 \
    X(overrun_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(underrun,     FLAG,   MAY,  "flag: as a device it had nothing to send")                  \
    X(underrun_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(fault,        FLAG,   MAY,  "flag: another controller selected it; it is a device now")  \
    X(fault_irq,    FIELD,  MAY,  "interrupt enable for it")                                   \
    X(clock,        SIGNAL, MUST, "clock, out of a controller and into a device")              \
    X(mosi,         SIGNAL, MUST, "data out of a controller and into a device")                \
    X(miso,         SIGNAL, MUST, "data into a controller and out of a device")                \
    X(chip_select,  SIGNAL, MAY,  "selects, by number; a device listens to the first")         \
    X(divider_plus, CODE,   MAY,  "added to the divider value")                                \
    X(divider_times,CODE,   MAY,  "edges that one of it is worth; 0: 1")                       \
    X(divider_power,CODE,   MAY,  "the divider is this number to the power of the value")      \
    X(bits_plus,    CODE,   MAY,  "added to get the bits of a frame")                          \
    X(bits_step,    CODE,   MAY,  "bits that one of the value is worth; 0: 1")                 \
    X(tx_data_depth,CODE,   MAY,  "room for so many frames beside the one that is sent")      \
    X(rx_data_depth,CODE,   MAY,  "room for so many frames; 0: 1")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(spi, WAD_ROLES_SPI)
#endif
