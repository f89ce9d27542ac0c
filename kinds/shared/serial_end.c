/* SPDX-License-Identifier: MIT */
/* Serial lines from outside: formats by name, what stands at the other end of a pin. */
#include "serial_end.h"

#include "kinds/list.h"
#include "kinds/uart/state.h"
#include "lang/rational.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/model.h"
#include "sim/core/sim.h"
#include "wadium/host/rate.h"

bool wad_serial_parse(const char *text, wad_serial_format *f)
{
    wad_frame frame;
    if (!wad_frame_parse(text, &frame))
        return false;
    f->bits = frame.data_bits;
    f->parity = g_ascii_toupper(text[1]);
    f->stop_halves = frame.half_stops;
    return true;
}

void wad_serial_name(const wad_serial_format *f, char *text)
{
    static const char *const stops[] = {"1", "1.5", "2"};
    snprintf(text, 8, "%u%c%s", f->bits, f->parity, stops[(f->stop_halves - 2) % 3]);
}

void wad_sim_serial_end(wad_sim *sim, const wad_pin_def *pin, const char *name,
                        const wad_serial_format *format)
{
    wadi_serial_end end = {pin, name, *format};
    if (!sim->serial_ends)
        sim->serial_ends = g_array_new(FALSE, FALSE, sizeof end);
    for (guint i = 0; i < sim->serial_ends->len; i++)
        if (g_array_index(sim->serial_ends, wadi_serial_end, i).pin == pin) {
            g_array_index(sim->serial_ends, wadi_serial_end, i) = end;
            return;
        }
    g_array_append_val(sim->serial_ends, end);
}

wad_rational wadi_serial_baud(wad_model *m, int64_t num, int64_t den)
{
    const wad_clock *def = m->block->clock ? m->block->clock->def : m->sim->core->def;
    wad_rational hz, baud = {0, 1};
    if (wad_sim_clock_hz(m->sim, def, &hz))
        (void)wadi_rat_mul(hz, (wad_rational){num, den}, &baud);
    return baud;
}

const wadi_serial_end *wadi_serial_end_of(const wad_sim *sim, const wad_pin_def *pin)
{
    for (guint i = 0; pin && sim->serial_ends && i < sim->serial_ends->len; i++) {
        const wadi_serial_end *end = &g_array_index(sim->serial_ends, wadi_serial_end, i);
        if (end->pin == pin)
            return end;
    }
    return NULL;
}

bool wad_sim_serial_port(wad_sim *sim, const wad_instance *block, wad_serial_port *port)
{
    wad_model *m = sim->blocks[block->index].model;
    if (!m || m->cls != &wadi_model_uart)
        return false;
    wadi_uart_describe(m, port);
    return true;
}

bool wad_sim_serial_at(wad_sim *sim, const wad_pin_def *pin, wad_serial_port *port)
{
    for (unsigned i = 0; i < sim->sheet->n_blocks; i++)
        if (wad_sim_serial_port(sim, sim->sheet->blocks[i], port) && port->on &&
            (port->tx == pin || port->rx == pin))
            return true;
    return false;
}
