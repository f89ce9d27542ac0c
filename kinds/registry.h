/* SPDX-License-Identifier: MIT */
/* The kinds that are built in, and what they check by themselves. */
#ifndef WADI_REGISTRY_H
#define WADI_REGISTRY_H

#include "sim/core/observer.h"
#include "wadium/host/model.h"

extern const wadi_observer_class wadi_check_spi;
#define WAD_KIND(kind, list) extern const wad_model_class wadi_model_##kind;
#include "wadium/kinds/all.h"
#undef WAD_KIND

/** The model of a kind; NULL: there is none (or `kind` is). */
const wad_model_class *wadi_kind_model(const char *kind);
/** What kinds check by themselves, as observers. */
void wadi_kinds_attach(wad_sim *sim);

#endif
