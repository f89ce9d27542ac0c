/* SPDX-License-Identifier: MIT */
/* Statements about serial lines: uart, send, reply, noise, loop, swap, hold. */
#include "serial_say.h"

#include <string.h>

#include "bench/language/probe.h"
#include "bench/language/value.h"
#include "lang/cursor.h"
#include "lang/rational.h"
#include "part_say.h"
#include "serial_peer.h"
#include "sheet/read/number.h"

/* The share by which its clock is off goes into the baud. */
static void parse_off(wadi_cursor *c, wadi_serial_form *form)
{
    bool slow = wadi_take_punct(c, "-");
    wad_where where = c->tok->where;
    wad_rational share, factor;
    if (!wadi_take_quantity(c, WAD_UNIT_PART, &share))
        return;
    share.num = slow ? -share.num : share.num;
    if (!wadi_rat_add(wadi_int(1), share, &factor) || factor.num <= 0 ||
        !wadi_rat_mul(form->format.baud, factor, &form->format.baud))
        wadi_fail(c, &where, "the peer's clock cannot be that far off");
}

/* `at 115200 format "7E1" off 0.5 %`, or `as chip` */
static bool parse_setting(wadi_cursor *c, wadi_serial_form *form)
{
    int64_t baud = 115200;
    if (wadi_take_word(c, "as")) {
        form->as_chip = true;
        form->format.baud = wadi_int(baud); /* until the chip has one */
        return wadi_need_word(c, "chip");
    }
    if (!wadi_need_word(c, "at") || !wadi_take_number(c, "the baud", 1, 100000000, &baud))
        return false;
    form->format.baud = wadi_int(baud);
    wad_where where = c->tok->where;
    if (wadi_take_word(c, "format")) {
        const char *format = wadi_need_string(c, "a format such as \"8N1\"");
        if (format && !wad_serial_parse(format, &form->format))
            wadi_fail(c, &where, "a format is data bits, parity and stop bits: \"8N1\", \"7E1.5\"");
    }
    if (wadi_take_word(c, "off"))
        parse_off(c, form);
    return !c->failed;
}

/* A peer that nothing was said of yet: as the chip is set. */
static wadi_serial_form *new_form(wad_bench *b)
{
    wadi_serial_form *form = wadi_arena_alloc(b->arena, sizeof *form);
    *form = (wadi_serial_form){.format = {{115200, 1}, 8, 'N', 2}, .noise = {0, 1}};
    return form;
}

bool wadi_serial_on_part(wadi_part_said *said, const wad_part_def *part)
{
    *said = (wadi_part_said){.cls = &wadi_part_peer, .shell = &wadi_serial_shell};
    wadi_part_on_board(said, part);
    said->name = part ? part->name : NULL;
    return said->pins[WADI_PEER_TX] || said->pins[WADI_PEER_RX];
}

int wadi_serial_add(wad_bench *b, const wad_part_def *part)
{
    wadi_part_said said;
    if (!wadi_serial_on_part(&said, part))
        return -1;
    wadi_serial_form *form = new_form(b);
    form->as_chip = true;
    said.form = form;
    wadi_part_keep(b, &said);
    return (int)b->parts->len - 1;
}

/* `in "modem.c"`: with a class of its own. */
static void parse_class(wad_bench *b, wadi_cursor *c, wadi_part_said *said,
                        const wad_part_def *part)
{
    wad_where where = c->tok->where;
    if (!wadi_take_word(c, "in"))
        return;
    const wad_part_class *cls = wadi_part_from_file(b, c);
    if (!cls)
        return;
    said->cls = cls;
    if (!cls->serial)
        wadi_fail(c, &where, "its class is no other end of a serial line: it has no 'serial'");
    else if (!wadi_part_on_board(said, part))
        wadi_fail(c, &where, "the board's part lacks a wire that the class names");
}

