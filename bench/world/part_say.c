/* SPDX-License-Identifier: MIT */
/* Statements that any part has: `part`, its own acts, what happens to its wires, `keep`, `image`;
 * and the power, which all of them lose. */
#include "part_say.h"

#include <string.h>

#include "bench/language/probe.h"
#include "bench/language/value.h"
#include "jumper.h"
#include "lang/rational.h"
#include "serial_peer.h"
#include "sheet/read/number.h"
#include "spi_shell.h"

/* ---- classes ---- */

#define WADI_PART(name) extern const wad_part_class wadi_part_##name;
#include "list.h"
#undef WADI_PART

const wad_part_class *wadi_part_class_at(unsigned i)
{
    static const wad_part_class *const all[] = {
#define WADI_PART(name) &wadi_part_##name,
#include "list.h"
#undef WADI_PART
    };
    return i < G_N_ELEMENTS(all) ? all[i] : NULL;
}

const wad_part_class *wadi_part_class_of(const char *kind)
{
    const wad_part_class *cls;
    for (unsigned i = 0; (cls = wadi_part_class_at(i)); i++)
        if (!strcmp(cls->kind, kind))
            return cls;
    return NULL;
}

/* ---- which part ---- */

bool wadi_part_on_board(wadi_part_said *said, const wad_part_def *part)
{
    wadi_wire_def wires[WAD_PART_WIRES];
    unsigned n = wadi_part_wires(said->cls, wires);
    bool all = part != NULL;
    for (unsigned i = 0; i < n && part; i++) {
        said->pins[i] = wadi_part_wire(part, wires[i].name);
        all = all && (said->pins[i] || wires[i].optional);
    }
    return all;
}

wadi_part_said *wadi_part_keep(wad_bench *b, const wadi_part_said *said)
{
    wadi_part_said *own = wadi_arena_alloc(b->arena, sizeof *own);
    *own = *said;
    own->number = 0;
    for (guint i = 0; i < b->parts->len; i++)
        own->number += ((const wadi_part_said *)b->parts->pdata[i])->shell == said->shell;
    g_ptr_array_add(b->parts, own);
    return own;
}

static const char *how_to_have(const wadi_shell *shell)
{
    return shell == &wadi_serial_shell ? "no such serial line yet: uart NAME at 115200"
           : shell == &wadi_spi_shell  ? "no such device yet: spi NAME"
                                       : "no such part yet: part NAME in \"FILE.c\"";
}

wadi_part_said *wadi_need_part(wad_bench *b, wadi_cursor *c, const wadi_shell *shell,
                               unsigned *number)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, shell == &wadi_serial_shell ? "a serial line"
                                         : shell == &wadi_spi_shell  ? "a device"
                                                                     : "a part");
    int i = name ? wadi_bench_part(b, name) : -1;
    wadi_part_said *said = i < 0 ? NULL : b->parts->pdata[i];
    if (name && (!said || (shell && said->shell != shell))) {
        wadi_fail(c, &where, how_to_have(shell));
        return NULL;
    }
    *number = (unsigned)i;
    return said;
}

/* ---- `part WELL in "well.c"`, `part WELL as well` ---- */

static void need_wires(wadi_cursor *c, const wad_where *where, const wadi_part_said *said)
{
    wadi_wire_def wires[WAD_PART_WIRES];
    unsigned n = wadi_part_wires(said->cls, wires);
    for (unsigned i = 0; i < n && !c->failed; i++)
        if (!said->pins[i] && !wires[i].optional) {
            wadi_error(c->src, where, "the board's part '%s' has no wire %s to a pin of the chip",
                       said->name, wires[i].name);
            c->failed = true;
        }
}

/* `in "FILE.c"`, `as KIND`, or the board's own kind. */
static const wad_part_class *parse_class(wad_bench *b, wadi_cursor *c, const wad_part_def *part)
{
    wad_where where = c->tok->where;
    const char *kind = part->kind;
    if (wadi_take_word(c, "in"))
        return wadi_part_from_file(b, c);
    if (wadi_take_word(c, "as"))
        kind = wadi_need_name(c, "a kind of part");
    const wad_part_class *cls = kind ? wadi_part_class_of(kind) : NULL;
    if (kind && !cls) {
        wadi_error(c->src, &where, "a part '%s' is in no list: part %s in \"FILE.c\"", kind,
                   part->name);
        c->failed = true;
    }
    return cls;
}

