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
    for (;;)
        wad_port_sleep(); /* here 601 */
}