/* `uart LINK at 115200 format "7E1" off 0.5 % [in "modem.c"]` */
static void say_uart(wad_bench *b, wadi_cursor *c, const char *word)
{
    wadi_part_said said = {0};
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a serial line of the board, with wires TX and RX");
    const wad_part_def *part = name && b->board ? wad_board_part(b->board, name) : NULL;
    wadi_serial_form *form = new_form(b);
    (void)word;
    if (name && !wadi_serial_on_part(&said, part))
        wadi_fail(c, &where, "the board has no part of that name with wires TX and RX");
    else if (name && wadi_bench_part(b, name) >= 0)
        wadi_fail(c, &where, "that line has its other end already");
    if (!parse_setting(c, form) || !name)
        return;
    parse_class(b, c, &said, part);
    if (!wadi_need_end(c))
        return;
    said.name = wadi_arena_strndup(b->arena, name, strlen(name));
    said.form = form;
    wadi_part_keep(b, &said);
}

const wadi_statement_class wadi_say_uart = {
    .words = "uart", .of = "a serial line's", .parse = say_uart};

/* The line that a word is about; NULL: a message was given. */
static wadi_serial_form *need_line(wad_bench *b, wadi_cursor *c, unsigned *number)
{
    wadi_part_said *said = wadi_need_part(b, c, &wadi_serial_shell, number);
    return said ? said->form : NULL;
}

/* `noise LINK 0.1 %`: so many of the bits to the chip have a pulse in them. */
static void say_noise(wad_bench *b, wadi_cursor *c, const char *word)
{
    unsigned number;
    wad_rational share;
    wadi_serial_form *form = need_line(b, c, &number);
    wad_where where = c->tok->where;
    (void)word;
    if (!form || !wadi_take_quantity(c, WAD_UNIT_PART, &share) || !wadi_need_end(c))
        return;
    if (share.num < 0 || share.num > share.den)
        wadi_fail(c, &where, "noise hits 0 % to 100 % of the bits");
    form->noise = share;
}

const wadi_statement_class wadi_say_noise = {
    .words = "noise", .of = "a serial line's", .parse = say_noise};

/* `swap LINK`, `loop LINK` */
static void say_wiring(wad_bench *b, wadi_cursor *c, const char *word)
{
    unsigned number;
    wadi_part_said *said = wadi_need_part(b, c, &wadi_serial_shell, &number);
    if (!said || !wadi_need_end(c))
        return;
    if (!strcmp(word, "loop")) {
        ((wadi_serial_form *)said->form)->looped = true;
    } else {
        const wad_pin_def *hears = said->pins[WADI_PEER_TX];
        said->pins[WADI_PEER_TX] = said->pins[WADI_PEER_RX];
        said->pins[WADI_PEER_RX] = hears;
    }
}

const wadi_statement_class wadi_say_wiring = {
    .words = "loop swap", .of = "a serial line's", .parse = say_wiring};

/* ---- `hold LINK at 1 s for 1 s` ---- */

typedef struct hold {
    unsigned part;
    uint64_t at_ps, for_ps;
} hold;

static void say_hold(wad_bench *b, wadi_cursor *c, const char *word)
{
    hold h = {0};
    const wadi_part_said *said = wadi_need_part(b, c, &wadi_serial_shell, &h.part);
    wad_where where = c->tok->where;
    (void)word;
    if (said && !said->pins[WADI_PEER_CTS])
        wadi_fail(c, &where, "the board's part has no wire CTS");
    wadi_parse_span(c, &h.at_ps, &h.for_ps, false);
    if (wadi_need_end(c) && said)
        wadi_bench_keep(b, &wadi_say_hold, &h);
}

static void hold_on(wad_sim *sim, void *ctx)
{
    (void)sim;
    wadi_peer_hold(ctx, true);
}

static void hold_off(wad_sim *sim, void *ctx)
{
    (void)sim;
    wadi_peer_hold(ctx, false);
}

static bool begin_hold(const wadi_setting *s, const void *said, char **why)
{
    const hold *h = said;
    wad_part *p = wadi_part_at(s->parts, h->part);
    (void)why;
    wad_sim_at(s->sim, h->at_ps, hold_on, p);
    if (h->for_ps)
        wad_sim_at(s->sim, h->at_ps + h->for_ps, hold_off, p);
    return true;
}

