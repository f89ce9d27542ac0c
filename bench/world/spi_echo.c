/* SPDX-License-Identifier: MIT */
/* An echo register: each frame out is the one that came before. */
#include "wadium/host/part.h"

static uint32_t next(wad_part *p, unsigned i)
{
    (void)i;
    return *(uint32_t *)wad_part_state(p);
}

static void came(wad_part *p, unsigned i, uint32_t frame)
{
    (void)i;
    *(uint32_t *)wad_part_state(p) = frame;
}

static const wad_part_spi spi = {.next = next, .came = came};

const wad_part_class wadi_part_echo = {
    .kind = "echo", .wires = WAD_WIRES_SPI, .state_size = sizeof(uint32_t), .spi = &spi};
