/* SPDX-License-Identifier: MIT */
/* The bench language's words for exchange buses: spi, temperature, image, jumper, power, and what
 * happens to their wires. */
#include "spi_say.h"

#include <string.h>

#include "bench/language/bench.h"
#include "bench/language/probe.h"
#include "bench/language/said.h"
#include "bench/language/value.h"
#include "lang/cursor.h"
#include "lang/rational.h"
#include "sheet/read/number.h"
#include "spi_bus.h"
#include "volt_say.h"

void wadi_buses_init(wad_bench *b)
{
    b->devices = g_array_new(FALSE, FALSE, sizeof(wadi_spi_def));
    b->values = g_array_new(FALSE, FALSE, sizeof(wadi_spi_value));
    b->jumpers = g_array_new(FALSE, FALSE, sizeof(wadi_jumper_def));
    b->spi_troubles = g_array_new(FALSE, FALSE, sizeof(wadi_spi_trouble));
    b->power_failures = g_array_new(FALSE, FALSE, sizeof(uint64_t));
}

void wadi_buses_clear(wad_bench *b)
{
    g_array_free(b->devices, TRUE);
    g_array_free(b->values, TRUE);
    g_array_free(b->jumpers, TRUE);
    g_array_free(b->spi_troubles, TRUE);
    g_array_free(b->power_failures, TRUE);
}

static int jumper_of(const wad_bench *b, const char *name)
{
    for (guint i = 0; i < b->jumpers->len; i++)
        if (!strcmp(g_array_index(b->jumpers, wadi_jumper_def, i).name, name))
            return (int)i;
    return -1;
}

static void fail(wadi_cursor *c, const wad_where *where, const char *message)
{
    if (!c->failed)
        wadi_error(c->src, where, "%s", message);
    c->failed = true;
}

/* ---- devices ---- */

static void parse_kind(wadi_cursor *c, wadi_spi_def *def, const wad_part_def *part)
{
    wad_where where = c->tok->where;
    const char *kind = part ? part->kind : "";
    if (wadi_take_word(c, "as")) {
        kind = wadi_need_name(c, "a kind of device");
        if (!kind)
            return;
    }
    def->cls = wadi_spi_class_of(kind);
    if (!def->cls)
        fail(c, &where, "a device is a thermometer, a flash or an echo register: spi NAME as echo");
    else
        def->bits = def->cls->bits ? def->cls->bits : 8;
}

/* `mode 3 bits 16 lsb first select high limit 4 MHz`, in any order; `chip`: as the chip is set */
static void parse_form(wadi_cursor *c, wadi_spi_def *def)
{
    int64_t n = 0;
    while (!wadi_at_end(c) && !c->failed) {
        wad_where where = c->tok->where;
        if (wadi_take_word(c, "chip"))
            def->as_chip = true;
        else if (wadi_take_word(c, "mode") && wadi_take_number(c, "the mode", 0, 3, &n))
            def->mode = (unsigned)n;
        else if (wadi_take_word(c, "bits") && wadi_take_number(c, "the bits of a frame", 4, 32, &n))
            def->bits = (unsigned)n;
        else if (wadi_take_word(c, "lsb"))
            def->lsb_first = wadi_need_word(c, "first");
        else if (wadi_take_word(c, "select"))
            def->select_high = wadi_need_word(c, "high");
        else if (wadi_take_word(c, "limit"))
            wadi_take_quantity(c, WAD_UNIT_HZ, &def->limit_hz);
        else if (!c->failed)
            wadi_expected(
                c, "'as KIND', 'chip', 'mode', 'bits', 'lsb first', 'select high' or 'limit'");
        if (!c->failed && def->cls && def->cls->bits &&
            (def->bits != def->cls->bits || def->as_chip))
            fail(c, &where, "this kind of device has one form, with frames of 8 bits");
    }
}

