/* SPDX-License-Identifier: MIT */
/*
 * Findings: misuse of registers, interrupts and pins that silicon keeps quiet about.
 *
 *     for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
 *         wad_finding_print(sim, wad_sim_finding(sim, i), stdout);
 *
 * Numbers are stable: a script may match on them. docs/findings.md tells each
 * one's meaning and cure; it is generated from this list.
 */
#ifndef WADIUM_HOST_FINDING_H
#define WADIUM_HOST_FINDING_H

#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

/* clang-format off */
/* X(NAME, number, "what it is", "what silicon does, and the cure") */
#define WAD_FINDINGS(X)                                                                                  \
    X(GATED,           101, "access to a block whose clock is gated",                                    \
      "Silicon ignores the write or reads 0. Set the block's gate bit first.")                           \
    X(IN_RESET,        102, "access to a block that is held in reset",                                   \
      "Silicon ignores the write or reads 0. Release the reset and wait until it is over.")              \
    X(UNMAPPED,        103, "access to an address where nothing is",                                     \
      "Silicon faults or reads rubbish. Check the block's base and the register's offset.")              \
    X(CLOCK_LOST,      104, "core clock switched to a source that does not run",                         \
      "Silicon stops dead. Switch the source on and wait for its ready flag before selecting it.")       \
    X(CLOCK_LIMIT,     105, "clock outside its limits",                                                  \
      "Silicon may fail, today or in the heat. Choose other multiplier or divider values.")              \
    X(CLOCK_CHANGED,   106, "clock changed under a running timer",                                      \
      "What it counts, and every period, is of another length from now on. Stop it, or set its rate anew.") \
    X(CLOCK_FAILED,    107, "oscillator failed",                                                        \
      "What ran on it goes on with another clock, or stands still. Watch it, and set all rates anew when it is lost.") \
    X(READ_ONLY,       201, "write to a read-only register or field",                                    \
      "The write does nothing. Check the register's name: a status is not a control.")                   \
    X(RESERVED,        202, "write of 1 to reserved bits",                                               \
      "Undefined today, a feature of the next revision. Write reserved bits as 0, or as they were read.") \
    X(WIDTH,           203, "access of the wrong width or alignment",                                    \
      "Many buses fault or write neighbouring bytes. Access the register with its own width.")           \
    X(RMW_W1C,         204, "read-modify-write of a write-1-to-clear register",                          \
      "Writes back every flag that was set and so clears them all. Write the one flag's mask alone.")    \
    X(NOT_STABLE,      205, "field changed while it must be stable",                                     \
      "The outcome is undefined. Switch the block off (or meet the stated condition) first.")            \
    X(FORBIDDEN,       206, "forbidden value written",                                                   \
      "The sheet forbids this value. Compute the field anew; a forgotten rounding is the usual cause.")  \
    X(WRITE_ONLY,      207, "read of a write-only register",                                             \
      "Reads as 0 or as rubbish. Keep a copy of what was written.")                                      \
    X(LOCKED,          208, "write to a locked register",                                                \
      "Silicon ignores the write. Open the lock right before it, with interrupts closed.")               \
    X(FLAG_LOST,       209, "flag cleared before it was seen",                                           \
      "The event is lost. Write 0 to the flags that were seen and 1 to all others, without reading.")    \
    X(SPLIT_READ,      210, "halves of a running count read without looking again",                     \
      "A carry between them gives a value that never was. Read high, low, and high until it is the same.") \
    X(OWNED,           211, "write to what is not the firmware's",                                      \
      "Silicon ignores it, or another core fails. Use another channel or register.")                     \
    X(NO_HANDLER,      301, "interrupt without a handler",                                               \
      "The default handler parks for ever. Write the handler by the name in the generated vector table.") \
    X(STORM,           302, "handler returned with its flag still set",                                  \
      "It is entered again at once and main stands still. Clear the flag in the handler.")               \
    X(STALE_FLAG,      303, "interrupt enabled with its flag already set",                               \
      "The handler runs at once for an old event. Clear the flag before enabling.")                      \
    X(CHAIN_LINE,      304, "interrupt enabled at the block but not at the controller",                  \
      "The handler never runs. Enable the line at the interrupt controller.")                            \
    X(CHAIN_MASK,      305, "interrupt enabled but the global mask is closed",                           \
      "The handler never runs. Open the global mask when set-up is done.")                               \
    X(CHAIN_FLAG,      306, "interrupt enabled but its flag was never raised",                           \
      "The handler never runs. Check that the block is enabled, clocked, and its period is right.")      \
    X(CHAIN_PRIORITY,  307, "interrupt enabled but never more urgent than what runs",                    \
      "The handler never runs. Another handler of the same or a more urgent priority never ends.")       \
    X(SLOW_HANDLER,    308, "handler takes longer than its period",                                     \
      "Events are lost and main starves. Do less in the handler, or ask for it less often.")             \
    X(COMPARE_MISSED,  309, "compare value that will not be met",                                       \
      "The match comes after a whole round, or never. Set it from the last compare, and look at the count afterwards.") \
    X(PERIOD_GLITCH,   310, "period changed in the middle",                                             \
      "The count is past the new end and runs on to its largest value. Change it shadowed, or at the wrap.") \
    X(LATE_INTERRUPT,  311, "interrupt served later than required",                                     \
      "What held it up must be less urgent, or shorter. Give it a more urgent priority than the other one.") \
    X(HANDLER_WAITS,   312, "handler that waits",                                                        \
      "Everything that is no more urgent stands still. Note what came, return, and let main wait.")      \
    X(TICK_MODULO,     313, "tick count tested for a multiple in a loop",                                \
      "The loop runs faster than the tick and repeats, or slower and misses. Keep the time of the next turn, and compare.") \
    X(NO_VECTOR,       314, "handler that belongs to no interrupt",                                      \
      "Nothing calls it, and the interrupt that it was for parks. Name it as 'wadium show CHIP vectors' does.") \
    X(NEVER_ENABLED,   401, "block configured but never enabled",                                        \
      "The block does nothing. Set its enable bit, last.")                                               \
    X(NOT_ROUTED,      501, "pin function in use but routed to no pin",                                  \
      "Nothing comes out. Select the function at one of the pins that can carry it.")                    \
    X(NO_FUNCTION,     502, "pin given a function that it does not have",                                \
      "The pin floats. Look the function's number up in the pin table.")                                 \
    X(PIN_SHARED,      503, "pin given to two functions",                                              \
      "The last one wins, or both fight. Move one: wadium pins finds the fewest moves.")                 \
    X(INPUT_TWICE,     504, "input taken from two pins",                                                 \
      "Silicon joins them or takes one. Give the other pin back to its port.")                           \
    X(WATCHDOG,        601, "the watchdog reset the chip",                                               \
      "Main begins anew. Feed it more often, or stop it first thing in main where it runs from reset.")  \
    X(FED_IN_HANDLER,  602, "watchdog fed by a handler",                                                \
      "A timer's handler goes on when main hangs, and the watchdog never bites. Feed it in main.")       \
    X(OVERRUN,         801, "received byte lost",                                                        \
      "Take bytes sooner: by interrupt, at a more urgent priority, or with a FIFO's threshold lower.")   \
    X(FRAMING,         802, "stop bit was low",                                                          \
      "Both sides must have one baud and one format. Compare the divider's error with 'wadium rate'.")   \
    X(PARITY,          803, "parity bit was wrong",                                                      \
      "Both sides must have one format, or the line is noisy.")                                          \
    X(RX_EMPTY,        804, "received byte read when none has come",                                     \
      "It is the last one again, or rubbish. Look at the flag first.")                                   \
    X(TX_FULL,         805, "byte given when there was no room",                                         \
      "It is lost. Look at the flag first, or ask for the interrupt.")                                   \
    X(UART_OFF,        806, "byte given while the transmitter is off",                                   \
      "It is never sent. Enable block and transmitter first, or clock the block.")                       \
    X(CUT_OFF,         807, "transmitter switched off before the last byte had left",                    \
      "The line breaks off in the middle of it. Wait until everything has left the wire.")               \
    X(TX_NOTHING,      808, "transmit interrupt left enabled with nothing to send",                      \
      "There is always room, so it asks for ever. Disable it when the last byte has been given.")        \
    X(RX_STUCK,        809, "receiver stopped by an error flag that nobody clears",                      \
      "It takes no byte while the flag is set. Clear it in the handler, after the byte is taken.")       \
    X(BAUD_OFF,        810, "baud further off than the frame allows",                                    \
      "Bits are looked at in the wrong place. Take another divider or clock: 'wadium rate' has them all.") \
    X(LINE_INVERTED,   811, "received line rests low",                                                   \
      "An idle line is high. It is inverted, cut, or shorted: invert it, or look at the wiring.")        \
    X(SPI_MODE,        901, "exchange in a form that the device does not take",                          \
      "It takes and gives other bits than were sent. Set mode, bit order and frame size as its datasheet has them.") \
    X(SPI_CUT,         902, "select or block switched off in the middle of a frame",                     \
      "The device drops the frame, or acts on half of it. Wait until the block is not busy.")            \
    X(SPI_EARLY,       903, "received data read before the exchange was complete",                       \
      "It is the last frame again, or rubbish. Wait for the received flag, not for room to send.")       \
    X(SPI_OVERRUN,     904, "received frame lost",                                                       \
      "Each frame sent brings one back, wanted or not. Read it, and never have more under way than fit.") \
    X(SPI_FAST,        905, "clock above the device's limit",                                            \
      "It may work on the desk and fail in the heat. Take a larger divider: 'wadium rate' has them.")    \
    X(SPI_RESIZED,     906, "frame size changed while a frame was under way",                            \
      "The frame ends where nobody expects it. Wait until the block is not busy.")                       \
    X(SPI_TWO_SELECTS, 907, "select pin driven by block and port",                                       \
      "Only one of them reaches the pin. Route it to the block, or let the port have it and the block's select off.") \
    X(SPI_UNREAD,      908, "received data never looked at",                                             \
      "An exchange without a device, or with the wire cut, ends just as well. Read what came, and compare.") \
    X(SPI_SHORT,       909, "more frames compared than were exchanged",                                  \
      "What lies behind the last frame is not data. Compare as many frames as the exchange moved.")      \
    X(SPI_UNDERRUN,    910, "device without a frame to send",                                            \
      "The controller takes zeros for data. Give the first frame before it selects, the next in time.")  \
    X(SPI_FAULT,       911, "two controllers on one bus",                                                \
      "Their outputs fight. Only one may be controller at a time; ask before taking the bus.")           \
    X(SPI_FULL,        912, "frame given when there was no room",                                        \
      "It is lost. Look at the flag first, or ask for the interrupt.")                                   \
    X(SPI_OFF,         913, "frame given while the block is off",                                        \
      "It is never sent. Enable the block first, and clock it.")                                         \
    X(SPI_BOTH,        914, "two devices selected at once",                                              \
      "Both drive the received line. End one select before the next begins, and set all of them up inactive.") \
    X(ADC_SAMPLING,   1001, "sampling time too short for the source",                                   \
      "The capacitor does not reach the input, and every result is off towards the last channel. Sample longer, or add a buffer.") \
    X(ADC_CLOCK,      1002, "converter clock out of its limits",                                         \
      "Too fast, bits come out wrong; too slow, the capacitor leaks. Choose another prescaler.")         \
    X(ADC_NOT_READY,  1003, "conversion begun before the converter was ready",                           \
      "It begins nothing, or gives rubbish. Enable it, and wait for its ready flag.")                    \
    X(ADC_UNCALIBRATED,1004,"conversion without a calibration",                                          \
      "Offset and gain errors of the part are in every result. Calibrate after each power-up.")          \
    X(ADC_EARLY,      1005, "result read before the conversion was over",                                \
      "It is the last one again. Wait for the flag of the conversion's end.")                            \
    X(ADC_OVERRUN,    1006, "result lost",                                                               \
      "The next one came before it was taken. Take results by interrupt or DMA, or convert less often.") \
    X(ADC_NO_PIN,     1007, "channel that no analog pin is given to",                                    \
      "It converts what the last channel left on the capacitor. Route the pin to its analog function.")  \
    X(ADC_DIGITAL,    1008, "digital input left on at an analog pin",                                    \
      "Between the levels it draws current, and disturbs. Switch the digital input off at the port.")    \
    X(ADC_TRIGGER,    1009, "trigger faster than the conversion",                                        \
      "Triggers that come meanwhile are lost, and the rate is not what it seems. Sample shorter, or trigger less often.") \
    X(ADC_REFERENCE,  1010, "reference not ready",                                                       \
      "Results are scaled by what it has reached so far. Wait until it has settled; look at its pin.")   \
    X(ADC_LEFT,       1011, "left-aligned result taken as it stands",                                    \
      "Each is a multiple of 2 to the power of the missing bits, and beyond full scale. Shift it right, or align right.") \
    X(ADC_RANGE,      1012, "input beyond what can be converted",                                        \
      "The result is clipped and looks plausible. Divide the voltage, or take a higher reference.")      \
    X(ADC_RESERVED,   1013, "reserved resolution",                                                       \
      "Silicon does what it likes. Clear the field before setting it: |= only adds bits.")               \
    X(DAC_UNDERRUN,   1014, "trigger without a new value",                                               \
      "The last value stands twice, and the wave limps. Refill sooner, at a more urgent priority.")      \
    X(ADC_ORDER,      1015, "halves of a result read in the wrong order",                               \
      "Reading one holds the other: first that one, or the value is of two results. wad_get has it right.") \
    X(SLEEP_STOPS,    1101, "sleep that stops a clock which is needed",                                  \
      "What was under way breaks off, or nothing is left to wake the core. Sleep less deep, or wait until it is over.") \
    X(WAKE_LOST,      1102, "wake-up that can be lost",                                                  \
      "Look and sleep with interrupts closed: a pending one still ends the sleep. wad_sleep_until does.") \
    X(NEVER_RESUMES,  1103, "main never goes on after its sleep",                                        \
      "The core goes back to sleep after each handler. Tell it to stay awake in the one that main waits for: wad_wake_up does.") \
    X(DMA_SIZE,       1201, "element smaller or larger than the register",                             \
      "Bits are lost, or a neighbour is touched. Make SIZE what the data register holds.")             \
    X(DMA_STEP,       1202, "address that goes on over a data register",                                \
      "The second element comes from, or goes to, the next register. Let the peripheral's side stand still.") \
    X(DMA_BYTES,      1203, "count in bytes where elements are wanted",                                 \
      "It runs beyond the buffer, over what lies behind it. Divide by the element's size.")             \
    X(DMA_BEYOND,     1204, "transfer beyond its buffer",                                               \
      "What lies behind it is overwritten, or sent. Count what fits from where it begins.")             \
    X(DMA_WINDOW,     1205, "window not aligned to its size",                                           \
      "Addresses run round at multiples of the window's size, not at the buffer's ends. Align the buffer to it.") \
    X(DMA_OVERLAP,    1206, "destination overwrites source not read yet",                               \
      "What is copied there is read again as source. Copy from the end, or through a buffer.")          \
    X(DMA_STACK,      1207, "buffer on a stack frame that has returned",                                \
      "Other functions' variables lie there now. Make it static, or wait for the end before returning.") \
    X(DMA_LATE,       1208, "half of a ring not taken before the next was full",                        \
      "Data are overwritten while they are worked on. Make the ring larger, or its handler more urgent.") \
    X(DMA_TWICE,      1209, "request claimed by two channels",                                          \
      "Each gets some of the elements. Give it to one, or stop the other first.")                       \
    X(DMA_EARLY,      1210, "peripheral that asked before its channel was armed",                       \
      "What came before is lost or old. Arm the channel first, then start the peripheral.")             \
    X(DMA_ROUND,      1211, "ring where a single transfer was meant",                                   \
      "It began anew at its end, over what had just arrived. Leave repetition off.")                    \
    X(DMA_ENDED,      1212, "single transfer where a ring was meant",                                   \
      "The peripheral goes on asking, and nobody answers. Let the channel repeat, or start it again at its end.") \
    X(DMA_STALE,      1213, "channel armed with its end flag still set",                                \
      "Whoever polls it takes the last transfer's end for this one's. Clear it before arming.")         \
    X(DMA_UNASKED,    1214, "channel waits for a peripheral that does not ask",                         \
      "Not one element moves. Set the peripheral's own request enable, and start it.")                  \
    X(DMA_KEEP,       1215, "peripheral stops asking at the end of the first round",                    \
      "The ring stands still behind it. Set the bit that keeps it asking.")                             \
    X(DMA_TYPE,       1216, "element size unlike the buffer's type",                                    \
      "Elements lie squeezed or spread in it. Make them alike.")                                        \
    X(DMA_REWIND,     1217, "addresses not rewound before a second start",                              \
      "They stand where the last transfer ended: it goes on behind the buffer. Write them again.")      \
    X(DMA_PAUSED,     1218, "channel paused for ever",                                                  \
      "The rest never moves. Let it go on, or abort it.")                                               \
    X(DMA_CHAIN,      1219, "channel chained to itself",                                                \
      "It begins nothing. Name another one, or let it repeat.")                                         \
    X(DMA_ALIGN,      1220, "misaligned address",                                                       \
      "The channel stops with an error. An address must be a multiple of the element's size.")          \
    X(DMA_UNMAPPED,   1221, "transfer where nothing is",                                                \
      "The channel stops with an error; what was moved stays. Look at the address and the count.")      \
    X(DMA_ZERO,       1222, "transfer of no elements",                                                  \
      "Nothing moves, and no end comes. Write the count before the channel is armed.")                  \
    X(DMA_LOST,       1223, "request lost: the last one still waited",                                  \
      "The channel is too slow for its timer. Make it urgent, or ask less often.")                      \
    X(SHARED_PLAIN,    701, "plain variable shared with a handler",                                      \
      "The compiler may keep it in a register or move the access. Make it volatile, or close interrupts around it.") \
    X(TORN,            702, "variable wider than the bus accessed in halves",                            \
      "A handler between the halves leaves them from two values. Close interrupts around it, or read until equal.") \
    X(BROKEN_UPDATE,   703, "read-modify-write that a handler breaks",                                   \
      "One of the two changes is lost. Close interrupts around it, or use a set, clear or toggle register.") \
    X(DMA_OWNED,       704, "buffer touched while DMA owns it",                                          \
      "It is half old, half new. Wait for the transfer's end, or use the half that it is not working on.") \
    X(HOISTED,         705, "loop that waits for a plain variable",                                      \
      "The compiler reads it once and loops for ever. Make it volatile.")                                \
    X(DELAY_LOOP,      706, "delay loop that touches nothing",                                           \
      "It takes no simulated time, and on the chip a time nobody knows. Use a timer, or say wad_cycles(n).")
