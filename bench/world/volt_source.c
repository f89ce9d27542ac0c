/* SPDX-License-Identifier: MIT */
#include "volt_source.h"

#include "bench/language/said.h"
#include "wadium/host/model.h"

#include <math.h>

typedef struct source {
    wadi_analog_def def;
    wadi_analog_world *world;
    uint64_t noise;
} source;

typedef struct tap {
    wadi_analog_world *world;
    unsigned probe, channel;
    uint64_t every_ps;
    const wad_pin_def *pin;
    wad_event tick;
} tap;

struct wadi_analog_world {
    wad_sim *sim;
    wad_capture *capture;
    uint32_t seed;
    GPtrArray *sources, *taps;
    GHashTable *wired; /* source by pin */
    wadi_step_fn steps;
    void *ctx;
};

/* ---- shapes ---- */

static double on_file(const GArray *points, double t)
{
    guint low = 0, high = points->len - 1;
    double ps = t * 1e12;
    const wad_sample *p = (const wad_sample *)(void *)points->data;
    if (ps <= (double)p[0].ps)
        return p[0].value;
    if (ps >= (double)p[high].ps)
        return p[high].value;
    while (high - low > 1) {
        guint middle = (low + high) / 2;
        if ((double)p[middle].ps <= ps)
            low = middle;
        else
            high = middle;
    }
    double share = (ps - (double)p[low].ps) / (double)(p[high].ps - p[low].ps);
    return p[low].value + share * (p[high].value - p[low].value);
}

/* Noise belongs to the time: whoever else looks at the pin changes nothing of it. */
static double gauss(uint64_t seed, uint64_t ps)
{
    double u[2];
    uint64_t state = seed ^ ps;
    for (unsigned i = 0; i < 2; i++) {
        uint64_t z = state += 0x9E3779B97F4A7C15u; /* SplitMix64 */
        z = (z ^ z >> 30) * 0xBF58476D1CE4E5B9u;
        z = (z ^ z >> 27) * 0x94D049BB133111EBu;
        u[i] = ((double)((z ^ z >> 31) >> 11) + 0.5) / 9007199254740992.0;
    }
    return sqrt(-2 * log(u[0])) * cos(2 * M_PI * u[1]);
}

static double volts(const source *s, uint64_t ps)
{
    const wadi_analog_def *d = &s->def;
    double t = (double)(ps > d->at_ps ? ps - d->at_ps : 0) / 1e12, v = d->level, part;
    switch (d->shape) {
    case WADI_SINE:
        v += d->size * sin(2 * M_PI * d->hz * t);
        break;
    case WADI_SQUARE:
        v += modf(d->hz * t, &part) < 0.5 ? d->size : -d->size;
        break;
    case WADI_RAMP:
        t /= d->seconds;
        v += d->size * (d->repeats ? modf(t, &part) : fmin(t, 1));
        break;
    case WADI_FILE:
        v = on_file(d->points, t);
        break;
    default:
        if (d->supply)
            v = wad_sim_supply(s->world->sim);
    }
    return v;
}

static double noisy(void *ctx, uint64_t ps)
{
    const source *s = ctx;
    double v = volts(s, ps);
    return s->def.noise > 0 ? v + s->def.noise * gauss(s->noise, ps) : v;
}

static void wire(wad_sim *sim, void *ctx)
{
    source *s = ctx;
    g_hash_table_insert(s->world->wired, (gpointer)s->def.pin, s);
    wad_analog_source a = {.volts = s->def.shape == WADI_PIN ? NULL : noisy,
                           .ctx = s,
                           .from = s->def.from,
                           .ohms = s->def.ohms};
    wad_sim_analog(sim, s->def.pin, s->def.shape == WADI_OPEN ? NULL : &a);
}

/* ---- captures ---- */

static void on_step(void *ctx, uint64_t ps, double v)
{
    const tap *t = ctx;
    wad_capture_sample(t->world->capture, t->channel, ps, v);
    if (t->world->steps)
        t->world->steps(t->world->ctx, t->probe, ps, v);
}

static void on_current(void *ctx, uint64_t ps, double amperes)
{
    const tap *t = ctx;
    wad_capture_sample(t->world->capture, t->channel, ps, amperes);
}

