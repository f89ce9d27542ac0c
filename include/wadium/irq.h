/* SPDX-License-Identifier: MIT */
/*
 * The interrupt controller and the global mask.
 *
 *     wad_irq_enable(corran32_cnt0.irq, 1);   the line, at priority 1
 *     wad_irq_global_on();                    last: main lets interrupts in
 *
 *     void handle_CNT0(void)                  named by the generated vector table
 *     {
 *         wad_timer_handle(&blink);
 *     }
 *
 * A handler runs only when every link holds: the block's own enable, the
 * controller's line, a priority more urgent than what runs, the global mask.
 * The drivers set the first two; the global mask stays the application's,
 * which enters main with interrupts masked.
 */
#ifndef WADIUM_IRQ_H
#define WADIUM_IRQ_H

#include "roles.h"
#include "status.h"

/** Enables a line at a priority; 0 is the most urgent. Never blocks. WAD_E_ARG: line < 0,
 * WAD_E_RANGE: the controller has no such priority. */
WAD_MUST_CHECK wad_status wad_irq_enable(int line, unsigned priority);

/** Disables a line; a request that stands already stays pending. Never blocks. */
void wad_irq_disable(int line);

/** True while the line's block asks for service. Never blocks. */
bool wad_irq_pending(int line);

/** The line being served, else the most urgent pending one, else -1; for cores that do not jump to
 * the handler by themselves. -1 as well where the controller does not tell. Never blocks. */
int wad_irq_current(void);

/** Opens the global mask. */
static inline void wad_irq_global_on(void)
{
    wad_port_irq_on();
}

/** Closes the global mask and returns its state before, for wad_irq_restore. Nests. */
static inline uint32_t wad_irq_save(void)
{
    return wad_port_irq_save();
}

static inline void wad_irq_restore(uint32_t state)
{
    wad_port_irq_restore(state);
}

#endif
