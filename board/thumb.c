/* SPDX-License-Identifier: MIT */
#include "thumb.h"

enum { SP = THUMB_SP, LR = THUMB_LR, PC = THUMB_PC };

/* ---- memory ---- */

static uint32_t load(thumb *m, uint32_t a, unsigned bytes)
{
    uint32_t value = 0;
    m->cycles++;
    if (a & (bytes - 1) || !m->load(m->ctx, a, bytes, &value))
        m->faulted = true;
    return value;
}

static void store(thumb *m, uint32_t a, unsigned bytes, uint32_t value)
{
    m->cycles++;
    if (bytes < 4)
        value &= (1u << bytes * 8) - 1;
    if (a & (bytes - 1) || !m->store(m->ctx, a, bytes, value))
        m->faulted = true;
}

/* ---- flags and arithmetic ---- */

static uint32_t nz(thumb *m, uint32_t x)
{
    m->n = x >> 31;
    m->z = x == 0;
    return x;
}

static uint32_t add(thumb *m, uint32_t a, uint32_t b, bool carry)
{
    uint64_t sum = (uint64_t)a + b + carry;
    uint32_t x = (uint32_t)sum;
    m->c = sum >> 32;
    m->v = (~(a ^ b) & (a ^ x)) >> 31;
    return nz(m, x);
}

static uint32_t shift(thumb *m, unsigned kind, uint32_t x, uint32_t by)
{
    if (by) {
        bool out = kind == 0 ? by <= 32 && x >> (32 - by) & 1 : by <= 32 && x >> (by - 1) & 1;
        m->c = out;
        if (kind == 2)
            x = (uint32_t)((int32_t)x >> (by > 31 ? 31 : by));
        else
            x = by > 31 ? 0 : kind ? x >> by : x << by;
    }
    return nz(m, x);
}

static uint32_t rotate(thumb *m, uint32_t x, uint32_t by)
{
    unsigned k = by & 31;
    if (by) {
        x = k ? x >> k | x << (32 - k) : x;
        m->c = x >> 31;
    }
    return nz(m, x);
}

static bool holds(const thumb *m, unsigned cond)
{
    bool t[] = {m->z, m->c, m->n, m->v, m->c && !m->z, m->n == m->v, !m->z && m->n == m->v};
    return t[cond / 2] != (cond & 1);
}

/* ---- instructions ---- */

static void data(thumb *m, unsigned op, unsigned d, unsigned s)
{
    uint32_t a = m->r[d], b = m->r[s];
    switch (op) {
    case 0:
        m->r[d] = nz(m, a & b);
        break;
    case 1:
        m->r[d] = nz(m, a ^ b);
        break;
    case 2:
        m->r[d] = shift(m, 0, a, b & 0xFF);
        break;
    case 3:
        m->r[d] = shift(m, 1, a, b & 0xFF);
        break;
    case 4:
        m->r[d] = shift(m, 2, a, b & 0xFF);
        break;
    case 5:
        m->r[d] = add(m, a, b, m->c);
        break;
    case 6:
        m->r[d] = add(m, a, ~b, m->c);
        break;
    case 7:
        m->r[d] = rotate(m, a, b & 0xFF);
        break;
    case 8:
        nz(m, a & b);
        break;
    case 9:
        m->r[d] = add(m, 0, ~b, true);
        break;
    case 10:
        add(m, a, ~b, true);
        break;
    case 11:
        add(m, a, b, false);
        break;
    case 12:
        m->r[d] = nz(m, a | b);
        break;
    case 13:
        m->r[d] = nz(m, a * b);
        break;
    case 14:
        m->r[d] = nz(m, a & ~b);
        break;
    default:
        m->r[d] = nz(m, ~b);
    }
}

static void jump(thumb *m, uint32_t to)
{
    m->r[PC] = to & ~1u;
    m->cycles++;
}

static void special(thumb *m, unsigned i)
{
    unsigned d = (i & 7) | (i >> 4 & 8), s = i >> 3 & 15, op = i >> 8 & 3;
    uint32_t b = s == PC ? m->r[PC] + 2 : m->r[s];
    if (op == 3) {
        if (i & 0x80)
            m->r[LR] = m->r[PC] | 1;
        jump(m, b);
    } else if (op == 1) {
        add(m, m->r[d], ~b, true);
    } else {
        uint32_t x = op == 0 ? m->r[d] + b : b;
        if (d == PC)
            jump(m, x);
        else
            m->r[d] = x;
    }
}

