/* SPDX-License-Identifier: MIT */
/* Paths of names in a sheet: parsed, and looked up. */
#ifndef WADI_PATH_H
#define WADI_PATH_H

#include "build.h"

/* A path as written: up to three elements, each with an optional index. */
typedef struct wadi_path {
    wad_where where;
    const char *name[3];
    int64_t index[3];          /* -1: none */
    const char *index_name[3]; /* an index that is a name, for roles */
    unsigned n;
} wadi_path;

bool wadi_parse_path(wadi_cursor *c, const wadi_env *env, wadi_path *path);
const char *wadi_path_text(wadi_arena *arena, const wadi_path *path);

/* Resolution; `scope` is the block whose registers a short path means, NULL at chip level. */
bool wadi_resolve(wadi_build *b, const wad_layout *layout, const wad_instance *scope,
                  const wadi_path *path, wad_fieldref *ref);

#endif
