/* SPDX-License-Identifier: MIT */
/* `wadium rate`: settings, the words they make, and the C that holds them. */
#include <math.h>
#include <string.h>

#include "sheet/chip/c_name.h"
#include "sheet/laws/rate.h"
#include "wadium/host/words.h"

static int column_width(const wad_rate_law *law, unsigned i)
{
    return (int)MAX(strlen(wad_rate_var_name(law, i)), (size_t)6);
}

void wad_show_rate_head(const wad_rate_law *law, unsigned first, const char *name, FILE *out)
{
    fprintf(out, "\n%*s", (int)first, name);
    for (unsigned i = 0; i < law->n_vars; i++)
        fprintf(out, "  %*s", column_width(law, i), wad_rate_var_name(law, i));
    fprintf(out, "  %-15s %s\n", "actual", "error");
}

void wad_show_rate_answer(const wad_rate_law *law, unsigned first, const char *name,
                          const wad_rate_answer *a, FILE *out)
{
    char hz[32];
    wad_format_hz(hz, sizeof hz, a->actual);
    fprintf(out, "%*s", (int)first, name);
    for (unsigned i = 0; i < law->n_vars; i++)
        fprintf(out, "  %*llu", column_width(law, i), (unsigned long long)a->values[i]);
    if (a->ppm == 0)
        fprintf(out, "  %-15s exact", hz);
    else
        fprintf(out, "  %-15s %+.4g ppm = %+.3g %%", hz, a->ppm, a->ppm / 1e4);
}

/* The registers that hold the setting, each as a word over its reset value; how many. */
static unsigned words_of(const wad_rate_law *law, const uint64_t *values, wad_word *words,
                         unsigned room)
{
    unsigned n = 0;
    for (unsigned i = 0; i < law->n_vars; i++) {
        wad_fieldref refs[4];
        uint64_t bits[4];
        unsigned parts = wad_rate_var_words(law, i, values[i], refs, bits, 4);
        for (unsigned k = 0; k < parts; k++) {
            unsigned at = 0;
            while (at < n && (words[at].ref.reg != refs[k].reg ||
                              words[at].ref.reg_index != refs[k].reg_index))
                at++;
            if (at == room)
                return n;
            if (at == n)
                words[n++] = (wad_word){.ref = refs[k], .value = refs[k].reg->reset};
            words[at].value = (words[at].value & ~wad_fieldref_mask(&refs[k])) | bits[k];
            words[at].ref.field = NULL;
            words[at].ref.index = 0;
        }
    }
    return n;
}

void wad_show_rate_words(const wad_rate_law *law, const wad_rate_answer *a, FILE *out)
{
    wad_word words[WAD_RATE_VARS * 4];
    unsigned n = words_of(law, a->values, words, G_N_ELEMENTS(words));
    fputc('\n', out);
    for (unsigned i = 0; i < n; i++)
        wad_show_word_line(&words[i], out);
}

/* ---- C ---- */

/* "UART0_BAUD_INT": block, register and field. */
static char *constant_name(const wad_fieldref *ref)
{
    bool whole = !ref->field || !strcmp(ref->field->name, "VALUE");
    char *name = g_strdup_printf("%s_%s%s%s", ref->block->name, ref->reg->name, whole ? "" : "_",
                                 whole ? "" : ref->field->name);
    char *upper = wadi_emit_upper(name);
    g_free(name);
    return upper;
}

static void print_constants(const wad_rate_law *law, const wad_rate_answer *a, FILE *out)
{
    for (unsigned i = 0; i < law->n_vars; i++) {
        wad_fieldref refs[4];
        uint64_t bits[4];
        unsigned parts = wad_rate_var_words(law, i, a->values[i], refs, bits, 4);
        for (unsigned k = 0; k < parts; k++) {
            char *constant = constant_name(&refs[k]);
            fprintf(out, "        %s = %llu,\n", constant,
                    (unsigned long long)(bits[k] >> refs[k].lsb));
            g_free(constant);
        }
    }
}

