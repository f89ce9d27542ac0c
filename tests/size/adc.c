/* SPDX-License-Identifier: MIT */
/* A converter is opened and calibrated, and one input read, again and again. */
#include <corran32_roles.h>

static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000, .bits = 12};
static const wad_adc_input level = {&adc, .channel = 4, .route = CORRAN32_ROUTE_ADC0_IN4_PA4,
                                    .source_ohms = 10000};

volatile uint16_t seen;

int main(void)
{
    if (wad_adc_open_input(&level) != WAD_OK || wad_adc_calibrate(&adc) != WAD_OK)
        return 1;
    for (;;) {
        uint16_t code;
        if (wad_adc_read(&level, &code, 0) == WAD_OK)
            seen = code;
    }
}
