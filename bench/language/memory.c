/* SPDX-License-Identifier: MIT */
/* `memory NAME from T to T` */
#include <string.h>

#include "lang/cursor.h"
#include "statement.h"
#include "value.h"

/* `memory table from 1 ms to 5 ms` */
static void say_memory(wad_bench *b, wadi_cursor *c, const char *word)
{
    wadi_memory_def m = {.where = c->tok->where, .to_ps = UINT64_MAX};
    (void)word;
    const char *name = wadi_need_name(c, "a variable of the firmware");
    if (!name)
        return;
    m.name = wadi_arena_strndup(b->arena, name, strlen(name));
    if (wadi_take_word(c, "from"))
        wadi_parse_ps(c, &m.from_ps);
    if (wadi_take_word(c, "to"))
        wadi_parse_ps(c, &m.to_ps);
    if (!c->failed && m.to_ps <= m.from_ps) {
        wadi_error(c->src, &m.where, "it ends before it begins");
        c->failed = true;
    }
    if (wadi_need_end(c))
        g_array_append_val(b->memories, m);
}

const wadi_statement_class wadi_say_memory = {.words = "memory", .parse = say_memory};
