/* SPDX-License-Identifier: MIT */
/* Blocks and clocks. */
#include <string.h>

#include "build.h"
#include "hook.h"
#include "lang/rational.h"
#include "lang/suggest.h"
#include "path.h"

/* ---- blocks, first pass: names, addresses, layouts ---- */

static const wadi_env *parse_binds(wadi_build *b, wadi_cursor *c, const wadi_env *env,
                                   const wadi_env *outer, GString *variant)
{
    if (!wadi_take_punct(c, "("))
        return env;
    do {
        wadi_env *bind = WADI_NEW(b->arena, wadi_env);
        int64_t value;
        bind->name = wadi_need_name(c, "a parameter");
        wadi_need_punct(c, "=");
        if (!wadi_parse_int(b, c, outer, "the parameter's value", 0, INT32_MAX, &value))
            return env;
        bind->value = wadi_int(value);
        bind->next = env;
        env = bind;
        if (variant)
            g_string_append_printf(variant, "%s%s=%lld", variant->len ? "," : "", bind->name,
                                   (long long)value);
    } while (wadi_take_punct(c, ","));
    wadi_need_punct(c, ")");
    return env;
}

static bool known_param(const wadi_env *env, const char *name)
{
    for (; env; env = env->next)
        if (!strcmp(env->name, name))
            return true;
    return false;
}

/* The layout with the block's parameters over the layout's defaults; shared by equal blocks, but by
 * none that has changes of its own (`block`). */
static const wad_layout *use_layout(wadi_build *b, wadi_cursor *c, const wadi_env *outer,
                                    const char *block)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a layout's name");
    if (!name)
        return NULL;
    const wadi_stmt *stmt = g_hash_table_lookup(b->layouts, name);
    if (!stmt) {
        guint n;
        gpointer *names = g_hash_table_get_keys_as_array(b->layouts, &n);
        wadi_error(b->src, &where, "there is no layout '%s'%s", name,
                   wadi_suggest(b->arena, name, (const char *const *)names, n));
        g_free(names);
        c->failed = true;
        return NULL;
    }
    GString *variant = g_string_new(NULL);
    wadi_cursor head = wadi_cursor_at(b->src, stmt);
    head.tok += 2; /* layout NAME */
    const wadi_env *defaults = parse_binds(b, &head, NULL, NULL, NULL);
    const wadi_env *env = parse_binds(b, c, defaults, outer, variant);
    for (const wadi_env *v = env; v != defaults; v = v->next)
        if (!known_param(defaults, v->name))
            wadi_error(b->src, &where, "layout '%s' has no parameter '%s'", name, v->name);
    const char *text = wadi_arena_strndup(b->arena, variant->str, variant->len);
    g_string_free(variant, TRUE);
    for (unsigned i = 0; i < b->blocks->len && !block; i++) {
        const wad_instance *other = b->blocks->pdata[i];
        if (!strcmp(other->layout->name, name) && !strcmp(other->layout->variant, text))
            return other->layout;
    }
    return wadi_build_layout(b, stmt, name, env, text, block);
}

static void add_block(wadi_build *b, const wad_instance *proto, const wadi_env *env,
                      const wadi_group *body)
{
    for (unsigned i = 0; i < b->blocks->len; i++) {
        const wad_instance *other = b->blocks->pdata[i];
        if (!strcmp(other->name, proto->name)) {
            wadi_error(b->src, &proto->where, "block '%s' stands twice (first in line %u)",
                       proto->name, other->where.line);
            return;
        }
    }
    wad_instance *block = WADI_NEW(b->arena, wad_instance);
    *block = *proto;
    g_ptr_array_add(b->blocks, block);
    wadi_block_body entry = {wadi_arena_copy(b->arena, &body, 1, sizeof body), body != NULL, env,
                             false};
    g_array_append_val(b->block_bodies, entry);
}

