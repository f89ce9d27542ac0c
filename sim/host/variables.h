/* SPDX-License-Identifier: MIT */
/* Types of the firmware's variables, as its debugging information has them. */
#ifndef WADI_VARIABLES_H
#define WADI_VARIABLES_H

#include <dwarf.h>
#include <elfutils/libdw.h>

#include "sim/core/sim.h"
#include "wadium/host/variables.h"

typedef struct wadi_variables wadi_variables;

/** The file that a declaration stands in, NULL: none. */
const char *wadi_source_decl_file(Dwarf_Die *die);
/* Most declarations in a row are of one file. */
typedef struct wadi_decl_path {
    const void *unit;
    const char *file;
    char *path; /* g_free, by who walks */
} wadi_decl_path;
/** The same as an absolute path, whatever the compiler was called with; until the next call. */
const char *wadi_source_decl_path(wadi_decl_path *last, Dwarf_Die *die);
Dwarf_Die wadi_type_of(const wad_variable *v);
/** The type behind names and qualifiers; `constant` (may be NULL) is set where one is const. */
bool wadi_type_bare(Dwarf_Die *type, bool *constant);
/** What DW_AT_type of a die names. */
bool wadi_type_named(Dwarf_Die *die, Dwarf_Die *type);
/** An attribute that is a number. */
uint64_t wadi_type_number(Dwarf_Die *die, unsigned name, uint64_t otherwise);
/** Elements of an array, all dimensions together. */
size_t wadi_type_elements(Dwarf_Die *array);
/** From a struct's address to its member's; bit fields too. */
void wadi_type_place(Dwarf_Die *member, wad_variable *v);

/** A variable of the firmware's, by an address in it. */
typedef struct wadi_extent {
    const char *name;
    uintptr_t start; /* in the host */
    size_t bytes;
    unsigned element; /* of an array of numbers, else 0 */
} wadi_extent;

/** False: there is none. */
bool wadi_variable_around(wad_sim *sim, uintptr_t host, wadi_extent *extent);
void wadi_variables_free(wadi_variables *all);

#endif
