/* SPDX-License-Identifier: MIT */
/* Pins as nets: who drives, what level results, who hears of it. */
#include "pin.h"

#include <string.h>

#include "block.h"
#include "model.h"
#include "register.h"
#include "report.h"
#include "sim.h"
#include "trigger.h"

void wadi_pins_build(wad_sim *sim)
{
    const wad_sheet *s = sim->sheet;
    sim->nets = g_new0(wadi_net, s->n_pins + 1);
    for (unsigned i = 0; i < s->n_pins; i++) {
        sim->nets[i].def = &s->pins[i];
        sim->nets[i].stuck = WAD_FLOATING;
        sim->nets[i].watches = g_array_new(FALSE, FALSE, sizeof(wadi_watch));
    }
    for (unsigned i = 0; i < s->n_blocks; i++)
        sim->n_signals += s->blocks[i]->n_signals;
    sim->signals = g_new0(wadi_signal, sim->n_signals + 1);
    unsigned n = 0;
    for (unsigned i = 0; i < s->n_blocks; i++)
        for (unsigned k = 0; k < s->blocks[i]->n_signals; k++) {
            const wad_signal *def = &s->blocks[i]->signals[k];
            for (unsigned o = 0; o < def->n_options && !def->block->route.reg; o++)
                sim->signals[n].automatic |= def->options[o].fn == 0;
            sim->signals[n].def = def;
            sim->signals[n++].nets = g_ptr_array_new();
        }
}

void wadi_pins_free(wad_sim *sim)
{
    for (unsigned i = 0; sim->nets && i < sim->sheet->n_pins; i++)
        g_array_free(sim->nets[i].watches, TRUE);
    for (unsigned i = 0; i < sim->n_signals; i++)
        g_ptr_array_free(sim->signals[i].nets, TRUE);
    g_free(sim->nets);
    g_free(sim->signals);
}

void wadi_pins_reset(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->n_signals; i++) {
        wadi_signal *signal = &sim->signals[i];
        signal->level = signal->used = signal->routed = signal->outward = false;
        g_ptr_array_set_size(signal->nets, 0);
    }
    for (unsigned i = 0; i < sim->sheet->n_pins; i++) {
        wadi_net *net = &sim->nets[i];
        net->dir = net->out = false;
        net->function = 0;
        net->driver = net->group = NULL;
        net->pull = net->outside = net->stuck = WAD_FLOATING;
        net->level = WAD_FLOATING;
    }
}

/* Tells all watchers where the pins stand when the run begins. */
void wadi_pins_announce(wad_sim *sim)
{
    for (unsigned i = 0; i < sim->sheet->n_pins; i++)
        for (guint k = 0; k < sim->nets[i].watches->len; k++) {
            const wadi_watch *w = &g_array_index(sim->nets[i].watches, wadi_watch, k);
            w->fn(w->ctx, sim->now, sim->nets[i].level);
        }
}

wadi_net *wadi_net_of(wad_sim *sim, const wad_instance *port, unsigned number)
{
    for (unsigned i = 0; i < sim->sheet->n_pins; i++)
        if (sim->nets[i].def->port == port && sim->nets[i].def->number == number)
            return &sim->nets[i];
    return NULL;
}

static bool drives(const wadi_signal *signal)
{
    return signal && (signal->def->dir == WAD_SIGNAL_OUT ||
                      (signal->def->dir == WAD_SIGNAL_BOTH && signal->outward));
}

static wad_level resolve(const wadi_net *net)
{
    if (net->stuck != WAD_FLOATING)
        return net->stuck;
    if (net->group) {
        if (drives(net->group))
            return net->group->level ? WAD_HIGH : WAD_LOW;
    } else if (net->function) {
        if (drives(net->driver))
            return net->driver->level ? WAD_HIGH : WAD_LOW;
    } else if (net->dir) {
        return net->out ? WAD_HIGH : WAD_LOW;
    }
    return net->outside != WAD_FLOATING ? net->outside : net->no_pull ? WAD_FLOATING : net->pull;
}

/* What a pin's function takes in; a floating pin reads low. */
static void tell_input(const wadi_net *net)
{
    const wadi_signal *signal = net->group ? net->group : net->driver;
    if (signal && !drives(signal) && signal->model && signal->model->cls->input)
        signal->model->cls->input(signal->model, signal->role, signal->index,
                                  net->level == WAD_HIGH);
}

