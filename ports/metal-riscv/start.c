/* SPDX-License-Identifier: MIT */
/* Reset and the trap of machine mode: external interrupts go to the generated table. */
#include <wadium/irq.h>

#define CAUSE_EXTERNAL 0x8000000Bu

typedef void (*vector)(void);

extern const unsigned wad_vector_count;
extern const vector wad_vectors[];
void wad_start(void) __attribute__((noreturn));
void wad_reset(void) __attribute__((naked, section(".vectors.core")));
void wad_trap(void) __attribute__((interrupt("machine"), aligned(4)));

void wad_reset(void)
{
    __asm volatile("csrci mstatus, 8\n\t"
                   "la sp, wad_stack_top\n\t"
                   "la t0, wad_trap\n\t"
                   "csrw mtvec, t0\n\t"
                   "j wad_start");
}

void handle_fault(void);
__attribute__((weak)) void handle_fault(void)
{
}

/* By now the trap's own frame lies on the stack, and has the registers that it saved. */
static void fault(uint32_t cause)
{
    uint32_t words[10] = {1000u + (cause & 0xFFu)};
    __asm volatile("csrr %0, mepc" : "=r"(words[1]));
    __asm volatile("csrr %0, mtval" : "=r"(words[4]));
    __asm volatile("mv %0, sp" : "=r"(words[3]));
    wadi_fault_keep(words);
    handle_fault();
    wad_port_unhandled(words[0]);
}

void wad_trap(void)
{
    uint32_t cause;
    __asm volatile("csrr %0, mcause" : "=r"(cause));
    if (cause != CAUSE_EXTERNAL)
        fault(cause);
    int line = wad_irq_current();
    if (line >= 0 && (unsigned)line < wad_vector_count)
        wad_vectors[line]();
}
