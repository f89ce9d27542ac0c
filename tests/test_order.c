/* SPDX-License-Identifier: MIT */
/*
 * The order of effects: random registers with random behaviour, random accesses of three widths and
 * through windows, held against a slow interpreter that does step after step what
 * docs/decisions.md says of a read and a write, and shares nothing with the simulator.
 * WADIUM_ORDERS says how many chips.
 */
#include <stdlib.h>
#include <string.h>

#include "small_chip.h"

#define REGS   6
#define PARTS  4 /* of eight bits */
#define EVENTS 3
#define HOOKS  3

typedef enum how { RW, RO, W1C, W1S, W0C, RC, W1T, W0S, W0T, RS, WC, WS, ACCESSES } how;
static const char *const words[] = {"rw",  "ro",  "w1c", "w1s", "w0c", "rc",
                                    "w1t", "w0s", "w0t", "rs",  "wc",  "ws"};
typedef enum verb { IS, SETS, CLEARS, TOGGLES } verb;
static const char *const verbs[] = {"is", "sets", "clears", "toggles"};

typedef struct place {
    int reg, part;
} place;

/* `read R1`, `write R2`, `write R2.F3 = 5` */
typedef struct event {
    bool write;
    int reg, part; /* part -1: any */
    uint32_t value;
} event;

/* One, or one that follows another. */
typedef struct happening {
    bool then;
    event first, last;
    uint32_t noted;
} happening;

typedef struct cond {
    place a, b;
    uint32_t is_a, is_b;
    bool negated, both, either;
} cond;

typedef struct expr {
    int form;
    place a, b;
    uint32_t k;
} expr;

typedef enum sort { PLAIN, ALIAS, NUMBER, KEY } sort;

typedef struct part {
    sort sort;
    how access;
    /* PLAIN */
    bool has_reads, held, when, shows;
    expr reads;
    cond cond;
    happening until[2];
    int n_until;
    happening cleared[2];
    int n_cleared;
    /* ALIAS */
    verb verb;
    place of;
    /* NUMBER */
    int flags[3]; /* bits of register FLAGS */
    int n_flags;
    bool clears;
    /* KEY */
    uint32_t key;
} part;

typedef struct hook {
    happening on;
    bool when;
    cond cond;
    place to[2];
    expr value[2];
    int n;
} hook;

static struct chip {
    part p[REGS][PARTS];
    bool masked[REGS]; /* the upper half lets bits of the lower one through */
    hook hooks[HOOKS];
    int n_hooks;
    uint32_t flags; /* of a register of its own */
    uint32_t active[REGS], waiting[REGS], pending[REGS];
} c;

static GRand *dice;

static unsigned below(unsigned n)
{
    return (unsigned)g_rand_int_range(dice, 0, (gint32)n);
}

static bool chance(unsigned percent)
{
    return below(100) < percent;
}

static uint32_t bits_of(int at)
{
    return 0xFFu << at * 8;
}

/* ---- a random chip ---- */

static place any_place(void)
{
    return (place){(int)below(REGS), (int)below(PARTS)};
}

/* One whose bits are stored; register 0 is always plain. */
static place stored_place(void)
{
    for (unsigned i = 0; i < 40; i++) {
        place at = any_place();
        if (c.p[at.reg][at.part].sort == PLAIN && !c.masked[at.reg])
            return at;
    }
    return (place){0, (int)below(PARTS)};
}

static event any_event(void)
{
    event e = {.write = chance(60), .reg = (int)below(REGS), .part = -1};
    if (e.write && chance(50) && !c.masked[e.reg]) {
        e.part = (int)below(PARTS);
        e.value = below(4) * 0x15;
    }
    return e;
}

static happening any_happening(void)
{
    happening h = {.then = chance(30)};
    h.last = any_event();
    if (h.then)
        h.first = any_event();
    return h;
}

/* Over fields that the bus alone changes: plain rw fields of register 0. */
static cond any_cond(void)
{
    cond k = {.a = {0, (int)below(2)}, .b = {0, (int)below(2)}};
    k.is_a = below(3);
    k.is_b = below(3);
    k.negated = chance(30);
    k.both = chance(25);
    k.either = !k.both && chance(25);
    return k;
}

static expr any_expr(void)
{
    return (expr){(int)below(6), stored_place(), stored_place(), below(256)};
}

