/* SPDX-License-Identifier: MIT */
#include "c_name.h"

#include <glib.h>

char *wadi_emit_upper(const char *name)
{
    return g_ascii_strup(name, -1);
}

char *wadi_emit_lower(const char *name)
{
    return g_ascii_strdown(name, -1);
}

char *wadi_emit_handler(const wad_sheet *sheet, unsigned line)
{
    const wad_instance *owner = wad_sheet_irq_owner(sheet, line);
    if ((int)line == sheet->cpu.bus_fault)
        return g_strdup("handle_bus_fault");
    if (!owner)
        return g_strdup_printf("handle_line_%u", line);
    if (owner->n_irqs == 1)
        return g_strdup_printf("handle_%s", owner->name);
    return g_strdup_printf("handle_%s_%u", owner->name, line - (unsigned)owner->irqs[0]);
}
