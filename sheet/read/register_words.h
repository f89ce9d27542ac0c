/* SPDX-License-Identifier: MIT */
/* The words behind a register's name. */
#ifndef WADI_REGISTER_WORDS_H
#define WADI_REGISTER_WORDS_H

#include "layout.h"

void wadi_parse_reg_attrs(layout_build *lb, wadi_cursor *c, wad_register *reg);

#endif
