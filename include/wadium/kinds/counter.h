/* SPDX-License-Identifier: MIT */
/* Timers: counters with channels. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_COUNTER_H
#define WADIUM_KINDS_COUNTER_H

/* clang-format off */
#define WAD_ROLES_COUNTER(X)                                                                   \
    X(enable,       FIELD,  MAY,  "counter runs while 1")                                      \
    X(reload,       FIELD,  MAY,  "last count of a period")                                    \
    X(reload_plus,  CODE,   MAY,  "added to the reload value to get the period (N - 1 coding: 1)") \
    X(start,        FIELD,  MAY,  "instead of reload: first count of a period, which ends at the overflow") \
    X(autoload,     FIELD,  MAY,  "the hardware loads the start value at the overflow; else it counts on from 0") \
    X(prescale,     FIELD,  MAY,  "prescaler")                                                 \
    X(prescale_plus,CODE,   MAY,  "added to the prescaler value to get the divider")           \
    X(prescale_power,CODE,  MAY,  "the divider is this number to the power of the prescaler value") \
    X(count,        FIELD,  MAY,  "the count")                                                 \
    X(mode,         FIELD,  MAY,  "direction of counting")                                     \
    X(mode_up,      CODE,   MAY,  "counts up and wraps")                                       \
    X(mode_down,    CODE,   MAY,  "counts down and reloads")                                   \
    X(mode_updown,  CODE,   MAY,  "counts up, then down")                                      \
    X(one_shot,     FIELD,  MAY,  "stops after one period")                                    \
    X(shadow,       FIELD,  MAY,  "reload and compares take over at the wrap")                 \
    X(load,         FIELD,  MAY,  "writing 1 takes over shadowed values and restarts the count") \
    X(wrap,         FLAG,   MAY,  "flag: a period has ended")                                  \
    X(wrap_irq,     FIELD,  MAY,  "interrupt enable for the wrap flag")                        \
    X(compare,      FIELD,  MAY,  "compare value, by channel")                                 \
    X(match,        FLAG,   MAY,  "flag: count met the compare value, by channel")             \
    X(match_irq,    FIELD,  MAY,  "interrupt enable for the match flag, by channel")           \
    X(drive,        FIELD,  MAY,  "what the channel's output does, by channel")                \
    X(drive_off,    CODE,   MAY,  "output stays low")                                          \
    X(drive_set,    CODE,   MAY,  "high at match")                                             \
    X(drive_clear,  CODE,   MAY,  "low at match")                                              \
    X(drive_toggle, CODE,   MAY,  "changes at match")                                          \
    X(drive_pwm,    CODE,   MAY,  "high while count < compare")                                \
    X(drive_pwm_low,CODE,   MAY,  "low while count < compare")                                 \
    X(output_on,    FIELD,  MAY,  "output reaches the pin, by channel")                        \
    X(output,       OUTPUT, MAY,  "the channel's pin function, by channel")                    \
    X(pair_on,      FIELD,  MAY,  "complement of the output reaches its pin, by channel")      \
    X(output_low,   SIGNAL, MAY,  "pin function of the output's complement, by channel")       \
    X(dead_time,    FIELD,  MAY,  "clock edges from one of a pair going low to the other going high") \
    X(trigger,      FIELD,  MAY,  "which trigger it listens to, as the block's list numbers them") \
    X(action,       FIELD,  MAY,  "what the trigger does")                                     \
    X(action_off,   CODE,   MAY,  "nothing")                                                   \
    X(action_start, CODE,   MAY,  "sets the enable bit")                                       \
    X(action_gate,  CODE,   MAY,  "lets it count while it is high")                            \
    X(action_reset, CODE,   MAY,  "begins a period anew")                                      \
    X(action_count, CODE,   MAY,  "is counted, instead of the clock")                          \
    X(load_flags,   CODE,   MAY,  "1: `load` sets the wrap flag as well")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(counter, WAD_ROLES_COUNTER)
#endif
