/* SPDX-License-Identifier: MIT */
/* The port to the simulated chip: every access is a call into the process that loaded this
 * firmware. See <wadium/port.h> for what each promises. */
#ifndef WAD_PORT_H
#define WAD_PORT_H

#include <stdint.h>

uint8_t wad_port_read8(uintptr_t base, uint32_t offset);
uint16_t wad_port_read16(uintptr_t base, uint32_t offset);
uint32_t wad_port_read32(uintptr_t base, uint32_t offset);
void wad_port_write8(uintptr_t base, uint32_t offset, uint8_t value);
void wad_port_write16(uintptr_t base, uint32_t offset, uint16_t value);
void wad_port_write32(uintptr_t base, uint32_t offset, uint32_t value);
#define WAD_PORT_BY_SIZE 1
uint32_t wad_port_read(uintptr_t base, uint32_t offset, uint8_t size);
void wad_port_write(uintptr_t base, uint32_t offset, uint8_t size, uint32_t value);

uint32_t wad_port_irq_save(void);
void wad_port_irq_restore(uint32_t state);
void wad_port_irq_on(void);
void wad_port_sleep(void);
void wad_port_barrier(void);
uint32_t wad_port_bus_address(const volatile void *p);
void wad_port_cycles(uint32_t n);
/* A check found frames that were never received: the comparison goes beyond the exchange. */
#define WAD_PORT_TELLS 1
void wad_port_tell_short(uint32_t received, uint32_t compared);
/* A handle was opened that says what the block's clock is. */
void wad_port_tell_clock(uintptr_t base, uint32_t hz);
void wad_port_reset(void) __attribute__((noreturn));
uint32_t *wad_port_fault(void);
void wad_port_fault_forget(void);
void wad_port_unhandled(unsigned vector) __attribute__((noreturn));

#endif
