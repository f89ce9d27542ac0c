/* SPDX-License-Identifier: MIT */
/* Each byte comes back as the next one. */
#include "lundy32.h"

int main(void)
{
    LUNDY32_HOLD_CLEARS->BLOCKS = 3;
    while ((LUNDY32_HOLD->FREE & 3) != 3)
        ;
    LUNDY32_PADS->PAD[0].USE = 2;
    LUNDY32_PADS->PAD[1].USE = 2;
    LUNDY32_SER->WHOLE = 6; /* 12 MHz / (16 * 115200) = 6.510: 6 + 33 / 64 */
    LUNDY32_SER->PART = 33;
    LUNDY32_SER->FORM = 3u << 5;
    LUNDY32_SER_SETS->RUN = LUNDY32_SERIAL_RUN_ON_MASK;
    for (;;) {
        while (LUNDY32_SER->STATE & LUNDY32_SERIAL_STATE_NONE_MASK)
            ;
        unsigned char byte = (unsigned char)LUNDY32_SER->BYTE;
        while (LUNDY32_SER->STATE & LUNDY32_SERIAL_STATE_FULL_MASK)
            ;
        LUNDY32_SER->BYTE = byte + 1u;
    }
}