static void push_pop(thumb *m, unsigned i, bool pop)
{
    unsigned list = i & 0xFF;
    if (!pop) {
        m->r[SP] -= 4u * (unsigned)__builtin_popcount(i & 0x1FF);
        uint32_t at = m->r[SP];
        for (unsigned k = 0; k < 8; k++)
            if (list >> k & 1) {
                store(m, at, 4, m->r[k]);
                at += 4;
            }
        if (i & 0x100)
            store(m, at, 4, m->r[LR]);
        return;
    }
    for (unsigned k = 0; k < 8; k++)
        if (list >> k & 1) {
            m->r[k] = load(m, m->r[SP], 4);
            m->r[SP] += 4;
        }
    if (i & 0x100) {
        jump(m, load(m, m->r[SP], 4));
        m->r[SP] += 4;
    }
}

static void multiple(thumb *m, unsigned i)
{
    unsigned base = i >> 8 & 7;
    bool loads = i >> 11 & 1;
    for (unsigned k = 0; k < 8; k++)
        if (i >> k & 1) {
            if (loads)
                m->r[k] = load(m, m->r[base], 4);
            else
                store(m, m->r[base], 4, m->r[k]);
            m->r[base] += 4;
        }
}

static uint32_t reversed(uint32_t x, unsigned op)
{
    uint32_t halves = (x >> 8 & 0x00FF00FFu) | (x & 0x00FF00FFu) << 8;
    switch (op) {
    case 0:
        return halves >> 16 | halves << 16;
    case 1:
        return halves;
    default:
        return (uint32_t)(int16_t)halves;
    }
}

static uint32_t extended(uint32_t x, unsigned op)
{
    switch (op) {
    case 0:
        return (uint32_t)(int16_t)x;
    case 1:
        return (uint32_t)(int8_t)x;
    case 2:
        return x & 0xFFFF;
    default:
        return x & 0xFF;
    }
}

static thumb_event misc(thumb *m, unsigned i)
{
    unsigned d = i & 7, s = i >> 3 & 7, op = i >> 6 & 3;
    if (i >> 8 == 0xB0)
        m->r[SP] += (i & 0x80 ? -1u : 1u) * (i & 0x7F) * 4;
    else if (i >> 8 == 0xB2)
        m->r[d] = extended(m->r[s], op);
    else if (i >> 8 == 0xBA && op != 2)
        m->r[d] = reversed(m->r[s], op);
    else if ((i & 0xFE00) == 0xB400 || (i & 0xFE00) == 0xBC00)
        push_pop(m, i, i & 0x800);
    else if ((i & 0xFFEF) == 0xB662) /* cpsie, cpsid */
        m->masked = i & 0x10;
    else if (i == 0xBF30 || i == 0xBF20) /* wfi, wfe */
        return THUMB_WAIT;
    else if (i >> 8 == 0xBE) {
        m->r[PC] -= 2;
        return THUMB_BREAK;
    } else if (i >> 8 != 0xBF) /* hints */
        return THUMB_UNKNOWN;
    return THUMB_DONE;
}

static void reg_offset(thumb *m, unsigned i)
{
    static const unsigned bytes[] = {4, 2, 1, 1, 4, 2, 1, 2};
    unsigned op = i >> 9 & 7, d = i & 7;
    uint32_t a = m->r[i >> 3 & 7] + m->r[i >> 6 & 7];
    if (op < 3) {
        store(m, a, bytes[op], m->r[d]);
        return;
    }
    uint32_t x = load(m, a, bytes[op]);
    m->r[d] = op == 3 ? (uint32_t)(int8_t)x : op == 7 ? (uint32_t)(int16_t)x : x;
}

static void imm_offset(thumb *m, unsigned i, unsigned bytes)
{
    unsigned d = i & 7;
    uint32_t a = m->r[i >> 3 & 7] + (i >> 6 & 31) * bytes;
    if (i & 0x800)
        m->r[d] = load(m, a, bytes);
    else
        store(m, a, bytes, m->r[d]);
}

static void immediate(thumb *m, unsigned i)
{
    unsigned d = i >> 8 & 7, x = i & 0xFF;
    switch (i >> 11 & 3) {
    case 0:
        m->r[d] = nz(m, x);
        break;
    case 1:
        add(m, m->r[d], ~x, true);
        break;
    case 2:
        m->r[d] = add(m, m->r[d], x, false);
        break;
    default:
        m->r[d] = add(m, m->r[d], ~x, true);
    }
}

static void three(thumb *m, unsigned i)
{
    uint32_t a = m->r[i >> 3 & 7], b = i & 0x400 ? i >> 6 & 7 : m->r[i >> 6 & 7];
    m->r[i & 7] = i & 0x200 ? add(m, a, ~b, true) : add(m, a, b, false);
}

/* ---- of 32 bits ---- */

static uint32_t special_value(const thumb *m, unsigned which)
{
    switch (which) {
    case 8: /* main stack pointer */
        return m->r[SP];
    case 16:
        return m->masked;
    default: /* flags and exception, in several views */
        return which < 8 ? thumb_status(m) : 0;
    }
}

