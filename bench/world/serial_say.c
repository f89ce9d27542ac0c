/* SPDX-License-Identifier: MIT */
/* The bench language's words for serial lines: uart, send, reply, keep, and what happens to wires.
 */
#include "serial_say.h"

#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/probe.h"
#include "bench/language/said.h"
#include "bench/language/value.h"
#include "lang/cursor.h"
#include "lang/rational.h"
#include "sheet/read/number.h"

/* The share by which its clock is off goes into the baud. */
static void parse_off(wadi_cursor *c, wadi_peer_def *def)
{
    bool slow = wadi_take_punct(c, "-");
    wad_where where = c->tok->where;
    wad_rational share, factor;
    if (!wadi_take_quantity(c, WAD_UNIT_PART, &share))
        return;
    share.num = slow ? -share.num : share.num;
    if (!wadi_rat_add(wadi_int(1), share, &factor) || factor.num <= 0 ||
        !wadi_rat_mul(def->format.baud, factor, &def->format.baud))
        wadi_fail(c, &where, "the peer's clock cannot be that far off");
}

/* `at 115200 format "7E1" off 0.5 %`, or `as chip` */
static bool parse_setting(wadi_cursor *c, wadi_peer_def *def)
{
    int64_t baud = 115200;
    if (wadi_take_word(c, "as")) {
        def->as_chip = true;
        def->format.baud = wadi_int(baud); /* until the chip has one */
        return wadi_need_word(c, "chip");
    }
    if (!wadi_need_word(c, "at") || !wadi_take_number(c, "the baud", 1, 100000000, &baud))
        return false;
    def->format.baud = wadi_int(baud);
    wad_where where = c->tok->where;
    if (wadi_take_word(c, "format")) {
        const char *format = wadi_need_string(c, "a format such as \"8N1\"");
        if (format && !wad_serial_parse(format, &def->format))
            wadi_fail(c, &where, "a format is data bits, parity and stop bits: \"8N1\", \"7E1.5\"");
    }
    if (wadi_take_word(c, "off"))
        parse_off(c, def);
    return !c->failed;
}

void wadi_peer_on_part(wadi_peer_def *def, const wad_part_def *part)
{
    def->name = part->name;
    def->hears = wadi_part_wire(part, "TX");
    def->drives = wadi_part_wire(part, "RX");
    def->rts = wadi_part_wire(part, "RTS");
    def->cts = wadi_part_wire(part, "CTS");
}

/* `uart LINK at 115200 format "7E1" off 0.5 %` */
static void say_uart(wad_bench *b, wadi_cursor *c)
{
    wadi_peer_def def = {.format = {.bits = 8, .parity = 'N', .stop_halves = 2}, .noise = {0, 1}};
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a serial line of the board, with wires TX and RX");
    const wad_part_def *part = name && b->board ? wad_board_part(b->board, name) : NULL;
    if (part)
        wadi_peer_on_part(&def, part);
    if (name && !def.hears && !def.drives)
        wadi_fail(c, &where, "the board has no part of that name with wires TX and RX");
    else if (name && wadi_bench_peer(b, name) >= 0)
        wadi_fail(c, &where, "that line has its other end already");
    if (!parse_setting(c, &def) || !wadi_need_end(c) || !name)
        return;
    def.name = wadi_arena_strndup(b->arena, name, strlen(name));
    g_array_append_val(b->peers, def);
}

/* The line that a word is about; NULL: a message was given. */
static wadi_peer_def *need_line(wad_bench *b, wadi_cursor *c, unsigned *number)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a serial line");
    int peer = name ? wadi_bench_peer(b, name) : -1;
    if (name && peer < 0)
        wadi_fail(c, &where, "no such serial line yet: uart NAME at 115200");
    *number = (unsigned)peer;
    return peer < 0 ? NULL : &g_array_index(b->peers, wadi_peer_def, (guint)peer);
}

/* `keep LINK in "heard.bin"` */
static void say_keep(wad_bench *b, wadi_cursor *c)
{
    unsigned number;
    wadi_peer_def *def = need_line(b, c, &number);
    wadi_need_word(c, "in");
    const char *file = wadi_need_string(c, "a file's name in quotes");
    if (wadi_need_end(c) && def && file)
        def->keep = wadi_arena_strndup(b->arena, file, strlen(file));
}

/* `noise LINK 0.1 %`: so many of the bits to the chip have a pulse in them. */
static void say_noise(wad_bench *b, wadi_cursor *c)
{
    unsigned number;
    wad_rational share;
    wadi_peer_def *def = need_line(b, c, &number);
    wad_where where = c->tok->where;
    if (!def || !wadi_take_quantity(c, WAD_UNIT_PART, &share) || !wadi_need_end(c))
        return;
    if (share.num < 0 || share.num > share.den)
        wadi_fail(c, &where, "noise hits 0 % to 100 % of the bits");
    def->noise = share;
}

