/* SPDX-License-Identifier: MIT */
/*
 * The pressure transducer ten times a second, a lamp at the alarm level, and sleep in between.
 *
 * The converter is on for each reading only: what it draws would be more than all the rest. A lamp
 * that stands at its threshold would flicker with the noise: it goes on above 2.2 V, off below 2.1.
 */
#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/sleep.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

#define POLLS 4000000u
#define STOP  1u /* only the 32 768 Hz oscillator goes on */

static const wad_timebase slow = {&corran32_clock, .clock_hz = 32768};
static const wad_timebase fast = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_alarms alarms = {&slow, .channel = 0, .priority = 1, .list = &(wad_alarm_list){0}};
static wad_alarm every;
static wad_wake due;
static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000, .bits = 12, .average = 2,
                            .time = &fast};
static const wad_adc_input transducer = {&adc, .channel = 4, .route = CORRAN32_ROUTE_ADC0_IN4_PA4,
                                         .source_ohms = 10000};

void handle_CLOCK(void);
void handle_CLOCK(void)
{
    wad_alarms_handle(&alarms);
}

static void on_time(void *context)
{
    (void)context;
    wad_wake_up(&due);
}

/* Opened for one reading: 12 us to power up, 40 to calibrate, 4 to convert. */
static wad_status measure(uint32_t *microvolts)
{
    uint16_t code;
    wad_status st = wad_adc_open(&adc);
    if (st == WAD_OK)
        st = wad_adc_add(&transducer);
    if (st == WAD_OK)
        st = wad_adc_calibrate(&adc);
    if (st == WAD_OK)
        st = wad_adc_read(&transducer, &code, 1000);
    if (st == WAD_OK)
        *microvolts = wad_adc_microvolts(&adc, code);
    wad_adc_close(&adc);
    return st;
}

static wad_status set_up(void)
{
    wad_status st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_clock_start(&corran32_clock_slow, POLLS);
    if (st == WAD_OK)
        st = wad_timebase_open(&slow);
    if (st == WAD_OK)
        st = wad_timebase_open(&fast);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms);
    if (st == WAD_OK)
        st = wad_alarm_every(&alarms, &every, WAD_HZ(10), on_time, NULL);
    return st == WAD_OK ? wad_sleep_level(STOP) : st;
}

int main(void)
{
    wad_threshold alarm = {.low = 2100000, .high = 2200000};
    uint32_t microvolts = 0;
    if (set_up() != WAD_OK)
        return 1;
    wad_irq_global_on();
    for (;;) {
        wad_sleep_until(&due);
        if (measure(&microvolts) == WAD_OK && wad_threshold_update(&alarm, microvolts))
            wad_pin_write(SKERRY_WARN, alarm.above);
    }
}
