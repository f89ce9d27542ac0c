/* SPDX-License-Identifier: MIT */
/* Volts at pins: who drives them, through which resistance. */
#include "volt.h"

#include <math.h>
#include <string.h>

#include "lang/rational.h"
#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/pin.h"

#define DEEPEST 8 /* pins wired to pins */

typedef struct tap {
    const wadi_net *net;
    wad_volts_fn fn;
    void *ctx;
} tap;

struct wadi_analog {
    GArray *taps;               /* tap */
    wad_converter_trim *trims;  /* by block */
    wad_analog_source *sources; /* by pin; neither volts nor from: none */
    double supply;              /* 0: the sheet's */
    double celsius;
    uint32_t seed;
};

static struct wadi_analog *analog_of(wad_sim *sim)
{
    if (!sim->analog) {
        sim->analog = g_new0(struct wadi_analog, 1);
        sim->analog->taps = g_array_new(FALSE, FALSE, sizeof(tap));
        sim->analog->trims = g_new0(wad_converter_trim, sim->sheet->n_blocks + 1);
        sim->analog->sources = g_new0(wad_analog_source, sim->sheet->n_pins + 1);
        sim->analog->celsius = 25;
        sim->analog->seed = 1;
    }
    return sim->analog;
}

void wadi_analog_free(wad_sim *sim)
{
    if (!sim->analog)
        return;
    g_array_free(sim->analog->taps, TRUE);
    g_free(sim->analog->trims);
    g_free(sim->analog->sources);
    g_free(sim->analog);
}

/* ---- what stands at a pin ---- */

typedef struct thevenin {
    double volts, ohms;
    bool any;
} thevenin;

/* Two sources on one wire: conductances add up. */
static void add(thevenin *sum, double volts, double ohms)
{
    ohms = ohms < 1e-3 ? 1e-3 : ohms;
    if (!sum->any) {
        *sum = (thevenin){volts, ohms, true};
        return;
    }
    double g = 1 / sum->ohms + 1 / ohms;
    sum->volts = (sum->volts / sum->ohms + volts / ohms) / g;
    sum->ohms = 1 / g;
}

static void add_chip(wad_sim *sim, const wadi_net *net, thevenin *sum)
{
    double supply = wad_sim_supply(sim), volts, ohms;
    const wadi_signal *signal = net->group ? net->group : net->driver;
    if (signal && signal->def->dir == WAD_SIGNAL_ANALOG) {
        const wad_model *m = signal->model;
        if (m && m->cls->analog &&
            m->cls->analog(signal->model, signal->role, signal->index, &volts, &ohms))
            add(sum, volts, ohms);
    } else if (signal && (signal->def->dir == WAD_SIGNAL_OUT || signal->outward)) {
        add(sum, signal->level ? supply : 0, WADI_DRIVER_OHMS);
    } else if (!signal && !net->function && net->dir) {
        add(sum, net->out ? supply : 0, WADI_DRIVER_OHMS);
    }
    if (net->pull != WAD_FLOATING)
        add(sum, net->pull == WAD_HIGH ? supply : 0, WADI_PULL_OHMS);
}

static void add_all(wad_sim *sim, const wadi_net *net, thevenin *sum, unsigned depth)
{
    add_chip(sim, net, sum);
    if (net->outside != WAD_FLOATING)
        add(sum, net->outside == WAD_HIGH ? wad_sim_supply(sim) : 0, WADI_DRIVER_OHMS);
    const wad_analog_source *s = sim->analog ? &sim->analog->sources[net - sim->nets] : NULL;
    if (s && s->volts)
        add(sum, s->volts(s->ctx, sim->now), s->ohms);
    if (!s || !s->from || depth >= DEEPEST)
        return;
    thevenin other = {0};
    add_all(sim, &sim->nets[s->from - sim->sheet->pins], &other, depth + 1);
    if (other.any)
        add(sum, other.volts, other.ohms + s->ohms);
}

bool wadi_analog_at(wad_sim *sim, const wadi_net *net, double *volts, double *ohms)
{
    thevenin sum = {0};
    add_all(sim, net, &sum, 0);
    *volts = sum.volts;
    *ohms = sum.ohms;
    return sum.any;
}

const wadi_net *wadi_analog_net(const wad_model *m, unsigned role, unsigned i)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || !b->signals || !b->signals[i]->nets->len)
        return NULL;
    return b->signals[i]->nets->pdata[0];
}

