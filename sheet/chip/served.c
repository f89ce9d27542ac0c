/* SPDX-License-Identifier: MIT */
#include "served.h"

#include <glib.h>

/* What is unlike the one field, value or register that tables can say. */
/* Access kinds that no driver knows of. */
static bool is_strange(const wad_bitfield *f)
{
    static const wad_access strange[] = {WAD_ACCESS_W1T, WAD_ACCESS_W0S, WAD_ACCESS_W0T,
                                         WAD_ACCESS_RS,  WAD_ACCESS_WC,  WAD_ACCESS_WS};
    for (unsigned i = 0; i < G_N_ELEMENTS(strange); i++)
        if (f->access == strange[i])
            return true;
    return false;
}

static const char *form_of(const wad_instance *block, const wad_role *role)
{
    for (unsigned i = 0; i < role->n_places; i++) {
        const wad_role_place *place = &role->places[i];
        if (place->form == WAD_PLACE_ALWAYS)
            return "always the same, without a bit";
        for (unsigned k = 0; k < place->n_parts; k++) {
            if (place->parts[k].low)
                return "inverted";
            if (wad_role_part_ref(block, &place->parts[k]).block != wad_instance_home(block))
                return "in another block";
        }
        if (place->form == WAD_PLACE_ALL)
            return "several bits that must all be set";
        if (place->n_parts > 1)
            return "joined from several fields";
    }
    return "no whole array from its first element on";
}

char *wadi_unserved(const wad_instance *block)
{
    const wad_layout *l = block->layout;
    if (!l->kind)
        return NULL;
    if (block->home)
        return g_strdup_printf("%s is a unit beside the block's own", block->name);
    for (unsigned i = 0; i < l->n_roles; i++)
        if (l->roles[i].sort == WAD_ROLE_PLACE)
            return g_strdup_printf("%s is %s", l->roles[i].name, form_of(block, &l->roles[i]));
    for (unsigned i = 0; i < l->n_roles; i++) {
        const wad_bitfield *f = l->roles[i].field;
        if (f && f->n_clearings && !wad_bitfield_cleared_by_read(f))
            return g_strdup_printf("%s is cleared by an access", l->roles[i].name);
        if (f && is_strange(f))
            return g_strdup_printf("%s is %s", l->roles[i].name, wad_access_word(f->access));
    }
    if (block->irq_flags || block->n_irqs > 1)
        return g_strdup("irq is several lines");
    return NULL;
}