const wadi_statement_class wadi_say_hold = {.words = "hold",
                                            .of = "a serial line's",
                                            .parse = say_hold,
                                            .said_size = sizeof(hold),
                                            .phase = WADI_WITH_PARTS,
                                            .begin = begin_hold};

/* ---- `send LINK "text" at 1 s`, `reply LINK "text" to "text"` ---- */

#define MOST (16u << 20)

typedef struct sending {
    unsigned part;
    const char *text;
    gsize n;
    uint64_t at_ps;
} sending;

/* `send LINK file "in.bin" at 1 s`: what is in it now, beside the bench. */
static bool read_text(wad_bench *b, wadi_cursor *c, sending *say)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_string(c, "a file's name in quotes");
    if (!name)
        return false;
    char *path = wadi_bench_path(b, name), *bytes = NULL;
    GError *error = NULL;
    gsize n = 0;
    if (!g_file_get_contents(path, &bytes, &n, &error)) {
        wadi_fail(c, &where, error->message);
        g_error_free(error);
    } else if (n > MOST) {
        wadi_fail(c, &where, "a file to send holds 16 MiB at the most");
    } else {
        char *kept = wadi_arena_alloc(b->arena, n + 1);
        memcpy(kept, bytes, n);
        say->text = kept;
        say->n = n;
    }
    g_free(bytes);
    g_free(path);
    return say->text != NULL;
}

static bool parse_text(wad_bench *b, wadi_cursor *c, sending *say)
{
    const char *text = wadi_need_string(c, "the text in quotes");
    if (!text)
        return false;
    say->n = strlen(text);
    say->text = wadi_arena_strndup(b->arena, text, say->n);
    return true;
}

static void say_send(wad_bench *b, wadi_cursor *c, const char *word)
{
    sending say = {0};
    (void)word;
    if (!need_line(b, c, &say.part) ||
        !(wadi_take_word(c, "file") ? read_text : parse_text)(b, c, &say))
        return;
    if (wadi_need_word(c, "at"))
        wadi_parse_ps(c, &say.at_ps);
    if (wadi_need_end(c))
        wadi_bench_keep(b, &wadi_say_send, &say);
}

typedef struct send_now {
    wad_part *part;
    const sending *said;
} send_now;

static void do_send(wad_sim *sim, void *ctx)
{
    const send_now *s = ctx;
    (void)sim;
    if (!wadi_peer_is_taken(s->part)) /* whoever sits there speaks for himself */
        wadi_peer_send(s->part, (const uint8_t *)s->said->text, s->said->n);
}

static bool begin_send(const wadi_setting *s, const void *what, char **why)
{
    const sending *said = what;
    const send_now now = {wadi_part_at(s->parts, said->part), said};
    (void)why;
    wadi_plan(s, said->at_ps, do_send, &now, sizeof now);
    return true;
}

const wadi_statement_class wadi_say_send = {.words = "send",
                                            .of = "a serial line's",
                                            .parse = say_send,
                                            .said_size = sizeof(sending),
                                            .phase = WADI_WITH_PARTS,
                                            .begin = begin_send};

static void say_reply(wad_bench *b, wadi_cursor *c, const char *word)
{
    sending say = {0};
    wadi_serial_form *form = need_line(b, c, &say.part);
    (void)word;
    if (!form || !parse_text(b, c, &say) || !wadi_need_word(c, "to"))
        return;
    const char *to = wadi_need_string(c, "what it answers to, in quotes");
    if (!wadi_need_end(c) || !to)
        return;
    wadi_reply *reply = wadi_arena_alloc(b->arena, sizeof *reply), **last = &form->replies;
    *reply = (wadi_reply){wadi_arena_strndup(b->arena, to, strlen(to)), say.text, say.n, NULL};
    while (*last)
        last = &(*last)->next;
    *last = reply;
}

const wadi_statement_class wadi_say_reply = {
    .words = "reply", .of = "a serial line's", .parse = say_reply};
