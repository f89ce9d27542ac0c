/* SPDX-License-Identifier: MIT */
/* `wadium emit linker`: the chip's memories, for the linker scripts of the metal ports. */
#include "emit.h"

void wad_emit_linker(const wad_sheet *sheet, FILE *out)
{
    wadi_emit_banner(sheet, "memories, included by the port's linker script", out);
    fprintf(out, "MEMORY\n{\n");
    for (unsigned i = 0; i < sheet->n_memories; i++) {
        const wad_memory *m = &sheet->memories[i];
        fprintf(out, "    %-6s (%s) : ORIGIN = 0x%08llX, LENGTH = 0x%llX\n", m->name,
                g_str_has_prefix(m->name, "flash") ? "rx" : "rwx", (unsigned long long)m->base,
                (unsigned long long)m->size);
    }
    fprintf(out, "}\n");
}
