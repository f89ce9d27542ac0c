/* SPDX-License-Identifier: MIT */
/* Rates beyond what the fields reach. */

#include "sheet/laws/rate.h"

static void print_limits(const wad_rate_law *law, const wad_rate_answer *a, FILE *out)
{
    for (unsigned i = 0; i < law->n_vars; i++) {
        const wadi_rate_variable *v = &law->vars[i];
        const wad_fieldref *plain = wadi_rate_field(v);
        const wad_enumerator *e =
            plain && plain->field ? wad_bitfield_enum(plain->field, a->values[i]) : NULL;
        fprintf(out, "%s%s = %llu%s%s", i ? ", " : "", v->name, (unsigned long long)a->values[i],
                e ? " " : "", e ? e->name : "");
    }
}

bool wad_rate_beyond(const wad_rate_law *law, wad_rational clock, const wad_rate_options *options,
                     wad_rational wanted, FILE *out)
{
    wad_rate_answer ends[2];
    char hz[32], clock_hz[32];
    if (!wad_rate_range(law, clock, options, &ends[0], &ends[1]))
        return false;
    bool slow = wadi_rat_cmp(wanted, ends[0].actual) < 0;
    if (!slow && wadi_rat_cmp(wanted, ends[1].actual) <= 0)
        return false;
    wad_format_hz(clock_hz, sizeof clock_hz, clock);
    for (unsigned i = 0; i < 2; i++) {
        wad_format_hz(hz, sizeof hz, ends[i].actual);
        fprintf(out, "%s %s with ", i ? ", the fastest" : "the slowest is", hz);
        print_limits(law, &ends[i], out);
    }
    fprintf(out, "; take a %s clock than %s", slow ? "slower" : "faster", clock_hz);
    return true;
}
