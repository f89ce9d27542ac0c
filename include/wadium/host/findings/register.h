/* SPDX-License-Identifier: MIT */
/* Registers: what is written there, and read. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_REGISTER_H
#define WADIUM_HOST_FINDINGS_REGISTER_H

/* clang-format off */
#define WAD_FINDINGS_REGISTER(X)                                                                                \
    X(READ_ONLY,       201, "write to a read-only register or field",                                           \
      "The write does nothing. Check the register's name: a status is not a control.")                          \
    X(RESERVED,        202, "write of 1 to reserved bits",                                                      \
      "Undefined today, a feature of the next revision. Write reserved bits as 0, or as they were read.")       \
    X(WIDTH,           203, "access of the wrong width or alignment",                                           \
      "Many buses fault or write neighbouring bytes. Access the register with its own width.")                  \
    X(RMW_W1C,         204, "read-modify-write of a write-1-to-clear register",                                 \
      "Writes back every flag that was set and so clears them all. Write the one flag's mask alone.")           \
    X(NOT_STABLE,      205, "field changed while it must be stable",                                            \
      "The outcome is undefined. Switch the block off (or meet the stated condition) first.")                   \
    X(FORBIDDEN,       206, "forbidden value written",                                                          \
      "The sheet forbids this value. Compute the field anew; a forgotten rounding is the usual cause.")         \
    X(WRITE_ONLY,      207, "read of a write-only register",                                                    \
      "Reads as 0 or as rubbish. Keep a copy of what was written.")                                             \
    X(LOCKED,          208, "write to a locked register",                                                       \
      "Silicon ignores the write. Open the lock right before it, with interrupts closed.")                      \
    X(FLAG_LOST,       209, "flag cleared before it was seen",                                                  \
      "The event is lost. Write 0 to the flags that were seen and 1 to all others, without reading.")           \
    X(SPLIT_READ,      210, "halves of a running count read without looking again",                             \
      "A carry between them gives a value that never was. Read high, low, and high until it is the same.")      \
    X(OWNED,           211, "write to what is not the firmware's",                                              \
      "Silicon ignores it, or another core fails. Use another channel or register.")                            \
    X(WRITE_LOST,      212, "write while the one before is under way",                                          \
      "The write is lost. Wait for the register's busy bit to fall before writing again.")
/* clang-format on */

#endif