static void any_plain(part *p, int reg, int at)
{
    p->access = reg == 0 && at < 2 ? RW : (how)below(ACCESSES);
    if (reg == 0 && at < 2)
        return;
    p->has_reads = p->access == RO && chance(40);
    p->held = p->access == RW && chance(40);
    if (p->held) {
        p->when = chance(50);
        p->n_until = p->when ? (int)below(3) : 1 + (int)below(2);
        p->shows = chance(40);
        p->cond = any_cond();
        for (int i = 0; i < p->n_until; i++)
            p->until[i] = any_happening();
    }
    if (!p->held && !p->has_reads && chance(40))
        for (p->n_cleared = 0; p->n_cleared < 1 + (int)below(2) && p->n_cleared < 2; p->n_cleared++)
            p->cleared[p->n_cleared] = any_happening();
}

static void any_sort(int reg, int at)
{
    unsigned roll = reg == 0 ? 0 : below(100);
    c.p[reg][at].sort = roll < 70 ? PLAIN : roll < 85 ? ALIAS : roll < 93 ? NUMBER : KEY;
}

static void any_part(int reg, int at)
{
    part *p = &c.p[reg][at];
    if (p->sort == PLAIN) {
        any_plain(p, reg, at);
    } else if (p->sort == ALIAS) {
        p->verb = (verb)below(4);
        p->of = stored_place();
    } else if (p->sort == NUMBER) {
        p->n_flags = 1 + (int)below(3);
        for (int i = 0; i < p->n_flags; i++)
            p->flags[i] = (int)below(8);
        p->clears = chance(60);
    } else {
        p->key = below(4) * 0x11;
    }
}

static void any_chip(void)
{
    memset(&c, 0, sizeof c);
    for (int r = 0; r < REGS; r++) {
        c.masked[r] = r > 1 && chance(20);
        for (int i = 0; i < PARTS; i++)
            any_sort(r, i);
    }
    for (int r = 0; r < REGS; r++)
        for (int i = 0; i < PARTS && !c.masked[r]; i++)
            any_part(r, i);
    for (int r = 0; r < REGS; r++) /* others were not known yet */
        for (int i = 0; i < PARTS; i++)
            c.p[r][i].reads = any_expr();
    for (c.n_hooks = 0; c.n_hooks < HOOKS && chance(60); c.n_hooks++) {
        hook *h = &c.hooks[c.n_hooks];
        h->on = any_happening();
        h->when = chance(40);
        h->cond = any_cond();
        for (h->n = 0; h->n < 1 + (int)below(2) && h->n < 2; h->n++) {
            do
                h->to[h->n] = stored_place();
            while (h->to[h->n].reg == 0 && h->to[h->n].part < 2);
            h->value[h->n] = any_expr();
        }
    }
}

/* ---- as a sheet ---- */

static void say_event(GString *s, const event *e)
{
    g_string_append_printf(s, "%s R%d", e->write ? "write" : "read", e->reg);
    if (e->part >= 0)
        g_string_append_printf(s, ".F%d = %u", e->part, e->value);
}

static void say_happening(GString *s, const happening *h)
{
    if (h->then) {
        say_event(s, &h->first);
        g_string_append(s, " then ");
    }
    say_event(s, &h->last);
}

static void say_cond(GString *s, const cond *k)
{
    g_string_append_printf(s, "R%d.F%d %s %u", k->a.reg, k->a.part, k->negated ? "!=" : "=",
                           k->is_a);
    if (k->both || k->either)
        g_string_append_printf(s, " %s R%d.F%d = %u", k->both ? "and" : "or", k->b.reg, k->b.part,
                               k->is_b);
}

static void say_expr(GString *s, const expr *e)
{
    static const char *const forms[] = {"R%d.F%d & R%d.F%d", "R%d.F%d | R%d.F%d",
                                        "R%d.F%d ^ R%d.F%d", "R%d.F%d + R%d.F%d"};
    if (e->form == 4)
        g_string_append_printf(s, "~R%d.F%d & %u", e->a.reg, e->a.part, e->k);
    else if (e->form == 5)
        g_string_append_printf(s, "ones(R%d) + %u", e->a.reg, e->k);
    else
        g_string_append_printf(s, forms[e->form], e->a.reg, e->a.part, e->b.reg, e->b.part);
}