static void parse_part(wad_bench *b, wadi_cursor *c, const char *word)
{
    wadi_part_said said = {0};
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a part of the board");
    const wad_part_def *part = name && b->board ? wad_board_part(b->board, name) : NULL;
    (void)word;
    if (name && !part)
        wadi_fail(c, &where, "the board has no part of that name");
    else if (name && wadi_bench_part(b, name) >= 0)
        wadi_fail(c, &where, "that part is there already");
    if (!part || c->failed)
        return;
    wad_where file = c->tok->where;
    said.name = wadi_arena_strndup(b->arena, name, strlen(name));
    said.cls = parse_class(b, c, part);
    if (!said.cls || !wadi_need_end(c))
        return;
    if (said.cls->spi)
        wadi_fail(c, &file, "that is a device on an SPI bus: spi NAME");
    else if (said.cls->serial)
        wadi_fail(c, &file, "that is the other end of a serial line: uart NAME at 9600");
    wadi_part_on_board(&said, part);
    need_wires(c, &where, &said);
    if (!c->failed)
        wadi_part_keep(b, &said);
}

const wadi_statement_class wadi_say_part = {.words = "part", .of = "a part's", .parse = parse_part};

/* ---- acts of a class: `temperature THERMO -1.5 at 2 s` ---- */

typedef struct act_said {
    unsigned part, number; /* of the act */
    wad_part_value value;
    uint64_t at_ps;
} act_said;

static const wad_part_act *find_act(const wad_part_class *cls, const char *word, unsigned *number)
{
    for (unsigned i = 0; cls->acts && cls->acts[i].word; i++)
        if (!strcmp(cls->acts[i].word, word)) {
            *number = i;
            return &cls->acts[i];
        }
    return NULL;
}

/* A class that has the act: Wadium's own, or of a part that the bench has. */
static const wad_part_class *class_with(const wad_bench *b, const char *word)
{
    const wad_part_class *cls;
    unsigned number;
    for (unsigned i = 0; (cls = wadi_part_class_at(i)); i++)
        if (find_act(cls, word, &number))
            return cls;
    for (guint i = 0; i < b->parts->len; i++) {
        cls = ((const wadi_part_said *)b->parts->pdata[i])->cls;
        if (find_act(cls, word, &number))
            return cls;
    }
    return NULL;
}

static void wrong_number(wadi_cursor *c, const wad_where *where, const wad_part_act *act)
{
    char *text = g_strdup_printf("'%s' takes a number from %g to %g%s", act->word, act->least,
                                 act->most, act->unit ? ", with its unit" : "");
    wadi_fail(c, where, act->wrong ? act->wrong : text);
    g_free(text);
}

static void parse_value(wad_bench *b, wadi_cursor *c, const wad_part_act *act, wad_part_value *v)
{
    wad_rational number;
    wad_unit unit;
    if (act->takes == WAD_ACT_TEXT) {
        const char *text = wadi_need_string(c, "the text in quotes");
        v->bytes = text ? strlen(text) : 0;
        v->text = text ? wadi_arena_strndup(b->arena, text, v->bytes) : "";
    } else if (act->takes == WAD_ACT_NUMBER) {
        wad_where where = c->tok->where;
        bool below = wadi_take_punct(c, "-");
        if (!wadi_take_amount(c, &number, &unit))
            return;
        v->number = wadi_rat_double(number) * (below ? -1 : 1);
        if (unit != act->unit || v->number < act->least || v->number > act->most)
            wrong_number(c, &where, act);
    }
}

/* Whose act it is and with what value; false: a message was given. */
static bool parse_act(wad_bench *b, wadi_cursor *c, const char *word, act_said *a)
{
    const wad_part_class *cls = class_with(b, word);
    const wadi_shell *shell = cls && cls->spi ? &wadi_spi_shell : NULL;
    wad_where where = c->tok->where;
    const wadi_part_said *said = wadi_need_part(b, c, shell, &a->part);
    const wad_part_act *act = said ? find_act(said->cls, word, &a->number) : NULL;
    if (!said)
        return false;
    if (!act) {
        wadi_error(c->src, &where, "'%s' does not take '%s'", said->name, word);
        c->failed = true;
        return false;
    }
    parse_value(b, c, act, &a->value);
    return !c->failed;
}

static bool takes_act(const wad_bench *b, const char *word)
{
    return class_with(b, word) != NULL;
}

static void say_act(wad_bench *b, wadi_cursor *c, const char *word)
{
    act_said a = {0};
    if (!parse_act(b, c, word, &a))
        return;
    if (wadi_take_word(c, "at"))
        wadi_parse_ps(c, &a.at_ps);
    if (wadi_need_end(c))
        wadi_bench_keep(b, &wadi_say_act, &a);
}

