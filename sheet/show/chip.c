/* SPDX-License-Identifier: MIT */
/* `wadium show`: a chip, a block, a register as the datasheet's tables show them. */
#include <glib.h>
#include <string.h>

#include "address.h"
#include "behaviour.h"
#include "lang/bits.h"
#include "lang/rational.h"
#include "power.h"
#include "sheet/chip/c_name.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/query.h"
#include "units.h"
#include "wadium/host/sheet.h"

/* "open while PROTECT.KEY = 90", "open after 0x93, 0x6C to KEY, for 1 write" */
char *wad_lock_text(const wad_lock *lock)
{
    GString *text = g_string_new(lock->open ? "open while " : "open after ");
    char *cond = lock->open ? wad_cond_text(lock->open) : NULL;
    if (cond)
        g_string_append(text, cond);
    for (unsigned i = 0; i < lock->n_sequence; i++)
        g_string_append_printf(text, "%s0x%02X", i ? ", " : "", lock->sequence[i]);
    if (lock->key)
        g_string_append_printf(text, " to %s%s%s", lock->key->name, lock->key_field ? "." : "",
                               lock->key_field ? lock->key_field->name : "");
    if (lock->writes)
        g_string_append_printf(text, ", for %u write%s", lock->writes, lock->writes > 1 ? "s" : "");
    if (lock->unbroken)
        g_string_append(text, ", unbroken");
    if (lock->expires)
        g_string_append_printf(text, ", for %.6g %s", wadi_rat_double(lock->open_for.amount),
                               lock->open_for.cycles ? "cycles" : "s");
    if (lock->once)
        g_string_append(text, ", once");
    if (lock->wrong != WAD_WRONG_IGNORED)
        g_string_append(text, lock->wrong == WAD_WRONG_STUCK ? ", a wrong value locks it for good"
                                                             : ", a wrong value resets the chip");
    g_free(cond);
    return g_string_free(text, FALSE);
}

/* ---- errata ---- */

static void show_erratum(const wad_erratum *e, FILE *out)
{
    fprintf(out, "erratum %s%s%s%s\n", e->title, e->ref ? " (" : "", e->ref ? e->ref : "",
            e->ref ? ")" : "");
    if (e->workaround)
        fprintf(out, "        workaround: %s\n", e->workaround);
}

/* Those that touch a register, a block (`r` NULL) or the chip (`b` NULL). */
static void show_errata(const wad_sheet *s, const wad_instance *b, const wad_register *r, FILE *out)
{
    unsigned n = 0;
    for (unsigned i = 0; i < s->n_errata; i++)
        if (!b || wad_erratum_touches(&s->errata[i], b, r)) {
            if (!n++)
                fputc('\n', out);
            show_erratum(&s->errata[i], out);
        }
}

/* ---- chip ---- */

static char *limit_text(const wad_expr *law, wad_rational hz)
{
    char text[32];
    if (law)
        return wadi_expr_text(law);
    wad_format_hz(text, sizeof text, hz);
    return g_strdup(text);
}

static void show_clocks(const wad_sheet *s, FILE *out)
{
    fprintf(out, "\n%-10s %s\n", "clock", "after reset");
    for (unsigned i = 0; i < s->n_clocks; i++) {
        const wad_clock *c = s->clocks[i];
        wad_rational hz;
        char text[32] = "-";
        if (wad_clock_rate(s, c, NULL, NULL, &hz, NULL))
            wad_format_hz(text, sizeof text, hz);
        bool more = c->on.n || c->after_s.num || c->bounded || c->tolerance.num;
        fprintf(out, more ? "%-10s %-12s" : "%-10s %s", c->name, text);
        if (c->on.n) {
            char *on = wad_cond_text(&c->on);
            fprintf(out, " on while %s", on);
            g_free(on);
        }
        if (c->after_s.num) {
            wad_format_seconds(text, sizeof text, c->after_s);
            fprintf(out, ", ready after %s", text);
        }
        if (c->bounded) {
            char *min = limit_text(c->least, c->min_hz), *max = limit_text(c->most, c->max_hz);
            fprintf(out, "%s within %s to %s", c->on.n ? "," : "", min, max);
            g_free(min);
            g_free(max);
        }
        if (c->tolerance.num)
            fprintf(out, "%s tolerance %.6g ppm", c->on.n || c->bounded ? "," : "",
                    wadi_rat_double(c->tolerance) * 1e6);
        fputc('\n', out);
    }
}

