/* SPDX-License-Identifier: MIT */
/* Reads a sheet: the chip statement, in passes, and the checks that make it whole. */
#include <glib.h>
#include <string.h>

#include "build.h"
#include "hook.h"
#include "lang/rational.h"
#include "path.h"
#include "sheet/chip/expression.h"

/* The model first: a wad_sheet * is a sheet_owner *. */
typedef struct sheet_owner {
    wad_sheet sheet;
    wadi_arena *arena;
} sheet_owner;

/* ---- simple statements of the chip ---- */

static void parse_bus(wadi_build *b, wadi_cursor *c)
{
    int64_t bits;
    b->sheet->big_endian = wadi_at_word(c, "big");
    if (!wadi_take_word(c, "big") && !wadi_take_word(c, "little"))
        wadi_expected(c, "'little' or 'big'");
    wad_where where = c->tok->where;
    if (!wadi_parse_int(b, c, NULL, "the bus width in bits", 8, 32, &bits))
        return;
    if (bits != 8 && bits != 16 && bits != 32)
        wadi_error(c->src, &where, "the bus is 8, 16 or 32 bits wide");
    else
        b->sheet->bus_bits = (uint8_t)bits;
    wadi_need_end(c);
}

static void parse_memory(wadi_build *b, wadi_cursor *c, GArray *memories)
{
    wad_memory memory;
    int64_t base;
    wad_rational size;
    memory.where = c->tok->where;
    memory.name = wadi_need_name(c, "the memory's name");
    if (!wadi_take_space(b, c, &memory.space))
        return;
    wadi_need_word(c, "at");
    wadi_parse_int(b, c, NULL, "the memory's address", 0, UINT32_MAX, &base);
    wadi_need_word(c, "size");
    if (!wadi_parse_quantity(b, c, NULL, WAD_UNIT_BYTE, &size) || !wadi_need_end(c))
        return;
    memory.base = (uint64_t)base + (memory.space ? memory.space->at : 0);
    memory.size = (uint64_t)wadi_rat_floor(size);
    g_array_append_val(memories, memory);
}

/* What is not a number of cycles: how the core treats data and faults. */
static bool parse_cpu_word(wadi_build *b, wadi_cursor *c, wad_cpu *cpu)
{
    int64_t number;
    if (wadi_take_word(c, "aligned")) {
        cpu->aligned = true;
    } else if (wadi_take_word(c, "bus_fault")) {
        if (wadi_parse_int(b, c, NULL, "the interrupt line of bus faults", 0, 255, &number))
            cpu->bus_fault = (int)number;
    } else if (wadi_take_word(c, "int")) {
        if (wadi_parse_int(b, c, NULL, "the bits of int, 16 or 32", 16, 32, &number))
            cpu->int_bits = (unsigned)number;
    } else if (wadi_take_word(c, "global")) {
        wadi_path path; /* looked up when there are blocks */
        b->global = *c;
        wadi_parse_path(c, NULL, &path);
    } else if (wadi_take_word(c, "saves")) {
        wadi_path path;
        b->saves = *c;
        wadi_parse_path(c, NULL, &path);
    } else if (wadi_take_word(c, "nests")) {
        cpu->nests = wadi_at_word(c, "always")  ? WAD_NESTS_ALWAYS
                     : wadi_at_word(c, "never") ? WAD_NESTS_NEVER
                                                : WAD_NESTS_BY_PRIORITY;
        if (!wadi_take_word(c, "always") && !wadi_take_word(c, "never") &&
            !wadi_take_word(c, "by_priority"))
            wadi_expected(c, "'by_priority', 'always' or 'never'");
    } else if (wadi_take_word(c, "char")) {
        cpu->char_unsigned = wadi_at_word(c, "unsigned");
        if (!wadi_take_word(c, "unsigned") && !wadi_take_word(c, "signed"))
            wadi_expected(c, "'signed' or 'unsigned'");
    } else {
        return false;
    }
    return true;
}