void wadi_net_update(wadi_net *net)
{
    wad_level level = resolve(net);
    if (level == net->level)
        return;
    net->level = level;
    tell_input(net);
    wad_sim *sim = net->port ? net->port->sim : NULL;
    if (!sim)
        return;
    for (guint i = 0; i < net->watches->len; i++) {
        const wadi_watch *w = &g_array_index(net->watches, wadi_watch, i);
        w->fn(w->ctx, sim->now, level);
    }
    if (net->port->cls->pin)
        net->port->cls->pin(net->port, net->def->number, level);
}

/* Which signal function `fn` of a pin is; NULL for none. */
static wadi_signal *signal_on(wad_sim *sim, const wad_pin_def *pin, unsigned fn)
{
    for (unsigned i = 0; i < sim->n_signals; i++)
        for (unsigned k = 0;
             !sim->signals[i].def->block->route.reg && k < sim->signals[i].def->n_options; k++) {
            const wad_pin_option *opt = &sim->signals[i].def->options[k];
            if (opt->pin == pin && opt->fn == fn)
                return &sim->signals[i];
        }
    return NULL;
}

/* A pin that another function has, or an input that has another pin. */
static void check_claim(wad_sim *sim, const wadi_net *net, const wadi_signal *signal)
{
    const wadi_signal *other = net->group && net->group != signal     ? net->group
                               : net->driver && net->driver != signal ? net->driver
                                                                      : NULL;
    if (other)
        wadi_report(sim, WAD_FINDING_PIN_SHARED, NULL, "pin %s is given to %s.%s and to %s.%s",
                    net->def->name, other->def->block->name, other->def->name,
                    signal->def->block->name, signal->def->name);
    for (guint i = 0; signal->def->dir == WAD_SIGNAL_IN && i < signal->nets->len; i++) {
        const wadi_net *first = signal->nets->pdata[i];
        if (first != net)
            wadi_report(sim, WAD_FINDING_INPUT_TWICE, NULL, "%s.%s is taken from pins %s and %s",
                        signal->def->block->name, signal->def->name, first->def->name,
                        net->def->name);
    }
}

/* A clock that comes out here begins, or ends. */
static void rerouted(wadi_signal *signal)
{
    if (signal->rerouted)
        signal->rerouted(signal);
}

void wadi_net_route(wadi_net *net, int function)
{
    wad_sim *sim = net->port->sim;
    if (function == net->function)
        return;
    if (net->driver)
        g_ptr_array_remove_fast(net->driver->nets, net);
    net->function = function;
    bool selects = function != WADI_FUNCTION_PORT && function != WADI_FUNCTION_NONE;
    net->driver = selects ? signal_on(sim, net->def, (unsigned)function - 1) : NULL;
    if (net->driver) {
        check_claim(sim, net, net->driver);
        net->driver->routed = true;
        g_ptr_array_add(net->driver->nets, net);
        rerouted(net->driver);
    } else if (selects) {
        wadi_report(sim, WAD_FINDING_NO_FUNCTION, NULL, "pin %s has no function %d", net->def->name,
                    function - 1);
    }
    wadi_net_update(net);
    tell_input(net); /* where the pin stands already */
}

/* A signal that comes to a pin otherwise than by the pin's own function, or leaves it. */
static void claim(wad_sim *sim, wadi_net *net, wadi_signal *signal, bool here)
{
    if ((net->group == signal) == here)
        return;
    if (here) {
        check_claim(sim, net, signal);
        if (net->group)
            g_ptr_array_remove_fast(net->group->nets, net);
        signal->routed = true;
        g_ptr_array_add(signal->nets, net);
    } else {
        g_ptr_array_remove_fast(signal->nets, net);
    }
    net->group = here ? signal : NULL;
    if (here)
        rerouted(signal);
    wadi_net_update(net);
    if (here)
        tell_input(net);
}

static void regroup_signal(wad_sim *sim, wadi_signal *signal, unsigned group)
{
    for (unsigned k = 0; k < signal->def->n_options; k++) {
        const wad_pin_option *opt = &signal->def->options[k];
        claim(sim, &sim->nets[opt->pin - sim->sheet->pins], signal, opt->fn == group);
    }
}

