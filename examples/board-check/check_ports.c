/* SPDX-License-Identifier: MIT */
/* Pins and what goes out on them and comes back: over the block's own loop first, then a jumper. */
#include "board_check.h"

#include <wadium/check.h>
#include <wadium/encoder.h>
#include <wadium/pin.h>

/* ---- pins ---- */

void check_pins(wad_verify *v)
{
    static const wad_pin lamps[] = {SKERRY_WARN, SKERRY_LEVEL1, SKERRY_LEVEL2, SKERRY_LEVEL3,
                                    SKERRY_LEVEL4};
    static const char *const names[] = {"WARN", "LEVEL1", "LEVEL2", "LEVEL3", "LEVEL4"};
    for (unsigned i = 0; i < sizeof lamps / sizeof lamps[0]; i++) {
        bool follows = wad_pin_output(lamps[i], true) == WAD_OK;
        wad_delay_us(&base, 10);
        follows = follows && wad_pin_read(lamps[i]);
        wad_pin_write(lamps[i], false);
        wad_delay_us(&base, 10);
        wad_verify_that(v, names[i], follows && !wad_pin_read(lamps[i]));
    }
    if (!wad_verify_status(v, "TEST as input", wad_pin_input(SKERRY_TEST, WAD_PULL_NONE)))
        return;
    wad_delay_us(&base, 100);
    wad_verify_that(v, "TEST rests high by the board's pull", wad_pin_read(SKERRY_TEST));
    if (wad_verify_status(v, "PC9 as input", wad_pin_input(CORRAN32_PC9, WAD_PULL_UP))) {
        wad_delay_us(&base, 100);
        bool high = wad_pin_read(CORRAN32_PC9);
        bool low = wad_pin_input(CORRAN32_PC9, WAD_PULL_DOWN) == WAD_OK;
        wad_delay_us(&base, 100);
        wad_verify_that(v, "the chip's pulls up and down",
                        high && low && !wad_pin_read(CORRAN32_PC9));
    }
}

/* ---- a timer's pulses, captured over J4 ---- */

static const wad_input input = {
    &base,       .channel = 0,  .route = CORRAN32_ROUTE_BASE_IN0_PB8, .edge = WAD_INPUT_PULSE,
    .filter = 0, .priority = 1, .seen = &(wad_input_seen){0}};

static void serve_input(void)
{
    wad_input_handle(&input);
}

static const wad_timer pwm = {&corran32_cnt3, .clock_hz = 48000000, .rate = WAD_RATE_KHZ(2),
                              .pwm = {[2] = {CORRAN32_ROUTE_CNT3_CH2_PC8, WAD_PERCENT(25)}}};

void check_input(wad_verify *v)
{
    wad_input_result r = {0};
    on_base = serve_input;
    wad_status st = wad_pin_input(CORRAN32_PB8, WAD_PULL_DOWN);
    if (st == WAD_OK)
        st = wad_timer_open(&pwm);
    if (st == WAD_OK)
        st = wad_input_open(&input);
    if (!wad_verify_status(v, "timer and capture open", st))
        return;
    wad_timer_start(&pwm);
    wad_delay_ms(&base, 2);
    (void)(wad_input_read(&input, &r) == WAD_OK); /* what began before the timer ran */
    st = wad_input_wait(&input, 10, 20000, &r);
    wad_timer_stop(&pwm);
    on_base = NULL;
    if (!wad_verify_status(v, "J4: pulses arrive", st))
        return;
    wad_verify_near(v, "J4: frequency, Hz", (int32_t)(r.millihertz / 1000), 2000, 10);
    wad_verify_near(v, "J4: pulse, us", (int32_t)((uint32_t)r.pulse_ns / 1000), 125, 3);
}

/* ---- one track of the encoder, driven over J5 ---- */

void check_encoder(wad_verify *v)
{
    static wad_encoder wheel;
    int32_t there, back;
    wad_status st = wad_pin_output(CORRAN32_PC9, false);
    if (st == WAD_OK)
        st = wad_pin_input(CORRAN32_PA12, WAD_PULL_DOWN);
    if (st == WAD_OK)
        st = wad_encoder_open(&wheel, &corran32_enc, CORRAN32_ROUTE_ENC_A_PA11,
                              CORRAN32_ROUTE_ENC_B_PA12, 0);
    if (!wad_verify_status(v, "encoder opens", st))
        return;
    wad_delay_us(&base, 10);
    int32_t from = wad_encoder_position(&wheel);
    wad_pin_write(CORRAN32_PC9, true);
    wad_delay_us(&base, 10);
    there = wad_encoder_position(&wheel) - from;
    wad_pin_write(CORRAN32_PC9, false);
    wad_delay_us(&base, 10);
    back = wad_encoder_position(&wheel) - from;
    wad_verify_that(v, "J5: encoder, a step and back", (there == 1 || there == -1) && back == 0);
}

