/* SPDX-License-Identifier: MIT */
/*
 * What is typed, and nothing in the simulator asks for it: fields that no role, law, condition,
 * lock or hook names; signals that no role drives; pins of a block that is no port; locks that
 * guard nothing; behaviour of bits that cannot have it.
 */
#include <glib.h>
#include <string.h>

#include "lint.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/query.h"

#define MOST_NAMED 6

/* Which bits of registers something asks for; of an array's elements together. */
typedef struct asked {
    GHashTable *bits; /* const wad_register * -> uint64_t * */
} asked;

static const wad_register *base_of(const wad_register *reg)
{
    const wad_register *r = reg->alias_of ? reg->alias_of : reg;
    return r->array ? r->array : r;
}

static void ask_bits(asked *a, const wad_register *reg, uint64_t mask)
{
    const wad_register *base = base_of(reg);
    uint64_t *bits = g_hash_table_lookup(a->bits, base);
    if (!bits) {
        bits = g_new0(uint64_t, 1);
        g_hash_table_insert(a->bits, (gpointer)base, bits);
    }
    *bits |= mask;
}

static void ask(asked *a, const wad_fieldref *ref)
{
    if (!ref->reg)
        return;
    ask_bits(a, ref->reg, ref->field ? wad_fieldref_mask(ref) : UINT64_MAX);
    const wad_behaviour *more = ref->field ? ref->field->more : NULL;
    if (more && more->alias_of.reg) /* another name: the bits themselves are meant */
        ask(a, &more->alias_of);
}

static void ask_expr(asked *a, const wad_expr *e)
{
    if (!e)
        return;
    if (e->op == WADI_OP_FIELD || e->op == WADI_OP_PICK)
        ask(a, &e->field);
    for (unsigned i = 0; i < e->n_picks; i++)
        ask_expr(a, e->picks[i].value);
    ask_expr(a, e->a);
    ask_expr(a, e->b);
}

static void ask_cond(asked *a, const wad_cond *cond)
{
    for (const wad_cond *c = cond; c; c = c->or_else)
        for (unsigned i = 0; i < c->n; i++)
            ask(a, &c->terms[i].ref);
}

static void ask_event(asked *a, const wad_bus_event *e)
{
    if (e->reg)
        ask_bits(a, e->reg, e->mask ? e->mask : UINT64_MAX);
}

static void ask_events(asked *a, const wad_clearing *list, unsigned n)
{
    for (unsigned i = 0; i < n; i++) {
        ask_event(a, &list[i].first);
        ask_event(a, &list[i].last);
    }
}

static void ask_acts(asked *a, const wad_act *acts, unsigned n)
{
    for (unsigned i = 0; i < n; i++) {
        ask(a, &acts[i].ref);
        ask_expr(a, acts[i].value);
        ask_acts(a, acts[i].acts, acts[i].n_acts);
    }
}

static void ask_hooks(asked *a, const wad_hook *hooks, unsigned n)
{
    for (unsigned i = 0; i < n; i++) {
        ask_events(a, hooks[i].on, hooks[i].n_on);
        ask_cond(a, hooks[i].when);
        ask_acts(a, hooks[i].acts, hooks[i].n_acts);
    }
}

static void ask_place(asked *a, const wad_role_place *place)
{
    for (unsigned k = 0; k < place->n_parts; k++)
        ask(a, &place->parts[k].ref);
    ask_events(a, place->on, place->n_on);
}

static void ask_role(asked *a, const wad_role *role)
{
    for (; role; role = role->otherwise) {
        for (unsigned i = 0; i < role->n_places; i++)
            ask_place(a, &role->places[i]);
        for (unsigned i = 0; i < role->n_meanings; i++)
            ask_expr(a, role->meanings[i].is);
        ask_expr(a, role->law);
        for (unsigned i = 0; role->when && i < MAX(role->n_places, 1); i++)
            ask_cond(a, &role->when[i]);
    }
}

/* What a field or a register does besides is done by the bus; what it names is asked for. */
static void ask_behaviour(asked *a, const wad_behaviour *b, const wad_register *reg, uint64_t own)
{
    if (b->reads || b->alias || b->masks.reg || b->has_key || b->number)
        ask_bits(a, reg, own);
    ask_expr(a, b->reads);
    for (unsigned i = 0; b->number && i < b->number->n; i++)
        ask(a, &b->number->items[i].flag);
    if (b->held) {
        ask_cond(a, b->held->when);
        ask_events(a, b->held->until, b->held->n_until);
    }
    if (b->delay)
        ask(a, &b->delay->busy);
    ask_cond(a, b->when);
}