static void show_irqs(const wad_instance *b, FILE *out)
{
    char text[32] = "";
    for (unsigned i = 0; i < b->n_irqs; i++) {
        size_t n = strlen(text);
        snprintf(text + n, sizeof text - n, "%s%d", i ? " " : "", b->irqs[i]);
    }
    fprintf(out, " %-*s", 4, text);
}

void wad_show_chip(const wad_sheet *s, FILE *out)
{
    fprintf(out, "%s: %s\n%u-bit %s-endian bus, core %s, sheet %s\n\n", s->name,
            s->summary ? s->summary : "", s->bus_bits, s->big_endian ? "big" : "little", s->cpu.isa,
            s->hash);
    for (unsigned i = 0; i < s->n_spaces; i++)
        fprintf(out, "space  %s%s%s\n", s->spaces[i]->name, s->spaces[i]->text ? ": " : "",
                s->spaces[i]->text ? s->spaces[i]->text : "");
    for (unsigned i = 0; i < s->n_memories; i++) {
        fprintf(out, "%-6s ", s->memories[i].name);
        wadi_show_address(s, s->memories[i].base, out);
        bool whole = s->memories[i].size % 1024 == 0;
        fprintf(out, whole ? "  %llu KiB\n" : "  %llu B\n",
                (unsigned long long)s->memories[i].size / (whole ? 1024 : 1));
    }
    fprintf(out, "\n%-8s %-12s %-10s %-6s %s\n", "block", "address", "layout", "clock", "irq");
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_instance *b = s->blocks[i];
        fprintf(out, "%-8s ", b->name);
        wadi_show_address(s, b->base, out);
        fprintf(out, "  %-10s %-6s", b->layout->name, b->clock ? b->clock->name : "-");
        show_irqs(b, out);
        fprintf(out, " %s\n", b->text ? b->text : "");
    }
    show_clocks(s, out);
    if (s->n_hooks)
        fputc('\n', out);
    wadi_show_hooks(s->hooks, s->n_hooks, out);
    wadi_show_power(s, out);
    show_errata(s, NULL, NULL, out);
}

/* The flags that a line serves, where the sheet lists them. */
static void show_irq_flags(const wad_instance *b, unsigned line, FILE *out)
{
    for (unsigned k = 0; b->irq_flags && k < b->irq_flags[line].n; k++) {
        const wad_irq_flag *flag = &b->irq_flags[line].flags[k];
        fprintf(out, "%s%s", k ? ", " : "  ", flag->role->name);
        if (flag->role->indexed && flag->first == flag->last)
            fprintf(out, "[%u]", flag->first);
        else if (flag->role->indexed)
            fprintf(out, "[%u .. %u]", flag->first, flag->last);
        char *by = flag->by ? wad_fieldref_name(&flag->by[0]) : NULL;
        fprintf(out, "%s%s", by ? " by " : "", by ? by : "");
        g_free(by);
    }
    fputc('\n', out);
}

void wad_show_vectors(const wad_sheet *s, FILE *out)
{
    fprintf(out, "%-5s %-8s %s\n", "line", "block", "handler");
    for (unsigned i = 0; i < s->n_vectors; i++) {
        const wad_instance *b = wad_sheet_irq_owner(s, i);
        if ((int)i == s->cpu.bus_fault)
            fprintf(out, "%-5u %-8s %-20s %s\n", i, "core", "handle_bus_fault",
                    "access to an address where nothing is");
        const wad_line_def *def = wad_sheet_line(s, i);
        if (!b && !def)
            continue;
        char *handler = wadi_emit_handler(s, i);
        const char *text = def && def->text ? def->text : b && b->text ? b->text : "";
        fprintf(out, "%-5u %-8s %-20s %s\n", i, b ? b->name : "-", handler, text);
        g_free(handler);
    }
}

/* ---- block ---- */

