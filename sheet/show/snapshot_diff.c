/* SPDX-License-Identifier: MIT */
/* Two snapshots compared, register by register. */
#include <string.h>

#include "sheet/words/snapshot.h"

static bool same_register(const wad_fieldref *a, const wad_fieldref *b)
{
    return a->block == b->block && a->reg == b->reg && a->reg_index == b->reg_index;
}

static const wad_word *find(const wad_snapshot *s, const wad_fieldref *ref)
{
    for (guint i = 0; i < s->words->len; i++)
        if (same_register(&g_array_index(s->words, wad_word, i).ref, ref))
            return &g_array_index(s->words, wad_word, i);
    return NULL;
}

/* "MODE 0 up" to "0 up": the name stands in its own column. */
static const char *value_in(const char *text)
{
    const char *space = strchr(text, ' ');
    return space ? space + 1 : text;
}

static void tell(const wad_fieldref *ref, const char *a, const char *b, bool expected, FILE *out)
{
    char *name = wad_fieldref_name(ref);
    fprintf(out, expected ? "  %-26s %-18s %-18s (changes by itself)\n" : "  %-26s %-18s %s\n",
            name, a, b);
    g_free(name);
}

static void compare_words(const wad_word *a, const wad_word *b, bool all, wad_compared *c,
                          FILE *out)
{
    wad_fieldref ref;
    char *was;
    uint64_t rest = a->value ^ b->value;
    for (unsigned i = 0; (was = wad_word_field(a, i, &ref)); i++) {
        uint64_t mask = wad_fieldref_mask(&ref);
        rest &= ~mask;
        if ((a->value ^ b->value) & mask) {
            char *is = wad_word_field(b, i, &ref);
            bool expected = ref.field->is_volatile;
            *(expected ? &c->expected : &c->different) += 1;
            if (!expected || all)
                tell(&ref, value_in(was), value_in(is), expected, out);
            g_free(is);
        }
        g_free(was);
    }
    if (rest) {
        char *x = g_strdup_printf("0x%llX", (unsigned long long)a->value);
        char *y = g_strdup_printf("0x%llX", (unsigned long long)b->value);
        c->different++;
        tell(&a->ref, x, y, false, out);
        g_free(x);
        g_free(y);
    }
}

static unsigned missing(const wad_snapshot *from, const wad_snapshot *in)
{
    unsigned n = 0;
    for (guint i = 0; i < from->words->len; i++)
        n += !find(in, &g_array_index(from->words, wad_word, i).ref);
    return n;
}

wad_compared wad_snapshot_compare(const wad_snapshot *a, const wad_snapshot *b, bool all, FILE *out)
{
    wad_compared c = {0};
    fprintf(out, "%s: %s / %s\n", a->sheet->name, a->source, b->source);
    for (guint i = 0; i < a->words->len; i++) {
        const wad_word *x = &g_array_index(a->words, wad_word, i), *y = find(b, &x->ref);
        c.compared += y != NULL;
        if (y && y->value != x->value)
            compare_words(x, y, all, &c, out);
    }
    c.apart = missing(a, b) + missing(b, a);
    fprintf(out, "%u register%s compared: %u field%s differ%s", c.compared,
            c.compared == 1 ? "" : "s", c.different, c.different == 1 ? "" : "s",
            c.different == 1 ? "s" : "");
    if (c.expected)
        fprintf(out, ", and %u that the chip changes by itself%s", c.expected,
                all ? "" : " (--all shows them)");
    if (c.apart)
        fprintf(out, "; %u register%s in one of them only", c.apart,
                c.apart == 1 ? " stands" : "s stand");
    fputc('\n', out);
    return c;
}
