/* SPDX-License-Identifier: MIT */
/*
 * The converter against a voltage that is known: the chip's bandgap of 1.2 V. Told on the telemetry
 * line: the reading before calibration, after it, with four bits more, what the supply must be for
 * the reading to come out like that, and with that how warm the chip is. The README explains each
 * to the count.
 */
#include <wadium/irq.h>
#include <wadium/print.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#define TIMEOUT_US 20000u

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static uint32_t supply_uv; /* as it is measured */
static const wad_adc plain = {&corran32_adc0, .clock_hz = 8000000, .bits = 12, .time = &base,
                              .measured_uv = &supply_uv};
static const wad_adc fine = {&corran32_adc0,  .clock_hz = 8000000, .bits = 12,
                             .extra_bits = 4, .time = &base,       .measured_uv = &supply_uv};
static const wad_adc_input bandgap = {&plain, .channel = CORRAN32_CONVERTER_SLOT_CH_BANDGAP};
static const wad_adc_input fine_bandgap = {&fine, .channel = CORRAN32_CONVERTER_SLOT_CH_BANDGAP};
static const wad_adc_input warmth = {&fine, .channel = CORRAN32_CONVERTER_SLOT_CH_TEMPERATURE};
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

static wad_status tell(const char *what, const wad_adc_input *input, uint16_t *code)
{
    wad_status st = wad_adc_read(input, code, TIMEOUT_US);
    if (st == WAD_OK)
        wad_print(put, NULL, "%s %u of %u, %.3u mV\r\n", what, (unsigned)*code,
                  1u << wad_adc_bits(input->adc), (unsigned)wad_adc_microvolts(input->adc, *code));
    return st;
}

static wad_status measure(void)
{
    uint16_t code;
    wad_status st = wad_adc_open(&plain);
    if (st == WAD_OK)
        st = wad_adc_add(&bandgap);
    if (st == WAD_OK)
        st = tell("before calibration", &bandgap, &code);
    if (st == WAD_OK)
        st = wad_adc_calibrate(&plain);
    if (st == WAD_OK)
        st = tell("calibrated", &bandgap, &code);
    wad_adc_close(&plain);
    if (st == WAD_OK)
        st = wad_adc_open(&fine);
    if (st == WAD_OK)
        st = wad_adc_add(&fine_bandgap);
    if (st == WAD_OK)
        st = wad_adc_calibrate(&fine);
    if (st == WAD_OK)
        st = tell("with four bits more", &fine_bandgap, &code);
    if (st == WAD_OK)
        wad_print(put, NULL, "so the supply is %.3u mV\r\n",
                  (unsigned)wad_adc_supply_from(&fine, code));
    if (st == WAD_OK)
        st = wad_adc_add(&warmth);
    if (st == WAD_OK)
        st = wad_adc_read(&warmth, &code, TIMEOUT_US);
    if (st == WAD_OK)
        wad_print(put, NULL, "and the chip has %.1d degrees\r\n",
                  (int)wad_adc_celsius_tenths(&fine, code));
    return st;
}

int main(void)
{
    wad_status st = wad_timebase_open(&base);
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
