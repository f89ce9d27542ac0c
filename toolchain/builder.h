/* SPDX-License-Identifier: MIT */
/* What building firmware and images has in common: generated files, compilers run, their words. */
#ifndef WADI_TOOLCHAIN_BUILDER_H
#define WADI_TOOLCHAIN_BUILDER_H

#include <glib.h>

#include "wadium/host/toolchain.h"

#ifndef WADIUM_ROOT
#error "WADIUM_ROOT names the folder that holds include/, ports/ and drivers/"
#endif

typedef struct wadi_builder {
    const char *chip, *board; /* names or paths; board NULL: none */
    wad_sheet *sheet;
    char *folder; /* generated files and objects; removed at the end */
    GPtrArray *objects;
    GPtrArray *fresh; /* of the cache: objects to keep, each followed by its place there */
    char *headers;    /* the sum of all headers; NULL: not known yet */
    GString *log;
} wadi_builder;

void wadi_builder_init(wadi_builder *w, const char *chip, const char *board);
void wadi_builder_clear(wadi_builder *w);
/** Appends a line to the log; false. */
bool wadi_builder_fail(wadi_builder *w, const char *format, const char *arg);

/** Reads the sheet, writes the chip's and the board's files. */
bool wadi_builder_prepare(wadi_builder *w);
typedef void (*wadi_writer)(const wad_sheet *sheet, FILE *out);
/** One more file, CHIP plus `suffix`, or `suffix` alone where it is a whole name. */
bool wadi_builder_generate(wadi_builder *w, const char *suffix, wadi_writer write);

void wadi_add(GPtrArray *argv, const char *format, const char *arg);
/** A file, which is none of the compiler's options however it is called. */
void wadi_add_file(GPtrArray *argv, const char *path);
void wadi_add_all(GPtrArray *argv, const char *const *list);
/** Runs it; what it says goes to the log. Frees argv. */
bool wadi_builder_run(wadi_builder *w, GPtrArray *argv);
/** One more to compile into `object`; `kept` is the source of one that need not be where it was
 * compiled before, NULL: it is the user's. Takes argv. */
void wadi_builder_line(wadi_builder *w, GPtrArray *lines, GPtrArray *argv, const char *kept,
                       const char *object);
/** Compiles them, as many at once as there are processors; what they say goes to the log in their
 * order. Frees them (GPtrArray of argv). */
bool wadi_builder_compile(wadi_builder *w, GPtrArray *lines);
/** A new object's path. */
const char *wadi_builder_object(wadi_builder *w, const char *source);
/** All C files of a folder of Wadium's, by name. NULL: `log` says why. */
GPtrArray *wadi_builder_sources(wadi_builder *w, const char *folder);
/** Copies a result out of the folder, whole or not at all. */
bool wadi_builder_put(wadi_builder *w, const char *name, const char *output);

#endif