static void parse_cpu(wadi_build *b, wadi_cursor *c)
{
    wad_cpu *cpu = &b->sheet->cpu;
    cpu->isa = wadi_need_name(c, "the core's name");
    while (!wadi_at_end(c)) {
        unsigned *slot = NULL;
        int64_t cycles;
        if (wadi_take_word(c, "access"))
            slot = &cpu->access;
        else if (wadi_take_word(c, "interrupt_entry"))
            slot = &cpu->interrupt_entry;
        else if (wadi_take_word(c, "interrupt_exit"))
            slot = &cpu->interrupt_exit;
        else if (wadi_take_word(c, "interrupt_chain"))
            slot = &cpu->interrupt_chain;
        else if (wadi_at_word(c, "active")) {
            wadi_error(b->src, &c->tok->where,
                       "'active' is a block's: a core draws, awake, what "
                       "'draws' and 'per_mhz' say");
            return;
        } else if (!wadi_take_draws(b, c, &cpu->draws) && !c->failed && !parse_cpu_word(b, c, cpu))
            wadi_expected(
                c, "'access', 'interrupt_entry', 'interrupt_exit', 'interrupt_chain', 'aligned', "
                   "'bus_fault', 'int', 'char', 'global', 'saves', 'nests', 'draws' or 'per_mhz'");
        if (slot && wadi_parse_int(b, c, NULL, "a number of cycles", 1, 10000, &cycles))
            *slot = (unsigned)cycles;
    }
}

/* ---- passes over the chip's body ---- */

static void pass_simple(wadi_build *b, const wadi_group *body)
{
    GArray *memories = g_array_new(FALSE, FALSE, sizeof(wad_memory));
    static const char *const later[] = {"clock",   "block", "unit",     "line",  "on",
                                        "erratum", "sleep", "identity", "window"};
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        bool is_later = false;
        for (unsigned k = 0; k < G_N_ELEMENTS(later); k++)
            is_later |= wadi_at_word(&c, later[k]);
        if (is_later)
            continue;
        if (wadi_take_word(&c, "summary"))
            b->sheet->summary = wadi_need_string(&c, "the summary in quotes");
        else if (wadi_take_word(&c, "bus"))
            parse_bus(b, &c);
        else if (wadi_take_word(&c, "memory"))
            parse_memory(b, &c, memories);
        else if (wadi_take_word(&c, "space"))
            wadi_parse_space(b, &c);
        else if (wadi_take_word(&c, "cpu"))
            parse_cpu(b, &c);
        else if (wadi_take_word(&c, "supply"))
            wadi_parse_supply(b, &c);
        else
            wadi_expected(&c,
                          "'summary', 'bus', 'space', 'memory', 'cpu', 'supply', 'clock', 'block', "
                          "'unit', 'line', 'on', 'window', 'sleep', 'identity' or 'erratum'");
    }
    b->sheet->n_memories = memories->len;
    b->sheet->memories =
        wadi_arena_copy(b->arena, memories->data, memories->len, sizeof(wad_memory));
    g_array_free(memories, TRUE);
    b->sheet->n_spaces = b->spaces->len;
    b->sheet->spaces =
        wadi_arena_copy(b->arena, b->spaces->pdata, b->spaces->len, sizeof(gpointer));
}

/* What corrects the sheet, before there is anything to correct: changes of elements in layouts,
 * blocks' changes, then errata of the chip, then those of each text over it. */
