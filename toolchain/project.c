/* SPDX-License-Identifier: MIT */
#include <errno.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>

#include "wadium/host/output.h"
#include "wadium/host/toolchain.h"

/* CHIP, HEADER and NAME between dollar signs are filled in. */
static const struct {
    const char *file, *text;
} templates[] = {
    {"main.c", "/* $NAME$: runs on the simulated $CHIP$ as it is. */\n"
               "#include <wadium/cpu.h>\n"
               "\n"
               "#include \"$HEADER$.h\"\n"
               "\n"
               "int main(void)\n"
               "{\n"
               "    WAD_CPU_IRQ_ON();\n"
               "    for (;;)\n"
               "        WAD_CPU_SLEEP();\n"
               "}\n"},
    {"$NAME$.bench", "bench \"$NAME$ runs\" {\n"
                     "    chip     $CHIP$\n"
                     "    firmware $NAME$\n"
                     "    run      100 ms\n"
                     "\n"
                     "    expect   no findings\n"
                     "}\n"},
    {"README.md",
     "# $NAME$\n"
     "\n"
     "    wadium build $CHIP$ main.c -o $NAME$.wfw\n"
     "    wadium run $NAME$.bench\n"
     "\n"
     "Write to registers in `main.c` (`wadium show $CHIP$` lists the blocks), name handlers as\n"
     "`wadium show $CHIP$ vectors` does, and say in `$NAME$.bench` what must come of it.\n"},
};

static char *fill(const char *text, const wad_sheet *sheet, const char *name)
{
    GString *out = g_string_new(text);
    char *header = g_ascii_strdown(sheet->name, -1);
    g_string_replace(out, "$NAME$", name, 0);
    g_string_replace(out, "$HEADER$", header, 0);
    g_string_replace(out, "$CHIP$", sheet->name, 0);
    g_free(header);
    return g_string_free(out, FALSE);
}

static bool is_name(const char *name)
{
    bool ok = g_ascii_isalpha(*name) || *name == '_';
    for (; *name && ok; name++)
        ok = g_ascii_isalnum(*name) || *name == '_';
    return ok;
}

static bool write_files(const wad_sheet *sheet, const char *path, const char *name, char **why)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(templates) && !*why; i++) {
        char *file = fill(templates[i].file, sheet, name);
        char *text = fill(templates[i].text, sheet, name);
        char *full = g_build_filename(path, file, NULL);
        wad_output_bytes(full, text, strlen(text), why);
        g_free(full);
        g_free(text);
        g_free(file);
    }
    return *why == NULL;
}

bool wad_new_project(const char *chip, const char *path, char **why)
{
    char *found = wad_locate(chip, ".sheet", NULL), *name = g_path_get_basename(path);
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = found ? wad_sheet_read(found, diags) : NULL;
    *why = NULL;
    if (!found)
        *why = g_strdup_printf("there is no chip '%s'", chip);
    else if (!sheet)
        *why = g_strdup_printf("'%s' has errors: 'wadium lint %s' lists them", found, chip);
    else if (!is_name(name))
        *why =
            g_strdup_printf("'%s' is no name for a project: letters, digits and '_', not a digit "
                            "first",
                            name);
    else if (g_mkdir(path, 0777))
        *why = g_strdup_printf("cannot make the folder '%s': %s", path, g_strerror(errno));
    else
        write_files(sheet, path, name, why);
    wad_sheet_free(sheet);
    wad_diags_free(diags);
    g_free(name);
    g_free(found);
    return *why == NULL;
}