static void show_register_line(const wad_sheet *s, const wad_instance *b, const wad_register *r,
                               const wadi_registers *at, FILE *out)
{
    char name[64];
    uint32_t offset = r->offset + (at->is_element ? at->element * r->step : 0);
    if (at->is_element) {
        char *full = wad_fieldref_name(&(wad_fieldref){.reg = r, .reg_index = at->element});
        snprintf(name, sizeof name, "%s", full);
        g_free(full);
    } else if (r->group && r->group->count)
        snprintf(name, sizeof name, r->is_array_member ? "%s[%u].%s[%u]" : "%s[%u].%s",
                 r->group->name, r->is_array_member ? r->group_index : r->group->count, r->member,
                 r->count);
    else if (r->count)
        snprintf(name, sizeof name, "%s[%u]", r->name, r->count);
    else
        snprintf(name, sizeof name, "%s", r->name);
    fprintf(out, "%-12s 0x%03X  %4u  ", name, offset, offset / (s->bus_bits / 8u));
    wadi_show_address(s, b->base + offset, out);
    if (r->alias)
        fprintf(out, "  %-4s %-10s %s (%s %s)\n", r->access == WAD_ACCESS_WO ? "wo" : "rw", "-",
                r->text ? r->text : "", wad_alias_word(r->alias), r->alias_of->name);
    else
        fprintf(out, "  %-3s  0x%0*llX%*s %s\n", wad_access_word(r->access), (int)r->width / 4,
                (unsigned long long)r->reset, (int)(8 - r->width / 4), "", r->text ? r->text : "");
}

static void show_signals(const wad_instance *b, FILE *out)
{
    for (unsigned i = 0; i < b->n_signals; i++) {
        wad_signal_dir dir = b->signals[i].dir;
        fprintf(out, "%s %-4s%s%s on", i ? "     " : "pins ", b->signals[i].name,
                dir == WAD_SIGNAL_BOTH ? "" : " ",
                dir == WAD_SIGNAL_BOTH ? "" : wad_signal_dir_word(dir));
        for (unsigned k = 0; k < b->signals[i].n_options; k++)
            fprintf(out, "%s %s %s %u", k ? " or" : "", b->signals[i].options[k].pin->name,
                    b->route.reg ? "group" : "fn", b->signals[i].options[k].fn);
        fputc('\n', out);
    }
}

/* "START = STARTH.VALUE : STARTL.VALUE, 16 bits, written high first" */
static void show_value(const wad_value *v, FILE *out)
{
    fprintf(out, "value %s%s =", v->name, v->count ? "[n]" : "");
    for (unsigned i = 0; i < v->n_parts; i++)
        fprintf(out, "%s %s%s.%s", i ? " :" : "", v->parts[i]->reg->name, v->count ? "[n]" : "",
                v->parts[i]->name);
    fprintf(out, ", %u bits, written %s first%s", v->width, v->write_high_first ? "high" : "low",
            v->latch_low ? ", reading the low part holds the rest" : "");
    if (v->through)
        fprintf(out, ", through the byte %s%s", v->through,
                !v->through_read    ? " when written"
                : !v->through_write ? " when read"
                                    : "");
    fputc('\n', out);
}

static void show_owned(const wad_instance *b, FILE *out)
{
    for (unsigned i = 0; i < b->n_owned; i++) {
        char *name = wad_fieldref_name(&b->owned[i].ref);
        fprintf(out, "owned %s by %s\n", name, b->owned[i].by);
        g_free(name);
    }
}

static void show_heading(const wad_sheet *s, const wad_instance *b, FILE *out)
{
    fprintf(out, "%s.%s%s%s\n", s->name, b->name, b->text || !b->home ? ": " : "",
            b->text ? b->text : "");
    if (b->home) {
        fprintf(out, "unit of %s, acts as %s%s\n",
                strchr(b->name, '.') ? b->home->name : "the chip",
                b->layout->kind->own ? "own " : "", b->layout->kind->name);
        return;
    }
    fprintf(out, "layout %s%s%s%s at ", b->layout->name, *b->layout->variant ? "(" : "",
            b->layout->variant, *b->layout->variant ? ")" : "");
    wadi_show_address(s, b->base, out);
    fprintf(out, ", %u bytes", b->layout->size);
    if (b->layout->kind)
        fprintf(out, ", acts as %s%s", b->layout->kind->own ? "own " : "", b->layout->kind->name);
    fputc('\n', out);
    wadi_show_units(s, b, out);
}