/* `swap LINK`, `loop LINK` */
static void say_wiring(wad_bench *b, wadi_cursor *c, bool loop)
{
    unsigned number;
    wadi_peer_def *def = need_line(b, c, &number);
    if (!def || !wadi_need_end(c))
        return;
    if (loop) {
        def->looped = true;
    } else {
        const wad_pin_def *hears = def->hears;
        def->hears = def->drives;
        def->drives = hears;
    }
}

/* `cut LINK [RX | TX] [at T] [for T]`, `stick LINK RX low ...`, `glitch LINK RX ...`,
 * `hold LINK ...` */
static void say_trouble(wad_bench *b, wadi_cursor *c, wadi_trouble_kind kind)
{
    wadi_trouble t = {.kind = kind, .rx = true, .tx = true};
    const wadi_peer_def *def = need_line(b, c, &t.peer);
    wad_where where = c->tok->where;
    bool rx = kind != WADI_TROUBLE_HOLD && wadi_take_word(c, "RX");
    bool tx = kind != WADI_TROUBLE_HOLD && !rx && wadi_take_word(c, "TX");
    if (rx || tx || kind == WADI_TROUBLE_HOLD) {
        t.rx = rx;
        t.tx = tx;
    } else if (kind != WADI_TROUBLE_CUT) {
        wadi_fail(c, &where, "name the wire: RX is to the chip, TX from it");
    }
    if (kind == WADI_TROUBLE_HOLD && def && !def->cts)
        wadi_fail(c, &where, "the board's part has no wire CTS");
    if (kind == WADI_TROUBLE_STUCK && wadi_take_word(c, "high"))
        t.level = true;
    else if (kind == WADI_TROUBLE_STUCK)
        wadi_need_word(c, "low");
    wadi_parse_span(c, &t.at_ps, &t.for_ps, kind == WADI_TROUBLE_GLITCH);
    if (wadi_need_end(c) && def)
        g_array_append_val(b->troubles, t);
}

#define MOST (16u << 20)

/* `send LINK file "in.bin" at 1 s`: what is in it now, beside the bench. */
static bool read_text(const wad_bench *b, wadi_cursor *c, wadi_peer_say *say)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_string(c, "a file's name in quotes");
    if (!name)
        return false;
    char *folder = b->file ? g_path_get_dirname(b->file) : g_strdup("."), *bytes = NULL;
    char *path = g_path_is_absolute(name) ? g_strdup(name) : g_build_filename(folder, name, NULL);
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
    g_free(folder);
    return say->text != NULL;
}

static void say_text(wad_bench *b, wadi_cursor *c, bool reply)
{
    wadi_peer_say say = {0};
    const wadi_peer_def *def = need_line(b, c, &say.peer);
    const char *text = NULL;
    if (def && !reply && wadi_take_word(c, "file")) {
        if (!read_text(b, c, &say))
            return;
    } else {
        text = wadi_need_string(c, "the text in quotes");
    }
    if (reply && wadi_need_word(c, "to")) {
        const char *to = wadi_need_string(c, "what it answers to, in quotes");
        say.to = to ? wadi_arena_strndup(b->arena, to, strlen(to)) : NULL;
    } else if (!reply && wadi_need_word(c, "at")) {
        wadi_parse_ps(c, &say.at_ps);
    }
    if (!wadi_need_end(c) || (!text && !say.text))
        return;
    if (text) {
        say.n = strlen(text);
        say.text = wadi_arena_strndup(b->arena, text, say.n);
    }
    g_array_append_val(b->says, say);
}

bool wadi_say_serial(wad_bench *b, wadi_cursor *c)
{
    static const struct {
        const char *word;
        wadi_trouble_kind kind;
    } troubles[] = {{"cut", WADI_TROUBLE_CUT},
                    {"stick", WADI_TROUBLE_STUCK},
                    {"glitch", WADI_TROUBLE_GLITCH},
                    {"hold", WADI_TROUBLE_HOLD}};
    for (unsigned i = 0; i < G_N_ELEMENTS(troubles); i++)
        if (wadi_take_word(c, troubles[i].word)) {
            say_trouble(b, c, troubles[i].kind);
            return true;
        }
    if (wadi_take_word(c, "uart"))
        say_uart(b, c);
    else if (wadi_take_word(c, "send"))
        say_text(b, c, false);
    else if (wadi_take_word(c, "reply"))
        say_text(b, c, true);
    else if (wadi_take_word(c, "keep"))
        say_keep(b, c);
    else if (wadi_take_word(c, "noise"))
        say_noise(b, c);
    else if (wadi_take_word(c, "loop"))
        say_wiring(b, c, true);
    else if (wadi_take_word(c, "swap"))
        say_wiring(b, c, false);
    else
        return false;
    return true;
}
