/* SPDX-License-Identifier: MIT */
/* Findings that the user knows and wants no more of, by number and place. */
#include "silence.h"

#include <string.h>

#include "sim/core/sim.h"

void wad_sim_silence(wad_sim *sim, const wad_silence *rule)
{
    wadi_silence s = {*rule, 0};
    s.rule.file = g_strdup(rule->file);
    s.rule.function = g_strdup(rule->function);
    g_array_append_val(sim->told.silences, s);
}

void wad_sim_clear_silences(wad_sim *sim)
{
    for (guint i = 0; i < sim->told.silences->len; i++) {
        const wadi_silence *s = &g_array_index(sim->told.silences, wadi_silence, i);
        g_free((char *)s->rule.file);
        g_free((char *)s->rule.function);
    }
    g_array_set_size(sim->told.silences, 0);
}

/* "boot.c" is the file of that name in any folder. */
bool wad_place_is_in(const char *path, const char *wanted)
{
    size_t n = strlen(path), w = strlen(wanted);
    return n >= w && !strcmp(path + n - w, wanted) && (n == w || path[n - w - 1] == '/');
}

static bool place_matches(const wad_silence *rule, const wad_place *p)
{
    return (!rule->file || (p->file && wad_place_is_in(p->file, rule->file))) &&
           (!rule->line || p->line == rule->line) &&
           (!rule->function || (p->function && !strcmp(p->function, rule->function)));
}

bool wadi_silenced(wad_sim *sim, const wad_finding *f)
{
    bool silenced = false;
    for (guint i = 0; i < sim->told.silences->len; i++) {
        wadi_silence *s = &g_array_index(sim->told.silences, wadi_silence, i);
        bool anywhere = !s->rule.file && !s->rule.function;
        if (s->rule.kind != f->kind ||
            !(anywhere || (f->n_places && place_matches(&s->rule, &f->places[0]))))
            continue;
        s->hits++;
        silenced = true;
    }
    return silenced;
}

unsigned wad_sim_silenced(const wad_sim *sim)
{
    return sim->told.n_silenced;
}

unsigned wad_sim_silence_hits(const wad_sim *sim, unsigned i)
{
    return i < sim->told.silences->len ? g_array_index(sim->told.silences, wadi_silence, i).hits
                                       : 0;
}
