/* SPDX-License-Identifier: MIT */
/*
 * Pins for signals. What is decided are units: a signal, or all wanted signals of a block that move
 * together by a group field. Each unit takes one of its options (a function, a group), which takes
 * pins; no pin twice. Units with the fewest options go first, and a branch ends when it moves more
 * than the best so far.
 */
#include "pins.h"
#include "lang/suggest.h"

#include <string.h>

#define MOST_UNITS 64
#define MOST_TRIES 4000000u

/* ---- wants ---- */

static char *like(const char *name, const char *const *names, unsigned n)
{
    wadi_arena *arena = wadi_arena_new();
    char *text = g_strdup(wadi_suggest(arena, name, names, n));
    wadi_arena_free(arena);
    return text;
}

static char *no_block(const wad_sheet *s, const char *name)
{
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < s->n_blocks; i++)
        g_ptr_array_add(names, (gpointer)s->blocks[i]->name);
    char *hint = like(name, (const char *const *)names->pdata, names->len);
    char *why = g_strdup_printf("%s has no block '%s'%s", s->name, name, hint);
    g_ptr_array_free(names, TRUE);
    g_free(hint);
    return why;
}

static char *no_signal(const wad_instance *b, const char *name)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < b->n_signals; i++)
        g_string_append_printf(text, "%s%s", i ? ", " : "", b->signals[i].name);
    char *why = b->n_signals
                    ? g_strdup_printf("%s has no signal '%s': it has %s", b->name, name, text->str)
                    : g_strdup_printf("%s has no signals at pins", b->name);
    g_string_free(text, TRUE);
    return why;
}

static void add_choice(wad_pin_plan *plan, const wad_signal *signal, const wad_pin_def *now,
                       bool fixed)
{
    wad_pin_choice c = {signal, now, fixed, NULL};
    g_array_append_val(plan->choices, c);
}

static bool want_block(wad_pin_plan *plan, const char *name, char **why)
{
    const wad_instance *b = wad_sheet_block(plan->sheet, name);
    if (!b || !b->n_signals) {
        *why = b ? no_signal(b, "") : no_block(plan->sheet, name);
        return false;
    }
    for (unsigned i = 0; i < b->n_signals; i++)
        add_choice(plan, &b->signals[i], NULL, false);
    return true;
}

/* BLOCK.SIGNAL, with =PIN or @PIN. */
static bool want_signal(wad_pin_plan *plan, const char *block, const char *rest, char **why)
{
    size_t n = strcspn(rest, "=@");
    char *name = g_strndup(rest, n);
    const wad_instance *b = wad_sheet_block(plan->sheet, block);
    const wad_signal *signal = b ? wad_instance_signal(b, name) : NULL;
    const wad_pin_def *pin = rest[n] ? wad_sheet_pin(plan->sheet, rest + n + 1) : NULL;
    if (!b)
        *why = no_block(plan->sheet, block);
    else if (!signal)
        *why = no_signal(b, name);
    else if (rest[n] && !pin)
        *why = g_strdup_printf("%s has no pin '%s'", plan->sheet->name, rest + n + 1);
    else
        add_choice(plan, signal, pin, rest[n] == '=');
    g_free(name);
    return *why == NULL;
}

static bool parse_want(wad_pin_plan *plan, const char *want, char **why)
{
    const char *dot = strchr(want, '.'), *equals = strchr(want, '=');
    char *first = g_strndup(want, strcspn(want, ".=@"));
    const wad_pin_def *pin = wad_sheet_pin(plan->sheet, first);
    bool ok;
    if (pin && equals && equals[1]) {
        wadi_taken t = {pin, g_strdup(equals + 1), NULL};
        g_array_append_val(plan->taken, t);
        ok = true;
    } else if (dot) {
        ok = want_signal(plan, first, dot + 1, why);
    } else if (strcspn(want, "=@") == strlen(want)) {
        ok = want_block(plan, want, why);
    } else {
        *why = g_strdup_printf("'%s' is no want: write BLOCK, BLOCK.SIGNAL, BLOCK.SIGNAL=PIN "
                               "(fixed), BLOCK.SIGNAL@PIN (there now) or PIN=NAME (taken)",
                               want);
        ok = false;
    }
    g_free(first);
    return ok;
}

