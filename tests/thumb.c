/* SPDX-License-Identifier: MIT */
#include "thumb.h"

#include <elf.h>
#include <glib.h>
#include <string.h>

#define RAM      0x20000000u
#define RAM_SIZE 0x8000u
#define CODE     0x10000u

typedef struct core {
    uint32_t r[16];
    bool n, z, c, v;
    uint8_t ram[RAM_SIZE], code[CODE];
    const thumb_bus *bus;
    bool stopped;
} core;

enum { SP = 13, LR = 14, PC = 15 };

/* ---- memory ---- */

static uint8_t *plain(core *m, uint32_t a, unsigned bytes)
{
    if (a - RAM <= RAM_SIZE - bytes)
        return m->ram + (a - RAM);
    return a <= CODE - bytes ? m->code + a : NULL;
}

static uint32_t load(core *m, uint32_t a, unsigned bytes)
{
    uint32_t value = 0;
    const uint8_t *p = plain(m, a, bytes);
    if (p)
        memcpy(&value, p, bytes);
    else if (!m->bus->load(m->bus->ctx, a, bytes, &value))
        m->stopped = true;
    return value;
}

static void store(core *m, uint32_t a, unsigned bytes, uint32_t value)
{
    uint8_t *p = plain(m, a, bytes);
    if (p)
        memcpy(p, &value, bytes);
    else if (!m->bus->store(m->bus->ctx, a, bytes,
                            bytes == 4 ? value : value & ((1u << bytes * 8) - 1)))
        m->stopped = true;
}

/* ---- flags and arithmetic ---- */

static uint32_t nz(core *m, uint32_t x)
{
    m->n = x >> 31;
    m->z = x == 0;
    return x;
}

static uint32_t add(core *m, uint32_t a, uint32_t b, bool carry)
{
    uint64_t sum = (uint64_t)a + b + carry;
    uint32_t x = (uint32_t)sum;
    m->c = sum >> 32;
    m->v = (~(a ^ b) & (a ^ x)) >> 31;
    return nz(m, x);
}

static uint32_t shift(core *m, unsigned kind, uint32_t x, uint32_t by)
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

static bool holds(const core *m, unsigned cond)
{
    bool t[] = {m->z, m->c, m->n, m->v, m->c && !m->z, m->n == m->v, !m->z && m->n == m->v};
    return t[cond / 2] != (cond & 1);
}

/* ---- instructions ---- */

static void data(core *m, unsigned op, unsigned d, unsigned s)
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
    case 15:
        m->r[d] = nz(m, ~b);
        break;
    default:
        m->stopped = true;
    }
}

static void jump(core *m, uint32_t to)
{
    m->r[PC] = to & ~1u;
}

static void special(core *m, unsigned i)
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

static void push_pop(core *m, unsigned i, bool pop)
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

static void multiple(core *m, unsigned i)
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

static bool misc(core *m, unsigned i, thumb_end *end)
{
    unsigned d = i & 7, s = i >> 3 & 7;
    if (i >> 8 == 0xB0)
        m->r[SP] += (i & 0x80 ? -1u : 1u) * (i & 0x7F) * 4;
    else if (i >> 8 == 0xB2)
        m->r[d] = (i >> 6 & 3) == 0   ? (uint32_t)(int16_t)m->r[s]
                  : (i >> 6 & 3) == 1 ? (uint32_t)(int8_t)m->r[s]
                  : (i >> 6 & 3) == 2 ? m->r[s] & 0xFFFF
                                      : m->r[s] & 0xFF;
    else if ((i & 0xFE00) == 0xB400 || (i & 0xFE00) == 0xBC00)
        push_pop(m, i, i & 0x800);
    else if (i == 0xB662) { /* cpsie i */
        *end = THUMB_IRQ_ON;
        m->stopped = true;
    } else if (i != 0xB672 && i >> 8 != 0xBF) /* cpsid i, hints */
        return false;
    return true;
}

static void reg_offset(core *m, unsigned i)
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

static void imm_offset(core *m, unsigned i, unsigned bytes)
{
    unsigned d = i & 7;
    uint32_t a = m->r[i >> 3 & 7] + (i >> 6 & 31) * bytes;
    if (i & 0x800)
        m->r[d] = load(m, a, bytes);
    else
        store(m, a, bytes, m->r[d]);
}

static void immediate(core *m, unsigned i)
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

static void three(core *m, unsigned i)
{
    uint32_t a = m->r[i >> 3 & 7], b = i & 0x400 ? i >> 6 & 7 : m->r[i >> 6 & 7];
    m->r[i & 7] = i & 0x200 ? add(m, a, ~b, true) : add(m, a, b, false);
}

static void call(core *m, unsigned i)
{
    unsigned j = load(m, m->r[PC], 2);
    m->r[PC] += 2;
    if ((i & 0xF800) != 0xF000 || (j & 0xD000) != 0xD000) /* a barrier */
        return;
    uint32_t s = i >> 10 & 1, i1 = !((j >> 13 & 1) ^ s), i2 = !((j >> 11 & 1) ^ s);
    uint32_t offset =
        (s ? 0xFF000000u : 0) | i1 << 23 | i2 << 22 | (i & 0x3FF) << 12 | (j & 0x7FF) << 1;
    m->r[LR] = m->r[PC] | 1;
    jump(m, m->r[PC] + offset);
}

static bool step(core *m, thumb_end *end)
{
    unsigned i = load(m, m->r[PC], 2);
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
        return misc(m, i, end);
    case 12:
        multiple(m, i);
        break;
    case 13:
        if ((i >> 8 & 15) > 13)
            return false;
        if (holds(m, i >> 8 & 15))
            jump(m, next + (uint32_t)((int8_t)x * 2));
        break;
    case 14:
        if (i & 0x800)
            return false;
        jump(m, next + (uint32_t)((int32_t)((i & 0x7FF) << 21) >> 20));
        break;
    default:
        call(m, i);
    }
    return true;
}

/* ---- the program ---- */

static uint32_t load_elf(core *m, const char *path)
{
    char *bytes;
    gsize size;
    uint32_t entry = 0;
    if (!g_file_get_contents(path, &bytes, &size, NULL))
        return 0;
    const Elf32_Ehdr *eh = (const Elf32_Ehdr *)bytes;
    for (unsigned i = 0; i < eh->e_phnum; i++) {
        const Elf32_Phdr *ph = (const Elf32_Phdr *)(bytes + eh->e_phoff) + i;
        uint8_t *to = ph->p_type == PT_LOAD ? plain(m, ph->p_vaddr, MAX(ph->p_memsz, 1)) : NULL;
        if (to)
            memcpy(to, bytes + ph->p_offset, ph->p_filesz);
    }
    entry = eh->e_entry;
    g_free(bytes);
    return entry;
}

thumb_end thumb_run(const char *elf, const thumb_bus *bus, uint64_t steps, uint32_t *at)
{
    core *m = g_new0(core, 1);
    thumb_end end = THUMB_BUS;
    m->bus = bus;
    jump(m, load_elf(m, elf));
    m->r[SP] = RAM + RAM_SIZE;
    while (!m->stopped && steps) {
        *at = m->r[PC];
        steps--;
        if (!step(m, &end)) {
            end = THUMB_UNKNOWN;
            m->stopped = true;
        }
    }
    if (!m->stopped)
        end = THUMB_TOO_LONG;
    g_free(m);
    return end;
}