/* `spi THERMO mode 0 limit 4 MHz`, `spi ECHO as echo bits 16` */
static void say_spi(wad_bench *b, wadi_cursor *c)
{
    wadi_spi_def def = {.limit_hz = {0, 1}};
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a part of the board with wires CS, SCK, MISO and MOSI");
    const wad_part_def *part = name && b->board ? wad_board_part(b->board, name) : NULL;
    if (!name)
        return;
    def.name = wadi_arena_strndup(b->arena, name, strlen(name));
    def.select = part ? wadi_part_wire(part, "CS") : NULL;
    def.clock = part ? wadi_part_wire(part, "SCK") : NULL;
    def.miso = part ? wadi_part_wire(part, "MISO") : NULL;
    def.mosi = part ? wadi_part_wire(part, "MOSI") : NULL;
    if (!def.select || !def.clock || !def.miso || !def.mosi)
        fail(c, &where, "the board has no part of that name with wires CS, SCK, MISO and MOSI");
    else if (wadi_bench_device(b, name) >= 0)
        fail(c, &where, "that device is there already");
    if (c->failed)
        return;
    parse_kind(c, &def, part);
    parse_form(c, &def);
    if (wadi_need_end(c))
        g_array_append_val(b->devices, def);
}

static wadi_spi_def *need_device(wad_bench *b, wadi_cursor *c, unsigned *number)
{
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a device");
    int i = name ? wadi_bench_device(b, name) : -1;
    if (name && i < 0)
        fail(c, &where, "no such device yet: spi NAME");
    *number = (unsigned)i;
    return i < 0 ? NULL : &g_array_index(b->devices, wadi_spi_def, (guint)i);
}

/* `temperature THERMO -1.5 at 2 s`, `temperature chip 60` */
static void say_temperature(wad_bench *b, wadi_cursor *c)
{
    wadi_spi_value v = {0};
    wad_rational number;
    wad_unit unit;
    bool chip = wadi_take_word(c, "chip");
    const wadi_spi_def *def = chip ? NULL : need_device(b, c, &v.device);
    wad_where where = c->tok->where;
    bool below = wadi_take_punct(c, "-");
    if ((!def && !chip) || !wadi_take_amount(c, &number, &unit))
        return;
    v.value = wadi_rat_double(number) * (below ? -1 : 1);
    if (def && !def->cls->set)
        fail(c, &where, "that device measures nothing");
    else if (unit != WAD_UNIT_NONE || v.value < -128 || v.value > 127.99)
        fail(c, &where, "a temperature is a number of degrees, -128 to 127.99");
    if (wadi_take_word(c, "at"))
        wadi_parse_ps(c, &v.at_ps);
    if (!wadi_need_end(c))
        return;
    if (chip)
        wadi_volts_degrees(b, v.value, v.at_ps);
    else
        g_array_append_val(b->values, v);
}

/* `image STORE in "tides.bin"`: beside the bench. `keep STORE in "out.bin"` */
static void say_file(wad_bench *b, wadi_cursor *c, bool image)
{
    unsigned number;
    wadi_spi_def *def = need_device(b, c, &number);
    wad_where where = c->tok->where;
    wadi_need_word(c, "in");
    const char *file = wadi_need_string(c, "a file's name in quotes");
    if (!wadi_need_end(c) || !def || !file)
        return;
    if (!def->cls->keep) {
        fail(c, &where, "that device has no memory");
    } else if (image) {
        char *folder = b->file ? g_path_get_dirname(b->file) : g_strdup(".");
        char *path =
            g_path_is_absolute(file) ? g_strdup(file) : g_build_filename(folder, file, NULL);
        def->image = wadi_arena_strndup(b->arena, path, strlen(path));
        g_free(path);
        g_free(folder);
    } else {
        def->keep = wadi_arena_strndup(b->arena, file, strlen(file));
    }
}

/* ---- wires ---- */