static void say_part(GString *s, int reg, int at)
{
    const part *p = &c.p[reg][at];
    g_string_append_printf(s, "  %d:%d F%d ", at * 8 + 7, at * 8, at);
    if (p->sort == ALIAS) {
        g_string_append_printf(s, "rw %s R%d.F%d", verbs[p->verb], p->of.reg, p->of.part);
    } else if (p->sort == KEY) {
        g_string_append_printf(s, "wo key %u", p->key);
    } else if (p->sort == NUMBER) {
        g_string_append(s, "ro number {");
        for (int i = 0; i < p->n_flags; i++)
            g_string_append_printf(s, "%s %d FLAGS.B%d", i ? "," : "", i + 5, p->flags[i]);
        g_string_append_printf(s, " }%s otherwise 1", p->clears ? " clears" : "");
    } else {
        g_string_append(s, words[p->access]);
    }
    if (p->sort == PLAIN && p->has_reads) {
        g_string_append(s, " reads ");
        say_expr(s, &p->reads);
    }
    if (p->sort == PLAIN && p->held) {
        g_string_append(s, " held");
        for (int i = 0; i < p->n_until; i++) {
            g_string_append(s, i ? " or " : " until ");
            say_happening(s, &p->until[i]);
        }
        if (p->when) {
            g_string_append(s, " when ");
            say_cond(s, &p->cond);
        }
        g_string_append(s, p->shows ? " shows active" : "");
    }
    for (int i = 0; p->sort == PLAIN && i < p->n_cleared; i++) {
        g_string_append(s, i ? " or " : " cleared by ");
        say_happening(s, &p->cleared[i]);
    }
    g_string_append_c(s, '\n');
}

static void say_hook(GString *s, const hook *h)
{
    g_string_append(s, " on ");
    say_happening(s, &h->on);
    if (h->when) {
        g_string_append(s, " when ");
        say_cond(s, &h->cond);
    }
    g_string_append(s, " {\n");
    for (int i = 0; i < h->n; i++) {
        g_string_append_printf(s, "  R%d.F%d = ", h->to[i].reg, h->to[i].part);
        say_expr(s, &h->value[i]);
        g_string_append_c(s, '\n');
    }
    g_string_append(s, " }\n");
}

static char *as_sheet(void)
{
    GString *s =
        g_string_new(HEAD "block A at 0x4000_0000 like l {\n window at 0x1000 sets\n window "
                          "at 0x2000 clears\n window at 0x3000 toggles\n window at 0x4000 "
                          "is\n }\n}\nlayout l {\n");
    for (int r = 0; r < REGS; r++) {
        g_string_append_printf(s, " reg R%d at %d rw {\n", r, r * 4);
        if (c.masked[r])
            g_string_append(s, "  31:16 WE wo masks V\n  15:0 V rw\n");
        for (int i = 0; i < PARTS && !c.masked[r]; i++)
            say_part(s, r, i);
        g_string_append(s, " }\n");
    }
    for (int i = 0; i < c.n_hooks; i++)
        say_hook(s, &c.hooks[i]);
    g_string_append(s, " reg FLAGS at 0x40 rw {\n");
    for (int i = 0; i < 8; i++)
        g_string_append_printf(s, "  %d B%d rw\n", i, i);
    g_string_append(s, " }\n}\n");
    return g_string_free(s, FALSE);
}

/* ---- the interpreter ---- */

static uint32_t field(place at)
{
    return c.active[at.reg] >> at.part * 8 & 0xFF;
}

static bool holds(const cond *k)
{
    bool a = (field(k->a) == k->is_a) != k->negated, b = field(k->b) == k->is_b;
    return k->both ? a && b : k->either ? a || b : a;
}

static uint32_t value_of(const expr *e)
{
    uint32_t a = field(e->a), b = field(e->b);
    switch (e->form) {
    case 0:
        return a & b;
    case 1:
        return a | b;
    case 2:
        return a ^ b;
    case 3:
        return a + b;
    case 4:
        return ~a & e->k;
    default:
        return (uint32_t)__builtin_popcount(c.active[e->a.reg]) + e->k;
    }
}

/* A note goes when its flag falls. */
static void put(int reg, uint32_t value)
{
    uint32_t fell = c.active[reg] & ~value;
    c.active[reg] = value;
    for (int i = 0; i < PARTS; i++)
        for (int n = 0; n < c.p[reg][i].n_cleared; n++)
            c.p[reg][i].cleared[n].noted &= ~fell;
}

static bool is_held(int reg, int at)
{
    const part *p = &c.p[reg][at];
    return !c.masked[reg] && p->sort == PLAIN && p->held && (!p->when || holds(&p->cond));
}

static void let_through(int reg, uint32_t mask)
{
    uint32_t now = c.pending[reg] & mask;
    c.pending[reg] &= ~now;
    put(reg, (c.active[reg] & ~now) | (c.waiting[reg] & now));
}

