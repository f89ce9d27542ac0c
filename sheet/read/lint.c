/* SPDX-License-Identifier: MIT */
/* What is doubtful in a sheet that reads well: overlaps, reset values, unbound roles. */
#include <glib.h>
#include <string.h>

#include "lang/bits.h"
#include "lang/rational.h"
#include "lint.h"
#include "sheet/chip/query.h"
#include "sheet/chip/served.h"
#include "sheet/chip/value.h"

static uint64_t element_mask(const wad_bitfield *f)
{
    wad_register one = {.fields = &f, .n_fields = 1, .width = f->reg->width};
    return wad_register_mask(&one, f->access == WAD_ACCESS_RESERVED ? WAD_ACCESS_RW : f->access);
}

static void lint_fields(linter *l, const wad_register *reg)
{
    uint64_t taken = 0;
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        if (!f->name)
            continue;
        uint64_t mask = element_mask(f);
        if (taken & mask)
            DOUBT(l, FIELD_OVERLAP, &f->where, "field '%s' overlaps another field of register '%s'",
                  f->name, reg->name);
        taken |= mask;
    }
    uint64_t stray = reg->reset & ~taken;
    if (stray)
        DOUBT(l, RESET_STRAY, &reg->where,
              "reset value 0x%llx of '%s' sets bits 0x%llx that no field has",
              (unsigned long long)reg->reset, reg->name, (unsigned long long)stray);
}

static void lint_forbidden(linter *l, const wad_register *reg)
{
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        uint64_t ones = wadi_ones(f->width);
        if (f->not_zero && !(reg->reset >> f->lsb & ones))
            DOUBT(l, RESET_FORBIDDEN, &f->where, "field '%s' must not be 0, but is 0 after reset",
                  f->name);
    }
}

static bool reads(const wad_register *r)
{
    return r->access != WAD_ACCESS_WO;
}

static bool writes(const wad_register *r)
{
    return r->access != WAD_ACCESS_RO && r->access != WAD_ACCESS_RC;
}

static bool is_chosen(const wad_register *r)
{
    return r->more && r->more->when;
}

/* Two registers may share an address when one is only read and the other only written, or a
 * condition chooses. */
static void lint_overlap(linter *l, const wad_register *a, const wad_register *b)
{
    if (is_chosen(a) || is_chosen(b))
        return;
    for (uint32_t i = 0; i < (a->count ? a->count : 1); i++)
        for (uint32_t k = 0; k < (b->count ? b->count : 1); k++) {
            uint32_t x = a->offset + i * a->step, y = b->offset + k * b->step;
            bool meet = x < y + wad_register_bytes(b) && y < x + wad_register_bytes(a);
            if (meet && ((reads(a) && reads(b)) || (writes(a) && writes(b)))) {
                DOUBT(l, REGISTER_OVERLAP, &b->where,
                      "register '%s' overlaps register '%s' at offset 0x%x", b->name, a->name, y);
                return;
            }
        }
}

static void lint_codes(linter *l, const wad_role *role)
{
    for (unsigned i = 0; !l->layout->kind->own && i < role->n_codes; i++) {
        char *name = g_strdup_printf("%s_%s", role->name, role->codes[i].name);
        if (wad_kind_role_index(l->layout->kind, name) < 0)
            DOUBT(l, CODE_UNKNOWN, &role->where,
                  "typed, but not simulated: kind '%s' knows no '%s' of role '%s'",
                  l->layout->kind->name, role->codes[i].name, role->name);
        g_free(name);
    }
}

/* Numbers that codes or a law say, and no model asks for. */
static void lint_number(linter *l, const wad_role *role)
{
    bool says = role->law != NULL;
    for (unsigned i = 0; i < role->n_meanings; i++)
        says = says || role->meanings[i].is;
    if (says && !wad_kind_takes_number(l->layout->kind, role->name))
        DOUBT(l, NUMBER_IGNORED, &role->where,
              "typed, but not simulated: kind '%s' takes no number for role '%s' that %s says",
              l->layout->kind->name, role->name, role->law ? "a law" : "a code");
}

static bool has_words(const wad_kind *kind, const char *role)
{
    unsigned n = kind->n_roles;
    size_t stem = strlen(role);
    const wad_role_info *roles = kind->roles;
    static const char *const no_words[] = {"plus", "times", "power", "step", "depth", "first"};
    for (unsigned i = 0; i < n; i++) {
        bool code = !strcmp(roles[i].sort, "CODE") && !strncmp(roles[i].name, role, stem) &&
                    roles[i].name[stem] == '_';
        for (unsigned k = 0; code && k < G_N_ELEMENTS(no_words); k++)
            code = strcmp(roles[i].name + stem + 1, no_words[k]) != 0;
        if (code)
            return true;
    }
    return false;
}

