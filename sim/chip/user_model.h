/* SPDX-License-Identifier: MIT */
/* Models of a user's, and kinds of the sheet's own. */
#ifndef WADI_USER_MODEL_H
#define WADI_USER_MODEL_H

#include "wadium/host/model.h"

/** Of a kind of the sheet's own, until a model is attached: registers hold what is written, flags
 * raise their lines. */
extern const wad_model_class wadi_model_of_nothing;

/** Is the class one for this unit? `own`: of a kind of the sheet's own the kind as the class
 * numbers its roles (wadi_numbered_free). False: `why` (g_free). */
bool wadi_class_fits(const wad_instance *unit, const wad_model_class *cls, wad_kind **own,
                     char **why);
void wadi_numbered_free(wad_kind *kind);

#endif
