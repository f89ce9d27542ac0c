/* SPDX-License-Identifier: MIT */
/* Rates of the host's own serial lines. */
#ifndef WADI_CLI_SPEEDS_H
#define WADI_CLI_SPEEDS_H

#include <stdbool.h>
#include <termios.h>

/** False: the system has no such rate. */
bool cli_speed_of(unsigned baud, speed_t *code);
/** 0: none of the usual ones. */
unsigned cli_baud_of(speed_t code);

#endif
