/* SPDX-License-Identifier: MIT */
/* Mistakes that need a lock with a key and a watchdog that runs from reset. */
#include <wadium/watchdog.h>

#include "corran8_roles.h"

int main(void)
{
#if WRONG != 601
    if (wad_watchdog_stop() != WAD_OK)
        return 1;
#endif
#if WRONG == 208
    wad_port_write8(CORRAN8_PORT0_BASE, 0x03, 1); /* here 208 */
#endif
#if WRONG == 1015
    wad_put(CORRAN8_ADC0_BASE, corran8_converter_roles.enable, 1);
    wad_put(CORRAN8_ADC0_BASE, corran8_converter_roles.start, 1);
    while (!wad_get(CORRAN8_ADC0_BASE, corran8_converter_roles.done)) {
    }
#ifndef RIGHT
    unsigned high = wad_port_read8(CORRAN8_ADC0_BASE, 3); /* here 1015 */
#endif
    unsigned low = wad_port_read8(CORRAN8_ADC0_BASE, 2);
#ifdef RIGHT
    unsigned high = wad_port_read8(CORRAN8_ADC0_BASE, 3);
#endif
    (void)(high << 8 | low);
#endif
    for (;;)
        wad_port_sleep(); /* here 601 */
}
