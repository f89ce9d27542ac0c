/* SPDX-License-Identifier: MIT */
/* The port for Arm Cortex-M. See <wadium/port.h> for what each promises. */
#ifndef WAD_PORT_H
#define WAD_PORT_H

#include "../metal/access.h"

WADI_METAL uint32_t wad_port_irq_save(void)
{
    uint32_t state;
    __asm volatile("mrs %0, primask\n\tcpsid i" : "=r"(state) : : "memory");
    return state;
}

WADI_METAL void wad_port_irq_restore(uint32_t state)
{
    __asm volatile("msr primask, %0" : : "r"(state) : "memory");
}

WADI_METAL void wad_port_irq_on(void)
{
    __asm volatile("cpsie i" : : : "memory");
}

WADI_METAL void wad_port_sleep(void)
{
    __asm volatile("dsb\n\twfi" : : : "memory");
}

WADI_METAL void wad_port_barrier(void)
{
    __asm volatile("dsb" : : : "memory");
}

/* The core's own reset request. */
__attribute__((noreturn)) WADI_METAL void wad_port_reset(void)
{
    wad_port_barrier();
    wad_port_write32(0xE000ED0Cu, 0, 0x05FA0004u);
    for (;;) {
    }
}

/* A loop of three cycles; a lower bound of what it costs. */
WADI_METAL void wad_port_cycles(uint32_t n)
{
    for (n /= 3; n; n--)
        __asm volatile("" : : : "memory");
}

#endif