/* The same signal by a block's want and by its own: its own says more. */
static void drop_doubles(wad_pin_plan *plan)
{
    for (guint i = 0; i < plan->choices->len; i++) {
        const wad_pin_choice *a = &g_array_index(plan->choices, wad_pin_choice, i);
        for (guint k = i + 1; k < plan->choices->len; k++) {
            const wad_pin_choice *b = &g_array_index(plan->choices, wad_pin_choice, k);
            if (a->signal != b->signal || (a->now && b->now && a->now != b->now))
                continue;
            g_array_remove_index(plan->choices, a->now && !b->now ? k : i);
            drop_doubles(plan);
            return;
        }
    }
}

/* A connector is where signals come out; what hangs on it is not known. */
static void take_board(wad_pin_plan *plan, const wad_board *board)
{
    for (unsigned i = 0; board && i < board->n_parts; i++) {
        const wad_part_def *part = &board->parts[i];
        for (unsigned k = 0; k < part->n_wires; k++) {
            if (!part->wires[k].pin || !strcmp(part->kind, "connector"))
                continue;
            wadi_taken t = {NULL, NULL, part};
            t.pin = wad_sheet_pin(plan->sheet, part->wires[k].pin->name);
            t.name = part->n_wires > 1 ? g_strdup_printf("%s.%s", part->name, part->wires[k].name)
                                       : g_strdup(part->name);
            g_array_append_val(plan->taken, t);
        }
    }
}

/* ---- units ---- */

typedef struct option {
    unsigned fn;
    unsigned moves;
    guint pins_from, n_pins; /* in search.pins */
} option;

typedef struct unit {
    const wad_instance *block; /* of a group; NULL: one signal */
    guint choice;              /* that signal's */
    option options[32];
    unsigned n, taken;
    bool left_out; /* of the search for what collides */
} unit;

typedef struct search {
    wad_pin_plan *plan;
    unit units[MOST_UNITS];
    unsigned n;
    GArray *pins;    /* const wad_pin_def * */
    unsigned *users; /* of each pin of the chip */
    unsigned best[MOST_UNITS], now[MOST_UNITS], best_moves, tries;
    bool any, first_is_enough;
} search;

static unsigned pin_number(const search *s, const wad_pin_def *pin)
{
    return (unsigned)(pin - s->plan->sheet->pins);
}

/* May a signal come to a pin that a part of the board is wired to? Only where it is fixed there. */
static bool is_free(const search *s, const wad_pin_def *pin, const wad_pin_choice *c)
{
    for (guint i = 0; i < s->plan->taken->len; i++) {
        const wadi_taken *t = &g_array_index(s->plan->taken, wadi_taken, i);
        if (t->pin == pin && !(t->part && c && c->now == pin))
            return false;
    }
    return true;
}

static void add_signal_options(search *s, unit *u, guint n)
{
    const wad_pin_choice *c = &g_array_index(s->plan->choices, wad_pin_choice, n);
    for (unsigned i = 0; i < c->signal->n_options && u->n < G_N_ELEMENTS(u->options); i++) {
        const wad_pin_option *opt = &c->signal->options[i];
        if ((c->fixed && c->now != opt->pin) || !is_free(s, opt->pin, c))
            continue;
        option o = {opt->fn, c->now && c->now != opt->pin, s->pins->len, 1};
        g_array_append_val(s->pins, opt->pin);
        u->options[u->n++] = o;
    }
}

static const wad_pin_choice *choice_of(const search *s, const wad_signal *signal)
{
    for (guint i = 0; i < s->plan->choices->len; i++) {
        const wad_pin_choice *c = &g_array_index(s->plan->choices, wad_pin_choice, i);
        if (c->signal == signal)
            return c;
    }
    return NULL;
}

/* A group takes the pins of all signals of the block, wanted or not: they all move. */
static void add_group_option(search *s, unit *u, unsigned group)
{
    option o = {group, 0, s->pins->len, 0};
    bool good = true;
    for (unsigned i = 0; i < u->block->n_signals; i++) {
        const wad_signal *signal = &u->block->signals[i];
        const wad_pin_choice *c = choice_of(s, signal);
        bool comes_out = false;
        for (unsigned k = 0; k < signal->n_options; k++) {
            const wad_pin_def *pin = signal->options[k].pin;
            if (signal->options[k].fn != group)
                continue;
            comes_out = true;
            good = good && is_free(s, pin, c) && !(c && c->fixed && c->now != pin);
            o.moves += c && c->now && c->now != pin;
            g_array_append_val(s->pins, pin);
            o.n_pins++;
        }
        good = good && (comes_out || !c);
    }
    if (good && u->n < G_N_ELEMENTS(u->options))
        u->options[u->n++] = o;
}

