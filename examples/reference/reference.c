/* SPDX-License-Identifier: MIT */
/*
 * The converter against a voltage that is known: the chip's bandgap of 1.2 V. Told on the telemetry
 * line: the reading before calibration, after it, with four bits more, what the supply must be for
 * the reading to come out like that, and with that how warm the chip is. The README explains each
 * to the count.
 */
#include <wadium/adc.h>
#include <wadium/irq.h>
#include <wadium/print.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#define BANDGAP    CORRAN32_CONVERTER_SLOT_CH_BANDGAP
#define WARMTH     CORRAN32_CONVERTER_SLOT_CH_TEMPERATURE
#define TIMEOUT_US 20000u

static wad_timebase base;
static wad_adc adc;
static uint8_t in[16], out[256];
static const wad_uart link = {&corran32_uart0,
                              .clock_hz = 8000000,
                              .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .in = WAD_RING(in),
                              .out = WAD_RING(out),
                              .priority = 1};

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&link);
}

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1, 0);
}

static wad_status open(unsigned extra_bits, bool calibrated)
{
    const wad_adc_config config = {.bits = 12, .extra_bits = (uint8_t)extra_bits, .time = &base};
    wad_status st = wad_adc_open(&adc, &corran32_adc0, &config, NULL);
    if (st == WAD_OK)
        st = wad_adc_input(&adc, BANDGAP, 0, 0);
    return st == WAD_OK && calibrated ? wad_adc_calibrate(&adc) : st;
}

static wad_status tell(const char *what, uint16_t *code)
{
    wad_status st = wad_adc_read(&adc, BANDGAP, code, TIMEOUT_US);
    if (st == WAD_OK)
        wad_print(put, NULL, "%s %u of %u, %.3u mV\r\n", what, (unsigned)*code, 1u << adc.bits,
                  (unsigned)wad_adc_microvolts(&adc, *code));
    return st;
}

static wad_status measure(void)
{
    uint16_t code;
    wad_status st = open(0, false);
    if (st == WAD_OK)
        st = tell("before calibration", &code);
    if (st == WAD_OK)
        st = wad_adc_calibrate(&adc);
    if (st == WAD_OK)
        st = tell("calibrated", &code);
    wad_adc_close(&adc);
    if (st == WAD_OK)
        st = open(4, true);
    if (st == WAD_OK)
        st = tell("with four bits more", &code);
    if (st == WAD_OK)
        wad_print(put, NULL, "so the supply is %.3u mV\r\n",
                  (unsigned)wad_adc_supply_from(&adc, code));
    if (st == WAD_OK)
        st = wad_adc_input(&adc, WARMTH, 0, 0);
    if (st == WAD_OK)
        st = wad_adc_read(&adc, WARMTH, &code, TIMEOUT_US);
    if (st == WAD_OK)
        wad_print(put, NULL, "and the chip has %.1d degrees\r\n",
                  (int)wad_adc_celsius_tenths(&adc, code));
    return st;
}

int main(void)
{
    wad_status st = wad_timebase_open(&base, &corran32_base, 1000000, NULL);
    if (st == WAD_OK)
        st = wad_uart_open(&link);
    wad_irq_global_on();
    if (st == WAD_OK)
        st = measure();
    if (st != WAD_OK)
        wad_print(put, NULL, "no reading: %s\r\n", wad_status_text(st));
    for (;;)
        wad_port_sleep();
}
