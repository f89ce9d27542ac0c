/* SPDX-License-Identifier: MIT */
/* `BLOCK.REGISTER.FIELD=VALUE` among registers with values. */
#include <glib.h>
#include <string.h>

#include "values.h"
#include "wadium/host/clocktree.h"

bool wad_regs_set(wad_regs *regs, const char *setting, char **why)
{
    const char *equals = strchr(setting, '=');
    char *path = g_strndup(setting, equals ? (gsize)(equals - setting) : strlen(setting));
    wad_fieldref ref;
    wad_word word = {0};
    bool ok = false;
    *why = NULL;
    if (!equals) {
        *why = g_strdup_printf("'%s' is not written BLOCK.REGISTER.FIELD=VALUE", setting);
    } else if (wad_sheet_resolve(regs->sheet, path, &ref, why) && ref.field) {
        char *one = g_strdup_printf("%s%s", strrchr(path, '.') + 1, equals);
        const char *const settings[] = {one, NULL};
        uint64_t start = wad_regs_read(regs, ref.block, ref.reg, ref.reg_index);
        ok = wad_encode(&ref, start, settings, &word, why);
        g_free(one);
    } else if (!*why && wad_parse_number(equals + 1, &word.value)) {
        ok = true;
    } else if (!*why) {
        *why = g_strdup_printf("'%s' is no number", equals + 1);
    }
    if (ok)
        wad_regs_put(regs, &ref, word.value);
    g_free(path);
    return ok;
}