void wadi_build_block(wadi_build *b, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    wad_instance proto = {.draws = {{0, 1}, {0, 1}, {0, 1}}};
    int64_t base, count = 0, step = 0;
    c.tok++;
    proto.where = c.tok->where;
    const char *name = wadi_need_name(&c, "the block's name");
    if (wadi_take_punct(&c, "[")) {
        wadi_parse_int(b, &c, NULL, "the number of blocks", 1, 64, &count);
        wadi_need_punct(&c, "]");
        if (wadi_need_word(&c, "step"))
            wadi_parse_int(b, &c, NULL, "bytes between blocks", 1, 1 << 24, &step);
    }
    if (!wadi_take_space(b, &c, &proto.space))
        return;
    wadi_need_word(&c, "at");
    wadi_parse_int(b, &c, NULL, "the block's address", 0, UINT32_MAX, &base);
    wadi_need_word(&c, "like");
    wadi_cursor like = c;
    const wad_layout *layout =
        c.failed ? NULL : use_layout(b, &c, NULL, wadi_has_changes(b, name) ? name : NULL);
    if (!layout)
        return;
    proto.layout = layout;
    if (c.tok->type == WADI_T_STRING && !c.failed)
        proto.text = (c.tok++)->text;
    const wadi_group *body = wadi_take_group(&c);
    if (!wadi_need_end(&c))
        return;
    for (unsigned i = 0; i < (count ? (unsigned)count : 1); i++) {
        wadi_env *env = WADI_NEW(b->arena, wadi_env);
        *env = (wadi_env){"i", wadi_int(i), NULL};
        proto.name = count ? wadi_arena_printf(b->arena, "%s%u", name, i) : name;
        proto.base = (proto.space ? proto.space->at : 0) + (uint64_t)base + (uint64_t)step * i;
        proto.layout = layout;
        if (count && wadi_has_changes(b, proto.name)) { /* one element alone */
            wadi_cursor again = like;
            proto.layout = use_layout(b, &again, NULL, proto.name);
        }
        if (!proto.layout)
            return;
        if (proto.base + layout->size > UINT64_C(1) << 32)
            wadi_error(b->src, &proto.where, "block '%s' ends beyond the 32-bit address space",
                       proto.name);
        add_block(b, &proto, count ? env : NULL, body);
    }
}

/* ---- blocks, second pass: what names other things ---- */

typedef struct finisher {
    wadi_build *b;
    wad_instance *block;
    const wadi_env *env;
    bool roles; /* they stand among the statements, and were read */
    GArray *irqs;
    GArray *edges; /* bool, one an interrupt line */
    GArray *flags; /* wad_irq_flags, one a line, if they are listed */
    GArray *signals;
} finisher;

static bool names_clock(const wad_expr *e)
{
    if (!e)
        return false;
    for (unsigned i = 0; i < e->n_picks; i++)
        if (names_clock(e->picks[i].value))
            return true;
    return (e->op == WADI_OP_CLOCK && e->clock) || names_clock(e->a) || names_clock(e->b);
}

static void check_source(wadi_build *b, const wad_clock *clock)
{
    if (clock->law && !names_clock(clock->law))
        wadi_error(b->src, &clock->where,
                   "the law of clock '%s' names no clock: it has nothing to come from",
                   clock->name);
}

/* `clock law pick CTL.SRC { 1 slow, 2 machine } / 2 ** CTL.DIV`: a clock of its own. */
static void finish_own_clock(finisher *f, wadi_cursor *c)
{
    const wad_instance *home = wad_instance_home(f->block);
    wadi_names names = {.build = f->b, .env = f->env, .layout = home->layout, .scope = home};
    wad_clock *clock = WADI_NEW(f->b->arena, wad_clock);
    char *name = g_strdup_printf("%s_clock", f->block->name);
    for (char *p = name; *p; p++)
        *p = g_ascii_isalnum(*p) ? *p : '_';
    clock->name = wadi_arena_strndup(f->b->arena, name, strlen(name));
    g_free(name);
    clock->where = c->tok->where;
    clock->index = f->b->clocks->len;
    clock->hz = clock->tolerance = clock->after_s = wadi_int(0);
    clock->min_hz = clock->max_hz = clock->draws = wadi_int(0);
    clock->own = true;
    clock->law = wadi_parse_expr(c, &names);
    if (!clock->law)
        return;
    wadi_check_law(f->b, clock->law);
    check_source(f->b, clock);
    g_ptr_array_add(f->b->clocks, clock);
    g_ptr_array_add(f->b->clock_stmts, NULL);
    f->block->clock = clock;
    wadi_need_end(c);
}

