/* SPDX-License-Identifier: MIT */
/* Channels that move memory. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_DMA_H
#define WADIUM_KINDS_DMA_H

/* clang-format off */
/* A channel moves elements from one address to another, one (or all) at each request. Where a
 * chip keeps the channels' settings in memory, the `at_` roles say where in a descriptor; the
 * registers show them once they are loaded. */
#define WAD_ROLES_DMA(X)                                                                       \
    X(on,          FIELD,  MAY,  "the block works; without it, always")                        \
    X(enable,      FIELD,  MUST, "1 arms the channel; 0 again when it has ended, by channel")  \
    X(source,      FIELD,  MUST, "address that the next element is read from, by channel")     \
    X(destination, FIELD,  MUST, "address that the next element is written to, by channel")    \
    X(count,       FIELD,  MUST, "elements; reads as what is left, by channel")                \
    X(source_go,   FIELD,  MAY,  "as source, and the channel begins, by channel")              \
    X(destination_go,FIELD,MAY,  "as destination, and the channel begins, by channel")         \
    X(count_go,    FIELD,  MAY,  "as count, and the channel begins, by channel")               \
    X(size,        FIELD,  MUST, "bytes of an element: 2 ** value, by channel")                \
    X(source_step, FIELD,  MAY,  "1: the source goes on to the next element, by channel")      \
    X(destination_step,FIELD,MAY,"1: the destination goes on to the next element, by channel") \
    X(request,     FIELD,  MAY,  "what it waits for, as the block's list numbers it, by channel") \
    X(waits,       FIELD,  MAY,  "1: it waits for requests; without it, unless `request` says none, by channel") \
    X(whole,       FIELD,  MAY,  "1: one request moves all elements, by channel")              \
    X(urgent,      FIELD,  MAY,  "1: goes before channels without it, by channel")             \
    X(chain,       FIELD,  MAY,  "1: another channel begins at this one's end, by channel")    \
    X(next,        FIELD,  MAY,  "which, by channel")                                          \
    X(wrap,        FIELD,  MAY,  "an address runs round in a window of 2 ** value bytes; 0: none, by channel") \
    X(wrap_destination,FIELD,MAY,"1: the destination does, 0: the source, by channel")         \
    X(swap,        FIELD,  MAY,  "1: the bytes of an element change places, by channel")       \
    X(sum_on,      FIELD,  MAY,  "1: elements are added to the running sum, by channel")       \
    X(sum,         FIELD,  MAY,  "running sum")                                                \
    X(repeat,      FIELD,  MAY,  "1: begins again at its end, by channel")                     \
    X(half,        FLAG,   MAY,  "flag: half of the elements is moved, by channel")            \
    X(half_irq,    FIELD,  MAY,  "interrupt enable for it, by channel")                        \
    X(end,         FLAG,   MUST, "flag: all elements are moved; not where it chains without its interrupt, by channel")\
    X(end_irq,     FIELD,  MAY,  "interrupt enable for it, by channel")                        \
    X(error,       FLAG,   MAY,  "flag: nothing is at an address, or it is misaligned; the channel has ended, by channel") \
    X(error_irq,   FIELD,  MAY,  "interrupt enable for it, by channel")                        \
    X(busy,        FIELD,  MAY,  "armed, and elements are left, by channel")                   \
    X(pause,       FIELD,  MAY,  "1: the channel holds still, by channel")                     \
    X(abort,       FIELD,  MAY,  "writing 1 ends it behind the element in flight, by channel") \
    X(descriptor,  FIELD,  MAY,  "address of the settings in memory, by channel")              \
    X(load,        FIELD,  MAY,  "writing 1 loads them and begins, by channel")                \
    X(channels,    COUNT,  MUST, "how many")                                                   \
    X(cost,        COUNT,  MAY,  "clock cycles that an element keeps the bus; 0: 2")           \
    X(latency,     COUNT,  MAY,  "clock cycles from a request to its element")                 \
    X(load_cost,   COUNT,  MAY,  "clock cycles to load a descriptor")                          \
    X(at_source,   COUNT,  MAY,  "bytes into a descriptor")                                    \
    X(at_destination,COUNT,MAY,  "bytes into a descriptor")                                    \
    X(at_count,    COUNT,  MAY,  "bytes into a descriptor")                                    \
    X(at_control,  COUNT,  MAY,  "bytes into a descriptor: the register of `size`, as loaded")  \
    X(at_link,     COUNT,  MAY,  "bytes into a descriptor: the next one's address; 0: none")   \
    X(request_none,CODE,   MAY,  "waits for nothing")                                          \
    X(count_plus,  CODE,   MAY,  "added to the count's value")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(dma, WAD_ROLES_DMA)
#endif
