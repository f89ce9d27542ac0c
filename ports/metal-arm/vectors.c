/* SPDX-License-Identifier: MIT */
/* The core's sixteen vectors; the chip's lines follow from the generated table. */
#include "wad_port.h"

typedef void (*vector)(void);

extern uint32_t wad_stack_top[];
extern const vector wadi_core_vectors[16];
void wad_start(void) __attribute__((noreturn));
void wad_reset(void) __attribute__((noreturn, section(".text.reset")));

/* Where the vectors lie: an image in RAM has its own. A core without the register ignores it. */
#define TABLE_OFFSET 0xE000ED08u

void wad_reset(void)
{
    __asm volatile("cpsid i" : : : "memory");
    wad_port_write32(TABLE_OFFSET, 0, (uint32_t)(uintptr_t)wadi_core_vectors);
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

/* `frame` is what the core pushed: r0 to r3, r12, lr, pc, status. */
void wadi_fault(const uint32_t *frame) __attribute__((used));
void wadi_fault(const uint32_t *frame)
{
    const uint32_t words[] = {1003,     frame[6], frame[5], (uint32_t)(uintptr_t)(frame + 8),
                              frame[7], frame[0], frame[1], frame[2],
                              frame[3], frame[4]};
    wadi_fault_keep(words);
    handle_fault();
    wad_port_unhandled(1003);
}

/* The frame lies where the code that faulted had its stack. lr stays: by it a debugger finds the
 * way back through the exception. */
static __attribute__((naked)) void fault_entry(void)
{
    __asm volatile(".syntax unified\n\t"
                   "mrs r0, msp\n\t"
                   "mov r1, lr\n\t"
                   "lsls r1, r1, #29\n\t" /* bit 2: the process's stack */
                   "bpl 1f\n\t"
                   "mrs r0, psp\n"
                   "1:\n\t"
                   "ldr r1, =wadi_fault\n\t"
                   "bx r1");
}

CORE(handle_nmi, 1002)
CORE(handle_service_call, 1011)
CORE(handle_deferred_call, 1014)
CORE(handle_core_tick, 1015)

__attribute__((section(".vectors.core"), used)) const vector wadi_core_vectors[16] = {
    (vector)(uintptr_t)wad_stack_top,
    wad_reset,
    handle_nmi,
    fault_entry,
    [11] = handle_service_call,
    [14] = handle_deferred_call,
    [15] = handle_core_tick,
};