static void add_group_options(search *s, unit *u)
{
    GArray *seen = g_array_new(FALSE, FALSE, sizeof(unsigned));
    for (unsigned i = 0; i < u->block->n_signals; i++)
        for (unsigned k = 0; k < u->block->signals[i].n_options; k++) {
            unsigned group = u->block->signals[i].options[k].fn;
            guint at = 0;
            while (at < seen->len && g_array_index(seen, unsigned, at) != group)
                at++;
            if (at < seen->len)
                continue;
            g_array_append_val(seen, group);
            add_group_option(s, u, group);
        }
    g_array_free(seen, TRUE);
}

static bool make_units(search *s)
{
    for (guint i = 0; i < s->plan->choices->len; i++) {
        const wad_pin_choice *c = &g_array_index(s->plan->choices, wad_pin_choice, i);
        const wad_instance *b = c->signal->block->route.reg ? c->signal->block : NULL;
        bool known = false;
        for (unsigned k = 0; b && k < s->n; k++)
            known |= s->units[k].block == b;
        if (known)
            continue;
        if (s->n == MOST_UNITS)
            return false;
        unit *u = &s->units[s->n++];
        *u = (unit){.block = b, .choice = i};
        if (b)
            add_group_options(s, u);
        else
            add_signal_options(s, u, i);
    }
    return true;
}

/* ---- the search ---- */

static void use(search *s, const option *o, int step)
{
    for (guint i = 0; i < o->n_pins; i++)
        s->users[pin_number(s, g_array_index(s->pins, const wad_pin_def *, o->pins_from + i))] +=
            (unsigned)step;
}

static bool fits(const search *s, const option *o)
{
    for (guint i = 0; i < o->n_pins; i++)
        if (s->users[pin_number(s, g_array_index(s->pins, const wad_pin_def *, o->pins_from + i))])
            return false;
    return true;
}

/* The undecided unit with the fewest options that still fit. */
static int next_unit(const search *s)
{
    int best = -1;
    unsigned least = UINT_MAX;
    for (unsigned i = 0; i < s->n; i++) {
        unsigned n = 0;
        if (s->units[i].taken || s->units[i].left_out)
            continue;
        for (unsigned k = 0; k < s->units[i].n; k++)
            n += fits(s, &s->units[i].options[k]);
        if (n < least) {
            least = n;
            best = (int)i;
        }
    }
    return best;
}

/* Earlier options of earlier units are preferred among plans with as many moves. */
static bool comes_first(const search *s)
{
    for (unsigned i = 0; i < s->n; i++)
        if (s->now[i] != s->best[i])
            return s->now[i] < s->best[i];
    return false;
}

static void decide(search *s, unsigned moves)
{
    if (s->tries++ > MOST_TRIES || (s->any && (moves > s->best_moves || s->first_is_enough)))
        return;
    int at = next_unit(s);
    if (at < 0) {
        if (!s->any || moves < s->best_moves || comes_first(s)) {
            memcpy(s->best, s->now, sizeof s->best);
            s->best_moves = moves;
            s->any = true;
        }
        return;
    }
    unit *u = &s->units[at];
    u->taken = 1;
    for (unsigned k = 0; k < u->n; k++) {
        if (!fits(s, &u->options[k]))
            continue;
        use(s, &u->options[k], 1);
        s->now[at] = k;
        decide(s, moves + u->options[k].moves);
        use(s, &u->options[k], -1);
    }
    u->taken = 0;
}

static bool solve(search *s)
{
    s->any = false;
    s->tries = 0;
    memset(s->now, 0, sizeof s->now);
    decide(s, 0);
    return s->any;
}

/* ---- what it came to ---- */

