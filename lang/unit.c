/* SPDX-License-Identifier: MIT */
#include "unit.h"

#include <glib.h>
#include <string.h>

static const struct {
    const char *name;
    wad_unit unit;
    wad_rational scale;
} units[] = {
    {"Hz", WAD_UNIT_HZ, {1, 1}},
    {"kHz", WAD_UNIT_HZ, {1000, 1}},
    {"MHz", WAD_UNIT_HZ, {1000000, 1}},
    {"GHz", WAD_UNIT_HZ, {1000000000, 1}},
    {"s", WAD_UNIT_S, {1, 1}},
    {"ms", WAD_UNIT_S, {1, 1000}},
    {"us", WAD_UNIT_S, {1, 1000000}},
    {"ns", WAD_UNIT_S, {1, 1000000000}},
    {"ps", WAD_UNIT_S, {1, 1000000000000}},
    {"min", WAD_UNIT_S, {60, 1}},
    {"h", WAD_UNIT_S, {3600, 1}},
    {"%", WAD_UNIT_PART, {1, 100}},
    {"ppm", WAD_UNIT_PART, {1, 1000000}},
    {"points", WAD_UNIT_POINT, {1, 100}},
    {"B", WAD_UNIT_BYTE, {1, 1}},
    {"KiB", WAD_UNIT_BYTE, {1024, 1}},
    {"MiB", WAD_UNIT_BYTE, {1048576, 1}},
    {"V", WAD_UNIT_V, {1, 1}},
    {"mV", WAD_UNIT_V, {1, 1000}},
    {"uV", WAD_UNIT_V, {1, 1000000}},
    {"ohm", WAD_UNIT_OHM, {1, 1}},
    {"kohm", WAD_UNIT_OHM, {1000, 1}},
    {"Mohm", WAD_UNIT_OHM, {1000000, 1}},
    {"nF", WAD_UNIT_F, {1, 1000000000}},
    {"pF", WAD_UNIT_F, {1, 1000000000000}},
    {"A", WAD_UNIT_A, {1, 1}},
    {"mA", WAD_UNIT_A, {1, 1000}},
    {"uA", WAD_UNIT_A, {1, 1000000}},
    {"nA", WAD_UNIT_A, {1, 1000000000}},
    {"cycles", WAD_UNIT_CYCLE, {1, 1}},
    {"cycle", WAD_UNIT_CYCLE, {1, 1}},
};

bool wadi_unit(const char *name, wad_unit *unit, wad_rational *scale)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(units); i++)
        if (!strcmp(units[i].name, name)) {
            *unit = units[i].unit;
            *scale = units[i].scale;
            return true;
        }
    return false;
}