/* "(CNT0_STARTH * 256 + CNT0_STARTL)" for a split value, a plain name else; g_free. */
static char *var_in_c(const wad_rate_law *law, unsigned var)
{
    wad_fieldref refs[4];
    uint64_t bits[4];
    unsigned parts = wad_rate_var_words(law, var, 0, refs, bits, 4);
    char *text = constant_name(&refs[0]);
    for (unsigned k = 1; k < parts; k++) {
        char *next = constant_name(&refs[k]);
        char *sum = g_strdup_printf("(%s * %u + %s)", text, 1u << refs[k].width, next);
        g_free(next);
        g_free(text);
        text = sum;
    }
    return text;
}

static char *count_in_c(const wad_rate_law *law, const wad_rate_target *t)
{
    const wad_divider *d = &t->divider;
    if (t->count_var < 0)
        return g_strdup("1");
    char *field = var_in_c(law, (unsigned)t->count_var);
    if (t->fraction_var >= 0) {
        char *fraction = var_in_c(law, (unsigned)t->fraction_var);
        char *both = g_strdup_printf("(%s * %u + %s)", field, 1u << t->fraction_bits, fraction);
        g_free(fraction);
        g_free(field);
        field = both;
    }
    char *text = d->counts_up    ? g_strdup_printf("(%u - %s)", d->count_from, field)
                 : d->count_plus ? g_strdup_printf("(%s + %u)", field, d->count_plus)
                                 : g_strdup(field);
    g_free(field);
    return text;
}

static char *prescale_in_c(const wad_rate_law *law, const wad_rate_target *t,
                           const wad_rate_answer *a)
{
    const wad_divider *d = &t->divider;
    if (t->prescale_var < 0)
        return g_strdup("1");
    uint64_t value = a->values[t->prescale_var], p = 1;
    for (unsigned i = 0; d->set && i < d->n_set; i++)
        if (t->codes[i] == value)
            return g_strdup_printf("%u", d->set[i]);
    for (uint64_t i = 0; d->power && i < value; i++)
        p *= d->power;
    if (d->power)
        return g_strdup_printf("%llu", (unsigned long long)p);
    char *field = var_in_c(law, (unsigned)t->prescale_var);
    char *text =
        d->prescale_plus ? g_strdup_printf("(%s + %u)", field, d->prescale_plus) : g_strdup(field);
    g_free(field);
    return text;
}

void wad_show_rate_c(const wad_rate_law *law, wad_rational clock, wad_rational wanted,
                     const wad_rate_answer *a, double tolerance_ppm, FILE *out)
{
    char clock_text[32], wanted_text[32], actual[32];
    wad_rate_target t;
    wad_rational scaled; /* the clock, times what makes the rate a whole number */
    wad_format_hz(clock_text, sizeof clock_text, clock);
    wad_format_hz(wanted_text, sizeof wanted_text, wanted);
    wad_format_hz(actual, sizeof actual, a->actual);
    fprintf(out, "\nC:  /* %s from %s: %s, %+.4g ppm */\n    enum {\n", wanted_text, clock_text,
            actual, a->ppm);
    print_constants(law, a, out);
    fputs("    };\n", out);
    if (!wad_rate_for_target(law, &t) || !wadi_rat_mul(clock, wadi_int(wanted.den), &scaled) ||
        scaled.den != 1 || t.divider.up & (t.divider.up - 1))
        return;
    unsigned bits = 0;
    while (t.divider.up >> bits > 1)
        bits++;
    char *count = count_in_c(law, &t), *prescale = prescale_in_c(law, &t, a);
    fprintf(out, "    /* <wadium/rate.h> */\n    WAD_ASSERT_DIVISOR(%lld, INT64_C(%lld) * %s",
            (long long)scaled.num, (long long)wanted.num, prescale);
    if (t.divider.down > 1)
        fprintf(out, " * %u", t.divider.down);
    fprintf(out, ", %u,\n                       %s, %.0f);\n", bits, count,
            tolerance_ppm > 0 ? tolerance_ppm : ceil(fabs(a->ppm)));
    g_free(count);
    g_free(prescale);
}
