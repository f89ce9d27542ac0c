/* SPDX-License-Identifier: MIT */
#include "spi_bus.h"

#include <string.h>

#include "spi_device.h"

#include "bench/language/said.h"
#include "wadium/host/model.h"
#include "wadium/host/spi.h"
#include "wire.h"

/* ---- edges to frames ---- */

static bool phase(const wadi_spi_device *d)
{
    return d->mode & 1;
}

static unsigned place(const wadi_spi_device *d, unsigned i)
{
    return d->lsb_first ? i : d->bits - 1 - i;
}

static void show(wadi_spi_device *d, unsigned i)
{
    wadi_wire_set(&d->miso, wad_sim_now(d->set->sim),
                  d->out >> place(d, i) & 1 ? WAD_HIGH : WAD_LOW);
}

static void begin_frame(wadi_spi_device *d)
{
    d->edge = 0;
    d->in = 0;
    d->out = d->def->cls->next(d, d->index);
}

/* One that does as the chip does looks how it is set, at each select. */
static void follow_chip(wadi_spi_device *d)
{
    wad_spi_port port;
    if (!d->def->as_chip || !wad_sim_spi_at(d->set->sim, d->def->clock, &port))
        return;
    d->mode = port.format.mode;
    d->bits = port.format.bits;
    d->lsb_first = port.format.lsb_first;
}

static void select_begins(wadi_spi_device *d)
{
    follow_chip(d);
    d->selected = true;
    d->selects++;
    d->index = 0;
    if (d->def->cls->selected)
        d->def->cls->selected(d);
    begin_frame(d);
    if (!phase(d))
        show(d, 0);
}

static void select_ends(wadi_spi_device *d)
{
    d->selected = false;
    wadi_wire_set(&d->miso, wad_sim_now(d->set->sim), WAD_FLOATING);
    if (d->def->cls->deselected)
        d->def->cls->deselected(d, d->index, (d->edge + !phase(d)) / 2);
}

static void on_select(void *ctx, uint64_t ps, wad_level level)
{
    wadi_spi_device *d = ctx;
    bool selected = level == (d->def->select_high ? WAD_HIGH : WAD_LOW);
    (void)ps;
    if (selected && !d->selected)
        select_begins(d);
    else if (!selected && d->selected)
        select_ends(d);
}

static void on_clock(void *ctx, uint64_t ps, wad_level level)
{
    wadi_spi_device *d = ctx;
    bool high = level == WAD_HIGH, changed = high != d->clock_level;
    (void)ps;
    d->clock_level = high;
    /* a frame begins with a change away from rest */
    if (!changed || !d->selected || (d->edge == 0 && high == d->mode >> 1))
        return;
    unsigned k = d->edge++, i = k / 2;
    if ((k & 1) == phase(d))
        d->in |= (uint32_t)d->mosi_level << place(d, i);
    else if (phase(d) || i + 1 < d->bits)
        show(d, phase(d) ? i : i + 1);
    if (d->edge < 2 * d->bits)
        return;
    d->frames++;
    uint32_t frame = d->in;
    if (d->def->cls->came)
        d->def->cls->came(d, d->index, frame);
    d->index++;
    begin_frame(d);
    if (!phase(d))
        show(d, 0);
}

static void on_mosi(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    ((wadi_spi_device *)ctx)->mosi_level = level == WAD_HIGH;
}

static void on_miso(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    wadi_drive(((wadi_spi_device *)ctx)->driver, level);
}

static void follow(void *ctx, uint64_t ps, wad_level level)
{
    wadi_wire_set(ctx, ps, level);
}

static void on_jumper(void *ctx, uint64_t ps, wad_level level)
{
    (void)ps;
    wadi_drive(((wadi_jumper *)ctx)->driver, level);
}

/* ---- the echo register: each frame out is the one that came before ---- */

static uint32_t echo_next(wadi_spi_device *d, unsigned i)
{
    (void)i;
    return *(uint32_t *)wadi_spi_state(d);
}

static void echo_came(wadi_spi_device *d, unsigned i, uint32_t frame)
{
    (void)i;
    *(uint32_t *)wadi_spi_state(d) = frame;
}

