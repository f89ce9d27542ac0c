/* SPDX-License-Identifier: MIT */
/* Accesses that a core answers with a fault: the chip's handler runs, else the run ends. */
#include "fault.h"

#include "report.h"
#include "sim.h"
#include "stop.h"

void wadi_bus_fault(wad_sim *sim, char *story)
{
    int line = sim->sheet->cpu.bus_fault;
    wad_handler handler = line < 0 ? NULL : sim->host.carrier->handler(sim, (unsigned)line);
    bool nested = sim->fault.story != NULL;
    wadi_trace trace = wadi_trace_here(sim);
    if (!nested) {
        sim->fault.story = story;
        sim->run.story.trace = trace;
    }
    if (handler && !nested) {
        sim->cpu.priority = 0; /* nothing interrupts it */
        handler();
        wadi_flush(sim);
    }
    wadi_run_stop(sim, WAD_RUN_CRASHED,
                  handler && !nested
                      ? g_strdup_printf("%s; the bus-fault handler returned", sim->fault.story)
                      : g_strdup(nested ? story : sim->fault.story));
}

void wadi_bus_fault_unhandled(wad_sim *sim)
{
    wadi_run_stop(sim, WAD_RUN_CRASHED,
                  g_strdup_printf("%s; the firmware has no handle_bus_fault", sim->fault.story));
}

static const wad_instance *block_before(const wad_sim *sim, uint64_t address)
{
    const wad_instance *near = NULL;
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (sim->sheet->blocks[i]->base <= address)
            near = sim->sheet->blocks[i];
    return near;
}

void wadi_unmapped(wad_sim *sim, uint64_t address, const char *what)
{
    const wad_instance *near = block_before(sim, address);
    wadi_slot stand_in = {.address = address};
    char *beyond = near ? g_strdup_printf(" (0x%llx beyond %s's base)",
                                          (unsigned long long)(address - near->base), near->name)
                        : g_strdup("");
    char at[64];
    wad_format_address(sim->sheet, address, at, sizeof at);
    wadi_report(sim, WAD_FINDING_UNMAPPED, &stand_in, "%s %s: nothing is there%s", what, at,
                beyond);
    g_free(beyond);
    wadi_bus_fault(sim, g_strdup_printf("bus fault: %s %s, where nothing is", what, at));
}

void wadi_misaligned(wad_sim *sim, uint64_t address, unsigned bytes)
{
    wadi_slot stand_in = {.address = address};
    char at[64];
    wad_format_address(sim->sheet, address, at, sizeof at);
    wadi_report(sim, WAD_FINDING_WIDTH, &stand_in,
                "%u-bit access at %s, which is no multiple of %u: %s faults", bytes * 8, at, bytes,
                sim->sheet->name);
    wadi_bus_fault(sim,
                   g_strdup_printf("bus fault: misaligned %u-bit access at %s", bytes * 8, at));
}
