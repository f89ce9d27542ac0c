/* SPDX-License-Identifier: MIT */
/* The sim port's calls, in the host: they find the chip whose firmware runs in this thread. */
#include "wad_port.h"

#include <stdio.h>
#include <stdlib.h>

#include "sim/core/bus.h"
#include "sim/core/clock.h"
#include "sim/core/controller.h"
#include "sim/core/cpu.h"
#include "sim/core/master.h"
#include "sim/core/report.h"
#include "sim/core/stop.h"
#include "sim/host/plain.h"

static wad_sim *none(void)
{
    fputs("wadium: a port call outside of a simulation run; firmware runs under 'wadium run' or "
          "wad_sim_run()\n",
          stderr);
    abort();
}

static inline wad_sim *current(void)
{
    wad_sim *sim = wadi_current;
    return __builtin_expect(sim != NULL, 1) ? sim : none();
}

/* Plain C of a chip with low registers knows their blocks by biased addresses. */
static inline uint64_t bus_address(const wad_sim *sim, uintptr_t address)
{
    return address - sim->plain.regs_start < sim->plain.regs_end - sim->plain.regs_start
               ? address - sim->plain.bias
               : address;
}

/* The caller's place, kept for findings; a macro, because it must see the caller's frame. */
#define ENTER(sim)                                                                                 \
    wad_sim *sim = current();                                                                      \
    wadi_flush(sim);                                                                               \
    sim->call.pc = (uintptr_t)__builtin_return_address(0);                                         \
    sim->call.frame = *(void **)__builtin_frame_address(0)

uint8_t wad_port_read8(uintptr_t base, uint32_t offset)
{
    ENTER(sim);
    return (uint8_t)wadi_bus_read(sim, bus_address(sim, base + offset), 1);
}

uint16_t wad_port_read16(uintptr_t base, uint32_t offset)
{
    ENTER(sim);
    return (uint16_t)wadi_bus_read(sim, bus_address(sim, base + offset), 2);
}

uint32_t wad_port_read32(uintptr_t base, uint32_t offset)
{
    ENTER(sim);
    return wadi_bus_read(sim, bus_address(sim, base + offset), 4);
}

void wad_port_write8(uintptr_t base, uint32_t offset, uint8_t value)
{
    ENTER(sim);
    wadi_bus_write(sim, bus_address(sim, base + offset), 1, value);
}

void wad_port_write16(uintptr_t base, uint32_t offset, uint16_t value)
{
    ENTER(sim);
    wadi_bus_write(sim, bus_address(sim, base + offset), 2, value);
}

void wad_port_write32(uintptr_t base, uint32_t offset, uint32_t value)
{
    ENTER(sim);
    wadi_bus_write(sim, bus_address(sim, base + offset), 4, value);
}

uint32_t wad_port_read(uintptr_t base, uint32_t offset, uint8_t size)
{
    ENTER(sim);
    return wadi_bus_read(sim, bus_address(sim, base + offset), size);
}

void wad_port_write(uintptr_t base, uint32_t offset, uint8_t size, uint32_t value)
{
    ENTER(sim);
    wadi_bus_write(sim, bus_address(sim, base + offset), size,
                   size < 4 ? value & ((1u << size * 8u) - 1u) : value);
}

uint32_t wad_port_irq_save(void)
{
    ENTER(sim);
    uint32_t state = sim->cpu.masked;
    wadi_cpu_spend(sim, 1);
    wadi_cpu_mask(sim, true);
    return state;
}

void wad_port_irq_restore(uint32_t state)
{
    ENTER(sim);
    wadi_cpu_mask(sim, state != 0);
    wadi_cpu_spend(sim, 1);
}

void wad_port_irq_on(void)
{
    ENTER(sim);
    wadi_cpu_mask(sim, false);
    wadi_cpu_spend(sim, 1);
}

void wad_port_saved(uint32_t clear, uint32_t set)
{
    ENTER(sim);
    wadi_cpu_saved(sim, clear, set);
}

void wad_port_sleep(void)
{
    ENTER(sim);
    wadi_cpu_sleep(sim);
}

void wad_port_barrier(void)
{
    ENTER(sim);
    wadi_cpu_spend(sim, 1);
}

uint32_t wad_port_bus_address(const volatile void *p)
{
    return wadi_bus_address(current(), (uintptr_t)p);
}

void wad_port_cycles(uint32_t n)
{
    ENTER(sim);
    wadi_cpu_spend(sim, n);
}

void wad_port_unhandled(unsigned vector)
{
    ENTER(sim);
    wadi_cpu_no_handler(sim, vector);
}

void wad_port_reset(void)
{
    ENTER(sim);
    wadi_run_again(sim);
}

/* A fault ends the run, and is told there. */
uint32_t *wad_port_fault(void)
{
    return NULL;
}

void wad_port_fault_forget(void)
{
}

void wad_port_tell_clock(uintptr_t base, uint32_t hz)
{
    ENTER(sim);
    wadi_clock_promised(sim, base, hz);
}

void wad_port_tell_short(uint32_t received, uint32_t compared)
{
    if (!wadi_current) /* comparing touches no chip */
        return;
    ENTER(sim);
    wadi_report(sim, WAD_FINDING_SPI_SHORT, NULL,
                "%u frames are compared, and %u were received: the others are what memory was "
                "filled with before",
                compared, received);
}