const wadi_spi_class wadi_spi_echo = {
    .kind = "echo", .state_size = sizeof(uint32_t), .next = echo_next, .came = echo_came};

const wadi_spi_class *wadi_spi_class_of(const char *kind)
{
    static const wadi_spi_class *const all[] = {&wadi_spi_echo, &wadi_spi_thermometer,
                                                &wadi_spi_flash};
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        if (!strcmp(all[i]->kind, kind))
            return all[i];
    return NULL;
}

/* ---- the script ---- */

typedef struct entry {
    wadi_bus_set *set;
    const wadi_spi_value *value;
    const wadi_spi_trouble *trouble;
    bool ends;
} entry;

static void do_trouble(wadi_bus_set *set, const wadi_spi_trouble *t, bool on)
{
    uint64_t ps = wad_sim_now(set->sim);
    if (t->jumper) {
        wadi_wire_trouble(&set->jumpers[t->number].wire, t->kind, t->level, on, ps);
        return;
    }
    wadi_spi_device *d = &set->devices[t->number];
    wadi_wire *const wires[] = {&d->miso, &d->mosi, &d->clock, &d->select};
    for (unsigned i = 0; i < 4; i++)
        if (t->wires >> i & 1)
            wadi_wire_trouble(wires[i], t->kind, t->level, on, ps);
}

static void on_script(wad_sim *sim, void *ctx)
{
    const entry *e = ctx;
    wadi_bus_set *set = e->set;
    if (e->trouble) {
        do_trouble(set, e->trouble, !e->ends);
    } else if (e->value) {
        wadi_spi_device *d = &set->devices[e->value->device];
        if (d->def->cls->set)
            d->def->cls->set(d, e->value->value);
    } else { /* the power fails: the devices lose it as well */
        for (unsigned i = 0; i < set->n; i++) {
            wadi_spi_device *d = &set->devices[i];
            d->selected = false; /* whatever it was told is gone */
            wadi_wire_set(&d->miso, wad_sim_now(sim), WAD_FLOATING);
            if (d->def->cls->power_fails)
                d->def->cls->power_fails(d);
        }
        wad_sim_power_cycle(sim);
    }
}

static void at(wadi_bus_set *set, uint64_t ps, entry e)
{
    entry *copy = g_new(entry, 1);
    *copy = e;
    copy->set = set;
    g_ptr_array_add(set->entries, copy);
    wad_sim_at(set->sim, ps, on_script, copy);
}

static void plan(wadi_bus_set *set, const wadi_buses *b)
{
    for (guint i = 0; i < b->values->len; i++) {
        const wadi_spi_value *v = &g_array_index(b->values, wadi_spi_value, i);
        at(set, v->at_ps, (entry){.value = v});
    }
    for (guint i = 0; i < b->troubles->len; i++) {
        const wadi_spi_trouble *t = &g_array_index(b->troubles, wadi_spi_trouble, i);
        at(set, t->at_ps, (entry){.trouble = t});
        if (t->for_ps)
            at(set, t->at_ps + t->for_ps, (entry){.trouble = t, .ends = true});
    }
    for (guint i = 0; i < b->failures->len; i++)
        at(set, g_array_index(b->failures, uint64_t, i), (entry){0});
}

/* ---- life ---- */

static wadi_wire wire(void (*fn)(void *, uint64_t, wad_level), void *ctx)
{
    return (wadi_wire){.level = WAD_FLOATING, .seen = WAD_FLOATING, .fn = fn, .ctx = ctx};
}

