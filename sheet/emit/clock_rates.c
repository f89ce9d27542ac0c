/* SPDX-License-Identifier: MIT */
/* Clocks as functions in C, by their laws. */
#include <string.h>

#include "emit.h"
#include "lang/rational.h"
#include "roles.h"
#include "sheet/chip/c_name.h"
#include "sheet/chip/expression.h"
#include "sheet/chip/value.h"

static void emit_expr(wadi_emitter *e, const wad_expr *x);

static void emit_field_read(wadi_emitter *e, const wad_fieldref *ref)
{
    char *reg = wadi_emit_lower(ref->reg->name);
    char *field = wadi_emit_lower(ref->field ? ref->field->name : "value");
    bool element = (ref->field && ref->field->count) || ref->reg->count;
    fprintf(e->out, "wad_get(%s_%s_BASE, %s%s_%s_%s_%s", e->upper, ref->block->name,
            element ? "wad_at(" : "", e->lower, ref->block->layout->name, reg, field);
    if (element)
        fprintf(e->out, ", %u)", ref->field && ref->field->count ? ref->index : ref->reg_index);
    fprintf(e->out, ")");
    g_free(reg);
    g_free(field);
}

/* A field in a law: its value, or what the sheet says a value `is`. */
static void emit_field_value(wadi_emitter *e, const wad_fieldref *ref)
{
    unsigned n = ref->field ? ref->field->n_enums : 0;
    fprintf(e->out, "(");
    for (unsigned i = 0; i < n; i++) {
        const wad_enumerator *en = &ref->field->enums[i];
        if (!en->has_meaning)
            continue;
        emit_field_read(e, ref);
        fprintf(e->out, " == %lluu ? %lldu : ", (unsigned long long)en->code,
                (long long)en->meaning.num);
    }
    emit_field_read(e, ref);
    fprintf(e->out, ")");
}

static void emit_pick(wadi_emitter *e, const wad_expr *x)
{
    fprintf(e->out, "(");
    for (unsigned i = 0; i + 1 < x->n_picks; i++) {
        emit_field_read(e, &x->field);
        fprintf(e->out, " == %lluu ? ", (unsigned long long)x->picks[i].code);
        emit_expr(e, x->picks[i].value);
        fprintf(e->out, "\n            : ");
    }
    emit_expr(e, x->picks[x->n_picks - 1].value);
    fprintf(e->out, ")");
}

static bool is_two(const wad_expr *x)
{
    return x->op == WADI_OP_NUM && x->num.num == 2 && x->num.den == 1;
}

/* `before`, a, `between`, b, `after` */
static void emit_pair(wadi_emitter *e, const wad_expr *x, const char *before, const char *between,
                      const char *after)
{
    fprintf(e->out, "%s", before);
    emit_expr(e, x->a);
    fprintf(e->out, "%s", between);
    emit_expr(e, x->b);
    fprintf(e->out, "%s", after);
}

static void emit_binary(wadi_emitter *e, const wad_expr *x)
{
    static const char *const marks[] = {
        [WADI_OP_ADD] = " + ", [WADI_OP_SUB] = " - ", [WADI_OP_MUL] = " * ", [WADI_OP_DIV] = " / "};
    if (x->op == WADI_OP_POW && is_two(x->a)) {
        fprintf(e->out, "((uint32_t)1 << ");
        emit_expr(e, x->b);
        fprintf(e->out, ")");
    } else if (x->op == WADI_OP_POW) {
        emit_pair(e, x, "wad_power(", ", ", ")");
    } else if (x->op == WADI_OP_MIN) {
        emit_pair(e, x, "wad_smaller(", ", ", ")");
    } else if (x->op == WADI_OP_MAX) {
        emit_pair(e, x, "wad_larger(", ", ", ")");
    } else {
        emit_pair(e, x, "(", marks[x->op], ")");
    }
}

