/* SPDX-License-Identifier: MIT */
/*
 * A live chip by its sheet: registers by name, snapshots, variables, programs into its RAM.
 *
 *     char *why = NULL;
 *     wad_target *t = wad_target_open(sheet, "127.0.0.1:3333", NULL, &why);
 *     wad_fieldref ref;
 *     uint32_t value;
 *     if (t && wad_sheet_resolve(sheet, "CNT0.CTRL", &ref, &why) &&
 *         wad_target_peek(t, &ref, false, &value, &why)) ...
 *     wad_target_close(t);                                 the core goes on
 *
 * The chip is identified before anything else is read or written; another one is refused. All
 * functions block, and give `why` (g_free) where they fail.
 */
#ifndef WADIUM_HOST_TARGET_H
#define WADIUM_HOST_TARGET_H

#include "remote.h"
#include "snapshot.h"
#include "variables.h"

typedef struct wad_target wad_target;

typedef struct wad_target_options {
    wad_remote_options remote;
    bool any_chip; /**< go on where the chip's identity is another one's */
    bool stay;     /**< leave the core halted at the end */
} wad_target_options;

/** `where` as of wad_remote_open. NULL: `why`. */
wad_target *wad_target_open(const wad_sheet *sheet, const char *where,
                            const wad_target_options *options, char **why);
void wad_target_close(wad_target *t);
wad_remote *wad_target_remote(wad_target *t);
const wad_sheet *wad_target_sheet(const wad_target *t);
/** The identity as it was read, "INFO.CHIP.PART 0xC032"; NULL: the sheet knows none. */
const char *wad_target_identity(const wad_target *t);

/** A register's value, by one access of its width. Refused: one that cannot be read, one of a block
 * that is off, and one whose reading has effects unless `effects`. */
bool wad_target_peek(wad_target *t, const wad_fieldref *reg, bool effects, uint32_t *value,
                     char **why);

/** What came of a write. */
typedef struct wad_poked {
    bool readable;          /**< else only `wrote` means something */
    uint32_t before, wrote; /**< `wrote` as it went over the bus */
    uint32_t after;
    uint32_t stuck; /**< plain bits that are not as they were written */
} wad_poked;

/** Writes a whole value, or fields ("EN=1", NULL-terminated) into what stands there; flags that are
 * cleared by writing are left alone unless named. What comes back is read again. */
bool wad_target_poke(wad_target *t, const wad_fieldref *reg, const char *const *settings,
                     const uint32_t *whole, wad_poked *poked, char **why);

/** Reads registers of these blocks (NULL-terminated; NULL: all) into a snapshot; those that cannot
 * be read, of blocks that are off, or whose reading has effects are left out, and it says why. */
bool wad_target_snapshot(wad_target *t, const char *const *blocks, wad_snapshot *snapshot,
                         char **why);

/** A variable of the program on the target, its type from the image (`variables`): its text in
 * about `width` characters; g_free. NULL: `why`. */
char *wad_target_variable(wad_target *t, wad_variables *variables, const char *path, unsigned width,
                          char **why);

/** What a program's image came to in the target's memory. */
typedef struct wad_loaded {
    uint64_t bytes;
    uint64_t start; /**< where it begins */
    uint64_t stack; /**< its first stack pointer; 0: none of its own */
    uint64_t table; /**< its vectors, 0: unknown */
} wad_loaded;
/** Writes an ELF image into the target's RAM, reads it back, and sets the core to its start; it
 * does not go yet. Refused: an image whose parts do not lie in RAM, unless `flash`. */
bool wad_target_load(wad_target *t, const char *elf, bool flash, wad_loaded *loaded, char **why);

/** Where a function or variable of an image lies. False: `why`. */
bool wad_image_symbol(const char *elf, const char *name, uint64_t *address, char **why);

#endif