static void finish_clock_ref(finisher *f, wadi_cursor *c)
{
    if (wadi_take_word(c, "law")) {
        finish_own_clock(f, c);
        return;
    }
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a clock's name");
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; name && i < f->b->clocks->len; i++) {
        const wad_clock *clock = f->b->clocks->pdata[i];
        g_ptr_array_add(names, (gpointer)clock->name);
        if (!strcmp(clock->name, name))
            f->block->clock = clock;
    }
    if (name && !f->block->clock)
        wadi_error(c->src, &where, "there is no clock '%s'%s", name,
                   wadi_suggest(f->b->arena, name, (const char *const *)names->pdata, names->len));
    g_ptr_array_free(names, TRUE);
    wadi_need_end(c);
}

static unsigned n_elements(const wad_irq_flag *flag)
{
    return flag->last - flag->first + 1;
}

/* `match[1 .. 3]`: a flag of the unit, by its role. */
static bool take_irq_flag(finisher *f, wadi_cursor *c, wad_irq_flag *flag)
{
    const wad_layout *layout = f->block->layout;
    wadi_path path;
    int ranged = -1;
    if (!wadi_parse_paths(c, f->env, &path, &ranged))
        return false;
    int place = layout->kind ? wad_kind_role_index(layout->kind, path.name[0]) : -1;
    flag->role = place < 0 ? NULL : wad_layout_role(layout, path.name[0]);
    if (path.n != 1 || !flag->role || wad_kind_enable_of(layout->kind, (unsigned)place) < 0) {
        wadi_error(c->src, &path.where, "'%s' is no flag of %s that asks for an interrupt",
                   wadi_path_text(f->b->arena, &path), f->block->name);
        c->failed = true;
        return false;
    }
    unsigned count = wad_role_count(flag->role);
    bool all = path.index[0] < 0;
    flag->first = all ? 0 : (unsigned)path.index[0];
    flag->last = all ? count - 1 : (unsigned)path.last[0];
    if (flag->last >= count || flag->first > flag->last || (!all && !flag->role->indexed)) {
        wadi_error(c->src, &path.where, "'%s' has %u element%s", flag->role->name, count,
                   count == 1 ? "" : "s");
        c->failed = true;
    }
    return !c->failed;
}

/* `by ENA1.CH[0 .. 11]`: this line's own enables, one an element of the flag. */
static void take_irq_by(finisher *f, wadi_cursor *c, wad_irq_flag *flag)
{
    const wad_instance *home = wad_instance_home(f->block);
    wadi_path path;
    int ranged = -1;
    if (!wadi_parse_paths(c, f->env, &path, &ranged))
        return;
    wad_fieldref *by = wadi_arena_alloc(f->b->arena, n_elements(flag) * sizeof *by);
    for (unsigned i = 0; i < n_elements(flag); i++) {
        if (!wadi_resolve(f->b, home->layout, home, &path, &by[i])) {
            c->failed = true;
            return;
        }
        if (ranged >= 0 && i + 1 < n_elements(flag) && ++path.index[ranged] > path.last[ranged]) {
            wadi_error(c->src, &path.where, "'%s' has %u elements, and these are %u enables",
                       flag->role->name, n_elements(flag), i + 1);
            c->failed = true;
            return;
        }
    }
    flag->by = by;
}

/* `11 match[1 .. 3] captured`; a line without a flag has all that no other line has. */
static void finish_irq_flags(finisher *f, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(f->b->src, stmt);
    int64_t line;
    bool edge = false;
    if (!wadi_parse_int(f->b, &c, f->env, "an interrupt line", 0, 255, &line))
        return;
    GArray *list = g_array_new(FALSE, FALSE, sizeof(wad_irq_flag));
    while (!c.failed && !wadi_at_end(&c) && !wadi_at_word(&c, "by") && !wadi_at_word(&c, "edge")) {
        wad_irq_flag flag = {0};
        if (take_irq_flag(f, &c, &flag))
            g_array_append_val(list, flag);
    }
    wad_where where = c.tok->where;
    if (wadi_take_word(&c, "by")) {
        if (list->len == 1)
            take_irq_by(f, &c, &g_array_index(list, wad_irq_flag, 0));
        else {
            wadi_error(c.src, &where,
                       "enables of a line's own are of one flag: 12 end by ENA1.END");
            c.failed = true;
        }
    }
    edge = wadi_take_word(&c, "edge");
    if (wadi_need_end(&c)) {
        int n = (int)line;
        wad_irq_flags row = {
            wadi_arena_copy(f->b->arena, list->data, list->len, sizeof(wad_irq_flag)), list->len};
        g_array_append_val(f->irqs, n);
        g_array_append_val(f->edges, edge);
        g_array_append_val(f->flags, row);
    }
    g_array_free(list, TRUE);
}

