/* SPDX-License-Identifier: MIT */
/* A port for compilers whose int has 16 bits, to compile with: register accesses are real, the core
 * is left to functions that are never linked. */
#ifndef WAD_PORT_H
#define WAD_PORT_H

#include "../../ports/metal/access.h"

uint32_t wad_port_irq_save(void);
void wad_port_irq_restore(uint32_t state);
void wad_port_irq_on(void);
void wad_port_sleep(void);
void wad_port_barrier(void);
void wad_port_reset(void) __attribute__((noreturn));
void wad_port_cycles(uint32_t n);

#endif
