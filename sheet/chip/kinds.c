/* SPDX-License-Identifier: MIT */
#include "wadium/kinds.h"

#include <string.h>

#include "wadium/host/sheet.h"

#define NEED_MUST                         true
#define NEED_MAY                          false
#define ROLE_INFO(name, sort, need, text) {#name, #sort, NEED_##need, text},

static const wad_role_info clocks_roles[] = {WAD_ROLES_CLOCKS(ROLE_INFO)};
static const wad_role_info pins_roles[] = {WAD_ROLES_PINS(ROLE_INFO)};
static const wad_role_info irqc_roles[] = {WAD_ROLES_IRQC(ROLE_INFO)};
static const wad_role_info counter_roles[] = {WAD_ROLES_COUNTER(ROLE_INFO)};

static const wad_role_info watchdog_roles[] = {WAD_ROLES_WATCHDOG(ROLE_INFO)};
static const wad_role_info tick_roles[] = {WAD_ROLES_TICK(ROLE_INFO)};
static const wad_role_info encoder_roles[] = {WAD_ROLES_ENCODER(ROLE_INFO)};
static const wad_role_info uart_roles[] = {WAD_ROLES_UART(ROLE_INFO)};
static const wad_role_info frames_roles[] = {WAD_ROLES_FRAMES(ROLE_INFO)};
static const wad_role_info spi_roles[] = {WAD_ROLES_SPI(ROLE_INFO)};
static const wad_role_info adc_roles[] = {WAD_ROLES_ADC(ROLE_INFO)};
static const wad_role_info dac_roles[] = {WAD_ROLES_DAC(ROLE_INFO)};
static const wad_role_info power_roles[] = {WAD_ROLES_POWER(ROLE_INFO)};
static const wad_role_info dma_roles[] = {WAD_ROLES_DMA(ROLE_INFO)};
static const wad_role_info timebase_roles[] = {WAD_ROLES_TIMEBASE(ROLE_INFO)};

static const struct {
    const char *name;
    const wad_role_info *roles;
    unsigned n;
} kinds[] = {
#define KIND(name, list) {#name, name##_roles, sizeof name##_roles / sizeof name##_roles[0]},
    WAD_KINDS(KIND)
#undef KIND
};

const wad_role_info *wad_kind_roles(const char *kind, unsigned *n)
{
    for (unsigned i = 0; i < sizeof kinds / sizeof kinds[0]; i++)
        if (!strcmp(kinds[i].name, kind)) {
            *n = kinds[i].n;
            return kinds[i].roles;
        }
    *n = 0;
    return NULL;
}

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
    return !strncmp(info->text, "flag:", 5) || !strcmp(info->name, "output");
}

int wad_kind_role_index(const char *kind, const char *role)
{
    unsigned n;
    const wad_role_info *roles = wad_kind_roles(kind, &n);
    for (unsigned i = 0; i < n; i++)
        if (!strcmp(roles[i].name, role))
            return (int)i;
    return -1;
}
