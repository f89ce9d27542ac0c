/* SPDX-License-Identifier: MIT */
/* Chips of a few lines, whose firmware is a function of the test: plain reads and writes. */
#ifndef TEST_SMALL_CHIP_H
#define TEST_SMALL_CHIP_H

#include "support.h"
#include "wadium/port.h"

/** The first block of a small chip. */
#define BASE 0x40000000u
#define HEAD "chip T {\n bus little 32\n memory ram at 0x2000_0000 size 4 KiB\n clock core 8 MHz\n"
/** A chip with this one block A, and its layout's text. */
#define ONE_BLOCK(layout) HEAD "block A at 0x4000_0000 like l\n}\nlayout l {\n" layout "\n}\n"

/** The chip that runs now, and the first check of its firmware that did not hold. */
extern wad_sim *small_sim;
extern char small_story[256];

/** In the firmware: noted, for the test fails outside of it. */
#define CHECK(condition)                                                                           \
    do {                                                                                           \
        if (!(condition) && !*small_story)                                                         \
            snprintf(small_story, sizeof small_story, "%s line %d: %s", __FILE__, __LINE__,        \
                     #condition);                                                                  \
    } while (0)
#define CHECK_READ(at, want)                                                                       \
    do {                                                                                           \
        uint32_t got_ = in(at);                                                                    \
        if (got_ != (want) && !*small_story)                                                       \
            snprintf(small_story, sizeof small_story, "%s line %d: %s reads 0x%x, not 0x%x",       \
                     __FILE__, __LINE__, #at, got_, (unsigned)(want));                             \
    } while (0)

uint32_t in(uint32_t at);
void out(uint32_t at, uint32_t value);
uint8_t in8(uint32_t at);
void out8(uint32_t at, uint8_t value);

#define ANY_FINDINGS UINT32_MAX

/** Called with each chip that is made, before it runs; NULL: nothing is. */
extern void (*small_prepare)(wad_sim *sim);

/** Runs it for 10 ms; the findings are counted, others than `findings` of them printed. */
void small_run(const char *text, int (*body)(void), unsigned findings);
void small_run_handlers(const char *text, int (*body)(void), const wad_handler *handlers,
                        unsigned n, unsigned findings);
/** The run says `words` in one of its findings. */
void small_finds(const char *text, int (*body)(void), const char *words);
/** Read; a failed test on errors. */
wad_sheet *small_parse(const char *text);
/** The sheet is wrong, and one message holds these words. */
void small_refused(const char *text, const char *words);
/** Plain C of a chip in tests/chips, built and judged by its bench: what the run prints holds
 * `verdict`. */
void small_run_whole(const char *chip, const char *program, const char *verdict);

#endif