/* `jumper J1 from PB15 to PB14` */
static void say_jumper(wad_bench *b, wadi_cursor *c)
{
    wadi_jumper_def def = {0};
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a name for the jumper");
    wadi_need_word(c, "from");
    def.from = wadi_parse_pin(b, c);
    wadi_need_word(c, "to");
    def.to = wadi_parse_pin(b, c);
    if (name && (jumper_of(b, name) >= 0 || wadi_bench_device(b, name) >= 0 ||
                 wadi_bench_peer(b, name) >= 0))
        fail(c, &where, "something has that name already");
    if (!wadi_need_end(c) || !name)
        return;
    def.name = wadi_arena_strndup(b->arena, name, strlen(name));
    g_array_append_val(b->jumpers, def);
}

static unsigned parse_wires(wadi_cursor *c)
{
    static const char *const names[] = {"MISO", "MOSI", "SCK", "CS"};
    unsigned wires = 0;
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++)
        if (wadi_take_word(c, names[i]))
            wires |= 1u << i;
    return wires;
}

/* `cut J1 at 1 s for 1 s`, `stick THERMO MISO low at 1 s`, `glitch STORE SCK at 1 s for 20 ns` */
static void say_trouble(wad_bench *b, wadi_cursor *c, wadi_trouble_kind kind, const char *name)
{
    wadi_spi_trouble t = {.kind = kind, .jumper = wadi_bench_device(b, name) < 0};
    c->tok++; /* the name, which was looked up */
    t.number = (unsigned)(t.jumper ? jumper_of(b, name) : wadi_bench_device(b, name));
    wad_where where = c->tok->where;
    t.wires = t.jumper ? 0 : parse_wires(c);
    if (!t.jumper && !t.wires && kind == WADI_TROUBLE_CUT)
        t.wires = WADI_SPI_MISO | WADI_SPI_MOSI | WADI_SPI_SCK | WADI_SPI_CS;
    else if (!t.jumper && !t.wires)
        fail(c, &where, "name the wire: MISO, MOSI, SCK or CS");
    if (kind == WADI_TROUBLE_STUCK && wadi_take_word(c, "high"))
        t.level = true;
    else if (kind == WADI_TROUBLE_STUCK)
        wadi_need_word(c, "low");
    wadi_parse_span(c, &t.at_ps, &t.for_ps, kind == WADI_TROUBLE_GLITCH);
    if (wadi_need_end(c))
        g_array_append_val(b->spi_troubles, t);
}

/* `power fails at 1.5 s` */
static void say_power(wad_bench *b, wadi_cursor *c)
{
    uint64_t ps = 0;
    wadi_need_word(c, "fails");
    wadi_need_word(c, "at");
    if (wadi_parse_ps(c, &ps) && wadi_need_end(c))
        g_array_append_val(b->power_failures, ps);
}

/* A trouble's name tells whose it is: a serial line's is not ours. */
static bool is_ours(const wad_bench *b, const wadi_cursor *c)
{
    const wadi_tok *t = &c->tok[1];
    return t->type == WADI_T_NAME &&
           (wadi_bench_device(b, t->text) >= 0 || jumper_of(b, t->text) >= 0);
}

bool wadi_say_bus(wad_bench *b, wadi_cursor *c)
{
    static const struct {
        const char *word;
        wadi_trouble_kind kind;
    } troubles[] = {
        {"cut", WADI_TROUBLE_CUT}, {"stick", WADI_TROUBLE_STUCK}, {"glitch", WADI_TROUBLE_GLITCH}};
    bool ours = is_ours(b, c);
    for (unsigned i = 0; ours && i < G_N_ELEMENTS(troubles); i++)
        if (wadi_take_word(c, troubles[i].word)) {
            say_trouble(b, c, troubles[i].kind, c->tok->text);
            return true;
        }
    if (ours && wadi_take_word(c, "keep"))
        say_file(b, c, false);
    else if (wadi_take_word(c, "image"))
        say_file(b, c, true);
    else if (wadi_take_word(c, "spi"))
        say_spi(b, c);
    else if (wadi_take_word(c, "temperature"))
        say_temperature(b, c);
    else if (wadi_take_word(c, "jumper"))
        say_jumper(b, c);
    else if (wadi_take_word(c, "power"))
        say_power(b, c);
    else
        return false;
    return true;
}
