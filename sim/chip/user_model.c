/* SPDX-License-Identifier: MIT */
#include "user_model.h"

#include <glib.h>
#include <string.h>

/* Nobody can say whether it would have been enabled. */
static void begin(wad_model *m)
{
    wad_model_enabled(m);
}

const wad_model_class wadi_model_of_nothing = {.kind = "", .reset = begin};

/* The words of a class's list, without their marks. */
static char **words_of(const char *roles)
{
    return g_strsplit(roles, " ", -1);
}

static const char *plain(const char *word)
{
    return *word == '!' ? word + 1 : word;
}

static bool is_listed(char **words, const char *role)
{
    for (unsigned i = 0; words[i]; i++)
        if (!strcmp(plain(words[i]), role))
            return true;
    return false;
}

static char *wrong_roles(const wad_instance *unit, char **words)
{
    const wad_kind *sheet = unit->layout->kind;
    for (unsigned i = 0; i < sheet->n_roles; i++)
        if (!is_listed(words, sheet->roles[i].name))
            return g_strdup_printf("the model knows no role '%s' of kind '%s', which %s binds",
                                   sheet->roles[i].name, sheet->name, unit->name);
    for (unsigned i = 0; words[i]; i++) {
        if (*words[i] == '!' && !wad_layout_role(unit->layout, plain(words[i])))
            return g_strdup_printf("the model needs role '%s' of kind '%s', which %s does not bind",
                                   plain(words[i]), sheet->name, unit->name);
        for (unsigned k = 0; k < i && *words[i]; k++)
            if (!strcmp(plain(words[i]), plain(words[k])))
                return g_strdup_printf("the model's list has role '%s' twice", plain(words[i]));
    }
    return NULL;
}

/* The sheet says of what sort a role is; what it does not bind is some field. */
static wad_kind *numbered(const wad_kind *sheet, char **words)
{
    wad_kind *kind = g_new0(wad_kind, 1);
    unsigned room = g_strv_length(words);
    wad_role_info *roles = g_new0(wad_role_info, room + 1);
    int16_t *enables = g_new(int16_t, room + 1);
    kind->name = sheet->name;
    kind->own = true;
    for (unsigned i = 0; words[i]; i++) {
        int at = wad_kind_role_index(sheet, plain(words[i]));
        if (!*plain(words[i]))
            continue;
        wad_role_info *info = &roles[kind->n_roles++];
        *info = at < 0 ? (wad_role_info){.sort = "FIELD", .text = ""} : sheet->roles[at];
        info->name = g_strdup(plain(words[i]));
    }
    kind->roles = roles;
    for (unsigned i = 0; i < kind->n_roles; i++) {
        char *enable = g_strconcat(roles[i].name, "_irq", NULL);
        enables[i] = (int16_t)wad_kind_role_index(kind, enable);
        g_free(enable);
    }
    kind->enables = enables;
    return kind;
}

void wadi_numbered_free(wad_kind *kind)
{
    for (unsigned i = 0; kind && i < kind->n_roles; i++)
        g_free((char *)kind->roles[i].name);
    if (kind) {
        g_free((wad_role_info *)kind->roles);
        g_free((int16_t *)kind->enables);
    }
    g_free(kind);
}

bool wadi_class_fits(const wad_instance *unit, const wad_model_class *cls, wad_kind **own,
                     char **why)
{
    const wad_kind *kind = unit->layout->kind;
    *own = NULL;
    if (!kind || !cls->kind || strcmp(kind->name, cls->kind)) {
        *why = kind
                   ? g_strdup_printf("%s is of kind '%s', and the model of kind '%s'", unit->name,
                                     kind->name, cls->kind ? cls->kind : "")
                   : g_strdup_printf("%s acts as nothing: say what it is, `acts as own %s { ... }`",
                                     unit->name, cls->kind ? cls->kind : "KIND");
        return false;
    }
    if (!kind->own && cls->roles)
        *why = g_strdup_printf("kind '%s' is Wadium's: its roles are numbered in "
                               "<wadium/kinds/%s.h>, leave `.roles` out",
                               kind->name, kind->name);
    if (kind->own && !cls->roles)
        *why = g_strdup_printf("kind '%s' is the sheet's own: the model says by `.roles` how it "
                               "numbers its roles",
                               kind->name);
    if (*why || !kind->own)
        return !*why;
    char **words = words_of(cls->roles);
    *why = wrong_roles(unit, words);
    if (!*why)
        *own = numbered(kind, words);
    if (*own && (*own)->n_roles > 64) {
        *why = g_strdup("the model has more than 64 roles");
        wadi_numbered_free(*own);
        *own = NULL;
    }
    g_strfreev(words);
    return !*why;
}
