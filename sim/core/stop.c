/* SPDX-License-Identifier: MIT */
#include "stop.h"

#include <sys/mman.h>
#include <unistd.h>

#include "fiber.h"
#include "report.h"

#if defined(__SANITIZE_ADDRESS__)
_Thread_local const void *wadi_host_stack;
_Thread_local size_t wadi_host_stack_size;
#endif

void wadi_run_stop(wad_sim *sim, wad_run_end end, char *story)
{
    g_free(sim->run.story.text);
    sim->run.story.text = story;
    sim->run.story.end = end;
    sim->run.running = false;
    WADI_FIBER_LEAVE(NULL, wadi_host_stack, wadi_host_stack_size);
    setcontext(&sim->host.host_context);
    abort(); /* setcontext does not return */
}

void wadi_run_again(wad_sim *sim)
{
    sim->reset.restart = true;
    wadi_run_stop(sim, WAD_RUN_TIME, NULL);
}

void wadi_run_reset(wad_sim *sim, const char *by)
{
    wadi_report(sim, WAD_FINDING_WATCHDOG, NULL, "%s reset the chip: it was not fed in time", by);
    wadi_run_again(sim);
}

void wad_sim_power_cycle(wad_sim *sim)
{
    sim->reset.restart = sim->reset.power_cycle = true;
    wadi_run_stop(sim, WAD_RUN_TIME, NULL);
}
