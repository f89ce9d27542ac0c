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
 *        VOLT, TIME, FREQ, OHM, FARAD, SHARE, COUNT
 *                a quantity that the sheet states: `capacitor 8 pF`; in the driver's table whole
 *                uV, ns, Hz, ohm, fF, ppm
 * need   MUST    a sheet that lacks it is refused by lint
 *        MAY     absent where the chip has no such thing
 */
#ifndef WADIUM_KINDS_H
#define WADIUM_KINDS_H

/* clang-format off */
#define WAD_ROLES_CLOCKS(X)                                                                    \
    X(gates,       REG,    MAY,  "clock gates, one bit a block")                               \
    X(resets,      REG,    MAY,  "resets, one bit a block")                                    \
    X(resets_done, REG,    MAY,  "resets that are released and over, one bit a block")         \
    X(lost,        FIELD,  MAY,  "flag: an oscillator that was watched has failed")            \
    X(lost_irq,    FIELD,  MAY,  "interrupt enable for the lost flag")                         \
    X(resets_done_after_cycles, CODE, MAY, "core clock cycles from the release to the end of a reset")

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
    X(irq,         FIELD,  MAY,  "interrupt enable, by pin number")                            \
    X(digital_off, FIELD,  MAY,  "1: the digital input is off, for analog pins, by pin number")

#define WAD_ROLES_IRQC(X)                                                                      \
    X(enable,      FIELD,  MUST, "line enable, by line number")                                \
    X(pending,     FIELD,  MAY,  "line pending, by line number")                               \
    X(priority,    FIELD,  MAY,  "line priority, by line number; 0 is the most urgent")        \
    X(raise,       FIELD,  MAY,  "writing 1 makes the line pending, by line number")           \
    X(dismiss,     FIELD,  MAY,  "writing 1 takes a noted request back, by line number")       \
    X(threshold,   FIELD,  MAY,  "only lines of a priority number below this are served")      \
    X(threshold_none,CODE, MAY,  "threshold that holds no line back")                          \
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
    X(output,       SIGNAL, MAY,  "the channel's pin function, by channel")                    \
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

#define WAD_ROLES_TICK(X)                                                                      \
    X(enable,       FIELD,  MUST, "counts while 1")                                            \
    X(reload,       FIELD,  MUST, "first count of a period, which ends after 0")               \
    X(reload_plus,  CODE,   MAY,  "added to the reload value to get the period (N - 1 coding: 1)") \
    X(count,        FIELD,  MAY,  "the count; writing it, whatever is written, makes it 0")    \
    X(wrap,         FIELD,  MAY,  "flag: a period has ended")                                  \
    X(wrap_irq,     FIELD,  MUST, "interrupt at the end of each period")

#define WAD_ROLES_ENCODER(X)                                                                   \
    X(enable,       FIELD,  MUST, "counts while 1")                                            \
    X(count,        FIELD,  MUST, "position in quarter steps; written, it stands there")       \
    X(limit,        FIELD,  MAY,  "largest position; one step on it is 0, one before 0 it is this") \
    X(down,         FIELD,  MAY,  "1: the last step went down")                                \
    X(filter,       FIELD,  MAY,  "clock edges that an input must stay before it counts")      \
    X(input_a,      SIGNAL, MUST, "first input; leads when the position rises")                \
    X(input_b,      SIGNAL, MUST, "second input")                                              \
    X(step,         FIELD,  MAY,  "flag: the position has changed")                            \
    X(step_irq,     FIELD,  MAY,  "interrupt enable for the step flag")                        \
    X(fault,        FIELD,  MAY,  "flag: both inputs changed at once, steps are lost")         \
    X(fault_irq,    FIELD,  MAY,  "interrupt enable for the fault flag")

