/* SPDX-License-Identifier: MIT */
/*
 * Two hundred frames over the jumper with no core between start and end: both channels are armed,
 * the receiving one first, and the core sleeps until all have come back.
 *
 * LEVEL1: they were right; WARN: they were not.
 */
#include <wadium/check.h>
#include <wadium/irq.h>
#include <wadium/pin.h>
#include <wadium/sleep.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#define FRAMES 200u

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static wad_dma_mover mover;
static wad_dma_port by_dma = WAD_SPI_BY_DMA(&mover, CORRAN32_REQUEST_DMA0_SPI0_TX_READY,
                                            CORRAN32_REQUEST_DMA0_SPI0_RX_READY);
static const wad_spi bus = {&corran32_spi0,
                            .clock_hz = 8000000,
                            .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                            .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                            .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                            .jobs = &(wad_spi_jobs){0},
                            .dma = &by_dma,
                            .priority = 1};
static const wad_spi_device jumper = {&bus, .hz = 1000000};
static uint8_t sent[FRAMES], received[FRAMES];
static wad_wake over;

void handle_DMA0(void);
void handle_DMA0(void)
{
    wad_dma_handle(&mover);
}

void handle_SPI0(void);
void handle_SPI0(void)
{
    wad_spi_handle(&bus);
}

static void done(wad_spi_job *job, wad_status status)
{
    (void)job;
    (void)status;
    wad_wake_up(&over);
}

static wad_status open(void)
{
    wad_status st = wad_pin_output(SKERRY_LEVEL1, false);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_dma_open(&mover, &corran32_dma0, 1);
    if (st == WAD_OK)
        st = wad_spi_open(&bus);
    return st == WAD_OK ? wad_spi_add(&jumper) : st;
}

int main(void)
{
    static wad_spi_job job = {.device = &jumper,
                              .out = sent,
                              .n_out = FRAMES,
                              .in = received,
                              .n_in = FRAMES,
                              .done = done};
    wad_status st = open();
    for (unsigned i = 0; i < FRAMES; i++)
        sent[i] = (uint8_t)(i * 37u + 11u);
    wad_irq_global_on();
    if (st == WAD_OK)
        st = wad_spi_submit(&job);
    if (st == WAD_OK)
        wad_sleep_until(&over);
    if (st == WAD_OK)
        st = job.status == WAD_OK ? wad_check_exchange(sent, received, FRAMES, 8, 0) : job.status;
    wad_pin_write(SKERRY_LEVEL1, st == WAD_OK);
    wad_pin_write(SKERRY_WARN, st != WAD_OK);
    for (;;)
        wad_port_sleep();
}
