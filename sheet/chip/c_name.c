/* SPDX-License-Identifier: MIT */
#include "c_name.h"

#include <glib.h>

/* "TIM.S[3]" is TIM_S3 in C. */
static char *plain(const char *name)
{
    GString *text = g_string_new(NULL);
    for (; *name; name++)
        if (*name == '.')
            g_string_append_c(text, '_');
        else if (*name != '[' && *name != ']')
            g_string_append_c(text, *name);
    return g_string_free(text, FALSE);
}

static char *changed(const char *name, char *(*change)(const gchar *, gssize))
{
    char *one = plain(name), *other = change(one, -1);
    g_free(one);
    return other;
}

char *wadi_emit_upper(const char *name)
{
    return changed(name, g_ascii_strup);
}

char *wadi_emit_lower(const char *name)
{
    return changed(name, g_ascii_strdown);
}

char *wadi_emit_name(const char *name)
{
    return plain(name);
}

/* Behind the unit's name: of several lines the flag, if the line has one, else its number. */
static char *which_line(const wad_instance *owner, unsigned line)
{
    unsigned i = 0;
    while (owner->irqs[i] != (int)line)
        i++;
    const wad_irq_flags *flags = owner->irq_flags ? &owner->irq_flags[i] : NULL;
    if (owner->n_irqs == 1)
        return g_strdup("");
    if (!flags || flags->n != 1 || flags->flags[0].first != flags->flags[0].last)
        return g_strdup_printf("_%u", i);
    const wad_irq_flag *flag = flags->flags;
    return flag->role->indexed ? g_strdup_printf("_%s%u", flag->role->name, flag->first)
                               : g_strdup_printf("_%s", flag->role->name);
}

char *wadi_emit_handler(const wad_sheet *sheet, unsigned line)
{
    const wad_instance *owner = wad_sheet_irq_owner(sheet, line);
    const wad_line_def *def = wad_sheet_line(sheet, line);
    if ((int)line == sheet->cpu.bus_fault)
        return g_strdup("handle_bus_fault");
    if (def && def->name)
        return g_strdup_printf("handle_%s", def->name);
    if (!owner)
        return g_strdup_printf("handle_line_%u", line);
    char *name = plain(owner->name), *which = which_line(owner, line);
    char *handler = g_strconcat("handle_", name, which, NULL);
    g_free(name);
    g_free(which);
    return handler;
}
