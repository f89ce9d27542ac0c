/* SPDX-License-Identifier: MIT */
/* The wiring list of a board. */

#include "wadium/host/board.h"
#include "sheet/read/build.h"

static void show_part(const wad_part_def *p, FILE *out)
{
    for (unsigned i = 0; i < p->n_wires; i++) {
        const wad_wire *w = &p->wires[i];
        char *label = *w->name ? g_strdup_printf("%s.%s", p->name, w->name) : g_strdup(p->name);
        fprintf(out, i == 0 && p->text ? "%-16s %-12s %-6s" : "%-16s %-12s %s", label, p->kind,
                w->net);
        if (i == 0 && p->text)
            fprintf(out, " %s", p->text);
        if (i == 0 && p->active_low)
            fputs(", active low", out);
        if (i == 0 && p->pull)
            fprintf(out, ", pulled %s", p->pull > 0 ? "up" : "down");
        if (i == 0 && p->bounce_s.num) {
            char text[32];
            wad_format_seconds(text, sizeof text, p->bounce_s);
            fprintf(out, ", bounces %s", text);
        }
        fputc('\n', out);
        g_free(label);
    }
}

void wad_show_board(const wad_board *board, FILE *out)
{
    fprintf(out, "%s: %s\nchip %s, %u parts\n\n", board->name, board->summary ? board->summary : "",
            board->sheet->name, board->n_parts);
    fprintf(out, "%-16s %-12s %-6s %s\n", "part", "kind", "pin", "what");
    for (unsigned i = 0; i < board->n_parts; i++)
        show_part(&board->parts[i], out);
}