/* ---- the second serial port ---- */

#define BYTES 32u

static wad_uart_stats stats;
static const wad_uart looped = {
    &corran32_uart1, .clock_hz = 48000000, .baud = 230400, .parity = WAD_PARITY_EVEN,
    .loop = true,    .stats = &stats,      .time = &base};
static const wad_uart wired = {&corran32_uart1,
                               .clock_hz = 48000000,
                               .baud = 230400,
                               .parity = WAD_PARITY_EVEN,
                               .tx = CORRAN32_ROUTE_UART1_TX_PC10,
                               .rx = CORRAN32_ROUTE_UART1_RX_PC11,
                               .stats = &stats,
                               .time = &base};

/* How many bytes come back as they went; what is sent differs from one test to the next, so that
 * nothing left over can pass. */
static uint32_t round_trips(const wad_uart *port, uint32_t seed)
{
    uint32_t good = 0;
    for (unsigned i = 0; i < BYTES; i++) {
        uint8_t sent, came;
        seed = seed * 1664525u + 1013904223u;
        sent = (uint8_t)(seed >> 24);
        came = (uint8_t)~sent;
        if (wad_uart_write(port, &sent, 1, 1000) == 1 && wad_uart_read(port, &came, 1, 1000) == 1)
            good += came == sent;
    }
    return stats.framing || stats.parity ? 0 : good;
}

void check_serial(wad_verify *v)
{
    if (wad_verify_status(v, "serial port opens", wad_uart_open(&looped)))
        wad_verify_equal(v, "serial port, its own loop, bytes", round_trips(&looped, 1), BYTES);
    wad_status st = wad_pin_input(CORRAN32_PC11, WAD_PULL_UP); /* rests with nothing plugged in */
    if (st == WAD_OK)
        st = wad_uart_open(&wired);
    if (wad_verify_status(v, "serial port on its pins", st))
        wad_verify_equal(v, "J1: serial port, bytes over the wire", round_trips(&wired, 2), BYTES);
}

/* ---- the second SPI port ---- */

static bool goes_round(const wad_spi_device *device, const uint8_t *sent, wad_exchange_check *check)
{
    uint8_t came[BYTES];
    wad_spi_job job = {.device = device, .out = sent, .n_out = BYTES, .in = came, .n_in = BYTES};
    wad_fill_exchange(came, sent, BYTES, 8);
    *check = (wad_exchange_check){0};
    return wad_spi_run(&job, 10000) == WAD_OK &&
           wad_check_exchange(sent, came, BYTES, 8, check) == WAD_OK;
}

static void exchange(wad_verify *v, const wad_spi *bus, bool loop, const char *what)
{
    const wad_spi_device device = {bus, .hz = 1000000, .loop = loop};
    static uint8_t sent[BYTES];
    wad_exchange_check check = {0};
    wad_status st = wad_spi_add(&device);
    for (unsigned i = 0; i < BYTES; i++)
        sent[i] = (uint8_t)(i * 37u + (loop ? 11u : 5u));
    if (!wad_verify_that(v, what, st == WAD_OK && goes_round(&device, sent, &check)))
        wad_verify_note(v, wad_pattern_hint(check.pattern));
}

void check_exchange(wad_verify *v)
{
    static const wad_spi bus = {&corran32_spi1, .clock = CORRAN32_ROUTE_SPI1_SCK_PC4,
                                .mosi = CORRAN32_ROUTE_SPI1_MOSI_PC6,
                                .miso = CORRAN32_ROUTE_SPI1_MISO_PC5, .time = &base};
    wad_status st = wad_pin_input(CORRAN32_PC5, WAD_PULL_UP);
    if (st == WAD_OK)
        st = wad_spi_open(&bus);
    if (!wad_verify_status(v, "SPI port opens", st))
        return;
    exchange(v, &bus, true, "SPI port, its own loop");
    exchange(v, &bus, false, "J2: SPI port, frames over the wire");
}
