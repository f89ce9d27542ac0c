/* SPDX-License-Identifier: MIT */
/* Ports of pins. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_GPIO_H
#define WADIUM_KINDS_GPIO_H

/* clang-format off */
#define WAD_ROLES_GPIO(X)                                                                      \
    X(dir,         FIELD,  MUST, "1 drives the pin, by pin number")                            \
    X(out,         FIELD,  MUST, "level to drive, by pin number")                              \
    X(in,          FIELD,  MUST, "level at the pin, by pin number")                            \
    X(set,         REG,    MAY,  "writing 1 drives high, one bit a pin")                       \
    X(clear,       REG,    MAY,  "writing 1 drives low, one bit a pin")                        \
    X(toggle,      REG,    MAY,  "writing 1 changes the level, one bit a pin")                 \
    X(pull,        FIELD,  MAY,  "pull resistor, by pin number")                               \
    X(pull_none,   CODE,   MAY,  "no pull resistor")                                           \
    X(pull_up,     CODE,   MAY,  "pull up")                                                    \
    X(pull_down,   CODE,   MAY,  "pull down")                                                  \
    X(function,    FIELD,  MAY,  "function that owns the pin, by pin number; 0 is the port")   \
    X(function_plus,CODE,  MAY,  "added to the value to get the function's number")            \
    X(function_port,CODE,  MAY,  "the port has the pin; where no value says so, 0 does")       \
    X(function_none,CODE,  MAY,  "nobody has the pin")                                         \
    X(sense,       FIELD,  MAY,  "what raises the pin's interrupt, by pin number")             \
    X(sense_rise,  CODE,   MAY,  "rising edge")                                                \
    X(sense_fall,  CODE,   MAY,  "falling edge")                                               \
    X(sense_both,  CODE,   MAY,  "both edges")                                                 \
    X(sense_high,  CODE,   MAY,  "high level")                                                 \
    X(sense_low,   CODE,   MAY,  "low level")                                                  \
    X(flag,        FIELD,  MAY,  "interrupt flag, by pin number")                              \
    X(irq,         FIELD,  MAY,  "interrupt enable, by pin number")                            \
    X(digital_off, FIELD,  MAY,  "1: the digital input is off, for analog pins, by pin number")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(gpio, WAD_ROLES_GPIO)
#endif