/* clang-format on */

typedef enum wad_finding_kind {
#define WAD_FINDING_KIND(name, number, what, cure) WAD_FINDING_##name = number,
    WAD_FINDINGS(WAD_FINDING_KIND)
#undef WAD_FINDING_KIND
} wad_finding_kind;

/** A place in the firmware's source; NULL and 0 where unknown. */
typedef struct wad_place {
    const char *function;
    const char *file;
    unsigned line;
} wad_place;

/** `wanted` is the path, or its end from a folder's or the file's name on: "main.c" is not
 * "domain.c". */
bool wad_place_is_in(const char *path, const char *wanted);

#define WAD_FINDING_PLACES 6

typedef struct wad_finding {
    wad_finding_kind kind;
    const char *what; /**< one line, with register, field and value */
    const char *hint; /**< the cure, with the datasheet's reference where the sheet has one */
    uint64_t first_ps;
    uint64_t last_ps;
    unsigned count;
    /** Where: the user's own line first, then its callers; library frames inside it are left out.
     */
    wad_place places[WAD_FINDING_PLACES];
    unsigned n_places;
    /** The register with the value that was written (or stood there) and the bits in question;
     * `bits` 0: none to show. */
    const struct wad_register *reg;
    uint32_t reg_index;
    uint64_t value, bits;
} wad_finding;

/** "clock gated", ... for a number; NULL for an unknown one. */
const char *wad_finding_title(wad_finding_kind kind);
const char *wad_finding_cure(wad_finding_kind kind);

/** Text as the command line shows it, the source line quoted. */
void wad_finding_print(const wad_finding *finding, FILE *out);

#endif
