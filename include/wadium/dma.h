/* SPDX-License-Identifier: MIT */
/*
 * DMA: memory and data registers filled and emptied while the core does something
 * else, or sleeps.
 *
 *     static wad_dma_mover mover;
 *     static wad_dma copier;
 *
 *     void handle_DMA0(void) { wad_dma_handle(&mover); }
 *
 *     st = wad_dma_open(&mover, &corran32_dma0, 1);
 *     st = wad_dma_claim(&mover, &copier, WAD_DMA_AT_ONCE, "tide table");
 *     st = wad_dma_copy(&copier, to, from, sizeof to, on_done, NULL);
 *
 * A channel is claimed for one request (a flag of a peripheral, by the number that the chip gives
 * it, CORRAN32_REQUEST_DMA0_UART0_TX_READY), or for none: then it moves as fast as the bus lets it.
 * The drivers of serial ports, SPI ports and converters claim channels themselves where their
 * configuration names a mover; their calls stay the same.
 *
 * Counts are elements, not bytes. Whatever is moved must stay where it is until the end: static, or
 * in a function that waits for it.
 */
#ifndef WADIUM_DMA_H
#define WADIUM_DMA_H

#include "reg.h"
#include "status.h"

#define WAD_DMA_AT_ONCE 0xFFFFu /**< waits for no request */

struct wad_dma;

/** The block. The caller owns it; it must outlive its channels. */
typedef struct wad_dma_mover {
    const wad_block *block;  /**< read-only */
    struct wad_dma *claimed; /* private: its channels, as a list */
} wad_dma_mover;

/** Called once for each transfer, by the handler or by wad_dma_abort: WAD_OK at its end,
 * WAD_E_DATA where nothing is at an address (what was moved stays), WAD_E_STATE when it was
 * aborted. `moved`: elements. It may begin the next transfer. */
typedef void (*wad_dma_done)(void *context, wad_status status, size_t moved);
/** Half of a ring is over: its first half (0) or its second (1). Called by the handler. */
typedef void (*wad_dma_half)(void *context, unsigned half);

enum {
    WAD_DMA_SOURCE_STAYS = 1,      /**< all elements come from one address: a data register */
    WAD_DMA_DESTINATION_STAYS = 2, /**< all go to one address */
    WAD_DMA_RING = 4,              /**< from the beginning again at its end, until it is aborted */
    WAD_DMA_URGENT = 8,            /**< before channels without this */
    WAD_DMA_SWAP = 16,             /**< bytes of each element change places */
    WAD_DMA_SUM = 32,              /**< elements are added to the block's sum: wad_dma_sum */
    WAD_DMA_WHOLE = 64,            /**< one request moves everything */
    WAD_DMA_QUIET = 128 /**< no interrupt at its end, and no `done`: the next start finds out */
};

typedef struct wad_dma_transfer {
    const volatile void *source; /**< memory, or a data register */
    volatile void *destination;
    size_t n;      /**< elements */
    uint8_t bytes; /**< of an element: 1, 2 or 4; both addresses are multiples of it */
    uint8_t flags; /**< WAD_DMA_... */
    /** Second channel for a ring whose size in bytes is no power of two, or whose memory does not
     * begin at a multiple of it; claimed for the same request. NULL: none. */
    struct wad_dma *partner;
    wad_dma_half half; /**< of a ring; may be NULL */
    wad_dma_done done; /**< may be NULL */
    void *context;
} wad_dma_transfer;

/** Settings of one piece of a list, in memory. Private; the caller keeps them until the end. */
typedef struct wad_dma_settings {
    uint32_t word[5];
} wad_dma_settings;

/** A channel in use. The caller owns it. */
typedef struct wad_dma {
    wad_dma_mover *mover; /**< read-only */
    const char *owner;    /**< read-only: who claimed it */
    uint16_t request;     /**< read-only */
    uint8_t channel;      /**< read-only */
    volatile bool busy;   /**< read-only: a transfer is under way */
    wad_dma_transfer t;   /* private from here */
    struct wad_dma *next, *leader, *loader;
    volatile uint32_t rounds;
    uint32_t first; /* elements of the first half, of a ring of two channels */
    uint32_t fill;
    wad_dma_settings ring[2];
    bool window, list, loads;
} wad_dma;

/** Brings the block up: clock, reset, its interrupt. Its handler must call wad_dma_handle. Blocks
 * for the reset only. WAD_E_TIMEOUT: it stays in reset. */
WAD_MUST_CHECK wad_status wad_dma_open(wad_dma_mover *mover, const wad_block *block,
                                       unsigned priority);

/** Takes a free channel for a request. WAD_E_STATE: another owner has it, wad_dma_owner says who,
 * or no channel is free; where channels share one request, the other one waits for another;
 * WAD_E_ABSENT: the chip has no such request. Never blocks. */
WAD_MUST_CHECK wad_status wad_dma_claim(wad_dma_mover *mover, wad_dma *dma, uint32_t request,
                                        const char *owner);
/** The same for one channel by its number. WAD_E_ARG: there is none of that number. */
WAD_MUST_CHECK wad_status wad_dma_claim_channel(wad_dma_mover *mover, wad_dma *dma,
                                                unsigned channel, uint32_t request,
                                                const char *owner);