void wad_show_block(const wad_sheet *s, const wad_instance *b, FILE *out)
{
    show_heading(s, b, out);
    if (b->clock)
        fprintf(out, "clock %s\n", b->clock->name);
    wadi_show_draws("draws", &b->draws, out);
    wadi_show_openings(s, b, out);
    for (unsigned i = 0; i < b->n_irqs; i++) {
        fprintf(out, "irq   %d%s", b->irqs[i],
                b->irq_edge[i] ? ", edge: noted, and forgotten when its handler is entered" : "");
        show_irq_flags(b, i, out);
    }
    show_owned(b, out);
    if (b->route.reg) {
        char *route = wad_fieldref_name(&b->route);
        fprintf(out, "route %s\n", route);
        g_free(route);
    }
    show_signals(b, out);
    for (unsigned i = 0; i < b->layout->n_locks; i++) {
        char *how = wad_lock_text(b->layout->locks[i]);
        fprintf(out, "lock  %s: %s\n", b->layout->locks[i]->name, how);
        g_free(how);
    }
    if (b->home) {
        wadi_show_roles(b, out);
        return;
    }
    fprintf(out, "\n%-12s %-6s %-5s %-12s %-4s %s\n", "register", "offset", "word", "address",
            "acc", "reset");
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(b->layout, &at)) != NULL;)
        show_register_line(s, b, r, &at, out);
    for (unsigned i = 0; i < b->layout->n_values; i++)
        show_value(b->layout->values[i], out);
    wadi_show_hooks(b->layout->hooks, b->layout->n_hooks, out);
    show_errata(s, b, NULL, out);
}

/* ---- register ---- */

/* The field that holds a bit, and which element of a field array; NULL for reserved bits. */
static const wad_bitfield *field_at(const wad_register *r, unsigned bit, unsigned *element)
{
    *element = 0;
    for (unsigned i = 0; i < r->n_fields; i++) {
        const wad_bitfield *f = r->fields[i];
        for (unsigned k = 0; f->name && k < (f->count ? f->per_reg : 1u); k++) {
            unsigned lsb = f->lsb + k * f->step;
            if (bit < lsb || bit >= lsb + f->width)
                continue;
            *element = k;
            return f;
        }
    }
    return NULL;
}

static bool same_field(const wad_register *r, unsigned a, unsigned b)
{
    unsigned x, y;
    return field_at(r, a, &x) == field_at(r, b, &y) && x == y;
}

/* A name in the middle of its bits, cut where it does not fit; whole below. */
static void show_span(const wad_register *r, uint32_t index, unsigned bit, unsigned bits, FILE *out)
{
    unsigned element;
    const wad_bitfield *f = field_at(r, bit, &element);
    if (f && f->count > f->per_reg)
        element += index * f->per_reg;
    char name[80] = "";
    int room = (int)bits * 4 - 1;
    if (f && f->count) { /* the number stays when the name is cut */
        int digits = element > 9 ? 2 : 1;
        snprintf(name, sizeof name, "%.*s%u", room > digits ? room - digits : 0, f->name, element);
    } else if (f) {
        snprintf(name, sizeof name, "%s", f->name);
    }
    int n = (int)strlen(name);
    if (n > room)
        n = room;
    int left = (room - n) / 2;
    fprintf(out, "%*s%.*s%*s|", left, "", n, name, room - n - left, "");
}

/* One row of 16 bits: numbers, fields, values. */
static void show_box_row(const wad_register *r, uint32_t index, unsigned high, uint64_t value,
                         unsigned indent, FILE *out)
{
    unsigned low = high >= 16 ? high - 15 : 0;
    fprintf(out, "%*s  ", (int)indent, "");
    for (unsigned bit = high + 1; bit-- > low;)
        fprintf(out, bit == low ? " %2u" : " %2u ", bit);
    fprintf(out, "\n%*s  |", (int)indent, "");
    for (unsigned bit = high + 1; bit-- > low;) {
        unsigned last = bit;
        while (last > low && same_field(r, last - 1, bit))
            last--;
        show_span(r, index, bit, bit - last + 1, out);
        bit = last;
    }
    fprintf(out, "\n%*s  |", (int)indent, "");
    for (unsigned bit = high + 1; bit-- > low;)
        fprintf(out, " %d |", (int)(value >> bit & 1));
    fputs("\n", out);
}

