/* SPDX-License-Identifier: MIT */
/*
 * Role tables: which field of a layout plays which role of its kind.
 *
 * One struct a kind, its members made from the lists in <wadium/kinds.h>; the
 * tables themselves are generated (`wadium emit roles CHIP`). A field that the
 * chip lacks has width 0; a setting that a field lacks is WAD_NO_CODE, a number beside it 0.
 */
#ifndef WADIUM_ROLES_H
#define WADIUM_ROLES_H

#include "kinds.h"
#include "reg.h"

#define WADI_ROLE_FIELD(name) wad_field name;
#define WADI_ROLE_FLAG(name)  wad_field name;
#define WADI_ROLE_REG(name)   wad_field name;
#define WADI_ROLE_CODE(name)  uint8_t name;
#define WADI_ROLE_SIGNAL(name)
#define WADI_ROLE_OUTPUT(name)
#define WADI_ROLE_VOLT(name)              uint32_t name; /* uV */
#define WADI_ROLE_TIME(name)              uint32_t name; /* ns */
#define WADI_ROLE_FREQ(name)              uint32_t name; /* Hz */
#define WADI_ROLE_OHM(name)               uint32_t name;
#define WADI_ROLE_FARAD(name)             uint32_t name; /* fF */
#define WADI_ROLE_SHARE(name)             uint32_t name; /* ppm */
#define WADI_ROLE_COUNT(name)             uint32_t name;
#define WADI_ROLE(name, sort, need, text) WADI_ROLE_##sort(name)

#define WAD_KIND(kind, list)                                                                       \
    typedef struct wad_##kind##_roles {                                                            \
        list(WADI_ROLE)                                                                            \
    } wad_##kind##_roles;
#include "kinds/all.h"
#undef WAD_KIND

#endif
