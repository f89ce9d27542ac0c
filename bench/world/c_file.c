/* SPDX-License-Identifier: MIT */
#include "c_file.h"

#include <dlfcn.h>

#include "wadium/host/output.h"
#include "wadium/host/toolchain.h"

static void *symbol_in(wad_bench *b, const char *library, const char *symbol, const char *macro,
                       char **why)
{
    void *handle = dlopen(library, RTLD_NOW | RTLD_LOCAL), *found = NULL;
    if (handle) {
        g_ptr_array_add(b->libraries, handle);
        found = dlsym(handle, symbol);
    }
    if (!found)
        *why =
            handle ? g_strdup_printf("write %s(its class) at its end", macro) : g_strdup(dlerror());
    return found;
}

void *wadi_c_file_load(wad_bench *b, const char *path, const char *symbol, const char *macro,
                       char **why)
{
    void *found = NULL;
    char *folder = wad_output_folder("wadium-part", why);
    char *library = folder ? g_build_filename(folder, "part.so", NULL) : NULL;
    if (library && wad_build_part(path, library, why)) {
        g_free(*why); /* what the compiler said of a file that it took */
        *why = NULL;
        found = symbol_in(b, library, symbol, macro, why);
    }
    wad_output_remove_folder(folder);
    g_free(library);
    g_free(folder);
    return found;
}
