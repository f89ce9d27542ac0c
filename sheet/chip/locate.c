/* SPDX-License-Identifier: MIT */
/* Finds chips, boards and benches by name. */
#include <glib.h>
#include <string.h>

#include "wadium/host/sheet.h"

#ifndef WADIUM_DATA_DIR
#error "WADIUM_DATA_DIR names the folder that holds chips/ and boards/; CMakeLists.txt sets it"
#endif

static char *try_in(const char *folder, const char *name, const char *extension)
{
    static const char *const below[] = {"", "chips", "boards"};
    char *lower = g_ascii_strdown(name, -1);
    char *found = NULL;
    for (unsigned i = 0; i < G_N_ELEMENTS(below) && !found; i++) {
        char *file = g_strconcat(lower, extension, NULL);
        char *path = g_build_filename(folder, below[i], file, NULL);
        if (g_file_test(path, G_FILE_TEST_IS_REGULAR))
            found = g_steal_pointer(&path);
        g_free(path);
        g_free(file);
    }
    g_free(lower);
    return found;
}

char *wad_locate(const char *name, const char *extension, const char *beside)
{
    if (g_str_has_suffix(name, extension)) {
        if (g_file_test(name, G_FILE_TEST_IS_REGULAR))
            return g_strdup(name);
        char *folder = beside ? g_path_get_dirname(beside) : g_strdup(".");
        char *path = g_build_filename(folder, name, NULL);
        g_free(folder);
        if (g_file_test(path, G_FILE_TEST_IS_REGULAR))
            return path;
        g_free(path);
        return NULL;
    }
    char *folder = beside ? g_path_get_dirname(beside) : g_strdup(".");
    char *found = try_in(folder, name, extension);
    g_free(folder);
    const char *paths = g_getenv("WADIUM_PATH");
    char **list = g_strsplit(paths ? paths : "", ":", -1);
    for (unsigned i = 0; list[i] && !found; i++)
        found = *list[i] ? try_in(list[i], name, extension) : NULL;
    g_strfreev(list);
    return found ? found : try_in(WADIUM_DATA_DIR, name, extension);
}