static bool add_device(wadi_bus_set *set, unsigned i, const wadi_buses *b, char **why)
{
    wadi_spi_device *d = &set->devices[i];
    const wadi_spi_def *def = &g_array_index(b->devices, wadi_spi_def, i);
    d->set = set;
    d->def = def;
    d->state = g_malloc0(def->cls->state_size + 1);
    d->rand = g_rand_new_with_seed(b->seed + i);
    d->notes = g_ptr_array_new_with_free_func(g_free);
    d->driver = wadi_world_driver(set->world, def->miso);
    d->select = wire(on_select, d);
    d->clock = wire(on_clock, d);
    d->mosi = wire(on_mosi, d);
    d->miso = wire(on_miso, d);
    d->mode = def->mode;
    d->bits = def->bits;
    d->lsb_first = def->lsb_first;
    d->clock_level = def->mode >> 1;
    wad_sim_watch_pin(set->sim, def->select, follow, &d->select);
    wad_sim_watch_pin(set->sim, def->clock, follow, &d->clock);
    wad_sim_watch_pin(set->sim, def->mosi, follow, &d->mosi);
    const wad_spi_part part = {.name = def->name,
                               .select = def->select,
                               .clock = def->clock,
                               .select_high = def->select_high,
                               .modes = def->as_chip ? 0 : 1u << def->mode,
                               .bits = def->as_chip ? 0 : def->bits,
                               .any_order = def->as_chip,
                               .lsb_first = def->lsb_first,
                               .limit_hz = def->limit_hz};
    wad_sim_spi_part(set->sim, &part);
    return !def->cls->begin || def->cls->begin(d, why);
}

wadi_bus_set *wadi_bus_set_new(wad_sim *sim, const wadi_buses *b, char **why)
{
    wadi_bus_set *set = g_new0(wadi_bus_set, 1);
    set->sim = sim;
    set->world = wadi_world_new(sim);
    set->entries = g_ptr_array_new_with_free_func(g_free);
    set->devices = g_new0(wadi_spi_device, b->devices->len + 1);
    set->jumpers = g_new0(wadi_jumper, b->jumpers->len + 1);
    for (guint i = 0; i < b->jumpers->len; i++) {
        const wadi_jumper_def *def = &g_array_index(b->jumpers, wadi_jumper_def, i);
        wadi_jumper *j = &set->jumpers[i];
        j->driver = wadi_world_driver(set->world, def->to);
        j->wire = wire(on_jumper, j);
        wad_sim_watch_pin(sim, def->from, follow, &j->wire);
    }
    for (guint i = 0; i < b->devices->len; i++) {
        set->n = i + 1;
        if (!add_device(set, i, b, why)) {
            wadi_bus_set_free(set);
            return NULL;
        }
    }
    plan(set, b);
    return set;
}

bool wadi_bus_set_end(wadi_bus_set *set, GPtrArray *notes)
{
    bool kept = true;
    for (unsigned i = 0; i < set->n; i++) {
        wadi_spi_device *d = &set->devices[i];
        char *why = NULL;
        for (guint k = 0; k < d->notes->len; k++)
            g_ptr_array_add(notes, g_strdup(d->notes->pdata[k]));
        if (d->refusals > WADI_SPI_NOTED)
            g_ptr_array_add(notes, g_strdup_printf("%s: %u more of the kind", d->def->name,
                                                   d->refusals - WADI_SPI_NOTED));
        if (d->def->keep && d->def->cls->keep && !d->def->cls->keep(d, d->def->keep, &why)) {
            g_ptr_array_add(notes, why);
            kept = false;
        }
    }
    return kept;
}

void wadi_bus_set_free(wadi_bus_set *set)
{
    if (!set)
        return;
    for (unsigned i = 0; i < set->n; i++) {
        wadi_spi_device *d = &set->devices[i];
        if (d->def->cls->end)
            d->def->cls->end(d);
        g_ptr_array_free(d->notes, TRUE);
        g_rand_free(d->rand);
        g_free(d->state);
    }
    wadi_world_free(set->world);
    g_ptr_array_free(set->entries, TRUE);
    g_free(set->devices);
    g_free(set->jumpers);
    g_free(set);
}

unsigned wadi_spi_frames(const wadi_bus_set *set, unsigned device)
{
    return set->devices[device].frames;
}

unsigned wadi_spi_selects(const wadi_bus_set *set, unsigned device)
{
    return set->devices[device].selects;
}

unsigned wadi_spi_refusals(const wadi_bus_set *set, unsigned device)
{
    return set->devices[device].refusals;
}