static uint64_t mask_of(const wad_bitfield *f)
{
    uint64_t mask = 0;
    for (unsigned k = 0; k < (f->count ? f->per_reg : 1u); k++) {
        wad_fieldref ref = {.lsb = (uint8_t)(f->lsb + k * f->step), .width = f->width};
        mask |= wad_fieldref_mask(&ref);
    }
    return mask;
}

static void ask_layout(asked *a, const wad_layout *l)
{
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(l, &at)) != NULL;) {
        if (r->more)
            ask_behaviour(a, r->more, r, UINT64_MAX);
        for (unsigned k = 0; k < r->n_fields; k++) {
            const wad_bitfield *f = r->fields[k];
            ask_events(a, f->clearings, f->n_clearings);
            ask_cond(a, f->stable);
            ask_cond(a, f->when);
            if (f->more)
                ask_behaviour(a, f->more, r, mask_of(f));
        }
    }
    for (unsigned i = 0; i < l->n_locks; i++) {
        const wad_lock *lock = l->locks[i];
        if (lock->key)
            ask_bits(a, lock->key, UINT64_MAX);
        ask_cond(a, lock->open);
        ask_cond(a, lock->unless);
        ask(a, &lock->shows);
    }
    ask_hooks(a, l->hooks, l->n_hooks);
    for (unsigned i = 0; i < l->n_roles; i++)
        ask_role(a, &l->roles[i]);
}

static void ask_block(asked *a, const wad_instance *b)
{
    ask_layout(a, b->layout);
    ask_cond(a, &b->needs);
    ask_cond(a, &b->reset);
    ask(a, &b->needs_ready.ref);
    ask(a, &b->reset_ready.ref);
    ask(a, &b->route);
    for (unsigned i = 0; i < b->n_owned; i++)
        ask(a, &b->owned[i].ref);
    for (unsigned i = 0; b->irq_flags && i < b->n_irqs; i++)
        for (unsigned k = 0; k < b->irq_flags[i].n; k++) {
            const wad_irq_flag *flag = &b->irq_flags[i].flags[k];
            for (unsigned n = 0; flag->by && n <= flag->last - flag->first; n++)
                ask(a, &flag->by[n]);
        }
}

static void ask_chip(asked *a, const wad_sheet *s)
{
    for (unsigned i = 0; i < s->n_clocks; i++) {
        const wad_clock *c = s->clocks[i];
        ask_expr(a, c->law);
        ask_cond(a, &c->on);
        ask_cond(a, &c->watched);
        ask(a, &c->ready);
        ask(a, &c->switched);
        ask(a, &c->lost);
        ask(a, &c->instead.ref);
    }
    ask_cond(a, &s->identity);
    ask(a, &s->cpu.global);
    ask(a, &s->cpu.saves);
    for (unsigned i = 0; i < s->n_entry; i++)
        ask(a, &s->entry[i].ref);
    for (unsigned i = 0; i < s->n_exit; i++)
        ask(a, &s->exit[i].ref);
    for (unsigned i = 0; i < s->n_sleeps; i++)
        ask_cond(a, &s->sleeps[i].when);
    for (unsigned i = 0; i < s->n_lines; i++) {
        ask_place(a, &s->lines[i].enabled);
        ask_place(a, &s->lines[i].pending);
        ask_place(a, &s->lines[i].priority);
    }
    ask_hooks(a, s->hooks, s->n_hooks);
}

/* ---- fields that nothing asks for ---- */

/* Software can change it, or the chip is said to. */
static bool is_live(const wad_bitfield *f)
{
    bool constant = f->access == WAD_ACCESS_RO && !f->is_volatile;
    return f->name && f->access != WAD_ACCESS_RESERVED && !constant;
}

static bool is_asked(const asked *a, const wad_register *reg, const wad_bitfield *f)
{
    const uint64_t *bits = g_hash_table_lookup(a->bits, base_of(reg));
    return bits && *bits & mask_of(f);
}