static uint32_t as_written(int reg)
{
    return (c.active[reg] & ~c.pending[reg]) | (c.waiting[reg] & c.pending[reg]);
}

static how access_of(int reg, int at)
{
    return c.masked[reg] ? RW : c.p[reg][at].access;
}

/* What becomes of these bits by their access kind. */
static uint32_t by_kind(how a, uint32_t before, uint32_t value)
{
    switch (a) {
    case RW:
    case RS:
        return value;
    case W1C:
        return before & ~value;
    case W1S:
        return before | value;
    case W0C:
        return before & value;
    case W1T:
        return before ^ value;
    case W0S:
        return before | ~value;
    case W0T:
        return before ^ ~value;
    case WC:
        return 0;
    case WS:
        return ~0u;
    default:
        return before;
    }
}

/* Bits of one part are stored, or wait. */
static void store_part(int reg, int at, bool held, uint32_t after, uint32_t touched)
{
    touched &= bits_of(at);
    if (held) {
        c.waiting[reg] = (c.waiting[reg] & ~touched) | (after & touched);
        c.pending[reg] |= touched;
    } else {
        c.pending[reg] &= ~touched;
        put(reg, (c.active[reg] & ~touched) | (after & touched));
    }
}

static bool software_sets(how a)
{
    return a == RW || a == W1S || a == W1T || a == W0S || a == W0T || a == RS || a == WS;
}

/* `typed`: by the sheet's word about these bits; a window or an alias of the whole is not. */
static void act_on(verb v, int reg, int at, bool held, uint32_t bits, bool typed)
{
    uint32_t before = as_written(reg);
    how a = access_of(reg, at);
    bool flag = a == W1C || a == W0C || a == RC;
    bool reaches = software_sets(a) || a == WC || (flag && (v == CLEARS || (v == SETS && typed)));
    if (!reaches)
        return;
    store_part(reg, at, held,
               v == SETS     ? before | bits
               : v == CLEARS ? before & ~bits
                             : before ^ bits,
               bits);
}

static bool happens(const event *e, bool write, int reg, uint32_t value, uint32_t touched)
{
    if (e->write != write || e->reg != reg)
        return false;
    return e->part < 0 || (touched & bits_of(e->part) && (value >> e->part * 8 & 0xFF) == e->value);
}

typedef struct accessed {
    bool write;
    int reg;
    uint32_t value, touched;
} accessed;

static bool is_it(const event *e, const accessed *x)
{
    return happens(e, x->write, x->reg, x->value, x->touched);
}

/* Steps 8 to 10: held values, flags, notes, hooks. */
static void follow(const accessed *x)
{
    for (int r = 0; r < REGS; r++)
        for (int i = 0; i < PARTS; i++) {
            part *p = &c.p[r][i];
            for (int n = 0; p->held && n < p->n_until; n++) {
                happening *h = &p->until[n];
                if (!is_it(&h->last, x) || (h->then && !h->noted))
                    continue;
                h->noted = 0;
                let_through(r, bits_of(i));
            }
        }
    for (int r = 0; r < REGS; r++)
        for (int i = 0; i < PARTS; i++) {
            part *p = &c.p[r][i];
            for (int n = 0; n < p->n_cleared; n++) {
                happening *h = &p->cleared[n];
                if (!is_it(&h->last, x))
                    continue;
                uint32_t goes = h->then ? h->noted : bits_of(i);
                h->noted = 0;
                put(r, c.active[r] & ~goes);
            }
        }
    for (int r = 0; r < REGS; r++)
        for (int i = 0; i < PARTS; i++) {
            part *p = &c.p[r][i];
            for (int n = 0; n < p->n_cleared; n++)
                if (p->cleared[n].then && is_it(&p->cleared[n].first, x))
                    p->cleared[n].noted = c.active[r] & bits_of(i);
            for (int n = 0; p->held && n < p->n_until; n++)
                if (p->until[n].then && is_it(&p->until[n].first, x))
                    p->until[n].noted = 1;
        }
    for (int k = 0; k < c.n_hooks; k++) {
        hook *h = &c.hooks[k];
        bool runs = is_it(&h->on.last, x) && (!h->on.then || h->on.noted);
        if (is_it(&h->on.last, x))
            h->on.noted = 0;
        if (h->on.then && is_it(&h->on.first, x))
            h->on.noted = 1;
        for (int i = 0; runs && i < h->n && (!h->when || i || holds(&h->cond)); i++) {
            uint32_t mask = bits_of(h->to[i].part), v = value_of(&h->value[i]) << h->to[i].part * 8;
            c.pending[h->to[i].reg] &= ~mask;
            put(h->to[i].reg, (c.active[h->to[i].reg] & ~mask) | (v & mask));
        }
    }
}

