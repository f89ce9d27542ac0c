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
      "The simulator follows it; write plain C for it.")
/* clang-format on */

typedef enum wad_warning {
#define WAD_WARNING_NUMBER(name, number, what, cure) WAD_WARNING_##name = number,
    WAD_WARNINGS(WAD_WARNING_NUMBER)
#undef WAD_WARNING_NUMBER
} wad_warning;

#endif