static void on_tick(wad_event *e)
{
    tap *t = (tap *)((char *)e - offsetof(tap, tick));
    double v = wad_sim_volts(t->world->sim, t->pin, NULL);
    wad_capture_sample(t->world->capture, t->channel, e->ps, isnan(v) ? 0 : v);
    wad_sim_schedule(t->world->sim, e, e->ps + t->every_ps);
}

static void begin_ticks(wad_sim *sim, void *ctx)
{
    tap *t = ctx;
    t->tick.fn = on_tick;
    wad_sim_schedule(sim, &t->tick, wad_sim_now(sim));
}

static void add_tap(wadi_analog_world *w, unsigned i, const wadi_analog_probe *p)
{
    tap *t = g_new0(tap, 1);
    *t = (tap){w,           i,      wad_capture_analog(w->capture, p->name, p->pin ? "V" : "A"),
               p->every_ps, p->pin, {0}};
    g_ptr_array_add(w->taps, t);
    if (!p->pin)
        wad_sim_watch_current(w->sim, on_current, t);
    else if (p->every_ps)
        wad_sim_at(w->sim, 0, begin_ticks, t);
    else
        wad_sim_watch_analog(w->sim, p->pin, on_step, t);
}

static source *add_source(wadi_analog_world *w, const wadi_analog_def *def)
{
    source *s = g_new0(source, 1);
    s->def = *def;
    s->world = w;
    s->noise = w->seed * 0x9E3779B97F4A7C15u + w->sources->len;
    g_ptr_array_add(w->sources, s);
    return s;
}

void wadi_analog_world_wire(wadi_analog_world *w, const wadi_analog_def *def)
{
    wire(w->sim, add_source(w, def));
}

const wadi_analog_def *wadi_analog_world_at(const wadi_analog_world *w, const wad_pin_def *pin)
{
    const source *s = g_hash_table_lookup(w->wired, pin);
    return s ? &s->def : NULL;
}

double wadi_analog_world_volts(const wadi_analog_world *w, const wad_pin_def *pin, uint64_t ps)
{
    const source *s = g_hash_table_lookup(w->wired, pin);
    if (!s || s->def.shape == WADI_OPEN)
        return 0;
    if (s->def.shape == WADI_PIN) {
        double v = wad_sim_volts(w->sim, s->def.from, NULL);
        return isnan(v) ? 0 : v;
    }
    return volts(s, ps);
}

wadi_analog_world *wadi_analog_world_new(wad_sim *sim, const wadi_analog_said *said, uint32_t seed,
                                         wad_capture *capture, wadi_step_fn steps, void *ctx)
{
    wadi_analog_world *w = g_new0(wadi_analog_world, 1);
    *w = (wadi_analog_world){.sim = sim,
                             .capture = capture,
                             .seed = seed,
                             .sources = g_ptr_array_new_with_free_func(g_free),
                             .taps = g_ptr_array_new_with_free_func(g_free),
                             .wired = g_hash_table_new(NULL, NULL),
                             .steps = steps,
                             .ctx = ctx};
    wad_sim_set_seed(sim, seed);
    if (said->supply > 0)
        wad_sim_set_supply(sim, said->supply);
    for (guint i = 0; i < said->trims->len; i++) {
        const wadi_trim_def *t = &g_array_index(said->trims, wadi_trim_def, i);
        wad_sim_trim_converter(sim, t->block, &t->trim);
    }
    for (guint i = 0; i < said->sources->len; i++) {
        source *s = add_source(w, &g_array_index(said->sources, wadi_analog_def, i));
        if (s->def.at_ps)
            wad_sim_at(sim, s->def.at_ps, wire, s);
        else
            wire(sim, s);
    }
    for (guint i = 0; i < said->probes->len; i++)
        add_tap(w, i, &g_array_index(said->probes, wadi_analog_probe, i));
    return w;
}

void wadi_analog_world_free(wadi_analog_world *w)
{
    if (!w)
        return;
    g_ptr_array_free(w->sources, TRUE);
    g_ptr_array_free(w->taps, TRUE);
    g_hash_table_destroy(w->wired);
    g_free(w);
}