/* `irq 9`, `irq 9 .. 12`, `irq 9 edge`, `irq { 9 wrap, 10 match[0] }` */
static void finish_irq(finisher *f, wadi_cursor *c)
{
    int64_t line, last;
    wad_where where = c->tok->where;
    const wadi_group *group = wadi_take_group(c);
    if (f->irqs->len) {
        wadi_error(c->src, &where,
                   "the lines of %s stand above already: list them together, as in "
                   "irq { 9 wrap, 10 match }",
                   f->block->name);
        return;
    }
    for (unsigned i = 0; group && i < group->n; i++)
        finish_irq_flags(f, &group->stmts[i]);
    if (group) {
        wadi_need_end(c);
        return;
    }
    if (!wadi_parse_int(f->b, c, f->env, "an interrupt line", 0, 255, &line))
        return;
    last = line;
    if (wadi_take_punct(c, ".."))
        wadi_parse_int(f->b, c, f->env, "the last interrupt line", line, 255, &last);
    bool edge = wadi_take_word(c, "edge");
    for (int n = (int)line; n <= (int)last; n++) {
        g_array_append_val(f->irqs, n);
        g_array_append_val(f->edges, edge);
    }
    wadi_need_end(c);
}

static void finish_carries(finisher *f, wadi_cursor *c)
{
    int64_t count;
    f->block->carries = wadi_need_name(c, "the stem of the pins' names");
    if (!wadi_need_punct(c, "[") ||
        !wadi_parse_int(f->b, c, f->env, "the number of pins", 1, 64, &count) ||
        !wadi_need_punct(c, "]") || !wadi_need_end(c))
        return;
    f->block->n_carries = (unsigned)count;
    for (unsigned i = 0; i < (unsigned)count; i++) {
        wad_pin_def pin = {wadi_arena_printf(f->b->arena, "%s%u", f->block->carries, i), f->block,
                           i};
        g_array_append_val(f->b->pins, pin);
    }
}

static void finish_option(finisher *f, const wadi_stmt *stmt, GArray *options)
{
    wadi_cursor c = wadi_cursor_at(f->b->src, stmt);
    wad_pin_option option = {.where = c.tok->where};
    int64_t fn = 0;
    const char *name = wadi_need_name(&c, "a pin's name");
    bool routed = f->block->route.reg != NULL;
    if (wadi_at_word(&c, routed ? "fn" : "group")) {
        wadi_error(c.src, &c.tok->where, "%s",
                   routed ? "the block has a route: its pins go by 'group NUMBER'"
                          : "'group' is for blocks with a route: write 'fn NUMBER'");
        return;
    }
    if (wadi_take_word(&c, routed ? "group" : "fn"))
        wadi_parse_int(f->b, &c, f->env, "the function's number", 0, 255, &fn);
    if (!wadi_need_end(&c))
        return;
    option.fn = (unsigned)fn;
    option.pin = wad_sheet_pin(f->b->sheet, name);
    if (option.pin)
        g_array_append_val(options, option);
    else
        wadi_error(c.src, &option.where, "the chip has no pin '%s'", name);
}

static void finish_pins(finisher *f, wadi_cursor *c)
{
    wad_signal signal = {.block = f->block};
    signal.name = wadi_need_name(c, "the pin function's name");
    if (wadi_take_word(c, "out"))
        signal.dir = WAD_SIGNAL_OUT;
    else if (wadi_take_word(c, "in"))
        signal.dir = WAD_SIGNAL_IN;
    else if (wadi_take_word(c, "analog"))
        signal.dir = WAD_SIGNAL_ANALOG;
    const wadi_group *group = wadi_need_group(c, "'{' and the pins it can come out on");
    if (!group || !wadi_need_end(c))
        return;
    GArray *options = g_array_new(FALSE, FALSE, sizeof(wad_pin_option));
    for (unsigned i = 0; i < group->n; i++)
        finish_option(f, &group->stmts[i], options);
    signal.n_options = options->len;
    signal.options =
        wadi_arena_copy(f->b->arena, options->data, options->len, sizeof(wad_pin_option));
    g_array_free(options, TRUE);
    g_array_append_val(f->signals, signal);
}

