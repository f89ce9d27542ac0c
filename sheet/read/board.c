/* SPDX-License-Identifier: MIT */
/* Boards: a chip and what is wired to it. */
#include "wadium/host/board.h"
#include "lang/suggest.h"

#include <string.h>

#include "build.h"
#include "number.h"
#include "path.h"

typedef struct board_owner {
    wad_board board;
    wadi_arena *arena;
    wad_sheet *sheet;
} board_owner;

typedef struct reader {
    const wadi_source *src;
    board_owner *owner;
    GArray *parts, *claims, *models;
    unsigned errors_before;
    const char *chip; /* in the place of the one it names, or NULL */
} reader;

/* ---- parts ---- */

static bool parse_net(reader *r, wadi_cursor *c, wad_wire *wire)
{
    wad_where where = c->tok->where;
    bool quoted = c->tok->type == WADI_T_STRING;
    wire->net = quoted ? wadi_need_string(c, "a net") : wadi_need_name(c, "a pin of the chip");
    if (!wire->net)
        return false;
    wire->pin = quoted ? NULL : wad_sheet_pin(r->owner->board.sheet, wire->net);
    if (!wire->pin && !quoted) {
        const wad_sheet *s = r->owner->board.sheet;
        GPtrArray *names = g_ptr_array_new();
        for (unsigned i = 0; i < s->n_pins; i++)
            g_ptr_array_add(names, (gpointer)s->pins[i].name);
        wadi_error(
            c->src, &where, "%s has no pin '%s'%s; write other nets in quotes", s->name, wire->net,
            wadi_suggest(c->src->arena, wire->net, (const char *const *)names->pdata, names->len));
        g_ptr_array_free(names, TRUE);
        c->failed = true;
    }
    return !c->failed;
}

static void parse_wires(reader *r, const wadi_group *group, GArray *wires)
{
    for (unsigned i = 0; i < group->n; i++) {
        wadi_cursor c = wadi_cursor_at(r->src, &group->stmts[i]);
        wad_wire wire = {0};
        if (c.tok->type == WADI_T_NUMBER && c.tok->number.den == 1) {
            wire.name = wadi_arena_printf(r->src->arena, "%lld", (long long)c.tok->number.num);
            c.tok++;
        } else {
            wire.name = wadi_need_name(&c, "the wire's name or number");
        }
        if (parse_net(r, &c, &wire) && wadi_need_end(&c))
            g_array_append_val(wires, wire);
    }
}

static void parse_part_attr(wadi_cursor *c, wad_part_def *part)
{
    if (wadi_take_word(c, "active")) {
        part->active_low = wadi_at_word(c, "low");
        if (!wadi_take_word(c, "low") && !wadi_take_word(c, "high"))
            wadi_expected(c, "'high' or 'low'");
    } else if (wadi_take_word(c, "pull")) {
        part->pull = wadi_at_word(c, "up") ? 1 : -1;
        if (!wadi_take_word(c, "up") && !wadi_take_word(c, "down"))
            wadi_expected(c, "'up' or 'down'");
    } else if (wadi_take_word(c, "bounce")) {
        wadi_take_quantity(c, WAD_UNIT_S, &part->bounce_s);
    } else {
        wadi_expected(c, "'on PIN', '{', 'active', 'pull' or 'bounce'");
    }
}

static void parse_part(reader *r, wadi_cursor *c, const char *kind)
{
    wad_part_def part = {.kind = kind, .where = c->tok->where, .bounce_s = {0, 1}};
    GArray *wires = g_array_new(FALSE, FALSE, sizeof(wad_wire));
    part.name = wadi_need_name(c, "the part's name");
    if (!kind)
        part.kind = wadi_need_name(c, "what it is: lamp, button, ...");
    if (!c->failed && c->tok->type == WADI_T_STRING)
        part.text = (c->tok++)->text;
    while (!wadi_at_end(c)) {
        const wadi_group *group = wadi_take_group(c);
        wad_wire wire = {.name = ""};
        if (group)
            parse_wires(r, group, wires);
        else if (!wadi_take_word(c, "on"))
            parse_part_attr(c, &part);
        else if (parse_net(r, c, &wire))
            g_array_append_val(wires, wire);
    }
    for (guint i = 0; part.name && i < r->parts->len; i++)
        if (!strcmp(g_array_index(r->parts, wad_part_def, i).name, part.name))
            wadi_error(c->src, &part.where, "part '%s' stands twice", part.name);
    part.n_wires = wires->len;
    part.wires = wadi_arena_copy(r->src->arena, wires->data, wires->len, sizeof(wad_wire));
    g_array_free(wires, TRUE);
    if (!c->failed)
        g_array_append_val(r->parts, part);
}