static void pass_changes(wadi_build *b, const wadi_source *base, const wadi_group *body)
{
    for (unsigned i = 0; i < base->top->n; i++) {
        const wadi_stmt *stmt = &base->top->stmts[i];
        wadi_cursor c = wadi_cursor_at(base, stmt);
        const wadi_tok *last = &stmt->toks[stmt->n - 1];
        if (wadi_take_word(&c, "layout") && c.tok->type == WADI_T_NAME &&
            last->type == WADI_T_GROUP)
            wadi_collect_changes(b, c.tok->text, true, last->group);
    }
    for (unsigned i = 0; i < body->n; i++) {
        const wadi_stmt *stmt = &body->stmts[i];
        wadi_cursor c = wadi_cursor_at(base, stmt);
        if (!wadi_take_word(&c, "block") || c.tok->type != WADI_T_NAME)
            continue;
        const wadi_tok *last = &stmt->toks[stmt->n - 1];
        wadi_collect_changes(b, c.tok->text, false,
                             last->type == WADI_T_GROUP ? last->group : NULL);
    }
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(base, &body->stmts[i]);
        if (wadi_at_word(&c, "erratum"))
            wadi_collect_erratum(b, base, &body->stmts[i]);
    }
}

static void pass_errata_over(wadi_build *b, const wadi_source *src)
{
    if (!src->over)
        return;
    pass_errata_over(b, src->over);
    for (unsigned i = 0; i < src->top->n; i++) {
        wadi_cursor c = wadi_cursor_at(src, &src->top->stmts[i]);
        if (wadi_at_word(&c, "erratum"))
            wadi_collect_erratum(b, src, &src->top->stmts[i]);
        else if (!wadi_at_word(&c, "over"))
            wadi_expected(&c, "'erratum': what stands over a sheet corrects it");
    }
}

static void pass_named(wadi_build *b, const wadi_group *body)
{
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (wadi_at_word(&c, "clock"))
            wadi_build_clock(b, &body->stmts[i]);
        else if (wadi_at_word(&c, "block"))
            wadi_build_block(b, &body->stmts[i]);
    }
}

/* What layouts act as, then the units whose roles lie in several blocks. */
static void pass_units(wadi_build *b, const wadi_group *body)
{
    wadi_finish_layouts(b);
    wadi_build_units(b);
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (wadi_at_word(&c, "unit"))
            wadi_build_chip_unit(b, &body->stmts[i]);
    }
    wadi_build_hooks(b, body);
    wadi_check_events(b);
}

static int by_line(const void *a, const void *b)
{
    const wad_line_def *x = a, *y = b;
    return x->line < y->line ? -1 : x->line > y->line;
}

static void pass_lines(wadi_build *b, const wadi_group *body)
{
    GArray *lines = g_array_new(FALSE, TRUE, sizeof(wad_line_def));
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (wadi_at_word(&c, "line"))
            wadi_build_line(b, &body->stmts[i], lines);
        else if (wadi_at_word(&c, "on"))
            wadi_build_on(b, &body->stmts[i]);
        else if (wadi_at_word(&c, "window"))
            wadi_build_window(b, &body->stmts[i], NULL);
    }
    wadi_build_bits(b);
    wadi_finish_windows(b);
    g_array_sort(lines, by_line);
    b->sheet->n_lines = lines->len;
    b->sheet->lines = wadi_arena_copy(b->arena, lines->data, lines->len, sizeof(wad_line_def));
    g_array_free(lines, TRUE);
}

/* `cpu ... global CPU.STATUS.I`: the field that the core's mask is. */
static void pass_global(wadi_build *b)
{
    wad_fieldref *ref = &b->sheet->cpu.global, *saves = &b->sheet->cpu.saves;
    wadi_path path;
    if (b->saves.src) {
        wadi_cursor at = b->saves;
        if (wadi_parse_path(&at, NULL, &path) && wadi_resolve(b, NULL, NULL, &path, saves) &&
            saves->field)
            wadi_error(b->src, &path.where,
                       "a whole register is saved at an entry: saves BLOCK.REGISTER");
    }
    if (!b->global.src)
        return;
    wadi_cursor c = b->global;
    if (!wadi_parse_path(&c, NULL, &path) || !wadi_resolve(b, NULL, NULL, &path, ref))
        return;
    if (ref->width != 1)
        wadi_error(b->src, &path.where, "the global enable is one bit: '%s' has %u",
                   wadi_path_text(b->arena, &path), ref->width);
}

