/* SPDX-License-Identifier: MIT */
/*
 * The layer that the drivers stand on. A port is one header, `wad_port.h`, in a
 * folder of its own (ports/sim, ports/metal-arm, ports/metal-riscv); the build
 * puts that folder on the include path. A new CPU is one such header.
 *
 * A port supplies, as inline functions or as real ones:
 *
 *     uint8_t  wad_port_read8 (uintptr_t base, uint32_t offset);
 *     uint16_t wad_port_read16(uintptr_t base, uint32_t offset);
 *     uint32_t wad_port_read32(uintptr_t base, uint32_t offset);
 *     void     wad_port_write8 (uintptr_t base, uint32_t offset, uint8_t  value);
 *     void     wad_port_write16(uintptr_t base, uint32_t offset, uint16_t value);
 *     void     wad_port_write32(uintptr_t base, uint32_t offset, uint32_t value);
 *         one access of exactly that width at base + offset (bytes); never
 *         merged, split, repeated or moved past another one
 *     uint32_t wad_port_read (uintptr_t base, uint32_t offset, uint8_t size);
 *     void     wad_port_write(uintptr_t base, uint32_t offset, uint8_t size, uint32_t value);
 *         the same with the width in bytes; only where WAD_PORT_BY_SIZE is defined, by a port whose
 *         accesses are calls: a compiler that finds three of them for each field takes minutes
 *     uint32_t wad_port_irq_save(void);          masks all interrupts, returns the state before
 *     void     wad_port_irq_restore(uint32_t);   puts that state back
 *     void     wad_port_irq_on(void);            opens the global mask
 *     void     wad_port_sleep(void);             until an enabled interrupt is pending
 *     void     wad_port_barrier(void);           completes all accesses before any later one
 *     uint32_t wad_port_bus_address(const volatile void *p);   as DMA sees the object
 *     void     wad_port_cycles(uint32_t n);      n core clock cycles of work
 *     void     wad_port_tell_short(uint32_t received, uint32_t compared);
 *         only where WAD_PORT_TELLS is defined, for a port that can say so: frames were compared
 *         that no exchange had brought
 *     void     wad_port_tell_clock(uintptr_t base, uint32_t hz);
 *         there too: a handle was opened that says its block runs at `hz`
 *     void     wad_port_unhandled(unsigned vector);   parks; never returns
 *     void     wad_port_reset(void);             the chip begins anew; where the core cannot do
 *         that by itself it parks, for a watchdog
 *     uint32_t *wad_port_fault(void);            what <wadium/fault.h> reads; NULL: no fault
 *     void     wad_port_fault_forget(void);
 *
 * A handler may call any of them; only wad_port_sleep, wad_port_cycles and
 * wad_port_unhandled take time.
 */
#ifndef WADIUM_PORT_H
#define WADIUM_PORT_H

#include <stdbool.h>
#include <stdint.h>

#include "wad_port.h"

#endif