/* ---- the board ---- */

static void parse_chip(reader *r, wadi_cursor *c)
{
    wad_where where = c->tok->where;
    const char *name =
        c->tok->type == WADI_T_STRING ? wadi_need_string(c, "a chip") : wadi_need_name(c, "a chip");
    if (!name || !wadi_need_end(c))
        return;
    char *path = r->chip ? g_strdup(r->chip) : wad_locate(name, ".sheet", r->src->name);
    if (!path)
        wadi_error(r->src, &where,
                   "no sheet for chip '%s' beside this file, in WADIUM_PATH or in "
                   "Wadium's chips/",
                   name);
    else
        r->owner->sheet = wad_sheet_read(path, r->src->diags);
    r->owner->board.sheet = r->owner->sheet;
    g_free(path);
}

/* ---- channels of DMA controllers ---- */

static const wad_trigger *request_named(const wad_instance *mover, const char *name)
{
    const wad_role *role = wad_layout_role(mover->layout, "request");
    return role ? wad_selected_by_name(mover, role->field, name) : NULL;
}

static void parse_request(reader *r, wadi_cursor *c, wad_claim *claim)
{
    wadi_path path;
    if (!wadi_parse_path(c, NULL, &path))
        return;
    const char *name = wadi_path_text(r->src->arena, &path);
    claim->request = request_named(claim->mover, name);
    if (claim->request)
        return;
    wadi_error(r->src, &path.where, "'%s' does not ask %s: 'wadium show %s dma' lists who does",
               name, claim->mover->name, r->owner->board.sheet->name);
    c->failed = true;
}

/* `dma DMA0 channel 1 for UART0.rx_ready "command line"` */
static void parse_claim(reader *r, wadi_cursor *c)
{
    wad_claim claim = {.where = c->tok->where};
    const char *name = wadi_need_name(c, "a DMA controller");
    claim.mover = name ? wad_sheet_block(r->owner->board.sheet, name) : NULL;
    if (name && (!claim.mover || !wad_acts_as(claim.mover->layout, "dma"))) {
        wadi_error(r->src, &claim.where, "%s has no DMA controller '%s'",
                   r->owner->board.sheet->name, name);
        return;
    }
    if (!name || !wadi_need_word(c, "channel"))
        return;
    unsigned most = wad_role_count(wad_layout_role(claim.mover->layout, "enable"));
    wad_where where = c->tok->where;
    if (c->tok->type != WADI_T_NUMBER || c->tok->number.den != 1 || c->tok->number.num < 0 ||
        c->tok->number.num >= (int64_t)most) {
        wadi_error(r->src, &where, "%s has channels 0 to %u", name, most - 1);
        return;
    }
    claim.channel = (unsigned)c->tok->number.num;
    c->tok++;
    if (wadi_take_word(c, "for"))
        parse_request(r, c, &claim);
    claim.text = c->failed ? NULL : wadi_need_string(c, "what for, in quotes");
    if (claim.text && wadi_need_end(c))
        g_array_append_val(r->claims, claim);
}

/* `model "can.c" for CAN0 TIM.T0` */
static void parse_model(reader *r, wadi_cursor *c)
{
    wad_model_file m = {.where = c->tok->where};
    const wad_sheet *sheet = r->owner->board.sheet;
    const char *file = wadi_need_string(c, "a C file's name in quotes");
    if (!file || !wadi_need_word(c, "for"))
        return;
    char *folder = g_path_get_dirname(r->src->name);
    char *path = g_path_is_absolute(file) ? g_strdup(file) : g_build_filename(folder, file, NULL);
    m.file = wadi_arena_strndup(r->owner->arena, path, strlen(path));
    g_free(folder);
    g_free(path);
    do {
        wadi_path unit;
        if (!wadi_parse_path(c, NULL, &unit))
            return;
        m.unit = wad_sheet_block(sheet, wadi_path_text(r->owner->arena, &unit));
        if (!m.unit) {
            wadi_error(r->src, &unit.where, "%s has no block or unit '%s'", sheet->name,
                       wadi_path_text(r->owner->arena, &unit));
            return;
        }
        g_array_append_val(r->models, m);
    } while (!wadi_at_end(c));
}

