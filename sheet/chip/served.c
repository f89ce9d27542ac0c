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

/* The simulator does without; a driver's table would name bit 0 of register 0. */
static const char *lacks(const wad_layout *l)
{
    static const struct {
        const char *kind, *role;
    } needed[] = {{"counter", "enable"}, {"counter", "wrap"}, {"encoder", "enable"},
                  {"frames", "enable"},  {"spi", "enable"},   {"tick", "enable"},
                  {"tick", "wrap_irq"},  {"uart", "enable"},  {"counter", "wrap_irq"},
                  {"watchdog", "enable"}};
    for (unsigned i = 0; i < sizeof needed / sizeof needed[0]; i++)
        if (wad_acts_as(l, needed[i].kind) && !wad_layout_role(l, needed[i].role))
            return needed[i].role;
    return NULL;
}

/* Drivers that open what keeps their registers. */
static bool opens_locks(const wad_layout *l)
{
    return wad_acts_as(l, "counter") || wad_acts_as(l, "gpio") || wad_acts_as(l, "watchdog");
}

char *wadi_unserved(const wad_instance *block)
{
    const wad_layout *l = block->layout;
    if (!l->kind)
        return NULL;
    if (l->kind->own)
        return g_strdup_printf("kind '%s' is the sheet's own", l->kind->name);
    if (block->reset.n)
        return g_strdup("reset is a condition of the block");
    if (block->home)
        return g_strdup_printf("%s is a unit beside the block's own", block->name);
    for (unsigned i = 0; i < l->n_locks; i++)
        if (l->locks[i]->unbroken || l->locks[i]->expires)
            return g_strdup_printf("lock %s waits for no interrupt", l->locks[i]->name);
    for (unsigned i = 0; i < l->n_roles; i++) {
        if (l->roles[i].field && l->roles[i].reg->lock && !opens_locks(l))
            return g_strdup_printf("%s is behind a lock", l->roles[i].name);
        if (l->roles[i].when)
            return g_strdup_printf("%s is chosen by a condition", l->roles[i].name);
        for (unsigned k = 0; k < l->roles[i].n_places; k++)
            if (l->roles[i].places[k].form == WAD_PLACE_EVENT)
                return g_strdup_printf("%s is an event", l->roles[i].name);
        if (l->roles[i].as == WAD_AS_EVENT && wad_kind_is_level(l->kind, l->roles[i].name))
            return g_strdup_printf("%s is an event", l->roles[i].name);
        if (l->roles[i].law)
            return g_strdup_printf("%s is a law", l->roles[i].name);
        for (unsigned k = 0; k < l->roles[i].n_meanings; k++)
            if (l->roles[i].meanings[k].is || !strcmp(l->roles[i].meanings[k].word, "stopped") ||
                !strcmp(l->roles[i].meanings[k].word, "port"))
                return g_strdup_printf("%s is coded", l->roles[i].name);
    }
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
    if (lacks(l))
        return g_strdup_printf("%s is not bound", lacks(l));
    return NULL;
}
