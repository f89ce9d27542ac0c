/* SPDX-License-Identifier: MIT */
#ifndef WADI_EXPECT_REGISTRY_H
#define WADI_EXPECT_REGISTRY_H

#include "expectation.h"

/** The class whose words stand at the cursor, all of them or the first; NULL: none of the
 * subject's. */
const wadi_expectation_class *wadi_expectation_next(const wadi_cursor *c, wadi_about about);
/** "'frequency', 'duty' or 'is'": what may be expected of a subject; g_free. */
char *wadi_expectation_words(wadi_about about);

#endif