#define WAD_ROLES_WATCHDOG(X)                                                                  \
    X(enable,       FIELD,  MUST, "runs while 1")                                              \
    X(feed,         FIELD,  MUST, "where feeding is written")                                  \
    X(feed_value,   CODE,   MAY,  "what must be written there; anything else resets the chip at once") \
    X(timeout,      FIELD,  MAY,  "it bites after 2 to the power of this many clock edges")    \
    X(timeout_plus, CODE,   MAY,  "added to the timeout value to get the exponent")            \
    X(window,       FIELD,  MAY,  "feeding before so many 2 ** width-ths of the time resets the chip") \
    X(cause,        FIELD,  MAY,  "flag that outlives the reset: it bit")                      \
    X(cause_early,  FIELD,  MAY,  "flag that outlives the reset: it was fed too early, or wrongly") \
    X(cause_power,  FIELD,  MAY,  "flag: the power came on")

/* The codes stand last: what a model hears of must be among the first 64. */
#define WAD_ROLES_UART(X)                                                                      \
    X(enable,       FIELD,  MUST, "the block works")                                           \
    X(tx_enable,    FIELD,  MAY,  "the transmitter works")                                     \
    X(rx_enable,    FIELD,  MAY,  "the receiver works")                                        \
    X(divider,      FIELD,  MUST, "clock edges a sample, whole part")                          \
    X(divider_fraction,FIELD,MAY, "clock edges a sample, fraction of 2 ** width")              \
    X(over,         FIELD,  MAY,  "samples a bit; without it, 16")                             \
    X(bits,         FIELD,  MAY,  "data bits; without it, 8")                                  \
    X(parity_mode,  FIELD,  MAY,  "parity bit; without it, none")                              \
    X(stop,         FIELD,  MAY,  "stop bits; without it, 1")                                  \
    X(msb_first,    FIELD,  MAY,  "the most significant bit goes first")                       \
    X(invert_tx,    FIELD,  MAY,  "the transmitter's line is inverted")                        \
    X(invert_rx,    FIELD,  MAY,  "the receiver's line is inverted")                           \
    X(loop,         FIELD,  MAY,  "the transmitter feeds the receiver")                        \
    X(send_break,   FIELD,  MAY,  "the line is low while 1")                                   \
    X(flow,         FIELD,  MAY,  "RTS and CTS hold the senders")                              \
    X(half_duplex,  FIELD,  MAY,  "the driver's pin is high while something is sent")          \
    X(lead,         FIELD,  MAY,  "it goes high so many eighths of a bit before the start bit")\
    X(tx_data,      FIELD,  MUST, "byte to send; `depth`: room for so many")                   \
    X(rx_data,      FIELD,  MUST, "received byte; reading takes it; `depth`: room for so many")\
    X(byte_framing, FIELD,  MAY,  "beside the received byte: its stop bit was low")            \
    X(byte_parity,  FIELD,  MAY,  "beside the received byte: its parity was wrong")            \
    X(byte_break,   FIELD,  MAY,  "beside the received byte: it was a break")                  \
    X(tx_level,     FIELD,  MAY,  "bytes that wait to be sent")                                \
    X(rx_level,     FIELD,  MAY,  "bytes that have arrived")                                   \
    X(tx_at,        FIELD,  MAY,  "tx_ready when so many wait, or fewer")                      \
    X(rx_at,        FIELD,  MAY,  "rx_ready when more than so many have arrived")              \
    X(rx_wait,      FIELD,  MAY,  "bits without a byte until the timeout flag; 0: never")      \
    X(tx_ready,     FIELD,  MUST, "flag: there is room")                                       \
    X(tx_ready_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(tx_dma,       FIELD,  MAY,  "asks DMA for a byte while there is room")                   \
    X(tx_done,      FIELD,  MAY,  "flag: everything has left the wire")                        \
    X(tx_done_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(rx_ready,     FIELD,  MUST, "flag: a byte has arrived")                                  \
    X(rx_ready_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(rx_dma,       FIELD,  MAY,  "asks DMA to take a byte while one has arrived")             \
    X(overrun,      FIELD,  MAY,  "flag: a byte came, and there was no room")                  \
    X(overrun_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(framing,      FIELD,  MAY,  "flag: a stop bit was low")                                  \
    X(framing_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(parity_error, FIELD,  MAY,  "flag: a parity bit was wrong")                              \
    X(parity_irq,   FIELD,  MAY,  "interrupt enable for it")                                   \
    X(break_seen,   FIELD,  MAY,  "flag: a break came")                                        \
    X(break_irq,    FIELD,  MAY,  "interrupt enable for it")                                   \
    X(idle,         FIELD,  MAY,  "flag: the line is idle for a frame after a byte")           \
    X(idle_irq,     FIELD,  MAY,  "interrupt enable for it")                                   \
    X(timeout,      FIELD,  MAY,  "flag: bytes have waited for the time of rx_wait")           \
    X(timeout_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(tx,           SIGNAL, MAY,  "pin that is sent on")                                       \
    X(rx,           SIGNAL, MAY,  "pin that is received from")                                 \
    X(rts,          SIGNAL, MAY,  "low while there is room")                                   \
    X(cts,          SIGNAL, MAY,  "high: the other side has no room")                          \
    X(driver,       SIGNAL, MAY,  "switches a half-duplex line's driver on")                   \
    X(divider_plus, CODE,   MAY,  "added to the divider value")                                \
    X(over_x16,     CODE,   MAY,  "16 samples")                                                \
    X(over_x8,      CODE,   MAY,  "8 samples")                                                 \
    X(bits_five,    CODE,   MAY,  "5 bits")                                                    \
    X(bits_six,     CODE,   MAY,  "6 bits")                                                    \
    X(bits_seven,   CODE,   MAY,  "7 bits")                                                    \
    X(bits_eight,   CODE,   MAY,  "8 bits")                                                    \
    X(bits_nine,    CODE,   MAY,  "9 bits")                                                    \
    X(parity_mode_none, CODE, MAY,"none")                                                      \
    X(parity_mode_even, CODE, MAY,"even")                                                      \
    X(parity_mode_odd,  CODE, MAY,"odd")                                                       \
    X(parity_mode_mark, CODE, MAY,"always 1")                                                  \
    X(parity_mode_space,CODE, MAY,"always 0")                                                  \
    X(stop_one,     CODE,   MAY,  "1")                                                         \
    X(stop_one_half,CODE,   MAY,  "1.5")                                                       \
    X(stop_two,     CODE,   MAY,  "2")                                                         \
    X(overrun_sticks,CODE,  MAY,  "1: nothing is received while the flag is set")             \
    X(tx_data_depth,CODE,   MAY,  "room for so many bytes; 0: 1")                              \
    X(rx_data_depth,CODE,   MAY,  "room for so many bytes; 0: 1")

/* The codes stand last: what a model hears of must be among the first 64. */
#define WAD_ROLES_SPI(X)                                                                       \
    X(enable,       FIELD,  MUST, "the block works")                                           \
    X(controller,   FIELD,  MAY,  "1: it drives clock and selects, 0: it is a device; without it, 1") \
    X(divider,      FIELD,  MUST, "clock edges a bit: times * (value + plus), or times * power ** value") \
    X(phase,        FIELD,  MAY,  "1: bits are taken at the second edge of the clock, 0: at the first") \
    X(idle_high,    FIELD,  MAY,  "the clock rests high")                                      \
    X(lsb_first,    FIELD,  MAY,  "the least significant bit goes first")                      \
    X(bits,         FIELD,  MAY,  "bits of a frame: step * value + plus; without it, 8")       \
    X(loop,         FIELD,  MAY,  "what goes out comes in")                                    \
    X(select_on,    FIELD,  MAY,  "the block drives a chip select")                            \
    X(select,       FIELD,  MAY,  "which one")                                                 \
    X(select_hold,  FIELD,  MAY,  "it stays active between frames, until this is 0")           \
    X(select_high,  FIELD,  MAY,  "active level, by chip select; without it, low")             \
    X(setup,        FIELD,  MAY,  "half bits from the select to the first frame")              \
    X(hold,         FIELD,  MAY,  "half bits from the last edge to the select's end")          \
    X(gap,          FIELD,  MAY,  "half bits between frames")                                  \
    X(watch,        FIELD,  MAY,  "chip select 0 is an input: active, it tells of another controller") \
    X(tx_data,      FIELD,  MUST, "frame to send; `depth`: room for so many")                  \
    X(rx_data,      FIELD,  MUST, "received frame; reading takes it; `depth`: room for so many") \
    X(tx_level,     FIELD,  MAY,  "frames that wait to be sent")                               \
    X(rx_level,     FIELD,  MAY,  "frames that have arrived")                                  \
    X(tx_at,        FIELD,  MAY,  "tx_ready when so many wait, or fewer")                      \
    X(rx_at,        FIELD,  MAY,  "rx_ready when more than so many have arrived")              \
    X(tx_ready,     FIELD,  MUST, "flag: there is room")                                       \
    X(tx_ready_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(tx_dma,       FIELD,  MAY,  "asks DMA for a frame while there is room")                  \
    X(rx_ready,     FIELD,  MUST, "flag: a frame has arrived")                                 \
    X(rx_ready_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(rx_dma,       FIELD,  MAY,  "asks DMA to take a frame while one has arrived")            \
    X(done,         FIELD,  MAY,  "flag: the last edge is over, and the select where it ends then") \
    X(done_irq,     FIELD,  MAY,  "interrupt enable for it")                                   \
    X(busy,         FIELD,  MAY,  "a frame or a select's time is under way")                   \
    X(overrun,      FIELD,  MAY,  "flag: a frame came, and there was no room")                 \
    X(overrun_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(underrun,     FIELD,  MAY,  "flag: as a device it had nothing to send")                  \
    X(underrun_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(fault,        FIELD,  MAY,  "flag: another controller selected it; it is a device now")  \
    X(fault_irq,    FIELD,  MAY,  "interrupt enable for it")                                   \
    X(clock,        SIGNAL, MUST, "clock, out of a controller and into a device")              \
    X(mosi,         SIGNAL, MUST, "data out of a controller and into a device")                \
    X(miso,         SIGNAL, MUST, "data into a controller and out of a device")                \
    X(chip_select,  SIGNAL, MAY,  "selects, by number; a device listens to the first")         \
    X(divider_plus, CODE,   MAY,  "added to the divider value")                                \
    X(divider_times,CODE,   MAY,  "edges that one of it is worth; 0: 1")                       \
    X(divider_power,CODE,   MAY,  "the divider is this number to the power of the value")      \
    X(bits_plus,    CODE,   MAY,  "added to get the bits of a frame")                          \
    X(bits_step,    CODE,   MAY,  "bits that one of the value is worth; 0: 1")                 \
    X(tx_data_depth,CODE,   MAY,  "room for so many frames; 0: 1")                             \
    X(rx_data_depth,CODE,   MAY,  "room for so many frames; 0: 1")

#define WAD_ROLES_FRAMES(X)                                                                    \
    X(enable,       FIELD,  MUST, "the block works")                                           \
    X(controller,   FIELD,  MAY,  "1: it drives clock and selects, 0: it is a device; without it, 1") \
    X(parity_on,    FIELD,  MAY,  "the memory's parity is checked")                            \
    X(loop,         FIELD,  MAY,  "what goes out comes in")                                    \
    X(done,         FIELD,  MUST, "flag: the group's last frame is over, by group")            \
    X(done_irq,     FIELD,  MAY,  "interrupt enable for it, by group")                         \
    X(parity,       FIELD,  MAY,  "flag: a frame's parity was wrong")                          \
    X(parity_irq,   FIELD,  MAY,  "interrupt enable for it")                                   \
    X(length,       FIELD,  MAY,  "flag: as a device, the select ended in the middle of a frame") \
    X(length_irq,   FIELD,  MAY,  "interrupt enable for it")                                   \
    X(desync,       FIELD,  MAY,  "flag: the device is out of step")                           \
    X(desync_irq,   FIELD,  MAY,  "interrupt enable for it")                                   \
    X(busy,         FIELD,  MAY,  "a group is under way")                                      \
    X(start,        FIELD,  MUST, "writing 1 begins the group, by group")                      \
    X(phase,        FIELD,  MAY,  "1: bits are taken at the second edge of the clock, by format") \
    X(idle_high,    FIELD,  MAY,  "the clock rests high, by format")                           \
    X(lsb_first,    FIELD,  MAY,  "the least significant bit goes first, by format")           \
    X(bits,         FIELD,  MUST, "bits of a frame, by format")                                \
    X(divider,      FIELD,  MUST, "clock edges a bit: times * (value + plus), by format")      \
    X(first,        FIELD,  MUST, "first frame, by group")                                     \
    X(last,         FIELD,  MUST, "last frame, by group")                                      \
    X(error_frame,  FIELD,  MAY,  "frame of the last error")                                   \
    X(flip_frame,   FIELD,  MAY,  "test of the parity: frame ...")                             \
    X(flip_bit,     FIELD,  MAY,  "... and bit that is changed behind its back")               \
    X(format,       FIELD,  MUST, "which format, by frame")                                    \
    X(select,       FIELD,  MAY,  "which chip select, by frame")                               \
    X(select_on,    FIELD,  MAY,  "it is driven, by frame")                                    \
    X(hold,         FIELD,  MAY,  "it stays active until the next frame, by frame")            \
    X(wait_ready,   FIELD,  MAY,  "the frame waits for the device, by frame")                  \
    X(setup,        FIELD,  MAY,  "half bits from the select to the frame, by frame")          \
    X(gap,          FIELD,  MAY,  "half bits behind the frame, by frame")                      \
    X(tx,           FIELD,  MUST, "frame to send, by frame")                                   \
    X(rx,           FIELD,  MUST, "received frame, by frame")                                  \
    X(clock,        SIGNAL, MUST, "clock, out of a controller and into a device")              \
    X(mosi,         SIGNAL, MUST, "data out of a controller and into a device")                \
    X(miso,         SIGNAL, MUST, "data into a controller and out of a device")                \
    X(chip_select,  SIGNAL, MAY,  "selects, by number; active low; a device listens to the first") \
    X(ready,        SIGNAL, MAY,  "low: the device has a frame ready")                         \
    X(bits_plus,    CODE,   MAY,  "added to get the bits of a frame")                          \
    X(divider_plus, CODE,   MAY,  "added to the divider value")                                \
    X(divider_times,CODE,   MAY,  "edges that one of it is worth; 0: 1")

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

/* Quantities and codes stand last: what a model hears must be among the first 64. */
#define WAD_ROLES_ADC(X)                                                                       \
    X(enable,       FIELD,  MUST, "powered while 1")                                           \
    X(ready,        FIELD,  MAY,  "flag: the time to power up is over")                        \
    X(calibrate,    FIELD,  MAY,  "writing 1 begins a calibration")                            \
    X(calibrated,   FIELD,  MAY,  "flag: a calibration is over, and stands")                   \
    X(prescale,     FIELD,  MAY,  "converter clock: the block's by value + plus, or power ** value") \
    X(reference,    FIELD,  MAY,  "which reference; without it, the supply")                   \
    X(reference_ready,FIELD,MAY,  "flag: the internal reference has settled")                  \
    X(resolution,   FIELD,  MAY,  "bits: step * value + plus; without it, as wide as the result") \
    X(align_left,   FIELD,  MAY,  "the result's first bit is the register's first")            \
    X(sample,       FIELD,  MAY,  "half cycles of sampling: plus + times * value, or plus + times * power ** value, by channel") \
    X(start,        FIELD,  MUST, "writing 1 begins a conversion, or a sequence")              \
    X(stop,         FIELD,  MAY,  "writing 1 ends what is under way")                          \
    X(continuous,   FIELD,  MAY,  "it begins again by itself")                                 \
    X(length,       FIELD,  MAY,  "slots of a sequence")                                       \
    X(channel,      FIELD,  MUST, "which input, by slot")                                      \
    X(differential, FIELD,  MAY,  "against the next input instead of ground, by channel")      \
    X(is_signed,    FIELD,  MAY,  "differential results are two's complement; else offset by half") \
    X(data,         FIELD,  MUST, "the result; reading takes it; by slot where each has its own") \
    X(done,         FIELD,  MUST, "flag: a conversion is over")                                \
    X(done_irq,     FIELD,  MAY,  "interrupt enable for it")                                   \
    X(dma_on,       FIELD,  MAY,  "asks DMA to take each result")                              \
    X(dma_keep,     FIELD,  MAY,  "goes on asking behind a DMA transfer's end; without it, always") \
    X(sequence,     FIELD,  MAY,  "flag: the last slot's conversion is over")                  \
    X(sequence_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(overrun,      FIELD,  MAY,  "flag: a result came before the last one was taken")         \
    X(overrun_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(busy,         FIELD,  MAY,  "a conversion is under way")                                 \
    X(trigger,      FIELD,  MAY,  "which trigger it listens to, as the block's list numbers them") \
    X(trigger_edge, FIELD,  MAY,  "which edges of it begin a conversion")                      \
    X(watch_on,     FIELD,  MAY,  "results are compared with two limits")                      \
    X(watch_channel,FIELD,  MAY,  "of this input only; without it, of all")                    \
    X(watch_low,    FIELD,  MAY,  "lower limit, as results are without alignment")             \
    X(watch_high,   FIELD,  MAY,  "upper limit")                                               \
    X(watch,        FIELD,  MAY,  "flag: a result was beyond them")                            \
    X(watch_irq,    FIELD,  MAY,  "interrupt enable for it")                                   \
    X(oversample,   FIELD,  MAY,  "2 ** value conversions are added up for one result")        \
    X(shift,        FIELD,  MAY,  "the sum is shifted right by so many bits")                  \
    X(internal_on,  FIELD,  MAY,  "the internal inputs are connected")                         \
    X(input,        SIGNAL, MAY,  "analog pin, by channel")                                    \
    X(reference_pin,SIGNAL, MAY,  "pin of the external reference")                             \
    X(capacitor,    FARAD,  MAY,  "sampling capacitor")                                        \
    X(switch_ohm,   OHM,    MAY,  "resistance between pin and capacitor")                      \
    X(noise,        VOLT,   MAY,  "of a conversion, effective value")                          \
    X(offset_error, VOLT,   MAY,  "before a calibration")                                      \
    X(gain_error,   SHARE,  MAY,  "before a calibration")                                      \
    X(power_up,     TIME,   MAY,  "from enable to ready")                                      \
    X(calibration,  TIME,   MAY,  "of a calibration")                                          \
    X(clock_min,    FREQ,   MAY,  "slowest converter clock")                                   \
    X(clock_max,    FREQ,   MAY,  "fastest converter clock")                                   \
    X(sample_fixed, COUNT,  MAY,  "half cycles of sampling, where no field sets them")         \
    X(convert,      COUNT,  MAY,  "half cycles of a conversion after sampling, without the bits") \
    X(convert_bit,  COUNT,  MAY,  "half cycles for each bit")                                  \
    X(internal,     VOLT,   MAY,  "the internal reference")                                    \
    X(internal_settle,TIME, MAY,  "from its selection until it can be used")                   \
    X(bandgap,      VOLT,   MAY,  "the internal input `bandgap`")                              \
    X(warm,         VOLT,   MAY,  "the internal input `temperature` at 25 degrees")            \
    X(slope,        VOLT,   MAY,  "what it falls by a degree")                                 \
    X(prescale_plus,CODE,   MAY,  "added to the prescaler value")                              \
    X(prescale_power,CODE,  MAY,  "the divider is this number to the power of the value")      \
    X(reference_supply,CODE,MAY,  "the supply")                                                \
    X(reference_internal,CODE,MAY,"the internal one")                                          \
    X(reference_external,CODE,MAY,"the pin")                                                   \
    X(resolution_plus,CODE, MAY,  "added to get the bits")                                     \
    X(resolution_step,CODE, MAY,  "bits that one of the value is worth")                       \
    X(resolution_most,CODE, MAY,  "largest value; those above are reserved")                   \
    X(sample_plus,  CODE,   MAY,  "half cycles")                                               \
    X(sample_times, CODE,   MAY,  "half cycles; 0: 1")                                         \
    X(sample_power, CODE,   MAY,  "0: the value itself counts")                                \
    X(length_plus,  CODE,   MAY,  "added to get the slots")                                    \
    X(channel_bandgap,CODE, MAY,  "internal input: the bandgap")                               \
    X(channel_temperature,CODE,MAY,"internal input: the temperature")                          \
    X(channel_half, CODE,   MAY,  "internal input: half of the supply")                        \
    X(channel_ground,CODE,  MAY,  "internal input: ground")                                    \
    X(trigger_edge_off,CODE,MAY,  "none")                                                      \
    X(trigger_edge_rise,CODE,MAY, "rising, and events")                                        \
    X(trigger_edge_fall,CODE,MAY, "falling")                                                   \
    X(trigger_edge_both,CODE,MAY, "both")

#define WAD_ROLES_DAC(X)                                                                       \
    X(enable,       FIELD,  MUST, "drives its output while 1")                                 \
    X(data,         FIELD,  MUST, "what comes out, at once or with the next trigger")          \
    X(align_left,   FIELD,  MAY,  "the register's first bit is the value's first")             \
    X(buffer,       FIELD,  MAY,  "1: a buffer drives the pin")                                \
    X(trigger_on,   FIELD,  MAY,  "1: what was written comes out with the next trigger")       \
    X(trigger,      FIELD,  MAY,  "which trigger it listens to, as the block's list numbers them") \
    X(start,        FIELD,  MAY,  "writing 1 is a trigger")                                    \
    X(wave,         FIELD,  MAY,  "what is added to the value at each trigger")                \
    X(wave_size,    FIELD,  MAY,  "its size: 2 ** (value + 1) - 1 steps")                      \
    X(empty,        FIELD,  MAY,  "flag: what was written is out, and the next can be written")\
    X(empty_irq,    FIELD,  MAY,  "interrupt enable for it")                                   \
    X(dma_on,       FIELD,  MAY,  "asks DMA for the next value when the last one is out")      \
    X(underrun,     FIELD,  MAY,  "flag: a trigger came, and nothing new was written")         \
    X(underrun_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(output,       SIGNAL, MUST, "analog pin")                                                \
    X(bits,         COUNT,  MAY,  "of a value; without it, as wide as the field")              \
    X(settle,       TIME,   MAY,  "from a step of full scale to half a step of the result")    \
    X(resistance,   OHM,    MAY,  "of the output without buffer")                              \
    X(headroom,     VOLT,   MAY,  "that the buffer keeps from ground and supply")              \
    X(wave_off,     CODE,   MAY,  "nothing")                                                   \
    X(wave_triangle,CODE,   MAY,  "up and down in steps of 1")                                 \
    X(wave_noise,   CODE,   MAY,  "pseudo-random bits")

#define WAD_ROLES_POWER(X)                                                                     \
    X(level,        FIELD,  MUST, "how deep the next sleep is, as the chip's `sleep` statements say") \
    X(again,        FIELD,  MAY,  "1: at the end of a handler the core goes back to sleep")    \
    X(stay,         FIELD,  MAY,  "it always does, unless the handler has written 1 here")

/* A channel moves elements from one address to another, one (or all) at each request. Where a
 * chip keeps the channels' settings in memory, the `at_` roles say where in a descriptor; the
 * registers show them once they are loaded. */
#define WAD_ROLES_DMA(X)                                                                       \
    X(on,          FIELD,  MAY,  "the block works; without it, always")                        \
    X(enable,      FIELD,  MUST, "1 arms the channel; 0 again when it has ended, by channel")  \
    X(source,      FIELD,  MUST, "address that the next element is read from, by channel")     \
    X(destination, FIELD,  MUST, "address that the next element is written to, by channel")    \
    X(count,       FIELD,  MUST, "elements; reads as what is left, by channel")                \
    X(source_go,   FIELD,  MAY,  "as source, and the channel begins, by channel")              \
    X(destination_go,FIELD,MAY,  "as destination, and the channel begins, by channel")         \
    X(count_go,    FIELD,  MAY,  "as count, and the channel begins, by channel")               \
    X(size,        FIELD,  MUST, "bytes of an element: 2 ** value, by channel")                \
    X(source_step, FIELD,  MAY,  "1: the source goes on to the next element, by channel")      \
    X(destination_step,FIELD,MAY,"1: the destination goes on to the next element, by channel") \
    X(request,     FIELD,  MAY,  "what it waits for, as the block's list numbers it, by channel") \
    X(waits,       FIELD,  MAY,  "1: it waits for requests; without it, unless `request` says none, by channel") \
    X(whole,       FIELD,  MAY,  "1: one request moves all elements, by channel")              \
    X(urgent,      FIELD,  MAY,  "1: goes before channels without it, by channel")             \
    X(chain,       FIELD,  MAY,  "1: another channel begins at this one's end, by channel")    \
    X(next,        FIELD,  MAY,  "which, by channel")                                          \
    X(wrap,        FIELD,  MAY,  "an address runs round in a window of 2 ** value bytes; 0: none, by channel") \
    X(wrap_destination,FIELD,MAY,"1: the destination does, 0: the source, by channel")         \
    X(swap,        FIELD,  MAY,  "1: the bytes of an element change places, by channel")       \
    X(sum_on,      FIELD,  MAY,  "1: elements are added to the running sum, by channel")       \
    X(sum,         FIELD,  MAY,  "running sum")                                                \
    X(repeat,      FIELD,  MAY,  "1: begins again at its end, by channel")                     \
    X(half,        FIELD,  MAY,  "flag: half of the elements is moved, by channel")            \
    X(half_irq,    FIELD,  MAY,  "interrupt enable for it, by channel")                        \
    X(end,         FIELD,  MUST, "flag: all elements are moved; not where it chains without its interrupt, by channel")\
    X(end_irq,     FIELD,  MAY,  "interrupt enable for it, by channel")                        \
    X(error,       FIELD,  MAY,  "flag: nothing is at an address, or it is misaligned; the channel has ended, by channel") \
    X(error_irq,   FIELD,  MAY,  "interrupt enable for it, by channel")                        \
    X(busy,        FIELD,  MAY,  "armed, and elements are left, by channel")                   \
    X(pause,       FIELD,  MAY,  "1: the channel holds still, by channel")                     \
    X(abort,       FIELD,  MAY,  "writing 1 ends it behind the element in flight, by channel") \
    X(descriptor,  FIELD,  MAY,  "address of the settings in memory, by channel")              \
    X(load,        FIELD,  MAY,  "writing 1 loads them and begins, by channel")                \
    X(channels,    COUNT,  MUST, "how many")                                                   \
    X(cost,        COUNT,  MAY,  "clock cycles that an element keeps the bus; 0: 2")           \
    X(latency,     COUNT,  MAY,  "clock cycles from a request to its element")                 \
    X(load_cost,   COUNT,  MAY,  "clock cycles to load a descriptor")                          \
    X(at_source,   COUNT,  MAY,  "bytes into a descriptor")                                    \
    X(at_destination,COUNT,MAY,  "bytes into a descriptor")                                    \
    X(at_count,    COUNT,  MAY,  "bytes into a descriptor")                                    \
    X(at_control,  COUNT,  MAY,  "bytes into a descriptor: the register of `size`, as loaded")  \
    X(at_link,     COUNT,  MAY,  "bytes into a descriptor: the next one's address; 0: none")   \
    X(request_none,CODE,   MAY,  "waits for nothing")                                          \
    X(count_plus,  CODE,   MAY,  "added to the count's value")
/* clang-format on */

/** Every kind with its role list: X(name, LIST). */
#define WAD_KINDS(X)                                                                               \
    X(clocks, WAD_ROLES_CLOCKS)                                                                    \
    X(pins, WAD_ROLES_PINS)                                                                        \
    X(irqc, WAD_ROLES_IRQC)                                                                        \
    X(counter, WAD_ROLES_COUNTER)                                                                  \
    X(tick, WAD_ROLES_TICK)                                                                        \
    X(encoder, WAD_ROLES_ENCODER)                                                                  \
    X(uart, WAD_ROLES_UART)                                                                        \
    X(spi, WAD_ROLES_SPI)                                                                          \
    X(frames, WAD_ROLES_FRAMES)                                                                    \
    X(adc, WAD_ROLES_ADC)                                                                          \
    X(dac, WAD_ROLES_DAC)                                                                          \
    X(power, WAD_ROLES_POWER)                                                                      \
    X(dma, WAD_ROLES_DMA)                                                                          \
    X(watchdog, WAD_ROLES_WATCHDOG)                                                                \
    X(timebase, WAD_ROLES_TIMEBASE)

#endif
