/* SPDX-License-Identifier: MIT */
/* Pins and the functions that come out there. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_PIN_H
#define WADIUM_HOST_FINDINGS_PIN_H

/* clang-format off */
#define WAD_FINDINGS_PIN(X)                                                                                     \
    X(NOT_ROUTED,      501, "pin function in use but routed to no pin",                                         \
      "Nothing comes out. Select the function at one of the pins that can carry it.")                           \
    X(NO_FUNCTION,     502, "pin given a function that it does not have",                                       \
      "The pin floats. Look the function's number up in the pin table.")                                        \
    X(PIN_SHARED,      503, "pin given to two functions",                                                       \
      "The last one wins, or both fight. Move one: wadium pins finds the fewest moves.")                        \
    X(INPUT_TWICE,     504, "input taken from two pins",                                                        \
      "Silicon joins them or takes one. Give the other pin back to its port.")
/* clang-format on */

#endif
