/* SPDX-License-Identifier: MIT */
/* Kind gpio: direction, levels, pulls, functions, edge and level interrupts. */
#include "sim/core/model.h"
#include "sim/core/block.h"
#include "sim/core/pin.h"
#include "sim/core/sim.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_GPIO(ROLE)
#undef ROLE
};

#define MAX_PINS 64

typedef struct pins_state {
    wadi_net *nets[MAX_PINS];
    uint32_t pull_up, pull_down;
    uint32_t rise, fall, both, high, low;
    uint64_t sensed; /* pins that edges or levels are asked for of */
    unsigned n;
} pins_state;

static void init(wad_model *m)
{
    pins_state *s = wad_model_state(m);
    s->n = MIN(m->block->inst->n_carries, (unsigned)MAX_PINS);
    for (unsigned i = 0; i < s->n; i++) {
        s->nets[i] = wadi_net_of(m->sim, m->block->inst, i);
        s->nets[i]->port = m;
    }
    s->pull_up = wad_model_code(m, ROLE_pull, "up", UINT32_MAX);
    s->pull_down = wad_model_code(m, ROLE_pull, "down", UINT32_MAX);
    s->rise = wad_model_code(m, ROLE_sense, "rise", UINT32_MAX);
    s->fall = wad_model_code(m, ROLE_sense, "fall", UINT32_MAX);
    s->both = wad_model_code(m, ROLE_sense, "both", UINT32_MAX);
    s->high = wad_model_code(m, ROLE_sense, "high", UINT32_MAX);
    s->low = wad_model_code(m, ROLE_sense, "low", UINT32_MAX);
}

/* A level that is asked for raises the flag again as long as it lasts. */
static void hold_levels(wad_model *m)
{
    const pins_state *s = wad_model_state(m);
    for (unsigned i = 0; i < s->n; i++) {
        uint32_t sense = wad_model_get(m, ROLE_sense, i);
        if ((sense == s->high && s->nets[i]->level == WAD_HIGH) ||
            (sense == s->low && s->nets[i]->level == WAD_LOW))
            wad_model_put(m, ROLE_flag, i, 1);
    }
}

static void look_at_senses(wad_model *m)
{
    pins_state *s = wad_model_state(m);
    s->sensed = 0;
    for (unsigned i = 0; i < s->n && wad_model_has(m, ROLE_sense); i++) {
        uint32_t sense = wad_model_get(m, ROLE_sense, i);
        if (sense == s->rise || sense == s->fall || sense == s->both || sense == s->high ||
            sense == s->low)
            s->sensed |= UINT64_C(1) << i;
    }
}

/* As the sheet's codes say; without a word for the port it is number 0. */
static int function_of(const wad_model *m, unsigned i)
{
    uint32_t value = wad_model_get(m, ROLE_function, i);
    uint32_t port = wad_model_code(m, ROLE_function, "port", UINT32_MAX);
    uint64_t number = value + wad_model_code(m, ROLE_function, "plus", 0);
    if (i >= wad_model_count(m, ROLE_function) || value == port)
        return WADI_FUNCTION_PORT;
    if (value == wad_model_code(m, ROLE_function, "none", UINT32_MAX))
        return WADI_FUNCTION_NONE;
    wad_model_whole(m, ROLE_function, i, &number);
    return port == UINT32_MAX && !number ? WADI_FUNCTION_PORT : (int)number + 1;
}

static void take_over(wad_model *m)
{
    const pins_state *s = wad_model_state(m);
    for (unsigned i = 0; i < s->n; i++) {
        wadi_net *net = s->nets[i];
        uint32_t pull = wad_model_get(m, ROLE_pull, i);
        net->dir = wad_model_get(m, ROLE_dir, i) != 0;
        net->out = wad_model_get(m, ROLE_out, i) != 0;
        net->pull = pull == s->pull_up ? WAD_HIGH : pull == s->pull_down ? WAD_LOW : WAD_FLOATING;
        if (!wad_model_has(m, ROLE_pull))
            net->pull = WAD_FLOATING;
        wadi_net_route(net, function_of(m, i));
        wadi_net_update(net);
    }
}

static void reset(wad_model *m)
{
    wad_model_enabled(m);
    take_over(m);
    look_at_senses(m);
}

/* The commonest write, levels by set, clear or toggle, touches only the pins that change. */
static void outputs(wad_model *m, uint32_t changed)
{
    const pins_state *s = wad_model_state(m);
    for (unsigned i = 0; i < s->n; i++)
        if (changed >> (i % 32) & 1) {
            s->nets[i]->out = wad_model_get(m, ROLE_out, i) != 0;
            if (m->sim->ears & WADI_EAR_OUTPUT)
                wadi_tell(m->sim, &(wadi_told){.ear = WADI_EAR_OUTPUT, .net = s->nets[i]});
            wadi_net_update(s->nets[i]);
        }
}

static void written(wad_model *m, const wad_write *w)
{
    const wad_role_set flags = WAD_ROLE_BIT(ROLE_flag), irqs = WAD_ROLE_BIT(ROLE_irq);
    if (w->roles == WAD_ROLE_BIT(ROLE_out)) {
        outputs(m, w->before ^ w->after);
        return;
    }
    if (w->roles & ~(flags | irqs))
        take_over(m);
    if (w->roles & WAD_ROLE_BIT(ROLE_sense))
        look_at_senses(m);
    if (w->roles & (flags | irqs | WAD_ROLE_BIT(ROLE_sense)))
        hold_levels(m);
}

/* Its digital input is: it reads 0, and sees no edges. */
static bool is_off(const wad_model *m, unsigned pin)
{
    return wad_model_has(m, ROLE_digital_off) && wad_model_get(m, ROLE_digital_off, pin);
}

static void refresh(wad_model *m, wad_role_set roles)
{
    const pins_state *s = wad_model_state(m);
    if (roles & WAD_ROLE_BIT(ROLE_in))
        for (unsigned i = 0; i < s->n; i++)
            wad_model_put(m, ROLE_in, i, !is_off(m, i) && s->nets[i]->level == WAD_HIGH);
}

/* A pin's edge needs no clock to wake the core. */
static unsigned blocked_by_sleep(const wad_model *m)
{
    return m->sim->sleep.asleep ? WADI_BLOCKED_CLOCK : 0;
}

static void pin(wad_model *m, unsigned number, wad_level level)
{
    const pins_state *s = wad_model_state(m);
    if (!(s->sensed >> number & 1) || m->block->blocked & ~blocked_by_sleep(m) ||
        level == WAD_FLOATING || is_off(m, number))
        return;
    uint32_t sense = wad_model_get(m, ROLE_sense, number);
    bool hit = level == WAD_HIGH ? sense == s->rise || sense == s->high
                                 : sense == s->fall || sense == s->low;
    if (!hit && sense != s->both)
        return;
    wad_model_put(m, ROLE_flag, number, 1);
}

const wad_model_class wadi_model_gpio = {.kind = "gpio",
                                         .state_size = sizeof(pins_state),
                                         .live = WAD_ROLE_BIT(ROLE_in),
                                         .init = init,
                                         .reset = reset,
                                         .refresh = refresh,
                                         .written = written,
                                         .pin = pin};
