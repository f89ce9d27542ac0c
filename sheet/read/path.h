/* SPDX-License-Identifier: MIT */
/* Paths of names in a sheet: parsed, and looked up. */
#ifndef WADI_PATH_H
#define WADI_PATH_H

#include "build.h"

enum { WADI_PATH_PARTS = 4 };

/* A path as written: elements, each with an optional index. */
struct wadi_path {
    wad_where where;
    const char *name[WADI_PATH_PARTS];
    int64_t index[WADI_PATH_PARTS];          /* -1: none */
    int64_t last[WADI_PATH_PARTS];           /* of a range `[1 .. 7]`; else the index */
    const char *index_name[WADI_PATH_PARTS]; /* an index that is a name */
    unsigned n;
};

/** Indices are numbers and expressions of the names in `env`: `CC[n + 1].FLAG`. */
bool wadi_parse_path(wadi_cursor *c, const wadi_env *env, wadi_path *path);
/** The same where `[1 .. 7]` may stand for several elements; `ranged`: which part has one, -1:
 * none.
 */
bool wadi_parse_paths(wadi_cursor *c, const wadi_env *env, wadi_path *path, int *ranged);
/** Was an index said for the register that `ref` is? Else all of an array is meant. */
bool wadi_path_indexed(const wadi_path *path, const wad_fieldref *ref);
/** Does the layout have a group of this name? */
bool wadi_is_group(const wad_layout *layout, const char *name);
const char *wadi_path_text(wadi_arena *arena, const wadi_path *path);

/* Resolution: inside of the layout first, else in the chip; where both would do it is an error.
 * `scope` is the block whose registers a short path means, NULL at chip level. */
bool wadi_resolve(wadi_build *b, const wad_layout *layout, const wad_instance *scope,
                  const wadi_path *path, wad_fieldref *ref);
/** The same; an index beyond its array is no error, but told by `beyond`. */
bool wadi_resolve_element(wadi_build *b, const wad_layout *layout, const wad_instance *scope,
                          const wadi_path *path, wad_fieldref *ref, bool *beyond);

#endif
