/* SPDX-License-Identifier: MIT */
/*
 * What lint doubts in a sheet that reads well: X(NAME, number, "what it is", "what to do"). Numbers
 * are stable: L1.. registers, L2.. the chip, L3.. what is typed, but not simulated.
 */
#ifndef WADIUM_HOST_WARNINGS_H
#define WADIUM_HOST_WARNINGS_H

/* clang-format off */
#define WAD_WARNINGS(X) \
    X(FIELD_OVERLAP, 101, "fields of a register overlap", \
      "Compare their bits with the datasheet: one is a place off.") \
    X(RESET_STRAY, 103, "a reset value sets bits that no field has", \
      "Type the field, or `reserved`, or another reset value.") \
    X(RESET_FORBIDDEN, 104, "a field is after reset what it must not be", \
      "The reset value, or the field's `not`, is wrong.") \
    X(REGISTER_OVERLAP, 105, "registers overlap", \
      "Only one that is read and one that is written share an address.") \
    X(BLOCK_OVERLAP, 201, "blocks overlap", \
      "A base or a register's offset is wrong.") \
    X(MEMORY_OVERLAP, 202, "a block lies in memory", \
      "A base, or the memory's size, is wrong.") \
    X(PIN_SHARED, 203, "one function of a pin is given to two signals", \
      "They cannot be told apart: look the function's number up.") \
    X(ENTRY_SHARED, 204, "a flag that is cleared at entry shares its interrupt", \
      "The handler cannot know which flag it came for.") \
    X(NO_TRIGGERS, 205, "a block that selects a trigger lists none", \
      "Type its `triggers`.") \
    X(NO_REQUESTS, 206, "a DMA block lists no requests", \
      "Type its `requests`.") \
    X(CLOCK_UNWATCHED, 207, "a clock that can be lost is never watched", \
      "Say `watched` while what it is.") \
    X(CLOCK_SILENT, 208, "a clock has no frequency after reset", \
      "Its law divides by what is 0, or its source does not run.") \
    X(CLOCK_LIMITS, 209, "a clock is outside its limits after reset", \
      "A reset value or a limit is wrong.") \
    X(LINE_SHARED, 210, "an interrupt line that units share has no name", \
      "Name it, as in `line 9 TIMERS`: its handler is handle_TIMERS then.") \
    X(CODE_UNKNOWN, 301, "a code that the kind does not know", \
      "What stands there changes nothing in a run. Leave it out, or look for the word that is meant.") \
    X(ROLE_MISSING, 302, "a role that the kind needs is not bound", \
      "Bind it: without it the block does nothing in a run.") \
    X(VALUE_SPLIT, 303, "a value split in a way that role tables cannot say", \
      "The simulator follows it; drivers do not have it.") \
    X(COUNTER_WITHOUT_PERIOD, 304, "a counter without reload and start", \
      "Bind one of them: nothing says how long a period is.") \
    X(ROLE_TWICE, 305, "a role is bound twice", \
      "The second one has no effect: take one out.") \
    X(CLEARS_NOTHING, 306, "a register clears what nothing can clear", \
      "Give the flags the access that clears them (w1c).") \
    X(LINE_SILENT, 307, "an interrupt line that nothing raises", \
      "Bind the flag with its enable, or take the line out.") \
    X(FLAG_WITHOUT_LINE, 308, "a flag with an interrupt enable and no line", \
      "Give it a line, or let the one without flags take the rest.") \
    X(NO_DRIVER, 309, "a form that no driver serves yet", \
      "The simulator follows it; write plain C for it.") \
    X(NUMBER_IGNORED, 310, "a number that the kind's model does not take", \
      "Bind the field, and say what its codes mean in words of the kind.") \
    X(VALUE_UNKNOWN, 311, "a value of a field that its role does not know", \
      "Say in braces behind the role what its codes mean: mode CTRL.MODE { 1 up, 2 down }.") \
    X(ROLE_READS, 312, "a role in a field that reads as an expression", \
      "Bind the bits that are stored: the model sees those.") \
    X(OWN_KIND, 313, "a kind of the sheet's own", \
      "Write a model in C (docs/simulator.md), and name it in a bench or a board: model \"FILE.c\" for UNIT.") \
    X(FIELD_UNASKED, 314, "fields that nothing asks for", \
      "They hold what is written, and do nothing. Bind them to roles, say what they do in a hook, or leave them: your firmware's use of them is not tested.") \
    X(SIGNAL_IDLE, 315, "pins that no role drives or hears", \
      "Bind a role to them: output[n] pins CH.") \
    X(SIGNAL_MISSING, 316, "a role bound to pins that the block has not", \
      "Say in the block on which pins it comes out: pins CH0 out { PA0 fn 1 }.") \
    X(PINS_WITHOUT_PORT, 317, "pins without a port", \
      "Let the block act as gpio, so that somebody drives and reads them.") \
    X(DRAWS_NEVER, 318, "a current that is never drawn", \
      "Only what acts as something is active.") \
    X(NEVER_WRITTEN, 319, "behaviour at writing, of what nothing can write", \
      "Its access kind, or the behaviour, is wrong.") \
    X(EVENT_NEVER, 320, "an event that cannot happen", \
      "The register is only written: name another access.") \
    X(LOCK_IDLE, 321, "a lock that guards nothing", \
      "Say `locked NAME` at the registers that it keeps.") \
    X(ENTRY_NEVER, 322, "cleared at entry, without a line", \
      "Bind the flag and its enable to roles, and give the unit its line.") \
    X(CLOCK_UNUSED, 323, "a clock that nothing runs on", \
      "Name it at a block, in a law or a delay.") \
    X(CLOCK_UNTOLD, 324, "a watched clock whose failure does nothing", \
      "Say which flag it sets, `lost PATH`, or what hardware does `instead`.") \
    X(ROUTE_IDLE, 325, "a route without pins", \
      "Say which pins the block's signals come out on.") \
    X(SPACE_EMPTY, 326, "a space that holds nothing", \
      "Say at blocks and memories that they lie `in` it.")
/* clang-format on */

typedef enum wad_warning {
#define WAD_WARNING_NUMBER(name, number, what, cure) WAD_WARNING_##name = number,
    WAD_WARNINGS(WAD_WARNING_NUMBER)
#undef WAD_WARNING_NUMBER
} wad_warning;

#endif