/* `route BLOCK.REG.FIELD`: the signals of this block move together, by the field's value. */
static void finish_route(finisher *f, wadi_cursor *c)
{
    wadi_path path;
    if (wadi_parse_path(c, f->env, &path) &&
        wadi_resolve(f->b, NULL, NULL, &path, &f->block->route))
        wadi_need_end(c);
}

/* `ready CLK.DONE.T0 after 8 cycles`: when it answers, once it was opened. */
static void take_ready(finisher *f, wadi_cursor *c, wad_ready *ready)
{
    layout_build lb = {.b = f->b, .env = f->env};
    wadi_path path;
    while (!c->failed && !wadi_at_end(c))
        if (wadi_take_word(c, "ready")) {
            if (!wadi_parse_path(c, f->env, &path) ||
                !wadi_resolve(f->b, NULL, NULL, &path, &ready->ref))
                c->failed = true;
        } else if (wadi_take_word(c, "after")) {
            ready->delayed = wadi_parse_delay(&lb, c, &ready->delay);
        } else {
            wadi_expected(c, "'ready FIELD' or 'after TIME'");
        }
    if (!c->failed && ready->ref.reg && ready->ref.width != 1) {
        wadi_error(c->src, &path.where, "one bit says that it is ready: BLOCK.REGISTER.FIELD");
        c->failed = true;
    }
}

static void finish_needs(finisher *f, wadi_cursor *c)
{
    if (!wadi_parse_cond(f->b, c, f->env, NULL, &f->block->needs))
        return;
    take_ready(f, c, &f->block->needs_ready);
    wadi_need_end(c);
}

/* `reset while CLK.RST.T0 ready CLK.DONE.T0 after 8 cycles` */
static void finish_reset(finisher *f, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    if (f->block->home) {
        wadi_error(c->src, &where, "a reset is a block's: write it beside its address");
        return;
    }
    if (!wadi_need_word(c, "while") || !wadi_parse_cond(f->b, c, f->env, NULL, &f->block->reset))
        return;
    take_ready(f, c, &f->block->reset_ready);
    wadi_need_end(c);
}

static void finish_window(finisher *f, const wadi_cursor *c, const wadi_stmt *stmt)
{
    if (f->block->home)
        wadi_error(c->src, &c->tok->where, "a window shows a block: write it beside its address");
    else
        wadi_build_window(f->b, stmt, f->block);
}

/* `draws 12 uA per_mhz 3 uA active 450 uA` */
static void finish_draws(finisher *f, wadi_cursor *c)
{
    while (!wadi_at_end(c))
        if (!wadi_take_draws(f->b, c, &f->block->draws) && !c->failed)
            wadi_expected(c, "'draws', 'per_mhz' or 'active'");
}

static bool has_units(const wadi_build *b, const wad_instance *block)
{
    for (unsigned i = 0; i < b->blocks->len; i++)
        if (((const wad_instance *)b->blocks->pdata[i])->home == block)
            return true;
    return false;
}

/* `unit T0 { ... }`, `unit S[1 .. 3] { ... }` in a block: is there such a one? */
static void check_unit(finisher *f, wadi_cursor *c)
{
    wadi_path path;
    int ranged = -1;
    c->tok++;
    if (!wadi_parse_paths(c, f->env, &path, &ranged) ||
        !wadi_need_group(c, "'{' and what belongs to the unit") || !wadi_need_end(c))
        return;
    GPtrArray *names = g_ptr_array_new();
    bool found = false;
    size_t stem = strlen(f->block->name) + 1;
    for (unsigned i = 0; i < f->b->blocks->len; i++) {
        const wad_instance *unit = f->b->blocks->pdata[i];
        if (unit->home != f->block || strlen(unit->name) <= stem)
            continue;
        const char *own = unit->name + stem, *row = strchr(own, '[');
        size_t n = row ? (size_t)(row - own) : strlen(own);
        int64_t at = row ? g_ascii_strtoll(row + 1, NULL, 10) : -1;
        g_ptr_array_add(names, wadi_arena_strndup(f->b->arena, own, n));
        found =
            found || (path.n == 1 && strlen(path.name[0]) == n && !strncmp(path.name[0], own, n) &&
                      (path.index[0] < 0 || at == path.last[0]));
    }
    if (!found)
        wadi_error(
            c->src, &path.where, "block %s has no unit '%s'%s", f->block->name,
            wadi_path_text(f->b->arena, &path),
            wadi_suggest(f->b->arena, path.name[0], (const char *const *)names->pdata, names->len));
    g_ptr_array_free(names, TRUE);
}

