/* SPDX-License-Identifier: MIT */
/*
 * Control words: fields to bits and back.
 *
 *     wad_fieldref ref;
 *     char *why;
 *     const char *const set[] = {"EN=1", "MODE=down", NULL};
 *     wad_word w;
 *     wad_sheet_resolve(sheet, "CNT0.CTRL", &ref, &why);
 *     if (!wad_encode(&ref, ref.reg->reset, set, &w, &why))
 *         fprintf(stderr, "%s\n", why);
 *     wad_show_encoded(sheet, &w, true, stdout);
 *
 * Nothing here keeps state.
 */
#ifndef WADIUM_HOST_WORDS_H
#define WADIUM_HOST_WORDS_H

#include "sheet.h"

/** A register with a value. */
typedef struct wad_word {
    wad_fieldref ref; /**< the register; `field` is NULL */
    uint64_t value;
    uint64_t given; /**< bits of the fields that were set by name */
} wad_word;

/**
 * Sets fields in `start`. A setting is FIELD=VALUE or FIELD[3]=VALUE; VALUE is a number (0x..,
 * 0b.., decimal, `_` between digits) or the name of one of the field's values. False: `why`
 * (g_free) says which setting is wrong and what would be right.
 */
bool wad_encode(const wad_fieldref *reg, uint64_t start, const char *const *settings,
                wad_word *word, char **why);

/** What settings with units need: the sheet, and the block's clock (num 0: as after reset). */
typedef struct wad_encode_rates {
    const wad_sheet *sheet;
    wad_rational clock;
    char *told; /**< out: what came of each, a line each, or NULL; g_free */
} wad_encode_rates;

/**
 * The same, where a setting may also be FIELD=RATE (2kHz, 500ms) of a field that a rate law rests
 * on, or LAW=RATE for all of the law's fields in this register. The other fields of the law are
 * held: in this register as set so far, elsewhere as after reset.
 */
bool wad_encode_rated(wad_encode_rates *rates, const wad_fieldref *reg, uint64_t start,
                      const char *const *settings, wad_word *word, char **why);

/** A number as settings and dumps write it. False: it is none. */
bool wad_parse_number(const char *text, uint64_t *value);
/** An address as wad_format_address writes it; a plain number is one of the space without a name.
 * False: it is none. */
bool wad_parse_address(const wad_sheet *sheet, const char *text, uint64_t *address);

/** The register that an address lies in; false when none does. Of two at one address the one that
 * is read. */
bool wad_sheet_at(const wad_sheet *sheet, uint64_t address, wad_fieldref *ref);

/** Values of many registers, <wadium/host/clocktree.h>. */
typedef struct wad_regs wad_regs;

/** Does a field of the word mean anything (`when` in the sheet)? What the word does not tell is
 * looked up in `regs`; NULL: unknown. */
typedef enum wad_meaning { WAD_MEANS, WAD_MEANS_NOTHING, WAD_MEANING_UNKNOWN } wad_meaning;
wad_meaning wad_word_meaning(const wad_word *word, const wad_bitfield *field, const wad_regs *regs);

/** What is wrong with a value: a field that was given and means nothing, reserved bits, a value
 * without a name, one that must not be. One line each, in a NULL-terminated list; free with
 * g_strfreev. */
char **wad_word_doubts(const wad_word *word);

/** Hex, the register drawn with the fields that were set, every field with its meaning, and the C
 * that writes it; `all`: also fields left as after reset stand in the C. */
void wad_show_encoded(const wad_sheet *sheet, const wad_word *word, bool all, FILE *out);
/** The register drawn with the value, every field with its meaning, and what is wrong with it. */
void wad_show_decoded(const wad_sheet *sheet, const wad_word *word, FILE *out);
/** One line: CNT0.CTRL 0x00000011  EN 1, MODE 0 up, SHADOW 1. */
void wad_show_word_line(const wad_word *word, FILE *out);

/** The i-th field of the word as that line has it, "MODE 0 up", and where it lies (`ref->field`
 * set); NULL past the last; g_free. */
char *wad_word_field(const wad_word *word, unsigned i, wad_fieldref *ref);

/** Values by address, in the order given. */
typedef struct wad_dump wad_dump;
/**
 * Lines of an address or BLOCK.REGISTER and a value; `#` begins a comment. NULL: `diags` names file
 * and line.
 */
wad_dump *wad_dump_read(const wad_sheet *sheet, const char *path, wad_diags *diags);
wad_dump *wad_dump_parse(const wad_sheet *sheet, const char *text, const char *name,
                         wad_diags *diags);
void wad_dump_free(wad_dump *dump);
unsigned wad_dump_count(const wad_dump *dump);
const wad_word *wad_dump_word(const wad_dump *dump, unsigned i);
/** Field by field what differs; the number of differences. */
unsigned wad_dump_diff(const wad_dump *before, const wad_dump *after, FILE *out);

/** Every name, description, value and address that `text` occurs in, one a line; how many. An
 * address is found by its number, in hex with or without 0x. */
unsigned wad_find(const wad_sheet *sheet, const char *text, FILE *out);

#endif
