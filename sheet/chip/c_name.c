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

/* A group lies by itself if no other register lies within it: then it is an array of structs. */
bool wadi_is_struct(const wad_layout *layout, const wad_group *g)
{
    uint64_t from = g->offset, to = from + (uint64_t)(g->count ? g->count : 1) * g->step;
    for (unsigned i = 0; g->count && i < layout->n_regs; i++) {
        const wad_register *r = layout->regs[i];
        uint64_t end =
            r->offset + (r->count ? (r->count - 1) * r->step : 0) + wad_register_bytes(r);
        if (r->group != g && r->offset < to && from < end)
            return false;
    }
    return g->count != 0;
}

char *wadi_emit_register(const wad_register *reg, uint32_t element)
{
    bool own = reg->array || (element != UINT32_MAX && reg->elements && reg->elements[element]);
    return own ? g_strdup_printf("%s%u", reg->name, element) : g_strdup(reg->name);
}

char *wadi_emit_place(const wad_sheet *sheet, const wad_fieldref *ref)
{
    const wad_register *r = ref->reg;
    char *chip = wadi_emit_upper(sheet->name), *block = wadi_emit_name(ref->block->name);
    GString *text = g_string_new(NULL);
    bool in_struct = r->group && wadi_is_struct(ref->block->layout, r->group);
    g_string_printf(text, "%s_%s->", chip, block);
    if (in_struct)
        g_string_append_printf(text, "%s[%u].%s", r->group->name,
                               r->is_array_member ? r->group_index : ref->reg_index, r->member);
    else
        g_string_append(text, r->name);
    /* of an array with gaps the header has a member for each */
    bool apart = r->step != wad_register_bytes(r);
    if (r->count && (!in_struct || r->is_array_member))
        g_string_append_printf(text, apart && !in_struct ? "%u" : "[%u]", ref->reg_index);
    g_free(chip);
    g_free(block);
    return g_string_free(text, FALSE);
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
    const wad_irq_flag *flag = flags && flags->n == 1 ? flags->flags : NULL;
    bool all = flag && !flag->first && flag->last + 1 == wad_role_count(flag->role);
    if (!flag || (flag->first != flag->last && !all))
        return g_strdup_printf("_%u", i);
    if (all)
        return g_strdup_printf("_%s", flag->role->name);
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
