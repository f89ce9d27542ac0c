/* SPDX-License-Identifier: MIT */
/*
 * What each kind of block needs to be told: its roles.
 *
 * One list a kind, in <wadium/kinds/KIND.h>; <wadium/kinds/all.h> lists the kinds. A list yields
 * the members of the driver's role table (wad_counter_roles in <wadium/timer.h>), the enumeration
 * that the simulation models read by, and what `wadium lint` checks a sheet against.
 *
 *     X(name, sort, need, text)
 *
 * sort   FIELD   a field; may be an array, then indexed by channel, line or pin
 *        FLAG    a field that is an event, too: others can be started by it
 *        CODE    the value of a field that means something: `mode_up` is the
 *                attribute `up` of role `mode`, else its enumerator `up`
 *        REG     a whole register
 *        SIGNAL  a named pin function of the block; may be an array
 *        OUTPUT  a signal that is an event, too
 *        VOLT, TIME, FREQ, OHM, FARAD, SHARE, COUNT
 *                a quantity that the sheet states: `capacitor 8 pF`; in the driver's table whole
 *                uV, ns, Hz, ohm, fF, ppm
 * need   MUST    a sheet that lacks it is refused by lint
 *        MAY     absent where the chip has no such thing
 */
#ifndef WADIUM_KINDS_H
#define WADIUM_KINDS_H

#include "kinds/all.h"

#endif