/* `identity INFO.CHIP.PART = 0xC032`: how a live chip is told from others. */
static void pass_identity(wadi_build *b, const wadi_group *body)
{
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(b->src, &body->stmts[i]);
        if (!wadi_take_word(&c, "identity"))
            continue;
        if (b->sheet->identity.n)
            wadi_error(b->src, &c.tok->where, "the chip has two identities");
        else if (wadi_parse_cond(b, &c, NULL, NULL, &b->sheet->identity))
            wadi_need_end(&c);
    }
}

static int by_base(const void *a, const void *b)
{
    const wad_instance *x = *(const wad_instance *const *)a;
    const wad_instance *y = *(const wad_instance *const *)b;
    if (x->base != y->base)
        return x->base < y->base ? -1 : 1;
    if (!x->home != !y->home) /* a block stands before its units */
        return x->home ? 1 : -1;
    return strcmp(x->name, y->name);
}

static void publish(wadi_build *b)
{
    wad_sheet *s = b->sheet;
    s->n_clocks = b->clocks->len;
    s->clocks = wadi_arena_copy(b->arena, b->clocks->pdata, b->clocks->len, sizeof(gpointer));
    s->core = wad_sheet_clock(s, "core");
    s->n_errata = b->errata->len;
    s->errata = wadi_arena_copy(b->arena, b->errata->data, b->errata->len, sizeof(wad_erratum));
    if (b->blocks->len)
        qsort(b->blocks->pdata, b->blocks->len, sizeof(gpointer), by_base);
    s->n_blocks = b->blocks->len;
    s->blocks = wadi_arena_copy(b->arena, b->blocks->pdata, b->blocks->len, sizeof(gpointer));
    for (unsigned i = 0; i < s->n_blocks; i++) {
        wad_instance *block = b->blocks->pdata[i];
        block->index = i;
        for (unsigned k = 0; k < block->n_irqs; k++)
            s->n_vectors = MAX(s->n_vectors, (unsigned)block->irqs[k] + 1);
    }
    for (unsigned i = 0; i < s->n_lines; i++)
        s->n_vectors = MAX(s->n_vectors, s->lines[i].line + 1);
    if (s->cpu.bus_fault >= 0)
        s->n_vectors = MAX(s->n_vectors, (unsigned)s->cpu.bus_fault + 1);
}

static bool comes_back(const wad_clock *clock, const wad_clock *start, unsigned depth);

/* A clock that comes back to itself through its law or its limits. */
static bool loops(const wad_expr *e, const wad_clock *start, unsigned depth)
{
    if (!e)
        return false;
    if (depth > 64)
        return true;
    if (e->op == WADI_OP_CLOCK && e->clock)
        return e->clock == start || comes_back(e->clock, start, depth + 1);
    for (unsigned i = 0; i < e->n_picks; i++)
        if (loops(e->picks[i].value, start, depth + 1))
            return true;
    return loops(e->a, start, depth) || loops(e->b, start, depth);
}

static bool comes_back(const wad_clock *clock, const wad_clock *start, unsigned depth)
{
    return loops(clock->law, start, depth) || loops(clock->least, start, depth) ||
           loops(clock->most, start, depth);
}

static bool is_read(const wad_register *r)
{
    return r->access != WAD_ACCESS_WO && r->alias == WAD_ALIAS_NONE;
}

static bool is_written(const wad_register *r)
{
    return (r->access != WAD_ACCESS_RO && r->access != WAD_ACCESS_RC) || r->alias != WAD_ALIAS_NONE;
}

