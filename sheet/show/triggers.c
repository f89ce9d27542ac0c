/* SPDX-License-Identifier: MIT */
/* `wadium show CHIP triggers`: which block can start, gate or clock which. */
#include <glib.h>
#include <string.h>

#include "wadium/host/sheet.h"

static const wad_role_info *info_of(const wad_instance *b, const char *role)
{
    int place = wad_kind_role_index(b->layout->kind, role);
    return &b->layout->kind->roles[place];
}

/* What of it the listener sees: the flag's own words, without the "flag: ". */
static char *source_text(const wad_trigger *t)
{
    static const char by_channel[] = ", by channel";
    const char *text = info_of(t->from, t->role->name)->text;
    if (t->role->sort == WAD_ROLE_SIGNAL)
        return g_strdup("high level, and both edges of the output");
    text += g_str_has_prefix(text, "flag: ") ? 6 : 0;
    size_t n = strlen(text) - (g_str_has_suffix(text, by_channel) ? strlen(by_channel) : 0);
    return g_strndup(text, n);
}

/* "CNT1.TRIG.ACTION = 1 start, 2 gate, 3 reset, 4 count" */
static void show_actions(const wad_instance *b, FILE *out)
{
    const wad_role *action = wad_layout_role(b->layout, "action");
    if (!action || !action->field)
        return;
    wad_fieldref ref = wad_role_ref(b, action, 0);
    char *name = wad_fieldref_name(&ref);
    fprintf(out, "  %s =", name);
    for (unsigned i = 0, n = 0; i < action->field->n_enums; i++)
        if (strcmp(action->field->enums[i].name, "off"))
            fprintf(out, "%s %llu %s", n++ ? "," : "",
                    (unsigned long long)action->field->enums[i].code, action->field->enums[i].name);
    fputc('\n', out);
    g_free(name);
}

static void show_listener(const wad_instance *b, FILE *out)
{
    wad_fieldref ref = wad_role_ref(b, wad_layout_role(b->layout, "trigger"), 0);
    char *selector = wad_fieldref_name(&ref);
    fprintf(out, "%s: %s\n", b->name, b->text ? b->text : "");
    for (unsigned i = 0; i < b->n_triggers; i++) {
        char *source = wad_trigger_name(&b->triggers[i]), *text = source_text(&b->triggers[i]);
        fprintf(out, "  %s = %-3u %-16s %s\n", selector, b->triggers[i].code, source, text);
        g_free(text);
        g_free(source);
    }
    show_actions(b, out);
    g_free(selector);
}

unsigned wad_show_triggers(const wad_sheet *s, FILE *out)
{
    unsigned n = 0;
    for (unsigned i = 0; i < s->n_blocks; i++) {
        if (!s->blocks[i]->n_triggers)
            continue;
        if (n++)
            fputc('\n', out);
        show_listener(s->blocks[i], out);
    }
    return n;
}
