/* SPDX-License-Identifier: MIT */
/* A finding by its number: W304. */
#ifndef WADI_FINDING_NUMBER_H
#define WADI_FINDING_NUMBER_H

#include "lang/cursor.h"

/** A finding's number; false: a message was given. */
bool wadi_parse_finding_number(wadi_cursor *c, unsigned *number);

#endif
