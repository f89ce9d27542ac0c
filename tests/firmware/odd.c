/* SPDX-License-Identifier: MIT */
/* Firmware that ends badly, or idles in its own way; chosen by ODD. */
#include <wadium/irq.h>

#include "corran32_roles.h"
#include "skerry_pins.h"

enum { RETURNS, NULL_POINTER, RECURSES, EMPTY_LOOP, HANGS, DIVIDES, STATICS, BUTTON };

static volatile int zero;
static int runs = 7;
static volatile unsigned presses;

void handle_CNT0(void);
void handle_PINB(void);

static void toggle(void *context)
{
    (void)context;
    wad_pin_toggle(SKERRY_WARN);
}

static const wad_timer timer = {&corran32_cnt0, .clock_hz = 8000000, .rate = WAD_RATE_HZ(1000),
                                .on_wrap = toggle};

void handle_CNT0(void)
{
    wad_timer_handle(&timer);
}

void handle_PINB(void)
{
    if (wad_pin_take_edge(SKERRY_TEST)) {
        presses++;
        wad_pin_toggle(SKERRY_WARN);
    }
}

static int deeper(volatile int *n) /* here RECURSES */
{
    volatile int here[64];
    here[0] = *n + 1;
    return deeper(here) + here[1];
}

static void blink(void)
{
    if (wad_pin_output(SKERRY_WARN, false) == WAD_OK && wad_timer_open(&timer) == WAD_OK)
        wad_timer_start(&timer);
    wad_irq_global_on();
}

/* Puts `n` pulses out, so that a bench can count what a variable held. */
static void pulse(int n)
{
    if (wad_pin_output(SKERRY_WARN, false) != WAD_OK)
        return;
    for (int i = 0; i < 2 * n; i++)
        wad_pin_toggle(SKERRY_WARN);
}

int main(void)
{
    switch (ODD) {
    case RETURNS:
        return 0;
    case NULL_POINTER:
        *(volatile int *)(uintptr_t)zero = 1; /* here NULL_POINTER */
        break;
    case RECURSES:
        deeper(&zero);
        break;
    case EMPTY_LOOP:
        blink();
        for (;;) {
        }
    case HANGS:
        for (;;)
            zero = zero + 1; /* here HANGS */
    case DIVIDES:
        zero = 100 / zero; /* here DIVIDES */
        break;
    case STATICS:
        pulse(runs);
        runs++;
        break;
    case BUTTON:
        if (wad_pin_output(SKERRY_WARN, false) != WAD_OK ||
            wad_pin_input(SKERRY_TEST, WAD_PULL_UP) != WAD_OK ||
            wad_pin_on_edge(SKERRY_TEST, WAD_EDGE_FALL, 2) != WAD_OK)
            return 1;
        wad_irq_global_on();
        break;
    default:
        break;
    }
    for (;;)
        wad_port_sleep();
}