typedef struct act_now {
    wad_part *part;
    const act_said *said;
} act_now;

static void do_act(wad_sim *sim, void *ctx)
{
    const act_now *a = ctx;
    const wad_part_class *cls = a->part->said->cls;
    (void)sim;
    if (cls->act)
        cls->act(a->part, a->said->number, &a->said->value);
}

static bool begin_act(const wadi_setting *s, const void *what, char **why)
{
    const act_said *said = what;
    const act_now a = {wadi_part_at(s->parts, said->part), said};
    (void)why;
    wadi_plan(s, said->at_ps, do_act, &a, sizeof a);
    return true;
}

/* While a run is looked at: once its time goes on. */
typedef struct act_by_hand {
    wad_event event;
    act_said said;
    act_now now;
} act_by_hand;

static void on_hand(wad_event *e)
{
    act_by_hand *h = (act_by_hand *)((char *)e - offsetof(act_by_hand, event));
    do_act(NULL, &h->now);
}

bool wadi_part_act_now(wad_bench *b, wadi_cursor *c, const wadi_parts *parts)
{
    const char *word = c->tok->type == WADI_T_NAME ? c->tok->text : "";
    act_said a = {0};
    if (!takes_act(b, word))
        return false;
    c->tok++;
    if (!parse_act(b, c, word, &a) || !wadi_need_end(c))
        return true;
    act_by_hand *h = wadi_arena_alloc(b->arena, sizeof *h); /* as long as its event */
    *h = (act_by_hand){.said = a, .now = {wadi_part_at(parts, a.part), &h->said}};
    h->event.fn = on_hand;
    wad_sim_schedule(h->now.part->sim, &h->event, wad_sim_now(h->now.part->sim));
    return true;
}

const wadi_statement_class wadi_say_act = {.takes = takes_act,
                                           .parse = say_act,
                                           .said_size = sizeof(act_said),
                                           .phase = WADI_WITH_PARTS,
                                           .begin = begin_act};

/* ---- what happens to wires: `cut LINK RX at 1 s for 1 s`, `stick THERMO MISO low` ---- */

typedef struct trouble {
    unsigned part, wires;
    wadi_trouble_kind kind;
    bool level; /* that it is stuck at */
    uint64_t at_ps, for_ps;
} trouble;

/* Wires that a trouble means which names none. */
static unsigned all_wires(const wadi_part_said *said, unsigned *n)
{
    wadi_wire_def wires[WAD_PART_WIRES];
    unsigned all = 0;
    *n = wadi_part_wires(said->cls, wires);
    for (unsigned i = 0; i < *n; i++)
        all |= (unsigned)!wires[i].optional << i;
    all = said->shell && said->shell->cuts ? said->shell->cuts : all;
    for (*n = 0; all >> *n; ++*n)
        ;
    *n = (unsigned)__builtin_popcount(all);
    return all;
}

static void need_wire(wadi_cursor *c, const wad_where *where, const wadi_part_said *said)
{
    wadi_wire_def wires[WAD_PART_WIRES];
    GString *names = g_string_new("name the wire: ");
    unsigned n = wadi_part_wires(said->cls, wires);
    for (unsigned i = 0; i < n; i++)
        g_string_append_printf(names, "%s%s", i ? ", " : "", wires[i].name);
    bool told = said->shell && said->shell->name_wires && n == 4;
    wadi_fail(c, where, told ? said->shell->name_wires : names->str);
    g_string_free(names, TRUE);
}

static unsigned parse_wires(wadi_cursor *c, const wadi_part_said *said, wadi_trouble_kind kind)
{
    wadi_wire_def wires[WAD_PART_WIRES];
    unsigned n = wadi_part_wires(said->cls, wires), named = 0, several;
    wad_where where = c->tok->where;
    for (bool more = true; more;) {
        more = false;
        for (unsigned i = 0; i < n && !more; i++)
            if (wadi_take_word(c, wires[i].name)) {
                named |= 1u << i;
                more = true;
            }
    }
    unsigned all = all_wires(said, &several);
    if (!named && kind != WADI_TROUBLE_CUT && several > 1)
        need_wire(c, &where, said);
    return named ? named : all;
}

static bool names_part(const wad_bench *b, const wadi_cursor *c)
{
    return c->tok->type == WADI_T_NAME && wadi_bench_part(b, c->tok->text) >= 0;
}

