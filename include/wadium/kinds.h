/* SPDX-License-Identifier: MIT */
/*
 * What each kind of block needs to be told: its roles.
 *
 * One list a kind. It yields the members of the driver's role table
 * (wad_counter_roles in <wadium/timer.h>), the enumeration that the simulation
 * models read by, and the list that `wadium lint` checks a sheet against.
 *
 *     X(name, sort, need, text)
 *
 * sort   FIELD   a field; may be an array, then indexed by channel, line or pin
 *        CODE    the value of a field that means something: `mode_up` is the
 *                attribute `up` of role `mode`, else its enumerator `up`
 *        REG     a whole register
 *        SIGNAL  a named pin function of the block; may be an array
 * need   MUST    a sheet that lacks it is refused by lint
 *        MAY     absent where the chip has no such thing
 */
#ifndef WADIUM_KINDS_H
#define WADIUM_KINDS_H

/* clang-format off */
#define WAD_ROLES_CLOCKS(X)                                                                    \
    X(gates,       REG,    MAY,  "clock gates, one bit a block")                               \
    X(resets,      REG,    MAY,  "resets, one bit a block")                                    \
    X(resets_done, REG,    MAY,  "resets that are released and over, one bit a block")

#define WAD_ROLES_PINS(X)                                                                      \
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
    X(sense,       FIELD,  MAY,  "what raises the pin's interrupt, by pin number")             \
    X(sense_rise,  CODE,   MAY,  "rising edge")                                                \
    X(sense_fall,  CODE,   MAY,  "falling edge")                                               \
    X(sense_both,  CODE,   MAY,  "both edges")                                                 \
    X(sense_high,  CODE,   MAY,  "high level")                                                 \
    X(sense_low,   CODE,   MAY,  "low level")                                                  \
    X(flag,        FIELD,  MAY,  "interrupt flag, by pin number")                              \
    X(irq,         FIELD,  MAY,  "interrupt enable, by pin number")

#define WAD_ROLES_IRQC(X)                                                                      \
    X(enable,      FIELD,  MUST, "line enable, by line number")                                \
    X(pending,     FIELD,  MAY,  "line pending, by line number")                               \
    X(priority,    FIELD,  MAY,  "line priority, by line number; 0 is the most urgent")        \
    X(current,     FIELD,  MAY,  "line being served, or the most urgent pending one")              \
    X(current_none,CODE,   MAY,  "what `current` reads when there is none")

#define WAD_ROLES_COUNTER(X)                                                                   \
    X(enable,       FIELD,  MUST, "counter runs while 1")                                      \
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
    X(wrap,         FIELD,  MUST, "flag: a period has ended")                                  \
    X(wrap_irq,     FIELD,  MUST, "interrupt enable for the wrap flag")                        \
    X(compare,      FIELD,  MAY,  "compare value, by channel")                                 \
    X(match,        FIELD,  MAY,  "flag: count met the compare value, by channel")             \
    X(match_irq,    FIELD,  MAY,  "interrupt enable for the match flag, by channel")           \
    X(drive,        FIELD,  MAY,  "what the channel's output does, by channel")                \
    X(drive_off,    CODE,   MAY,  "output stays low")                                          \
    X(drive_set,    CODE,   MAY,  "high at match")                                             \
    X(drive_clear,  CODE,   MAY,  "low at match")                                              \
    X(drive_toggle, CODE,   MAY,  "changes at match")                                          \
    X(drive_pwm,    CODE,   MAY,  "high while count < compare")                                \
    X(drive_pwm_low,CODE,   MAY,  "low while count < compare")                                 \
    X(output_on,    FIELD,  MAY,  "output reaches the pin, by channel")                        \
    X(output,       SIGNAL, MAY,  "the channel's pin function, by channel")

#define WAD_ROLES_WATCHDOG(X)                                                                  \
    X(enable,       FIELD,  MUST, "runs while 1")                                              \
    X(feed,         FIELD,  MUST, "where feeding is written")                                  \
    X(feed_value,   CODE,   MAY,  "what must be written there; anything else resets the chip at once") \
    X(timeout,      FIELD,  MAY,  "it bites after 2 to the power of this many clock edges")    \
    X(timeout_plus, CODE,   MAY,  "added to the timeout value to get the exponent")            \
    X(cause,        FIELD,  MAY,  "flag that outlives the reset: the last one came from here")

#define WAD_ROLES_TIMEBASE(X)                                                                  \
    X(count,        FIELD,  MUST, "the free-running count, all of it")                         \
    X(enable,       FIELD,  MAY,  "counts while 1; without it, always")                        \
    X(prescale,     FIELD,  MAY,  "prescaler")                                                 \
    X(prescale_plus,CODE,   MAY,  "added to the prescaler value to get the divider")           \
    X(compare,      FIELD,  MAY,  "compare value, as wide as the count, by channel")           \
    X(match,        FIELD,  MAY,  "flag: the count met the compare value, by channel")         \
    X(match_irq,    FIELD,  MAY,  "interrupt enable for the match flag, by channel")           \
    X(input,        SIGNAL, MAY,  "pin whose edges are captured, by channel")                  \
    X(edge,         FIELD,  MAY,  "which edges of the input, by channel")                      \
    X(edge_off,     CODE,   MAY,  "none")                                                      \
    X(edge_rise,    CODE,   MAY,  "rising")                                                    \
    X(edge_fall,    CODE,   MAY,  "falling")                                                   \
    X(edge_both,    CODE,   MAY,  "both")                                                      \
    X(filter,       FIELD,  MAY,  "clock edges that an input must stay before it counts, by channel") \
    X(capture,      FIELD,  MAY,  "low bits of the count at the last edge, by channel")        \
    X(captured,     FIELD,  MAY,  "flag: an edge was captured, by channel")                    \
    X(captured_irq, FIELD,  MAY,  "interrupt enable for the captured flag, by channel")        \
    X(lost,         FIELD,  MAY,  "flag: an edge came while the captured flag stood, by channel")
/* clang-format on */

/** Every kind with its role list: X(name, LIST). */
#define WAD_KINDS(X)                                                                               \
    X(clocks, WAD_ROLES_CLOCKS)                                                                    \
    X(pins, WAD_ROLES_PINS)                                                                        \
    X(irqc, WAD_ROLES_IRQC)                                                                        \
    X(counter, WAD_ROLES_COUNTER)                                                                  \
    X(watchdog, WAD_ROLES_WATCHDOG)                                                                \
    X(timebase, WAD_ROLES_TIMEBASE)

#endif
