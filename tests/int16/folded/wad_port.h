/* SPDX-License-Identifier: MIT */
/* A port whose registers all read as one word, so that the compiler can fold what is read. */
#ifndef WAD_PORT_H
#define WAD_PORT_H

#include <stdint.h>

static uint32_t folded_word;

static inline uint8_t wad_port_read8(uintptr_t base, uint32_t offset)
{
    (void)base;
    (void)offset;
    return (uint8_t)folded_word;
}

static inline uint16_t wad_port_read16(uintptr_t base, uint32_t offset)
{
    (void)base;
    (void)offset;
    return (uint16_t)folded_word;
}

static inline uint32_t wad_port_read32(uintptr_t base, uint32_t offset)
{
    (void)base;
    (void)offset;
    return folded_word;
}

static inline void wad_port_write8(uintptr_t base, uint32_t offset, uint8_t value)
{
    (void)base;
    (void)offset;
    folded_word = value;
}

static inline void wad_port_write16(uintptr_t base, uint32_t offset, uint16_t value)
{
    (void)base;
    (void)offset;
    folded_word = value;
}

static inline void wad_port_write32(uintptr_t base, uint32_t offset, uint32_t value)
{
    (void)base;
    (void)offset;
    folded_word = value;
}

static inline uint32_t wad_port_bus_address(const volatile void *p)
{
    return (uint32_t)(uintptr_t)p;
}

void wad_port_unhandled(unsigned vector);
uint32_t wad_port_irq_save(void);
void wad_port_irq_restore(uint32_t state);
void wad_port_irq_on(void);
void wad_port_sleep(void);
void wad_port_barrier(void);
void wad_port_reset(void) __attribute__((noreturn));
void wad_port_cycles(uint32_t n);

#endif