/* Of several units each has its own: what would it mean for the block? */
static bool check_owner(finisher *f, const wadi_cursor *c)
{
    static const char *const words[] = {"irq", "pins", "triggers", "requests", "route", "carries"};
    if (f->block->home || f->block->layout->kind || !has_units(f->b, f->block))
        return true;
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++)
        if (wadi_at_word(c, words[i])) {
            wadi_error(c->src, &c->tok->where,
                       "block %s has units, and '%s' belongs to one of them: write it into 'unit "
                       "NAME { ... }'",
                       f->block->name, words[i]);
            return false;
        }
    return true;
}

/* Pins and routes stand first: other statements lean on them. */
static void finish_item(finisher *f, const wadi_stmt *stmt, bool first_pass)
{
    wadi_cursor c = wadi_cursor_at(f->b->src, stmt);
    if (f->roles && !wadi_is_unit_statement(stmt, f->block->layout->kind))
        return;
    if (wadi_at_word(&c, "unit") && !f->block->home) {
        if (first_pass)
            check_unit(f, &c);
        return;
    }
    if (first_pass && !check_owner(f, &c))
        return;
    if (wadi_at_word(&c, "change") || wadi_at_word(&c, "without")) /* taken with the layout */
        return;
    if (wadi_at_word(&c, "triggers") || wadi_at_word(&c, "requests") ||
        wadi_at_word(&c, "owned")) /* when all blocks are whole */
        return;
    if ((wadi_at_word(&c, "carries") || wadi_at_word(&c, "route")) != first_pass)
        return;
    if (wadi_take_word(&c, "carries"))
        finish_carries(f, &c);
    else if (wadi_take_word(&c, "clock"))
        finish_clock_ref(f, &c);
    else if (wadi_take_word(&c, "needs"))
        finish_needs(f, &c);
    else if (wadi_take_word(&c, "reset"))
        finish_reset(f, &c);
    else if (wadi_at_word(&c, "window"))
        finish_window(f, &c, stmt);
    else if (wadi_take_word(&c, "irq"))
        finish_irq(f, &c);
    else if (wadi_take_word(&c, "route"))
        finish_route(f, &c);
    else if (wadi_take_word(&c, "pins"))
        finish_pins(f, &c);
    else if (wadi_at_word(&c, "draws") || wadi_at_word(&c, "active") || wadi_at_word(&c, "per_mhz"))
        finish_draws(f, &c);
    else
        wadi_expected(
            &c, f->block->home
                    ? "'clock', 'needs', 'reset', 'window', 'irq', 'route', 'pins', "
                      "'carries', 'triggers', "
                      "'requests', 'draws', 'per_mhz' or 'active'"
                    : "'clock', 'needs', 'reset', 'window', 'irq', 'route', 'pins', "
                      "'carries', 'triggers', "
                      "'requests', 'owned', 'draws', 'per_mhz', 'active', 'unit', 'change' or "
                      "'without'");
}

