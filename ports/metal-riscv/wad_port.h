/* SPDX-License-Identifier: MIT */
/* The port for RV32 in machine mode. See <wadium/port.h> for what each promises. */
#ifndef WAD_PORT_H
#define WAD_PORT_H

#include "../metal/access.h"

#define WADI_MSTATUS_MIE 0x8u
#define WADI_MIE_MEIE    0x800u

/** The state is 0 when interrupts were open. */
WADI_METAL uint32_t wad_port_irq_save(void)
{
    uint32_t state; /* masked here, in one register: two bytes less than the compiler's */
    __asm volatile("csrrci %0, mstatus, 8\n\tandi %0, %0, 8" : "=r"(state) : : "memory");
    return state ^ WADI_MSTATUS_MIE;
}

WADI_METAL void wad_port_irq_restore(uint32_t state)
{
    __asm volatile("csrs mstatus, %0" : : "r"(state ^ WADI_MSTATUS_MIE) : "memory");
}

WADI_METAL void wad_port_irq_on(void)
{
    __asm volatile("csrs mie, %0\n\tcsrsi mstatus, 8" : : "r"(WADI_MIE_MEIE) : "memory");
}

WADI_METAL void wad_port_sleep(void)
{
    __asm volatile("wfi" : : : "memory");
}

WADI_METAL void wad_port_barrier(void)
{
    __asm volatile("fence" : : : "memory");
}

/* The architecture has none: a watchdog ends it. */
__attribute__((noreturn)) WADI_METAL void wad_port_reset(void)
{
    wad_port_irq_save();
    for (;;) {
    }
}

/* A loop of two instructions; a lower bound of what it costs. */
WADI_METAL void wad_port_cycles(uint32_t n)
{
    for (n /= 2; n; n--)
        __asm volatile("" : : : "memory");
}

#endif
