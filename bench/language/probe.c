/* SPDX-License-Identifier: MIT */
#include "probe.h"

#include <string.h>

#include "bench.h"
#include "said.h"

int wadi_bench_probe(const wad_bench *b, const char *name)
{
    for (guint i = 0; i < b->probes->len; i++)
        if (!strcmp(g_array_index(b->probes, wadi_probe, i).name, name))
            return (int)i;
    return -1;
}

void wadi_bench_capture_irq(wad_bench *b, unsigned line, const char *name)
{
    for (guint i = 0; i < b->irq_probes->len; i++)
        if (g_array_index(b->irq_probes, wadi_irq_probe, i).line == line)
            return;
    wadi_irq_probe probe = {wadi_arena_strndup(b->arena, name, strlen(name)), line};
    g_array_append_val(b->irq_probes, probe);
}

int wadi_bench_part(const wad_bench *b, const char *name)
{
    for (guint i = 0; i < b->parts->len; i++)
        if (!strcmp(((const wadi_part_said *)b->parts->pdata[i])->name, name))
            return (int)i;
    return -1;
}

const wad_pin_def *wadi_part_wire(const wad_part_def *part, const char *name)
{
    for (unsigned i = 0; i < part->n_wires; i++)
        if (!strcmp(part->wires[i].name, name))
            return part->wires[i].pin;
    return NULL;
}

int wadi_bench_volts(const wad_bench *b, const char *name)
{
    for (guint i = 0; i < b->analog.probes->len; i++)
        if (!strcmp(g_array_index(b->analog.probes, wadi_analog_probe, i).name, name))
            return (int)i;
    return -1;
}