static void parse_body(reader *r, const wadi_group *body)
{
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(r->src, &body->stmts[i]);
        if (wadi_take_word(&c, "chip"))
            parse_chip(r, &c);
    }
    if (!r->owner->sheet) {
        if (wad_diags_errors(r->src->diags) == r->errors_before)
            wadi_error(r->src, &body->where, "the board names no chip: chip NAME");
        return;
    }
    for (unsigned i = 0; i < body->n; i++) {
        wadi_cursor c = wadi_cursor_at(r->src, &body->stmts[i]);
        if (wadi_at_word(&c, "chip"))
            continue;
        if (wadi_take_word(&c, "summary"))
            r->owner->board.summary = wadi_need_string(&c, "the summary in quotes");
        else if (wadi_take_word(&c, "part"))
            parse_part(r, &c, NULL);
        else if (wadi_take_word(&c, "connector"))
            parse_part(r, &c, "connector");
        else if (wadi_take_word(&c, "dma"))
            parse_claim(r, &c);
        else if (wadi_take_word(&c, "model"))
            parse_model(r, &c);
        else
            wadi_expected(&c, "'summary', 'chip', 'part', 'connector', 'dma' or 'model'");
    }
}

static void parse_top(reader *r)
{
    const wadi_group *top = r->src->top;
    if (top->n != 1) {
        wadi_error(r->src, &(wad_where){r->src->name, 0, 0},
                   "a board file holds one 'board NAME { ... }'");
        return;
    }
    wadi_cursor c = wadi_cursor_at(r->src, &top->stmts[0]);
    wadi_need_word(&c, "board");
    r->owner->board.name = wadi_need_name(&c, "the board's name");
    const wadi_group *body = wadi_need_group(&c, "'{' and the board's parts");
    if (body && wadi_need_end(&c))
        parse_body(r, body);
}

static wad_board *parse_on(const char *text, size_t size, const char *name, const char *chip,
                           wad_diags *diags)
{
    board_owner *owner = g_new0(board_owner, 1);
    unsigned before = wad_diags_errors(diags);
    owner->arena = wadi_arena_new();
    wadi_source src = {.name = wadi_arena_strndup(owner->arena, name, strlen(name)),
                       .text = text,
                       .size = size,
                       .arena = owner->arena,
                       .diags = diags};
    reader r = {&src,
                owner,
                g_array_new(FALSE, FALSE, sizeof(wad_part_def)),
                g_array_new(FALSE, FALSE, sizeof(wad_claim)),
                g_array_new(FALSE, FALSE, sizeof(wad_model_file)),
                before,
                chip};
    owner->board.file = src.name;
    if (wadi_tree_read(&src))
        parse_top(&r);
    owner->board.n_parts = r.parts->len;
    owner->board.parts =
        wadi_arena_copy(owner->arena, r.parts->data, r.parts->len, sizeof(wad_part_def));
    g_array_free(r.parts, TRUE);
    owner->board.n_claims = r.claims->len;
    owner->board.claims =
        wadi_arena_copy(owner->arena, r.claims->data, r.claims->len, sizeof(wad_claim));
    g_array_free(r.claims, TRUE);
    owner->board.n_models = r.models->len;
    owner->board.models =
        wadi_arena_copy(owner->arena, r.models->data, r.models->len, sizeof(wad_model_file));
    g_array_free(r.models, TRUE);
    if (wad_diags_errors(diags) == before)
        return &owner->board;
    wad_board_free(&owner->board);
    return NULL;
}

wad_board *wad_board_parse(const char *text, size_t size, const char *name, wad_diags *diags)
{
    return parse_on(text, size, name, NULL, diags);
}

wad_board *wad_board_read_on(const char *path, const char *sheet, wad_diags *diags)
{
    size_t size;
    char *text = wadi_read_file(path, "board", &size, diags);
    if (!text)
        return NULL;
    wad_board *board = parse_on(text, size, path, sheet, diags);
    g_free(text);
    return board;
}

wad_board *wad_board_read(const char *path, wad_diags *diags)
{
    return wad_board_read_on(path, NULL, diags);
}

void wad_board_free(wad_board *board)
{
    if (!board)
        return;
    board_owner *owner = (board_owner *)board;
    wad_sheet_free(owner->sheet);
    wadi_arena_free(owner->arena);
    g_free(owner);
}

const wad_part_def *wad_board_part(const wad_board *board, const char *name)
{
    for (unsigned i = 0; i < board->n_parts; i++)
        if (!strcmp(board->parts[i].name, name))
            return &board->parts[i];
    return NULL;
}
