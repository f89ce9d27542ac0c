/* SPDX-License-Identifier: MIT */
/* Settings of control words that are rates: FIELD=2kHz, baud=115200. */
#include <string.h>

#include "sheet/laws/rate.h"

/* "CTRL.EN" of a law's variable that lies in the word's register: its field, else NULL. */
static const wad_fieldref *var_in_word(const wad_rate_law *law, unsigned i, const wad_word *word)
{
    const wad_fieldref *plain = wadi_rate_field(&law->vars[i]);
    bool here = plain && plain->field && plain->reg == word->ref.reg &&
                plain->reg_index == word->ref.reg_index;
    return here ? plain : NULL;
}

/* The first of the block's laws that is called so, or rests on a field of the word called so. */
static wad_rate_law *law_for(const wad_sheet *sheet, const wad_word *word, const char *name,
                             bool *by_field)
{
    char *text = wad_rate_names(sheet, word->ref.block), **names = g_strsplit(text, ", ", -1), *why;
    wad_rate_law *found = NULL;
    *by_field = false;
    for (unsigned n = 0; names[n] && *names[n] && !found; n++) {
        wad_rate_law *law = wad_rate_open(sheet, word->ref.block, names[n], &why);
        if (!law) {
            g_free(why);
            continue;
        }
        bool named = !strcmp(names[n], name), any = false;
        for (unsigned i = 0; i < law->n_vars && !found; i++) {
            const wad_fieldref *v = var_in_word(law, i, word);
            any |= v != NULL;
            if (v && !strcmp(v->field->name, name)) {
                found = law;
                *by_field = true;
            }
        }
        if (named && any)
            found = law;
        if (found != law)
            wad_rate_close(law);
    }
    g_strfreev(names);
    g_free(text);
    return found;
}

bool wadi_is_rate_setting(const wad_sheet *sheet, const wad_word *word, const char *setting)
{
    char **parts = g_strsplit(setting, "=", 2);
    wad_rational hz;
    uint64_t number;
    bool by_field, is = false;
    if (parts[0] && parts[1] && wad_parse_rate(parts[1], &hz) &&
        !wad_register_field(word->ref.reg, parts[0])) {
        wad_rate_law *law = law_for(sheet, word, parts[0], &by_field);
        is = law != NULL;
        wad_rate_close(law);
    } else if (parts[0] && parts[1] && wad_parse_rate(parts[1], &hz)) {
        is = !wad_parse_number(parts[1], &number); /* a field takes plain numbers as they are */
    }
    g_strfreev(parts);
    return is;
}

/* All that is not looked for keeps its value: in the word, else as after reset. */
static void hold_others(const wad_rate_law *law, const wad_word *word, const char *field,
                        wad_rate_options *options)
{
    for (unsigned i = 0; i < law->n_vars; i++) {
        const wad_fieldref *v = var_in_word(law, i, word);
        if (v && (!field || !strcmp(v->field->name, field)))
            continue;
        options->fixed |= 1u << i;
        if (v) {
            options->values[i] = (word->value & wad_fieldref_mask(v)) >> v->lsb;
            continue;
        }
        wad_fieldref refs[8];
        uint64_t bits[8];
        unsigned n = wad_rate_var_words(law, i, 0, refs, bits, G_N_ELEMENTS(refs));
        for (unsigned k = 0; k < n; k++)
            options->values[i] = options->values[i] << refs[k].width |
                                 (refs[k].reg->reset & wad_fieldref_mask(&refs[k])) >> refs[k].lsb;
    }
}

static void tell(wad_encode_rates *rates, const wad_rate_law *law, wad_rational clock,
                 const char *setting, const wad_rate_answer *a, const wad_rate_options *options)
{
    char hz[32], clock_hz[32];
    GString *text = g_string_new(rates->told);
    wad_format_hz(hz, sizeof hz, a->actual);
    wad_format_hz(clock_hz, sizeof clock_hz, clock);
    g_string_append_printf(text, "%s: %s ", setting, hz);
    if (a->ppm == 0)
        g_string_append(text, "exactly");
    else
        g_string_append_printf(text, "(%+.4g ppm)", a->ppm);
    g_string_append_printf(text, " from %s", clock_hz);
    for (unsigned i = 0, n = 0; i < law->n_vars; i++)
        if (options->fixed >> i & 1)
            g_string_append_printf(text, "%s %s = %llu", n++ ? "," : " with", law->vars[i].name,
                                   (unsigned long long)options->values[i]);
    g_string_append_c(text, '\n');
    g_free(rates->told);
    rates->told = g_string_free(text, FALSE);
}

static void put_fields(const wad_rate_law *law, const wad_rate_answer *a,
                       const wad_rate_options *options, wad_word *word)
{
    for (unsigned i = 0; i < law->n_vars; i++) {
        const wad_fieldref *v = var_in_word(law, i, word);
        if (!v || options->fixed >> i & 1)
            continue;
        uint64_t mask = wad_fieldref_mask(v);
        word->value = (word->value & ~mask) | a->values[i] << v->lsb;
        word->given |= mask;
    }
}

bool wadi_set_rate(wad_encode_rates *rates, wad_word *word, const char *setting, char **why)
{
    char **parts = g_strsplit(setting, "=", 2);
    bool by_field, ok = false;
    wad_rational wanted, clock = rates->clock;
    wad_rate_options options = {0};
    wad_rate_answer a;
    wad_rate_law *law = law_for(rates->sheet, word, parts[0], &by_field);
    wad_parse_rate(parts[1], &wanted);
    if (!law) {
        *why = g_strdup_printf("no rate law of %s rests on '%s': it takes a plain number",
                               word->ref.block->name, parts[0]);
    } else if (!clock.num && !wad_rate_clock(law, &clock)) {
        *why = g_strdup_printf("the clock of %s does not run after reset: say --clock 48MHz",
                               word->ref.block->name);
    } else {
        hold_others(law, word, by_field ? parts[0] : NULL, &options);
        ok = wad_rate_solve(law, clock, wanted, &options, &a, 1) == 1;
        size_t size;
        char *beyond = NULL;
        FILE *text = open_memstream(&beyond, &size);
        if (ok && wad_rate_beyond(law, clock, &options, wanted, text))
            ok = false;
        fclose(text);
        if (!ok)
            *why = g_strdup_printf("%s is out of reach%s%s", setting, *beyond ? ": " : "", beyond);
        free(beyond);
    }
    if (ok) {
        tell(rates, law, clock, setting, &a, &options);
        put_fields(law, &a, &options, word);
    }
    wad_rate_close(law);
    g_strfreev(parts);
    return ok;
}