static const wad_pin_option *option_of(const wad_signal *signal, unsigned fn,
                                       const wad_pin_def *pin)
{
    for (unsigned i = 0; i < signal->n_options; i++)
        if (signal->options[i].fn == fn && (!pin || signal->options[i].pin == pin))
            return &signal->options[i];
    return NULL;
}

static void store(search *s)
{
    s->plan->works = true;
    s->plan->moves = s->best_moves;
    for (unsigned i = 0; i < s->n; i++) {
        const unit *u = &s->units[i];
        const option *o = &u->options[s->best[i]];
        for (guint k = 0; k < s->plan->choices->len; k++) {
            wad_pin_choice *c = &g_array_index(s->plan->choices, wad_pin_choice, k);
            if (u->block && c->signal->block == u->block)
                c->given = option_of(c->signal, o->fn, NULL);
            else if (!u->block && u->choice == k)
                c->given = option_of(c->signal, o->fn,
                                     g_array_index(s->pins, const wad_pin_def *, o->pins_from));
        }
    }
}

/* Leaves out one unit after the other: what cannot be left out collides. */
static void find_core(search *s)
{
    s->first_is_enough = true;
    for (unsigned i = 0; i < s->n; i++) {
        s->units[i].left_out = true;
        if (solve(s))
            s->units[i].left_out = false;
    }
    for (unsigned i = 0; i < s->n; i++)
        for (guint k = 0; !s->units[i].left_out && k < s->plan->choices->len; k++) {
            const wad_pin_choice *c = &g_array_index(s->plan->choices, wad_pin_choice, k);
            if (s->units[i].block ? c->signal->block == s->units[i].block : s->units[i].choice == k)
                g_array_append_val(s->plan->core, k);
        }
}

/* ---- conflicts as it is ---- */