static bool is_known_value(const linter *l, const wad_role *role, const wad_enumerator *e)
{
    char *lower = g_ascii_strdown(e->name, -1);
    char *name = g_strdup_printf("%s_%s", role->name, lower);
    bool known = wad_kind_role_index(l->layout->kind, name) >= 0 || !strcmp(lower, "stopped") ||
                 !strcmp(lower, "off") || !strcmp(lower, "none");
    for (unsigned i = 0; i < role->n_codes; i++)
        known = known || role->codes[i].value == e->code;
    g_free(lower);
    g_free(name);
    return known;
}

/* Named values of a field that a role with words lies in, and which are none of the words. */
static void lint_values(linter *l, const wad_role *role)
{
    const wad_bitfield *f = role->field;
    if (!f || role->n_meanings || wad_kind_takes_number(l->layout->kind, role->name) ||
        !has_words(l->layout->kind, role->name))
        return;
    for (unsigned i = 0; i < f->n_enums; i++)
        if (!is_known_value(l, role, &f->enums[i]))
            DOUBT(l, VALUE_UNKNOWN, &f->enums[i].where,
                  "typed, but not simulated: role '%s' of kind '%s' has no '%s': %llu does nothing",
                  role->name, l->layout->kind->name, f->enums[i].name,
                  (unsigned long long)f->enums[i].code);
}

static void lint_reads(linter *l, const wad_role *role)
{
    for (unsigned i = 0; i < role->n_places; i++)
        for (unsigned k = 0; k < role->places[i].n_parts; k++) {
            const wad_fieldref *ref = &role->places[i].parts[k].ref;
            const wad_behaviour *of_field = ref->field ? ref->field->more : NULL;
            const wad_behaviour *of_reg = ref->reg ? ref->reg->more : NULL;
            if (!(of_field && (of_field->reads || of_field->number)) && !(of_reg && of_reg->reads))
                continue;
            char *name = wad_fieldref_name(ref);
            DOUBT(l, ROLE_READS, &role->where,
                  "typed, but not simulated: role '%s' lies in %s, which reads as an expression: "
                  "the model sees what is stored there",
                  role->name, name);
            g_free(name);
            return;
        }
}

/* A role, however conditions bind it. */
static void lint_ways(linter *l, const wad_role *role)
{
    lint_codes(l, role);
    lint_number(l, role);
    lint_values(l, role);
    lint_reads(l, role);
    if (role->otherwise)
        lint_ways(l, role->otherwise);
}

static void lint_roles(linter *l)
{
    const wad_role_info *roles = l->layout->kind->roles;
    for (unsigned i = 0; i < l->layout->kind->n_roles; i++) {
        const wad_role *role = wad_layout_role(l->layout, roles[i].name);
        if (roles[i].must && !role)
            DOUBT(l, ROLE_MISSING, &l->layout->where,
                  "layout '%s' acts as %s but binds no role '%s' (%s)", l->layout->name,
                  l->layout->kind->name, roles[i].name, roles[i].text);
    }
    for (unsigned i = 0; i < l->layout->n_roles; i++)
        lint_ways(l, &l->layout->roles[i]);
    for (unsigned i = 0; i < l->layout->n_roles; i++)
        if (l->layout->roles[i].sort == WAD_ROLE_VALUE && l->layout->roles[i].value &&
            !wadi_value_is_pair(l->layout->roles[i].value))
            DOUBT(l, VALUE_SPLIT, &l->layout->roles[i].where,
                  "role '%s' is bound to a value split otherwise than into a high part from bit 0 "
                  "and a low part up to its register's last bit: the simulator follows it, the "
                  "generated role tables leave it out",
                  l->layout->roles[i].name);
    if (wad_acts_as(l->layout, "counter") && !wad_layout_role(l->layout, "reload") &&
        !wad_layout_role(l->layout, "start"))
        DOUBT(l, COUNTER_WITHOUT_PERIOD, &l->layout->where,
              "layout '%s' acts as counter but binds neither 'reload' nor "
              "'start'",
              l->layout->name);
    for (unsigned i = 0; i < l->layout->n_roles; i++)
        for (unsigned k = 0; k < i; k++)
            if (!strcmp(l->layout->roles[i].name, l->layout->roles[k].name))
                DOUBT(l, ROLE_TWICE, &l->layout->roles[i].where, "role '%s' is bound twice",
                      l->layout->roles[i].name);
}

