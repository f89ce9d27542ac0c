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

/** Asks for a line by software, as if its block did; its handler runs once. Never blocks.
 * WAD_E_ABSENT: the controller cannot; WAD_E_ARG: line < 0. */
WAD_MUST_CHECK wad_status wad_irq_raise(int line);

/** Takes back what the controller has noted of a line: a request by software, or by an edge. What
 * the block itself still asks for stays. Never blocks. Errors as wad_irq_raise. */
WAD_MUST_CHECK wad_status wad_irq_dismiss(int line);

/** Holds all lines back that are not more urgent than `priority`, and returns what was held before,
 * for wad_irq_let: a lock against some handlers that leaves the more urgent ones alone. Nests.
 * Where the controller has no threshold it closes the global mask. Never blocks. */
uint32_t wad_irq_hold(unsigned priority);
void wad_irq_let(uint32_t held);

/** The line being served, else the most urgent pending one, else -1; for cores that do not jump to
 * the handler by themselves. -1 as well where the controller does not tell. Never blocks. */
int wad_irq_current(void);

/** What a flag of a shared line is for. */
typedef void (*wad_flag_fn)(unsigned flag, void *context);

/**
 * For a handler whose line many flags share, all in one register: reads flags and enables once, and
 * calls `fn` with each flag that is set and enabled, lowest first, cleared before. Flags that come
 * meanwhile ask again. `flag` and `enable` are arrays of one length, as a port's
 * `corran32_gpio_roles.flag` and `.irq`. Never blocks.
 */
static inline void wad_irq_each(uintptr_t base, wad_field flag, wad_field enable, wad_flag_fn fn,
                                void *context)
{
    uint32_t set = wadi_read(base, flag.off, flag.size) >> flag.lsb;
    uint32_t on = wadi_read(base, enable.off, enable.size) >> enable.lsb;
    for (unsigned i = 0; i < flag.n; i++)
        if (set >> (i * flag.lstep) & on >> (i * enable.lstep) & 1u) {
            wad_clear(base, wad_at(flag, i));
            fn(i, context);
        }
}

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
