/* SPDX-License-Identifier: MIT */
#include "addresses.h"

#include "emit.h"
#include "sheet/chip/c_name.h"

typedef struct emitter {
    const wad_sheet *sheet;
    FILE *out;
    char *upper, *lower; /* the chip's name */
} emitter;

static emitter emitter_of(const wad_sheet *sheet, FILE *out)
{
    return (emitter){sheet, out, wadi_emit_upper(sheet->name), wadi_emit_lower(sheet->name)};
}

static void done(const emitter *e)
{
    g_free(e->upper);
    g_free(e->lower);
}

/* ---- windows of bits ---- */

/* Which of the chip's windows of bits shows a register: by its address. */
static void emit_bit_place(const emitter *e, const wad_window *w)
{
    fprintf(e->out,
            "WAD_ADDRESS(0x%08llXu) + \\\n"
            "        (((uintptr_t)(register) - WAD_ADDRESS(0x%08llXu)) * 8u + (bit)) * %uu",
            (unsigned long long)w->at, (unsigned long long)w->of, w->step);
}

/* One bit of the word at an address: CHIP_BIT_AT(&CHIP_T0->CTRL, 3) = 1. */
static void emit_bit_windows(const emitter *e)
{
    const wad_window *last = NULL;
    for (unsigned i = 0; i < e->sheet->n_windows; i++) {
        const wad_window *w = &e->sheet->windows[i];
        if (!w->bits || w->by_register)
            continue;
        if (!last)
            fprintf(e->out,
                    "\n/* One bit of a register or of memory, at an address of its own. */\n"
                    "#define %s_BIT_AT(register, bit) \\\n    (*(volatile uint%u_t *)(",
                    e->upper, e->sheet->bus_bits);
        else {
            fprintf(e->out, "(uintptr_t)(register) - WAD_ADDRESS(0x%08llXu) < 0x%llXu ? ",
                    (unsigned long long)last->of, (unsigned long long)last->size);
            emit_bit_place(e, last);
            fprintf(e->out, " : \\\n        ");
        }
        last = w;
    }
    if (!last)
        return;
    emit_bit_place(e, last);
    fprintf(e->out, "))\n");
}

/* ---- bits with addresses of their own, spaces ---- */

static void emit_field_bits(const emitter *e, const wad_fieldref *reg)
{
    wad_fieldref ref = *reg;
    char *block = wadi_emit_name(ref.block->name);
    for (unsigned i = 0; i < ref.reg->n_fields; i++) {
        const wad_bitfield *f = ref.reg->fields[i];
        for (unsigned k = 0; f->name && f->width == 1 && k < (f->count ? f->per_reg : 1u); k++) {
            uint32_t bit;
            char *number =
                f->count ? g_strdup_printf("%u", k + ref.reg_index * f->per_reg) : g_strdup("");
            char *element = ref.reg->count ? g_strdup_printf("%u", ref.reg_index) : g_strdup("");
            ref.lsb = (uint8_t)(f->lsb + k * f->step);
            wad_fieldref_bit_address(&ref, &bit);
            if (!f->count || k + ref.reg_index * f->per_reg < f->count)
                fprintf(e->out, "#define %s_%s_%s%s_%s%s_BIT 0x%02Xu\n", e->upper, block,
                        ref.reg->name, f->count > f->per_reg ? "" : element, f->name, number, bit);
            g_free(number);
            g_free(element);
        }
    }
    g_free(block);
}

static void emit_bits(const emitter *e)
{
    if (!e->sheet->bit_space)
        return;
    fprintf(
        e->out,
        "\n/* ---- bits with addresses of their own: %s_BIT(%s_BLOCK_REGISTER_FIELD_BIT) = 1 ----\n"
        " * Each compiler has its own way to them: define %s_BIT(address) before this header.\n"
        " */\n\n#ifndef %s_BIT\n#ifdef __linux__\n"
        "#define %s_BIT(address) (*(volatile uint8_t *)WAD_ADDRESS(0x%08llXu + (address)))\n"
        "#endif\n#endif\n",
        e->upper, e->upper, e->upper, e->upper, e->upper, (unsigned long long)e->sheet->bit_space);
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        for (unsigned k = 0; !b->home && k < b->layout->n_regs; k++) {
            const wad_register *r = b->layout->regs[k];
            for (uint32_t n = 0; r->bits && n < (r->count ? r->count : 1); n++)
                emit_field_bits(
                    e,
                    &(wad_fieldref){.block = b, .reg = wad_register_element(r, n), .reg_index = n});
        }
    }
}