static void emit_expr(wadi_emitter *e, const wad_expr *x)
{
    switch (x->op) {
    case WADI_OP_NUM:
        fprintf(e->out, "UINT32_C(%lld)", (long long)(x->num.num / x->num.den));
        break;
    case WADI_OP_CLOCK:
        fprintf(e->out, "%s_%s_hz()", e->lower, x->clock->name);
        break;
    case WADI_OP_FIELD:
        emit_field_value(e, &x->field);
        break;
    case WADI_OP_NEG: /* unsigned arithmetic wraps: -a + b comes out right */
        fprintf(e->out, "(0u - ");
        emit_expr(e, x->a);
        fprintf(e->out, ")");
        break;
    case WADI_OP_PICK:
        emit_pick(e, x);
        break;
    case WADI_OP_FLOOR:
        emit_expr(e, x->a);
        break;
    default:
        emit_binary(e, x);
    }
}

void wadi_emit_need(wadi_emitter *e, const wad_fieldref *ref, uint64_t value)
{
    bool wait = ref->field && (ref->field->access == WAD_ACCESS_RO);
    fprintf(e->out,
            "{.address = WAD_ADDRESS(0x%08llXu), .mask = 0x%llXu, .value = 0x%llXu, "
            ".size = %u, .wait = %u}",
            (unsigned long long)wad_fieldref_address(ref),
            (unsigned long long)wad_fieldref_mask(ref), (unsigned long long)(value << ref->lsb),
            wad_register_bytes(ref->reg), wait);
}

/* Clocks first used stand first: a law only names functions that exist. */
static void emit_clock(wadi_emitter *e, const wad_clock *clock, bool *done);

static void emit_clocks_of(wadi_emitter *e, const wad_expr *x, bool *done)
{
    if (!x)
        return;
    if (x->op == WADI_OP_CLOCK && x->clock)
        emit_clock(e, x->clock, done);
    for (unsigned i = 0; i < x->n_picks; i++)
        emit_clocks_of(e, x->picks[i].value, done);
    emit_clocks_of(e, x->a, done);
    emit_clocks_of(e, x->b, done);
}

static void emit_clock(wadi_emitter *e, const wad_clock *clock, bool *done)
{
    if (done[clock->index])
        return;
    done[clock->index] = true;
    emit_clocks_of(e, clock->law, done);
    fprintf(e->out, "\nstatic inline uint32_t %s_%s_hz(void)\n{\n    return ", e->lower,
            clock->name);
    if (clock->law)
        emit_expr(e, clock->law);
    else
        fprintf(e->out, "%lldu", (long long)(clock->hz.num / clock->hz.den));
    fprintf(e->out, ";\n}\n\nstatic const wad_clock_source %s_clock_%s = {\n    .hz = %s_%s_hz,\n",
            e->lower, clock->name, e->lower, clock->name);
    if (clock->on.n) {
        fprintf(e->out, "    .on = ");
        wadi_emit_need(e, &clock->on.terms[0].ref, clock->on.terms[0].value);
        fprintf(e->out, ",\n");
    }
    if (clock->ready.reg) {
        fprintf(e->out, "    .ready = ");
        wadi_emit_need(e, &clock->ready, 1);
        fprintf(e->out, ",\n");
    }
    if (clock->watched.n) {
        fprintf(e->out, "    .watch = ");
        wadi_emit_need(e, &clock->watched.terms[0].ref, clock->watched.terms[0].value);
        fprintf(e->out, ",\n");
    }
    fprintf(e->out, "};\n");
}

void wadi_emit_clock_rates(wadi_emitter *e)
{
    bool *done = g_new0(bool, e->sheet->n_clocks + 1);
    fprintf(e->out, "\n/* ---- clocks ---- */\n");
    for (unsigned i = 0; i < e->sheet->n_clocks; i++)
        emit_clock(e, e->sheet->clocks[i], done);
    g_free(done);
}