/* ---- typed, but not simulated ---- */

/* Does a unit of a block with this layout have a flag in the register? */
static bool holds_flag(const linter *l, const wad_register *reg)
{
    for (unsigned i = 0; i < l->sheet->n_blocks; i++) {
        const wad_instance *b = l->sheet->blocks[i];
        for (unsigned r = 0; r < b->layout->n_roles; r++) {
            const wad_role *role = &b->layout->roles[r];
            if (!wad_kind_flag(b->layout->kind,
                               (unsigned)wad_kind_role_index(b->layout->kind, role->name)))
                continue;
            for (unsigned e = 0; e < role->n_places; e++)
                for (unsigned k = 0; k < role->places[e].n_parts; k++)
                    if (role->places[e].parts[k].ref.reg == reg)
                        return true;
        }
    }
    return false;
}

/* A register that clears bits which nothing can write: what the hardware does with them is not
 * said by that. */
static void lint_clearing(linter *l, const wad_register *reg)
{
    const wad_register *of = reg->alias_of;
    uint64_t takes = 0;
    static const wad_access kinds[] = {WAD_ACCESS_RW, WAD_ACCESS_WO, WAD_ACCESS_W1C, WAD_ACCESS_W0C,
                                       WAD_ACCESS_W1S};
    for (unsigned i = 0; i < G_N_ELEMENTS(kinds); i++)
        takes |= wad_register_mask(of, kinds[i]);
    if (!takes && wad_register_mask(of, WAD_ACCESS_RO) &&
        !(reg->alias == WAD_ALIAS_CLEARS && holds_flag(l, of)))
        DOUBT(
            l, CLEARS_NOTHING, &reg->where,
            "typed, but not simulated: '%s' acts on '%s', whose fields are all read-only; give the "
            "flags the access that clears them (w1c)",
            reg->name, of->name);
}

/* What the simulator follows and the tables for the drivers cannot say. */
static void lint_forms(linter *l)
{
    for (unsigned i = 0; i < l->sheet->n_blocks; i++) {
        const wad_instance *b = l->sheet->blocks[i];
        char *why = b->layout->kind && b->layout->kind->own ? NULL : wadi_unserved(b);
        bool told = i && b->home && b->where.line == l->sheet->blocks[i - 1]->where.line;
        if (why && !told) /* a row once */
            DOUBT(l, NO_DRIVER, &b->where,
                  "no driver serves this form yet: %s%s%s%s; the simulator does", why,
                  b->home ? "" : " (", b->home ? "" : b->name, b->home ? "" : ")");
        g_free(why);
    }
}

/* A kind that Wadium has not. */
static void lint_own_kinds(linter *l)
{
    for (unsigned i = 0; i < l->sheet->n_blocks; i++) {
        const wad_instance *b = l->sheet->blocks[i];
        if (b->layout->kind && b->layout->kind->own)
            DOUBT(l, OWN_KIND, &b->where,
                  "typed, but not simulated: kind '%s' is the sheet's own: %s does nothing until a "
                  "bench or a board says `model \"FILE.c\" for %s`",
                  b->layout->kind->name, b->name, b->name);
    }
}

/* A flag whose enable says that it asks, and no line takes it. */
static void lint_flag_lines(linter *l, const wad_instance *b)
{
    for (unsigned i = 0; i < b->layout->n_roles; i++) {
        const wad_role *role = &b->layout->roles[i];
        int place = wad_kind_role_index(b->layout->kind, role->name);
        int enable = wad_kind_enable_of(b->layout->kind, (unsigned)place);
        const wad_role_info *infos = b->layout->kind->roles;
        if (enable < 0 || !wad_layout_role(b->layout, infos[enable].name))
            continue;
        for (unsigned k = 0; k < wad_role_count(role); k++) {
            bool fed = false;
            for (unsigned n = 0; n < b->n_irqs && !fed; n++)
                fed = wad_irq_fed(b, n, role, k, &(wad_fieldref){0});
            if (fed)
                continue;
            DOUBT(l, FLAG_WITHOUT_LINE, &b->where,
                  "typed, but not simulated: flag '%s' of %s has an interrupt enable, and no line",
                  role->name, b->name);
            break;
        }
    }
}

