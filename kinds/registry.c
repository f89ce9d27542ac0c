/* SPDX-License-Identifier: MIT */
#include "registry.h"

#include <glib.h>
#include <string.h>

const wad_model_class *wadi_kind_model(const char *kind)
{
    static const wad_model_class *const classes[] = {
#define WAD_KIND(kind, list) &wadi_model_##kind,
#include "wadium/kinds/all.h"
#undef WAD_KIND
    };
    for (unsigned i = 0; kind && i < G_N_ELEMENTS(classes); i++)
        if (!strcmp(classes[i]->kind, kind))
            return classes[i];
    return NULL;
}

void wadi_kinds_attach(wad_sim *sim)
{
    wadi_attach(sim, &wadi_check_spi);
}