static void emit_spaces(const emitter *e)
{
    if (!e->sheet->n_spaces)
        return;
    fprintf(e->out, "/* ---- address spaces ---- */\n\n");
    for (unsigned i = 0; i < e->sheet->n_spaces; i++) {
        const wad_space *s = e->sheet->spaces[i];
        fprintf(e->out, "#define %s_SPACE_%s 0x%08llXu /* %s%swhere debuggers have it */\n",
                e->upper, s->name, (unsigned long long)s->at, wadi_comment_text(s->text),
                s->text ? "; " : "");
    }
    fprintf(
        e->out,
        "\n/* Each target's compiler has its own way to them: define %s_AT(space, address) before "
        "this\n * header, so that it is a number that pointers to registers there can be made "
        "of. */\n"
        "#ifndef %s_AT\n#ifdef __linux__\n"
        "#define %s_AT(space, address) WAD_ADDRESS(%s_SPACE_##space + (address))\n#else\n"
        "#error \"define %s_AT(space, address): how this compiler reaches the chip's address "
        "spaces\"\n#endif\n#endif\n\n",
        e->upper, e->upper, e->upper, e->upper, e->upper);
}

/* Every address passes through here: a host cannot map the lowest pages. */
static void emit_address_macro(const emitter *e)
{
    uint32_t bias = wad_sheet_address_bias(e->sheet);
    fprintf(e->out, "/* Every address passes through here. A target adds nothing%s */\n",
            bias ? "; a host, which cannot map the\n * lowest pages, adds a bias." : ".");
    if (bias)
        fprintf(e->out,
                "#ifdef WAD_HOST\n#define WAD_ADDRESS(address) ((uintptr_t)((address) + "
                "0x%08Xu))\n#else\n",
                bias);
    fprintf(e->out, "#define WAD_ADDRESS(address) ((uintptr_t)(address))\n%s\n",
            bias ? "#endif\n" : "");
}

/* ---- from outside ---- */

void wadi_emit_addresses(const wad_sheet *sheet, FILE *out)
{
    emitter e = emitter_of(sheet, out);
    emit_address_macro(&e);
    emit_spaces(&e);
    done(&e);
}

char *wadi_emit_address(const wad_sheet *sheet, const wad_instance *b, uint64_t beyond)
{
    if (!b->space)
        return g_strdup_printf("WAD_ADDRESS(0x%08llXu)", (unsigned long long)(b->base + beyond));
    char *upper = wadi_emit_upper(sheet->name);
    char *text = g_strdup_printf("%s_AT(%s, 0x%02llXu)", upper, b->space->name,
                                 (unsigned long long)(b->base + beyond - b->space->at));
    g_free(upper);
    return text;
}

/* CHIP_T0_SETS->CTRL = bits. */
void wadi_emit_windows(const wad_sheet *sheet, const wad_instance *b, FILE *out)
{
    emitter e = emitter_of(sheet, out);
    char *name = wadi_emit_name(b->name);
    for (unsigned i = 0; i < sheet->n_windows; i++) {
        const wad_window *w = &sheet->windows[i];
        for (unsigned k = 0; k < w->n_blocks; k++) {
            if (w->blocks[k] != b)
                continue;
            char *verb = wadi_emit_upper(wad_alias_word(w->verb));
            char *address = wadi_emit_address(sheet, b, w->at);
            fprintf(out, "#define %s_%s_%s ((%s_%s_regs *)%s)\n", e.upper, name,
                    w->verb == WAD_ALIAS_IS ? "AGAIN" : verb, e.lower, b->layout->name, address);
            g_free(address);
            g_free(verb);
        }
    }
    g_free(name);
    done(&e);
}

void wadi_emit_bits(const wad_sheet *sheet, FILE *out)
{
    emitter e = emitter_of(sheet, out);
    emit_bit_windows(&e);
    emit_bits(&e);
    done(&e);
}
