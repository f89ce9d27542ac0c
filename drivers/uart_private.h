/* SPDX-License-Identifier: MIT */
/* What the serial driver's files share. Included once a file, behind WAD_CHIP's choice of chip. */
#ifndef WADI_UART_PRIVATE_H
#define WADI_UART_PRIVATE_H

#include <wadium/clock.h>
#include <wadium/irq.h>
#include <wadium/uart.h>

#include WAD_CHIP

#ifdef WAD_UART_TABLE

#define R WAD_UART_TABLE

/** Takes one byte with its errors counted; it must have arrived. */
uint16_t wadi_uart_take(wad_uart *u);

static inline uint32_t ring_count(const wad_ring *r)
{
    return r->put - r->taken;
}

static inline uint32_t ring_room(const wad_ring *r)
{
    return r->data ? r->mask + 1u - ring_count(r) : 0;
}

#endif
#endif