static void say_trouble(wad_bench *b, wadi_cursor *c, const char *word)
{
    trouble t = {.kind = !strcmp(word, "cut")     ? WADI_TROUBLE_CUT
                         : !strcmp(word, "stick") ? WADI_TROUBLE_STUCK
                                                  : WADI_TROUBLE_GLITCH};
    const wadi_part_said *said = names_part(b, c)
                                     ? wadi_need_part(b, c, NULL, &t.part)
                                     : wadi_need_part(b, c, &wadi_serial_shell, &t.part);
    if (!said)
        return;
    t.wires = parse_wires(c, said, t.kind);
    if (t.kind == WADI_TROUBLE_STUCK && wadi_take_word(c, "high"))
        t.level = true;
    else if (t.kind == WADI_TROUBLE_STUCK)
        wadi_need_word(c, "low");
    wadi_parse_span(c, &t.at_ps, &t.for_ps, t.kind == WADI_TROUBLE_GLITCH);
    if (wadi_need_end(c))
        wadi_bench_keep(b, &wadi_say_trouble, &t);
}

typedef struct trouble_now {
    wad_part *part;
    const trouble *said;
    bool on;
} trouble_now;

static void do_trouble(wad_sim *sim, void *ctx)
{
    const trouble_now *t = ctx;
    for (unsigned i = 0; i < t->part->n_wires; i++)
        if (t->said->wires >> i & 1)
            wadi_wire_trouble(&t->part->wires[i].wire, t->said->kind, t->said->level, t->on,
                              wad_sim_now(sim));
}

static void plan_trouble(const wadi_setting *s, const trouble *said, bool on)
{
    const trouble_now t = {wadi_part_at(s->parts, said->part), said, on};
    wadi_plan(s, said->at_ps + (on ? 0 : said->for_ps), do_trouble, &t, sizeof t);
}

static bool begin_trouble(const wadi_setting *s, const void *said, char **why)
{
    const trouble *t = said;
    (void)why;
    plan_trouble(s, t, true);
    if (t->for_ps)
        plan_trouble(s, t, false);
    return true;
}

const wadi_statement_class wadi_say_trouble = {.words = "cut stick glitch",
                                               .of = "a part's",
                                               .fits = names_part,
                                               .parse = say_trouble,
                                               .said_size = sizeof(trouble),
                                               .phase = WADI_WITH_PARTS,
                                               .begin = begin_trouble};

/* ---- `image STORE in "tides.bin"`, `keep STORE in "out.bin"` ---- */

static void say_file(wad_bench *b, wadi_cursor *c, const char *word)
{
    unsigned number;
    bool image = !strcmp(word, "image");
    const wadi_shell *shell = image ? &wadi_spi_shell : &wadi_serial_shell;
    wadi_part_said *said = wadi_need_part(b, c, names_part(b, c) ? NULL : shell, &number);
    wad_where where = c->tok->where;
    wadi_need_word(c, "in");
    const char *file = wadi_need_string(c, "a file's name in quotes");
    if (!wadi_need_end(c) || !said || !file)
        return;
    if (!said->cls->keep && (image || !said->shell || !said->shell->keeps)) {
        wadi_fail(c, &where, "that device has no memory");
    } else if (image) {
        char *path = wadi_bench_path(b, file);
        said->image = wadi_arena_strndup(b->arena, path, strlen(path));
        g_free(path);
    } else {
        said->keep = wadi_arena_strndup(b->arena, file, strlen(file));
    }
}

const wadi_statement_class wadi_say_file = {
    .words = "keep image", .of = "a part's", .parse = say_file};

/* ---- `power fails at 1.5 s` ---- */

static void say_power(wad_bench *b, wadi_cursor *c, const char *word)
{
    uint64_t ps = 0;
    (void)word;
    wadi_need_word(c, "fails");
    wadi_need_word(c, "at");
    if (wadi_parse_ps(c, &ps) && wadi_need_end(c))
        wadi_bench_keep(b, &wadi_say_power, &ps);
}

static void do_power(wad_sim *sim, void *ctx)
{
    wadi_parts_power_fails(ctx);
    wad_sim_power_cycle(sim);
}

static bool begin_power(const wadi_setting *s, const void *said, char **why)
{
    (void)why;
    wad_sim_at(s->sim, *(const uint64_t *)said, do_power, s->parts);
    return true;
}

const wadi_statement_class wadi_say_power = {.words = "power",
                                             .parse = say_power,
                                             .said_size = sizeof(uint64_t),
                                             .phase = WADI_WITH_PARTS,
                                             .begin = begin_power};