static void set_special(thumb *m, unsigned which, uint32_t value)
{
    if (which == 8)
        m->r[SP] = value & ~3u;
    else if (which == 16)
        m->masked = value & 1;
    else if (which < 4) {
        unsigned exception = m->exception;
        thumb_set_status(m, value);
        m->exception = exception;
    }
}

static bool call(thumb *m, unsigned i)
{
    unsigned j = load(m, m->r[PC], 2);
    m->r[PC] += 2;
    if ((i & 0xF800) == 0xF000 && (j & 0xD000) == 0xD000) {
        uint32_t s = i >> 10 & 1, i1 = !((j >> 13 & 1) ^ s), i2 = !((j >> 11 & 1) ^ s);
        uint32_t offset =
            (s ? 0xFF000000u : 0) | i1 << 23 | i2 << 22 | (i & 0x3FF) << 12 | (j & 0x7FF) << 1;
        m->r[LR] = m->r[PC] | 1;
        jump(m, m->r[PC] + offset);
    } else if (i == 0xF3EF)
        m->r[j >> 8 & 15] = special_value(m, j & 0xFF);
    else if ((i & 0xFFF0) == 0xF380)
        set_special(m, j & 0xFF, m->r[i & 15]);
    else if (i != 0xF3BF) /* barriers */
        return false;
    return true;
}

/* ---- one instruction ---- */

static thumb_event execute(thumb *m, unsigned i)
{
    uint32_t pc = (m->r[PC] + 4) & ~3u, next = m->r[PC] + 4;
    m->r[PC] += 2;
    unsigned d = i >> 8 & 7, x = i & 0xFF;
    switch (i >> 12) {
    case 0:
        m->r[i & 7] = shift(m, i >> 11 & 1, m->r[i >> 3 & 7],
                            (i >> 6 & 31) ? i >> 6 & 31 : (i >> 11 & 1) * 32);
        break;
    case 1:
        if (i & 0x800)
            three(m, i);
        else
            m->r[i & 7] = shift(m, 2, m->r[i >> 3 & 7], (i >> 6 & 31) ? i >> 6 & 31 : 32);
        break;
    case 2:
    case 3:
        immediate(m, i);
        break;
    case 4:
        if (i & 0x800)
            m->r[d] = load(m, pc + x * 4, 4);
        else if (i & 0x400)
            special(m, i);
        else
            data(m, i >> 6 & 15, i & 7, i >> 3 & 7);
        break;
    case 5:
        reg_offset(m, i);
        break;
    case 6:
        imm_offset(m, i, 4);
        break;
    case 7:
        imm_offset(m, i, 1);
        break;
    case 8:
        imm_offset(m, i, 2);
        break;
    case 9:
        if (i & 0x800)
            m->r[d] = load(m, m->r[SP] + x * 4, 4);
        else
            store(m, m->r[SP] + x * 4, 4, m->r[d]);
        break;
    case 10:
        m->r[d] = (i & 0x800 ? m->r[SP] : pc) + x * 4;
        break;
    case 11:
        return misc(m, i);
    case 12:
        multiple(m, i);
        break;
    case 13:
        if ((i >> 8 & 15) > 13)
            return i & 0x100 ? THUMB_SERVICE : THUMB_UNKNOWN;
        if (holds(m, i >> 8 & 15))
            jump(m, next + (uint32_t)((int8_t)x * 2));
        break;
    case 14:
        if (i & 0x800)
            return THUMB_UNKNOWN;
        jump(m, next + (uint32_t)((int32_t)((i & 0x7FF) << 21) >> 20));
        break;
    default:
        if (!call(m, i))
            return THUMB_UNKNOWN;
    }
    return THUMB_DONE;
}

thumb_event thumb_step(thumb *m)
{
    uint32_t at = m->r[PC];
    m->faulted = false;
    unsigned i = load(m, at, 2);
    m->cycles = 1;
    if (m->faulted)
        return THUMB_FAULT;
    thumb_event event = execute(m, i);
    if (m->faulted || event == THUMB_UNKNOWN) {
        m->r[PC] = at;
        return m->faulted ? THUMB_FAULT : event;
    }
    return m->r[PC] >= (THUMB_RETURN_FROM & ~1u) ? THUMB_RETURN : event;
}

uint32_t thumb_status(const thumb *m)
{
    return (uint32_t)m->n << 31 | (uint32_t)m->z << 30 | (uint32_t)m->c << 29 |
           (uint32_t)m->v << 28 | 1u << 24 | m->exception;
}

void thumb_set_status(thumb *m, uint32_t status)
{
    m->n = status >> 31;
    m->z = status >> 30 & 1;
    m->c = status >> 29 & 1;
    m->v = status >> 28 & 1;
    m->exception = status & 0x3F;
}