/* The first register of `b` that stands where one of `a` does, both read or both written. */
static const wad_register *meets(const wad_instance *a, const wad_instance *b,
                                 const wad_register **other)
{
    for (unsigned i = 0; i < a->layout->n_regs; i++)
        for (unsigned k = 0; k < b->layout->n_regs; k++) {
            const wad_register *x = a->layout->regs[i], *y = b->layout->regs[k];
            bool clash = (is_read(x) && is_read(y)) || (is_written(x) && is_written(y));
            for (uint32_t m = 0; clash && m < (x->count ? x->count : 1); m++)
                for (uint32_t n = 0; n < (y->count ? y->count : 1); n++) {
                    uint64_t at = a->base + x->offset + (uint64_t)m * x->step;
                    uint64_t to = b->base + y->offset + (uint64_t)n * y->step;
                    if (at < to + wad_register_bytes(y) && to < at + wad_register_bytes(x)) {
                        *other = x;
                        return y;
                    }
                }
        }
    return NULL;
}

static void check_blocks_apart(wadi_build *b)
{
    const wad_sheet *s = b->sheet;
    for (unsigned i = 0; i < s->n_blocks; i++)
        for (unsigned k = i + 1; k < s->n_blocks; k++) {
            const wad_instance *x = s->blocks[i], *y = s->blocks[k];
            const wad_register *other, *reg = NULL;
            if (y->base >= x->base + x->layout->size || !(reg = meets(x, y, &other)))
                continue;
            wadi_error(
                b->src, &y->where,
                "block '%s' has its register %s where block '%s' has %s: each address belongs "
                "to one block; move one, or put both blocks' registers into one layout",
                y->name, reg->name, x->name, other->name);
        }
}

static void check_whole(wadi_build *b, const wad_where *chip)
{
    const wad_sheet *s = b->sheet;
    if (!s->bus_bits)
        wadi_error(b->src, chip, "the chip has no 'bus' statement: bus little 32");
    if (!s->core)
        wadi_error(b->src, chip, "the chip has no clock named 'core', which the CPU runs on");
    for (unsigned i = 0; i < s->n_clocks; i++)
        if (comes_back(s->clocks[i], s->clocks[i], 0))
            wadi_error(b->src, &s->clocks[i]->where, "clock '%s' depends on itself",
                       s->clocks[i]->name);
    for (unsigned i = 0; s->bus_bits && i < s->n_blocks; i++)
        if (s->blocks[i]->base % (s->bus_bits / 8) && !s->blocks[i]->home)
            wadi_error(b->src, &s->blocks[i]->where,
                       "block '%s' begins at 0x%llx, which is no multiple of the bus' %u bytes",
                       s->blocks[i]->name, (unsigned long long)s->blocks[i]->base, s->bus_bits / 8);
}

static void build_chip(wadi_build *b, const wadi_source *base, const wadi_stmt *stmt)
{
    wadi_cursor c = wadi_cursor_at(base, stmt);
    c.tok++;
    wad_where where = c.tok->where;
    b->sheet->name = wadi_need_name(&c, "the chip's name");
    const wadi_group *body = wadi_need_group(&c, "'{' and the chip's description");
    if (!body || !wadi_need_end(&c))
        return;
    b->sheet->cpu = (wad_cpu){.isa = "generic",
                              .access = 2,
                              .interrupt_entry = 12,
                              .interrupt_exit = 12,
                              .bus_fault = -1,
                              .int_bits = 32,
                              .draws = {{0, 1}, {0, 1}, {0, 1}}};
    b->sheet->supply = b->sheet->supply_min = b->sheet->supply_max = wadi_int(0);
    pass_simple(b, body);
    if (!b->sheet->cpu.interrupt_chain)
        b->sheet->cpu.interrupt_chain = b->sheet->cpu.interrupt_entry;
    if (!b->sheet->bus_bits) {
        check_whole(b, &where);
        return;
    }
    pass_changes(b, base, body);
    pass_errata_over(b, b->src);
    pass_named(b, body);
    if (wad_diags_errors(b->src->diags) != b->errors_before)
        return; /* what names a broken register would only repeat the message */
    pass_units(b, body);
    if (wad_diags_errors(b->src->diags) != b->errors_before)
        return;
    wadi_finish_blocks(b);
    wadi_finish_clocks(b);
    wadi_build_sleeps(b, body);
    pass_lines(b, body);
    pass_global(b);
    pass_identity(b, body);
    publish(b);
    check_whole(b, &where);
    check_blocks_apart(b);
    wadi_check_spaces(b);
    wadi_check_lines(b);
    wadi_check_nesting(b, &where);
    wadi_check_changes(b);
}

