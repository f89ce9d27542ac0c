/* SPDX-License-Identifier: MIT */
/* The remote port's calls. */
#include "wad_port.h"

#include <stdio.h>
#include <stdlib.h>

#include "link.h"

uint8_t wad_port_read8(uintptr_t base, uint32_t offset)
{
    return (uint8_t)wadi_link_read(base + offset, 1);
}

uint16_t wad_port_read16(uintptr_t base, uint32_t offset)
{
    return (uint16_t)wadi_link_read(base + offset, 2);
}

uint32_t wad_port_read32(uintptr_t base, uint32_t offset)
{
    return wadi_link_read(base + offset, 4);
}

void wad_port_write8(uintptr_t base, uint32_t offset, uint8_t value)
{
    wadi_link_write(base + offset, 1, value);
}

void wad_port_write16(uintptr_t base, uint32_t offset, uint16_t value)
{
    wadi_link_write(base + offset, 2, value);
}

void wad_port_write32(uintptr_t base, uint32_t offset, uint32_t value)
{
    wadi_link_write(base + offset, 4, value);
}

uint32_t wad_port_read(uintptr_t base, uint32_t offset, uint8_t size)
{
    return wadi_link_read(base + offset, size);
}

void wad_port_write(uintptr_t base, uint32_t offset, uint8_t size, uint32_t value)
{
    wadi_link_write(base + offset, size, size < 4 ? value & ((1u << size * 8u) - 1u) : value);
}

uint32_t wad_port_irq_save(void)
{
    uint32_t state = wadi_link_masked();
    wadi_link_mask(true);
    return state;
}

void wad_port_irq_restore(uint32_t state)
{
    wadi_link_mask(state != 0);
    wadi_link_serve();
}

void wad_port_irq_on(void)
{
    wadi_link_mask(false);
    wadi_link_serve();
}

void wad_port_saved(uint32_t clear, uint32_t set)
{
    (void)clear, (void)set;
    fputs("wadium: a core over a probe saves no status of firmware that runs on the host\n",
          stderr);
    exit(1);
}

void wad_port_sleep(void)
{
    wadi_link_sleep();
}

void wad_port_barrier(void)
{
}

/* The board's DMA controllers do not reach the desk's memory. */
uint32_t wad_port_bus_address(const volatile void *p)
{
    (void)p;
    fputs("wadium: a DMA controller is given memory, which lies on the desk here and not on the "
          "board: "
          "DMA does not go through the remote port\n",
          stderr);
    wadi_link_end(2);
}

void wad_port_cycles(uint32_t n)
{
    (void)n; /* an access takes longer than any such wait */
}

void wad_port_reset(void)
{
    fputs("wadium: the firmware resets the chip: it ends here\n", stderr);
    wadi_link_end(0);
}

uint32_t *wad_port_fault(void)
{
    return NULL;
}

void wad_port_fault_forget(void)
{
}

void wad_port_unhandled(unsigned vector)
{
    fprintf(stderr, "wadium: interrupt %u has no handler\n", vector);
    wadi_link_end(1);
}
