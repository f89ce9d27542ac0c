/* SPDX-License-Identifier: MIT */
/* Forms: the different role tables that the units of a kind have on a chip. */
#ifndef WADI_EMIT_FORMS_H
#define WADI_EMIT_FORMS_H

#include "roles.h"

/** Kinds whose drivers are compiled for each form, and whose units know theirs. */
bool wadi_has_forms(const wad_kind *kind);

/** "wad_uart_unit"; "wad_block" for kinds that have no forms. */
const char *wadi_unit_type(const wad_kind *kind);

/** The channels of a counter. */
unsigned wadi_channels(const wad_layout *layout);

/** Before the drivers' headers: how many forms each kind has. */
void wadi_emit_form_counts(const wadi_emitter *e);
/** The headers of kinds that the chip has. */
void wadi_emit_form_headers(const wadi_emitter *e);
/** The tables, and how they are found by number. */
void wadi_emit_forms(const wadi_emitter *e);
/** The form of a served unit. */
unsigned wadi_form_of(const wadi_emitter *e, const wad_instance *unit);
/** Behind everything: the bodies, for the file that asks for them. */
void wadi_emit_form_bodies(const wadi_emitter *e);

#endif
