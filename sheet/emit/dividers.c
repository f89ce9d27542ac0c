/* SPDX-License-Identifier: MIT */
/* `wadium emit roles`: how fields divide a block's clock, for wad_divider_solve. */
#include "emit.h"
#include "sheet/chip/c_name.h"
#include "wadium/host/rate.h"

static void emit_lists(const wad_divider *d, const char *name, FILE *out)
{
    if (!d->set)
        return;
    fprintf(out, "static const uint32_t %s_set[] = {", name);
    for (unsigned i = 0; i < d->n_set; i++)
        fprintf(out, "%s%u", i ? ", " : "", d->set[i]);
    fprintf(out, "};\n");
    if (!d->codes)
        return;
    fprintf(out, "static const uint16_t %s_codes[] = {", name);
    for (unsigned i = 0; i < d->n_set; i++)
        fprintf(out, "%s%u", i ? ", " : "", d->codes[i]);
    fprintf(out, "};\n");
}

static void emit_divider(const wad_rate_law *law, const wad_rate_target *t, const char *name,
                         FILE *out)
{
    const wad_divider *d = &t->divider;
    fprintf(out, "\n/* %s", wad_rate_text(law));
    if (t->fraction_var >= 0)
        fprintf(out, "; the count is %s * %u + %s", wad_rate_var_name(law, (unsigned)t->count_var),
                1u << t->fraction_bits, wad_rate_var_name(law, (unsigned)t->fraction_var));
    fprintf(out, " */\n");
    emit_lists(d, name, out);
    fprintf(out,
            "static const wad_divider %s = {\n    .up = %u,\n    .down = %u,\n"
            "    .min = %uu,\n    .max = %uu,\n    .prescale_min = %uu,\n"
            "    .prescale_max = %uu,\n    .power = %u,\n",
            name, d->up, d->down, d->min, d->max, d->prescale_min, d->prescale_max, d->power);
    if (d->set)
        fprintf(out, "    .set = %s_set,\n    .n_set = %u,\n", name, d->n_set);
    if (d->codes)
        fprintf(out, "    .codes = %s_codes,\n", name);
    fprintf(out,
            "    .prescale_plus = %u,\n    .counts_up = %d,\n    .count_first = %d,\n"
            "    .count_from = %uu,\n    .count_plus = %uu,\n};\n",
            d->prescale_plus, d->counts_up, d->count_first, d->count_from, d->count_plus);
}

void wadi_emit_dividers(const wad_sheet *sheet, const wad_instance *b, FILE *out)
{
    char *text = wad_rate_names(sheet, b), **names = g_strsplit(text, ", ", -1), *why;
    for (unsigned i = 0; names[i] && *names[i]; i++) {
        wad_rate_law *law = wad_rate_open(sheet, b, names[i], &why);
        wad_rate_target t;
        char *block = wadi_emit_lower(b->name), *chip = wadi_emit_lower(sheet->name);
        char *name = g_strdup_printf("%s_%s_%s", chip, block, names[i]);
        if (law && wad_rate_for_target(law, &t))
            emit_divider(law, &t, name, out);
        if (!law)
            g_free(why);
        wad_rate_close(law);
        g_free(name);
        g_free(block);
        g_free(chip);
    }
    g_strfreev(names);
    g_free(text);
}
