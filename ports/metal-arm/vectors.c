/* SPDX-License-Identifier: MIT */
/* The core's sixteen vectors; the chip's lines follow from the generated table. */
#include "wad_port.h"

typedef void (*vector)(void);

extern uint32_t wad_stack_top[];
void wad_start(void) __attribute__((noreturn));
void wad_reset(void) __attribute__((noreturn, section(".text.reset")));

void wad_reset(void)
{
    __asm volatile("cpsid i" : : : "memory");
    wad_start();
}

/* Faults and system exceptions: a function of the same name in the firmware takes over. */
#define CORE(name, number)                                                                         \
    void name(void);                                                                               \
    __attribute__((weak)) void name(void)                                                          \
    {                                                                                              \
        wad_port_unhandled(number);                                                                \
    }

/* Where the chip's sheet names a line of bus faults, this core raises its own exception instead. */
void handle_bus_fault(void) __attribute__((weak));
void handle_fault(void);
__attribute__((weak)) void handle_fault(void)
{
    if (handle_bus_fault)
        handle_bus_fault();
    wad_port_unhandled(1003);
}

CORE(handle_nmi, 1002)
CORE(handle_service_call, 1011)
CORE(handle_deferred_call, 1014)
CORE(handle_core_tick, 1015)

__attribute__((section(".vectors.core"), used)) static const vector core_vectors[16] = {
    (vector)(uintptr_t)wad_stack_top,
    wad_reset,
    handle_nmi,
    handle_fault,
    [11] = handle_service_call,
    [14] = handle_deferred_call,
    [15] = handle_core_tick,
};
