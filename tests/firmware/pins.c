/* SPDX-License-Identifier: MIT */
/* The pin driver on every chip: the warning lamp follows the test button, as long as it is read. */
#include <wadium/irq.h>
#include <wadium/pin.h>

#include LAMP_CHIP

int main(void)
{
    wad_status st = start_clocks();
    if (st == WAD_OK)
        st = wad_pin_output(WARN_PIN, true);
    if (st == WAD_OK)
        st = wad_pin_input(TEST_PIN, WAD_PULL_UP);
    if (st == WAD_E_ABSENT) /* a chip without pulls says so: the board has a resistor */
        st = wad_pin_input(TEST_PIN, WAD_PULL_NONE);
    if (st != WAD_OK)
        return 1;
    for (;;) {
        wad_port_cycles(200);
        wad_pin_write(WARN_PIN, !wad_pin_read(TEST_PIN));
    }
}
