/* SPDX-License-Identifier: MIT */
#include "units.h"

#include <glib.h>

#include "behaviour.h"
#include "lang/rational.h"
#include "sheet/chip/expression.h"

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

/* `{ 0 stopped, 1 is 8 }` */
static void show_meanings(const wad_role *role, FILE *out)
{
    for (unsigned i = 0; i < role->n_meanings; i++) {
        const wad_role_meaning *m = &role->meanings[i];
        fprintf(out, "%s%llu", i ? ", " : "  { ", (unsigned long long)m->first);
        if (m->last != m->first)
            fprintf(out, " .. %llu", (unsigned long long)m->last);
        if (m->word)
            fprintf(out, " %s", m->word);
        if (m->is) {
            char *text = wadi_expr_text(m->is);
            fprintf(out, " is %s", text);
            g_free(text);
        }
    }
    if (role->n_meanings)
        fputs(" }", out);
}

/* `plus 1`, `up 0` */
static void show_codes(const wad_role *role, FILE *out)
{
    for (unsigned i = 0; i < role->n_codes; i++)
        fprintf(out, "  %s %llu", role->codes[i].name, (unsigned long long)role->codes[i].value);
    if (role->as)
        fprintf(out, "  as %s", role->as == WAD_AS_EVENT ? "event" : "level");
}

void wadi_show_signals(const wad_role *role, FILE *out)
{
    if (!role->signals) {
        fprintf(out, role->indexed ? "pins %s0 on" : "pins %s", role->signal);
        return;
    }
    fprintf(out, "pins %s", role->signals[0]);
    for (unsigned i = 1; i < role->n_signals; i++)
        fprintf(out, ", %s", role->signals[i]);
}

static void show_quantity(const wad_role *role, FILE *out)
{
    static const char *const units[] = {
        [WAD_UNIT_HZ] = " Hz",   [WAD_UNIT_S] = " s", [WAD_UNIT_BYTE] = " B", [WAD_UNIT_V] = " V",
        [WAD_UNIT_OHM] = " ohm", [WAD_UNIT_F] = " F", [WAD_UNIT_A] = " A"};
    const char *unit = role->unit < G_N_ELEMENTS(units) ? units[role->unit] : NULL;
    fprintf(out, "%-16s %.6g%s\n", role->name, wadi_rat_double(role->quantity), unit ? unit : "");
}

void wadi_show_element(const wad_instance *unit, const wad_role *role, unsigned k, FILE *out)
{
    char *when = role->when ? wad_cond_text(&role->when[k]) : NULL;
    if (role->places[k].form == WAD_PLACE_EVENT)
        wadi_show_events(role->places[k].on, role->places[k].n_on, out);
    show_place(unit, &role->places[k], out);
    if (!k) {
        show_meanings(role, out);
        show_codes(role, out);
    }
    fprintf(out, "%s%s", when ? "  when " : "", when ? when : "");
    g_free(when);
}

static void show_element(const wad_instance *unit, const wad_role *role, unsigned k, FILE *out)
{
    char *name = role->indexed ? g_strdup_printf("%s[%u]", role->name, k) : NULL;
    fprintf(out, "%-16s ", name ? name : role->name);
    wadi_show_element(unit, role, k, out);
    fputc('\n', out);
    g_free(name);
}

static void show_law(const wad_role *role, FILE *out)
{
    char *text = wadi_expr_text(role->law), *when = role->when ? wad_cond_text(role->when) : NULL;
    fprintf(out, "%-16s law %s%s%s\n", role->name, text, when ? "  when " : "", when ? when : "");
    g_free(text);
    g_free(when);
}

void wadi_show_roles(const wad_instance *unit, FILE *out)
{
    const wad_layout *l = unit->layout;
    fprintf(out, "\n%-16s %s\n", "role", "lies in");
    for (unsigned i = 0; i < l->n_roles; i++)
        for (const wad_role *role = &l->roles[i]; role; role = role->otherwise) {
            for (unsigned k = 0; k < role->n_places; k++)
                show_element(unit, role, k, out);
            if (role->law)
                show_law(role, out);
            if (role->sort == WAD_ROLE_QUANTITY)
                show_quantity(role, out);
            if (role->sort == WAD_ROLE_SIGNAL) {
                fprintf(out, "%-16s ", role->name);
                wadi_show_signals(role, out);
                fputc('\n', out);
            }
        }
}
