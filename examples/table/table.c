/* SPDX-License-Identifier: MIT */
/*
 * A day's tide table moved in pieces by DMA, a step every 10 ms, so that memory can be looked at
 * before and after each: words, bytes, on from where they stopped, one register into a buffer, a
 * buffer into one register.
 */
#include <wadium/dma.h>
#include <wadium/irq.h>
#include <wadium/pin.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

/* High and low waters in millimetres, four a day, for four days. */
static const _Alignas(4) uint16_t tides[16] = {4210, 1180, 4080, 1320, 4270, 1090, 4150, 1240,
                                               4330, 1010, 4210, 1160, 4380, 960,  4260, 1100};
static _Alignas(4) uint16_t shown[16];
static _Alignas(4) uint32_t times[8];
static const _Alignas(4) uint32_t lamps[6] = {0x8, 0x8, 0x8, 0x8, 0x8, 0x8};

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static wad_dma_mover mover;
static wad_dma channel;
static volatile bool over;

void handle_DMA0(void);
void handle_DMA0(void)
{
    wad_dma_handle(&mover);
}

static void done(void *context, wad_status status, size_t moved)
{
    (void)context;
    (void)moved;
    over = status == WAD_OK;
}

/* Each step is over long before the next one. */
static wad_status next(wad_status st)
{
    wad_delay_ms(&base, 10);
    if (st == WAD_OK && !over)
        st = WAD_E_TIMEOUT;
    over = false;
    return st;
}

/* The same place again and again: a data register, here the time in microseconds. */
static wad_status read_the_time(void)
{
    wad_dma_transfer t = {.source = (const volatile void *)(CORRAN32_BASE_BASE + 0x08),
                          .destination = times,
                          .n = 8,
                          .bytes = 4,
                          .flags = WAD_DMA_SOURCE_STAYS,
                          .done = done};
    return wad_dma_start(&channel, &t);
}

/* All into one place: the register that changes the warning lamp. */
static wad_status blink(void)
{
    wad_dma_transfer t = {.source = lamps,
                          .destination = (volatile void *)(CORRAN32_PINC_BASE + 0x10),
                          .n = 6,
                          .bytes = 4,
                          .flags = WAD_DMA_DESTINATION_STAYS,
                          .done = done};
    return wad_dma_start(&channel, &t);
}

static wad_status pieces(void)
{
    wad_status st = wad_dma_copy(&channel, shown, tides, 8, done, 0); /* two words */
    st = next(st);
    if (st == WAD_OK)
        st = wad_dma_again(&channel); /* the next two: one register written */
    st = next(st);
    if (st == WAD_OK)
        st = wad_dma_copy(&channel, (uint8_t *)shown + 16, (const uint8_t *)tides + 16, 3, done,
                          0); /* three bytes: no word ends there */
    st = next(st);
    if (st == WAD_OK)
        st = wad_dma_fill(&channel, shown, 0, sizeof shown, done, 0);
    st = next(st);
    if (st == WAD_OK)
        st = read_the_time();
    st = next(st);
    return st == WAD_OK ? blink() : st;
}

int main(void)
{
    wad_status st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_dma_open(&mover, &corran32_dma0, 1);
    if (st == WAD_OK)
        st = wad_dma_claim(&mover, &channel, WAD_DMA_AT_ONCE, "tide table");
    wad_irq_global_on();
    if (st == WAD_OK)
        st = pieces();
    if (st != WAD_OK)
        return (int)st;
    for (;;)
        wad_port_sleep();
}