static int first_number(const part *p)
{
    for (int i = 0; i < p->n_flags; i++)
        if (c.flags >> p->flags[i] & 1)
            return i;
    return -1;
}

static void take_numbers(int reg)
{
    for (int i = 0; i < PARTS; i++) {
        const part *p = &c.p[reg][i];
        int first = p->sort == NUMBER && p->clears ? first_number(p) : -1;
        if (first >= 0)
            c.flags &= ~(1u << p->flags[first]);
    }
}

static uint32_t shown(int reg)
{
    uint32_t value = 0;
    if (c.masked[reg])
        return c.active[reg] & 0xFFFF;
    for (int i = 0; i < PARTS; i++) {
        const part *p = &c.p[reg][i];
        uint32_t v = 0;
        int first;
        switch (p->sort) {
        case PLAIN:
            v = (p->held && p->shows ? c.active[reg] : as_written(reg)) >> i * 8;
            v = p->has_reads ? value_of(&p->reads) : v;
            break;
        case ALIAS: {
            const part *of = &c.p[p->of.reg][p->of.part];
            v = (of->held && of->shows ? c.active[p->of.reg] : as_written(p->of.reg)) >>
                p->of.part * 8;
            break;
        }
        case NUMBER:
            first = first_number(p);
            v = first < 0 ? 1 : (uint32_t)first + 5;
            break;
        case KEY:
            break;
        }
        value |= (v & 0xFF) << i * 8;
    }
    return value;
}

static uint32_t read_register(int reg)
{
    uint32_t value = shown(reg);
    for (int i = 0; i < PARTS && !c.masked[reg]; i++)
        if (c.p[reg][i].sort == PLAIN && c.p[reg][i].access == RC)
            put(reg, c.active[reg] & ~bits_of(i));
    for (int i = 0; i < PARTS && !c.masked[reg]; i++)
        if (c.p[reg][i].sort == PLAIN && c.p[reg][i].access == RS)
            put(reg, c.active[reg] | bits_of(i));
    if (!c.masked[reg])
        take_numbers(reg);
    follow(&(accessed){false, reg, value, ~0u});
    return value;
}

static void end_conditions(void)
{
    for (int r = 0; r < REGS; r++)
        for (int i = 0; i < PARTS; i++)
            if (c.p[r][i].held && c.p[r][i].when && !is_held(r, i))
                let_through(r, bits_of(i));
}

/* `v` IS: as it stands there. */
static void write_register(int reg, verb v, uint32_t value, uint32_t touched)
{
    uint32_t said = value;
    if (v != IS) {
        touched &= value;
        said = v == SETS ? touched : v == CLEARS ? 0 : ~as_written(reg) & touched;
    }
    if (c.masked[reg])
        touched &= 0xFFFF0000u | (said & touched) >> 16;
    for (int i = 0; i < PARTS && !c.masked[reg]; i++)
        if (c.p[reg][i].sort == KEY &&
            ((touched & bits_of(i)) != bits_of(i) || (said >> i * 8 & 0xFF) != c.p[reg][i].key))
            return;
    if (!c.masked[reg])
        take_numbers(reg);
    bool held[PARTS]; /* as it was before the write */
    for (int i = 0; i < PARTS; i++)
        held[i] = is_held(reg, i);
    uint32_t before = as_written(reg);
    for (int i = 0; i < PARTS; i++) {
        const part *p = &c.p[reg][i];
        if (!c.masked[reg] && (p->sort == ALIAS || p->sort == NUMBER))
            continue;
        if (!(touched & bits_of(i)))
            continue;
        if (!c.masked[reg] && p->sort == KEY)
            store_part(reg, i, false, said, touched);
        else if (v == IS)
            store_part(reg, i, held[i], by_kind(access_of(reg, i), before, said), touched);
        else
            act_on(v, reg, i, held[i], touched & bits_of(i), false);
    }
    for (int i = 0; i < PARTS && !c.masked[reg]; i++) {
        const part *p = &c.p[reg][i];
        uint32_t where = touched >> i * 8 & 0xFF, bits = (said & touched) >> i * 8 & 0xFF;
        if (p->sort != ALIAS || !where)
            continue;
        if (p->verb == IS)
            store_part(p->of.reg, p->of.part, is_held(p->of.reg, p->of.part),
                       by_kind(access_of(p->of.reg, p->of.part), as_written(p->of.reg),
                               bits << p->of.part * 8),
                       where << p->of.part * 8);
        else
            act_on(p->verb, p->of.reg, p->of.part, is_held(p->of.reg, p->of.part),
                   bits << p->of.part * 8, true);
    }
    end_conditions();
    follow(&(accessed){true, reg, said, touched});
}

