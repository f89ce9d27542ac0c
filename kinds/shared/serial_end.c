/* SPDX-License-Identifier: MIT */
/* Serial lines from outside: formats by name, what stands at the other end of a pin. */
#include "serial_end.h"

#include "lang/rational.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/model.h"
#include "sim/core/sim.h"

void wad_sim_serial_end(wad_sim *sim, const wad_pin_def *pin, const char *name,
                        const wad_serial_format *format)
{
    wadi_serial_end end = {pin, name, *format};
    if (!sim->ends.serial)
        sim->ends.serial = g_array_new(FALSE, FALSE, sizeof end);
    for (guint i = 0; i < sim->ends.serial->len; i++)
        if (g_array_index(sim->ends.serial, wadi_serial_end, i).pin == pin) {
            g_array_index(sim->ends.serial, wadi_serial_end, i) = end;
            return;
        }
    g_array_append_val(sim->ends.serial, end);
}

wad_rational wadi_serial_baud(wad_model *m, int64_t num, int64_t den)
{
    const wad_clock *def = m->block->clock ? m->block->clock->def : m->sim->cpu.core->def;
    wad_rational hz, baud = {0, 1};
    if (wad_sim_clock_hz(m->sim, def, &hz))
        (void)wadi_rat_mul(hz, (wad_rational){num, den}, &baud);
    return baud;
}

const wadi_serial_end *wadi_serial_end_of(const wad_sim *sim, const wad_pin_def *pin)
{
    for (guint i = 0; pin && sim->ends.serial && i < sim->ends.serial->len; i++) {
        const wadi_serial_end *end = &g_array_index(sim->ends.serial, wadi_serial_end, i);
        if (end->pin == pin)
            return end;
    }
    return NULL;
}
