/* SPDX-License-Identifier: MIT */
/* `wadium show CHIP pins`: which function comes out where. */
#include <glib.h>
#include <string.h>

#include "wadium/host/sheet.h"

#define COLUMNS 79

/* Items after a head of so many columns, wrapped under each other. */
static void put_wrapped(FILE *out, int head, GPtrArray *items)
{
    int column = head;
    for (guint i = 0; i < items->len; i++) {
        const char *item = items->pdata[i];
        int wide = (int)strlen(item) + (i + 1 < items->len ? 2 : 0);
        if (i && column + wide > COLUMNS) {
            fprintf(out, "\n%*s", head, "");
            column = head;
        }
        fprintf(out, "%s%s", item, i + 1 < items->len ? ", " : "");
        column += wide;
    }
    fputc('\n', out);
    g_ptr_array_free(items, TRUE);
}

static char *how(const wad_instance *b, const wad_pin_option *opt)
{
    if (!b->route.reg)
        return opt->fn ? g_strdup_printf("fn %u", opt->fn) : g_strdup("by itself");
    return g_strdup_printf("group %u", opt->fn);
}

static void show_pin(const wad_sheet *s, const wad_pin_def *pin, FILE *out)
{
    GPtrArray *items = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_instance *b = s->blocks[i];
        for (unsigned k = 0; k < b->n_signals; k++)
            for (unsigned o = 0; o < b->signals[k].n_options; o++) {
                const wad_pin_option *opt = &b->signals[k].options[o];
                char *by = opt->pin == pin ? how(b, opt) : NULL;
                if (by)
                    g_ptr_array_add(items,
                                    g_strdup_printf("%s.%s %s", b->name, b->signals[k].name, by));
                g_free(by);
            }
    }
    if (!items->len)
        g_ptr_array_add(items, g_strdup("port only"));
    fprintf(out, "%-6s %-6s ", pin->name, pin->port->name);
    put_wrapped(out, 14, items);
}

static void show_signal(const wad_instance *b, const wad_signal *signal, FILE *out)
{
    GPtrArray *items = g_ptr_array_new_with_free_func(g_free);
    for (unsigned o = 0; o < signal->n_options; o++) {
        char *by = how(b, &signal->options[o]);
        g_ptr_array_add(items, g_strdup_printf("%s %s", signal->options[o].pin->name, by));
        g_free(by);
    }
    fprintf(out, "%-12s %-6s ", signal->name, wad_signal_dir_word(signal->dir));
    put_wrapped(out, 20, items);
}

bool wad_show_pins(const wad_sheet *s, const char *what, FILE *out)
{
    const wad_instance *block = what ? wad_sheet_block(s, what) : NULL;
    const wad_pin_def *one = what ? wad_sheet_pin(s, what) : NULL;
    if (what && !block && !one)
        return false;
    if (block && !block->n_carries) {
        fprintf(out, "%-12s %-6s %s\n", "signal", "way", "pins");
        for (unsigned i = 0; i < block->n_signals; i++)
            show_signal(block, &block->signals[i], out);
        if (block->route.reg) {
            char *route = wad_fieldref_name(&block->route);
            fprintf(out, "all of them move together, by %s\n", route);
            g_free(route);
        }
        return true;
    }
    fprintf(out, "%-6s %-6s %s\n", "pin", "port", "functions");
    for (unsigned i = 0; i < s->n_pins; i++)
        if ((!one || one == &s->pins[i]) && (!block || s->pins[i].port == block))
            show_pin(s, &s->pins[i], out);
    return true;
}
