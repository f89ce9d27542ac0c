/* SPDX-License-Identifier: MIT */
/* The classes of expectations, by subject and words. */
#include "registry.h"

#define WADI_EXPECTATION(name) extern const wadi_expectation_class wadi_expect_##name;
#include "list.h"
#undef WADI_EXPECTATION

static const wadi_expectation_class *const all[] = {
#define WADI_EXPECTATION(name) &wadi_expect_##name,
#include "list.h"
#undef WADI_EXPECTATION
};

const wadi_expectation_class *wadi_expectation_class_at(unsigned i)
{
    return i < G_N_ELEMENTS(all) ? all[i] : NULL;
}

/* How well a class's words fit what stands at the cursor: more of them, then all of them. */
static unsigned fit(const wadi_expectation_class *cls, const wadi_cursor *c)
{
    wadi_cursor at = *c;
    char **words = g_strsplit(cls->words, " ", -1);
    unsigned n = 0;
    while (words[n] && wadi_take_word(&at, words[n]))
        n++;
    unsigned score = n ? 2 * n + !words[n] : 0;
    g_strfreev(words);
    return score;
}

const wadi_expectation_class *wadi_expectation_next(const wadi_cursor *c, wadi_about about)
{
    const wadi_expectation_class *best = NULL;
    unsigned most = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++) {
        unsigned score = all[i]->about == about ? fit(all[i], c) : 0;
        if (score > most) {
            best = all[i];
            most = score;
        }
    }
    return best;
}

char *wadi_expectation_words(wadi_about about)
{
    GString *text = g_string_new(NULL);
    unsigned left = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        left += all[i]->about == about;
    for (unsigned i = 0, n = left; i < G_N_ELEMENTS(all); i++) {
        if (all[i]->about != about)
            continue;
        g_string_append_printf(text, "%s'%s'",
                               left == n   ? ""
                               : left == 1 ? " or "
                                           : ", ",
                               all[i]->words);
        left--;
    }
    return g_string_free(text, FALSE);
}
