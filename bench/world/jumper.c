/* SPDX-License-Identifier: MIT */
#include "jumper.h"

#include <string.h>

#include "bench/language/probe.h"
#include "bench/language/value.h"
#include "part_say.h"

enum { FROM, TO };

static void edge(wad_part *p, unsigned wire, uint64_t ps, wad_level level)
{
    (void)wire;
    (void)ps;
    wad_part_drive(p, TO, level);
}

/* What happens to it happens at its far end. */
const wad_part_class wadi_part_jumper = {.kind = "jumper", .wires = "?FROM >TO", .edge = edge};

/* `jumper J1 from PB15 to PB14` */
static void parse(wad_bench *b, wadi_cursor *c, const char *word)
{
    wadi_part_said said = {.cls = &wadi_part_jumper};
    wad_where where = c->tok->where;
    const char *name = wadi_need_name(c, "a name for the jumper");
    (void)word;
    wadi_need_word(c, "from");
    said.pins[FROM] = wadi_parse_pin(b, c);
    wadi_need_word(c, "to");
    said.pins[TO] = wadi_parse_pin(b, c);
    if (name && wadi_bench_part(b, name) >= 0)
        wadi_fail(c, &where, "something has that name already");
    if (!wadi_need_end(c) || !name)
        return;
    said.name = wadi_arena_strndup(b->arena, name, strlen(name));
    wadi_part_keep(b, &said);
}

const wadi_statement_class wadi_say_jumper = {.words = "jumper", .of = "a bus's", .parse = parse};
