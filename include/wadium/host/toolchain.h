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

#include <glib.h>

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
 * A part of a bench's own (<wadium/host/part.h>): one C file into a shared object. Blocks while the
 * compiler runs. False: nothing was written, and `log` (always free with g_free) has its words.
 */
bool wad_build_part(const char *source, const char *output, char **log);

/** What is built for the target itself. */
typedef struct wad_image {
    const char *chip;           /**< name or path of a sheet */
    const char *board;          /**< name or path, or NULL */
    const char *const *sources; /**< C files, NULL-terminated */
    const char *const *flags;   /**< more for the compiler, NULL-terminated, or NULL */
    const char *cpu;            /**< "cortex-m0plus", "cortex-m4" or "rv32"; NULL: by the sheet */
    bool ram;                   /**< all of it in RAM, for a probe to load; else in flash */
    const char *output;         /**< NAME.elf */
    const char *map;            /**< the linker's map, or NULL */
} wad_image;

/** One object's share of an image, in bytes. */
typedef struct wad_image_part {
    char *name;    /**< "uart", "lamp" */
    char *group;   /**< "program", "drivers", "start-up", "compiler" */
    unsigned code; /**< with constants */
    unsigned data; /**< variables with a first value: in flash and in RAM */
    unsigned zero; /**< variables without */
} wad_image_part;

/** A bound of what a stack is used for. */
typedef struct wad_image_stack {
    unsigned main;     /**< bytes, the deepest way from main */
    unsigned handlers; /**< all of them inside of each other, their entries included */
    unsigned n_handlers;
    char *deepest;   /**< "main > wad_block_up > ..." */
    char *unbounded; /**< what has no bound: recursion, frames that grow; NULL: nothing */
    char *assumed;   /**< functions that were not compiled here, and calls by pointer; or NULL */
} wad_image_stack;

typedef struct wad_image_report {
    GPtrArray *parts; /**< wad_image_part, largest first */
    unsigned code, data, zero;
    uint64_t flash, ram; /**< that the chip has; 0: none */
    wad_image_stack stack;
} wad_image_report;

/**
 * Generates the chip's files, compiles sources, drivers and start-up with the cross compiler, links
 * them, and measures. Blocks while compilers run. False: nothing was written; `log` (always free
 * with g_free) has the compiler's words.
 */
bool wad_build_image(const wad_image *image, wad_image_report *report, char **log);
void wad_image_report_clear(wad_image_report *report);
/** Sizes by section and by driver, and the stack. */
void wad_image_report_print(const wad_image_report *report, FILE *out);

/**
 * Writes a project that builds and runs as it is: main.c, NAME.bench, README.md in a new folder
 * `path`. False: `why` (g_free), nothing written; an existing folder is never touched.
 */
bool wad_new_project(const char *chip, const char *path, char **why);

#endif