/* Does a flag of the unit, with its enable, raise the line? */
static bool is_fed(const wad_instance *b, unsigned line)
{
    for (unsigned i = 0; b->layout->kind && i < b->layout->n_roles; i++) {
        const wad_role *role = &b->layout->roles[i];
        int place = wad_kind_role_index(b->layout->kind, role->name);
        int enable = wad_kind_enable_of(b->layout->kind, (unsigned)place);
        const wad_role_info *infos = b->layout->kind->roles;
        bool own = enable >= 0 && wad_layout_role(b->layout, infos[enable].name);
        for (unsigned k = 0; enable >= 0 && k < wad_role_count(role); k++) {
            wad_fieldref by;
            if (wad_irq_fed(b, line, role, k, &by) && (own || by.reg))
                return true;
        }
    }
    return false;
}

static void lint_lines(linter *l)
{
    for (unsigned i = 0; i < l->sheet->n_lines; i++) {
        const wad_line_def *def = &l->sheet->lines[i];
        if (!wad_sheet_irq_owner(l->sheet, def->line) && (int)def->line != l->sheet->cpu.bus_fault)
            DOUBT(l, LINE_SILENT, &def->where,
                  "typed, but not simulated: nothing raises interrupt %u: no unit has it",
                  def->line);
    }
    for (unsigned i = 0; i < l->sheet->n_blocks; i++) {
        const wad_instance *b = l->sheet->blocks[i];
        if (b->layout->kind)
            lint_flag_lines(l, b);
        for (unsigned k = 0; k < b->n_irqs; k++) {
            if (!is_fed(b, k))
                DOUBT(l, LINE_SILENT, &b->where,
                      "typed, but not simulated: nothing raises interrupt %d of %s: %s", b->irqs[k],
                      b->name,
                      b->layout->kind ? "no flag of it has this line and an interrupt enable"
                                      : "its layout acts as nothing");
            const wad_instance *owner = wad_sheet_irq_owner(l->sheet, (unsigned)b->irqs[k]);
            const wad_line_def *def = wad_sheet_line(l->sheet, (unsigned)b->irqs[k]);
            if (owner != b && !(def && def->name))
                DOUBT(l, LINE_SHARED, &b->where,
                      "interrupt %d is shared by %s and %s, and its handler bears the first one's "
                      "name: give the line a name of its own, as in 'line %d NAME'",
                      b->irqs[k], owner->name, b->name, b->irqs[k]);
        }
    }
}

static void lint_layout(linter *l)
{
    wadi_registers at = {0};
    for (const wad_register *reg; (reg = wadi_next_register(l->layout, &at)) != NULL;) {
        if (reg->alias != WAD_ALIAS_NONE)
            lint_clearing(l, reg);
        if (reg->alias == WAD_ALIAS_NONE) {
            lint_fields(l, reg);
            lint_forbidden(l, reg);
        }
    }
    for (unsigned i = 0; i < l->layout->n_regs; i++) {
        const wad_register *reg = l->layout->regs[i];
        uint32_t end =
            reg->offset + (reg->count ? (reg->count - 1) * reg->step : 0) + wad_register_bytes(reg);
        for (unsigned k = i + 1; k < l->layout->n_regs && l->layout->regs[k]->offset < end; k++)
            lint_overlap(l, reg, l->layout->regs[k]);
    }
    if (l->layout->kind)
        lint_roles(l);
}

static void lint_blocks(linter *l)
{
    const wad_sheet *s = l->sheet;
    const wad_instance *a = NULL, *b;
    for (unsigned i = 0; i < s->n_blocks; a = s->blocks[i]->home ? a : s->blocks[i], i++) {
        b = s->blocks[i];
        if (!a)
            continue;
        if (!b->home && a->base + a->layout->size > b->base)
            DOUBT(l, BLOCK_OVERLAP, &b->where,
                  "block '%s' at 0x%llx overlaps block '%s', which ends at 0x%llx", b->name,
                  (unsigned long long)b->base, a->name,
                  (unsigned long long)(a->base + a->layout->size));
    }
    for (unsigned i = 0; i < s->n_blocks; i++)
        for (unsigned k = 0; k < s->n_memories; k++)
            if (s->blocks[i]->base < s->memories[k].base + s->memories[k].size &&
                s->memories[k].base < s->blocks[i]->base + s->blocks[i]->layout->size)
                DOUBT(l, MEMORY_OVERLAP, &s->blocks[i]->where, "block '%s' overlaps memory '%s'",
                      s->blocks[i]->name, s->memories[k].name);
}

