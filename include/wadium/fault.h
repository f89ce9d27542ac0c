/* SPDX-License-Identifier: MIT */
/*
 * What a fault leaves behind: the core's registers at the instruction that could not be carried
 * out, kept over the reset that follows, and told at the next start.
 *
 *     int main(void)
 *     {
 *         wad_fault fault;
 *         ...
 *         if (wad_fault_take(&fault))
 *             wad_fault_print(&fault, put, &link);
 *         ...
 *     }
 *
 *     void handle_fault(void)              instead of parking: begins anew
 *     {
 *         wad_port_reset();
 *     }
 *
 * The metal ports keep the registers before they call handle_fault, in memory that start-up leaves
 * alone (.noinit). What a cold start finds there by chance is told from a fault by its check word.
 */
#ifndef WADIUM_FAULT_H
#define WADIUM_FAULT_H

#include <wadium/port.h>
#include <wadium/print.h>

typedef struct wad_fault {
    uint32_t vector; /**< Arm: 1003; RISC-V: 1000 and the cause */
    uint32_t pc;     /**< the instruction */
    uint32_t lr;     /**< where its function was called from (return address) */
    uint32_t sp;     /**< before the fault */
    uint32_t status; /**< program status, or RISC-V's value of the trap: the address for one */
    uint32_t r[5];   /**< r0 to r3, r12; RISC-V: a0 to a3, t0 */
} wad_fault;

/** The fault before the last reset, once: it is forgotten then. False: there was none. Never
 * blocks. */
bool wad_fault_take(wad_fault *fault);
/** Lines of text; blocks as `put` does. */
void wad_fault_print(const wad_fault *fault, wad_put_fn put, void *context);

#endif
