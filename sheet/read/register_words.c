/* SPDX-License-Identifier: MIT */
#include "register_words.h"

#include "behaviour.h"
#include "layout.h"

void wadi_parse_reg_attrs(layout_build *lb, wadi_cursor *c, wad_register *reg)
{
    int64_t value;
    while (!wadi_at_end(c) && c->tok->type != WADI_T_GROUP) {
        wad_where where = c->tok->where;
        if (c->tok->type == WADI_T_STRING) {
            wadi_take_text(c, &reg->text);
        } else if (wadi_take_word(c, "reset")) {
            if (!wadi_parse_int(lb->b, c, lb->env, "the reset value", 0, INT64_MAX, &value))
                return;
            reg->reset = (uint64_t)value;
        } else if (wadi_take_word(c, "ref")) {
            reg->ref = wadi_need_string(c, "a reference in quotes");
        } else if (wadi_take_word(c, "volatile")) {
            reg->is_volatile = true;
        } else if (wadi_take_word(c, "bytes")) {
            reg->bytes = true;
        } else if (wadi_take_word(c, "bits")) {
            reg->bits = true;
            reg->bits_at_said = wadi_take_word(c, "at");
            if (reg->bits_at_said &&
                !wadi_parse_int(lb->b, c, lb->env, "the address of the first bit", 0, 0xFFFF,
                                &value))
                return;
            reg->bits_at = reg->bits_at_said ? (uint32_t)value : 0;
        } else if (wadi_take_word(c, "locked")) {
            waiting w = {.at = *c, .locked = reg};
            g_array_append_val(lb->waiting, w);
            wadi_need_name(c, "the lock's name");
        } else if (wadi_take_word(c, "width")) {
            if (!wadi_parse_int(lb->b, c, lb->env, "the width in bits", 8, 32, &value))
                return;
            reg->width = (uint8_t)value;
            if (value != 8 && value != 16 && value != 32)
                wadi_error(c->src, &where, "a register is 8, 16 or 32 bits wide");
        } else if (!wadi_take_common(lb, c, reg, NULL)) {
            wadi_expected(c, "'reset', 'width', 'ref', 'volatile', 'locked', 'bits', 'bytes', "
                             "'when', 'reads', 'held', 'after', a description or '{'");
        }
    }
    if (reg->width < 64 && reg->reset >> reg->width)
        wadi_error(c->src, &reg->where, "reset value 0x%llx does not fit %u bits",
                   (unsigned long long)reg->reset, reg->width);
}
