/* SPDX-License-Identifier: MIT */
/*
 * Register accesses of the metal ports: one volatile access each, through an array view of the
 * block. The view lets the compiler keep the base in one register; a pointer made from base +
 * offset would cost a literal for every register.
 */
#ifndef WADI_METAL_ACCESS_H
#define WADI_METAL_ACCESS_H

#include <stdint.h>

typedef struct wadi_r32 {
    volatile uint32_t w[1024];
} wadi_r32;
typedef struct wadi_r16 {
    volatile uint16_t w[2048];
} wadi_r16;
typedef struct wadi_r8 {
    volatile uint8_t w[4096];
} wadi_r8;

#define WADI_METAL static inline __attribute__((always_inline))

WADI_METAL uint8_t wad_port_read8(uintptr_t base, uint32_t offset)
{
    return ((const wadi_r8 *)base)->w[offset];
}

WADI_METAL uint16_t wad_port_read16(uintptr_t base, uint32_t offset)
{
    return ((const wadi_r16 *)base)->w[offset / 2];
}

WADI_METAL uint32_t wad_port_read32(uintptr_t base, uint32_t offset)
{
    return ((const wadi_r32 *)base)->w[offset / 4];
}

WADI_METAL void wad_port_write8(uintptr_t base, uint32_t offset, uint8_t value)
{
    ((wadi_r8 *)base)->w[offset] = value;
}

WADI_METAL void wad_port_write16(uintptr_t base, uint32_t offset, uint16_t value)
{
    ((wadi_r16 *)base)->w[offset / 2] = value;
}

WADI_METAL void wad_port_write32(uintptr_t base, uint32_t offset, uint32_t value)
{
    ((wadi_r32 *)base)->w[offset / 4] = value;
}

WADI_METAL uint32_t wad_port_bus_address(const volatile void *p)
{
    return (uint32_t)(uintptr_t)p;
}

/** Parks, the vector kept in wad_unhandled_vector for the debugger. */
void wad_port_unhandled(unsigned vector) __attribute__((noreturn));

/** The registers that the last fault left, and what forgets them; NULL: there was none. */
uint32_t *wad_port_fault(void);
void wad_port_fault_forget(void);
/* The port's own entry hands them over: vector, pc, lr, sp, status, five more. */
void wadi_fault_keep(const uint32_t *words);

/** Generated tables are placed right behind the core's own vectors. */
#define WAD_VECTOR_SECTION __attribute__((section(".vectors.lines"), used))

#endif
