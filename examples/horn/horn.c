/* SPDX-License-Identifier: MIT */
/*
 * The fog horn's tone of 440 Hz on the converter, with and without the hardware's help.
 *
 * BY_SOFTWARE the timer's handler writes each value when it comes to run: as late as what runs
 * before it lets it. Else the timer triggers the converter, and the handler only sees to it that
 * the next value is there: it may be late by all of a period. BY_DMA nobody has to: a long
 * table is streamed, its halves are made anew while the other one sounds.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>

#include <corran32_roles.h>

#define TONE   440u
#define POINTS 32u /* values in a period, at the most */
#define POLLS  100000u

static uint16_t wave[POINTS];
static const wad_dac horn = {&corran32_dac0, .route = CORRAN32_ROUTE_DAC0_OUT_PA5,
                             .streams = &(wad_dac_streams){0}};

/* Something else to do, as urgent, 700 times a second: 6 to 22 us of it. */
static void other_work(void *context)
{
    static unsigned turn;
    (void)context;
    turn = (turn + 5u) % 17u;
    wad_port_cycles(300u + turn * 48u);
}

static const wad_timer chore = {&corran32_cnt2, .clock_hz = 48000000, .rate = WAD_RATE_HZ(700),
                                .on_wrap = other_work, .priority = 1};

void handle_CNT2(void);
void handle_CNT2(void)
{
    wad_timer_handle(&chore);
}

#ifdef BY_SOFTWARE
static size_t at, points;

static void next(void *context)
{
    (void)context;
    wad_dac_write(&horn, wave[at]);
    at = at + 1u < points ? at + 1u : 0u;
}

static const wad_timer pace = {&corran32_cnt1, .clock_hz = 48000000,
                               .rate = WAD_RATE_HZ(TONE * POINTS), /* until there are the points */
                               .on_wrap = next, .priority = 1};

void handle_CNT1(void);
void handle_CNT1(void)
{
    wad_timer_handle(&pace);
}

static wad_status sound(size_t n)
{
    points = n;
    return WAD_OK;
}
#elif defined(BY_DMA)
#define LONG 1024u /* values: 33 periods of 31 and a bit */

static wad_dma_mover mover;
static wad_dma_port by_dma = WAD_DAC_BY_DMA(&mover, CORRAN32_REQUEST_DMA0_DAC0_EMPTY);
static _Alignas(2 * LONG) uint16_t table[LONG];
static size_t phase, points;

void handle_DMA0(void);
void handle_DMA0(void)
{
    wad_dma_handle(&mover);
}

/* Where the last half ended, the next one goes on. */
static void fill(uint16_t *codes, size_t n, void *context)
{
    (void)context;
    for (size_t i = 0; i < n; i++) {
        codes[i] = wave[phase];
        phase = phase + 1u < points ? phase + 1u : 0u;
    }
}

static wad_status sound(size_t n)
{
    static const wad_dac_stream stream = {
        &horn,          table,         .n = LONG, .trigger = CORRAN32_TRIGGER_DAC0_CNT1_WRAP,
        .refill = fill, .dma = &by_dma};
    points = n;
    fill(table, LONG, NULL);
    wad_status st = wad_dma_open(&mover, &corran32_dma0, 1);
    return st == WAD_OK ? wad_dac_play(&stream) : st;
}
#else
static wad_dac_stream stream = {&horn, wave, .trigger = CORRAN32_TRIGGER_DAC0_CNT1_WRAP,
                                .priority = 1};

void handle_DAC0(void);
void handle_DAC0(void)
{
    wad_dac_handle(&horn);
}

static wad_status sound(size_t n)
{
    stream.n = n;
    return wad_dac_play(&stream);
}
#endif

static wad_status core_48_mhz(void)
{
    wad_status st = wad_clock_start(&corran32_clock_xtal, POLLS);
    wad_put2(CORRAN32_CLK_BASE, corran32_clocks_pll_mul, 2, corran32_clocks_pll_src, 1);
    if (st == WAD_OK)
        st = wad_clock_start(&corran32_clock_pll, POLLS);
    if (st == WAD_OK)
        wad_put(CORRAN32_CLK_BASE, corran32_clocks_sel_core, CORRAN32_CLOCKS_SEL_CORE_PLL);
    return st;
}

#ifndef BY_SOFTWARE
static const wad_timer pace = {&corran32_cnt1, .clock_hz = 48000000,
                               .rate = WAD_RATE_HZ(TONE * POINTS)};
#endif

int main(void)
{
    wad_status st = core_48_mhz();
    size_t n = wad_wave_points(48000000, TONE, POINTS);
    wad_wave_sine(wave, n, 1500, 2048);
    if (st == WAD_OK)
        st = wad_dac_open(&horn);
    if (st == WAD_OK)
        st = wad_timer_open(&pace);
    if (st == WAD_OK)
        st = wad_timer_set_rate(&pace, WAD_HZ(TONE * (uint32_t)n));
    if (st == WAD_OK)
        st = wad_timer_open(&chore);
    if (st == WAD_OK)
        st = sound(n);
    if (st != WAD_OK)
        return 1;
    wad_timer_start(&chore);
    wad_timer_start(&pace);
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