/* Neither function nor group: the pin is the signal's while the block uses it. */
static void follow_use(wad_sim *sim, wadi_signal *signal, bool used)
{
    for (unsigned k = 0; signal->automatic && k < signal->def->n_options; k++) {
        const wad_pin_option *opt = &signal->def->options[k];
        if (!opt->fn)
            claim(sim, &sim->nets[opt->pin - sim->sheet->pins], signal, used);
    }
}

/* Leaving first: two blocks that change places in one write do not meet. */
void wadi_pins_regroup(wad_sim *sim)
{
    for (unsigned arriving = 0; arriving < 2; arriving++)
        for (unsigned i = 0; i < sim->n_signals; i++) {
            wadi_signal *signal = &sim->signals[i];
            const wad_fieldref *route = &signal->def->block->route;
            const wadi_slot *slot = sim->blocks[signal->def->block->index].route;
            if (!slot)
                continue;
            unsigned group = (slot->value & (uint32_t)wad_fieldref_mask(route)) >> route->lsb;
            for (unsigned k = 0; !arriving && k < signal->def->n_options; k++)
                if (signal->def->options[k].fn != group)
                    claim(sim, &sim->nets[signal->def->options[k].pin - sim->sheet->pins], signal,
                          false);
            if (arriving)
                regroup_signal(sim, signal, group);
        }
}

wadi_signal *wadi_signal_find(wad_sim *sim, const wad_instance *block, const char *name)
{
    for (unsigned i = 0; i < sim->n_signals; i++)
        if (sim->signals[i].def->block == block && !strcmp(sim->signals[i].def->name, name))
            return &sim->signals[i];
    return NULL;
}

/* ---- for models ---- */

void wadi_signal_drive(wadi_signal *signal, bool level)
{
    if (signal->level == level)
        return;
    signal->level = level;
    for (guint k = 0; k < signal->nets->len; k++)
        wadi_net_update(signal->nets->pdata[k]);
}

void wad_model_drive(wad_model *m, unsigned role, unsigned i, bool level)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || !b->signals || b->signals[i]->level == level)
        return;
    wadi_signal_drive(b->signals[i], level);
    if (m->heard)
        wadi_trigger_tell(m, role, i, level ? WAD_TRIGGER_RISE : WAD_TRIGGER_FALL);
}

void wad_model_outward(wad_model *m, unsigned role, unsigned i, bool outward)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || !b->signals || b->signals[i]->outward == outward)
        return;
    b->signals[i]->outward = outward;
    for (guint k = 0; k < b->signals[i]->nets->len; k++) {
        wadi_net_update(b->signals[i]->nets->pdata[k]);
        tell_input(b->signals[i]->nets->pdata[k]);
    }
}

void wad_model_uses(wad_model *m, unsigned role, unsigned i, bool used)
{
    const wadi_binding *b = &m->roles[role];
    if (i >= b->count || !b->signals)
        return;
    follow_use(m->sim, b->signals[i], used);
    if (!used || b->signals[i]->used)
        return;
    b->signals[i]->used = true;
    b->signals[i]->used_trace = wadi_trace_here(m->sim);
}

/* ---- for the world outside ---- */

static wadi_net *net_of_pin(const wad_sim *sim, const wad_pin_def *pin)
{
    return &sim->nets[pin - sim->sheet->pins];
}

void wad_sim_drive(wad_sim *sim, const wad_pin_def *pin, wad_level level)
{
    wadi_net *net = net_of_pin(sim, pin);
    net->outside = level;
    wadi_net_update(net);
}

wad_level wad_sim_level(const wad_sim *sim, const wad_pin_def *pin)
{
    return net_of_pin(sim, pin)->level;
}

void wad_sim_watch_pin(wad_sim *sim, const wad_pin_def *pin, wad_pin_fn fn, void *ctx)
{
    wadi_watch w = {fn, ctx};
    g_array_append_val(net_of_pin(sim, pin)->watches, w);
}

/* ---- defects ---- */

void wad_sim_stick_pin(wad_sim *sim, const wad_pin_def *pin, wad_level level)
{
    wadi_net *net = &sim->nets[pin - sim->sheet->pins];
    net->stuck = level;
    wadi_net_update(net);
}

void wad_sim_break_pull(wad_sim *sim, const wad_pin_def *pin)
{
    wadi_net *net = &sim->nets[pin - sim->sheet->pins];
    net->no_pull = true;
    wadi_net_update(net);
}