static void finish_block(wadi_build *b, unsigned i, bool first_pass)
{
    const wadi_block_body *body = &g_array_index(b->block_bodies, wadi_block_body, i);
    wad_instance *block = b->blocks->pdata[i];
    finisher f = {b,
                  block,
                  body->env,
                  body->roles,
                  g_array_new(FALSE, FALSE, sizeof(int)),
                  g_array_new(FALSE, FALSE, sizeof(bool)),
                  g_array_new(FALSE, FALSE, sizeof(wad_irq_flags)),
                  g_array_new(FALSE, FALSE, sizeof(wad_signal))};
    for (unsigned g = 0; g < body->n; g++)
        for (unsigned k = 0; k < body->groups[g]->n; k++)
            finish_item(&f, &body->groups[g]->stmts[k], first_pass);
    block->n_irqs = f.irqs->len;
    block->irqs = wadi_arena_copy(b->arena, f.irqs->data, f.irqs->len, sizeof(int));
    block->irq_edge = wadi_arena_copy(b->arena, f.edges->data, f.edges->len, sizeof(bool));
    if (f.flags->len)
        block->irq_flags =
            wadi_arena_copy(b->arena, f.flags->data, f.flags->len, sizeof(wad_irq_flags));
    block->n_signals = f.signals->len;
    block->signals = wadi_arena_copy(b->arena, f.signals->data, f.signals->len, sizeof(wad_signal));
    g_array_free(f.irqs, TRUE);
    g_array_free(f.edges, TRUE);
    g_array_free(f.flags, TRUE);
    g_array_free(f.signals, TRUE);
}

void wadi_finish_blocks(wadi_build *b)
{
    for (unsigned i = 0; i < b->blocks->len; i++)
        finish_block(b, i, true);
    b->sheet->pins = wadi_arena_copy(b->arena, b->pins->data, b->pins->len, sizeof(wad_pin_def));
    b->sheet->n_pins = b->pins->len;
    for (unsigned i = 0; i < b->blocks->len; i++)
        finish_block(b, i, false);
    for (unsigned i = 0; i < b->blocks->len; i++) {
        wad_instance *unit = b->blocks->pdata[i];
        if (unit->home && !unit->clock) /* as its block's registers */
            unit->clock = unit->home->clock;
    }
    for (unsigned i = 0; i < b->blocks->len; i++)
        wadi_link_block(b, b->blocks->pdata[i],
                        &g_array_index(b->block_bodies, wadi_block_body, i));
}

/* ---- clocks ---- */

void wadi_build_clock(wadi_build *b, const wadi_stmt *stmt)
{
    wad_clock *clock = WADI_NEW(b->arena, wad_clock);
    clock->where = stmt->toks[1].where;
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    c.tok++;
    clock->name = wadi_need_name(&c, "the clock's name");
    if (!clock->name)
        return;
    for (unsigned i = 0; i < b->clocks->len; i++)
        if (!strcmp(((wad_clock *)b->clocks->pdata[i])->name, clock->name)) {
            wadi_error(b->src, &clock->where, "clock '%s' stands twice", clock->name);
            return;
        }
    clock->index = b->clocks->len;
    clock->hz = clock->tolerance = clock->after_s = wadi_int(0);
    clock->min_hz = clock->max_hz = clock->draws = wadi_int(0);
    g_ptr_array_add(b->clocks, clock);
    g_ptr_array_add(b->clock_stmts, (gpointer)stmt);
}

/* `output CLK.CLKOUT`: the pin function of a block that this clock comes out at. */
static void parse_clock_output(wadi_build *b, wadi_cursor *c, wad_clock *clock)
{
    wadi_path path;
    if (!wadi_parse_path(c, NULL, &path))
        return;
    for (unsigned i = 0; path.n == 2 && i < b->blocks->len; i++) {
        const wad_instance *block = b->blocks->pdata[i];
        if (!strcmp(block->name, path.name[0]))
            clock->output = wad_instance_signal(block, path.name[1]);
    }
    if (clock->output)
        return;
    wadi_error(c->src, &path.where, "no block has a pin function '%s': write BLOCK.SIGNAL",
               wadi_path_text(b->arena, &path));
    c->failed = true;
}

/* `24 MHz`, `24 MHz * (FLASH.CTRL.WAIT + 1)`: a law only where it rests on something. */
static bool parse_limit(wadi_build *b, wadi_cursor *c, wad_expr **law, wad_rational *hz)
{
    wadi_names names = {.build = b};
    wadi_cursor start = *c;
    wad_expr *e = wadi_parse_expr(c, &names);
    *law = NULL;
    if (e && e->op == WADI_OP_NUM) { /* one number, and it needs its unit */
        *c = start;
        return wadi_parse_quantity(b, c, NULL, WAD_UNIT_HZ, hz);
    }
    *law = e;
    if (e)
        wadi_check_law(b, e);
    return e != NULL;
}