static void collect_layouts(wadi_build *b, const wadi_stmt *stmt)
{
    if (stmt->n < 3 || stmt->toks[1].type != WADI_T_NAME ||
        stmt->toks[stmt->n - 1].type != WADI_T_GROUP) {
        wadi_error(b->src, &stmt->toks[0].where, "a layout is written: layout NAME { registers }");
        return;
    }
    const char *name = stmt->toks[1].text;
    if (g_hash_table_contains(b->layouts, name))
        wadi_error(b->src, &stmt->toks[1].where, "layout '%s' stands twice", name);
    g_hash_table_insert(b->layouts, (gpointer)name, (gpointer)stmt);
}

static void build_all(wadi_build *b)
{
    const wadi_stmt *chip = NULL;
    const wadi_source *base = b->src;
    while (base->over)
        base = base->over;
    const wadi_group *top = base->top;
    for (unsigned i = 0; top->stmts && i < top->n; i++) {
        wadi_cursor c = wadi_cursor_at(base, &top->stmts[i]);
        if (wadi_at_word(&c, "layout"))
            collect_layouts(b, &top->stmts[i]);
        else if (!wadi_at_word(&c, "chip"))
            wadi_expected(&c, "'chip' or 'layout'");
        else if (chip)
            wadi_error(b->src, &c.tok->where, "a sheet describes one chip; this is the second");
        else
            chip = &top->stmts[i];
    }
    if (chip)
        build_chip(b, base, chip);
    else if (wad_diags_errors(b->src->diags) == b->errors_before)
        wadi_error(base, &(wad_where){base->name, 0, 0},
                   "no 'chip NAME { ... }' found: is this a sheet?");
}

/* ---- texts over texts ---- */

#define MOST_OVER 8

typedef struct texts {
    wadi_source src[MOST_OVER];
    char *owned[MOST_OVER]; /* of those read from files */
    unsigned n;
} texts;

/* The name behind `over`, NULL when the text stands alone. */
static const char *find_over(const wadi_source *src, wad_where *where)
{
    for (unsigned i = 0; src->top && src->top->stmts && i < src->top->n; i++) {
        wadi_cursor c = wadi_cursor_at(src, &src->top->stmts[i]);
        if (!wadi_take_word(&c, "over"))
            continue;
        *where = c.tok->where;
        const char *name = wadi_need_string(&c, "the corrected sheet's name in quotes");
        return wadi_need_end(&c) ? name : NULL;
    }
    return NULL;
}

/* Reads a text, then the one that it corrects; false: an error was told. */
static bool read_texts(texts *t, wadi_source first)
{
    t->src[t->n] = first;
    wadi_source *src = &t->src[t->n++];
    wad_where where;
    if (!wadi_tree_read(src))
        return false;
    const char *over = find_over(src, &where);
    if (!over)
        return true;
    char *path = t->n < MOST_OVER ? wad_locate(over, ".sheet", src->name) : NULL;
    if (!path) {
        wadi_error(src, &where,
                   t->n < MOST_OVER ? "there is no sheet '%s' to correct"
                                    : "'%s': sheets over sheets without end",
                   over);
        return false;
    }
    wadi_source base = {.name = wadi_arena_strndup(src->arena, path, strlen(path)),
                        .arena = src->arena,
                        .diags = src->diags};
    char *text = wadi_read_file(path, "sheet", &base.size, src->diags);
    g_free(path);
    if (!text)
        return false;
    base.text = t->owned[t->n] = text;
    src->over = &t->src[t->n];
    return read_texts(t, base);
}