/* Two functions of one number on one pin cannot be told apart. */
static void lint_pins(linter *l)
{
    GHashTable *seen = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    for (unsigned i = 0; i < l->sheet->n_blocks; i++) {
        const wad_instance *block = l->sheet->blocks[i];
        for (unsigned k = 0; k < block->n_signals && !block->route.reg; k++)
            for (unsigned o = 0; o < block->signals[k].n_options; o++) {
                const wad_pin_option *opt = &block->signals[k].options[o];
                if (!opt->fn) /* taken by the block itself, not chosen by a number */
                    continue;
                char *key = g_strdup_printf("%s fn %u", opt->pin->name, opt->fn);
                if (g_hash_table_contains(seen, key))
                    DOUBT(l, PIN_SHARED, &opt->where, "%s is given to %s.%s and to another signal",
                          key, block->name, block->signals[k].name);
                g_hash_table_add(seen, key);
            }
    }
    g_hash_table_destroy(seen);
}

/* Flags that raise the block's line: those with an interrupt enable. */
static unsigned flags_on_line(const wad_layout *layout)
{
    unsigned n = 0;
    for (unsigned i = 0; i < layout->n_roles; i++) {
        char *enable = g_strconcat(layout->roles[i].name, "_irq", NULL);
        n += wad_layout_role(layout, enable) ? wad_role_count(&layout->roles[i]) : 0;
        g_free(enable);
    }
    return n;
}

/* Its handler finds no flag set, and cannot know which one it came for. */
static void lint_entry(linter *l, const wad_instance *block)
{
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(block->layout, &at)) != NULL;)
        for (unsigned k = 0; k < r->n_fields; k++) {
            const wad_bitfield *f = r->fields[k];
            if (f->cleared_at_entry && flags_on_line(block->layout) > 1 && block->n_irqs == 1)
                DOUBT(l, ENTRY_SHARED, &f->where,
                      "'%s' is cleared at entry, but shares interrupt %d with other flags", f->name,
                      block->irqs[0]);
        }
}

static void lint_links(linter *l)
{
    for (unsigned i = 0; i < l->sheet->n_blocks; i++) {
        const wad_instance *block = l->sheet->blocks[i];
        lint_entry(l, block);
        if (wad_layout_role(block->layout, "trigger") && !block->n_triggers)
            DOUBT(l, NO_TRIGGERS, &block->where, "block '%s' can select a trigger, but lists none",
                  block->name);
        if (wad_layout_role(block->layout, "request") && !block->n_requests)
            DOUBT(l, NO_REQUESTS, &block->where, "block '%s' can select a request, but lists none",
                  block->name);
    }
    for (unsigned i = 0; i < l->sheet->n_clocks; i++) {
        const wad_clock *c = l->sheet->clocks[i];
        if ((c->lost.reg || c->instead.ref.reg) && !c->watched.n)
            DOUBT(l, CLOCK_UNWATCHED, &c->where,
                  "clock '%s' can be lost, but nothing says while what it is watched", c->name);
    }
}

static void lint_clocks(linter *l)
{
    for (unsigned i = 0; i < l->sheet->n_clocks; i++) {
        const wad_clock *clock = l->sheet->clocks[i];
        wad_rational hz;
        char text[32];
        if (!wad_clock_rate(l->sheet, clock, NULL, NULL, &hz, NULL)) {
            if (clock->own) /* its block selects none until firmware says */
                continue;
            DOUBT(l, CLOCK_SILENT, &clock->where, "clock '%s' has no frequency after reset",
                  clock->name);
            continue;
        }
        wad_format_hz(text, sizeof text, hz);
        wad_rational min, max;
        bool bounded = wad_clock_limits(clock, NULL, NULL, &min, &max);
        bool out = bounded && (wadi_rat_cmp(hz, min) < 0 || wadi_rat_cmp(hz, max) > 0);
        if (bounded && wadi_rat_cmp(min, max) > 0) {
            DOUBT(l, CLOCK_LIMITS, &clock->where,
                  "the limits of clock '%s' stand the wrong way round: no rate is within them",
                  clock->name);
            continue;
        }
        if (out && clock->on.n == 0)
            DOUBT(l, CLOCK_LIMITS, &clock->where,
                  "clock '%s' runs at %s after reset, outside its limits", clock->name, text);
    }
}

void wad_sheet_lint(const wad_sheet *sheet, wad_diags *diags)
{
    linter l = {sheet, diags, NULL};
    for (unsigned i = 0; i < sheet->n_blocks; i++) {
        bool seen = false;
        for (unsigned k = 0; k < i && !seen; k++)
            seen = sheet->blocks[k]->layout == sheet->blocks[i]->layout;
        l.layout = sheet->blocks[i]->layout;
        if (!seen)
            lint_layout(&l);
    }
    lint_blocks(&l);
    lint_lines(&l);
    lint_forms(&l);
    lint_own_kinds(&l);
    wadi_lint_served(&l);
    lint_pins(&l);
    lint_clocks(&l);
    lint_links(&l);
}