static void finish_clock_attr(wadi_build *b, wadi_cursor *c, wad_clock *clock)
{
    wadi_path path;
    if (wadi_take_word(c, "tolerance")) {
        wadi_parse_quantity(b, c, NULL, WAD_UNIT_PART, &clock->tolerance);
    } else if (wadi_take_word(c, "on")) {
        wadi_parse_cond(b, c, NULL, NULL, &clock->on);
    } else if (wadi_take_word(c, "ready")) {
        if (wadi_parse_path(c, NULL, &path) && !wadi_resolve(b, NULL, NULL, &path, &clock->ready))
            c->failed = true;
    } else if (wadi_take_word(c, "after")) {
        wadi_parse_quantity(b, c, NULL, WAD_UNIT_S, &clock->after_s);
    } else if (wadi_take_word(c, "within")) {
        clock->bounded = parse_limit(b, c, &clock->least, &clock->min_hz) &&
                         wadi_need_punct(c, "..") &&
                         parse_limit(b, c, &clock->most, &clock->max_hz);
    } else if (wadi_take_word(c, "draws")) {
        wadi_parse_quantity(b, c, NULL, WAD_UNIT_A, &clock->draws);
    } else if (wadi_take_word(c, "output")) {
        parse_clock_output(b, c, clock);
    } else if (wadi_take_word(c, "watched")) {
        wadi_parse_cond(b, c, NULL, NULL, &clock->watched);
    } else if (wadi_take_word(c, "switched")) {
        if (wadi_parse_path(c, NULL, &path) &&
            !wadi_resolve(b, NULL, NULL, &path, &clock->switched))
            c->failed = true;
        else if (!c->failed && !wadi_first_pick(clock->law)) {
            wadi_error(
                c->src, &path.where,
                "what is switched is the choice of a law: law pick SEL.SRC { 0 xtal, 1 pll } "
                "switched SEL.STATUS");
            c->failed = true;
        }
    } else if (wadi_take_word(c, "lost")) {
        if (wadi_parse_path(c, NULL, &path) && !wadi_resolve(b, NULL, NULL, &path, &clock->lost))
            c->failed = true;
    } else if (wadi_take_word(c, "instead")) {
        wad_cond set;
        wad_where where = c->tok->where;
        if (wadi_parse_cond(b, c, NULL, NULL, &set) &&
            (set.n != 1 || set.or_else || set.terms[0].last != set.terms[0].value)) {
            wadi_error(c->src, &where, "hardware sets one field to one value: instead A.B.C = 1");
            c->failed = true;
        } else if (!c->failed)
            clock->instead = set.terms[0];
    } else {
        wadi_expected(c, "'tolerance', 'on', 'ready', 'after', 'within', 'watched', 'lost', "
                         "'instead', 'switched', 'output' or 'draws'");
    }
}

void wadi_parse_clock_attrs(wadi_build *b, wadi_cursor *c, wad_clock *clock)
{
    while (!wadi_at_end(c))
        finish_clock_attr(b, c, clock);
}

static void finish_clock(wadi_build *b, wad_clock *clock, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(b->src, stmt);
    c.tok += 2;
    if (wadi_take_word(&c, "law")) {
        wadi_names names = {.build = b};
        clock->law = wadi_parse_expr(&c, &names);
    } else {
        wadi_parse_quantity(b, &c, NULL, WAD_UNIT_HZ, &clock->hz);
        if (!c.failed && clock->hz.num <= 0) {
            wadi_error(b->src, &clock->where, "a clock's frequency must be above 0 Hz");
            c.failed = true;
        }
    }
    wadi_parse_clock_attrs(b, &c, clock);
    if (clock->law)
        wadi_check_law(b, clock->law);
    check_source(b, clock);
    for (guint i = 0; i < b->changes->len; i++) {
        wadi_change *change = b->changes->pdata[i];
        if (!change->clock || strcmp(change->clock, clock->name))
            continue;
        wadi_cursor at = change->at;
        change->met = true;
        wadi_parse_clock_attrs(b, &at, clock);
    }
}

void wadi_finish_clocks(wadi_build *b)
{
    for (unsigned i = 0; i < b->clocks->len; i++)
        if (b->clock_stmts->pdata[i]) /* else a block's own, read with it */
            finish_clock(b, b->clocks->pdata[i], b->clock_stmts->pdata[i]);
}