static void lint_layout_fields(linter *l, const asked *a, const wad_layout *layout)
{
    GString *names = g_string_new(NULL);
    unsigned n = 0, all = 0;
    for (unsigned i = 0; i < layout->n_regs; i++) {
        const wad_register *r = layout->regs[i];
        for (unsigned k = 0; !r->alias && k < r->n_fields; k++) {
            const wad_bitfield *f = r->fields[k];
            if (!is_live(f))
                continue;
            all++;
            if (is_asked(a, r, f))
                continue;
            bool whole = r->n_fields == 1 && !strcmp(f->name, "VALUE");
            if (n < MOST_NAMED)
                g_string_append_printf(names, "%s%s%s%s", n ? ", " : "", r->name, whole ? "" : ".",
                                       whole ? "" : f->name);
            n++;
        }
    }
    if (n)
        DOUBT(
            l, FIELD_UNASKED, &layout->where,
            "typed, but not simulated: nothing asks for %u of the %u fields of layout '%s' (%s%s): "
            "no role, law, condition or hook names %s",
            n, all, layout->base, names->str, n > MOST_NAMED ? ", ..." : "", n > 1 ? "them" : "it");
    g_string_free(names, TRUE);
}

static void lint_fields(linter *l)
{
    const wad_sheet *s = l->sheet;
    asked a = {g_hash_table_new_full(g_direct_hash, g_direct_equal, NULL, g_free)};
    ask_chip(&a, s);
    for (unsigned i = 0; i < s->n_blocks; i++)
        ask_block(&a, s->blocks[i]);
    for (unsigned i = 0; i < s->n_blocks; i++) {
        bool seen = s->blocks[i]->home != NULL;
        for (unsigned k = 0; k < i && !seen; k++)
            seen = !strcmp(s->blocks[k]->layout->base, s->blocks[i]->layout->base);
        if (!seen)
            lint_layout_fields(l, &a, s->blocks[i]->layout);
    }
    g_hash_table_destroy(a.bits);
}

/* ---- signals and pins ---- */

/* This block, or another one of the same layout: not each comes out at pins. */
static bool has_signal(const wad_sheet *s, const wad_instance *b, const wad_role *role)
{
    char *name = wad_role_signal(role, 0);
    bool has = false;
    for (unsigned i = 0; i < s->n_blocks && !has; i++)
        has = !strcmp(s->blocks[i]->layout->base, b->layout->base) &&
              wad_instance_signal(s->blocks[i], name);
    g_free(name);
    return has;
}

static bool is_driven(const wad_sheet *s, const wad_instance *b, const char *signal)
{
    for (unsigned i = 0; i < b->layout->n_roles; i++) {
        const wad_role *r = &b->layout->roles[i];
        unsigned most = r->n_signals ? r->n_signals : r->indexed ? 64 : 1;
        bool is = false;
        for (unsigned k = 0; r->sort == WAD_ROLE_SIGNAL && k < most && !is; k++) {
            char *name = wad_role_signal(r, k);
            is = name && !strcmp(name, signal);
            g_free(name);
        }
        if (is)
            return true;
    }
    for (unsigned i = 0; i < s->n_clocks; i++)
        if (s->clocks[i]->output && s->clocks[i]->output->block == b &&
            !strcmp(s->clocks[i]->output->name, signal))
            return true;
    return false;
}

static void lint_signals(linter *l, const wad_instance *b)
{
    for (unsigned i = 0; i < b->n_signals; i++)
        if (!is_driven(l->sheet, b, b->signals[i].name))
            DOUBT(l, SIGNAL_IDLE, &b->where,
                  "typed, but not simulated: no role of %s is bound to its pins '%s'", b->name,
                  b->signals[i].name);
    for (unsigned i = 0; i < b->layout->n_roles; i++) {
        const wad_role *r = &b->layout->roles[i];
        if (r->sort == WAD_ROLE_SIGNAL && !has_signal(l->sheet, b, r))
            DOUBT(l, SIGNAL_MISSING, &r->where,
                  "typed, but not simulated: role '%s' is bound to pins '%s%s', which %s has not",
                  r->name, r->signals ? r->signals[0] : r->signal,
                  r->indexed && !r->signals ? "0" : "", b->name);
    }
    if (b->carries && !wad_acts_as(b->layout, "gpio"))
        DOUBT(l, PINS_WITHOUT_PORT, &b->where,
              "typed, but not simulated: %s carries pins %s0 and on, and acts as no port of them "
              "(gpio)",
              b->name, b->carries);
    if (b->draws.active.num && !b->layout->kind)
        DOUBT(l, DRAWS_NEVER, &b->where,
              "typed, but not simulated: %s draws more while it is active, and acts as nothing",
              b->name);
}

/* ---- behaviour where it can do nothing ---- */

static bool guards(const wad_layout *layout, const wad_lock *lock)
{
    for (unsigned i = 0; i < layout->n_regs; i++)
        if (layout->regs[i]->lock == lock)
            return true;
    return false;
}

