/* SPDX-License-Identifier: MIT */
/*
 * The few instructions that plain firmware needs and C has not.
 *
 *     #include <wadium/cpu.h>
 *
 *     WAD_CPU_IRQ_ON();
 *     for (;;)
 *         WAD_CPU_SLEEP();
 *
 * On Arm and RISC-V each is the instruction itself; on the simulated chip it is
 * a call into it. They are barriers for the compiler: memory accesses are not
 * moved past them. A handler may use any of them.
 *
 *     WAD_CPU_IRQ_OFF()   masks all interrupts        WAD_CPU_SLEEP()    until one is pending
 *     WAD_CPU_IRQ_ON()    opens the global mask       WAD_CPU_BARRIER()  completes all accesses
 *     WAD_CPU_NOP()       one cycle
 *
 *     wad_cpu_saved(c, s) in a handler: clears and sets bits of the status register that its exit
 * will restore, on a core that saves one (`cpu ... saves` in the sheet), so that main wakes:
 * wad_cpu_saved(DEEP, 0). There is none for cores without. wad_cycles(n)       tells the simulated
 * chip of n core cycles of work that it cannot see: plain code takes no simulated time. Nothing on
 * a target, which works.
 */
#ifndef WADIUM_CPU_H
#define WADIUM_CPU_H

#if defined(__arm__)
#define WAD_CPU_IRQ_OFF() __asm volatile("cpsid i" ::: "memory")
#define WAD_CPU_IRQ_ON()  __asm volatile("cpsie i" ::: "memory")
#define WAD_CPU_SLEEP()   __asm volatile("dsb\n\twfi" ::: "memory")
#define WAD_CPU_BARRIER() __asm volatile("dsb" ::: "memory")
#define WAD_CPU_NOP()     __asm volatile("nop")
#elif defined(__riscv)
#define WAD_CPU_IRQ_OFF() __asm volatile("csrci mstatus, 8" ::: "memory")
#define WAD_CPU_IRQ_ON()  __asm volatile("csrs mie, %0\n\tcsrsi mstatus, 8" ::"r"(0x800) : "memory")
#define WAD_CPU_SLEEP()   __asm volatile("wfi" ::: "memory")
#define WAD_CPU_BARRIER() __asm volatile("fence" ::: "memory")
#define WAD_CPU_NOP()     __asm volatile("nop")
#else
#include <stdint.h>
uint32_t wad_port_irq_save(void);
void wad_port_irq_on(void);
void wad_port_sleep(void);
void wad_port_barrier(void);
void wad_port_cycles(uint32_t n);
#define WAD_CPU_IRQ_OFF()         ((void)wad_port_irq_save())
#define WAD_CPU_IRQ_ON()          wad_port_irq_on()
#define WAD_CPU_SLEEP()           wad_port_sleep()
#define WAD_CPU_BARRIER()         wad_port_barrier()
void wad_port_saved(uint32_t clear, uint32_t set);
#define WAD_CPU_NOP()             wad_port_cycles(1)
#define wad_cycles(n)             wad_port_cycles(n)
#define wad_cpu_saved(clear, set) wad_port_saved((clear), (set))
#endif

#ifndef wad_cycles
#define wad_cycles(n) ((void)(n))
#endif

#endif