bool wadi_digital_on(const wadi_net *net)
{
    int role = net->port ? wad_kind_role_index(net->port->kind, "digital_off") : -1;
    return role >= 0 && wad_model_has(net->port, (unsigned)role) &&
           !wad_model_get(net->port, (unsigned)role, net->def->number);
}

void wadi_analog_step(wad_model *m, unsigned role, double volts)
{
    wad_sim *sim = m->sim;
    const wadi_binding *b = &m->roles[role];
    for (guint i = 0; sim->analog && i < sim->analog->taps->len; i++) {
        const tap *t = &g_array_index(sim->analog->taps, tap, i);
        if (t->net->driver == b->signals[0] || t->net->group == b->signals[0])
            t->fn(t->ctx, sim->now, volts);
    }
}

void wadi_analog_announce(wad_sim *sim)
{
    for (guint i = 0; sim->analog && i < sim->analog->taps->len; i++) {
        const tap *t = &g_array_index(sim->analog->taps, tap, i);
        double volts, ohms;
        t->fn(t->ctx, sim->now, wadi_analog_at(sim, t->net, &volts, &ohms) ? volts : 0);
    }
}

/* ---- noise ---- */

static double uniform(uint64_t *state)
{
    *state ^= *state << 13;
    *state ^= *state >> 7;
    *state ^= *state << 17;
    return ((double)(*state >> 11) + 0.5) / 9007199254740992.0;
}

double wadi_gauss(uint64_t *state)
{
    double r = sqrt(-2 * log(uniform(state)));
    return r * cos(6.283185307179586 * uniform(state));
}

/* ---- what models ask ---- */

double wadi_quantity(const wad_model *m, unsigned role, double otherwise)
{
    const wad_role *r = m->roles[role].role;
    return r && r->sort == WAD_ROLE_QUANTITY ? wadi_rat_double(r->quantity) : otherwise;
}

wad_converter_trim wadi_trim_of(const wad_model *m)
{
    return m->sim->analog ? m->sim->analog->trims[m->block->inst->index] : (wad_converter_trim){0};
}

double wadi_celsius(const wad_sim *sim)
{
    return sim->analog ? sim->analog->celsius : 25;
}

uint64_t wadi_seed(const wad_sim *sim, const wadi_block *block)
{
    uint64_t seed = sim->analog ? sim->analog->seed : 1;
    return (seed * 0x9E3779B97F4A7C15u) ^ (block->inst->base * 0xD1B54A32D192ED03u) ^ 0x5Bu;
}

/* ---- for the world outside ---- */

void wad_sim_analog(wad_sim *sim, const wad_pin_def *pin, const wad_analog_source *source)
{
    analog_of(sim)->sources[pin - sim->sheet->pins] = source ? *source : (wad_analog_source){0};
}

double wad_sim_volts(wad_sim *sim, const wad_pin_def *pin, double *ohms)
{
    double volts, behind;
    bool any = wadi_analog_at(sim, &sim->nets[pin - sim->sheet->pins], &volts, &behind);
    if (ohms)
        *ohms = any ? behind : INFINITY;
    return any ? volts : NAN;
}

void wad_sim_watch_analog(wad_sim *sim, const wad_pin_def *pin, wad_volts_fn fn, void *ctx)
{
    tap t = {&sim->nets[pin - sim->sheet->pins], fn, ctx};
    g_array_append_val(analog_of(sim)->taps, t);
}

void wad_sim_set_supply(wad_sim *sim, double volts)
{
    analog_of(sim)->supply = volts;
}

double wad_sim_supply(const wad_sim *sim)
{
    if (sim->analog && sim->analog->supply > 0)
        return sim->analog->supply;
    return sim->sheet->supply.num ? wadi_rat_double(sim->sheet->supply) : 3.3;
}

bool wad_sim_trim_converter(wad_sim *sim, const wad_instance *block, const wad_converter_trim *trim)
{
    if (!wad_acts_as(block->layout, "adc"))
        return false;
    analog_of(sim)->trims[block->index] = *trim;
    return true;
}

void wad_sim_set_temperature(wad_sim *sim, double celsius)
{
    analog_of(sim)->celsius = celsius;
}

void wad_sim_set_seed(wad_sim *sim, uint32_t seed)
{
    analog_of(sim)->seed = seed;
}