static bool is_written(const wad_register *r, const wad_bitfield *f)
{
    wad_access access = f ? f->access : r->access;
    bool any = access != WAD_ACCESS_RO && access != WAD_ACCESS_RC;
    for (unsigned i = 0; !f && !any && i < r->n_fields; i++)
        any = is_written(r, r->fields[i]) && r->fields[i]->name;
    return any;
}

static void lint_behaviour(linter *l, const wad_behaviour *b, const wad_register *r,
                           const wad_bitfield *f)
{
    const char *what = b->held ? "held" : b->delay ? "after" : b->has_key ? "key" : NULL;
    if (!what && b->masks.reg)
        what = "masks";
    if (what && !is_written(r, f))
        DOUBT(l, NEVER_WRITTEN, f ? &f->where : &r->where,
              "typed, but not simulated: '%s' of '%s', which nothing can write", what,
              f ? f->name : r->name);
}

/* `then` of an access to what cannot be accessed so. */
static void lint_access(linter *l, const wad_bus_event *e)
{
    if (e->sort == WAD_EVENT_ACCESS && e->reg && !e->write && e->reg->access == WAD_ACCESS_WO)
        DOUBT(l, EVENT_NEVER, &e->where,
              "typed, but not simulated: '%s' cannot be read: this never happens", e->reg->name);
}

static void lint_events(linter *l, const wad_clearing *list, unsigned n)
{
    for (unsigned i = 0; i < n; i++) {
        if (list[i].then)
            lint_access(l, &list[i].first);
        lint_access(l, &list[i].last);
    }
}

static void lint_register(linter *l, const wad_register *r)
{
    if (r->more)
        lint_behaviour(l, r->more, r, NULL);
    for (unsigned k = 0; k < r->n_fields; k++) {
        const wad_bitfield *f = r->fields[k];
        lint_events(l, f->clearings, f->n_clearings);
        if (f->more)
            lint_behaviour(l, f->more, r, f);
    }
}

static void lint_layout_rules(linter *l, const wad_layout *layout)
{
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(layout, &at)) != NULL;)
        if (!r->alias)
            lint_register(l, r);
    for (unsigned i = 0; i < layout->n_locks; i++)
        if (!guards(layout, layout->locks[i]))
            DOUBT(l, LOCK_IDLE, &layout->locks[i]->where,
                  "typed, but not simulated: lock '%s' guards no register: none says 'locked %s'",
                  layout->locks[i]->name, layout->locks[i]->name);
    for (unsigned i = 0; i < layout->n_hooks; i++)
        lint_events(l, layout->hooks[i].on, layout->hooks[i].n_on);
}

/* ---- entry ---- */

/* Does a line's handler take it away: is it a flag that some unit's line serves? */
static bool is_served_at_entry(const wad_sheet *s, const wad_bitfield *f)
{
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_instance *b = s->blocks[i];
        for (unsigned r = 0; b->n_irqs && r < b->layout->n_roles; r++) {
            const wad_role *role = &b->layout->roles[r];
            int place = wad_kind_role_index(b->layout->kind, role->name);
            for (unsigned k = 0;
                 place >= 0 && wad_kind_enable_of(b->layout->kind, (unsigned)place) >= 0 &&
                 k < role->n_places;
                 k++)
                for (unsigned n = 0; n < role->places[k].n_parts; n++)
                    if (role->places[k].parts[n].ref.field == f)
                        return true;
        }
    }
    return false;
}

static void lint_entries(linter *l, const wad_layout *layout)
{
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(layout, &at)) != NULL;)
        for (unsigned k = 0; k < r->n_fields; k++)
            if (r->fields[k]->cleared_at_entry && !is_served_at_entry(l->sheet, r->fields[k]))
                DOUBT(
                    l, ENTRY_NEVER, &r->fields[k]->where,
                    "typed, but not simulated: '%s' is cleared at entry, and no line's handler is "
                    "entered for it",
                    r->fields[k]->name);
}

/* ---- clocks, routes, spaces ---- */

static bool expr_has_clock(const wad_expr *e, const wad_clock *clock)
{
    if (!e)
        return false;
    for (unsigned i = 0; i < e->n_picks; i++)
        if (expr_has_clock(e->picks[i].value, clock))
            return true;
    return e->clock == clock || expr_has_clock(e->a, clock) || expr_has_clock(e->b, clock);
}

