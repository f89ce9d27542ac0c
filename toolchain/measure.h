/* SPDX-License-Identifier: MIT */
/* What an image came to: from the linker's map and the compiler's call graphs. */
#ifndef WADI_TOOLCHAIN_MEASURE_H
#define WADI_TOOLCHAIN_MEASURE_H

#include "builder.h"

/** Where objects come from, by their number in the builder's list. */
typedef const char *(*wadi_group_of)(void *ctx, unsigned object);

/** From the linker's map: bytes of each object. */
bool wadi_measure_sizes(wadi_builder *w, const char *map, wadi_group_of group, void *ctx,
                        wad_image_report *report);
/** Of the functions in the image, from the .ci files beside the objects and the objects'
 * references; `entry`: bytes that hardware puts on the stack for a handler. */
void wadi_measure_stack(wadi_builder *w, const char *image, unsigned entry, wad_image_stack *stack);

#endif
