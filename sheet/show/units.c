/* SPDX-License-Identifier: MIT */
#include "units.h"

#include <glib.h>

void wadi_show_units(const wad_sheet *s, const wad_instance *block, FILE *out)
{
    unsigned n = 0;
    for (unsigned i = 0; i < s->n_blocks; i++)
        if (s->blocks[i]->home == block)
            fprintf(out, "%s%s", n++ ? ", " : "units ", s->blocks[i]->name);
    if (n)
        fputc('\n', out);
}

/* "TIM.CTRL.RUN0", "not SYS.CTL.HOLD", "HIGH.V : LOW.V", "CTL.ARM and CTL.GO", "always 0" */
static void show_place(const wad_instance *unit, const wad_role_place *place, FILE *out)
{
    if (place->form == WAD_PLACE_ALWAYS)
        fprintf(out, "always %llu", (unsigned long long)place->always);
    for (unsigned k = 0; k < place->n_parts; k++) {
        wad_fieldref ref = wad_role_part_ref(unit, &place->parts[k]);
        char *name = wad_fieldref_name(&ref);
        fprintf(out, "%s%s%s",
                !k                             ? ""
                : place->form == WAD_PLACE_ALL ? " and "
                                               : " : ",
                place->parts[k].low ? "not " : "", name);
        g_free(name);
    }
}

/* `plus 1`, `up 0` */
static void show_codes(const wad_role *role, FILE *out)
{
    for (unsigned i = 0; i < role->n_codes; i++)
        fprintf(out, "  %s %llu", role->codes[i].name, (unsigned long long)role->codes[i].value);
}

void wadi_show_roles(const wad_instance *unit, FILE *out)
{
    const wad_layout *l = unit->layout;
    fprintf(out, "\n%-16s %s\n", "role", "lies in");
    for (unsigned i = 0; i < l->n_roles; i++) {
        const wad_role *role = &l->roles[i];
        for (unsigned k = 0; k < role->n_places; k++) {
            char *name = role->indexed ? g_strdup_printf("%s[%u]", role->name, k) : NULL;
            fprintf(out, "%-16s ", name ? name : role->name);
            show_place(unit, &role->places[k], out);
            if (!k)
                show_codes(role, out);
            fputc('\n', out);
            g_free(name);
        }
        if (role->sort == WAD_ROLE_SIGNAL)
            fprintf(out, "%-16s pins %s%s\n", role->name, role->signal,
                    role->indexed ? "0 on" : "");
    }
}
