/* SPDX-License-Identifier: MIT */
/* Mistakes with converters and with sleep, chosen by WRONG, and with RIGHT the same task done well.
 */
#include <wadium/irq.h>
#include <wadium/sleep.h>

#include "corran32_roles.h"

#ifndef RIGHT
#define RIGHT 0
#endif
#define ADC CORRAN32_ADC0_BASE
#define R   corran32_converter_roles

static wad_timer pace;
static wad_wake due;
static volatile bool flag;
static volatile unsigned turns;
static uint16_t codes[32];

void handle_CNT1(void);
void handle_CNT1(void)
{
    wad_timer_handle(&pace);
}

static void tick(void *context)
{
    (void)context;
    flag = true;
    if (RIGHT)
        wad_wake_up(&due);
}

/* A timer's interrupt, `hz` times a second. */
static void begin_ticks(uint32_t hz)
{
    pace = (wad_timer){&corran32_cnt1, .rate = {hz, 1}, .on_wrap = tick, .priority = 1};
    if (wad_timer_open(&pace) == WAD_OK)
        wad_timer_start(&pace);
    wad_irq_global_on();
}

static void begin_trigger(uint32_t hz)
{
    pace = (wad_timer){&corran32_cnt1, .rate = {hz, 1}};
    if (wad_timer_open(&pace) == WAD_OK)
        wad_timer_start(&pace);
}

static void wait_for(wad_field f)
{
    while (!wad_get(ADC, f)) {
    }
}

/* Everything as it should be, but for the step that is left out. */
static void begin(void)
{
    (void)!wad_block_up(&corran32_adc0.block, 1000);
    if (WRONG == 1008 && !RIGHT)
        (void)!wad_pin_route(CORRAN32_ROUTE_ADC0_IN4_PA4);
    else if (WRONG != 1007 || RIGHT)
        (void)!wad_pin_route_analog(CORRAN32_ROUTE_ADC0_IN4_PA4);
    wad_put(ADC, R.channel, 4);
    wad_put(ADC, wad_at(R.sample, 4), WRONG == 1001 && !RIGHT ? 0 : 3);
    wad_put(ADC, R.prescale, WRONG == 1002 && !RIGHT ? 255 : 0);
    wad_put(ADC, R.enable, 1);
    if (WRONG != 1003 || RIGHT)
        wait_for(R.ready);
    if (WRONG == 1003)
        return;
    if (WRONG == 1004 && !RIGHT)
        return;
    wad_put(ADC, R.calibrate, 1);
    wait_for(R.calibrated);
}

static void convert(void)
{
    wad_put(ADC, R.start, 1); /* here 1001 1002 1004 1007 1008 1010 1012 1013 */
    wait_for(R.done);
    codes[0] = (uint16_t)wad_get(ADC, R.data);
}

#if WRONG == 1014
static const wad_dac horn = {&corran32_dac0, .route = CORRAN32_ROUTE_DAC0_OUT_PA5,
                             .streams = &(wad_dac_streams){0}};
static uint16_t wave[16];
static const wad_dac_stream stream = {&horn, wave, .n = 16,
                                      .trigger = CORRAN32_TRIGGER_DAC0_CNT1_WRAP};

void handle_DAC0(void);
void handle_DAC0(void)
{
    wad_dac_handle(&horn);
}

static void act(void)
{
    wad_wave_sine(wave, 16, 1000, 2048);
    begin_trigger(10000);
    if (wad_dac_open(&horn) != WAD_OK || wad_dac_play(&stream) != WAD_OK) /* here 1014 */
        return;
    wad_irq_global_on();
    for (;;) {
        uint32_t state = wad_irq_save();
        wad_port_cycles(RIGHT ? 80 : 8000); /* 1 ms with interrupts closed, at 8 MHz */
        wad_irq_restore(state);
        wad_port_sleep();
    }
}
#elif WRONG < 1100
static void act(void)
{
    if (WRONG == 1010) {
        (void)!wad_block_up(&corran32_adc0.block, 1000);
        begin();
        wad_put(ADC, R.reference, 1);
        if (RIGHT)
            wait_for(R.reference_ready);
    } else {
        begin();
    }
#if WRONG == 1003
    wad_put(ADC, R.calibrate, 1); /* here 1003 */
    if (RIGHT)
        wait_for(R.calibrated);
#elif WRONG == 1005
    wad_put(ADC, R.start, 1);
    if (RIGHT)
        wait_for(R.done);
    codes[0] = (uint16_t)wad_get(ADC, R.data); /* here 1005 */
#elif WRONG == 1006
    for (unsigned i = 0; i < 3; i++) {
        wad_put(ADC, R.start, 1); /* here 1006 */
        while (wad_get(ADC, R.busy)) {
        }
        if (RIGHT)
            codes[i] = (uint16_t)wad_get(ADC, R.data);
    }
#elif WRONG == 1009
    wad_put(ADC, R.trigger, CORRAN32_TRIGGER_ADC0_CNT1_WRAP);
    wad_put(ADC, R.trigger_edge, 1); /* here 1009 */
    begin_trigger(RIGHT ? 1000 : 200000);
    for (unsigned i = 0; i < 20; i++) {
        wait_for(R.done);
        wad_clear(ADC, R.done);
        codes[i] = (uint16_t)wad_get(ADC, R.data);
    }
    wad_put(ADC, R.trigger_edge, 0);
#elif WRONG == 1011
    wad_put(ADC, R.align_left, 1);
    for (unsigned i = 0; i < 20; i++) {
        wad_put(ADC, R.start, 1);
        wait_for(R.done);
        wad_clear(ADC, R.done);
        if (RIGHT)
            codes[i] = (uint16_t)(wad_get(ADC, R.data) >> 4);
        else
            codes[i] = (uint16_t)wad_get(ADC, R.data); /* here 1011 */
        turns++;

        flag = true;
    }
#elif WRONG == 1013
    if (RIGHT)
        wad_put(ADC, R.resolution, 4);
    else /* 12 bits stand there from reset */
        wad_port_write32(ADC, R.resolution.off,
                         wad_port_read32(ADC, R.resolution.off) | 4u << R.resolution.lsb);
    convert();
#else
    convert();
#endif
}
#elif WRONG == 1101
static void act(void)
{
    begin_ticks(100);
    wad_port_sleep();
    (void)!wad_sleep_level(RIGHT ? 0 : 1); /* CNT1's clock stops in level 1 */
    for (;;)
        wad_port_sleep(); /* here 1101 */
}
#elif WRONG == 1102
static void act(void)
{
    begin_ticks(100);
    for (;;) {
        if (RIGHT)
            wad_sleep_until(&due);
        else
            while (!flag)
                wad_port_sleep(); /* here 1102 */
        flag = false;
    }
}
#else
static void act(void)
{
    begin_ticks(100);
    (void)!wad_sleep_again(true);
    for (;;) {
        if (RIGHT)
            wad_sleep_until(&due);
        else
            wad_port_sleep(); /* here 1103 */
        turns++;
    }
}
#endif

int main(void)
{
    act();
    for (;;)
        wad_port_sleep();
}