/* ---- both side by side ---- */

static char trail[4096];

static void check_all(unsigned n)
{
    for (int r = 0; r < REGS && !*small_story; r++) {
        uint32_t got, want = shown(r);
        wad_sim_peek(small_sim, BASE + (uint32_t)r * 4, &got);
        if (got != want)
            snprintf(small_story, sizeof small_story,
                     "after access %u R%d is 0x%08x, not 0x%08x; %.120s", n, r, got, want,
                     trail + MAX(strlen(trail), 120) - 120);
    }
}

static void narrow(int reg, unsigned bytes, unsigned lane, bool write, uint32_t value)
{
    uint32_t at = BASE + (uint32_t)reg * 4 + lane;
    uint32_t mask = (bytes == 1 ? 0xFFu : 0xFFFFu) << lane * 8;
    if (write) {
        if (bytes == 1)
            out8(at, (uint8_t)value);
        else
            wad_port_write16(BASE, at - BASE, (uint16_t)value);
        /* the other bytes are not written; what events see of them is what is stored */
        write_register(reg, IS, (as_written(reg) & ~mask) | (value << lane * 8 & mask), mask);
        return;
    }
    uint32_t got = bytes == 1 ? in8(at) : wad_port_read16(BASE, at - BASE);
    uint32_t want = read_register(reg) >> lane * 8 & (bytes == 1 ? 0xFFu : 0xFFFFu);
    CHECK(got == want);
}

static void one_access(unsigned n)
{
    if (chance(15)) {
        c.flags = g_rand_int(dice) & 0xFF;
        out(BASE + 0x40, c.flags);
    }
    int reg = (int)below(REGS);
    verb v = chance(40) ? (verb)below(4) : IS;
    bool write = chance(65), window = v != IS || chance(10);
    uint32_t value =
        chance(50) ? g_rand_int(dice) : below(4) * 0x15u << below(4) * 8 | below(4) * 0x11u;
    static const uint32_t at[] = {0x4000, 0x1000, 0x2000, 0x3000};
    size_t used = strlen(trail);
    if (used > 3500) {
        memmove(trail, trail + 2000, used - 1999);
        used -= 2000;
    }
    snprintf(trail + used, sizeof trail - used, "%s%s R%d 0x%x; ", write ? "write " : "read ",
             window ? verbs[v] : "", reg, value);
    if (!window && chance(25)) {
        unsigned bytes = 1 + below(2);
        narrow(reg, bytes, below(4 / bytes) * bytes, write, value);
    } else if (write) {
        out(BASE + (window ? at[v] : 0) + (uint32_t)reg * 4, value);
        write_register(reg, v, value, ~0u);
    } else {
        uint32_t got = in(BASE + (window ? at[v] : 0) + (uint32_t)reg * 4),
                 want = read_register(reg);
        if (got != want && !*small_story)
            snprintf(small_story, sizeof small_story, "access %u: R%d read as 0x%08x, not 0x%08x",
                     n, reg, got, want);
    }
    check_all(n);
}

static int side_by_side(void)
{
    *trail = '\0';
    for (unsigned n = 0; n < 300 && !*small_story; n++)
        one_access(n);
    return 0;
}

static void random_chips_do_what_the_order_says(void **state)
{
    const char *n = g_getenv("WADIUM_ORDERS"), *keep = g_getenv("WADIUM_ORDER_FILE");
    unsigned chips = n ? (unsigned)atoi(n) : 150;
    (void)state;
    for (unsigned i = 0; i < chips; i++) {
        dice = g_rand_new_with_seed(i * 7919 + 1);
        any_chip();
        char *sheet = as_sheet();
        if (keep)
            g_file_set_contents(keep, sheet, -1, NULL);
        small_run(sheet, side_by_side, ANY_FINDINGS);
        g_free(sheet);
        g_rand_free(dice);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(random_chips_do_what_the_order_says)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
