/* SPDX-License-Identifier: MIT */
/* Fields that select another block's flag: what their values stand for. */
#include <glib.h>
#include <string.h>

#include "wadium/host/sheet.h"

char *wad_trigger_name(const wad_trigger *t)
{
    return t->role->indexed ? g_strdup_printf("%s.%s[%u]", t->from->name, t->role->name, t->index)
                            : g_strdup_printf("%s.%s", t->from->name, t->role->name);
}

static bool plays(const wad_instance *block, const wad_bitfield *field, const char *role)
{
    const wad_role *r = wad_layout_role(block->layout, role);
    for (unsigned i = 0; r && i < r->n_places; i++)
        for (unsigned k = 0; k < r->places[i].n_parts; k++)
            if (r->places[i].parts[k].ref.field == field)
                return true;
    return false;
}

static const wad_trigger *list_of(const wad_instance *block, const wad_bitfield *field, unsigned *n)
{
    bool requests = plays(block, field, "request");
    *n = requests ? block->n_requests : plays(block, field, "trigger") ? block->n_triggers : 0;
    return requests ? block->requests : block->triggers;
}

const wad_trigger *wad_selected(const wad_instance *block, const wad_bitfield *field,
                                uint64_t value)
{
    unsigned n;
    const wad_trigger *list = list_of(block, field, &n);
    for (unsigned i = 0; i < n; i++)
        if (list[i].code == value)
            return &list[i];
    return NULL;
}

const wad_trigger *wad_selected_by_name(const wad_instance *block, const wad_bitfield *field,
                                        const char *name)
{
    unsigned n;
    const wad_trigger *list = list_of(block, field, &n), *found = NULL;
    for (unsigned i = 0; i < n && !found; i++) {
        char *one = wad_trigger_name(&list[i]);
        found = !strcmp(one, name) ? &list[i] : NULL;
        g_free(one);
    }
    return found;
}

const wad_role *wad_request_enable(const wad_trigger *request)
{
    static const struct {
        const char *flag, *enable;
    } pairs[] = {
        {"rx_ready", "rx_dma"}, {"tx_ready", "tx_dma"}, {"done", "dma_on"}, {"empty", "dma_on"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(pairs); i++)
        if (!strcmp(request->role->name, pairs[i].flag))
            return wad_layout_role(request->from->layout, pairs[i].enable);
    return NULL;
}
