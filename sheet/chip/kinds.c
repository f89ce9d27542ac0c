/* SPDX-License-Identifier: MIT */
#include "kinds.h"

#include <glib.h>
#include <string.h>

#include "wadium/kinds.h"

#define NEED_MUST                         true
#define NEED_MAY                          false
#define ROLE_INFO(name, sort, need, text) {#name, #sort, NEED_##need, text},

#define WAD_KIND(kind, list) static const wad_role_info kind##_roles[] = {list(ROLE_INFO)};
#include "wadium/kinds/all.h"
#undef WAD_KIND

#define MOST_ROLES 128

/* A chip asks for each of its roles: the enables are looked up once a kind. */
static int16_t enables[][MOST_ROLES] = {
#define WAD_KIND(kind, list) {0},
#include "wadium/kinds/all.h"
#undef WAD_KIND
};

static wad_kind kinds[] = {
#define WAD_KIND(kind, list)                                                                       \
    {#kind, kind##_roles, sizeof kind##_roles / sizeof kind##_roles[0], false, NULL},
#include "wadium/kinds/all.h"
#undef WAD_KIND
};

const wad_quantity_sort *wad_quantity_sort_of(const wad_role_info *info)
{
    static const wad_quantity_sort sorts[] = {
        {"VOLT", WAD_UNIT_V, 1000000, "uV"},
        {"TIME", WAD_UNIT_S, 1000000000, "ns"},
        {"FREQ", WAD_UNIT_HZ, 1, "Hz"},
        {"OHM", WAD_UNIT_OHM, 1, "ohm"},
        {"FARAD", WAD_UNIT_F, INT64_C(1000000000000000), "fF"},
        {"SHARE", WAD_UNIT_PART, 1000000, "ppm"},
        {"COUNT", WAD_UNIT_NONE, 1, ""}};
    for (unsigned i = 0; i < sizeof sorts / sizeof sorts[0]; i++)
        if (!strcmp(sorts[i].sort, info->sort))
            return &sorts[i];
    return NULL;
}

bool wad_role_is_event(const wad_role_info *info)
{
    return !strcmp(info->sort, "FLAG") || !strcmp(info->sort, "OUTPUT");
}

/* `FLAG_irq`, and what is called otherwise. */
static bool is_enable_of(const wad_kind *kind, const char *flag, const char *enable)
{
    static const struct {
        const char *kind, *flag, *enable;
    } others[] = {{"uart", "parity_error", "parity_irq"},
                  {"uart", "break_seen", "break_irq"},
                  {"gpio", "flag", "irq"}};
    size_t n = strlen(flag);
    for (unsigned i = 0; !kind->own && i < sizeof others / sizeof others[0]; i++)
        if (!strcmp(kind->name, others[i].kind) && !strcmp(flag, others[i].flag))
            return !strcmp(enable, others[i].enable);
    return !strncmp(enable, flag, n) && !strcmp(enable + n, "_irq");
}

void wadi_find_enables(const wad_kind *kind, int16_t *places)
{
    for (unsigned i = 0; i < kind->n_roles; i++)
        places[i] = -1;
    for (unsigned e = 0; e < kind->n_roles; e++) {
        const char *enable = kind->roles[e].name;
        bool one = g_str_has_suffix(enable, "irq");
        for (unsigned i = 0; one && i < kind->n_roles; i++)
            if (is_enable_of(kind, kind->roles[i].name, enable))
                places[i] = (int16_t)e;
    }
}

const wad_kind *wad_kind_named(const char *name)
{
    static gsize done;
    if (g_once_init_enter(&done)) {
        for (unsigned i = 0; i < G_N_ELEMENTS(kinds); i++) {
            wadi_find_enables(&kinds[i], enables[i]);
            kinds[i].enables = enables[i];
        }
        g_once_init_leave(&done, 1);
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(kinds); i++)
        if (!strcmp(kinds[i].name, name))
            return &kinds[i];
    return NULL;
}

bool wad_acts_as(const wad_layout *layout, const char *kind)
{
    return layout->kind && !layout->kind->own && !strcmp(layout->kind->name, kind);
}

int wad_kind_enable_of(const wad_kind *kind, unsigned flag)
{
    return kind && flag < kind->n_roles ? kind->enables[flag] : -1;
}

bool wad_kind_flag(const wad_kind *kind, unsigned role)
{
    return kind && role < kind->n_roles &&
           (!strcmp(kind->roles[role].sort, "FLAG") || kind->enables[role] >= 0);
}

/* ---- what a role may be besides a place ---- */

static bool is_listed(const char *const *list, unsigned n, const char *kind, const char *role)
{
    size_t length = strlen(kind);
    for (unsigned i = 0; i < n; i++)
        if (!strncmp(list[i], kind, length) && list[i][length] == '.' &&
            !strcmp(list[i] + length + 1, role))
            return true;
    return false;
}

bool wad_kind_takes_number(const wad_kind *kind, const char *role)
{
    static const char *const list[] = {
        "adc.resolution", "adc.prescale", "adc.sample",    "adc.length",        "counter.prescale",
        "counter.reload", "frames.bits",  "gpio.function", "frames.divider",    "spi.divider",
        "spi.bits",       "uart.divider", "uart.bits",     "timebase.prescale", "watchdog.timeout"};
    return kind->own || is_listed(list, G_N_ELEMENTS(list), kind->name, role);
}

bool wad_kind_is_act(const wad_kind *kind, const char *role)
{
    static const char *const list[] = {"adc.start",     "adc.calibrate",  "counter.load",
                                       "dac.now",       "dma.go",         "frames.start",
                                       "watchdog.feed", "interrupts.pend"};
    return kind->own || is_listed(list, G_N_ELEMENTS(list), kind->name, role);
}

bool wad_kind_is_level(const wad_kind *kind, const char *role)
{
    static const char *const list[] = {"adc.ready",     "adc.calibrated", "adc.reference_ready",
                                       "dac.empty",     "spi.rx_ready",   "spi.tx_ready",
                                       "uart.rx_ready", "uart.tx_done",   "uart.tx_ready"};
    return !kind->own && is_listed(list, G_N_ELEMENTS(list), kind->name, role);
}

int wad_kind_role_index(const wad_kind *kind, const char *role)
{
    for (unsigned i = 0; kind && i < kind->n_roles; i++)
        if (!strcmp(kind->roles[i].name, role))
            return (int)i;
    return -1;
}
