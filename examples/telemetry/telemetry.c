/* SPDX-License-Identifier: MIT */
/*
 * Telemetry of the tide gauge: a sentence every second at 115 200 baud, by interrupt, while a
 * command line answers on the same port. commands.c knows the commands.
 *
 * BY_DMA nothing but the port's constant is another: DMA fills one ring and empties the other, and
 * the port's handler hears of a line's end only.
 */
#include <wadium/irq.h>
#include <wadium/line.h>
#include <wadium/pin.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#include "commands.h"

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_alarms alarms = {&base, .channel = 0, .priority = 2, .list = &(wad_alarm_list){0}};
static wad_alarm beat;
static _Alignas(128) uint8_t in[128];
static uint8_t out[1024];
static wad_line line;
static char typed[64];
static volatile bool due;
static int32_t level_mm = 2310;

void handle_BASE(void);
void handle_BASE(void)
{
    wad_alarms_handle(&alarms);
}

#ifdef BY_DMA
static wad_dma_mover mover;
static wad_dma_port by_dma = WAD_UART_BY_DMA(&mover, CORRAN32_REQUEST_DMA0_UART0_TX_READY,
                                             CORRAN32_REQUEST_DMA0_UART0_RX_READY);

void handle_DMA0(void);
void handle_DMA0(void)
{
    wad_dma_handle(&mover);
}
#endif

static const wad_uart link = {&corran32_uart0,
                              .clock_hz = 8000000,
                              .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .in = WAD_RING(in),
                              .out = WAD_RING(out),
#ifdef BY_DMA
                              .dma = &by_dma,
#endif
                              .priority = 1};

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&link);
}

static wad_status open_mover(void)
{
#ifdef BY_DMA
    return wad_dma_open(&mover, &corran32_dma0, 1);
#else
    return WAD_OK;
#endif
}

static void tell(void *context)
{
    (void)context;
    due = true;
}

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1, 0);
}

wad_status set_rate(uint32_t hz)
{
    return hz && hz <= 10 ? wad_alarm_every(&alarms, &beat, WAD_HZ(hz), tell, NULL) : WAD_E_RANGE;
}

/* $TIDE,2.310*1e: the sum of all between $ and *, as sentences at sea end. */
static void sentence(void)
{
    char text[40];
    uint8_t sum = 0;
    (void)wad_format(text, sizeof text, "TIDE,%.3d", (int)level_mm);
    for (const char *p = text; *p; p++)
        sum = (uint8_t)(sum ^ (uint8_t)*p);
    wad_print(wad_line_put, &line, "$%s*%02x\n", text, (unsigned)sum);
    level_mm += 7;
}

int main(void)
{
    wad_status st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms);
    if (st == WAD_OK)
        st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = set_rate(1);
    if (st == WAD_OK)
        st = open_mover();
    if (st == WAD_OK)
        st = wad_uart_open(&link);
    if (st != WAD_OK)
        return (int)st;
    wad_line_open(&line, typed, sizeof typed, put, NULL);
    wad_irq_global_on();
    for (;;) {
        char c;
        if (due) {
            due = false;
            sentence();
        }
        while (wad_uart_read(&link, &c, 1, 0))
            if (wad_line_feed(&line, c) >= 0)
                obey(typed, wad_line_put, &line);
        wad_port_sleep();
    }
}
