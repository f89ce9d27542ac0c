/* SPDX-License-Identifier: MIT */
/* Plain volatile C built by each compiler that is installed, at -O0, -O2 and -Os, and run. */
#ifndef PLAIN_SUPPORT_H
#define PLAIN_SUPPORT_H

#include "support.h"

void plain_set_up(void);
void plain_tear_down(void);
const char *plain_folder(void);
const char *plain_compiler_name(unsigned compiler);

/* How later builds compile: in which folder, and with which option for debug information. NULLs: in
 * this program's, with -g. */
void plain_compile_as(const char *folder, const char *debug_format);

unsigned plain_compilers(void);
bool plain_installed(unsigned compiler);

/* FOLDER/fw.wfw from one source. */
void plain_build(const char *chip, unsigned compiler, const char *level, const char *source,
                 const char *define);

typedef void (*plain_check)(const wad_bench_result *r, unsigned compiler, const char *level,
                            void *ctx);

/* Builds, runs on the chip's board with what `say` says, and calls `check`, for each compiler and
 * level. */
void plain_everywhere(const char *chip, const char *source, const char *define,
                      const char *const *say, plain_check check, void *ctx);

/* Fails, with the report. */
void plain_complain(const wad_bench_result *r, const char *what, unsigned compiler,
                    const char *level);

/* A check: the finding stands at the line. */
typedef struct plain_wanted {
    unsigned finding, line;
    const char *name;
} plain_wanted;
void plain_must_find(const wad_bench_result *r, unsigned compiler, const char *level, void *ctx);

#endif
