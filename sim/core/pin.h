/* SPDX-License-Identifier: MIT */
/* Pins, and the signals that come out there. */
#ifndef WADI_PIN_H
#define WADI_PIN_H

#include <glib.h>

#include "wadium/host/model.h"

typedef struct wadi_signal wadi_signal;
#include "trace.h"

struct wadi_signal {
    const wad_signal *def;
    struct wadi_clock *clock;              /* that comes out here, or NULL */
    void (*rerouted)(wadi_signal *signal); /* NULL: nobody need know */
    bool automatic;                        /* takes pins by itself while it is used */
    wad_model *model; /* that hears it, as element `index` of its role, or NULL */
    unsigned role, index;
    bool level;
    bool used, routed;
    bool outward; /* of a signal of both directions: driven by the block now */
    wadi_trace used_trace;
    GPtrArray *nets; /* pins it drives now */
};

typedef struct wadi_watch {
    wad_pin_fn fn;
    void *ctx;
} wadi_watch;

typedef struct wadi_net {
    const wad_pin_def *def;
    wad_model *port;
    bool dir, out;
    wad_level pull, outside, level;
    wad_level stuck; /* a defect: the level it has whatever drives it; floating: none */
    bool no_pull;    /* a defect: its pull resistor does nothing */
    int function;
    wadi_signal *driver; /* of a function, or NULL */
    wadi_signal *group;  /* routed here with its block's others, or NULL */
    GArray *watches;     /* wadi_watch */
} wadi_net;

/** Moves signals to the groups of pins that their route fields name. */
void wadi_pins_regroup(wad_sim *sim);
void wadi_pins_build(wad_sim *sim);
void wadi_pins_free(wad_sim *sim);
void wadi_pins_reset(wad_sim *sim);
wadi_net *wadi_net_of(wad_sim *sim, const wad_instance *port, unsigned number);
void wadi_net_update(wadi_net *net);
/* Who has a pin: its port, nobody, or function n as n + 1. */
enum { WADI_FUNCTION_PORT = 0, WADI_FUNCTION_NONE = -1 };
void wadi_net_route(wadi_net *net, int function);
void wadi_signal_drive(wadi_signal *signal, bool level);
wadi_signal *wadi_signal_find(wad_sim *sim, const wad_instance *block, const char *name);
void wadi_pins_announce(wad_sim *sim);

#endif