void wad_show_bits(const wad_register *r, uint32_t index, uint64_t value, uint64_t marked,
                   unsigned indent, FILE *out)
{
    uint64_t named = ~wad_register_mask(r, WAD_ACCESS_RESERVED);
    bool carets = (marked & named) != (named & wadi_ones(r->width));
    for (int high = r->width - 1; high > 0; high -= 16) {
        unsigned low = high >= 16 ? (unsigned)high - 15 : 0, last = low;
        if (!(marked >> low & 0xFFFF))
            continue;
        while (!(marked >> last & 1))
            last++;
        show_box_row(r, index, (unsigned)high, value, indent, out);
        if (!carets)
            continue;
        fprintf(out, "%*s   ", (int)indent, "");
        for (unsigned bit = (unsigned)high + 1; bit-- > last;)
            fputs(!(marked >> bit & 1) ? "    " : bit == last ? " ^" : " ^  ", out);
        fputc('\n', out);
    }
}

static void show_field_line(const wad_bitfield *f, FILE *out)
{
    char bits[24], *name;
    if (!f->name)
        return;
    if (f->width > 1)
        snprintf(bits, sizeof bits, "%u:%u", f->lsb + f->width - 1u, f->lsb);
    else
        snprintf(bits, sizeof bits, "%u", f->lsb);
    name = f->count ? g_strdup_printf("%s[%u]", f->name, f->count) : g_strdup(f->name);
    fprintf(out, "%-6s %-12s %-4s %s", bits, name, wad_access_word(f->access),
            f->text ? f->text : "");
    if (f->count)
        fprintf(out, "; element n at bit %u + %u n%s", f->lsb, f->step,
                f->count > f->per_reg ? ", on into the next register" : "");
    if (f->not_zero)
        fputs("; not 0", out);
    if (f->cleared_at_entry)
        fputs("; cleared when its handler is entered", out);
    if (f->n_clearings) {
        fputs("; cleared by ", out);
        wadi_show_events(f->clearings, f->n_clearings, out);
    }
    wadi_show_behaviour(f->more, out);
    if (f->stable) {
        char *cond = wad_cond_text(f->stable);
        fprintf(out, "; not to be changed while %s", cond);
        g_free(cond);
    }
    if (f->when) {
        char *cond = wad_cond_text(f->when);
        fprintf(out, "; only while %s", cond);
        g_free(cond);
    }
    fputc('\n', out);
    for (unsigned i = 0; i < f->n_enums; i++)
        fprintf(out, "%26s%llu  %s\n", "", (unsigned long long)f->enums[i].code, f->enums[i].name);
    g_free(name);
}

void wad_show_register(const wad_sheet *s, const wad_instance *b, const wad_register *r,
                       uint32_t index, FILE *out)
{
    uint32_t offset = r->offset + index * r->step;
    wad_fieldref whole = {.block = b, .reg = r, .reg_index = index};
    char *name = wad_fieldref_name(&whole);
    fprintf(out, "%s: %s%s%s%s\n", name, r->text ? r->text : "", r->ref ? " (" : "",
            r->ref ? r->ref : "", r->ref ? ")" : "");
    fputs("address ", out);
    wadi_show_address(s, b->base + offset, out);
    fprintf(out, ", offset 0x%02X bytes = %u words, %u bits, %s, reset 0x%0*llX\n", offset,
            offset / (s->bus_bits / 8u), r->width, wad_access_word(r->access), (int)r->width / 4,
            (unsigned long long)r->reset);
    if (r->count)
        fprintf(out, "one of %u, %u bytes apart\n", r->count, r->step);
    g_free(name);
    uint32_t bit;
    if (wad_fieldref_bit_address(&whole, &bit))
        fprintf(out, "its bits have addresses of their own, 0x%02X to 0x%02X\n", bit,
                bit + r->width - 1);
    if (r->bytes)
        fputs("its bytes may be accessed alone\n", out);
    if (r->more) {
        fputs("all of it", out);
        wadi_show_behaviour(r->more, out);
        fputc('\n', out);
    }
    if (r->lock) {
        char *how = wad_lock_text(r->lock);
        fprintf(out, "locked by %s: %s\n", r->lock->name, how);
        g_free(how);
    }
    fputc('\n', out);
    for (int high = r->width - 1; high > 0; high -= 16)
        show_box_row(r, index, (unsigned)high, r->reset, 0, out);
    fprintf(out, "  (numbers, fields, reset value; blank is reserved)\n\n%-6s %-12s %s\n", "bits",
            "field", "acc");
    for (unsigned i = 0; i < r->n_fields; i++)
        show_field_line(r->fields[i], out);
    show_errata(s, b, r, out);
}
