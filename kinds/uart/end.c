/* SPDX-License-Identifier: MIT */
/* A chip's serial ports, for the world around it. */
#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/sim.h"
#include "state.h"

bool wad_sim_serial_port(wad_sim *sim, const wad_instance *block, wad_serial_port *port)
{
    wad_model *m = sim->blocks[block->index].model;
    if (!wadi_model_is(m, "uart"))
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