static bool delays_by(const wad_behaviour *b, const wad_clock *clock)
{
    return b && b->delay && b->delay->clock == clock;
}

static bool acts_wait_for(const wad_act *acts, unsigned n, const wad_clock *clock)
{
    for (unsigned i = 0; i < n; i++)
        if (acts[i].delay.clock == clock || acts_wait_for(acts[i].acts, acts[i].n_acts, clock))
            return true;
    return false;
}

static bool hooks_wait_for(const wad_hook *hooks, unsigned n, const wad_clock *clock)
{
    for (unsigned i = 0; i < n; i++)
        if (acts_wait_for(hooks[i].acts, hooks[i].n_acts, clock))
            return true;
    return false;
}

static bool layout_uses(const wad_layout *l, const wad_clock *clock)
{
    wadi_registers at = {0};
    for (const wad_register *r; (r = wadi_next_register(l, &at)) != NULL;) {
        if (delays_by(r->more, clock))
            return true;
        for (unsigned k = 0; k < r->n_fields; k++)
            if (delays_by(r->fields[k]->more, clock))
                return true;
    }
    for (unsigned i = 0; i < l->n_locks; i++)
        if (l->locks[i]->open_for.clock == clock)
            return true;
    for (unsigned i = 0; i < l->n_laws; i++)
        if (expr_has_clock(l->laws[i].expr, clock))
            return true;
    for (unsigned i = 0; i < l->n_roles; i++)
        for (const wad_role *r = &l->roles[i]; r; r = r->otherwise)
            if (expr_has_clock(r->law, clock))
                return true;
    return hooks_wait_for(l->hooks, l->n_hooks, clock);
}

static bool is_used(const wad_sheet *s, const wad_clock *clock)
{
    bool used = clock == s->core || clock->output || hooks_wait_for(s->hooks, s->n_hooks, clock);
    for (unsigned i = 0; i < s->n_clocks && !used; i++)
        used = expr_has_clock(s->clocks[i]->law, clock);
    for (unsigned i = 0; i < s->n_blocks && !used; i++) {
        const wad_instance *b = s->blocks[i];
        used = b->clock == clock || layout_uses(b->layout, clock) ||
               b->needs_ready.delay.clock == clock || b->reset_ready.delay.clock == clock;
    }
    return used;
}

static void lint_unused(linter *l)
{
    const wad_sheet *s = l->sheet;
    for (unsigned i = 0; i < s->n_clocks; i++) {
        const wad_clock *c = s->clocks[i];
        if (!is_used(s, c))
            DOUBT(l, CLOCK_UNUSED, &c->where,
                  "typed, but not simulated: nothing runs on clock '%s'", c->name);
        if (c->watched.n && !c->lost.reg && !c->instead.ref.reg)
            DOUBT(l, CLOCK_UNTOLD, &c->where,
                  "typed, but not simulated: clock '%s' is watched, and its failure sets no flag "
                  "and changes nothing",
                  c->name);
    }
    for (unsigned i = 0; i < s->n_blocks; i++)
        if (s->blocks[i]->route.reg && !s->blocks[i]->n_signals)
            DOUBT(l, ROUTE_IDLE, &s->blocks[i]->where,
                  "typed, but not simulated: %s has a route, and no pins that it would move",
                  s->blocks[i]->name);
    for (unsigned i = 0; i < s->n_spaces; i++) {
        bool holds = false;
        for (unsigned k = 0; k < s->n_blocks; k++)
            holds = holds || s->blocks[k]->space == s->spaces[i];
        for (unsigned k = 0; k < s->n_memories; k++)
            holds = holds || s->memories[k].space == s->spaces[i];
        if (!holds)
            DOUBT(l, SPACE_EMPTY, &s->spaces[i]->where,
                  "typed, but not simulated: no block and no memory lies in space '%s'",
                  s->spaces[i]->name);
    }
}

void wadi_lint_served(linter *l)
{
    const wad_sheet *s = l->sheet;
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_layout *layout = s->blocks[i]->layout;
        bool seen = s->blocks[i]->home != NULL;
        for (unsigned k = 0; k < i && !seen; k++)
            seen = s->blocks[k]->layout == layout;
        lint_signals(l, s->blocks[i]);
        if (seen)
            continue;
        lint_layout_rules(l, layout);
        lint_entries(l, layout);
    }
    for (unsigned i = 0; i < s->n_hooks; i++)
        lint_events(l, s->hooks[i].on, s->hooks[i].n_on);
    lint_unused(l);
    lint_fields(l);
}
