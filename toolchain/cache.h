/* SPDX-License-Identifier: MIT */
/* Compiled drivers, kept from one build to the next in the user's cache folder. */
#ifndef WADI_TOOLCHAIN_CACHE_H
#define WADI_TOOLCHAIN_CACHE_H

#include "builder.h"

/** True when `object` is there now, as the same compiler made it by the same options from the same
 * text. Else the caller compiles it, and calls wadi_cache_keep for all of them. */
bool wadi_cache_find(wadi_builder *w, GPtrArray *argv, const char *source, const char *object);
/** Keeps what was compiled since. What cannot be written is compiled again the next time. */
void wadi_cache_keep(wadi_builder *w);

#endif