/* One text's own hash is that of the file: `sha256sum` gives it. */
static void hash_texts(const texts *t, char *hash, size_t size)
{
    GChecksum *sum = g_checksum_new(G_CHECKSUM_SHA256);
    for (unsigned i = 0; i < t->n; i++)
        g_checksum_update(sum, (const guchar *)t->src[i].text, (gssize)t->src[i].size);
    g_strlcpy(hash, g_checksum_get_string(sum), size);
    g_checksum_free(sum);
}

wad_sheet *wad_sheet_parse(const char *text, size_t size, const char *name, wad_diags *diags)
{
    sheet_owner *owner = g_new0(sheet_owner, 1);
    unsigned before = wad_diags_errors(diags);
    owner->arena = wadi_arena_new();
    texts t = {.n = 0};
    wadi_source src = {.name = wadi_arena_strndup(owner->arena, name, strlen(name)),
                       .text = text,
                       .size = size,
                       .arena = owner->arena,
                       .diags = diags};
    wadi_build b = {.src = &t.src[0],
                    .errors_before = before,
                    .arena = owner->arena,
                    .sheet = &owner->sheet,
                    .layouts = g_hash_table_new(g_str_hash, g_str_equal),
                    .clocks = g_ptr_array_new(),
                    .blocks = g_ptr_array_new(),
                    .block_bodies = g_array_new(FALSE, FALSE, sizeof(wadi_block_body)),
                    .acts = g_array_new(FALSE, FALSE, sizeof(wadi_acts)),
                    .late = wadi_late_words(),
                    .windows = g_array_new(FALSE, FALSE, sizeof(wad_window)),
                    .spaces = g_ptr_array_new(),
                    .role_events = g_array_new(FALSE, FALSE, sizeof(wadi_role_event)),
                    .clock_stmts = g_ptr_array_new(),
                    .pins = g_array_new(FALSE, FALSE, sizeof(wad_pin_def)),
                    .changes = g_ptr_array_new(),
                    .errata = g_array_new(FALSE, FALSE, sizeof(wad_erratum)),
                    .claims = g_hash_table_new(g_str_hash, g_str_equal)};
    owner->sheet.file = src.name;
    if (read_texts(&t, src))
        build_all(&b);
    hash_texts(&t, owner->sheet.hash, sizeof owner->sheet.hash);
    for (unsigned i = 0; i < t.n; i++)
        g_free(t.owned[i]);
    g_ptr_array_free(b.changes, TRUE);
    g_array_free(b.errata, TRUE);
    g_hash_table_destroy(b.claims);
    g_hash_table_destroy(b.layouts);
    g_ptr_array_free(b.clocks, TRUE);
    g_ptr_array_free(b.blocks, TRUE);
    g_array_free(b.block_bodies, TRUE);
    g_array_free(b.acts, TRUE);
    g_array_free(b.late, TRUE);
    g_array_free(b.windows, TRUE);
    g_ptr_array_free(b.spaces, TRUE);
    g_array_free(b.role_events, TRUE);
    g_ptr_array_free(b.clock_stmts, TRUE);
    g_array_free(b.pins, TRUE);
    if (wad_diags_errors(diags) == before)
        return &owner->sheet;
    wad_sheet_free(&owner->sheet);
    return NULL;
}

wad_sheet *wad_sheet_read(const char *path, wad_diags *diags)
{
    size_t size;
    char *text = wadi_read_file(path, "sheet", &size, diags);
    if (!text)
        return NULL;
    wad_sheet *sheet = wad_sheet_parse(text, size, path, diags);
    g_free(text);
    return sheet;
}

void wad_sheet_free(wad_sheet *sheet)
{
    if (!sheet)
        return;
    sheet_owner *owner = (sheet_owner *)sheet;
    wadi_arena_free(owner->arena);
    g_free(owner);
}