static void conflict(wad_pin_plan *plan, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void conflict(wad_pin_plan *plan, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_ptr_array_add(plan->conflicts, g_strdup_vprintf(format, args));
    va_end(args);
}

static const char *nature(const wad_signal *s)
{
    return s->dir == WAD_SIGNAL_ANALOG ? "analog " : "";
}

static void compare_choices(wad_pin_plan *plan, const wad_pin_choice *a, const wad_pin_choice *b)
{
    if (a->signal == b->signal)
        conflict(plan, "%s.%s is wanted on %s and on %s", a->signal->block->name, a->signal->name,
                 a->now->name, b->now->name);
    else if (a->now == b->now)
        conflict(plan, "%s is wanted by %s%s.%s and by %s%s.%s", a->now->name, nature(a->signal),
                 a->signal->block->name, a->signal->name,
                 nature(b->signal) != nature(a->signal) && !*nature(b->signal) ? "digital "
                                                                               : nature(b->signal),
                 b->signal->block->name, b->signal->name);
}

static void check_group(wad_pin_plan *plan, const wad_pin_choice *a, const wad_pin_choice *b)
{
    const wad_instance *block = a->signal->block;
    if (!block->route.reg || b->signal->block != block || a->signal == b->signal)
        return;
    for (unsigned i = 0; i < a->signal->n_options; i++)
        if (a->signal->options[i].pin == a->now &&
            option_of(b->signal, a->signal->options[i].fn, b->now))
            return;
    conflict(plan, "%s moves as a whole: %s on %s and %s on %s are of different groups",
             block->name, a->signal->name, a->now->name, b->signal->name, b->now->name);
}

static void check_place(wad_pin_plan *plan, const wad_pin_choice *c)
{
    const wad_signal *signal = c->signal;
    GString *text = g_string_new(NULL);
    bool can = false;
    for (unsigned i = 0; i < signal->n_options; i++) {
        can |= signal->options[i].pin == c->now;
        g_string_append_printf(text, "%s%s", i ? ", " : "", signal->options[i].pin->name);
    }
    if (!can)
        conflict(plan, "%s.%s does not reach %s: it reaches %s", signal->block->name, signal->name,
                 c->now->name, text->str);
    g_string_free(text, TRUE);
    for (guint i = 0; i < plan->taken->len; i++) {
        const wadi_taken *t = &g_array_index(plan->taken, wadi_taken, i);
        if (t->pin == c->now && !t->part)
            conflict(plan, "%s is wanted by %s%s.%s and taken for %s", c->now->name, nature(signal),
                     signal->block->name, signal->name, t->name);
    }
}

static void find_conflicts(wad_pin_plan *plan)
{
    for (guint i = 0; i < plan->choices->len; i++) {
        const wad_pin_choice *a = &g_array_index(plan->choices, wad_pin_choice, i);
        if (!a->now)
            continue;
        check_place(plan, a);
        for (guint k = i + 1; k < plan->choices->len; k++) {
            const wad_pin_choice *b = &g_array_index(plan->choices, wad_pin_choice, k);
            if (!b->now)
                continue;
            compare_choices(plan, a, b);
            check_group(plan, a, b);
        }
    }
    for (guint i = 0; i < plan->taken->len; i++)
        for (guint k = i + 1; k < plan->taken->len; k++) {
            const wadi_taken *a = &g_array_index(plan->taken, wadi_taken, i);
            const wadi_taken *b = &g_array_index(plan->taken, wadi_taken, k);
            if (a->pin == b->pin && !(a->part && b->part)) /* parts may share a bus */
                conflict(plan, "%s is taken for %s and for %s", a->pin->name, a->name, b->name);
        }
    g_ptr_array_add(plan->conflicts, NULL);
}

/* Two places for one signal: the first stays, so that there is something to plan. */
static void drop_second_places(wad_pin_plan *plan)
{
    for (guint i = 0; i < plan->choices->len; i++)
        for (guint k = plan->choices->len; k-- > i + 1;)
            if (g_array_index(plan->choices, wad_pin_choice, i).signal ==
                g_array_index(plan->choices, wad_pin_choice, k).signal)
                g_array_remove_index(plan->choices, k);
}

/* ---- the plan ---- */

static void taken_clear(gpointer p)
{
    g_free(((wadi_taken *)p)->name);
}

static void make(wad_pin_plan *plan)
{
    search *s = g_new0(search, 1);
    s->plan = plan;
    s->pins = g_array_new(FALSE, FALSE, sizeof(const wad_pin_def *));
    s->users = g_new0(unsigned, plan->sheet->n_pins + 1);
    if (make_units(s) && solve(s))
        store(s);
    else
        find_core(s);
    g_array_free(s->pins, TRUE);
    g_free(s->users);
    g_free(s);
}

wad_pin_plan *wad_pin_plan_make(const wad_sheet *sheet, const wad_board *board,
                                const char *const *wants, char **why)
{
    wad_pin_plan *plan = g_new0(wad_pin_plan, 1);
    bool ok = true;
    *why = NULL;
    plan->sheet = sheet;
    plan->choices = g_array_new(FALSE, FALSE, sizeof(wad_pin_choice));
    plan->taken = g_array_new(FALSE, FALSE, sizeof(wadi_taken));
    plan->core = g_array_new(FALSE, FALSE, sizeof(guint));
    plan->conflicts = g_ptr_array_new_with_free_func(g_free);
    g_array_set_clear_func(plan->taken, taken_clear);
    for (unsigned i = 0; wants[i] && ok; i++)
        ok = parse_want(plan, wants[i], why);
    if (!ok) {
        wad_pin_plan_free(plan);
        return NULL;
    }
    take_board(plan, board);
    drop_doubles(plan);
    find_conflicts(plan);
    drop_second_places(plan);
    make(plan);
    return plan;
}

void wad_pin_plan_free(wad_pin_plan *plan)
{
    if (!plan)
        return;
    g_array_free(plan->choices, TRUE);
    g_array_free(plan->taken, TRUE);
    g_array_free(plan->core, TRUE);
    g_ptr_array_free(plan->conflicts, TRUE);
    g_free(plan);
}

bool wad_pin_plan_works(const wad_pin_plan *plan)
{
    return plan->works;
}

unsigned wad_pin_plan_count(const wad_pin_plan *plan)
{
    return plan->choices->len;
}

const wad_pin_choice *wad_pin_plan_choice(const wad_pin_plan *plan, unsigned i)
{
    return i < plan->choices->len ? &g_array_index(plan->choices, wad_pin_choice, i) : NULL;
}

unsigned wad_pin_plan_moves(const wad_pin_plan *plan)
{
    return plan->moves;
}

const char *const *wad_pin_plan_conflicts(const wad_pin_plan *plan)
{
    return (const char *const *)plan->conflicts->pdata;
}
