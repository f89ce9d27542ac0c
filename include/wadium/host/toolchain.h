/* SPDX-License-Identifier: MIT */
/*
 * Firmware from sources, and new projects: what `wadium build` and `wadium new` do.
 *
 *     const char *sources[] = {"main.c", NULL};
 *     wad_build b = {.chip = "corran32", .sources = sources, .output = "gauge.wfw"};
 *     char *log;
 *     if (!wad_build_firmware(&b, &log))
 *         fputs(log, stderr);
 *     g_free(log);
 */
#ifndef WADIUM_HOST_TOOLCHAIN_H
#define WADIUM_HOST_TOOLCHAIN_H

#include "board.h"

typedef struct wad_build {
    const char *chip;           /**< name or path of a sheet */
    const char *board;          /**< name or path, or NULL: adds the header of its pin names */
    const char *const *sources; /**< C files, NULL-terminated */
    const char *const *flags;   /**< more for the compiler, NULL-terminated, or NULL */
    const char *compiler; /**< gcc or clang, or a path to one; NULL: the first that is there */
    const char *output;   /**< NAME.wfw */
} wad_build;

/**
 * Generates the chip's files in a folder of its own, compiles the sources so that plain volatile C
 * calls in, and links them with the vector table and Wadium's drivers. Blocks while compilers run.
 * False: nothing was written, and `log` (always free with g_free) has the compiler's words.
 */
bool wad_build_firmware(const wad_build *build, char **log);

/**
 * Writes a project that builds and runs as it is: main.c, NAME.bench, README.md in a new folder
 * `path`. False: `why` (g_free), nothing written; an existing folder is never touched.
 */
bool wad_new_project(const char *chip, const char *path, char **why);

#endif