/** A second channel for the same request: the partner of a ring. */
WAD_MUST_CHECK wad_status wad_dma_claim_partner(wad_dma *dma, wad_dma *partner);
/** Elements that one transfer may have: what a channel counts. */
size_t wad_dma_most(void);
/** Gives it back; a transfer under way is aborted (WAD_E_TIMEOUT: the channel does not let go; it
 * is given back all the same). */
wad_status wad_dma_release(wad_dma *dma);
/** Who has a request, NULL: nobody. */
const char *wad_dma_owner(const wad_dma_mover *mover, uint32_t request);

/**
 * Begins a transfer. Never blocks; a callback may call it.
 * WAD_E_STATE: one is under way; WAD_E_ARG: no elements, an element that is not 1, 2 or 4 bytes, an
 * address that is no multiple of it or that the bus does not reach, a ring whose memory is no
 * window and that has no partner, or whose two sides both stay or both go on; WAD_E_RANGE: more
 * elements than the block counts, or larger ones than its bus; WAD_E_ABSENT: it cannot swap, sum,
 * or repeat. Nothing has begun then.
 */
WAD_MUST_CHECK wad_status wad_dma_start(wad_dma *dma, const wad_dma_transfer *transfer);

/** Memory to memory; the largest elements that addresses and size allow. Forwards: they must not
 * overlap unless `to` lies before `from`. As wad_dma_start. */
WAD_MUST_CHECK wad_status wad_dma_copy(wad_dma *dma, void *to, const void *from, size_t bytes,
                                       wad_dma_done done, void *context);
/** Fills memory with a byte. */
WAD_MUST_CHECK wad_status wad_dma_fill(wad_dma *dma, void *to, uint8_t value, size_t bytes,
                                       wad_dma_done done, void *context);

/**
 * The last transfer once more, by writing one register: on from where its addresses stand now
 * (`wad_dma_again`), or with one of them new. WAD_E_ABSENT: the block loads its settings from
 * memory and always begins at the beginning; only wad_dma_again is there then.
 */
WAD_MUST_CHECK wad_status wad_dma_again(wad_dma *dma);
WAD_MUST_CHECK wad_status wad_dma_again_from(wad_dma *dma, const volatile void *source);
WAD_MUST_CHECK wad_status wad_dma_again_to(wad_dma *dma, volatile void *destination);

/**
 * Several transfers one after the other without the core. `loader` is a second channel, claimed for
 * WAD_DMA_AT_ONCE, that writes the settings of the next piece at the end of each; NULL where the
 * block does so itself. `room`: as many settings as pieces, aligned to 16 bytes. `done` is the last
 * piece's. WAD_E_ARG: as wad_dma_start for each piece, or a ring among them; WAD_E_ABSENT: it needs
 * a loader.
 */
WAD_MUST_CHECK wad_status wad_dma_list(wad_dma *dma, wad_dma *loader,
                                       const wad_dma_transfer *pieces, wad_dma_settings *room,
                                       size_t n);

/** Ends it behind the element in flight; `done` is called with WAD_E_STATE. Blocks for that
 * element, some cycles. WAD_E_TIMEOUT: the channel does not let go. No effect when none is under
 * way. Not from `half`. */
WAD_MUST_CHECK wad_status wad_dma_abort(wad_dma *dma);
/** Holds it behind the element in flight, or lets it go on. WAD_E_ABSENT: the block cannot. Never
 * blocks. */
WAD_MUST_CHECK wad_status wad_dma_pause(wad_dma *dma, bool on);

/** Elements that are left of this round, of a list those of the piece under way. Never blocks; a
 * handler may call it. */
size_t wad_dma_left(wad_dma *dma);
/** Elements moved since the start, rounds of a ring included; right also while it moves, and while
 * its handler is late by less than half a round. Of a list 0, until its end. Never blocks; a
 * handler may call it. */
uint64_t wad_dma_position(wad_dma *dma);
/** The block's running sum, and its new beginning. WAD_E_ABSENT: it has none. */
WAD_MUST_CHECK wad_status wad_dma_sum(wad_dma_mover *mover, uint32_t *sum);
WAD_MUST_CHECK wad_status wad_dma_set_sum(wad_dma_mover *mover, uint32_t sum);

/** The block's handler. */
void wad_dma_handle(wad_dma_mover *mover);

/**
 * How a port's driver uses a mover: named in the port's configuration, made by WAD_UART_BY_DMA,
 * WAD_SPI_BY_DMA, WAD_ADC_BY_DMA, WAD_DAC_BY_DMA. The caller owns it; it must outlive the use. The
 * mover is open by then, and its handler is there besides the port's.
 */
typedef struct wad_dma_port {
    const void *style; /* private, as all below: the driver's part that is linked only then */
    wad_dma_mover *mover;
    uint32_t tx_request, rx_request;
    const char *owner;
    wad_dma tx, rx, partner;
    size_t at;              /* of the transfer under way: where its part began */
    uint32_t filler, drain; /* what goes out, and where goes what comes, for nobody */
} wad_dma_port;

/** Gives the port's channels back: to open it anew. WAD_E_TIMEOUT: one does not let go. */
WAD_MUST_CHECK wad_status wad_dma_port_release(wad_dma_port *port);

#endif
