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

enum { LEFT, RIGHT, SIGNED };

static uint32_t shift(thumb *m, unsigned kind, uint32_t x, uint32_t by)
{
    if (by && kind == SIGNED) { /* by 32 and more: the sign everywhere, in the carry, too */
        m->c = by > 31 ? x >> 31 : x >> (by - 1) & 1;
        x = (uint32_t)((int32_t)x >> (by > 31 ? 31 : by));
    } else if (by) {
        m->c = by <= 32 && (kind == LEFT ? x >> (32 - by) : x >> (by - 1)) & 1;
        x = by > 31 ? 0 : kind == LEFT ? x << by : x >> by;
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
        m->r[d] = shift(m, LEFT, a, b & 0xFF);
        break;
    case 3:
        m->r[d] = shift(m, RIGHT, a, b & 0xFF);
        break;
    case 4:
        m->r[d] = shift(m, SIGNED, a, b & 0xFF);
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

/* Within Thumb code, whatever bit 0 says. */
static void jump(thumb *m, uint32_t to)
{
    m->r[PC] = to & ~1u;
    m->cycles++;
}

/* Bit 0 says which code is there; a handler that jumps to one of the addresses at the end of memory
 * returns. */
static thumb_event jump_with_state(thumb *m, uint32_t to, bool may_return)
{
    if (may_return && m->exception && to >> 28 == 0xF) {
        m->returns = to;
        return THUMB_RETURN;
    }
    m->state = to & 1;
    jump(m, to);
    return THUMB_DONE;
}

static void set(thumb *m, unsigned d, uint32_t x)
{
    m->r[d] = d == SP ? x & ~3u : x;
}

static thumb_event special(thumb *m, unsigned i)
{
    unsigned d = (i & 7) | (i >> 4 & 8), s = i >> 3 & 15, op = i >> 8 & 3;
    uint32_t here = m->r[PC] + 2, a = d == PC ? here : m->r[d], b = s == PC ? here : m->r[s];
    if (op == 3) {
        if (i & 7 || s == PC)
            return THUMB_UNKNOWN;
        if (i & 0x80)
            m->r[LR] = m->r[PC] | 1;
        return jump_with_state(m, b, !(i & 0x80));
    }
    if (op == 1) {
        if (d == PC || s == PC || (d < 8 && s < 8))
            return THUMB_UNKNOWN;
        add(m, a, ~b, true);
        return THUMB_DONE;
    }
    if (op == 0 && d == PC && s == PC)
        return THUMB_UNKNOWN;
    uint32_t x = op == 0 ? a + b : b;
    if (d == PC)
        jump(m, x);
    else
        set(m, d, x);
    return THUMB_DONE;
}

/* ---- several registers ---- */

static void store_list(thumb *m, uint32_t at, unsigned list)
{
    for (unsigned k = 0; k < 15; k++)
        if (list >> k & 1) {
            store(m, at, 4, m->r[k]);
            at += 4;
        }
}

/* All of them or, where one does not answer, none. */
static void load_list(thumb *m, uint32_t at, unsigned list, uint32_t *pc)
{
    uint32_t values[16];
    for (unsigned k = 0; k < 16; k++)
        if (list >> k & 1) {
            values[k] = load(m, at, 4);
            at += 4;
        }
    for (unsigned k = 0; k < 8 && !m->faulted; k++)
        if (list >> k & 1)
            m->r[k] = values[k];
    if (list >> PC & 1)
        *pc = values[PC];
}

static thumb_event push_pop(thumb *m, unsigned i, bool pop)
{
    unsigned list = i & 0xFF, size = 4u * (unsigned)__builtin_popcount(i & 0x1FF);
    uint32_t pc = 0, sp = m->r[SP];
    if (!size)
        return THUMB_UNKNOWN;
    if (!pop) {
        store_list(m, sp - size, list | (i & 0x100 ? 1u << LR : 0));
        m->r[SP] = m->faulted ? sp : sp - size;
        return THUMB_DONE;
    }
    load_list(m, sp, list | (i & 0x100 ? 1u << PC : 0), &pc);
    if (m->faulted)
        return THUMB_DONE;
    m->r[SP] = sp + size;
    return i & 0x100 ? jump_with_state(m, pc, true) : THUMB_DONE;
}

/* A base that is loaded itself keeps what was loaded. */
static thumb_event multiple(thumb *m, unsigned i)
{
    unsigned base = i >> 8 & 7, list = i & 0xFF;
    uint32_t at = m->r[base], after = at + 4u * (unsigned)__builtin_popcount(list), pc;
    bool loads = i >> 11 & 1;
    if (!list)
        return THUMB_UNKNOWN;
    if (loads)
        load_list(m, at, list, &pc);
    else
        store_list(m, at, list);
    if (!m->faulted && !(loads && list >> base & 1))
        m->r[base] = after;
    return THUMB_DONE;
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

static thumb_event hint(thumb *m, unsigned i)
{
    if (i & 15) /* of larger cores */
        return THUMB_UNKNOWN;
    switch (i >> 4 & 15) {
    case 2: {
        bool event = m->event;
        m->event = false;
        return event ? THUMB_DONE : THUMB_WAIT_EVENT;
    }
    case 3:
        return THUMB_WAIT;
    case 4:
        m->event = true;
        return THUMB_DONE;
    default: /* nothing, and what is kept for later */
        return THUMB_DONE;
    }
}

static bool privileged(const thumb *m)
{
    return m->exception || !m->unprivileged;
}

static thumb_event misc(thumb *m, unsigned i)
{
    unsigned d = i & 7, s = i >> 3 & 7, op = i >> 6 & 3;
    switch (i >> 8) {
    case 0xB0:
        m->r[SP] += (i & 0x80 ? -1u : 1u) * (i & 0x7F) * 4;
        return THUMB_DONE;
    case 0xB2:
        m->r[d] = extended(m->r[s], op);
        return THUMB_DONE;
    case 0xB4:
    case 0xB5:
        return push_pop(m, i, false);
    case 0xB6:
        if ((i & 0xFFEF) != 0xB662) /* cpsie, cpsid */
            return THUMB_UNKNOWN;
        m->masked = privileged(m) ? i >> 4 & 1 : m->masked;
        return THUMB_DONE;
    case 0xBA:
        if (op == 2)
            return THUMB_UNKNOWN;
        m->r[d] = reversed(m->r[s], op);
        return THUMB_DONE;
    case 0xBC:
    case 0xBD:
        return push_pop(m, i, true);
    case 0xBE:
        m->r[PC] -= 2;
        return THUMB_BREAK;
    case 0xBF:
        return hint(m, i);
    default:
        return THUMB_UNKNOWN;
    }
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
    if (!m->faulted)
        m->r[d] = op == 3 ? (uint32_t)(int8_t)x : op == 7 ? (uint32_t)(int16_t)x : x;
}

static void load_to(thumb *m, unsigned d, uint32_t a, unsigned bytes)
{
    uint32_t x = load(m, a, bytes);
    if (!m->faulted)
        m->r[d] = x;
}

static void imm_offset(thumb *m, unsigned i, unsigned bytes)
{
    uint32_t a = m->r[i >> 3 & 7] + (i >> 6 & 31) * bytes;
    if (i & 0x800)
        load_to(m, i & 7, a, bytes);
    else
        store(m, a, bytes, m->r[i & 7]);
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

/* 0 to 7: flags (unless bit 2), exception (bit 0), and the state, which reads as 0. */
static uint32_t special_value(const thumb *m, unsigned which)
{
    if (which < 8)
        return (which & 4 ? 0 : thumb_status(m) & 0xF0000000u) | (which & 1 ? m->exception : 0);
    if (which == 20)
        return thumb_control(m);
    if (!privileged(m))
        return 0;
    return which == 8 ? thumb_main_sp(m) : which == 9 ? thumb_process_sp(m) : m->masked;
}

static void set_flags(thumb *m, uint32_t status)
{
    m->n = status >> 31;
    m->z = status >> 30 & 1;
    m->c = status >> 29 & 1;
    m->v = status >> 28 & 1;
}

static void set_control(thumb *m, uint32_t value)
{
    if (!m->exception) /* handlers stay on main's stack */
        thumb_use_stack(m, value & 2);
    m->unprivileged = value & 1;
}

static void set_special(thumb *m, unsigned which, uint32_t value)
{
    if (which < 4)
        set_flags(m, value);
    if (which < 8 || !privileged(m))
        return;
    if (which == 8)
        thumb_set_main_sp(m, value);
    else if (which == 9)
        thumb_set_process_sp(m, value);
    else if (which == 16)
        m->masked = value & 1;
    else
        set_control(m, value);
}

static bool is_special(unsigned which)
{
    return (which < 8 && which != 4) || which == 8 || which == 9 || which == 16 || which == 20;
}

static void call(thumb *m, unsigned i, unsigned j)
{
    uint32_t s = i >> 10 & 1, i1 = !((j >> 13 & 1) ^ s), i2 = !((j >> 11 & 1) ^ s);
    uint32_t offset =
        (s ? 0xFF000000u : 0) | i1 << 23 | i2 << 22 | (i & 0x3FF) << 12 | (j & 0x7FF) << 1;
    m->r[LR] = m->r[PC] | 1;
    jump(m, m->r[PC] + offset);
}

static thumb_event wide(thumb *m, unsigned i)
{
    unsigned j = load(m, m->r[PC], 2), which = j & 0xFF, d = j >> 8 & 15, s = i & 15;
    if (m->faulted)
        return THUMB_DONE;
    m->r[PC] += 2;
    if ((i & 0xF800) == 0xF000 && (j & 0xD000) == 0xD000)
        call(m, i, j);
    else if (i == 0xF3EF && (j & 0xF000) == 0x8000 && is_special(which) && d != SP && d != PC)
        m->r[d] = special_value(m, which);
    else if ((i & 0xFFF0) == 0xF380 && (j & 0xFF00) == 0x8800 && is_special(which) && s != SP &&
             s != PC)
        set_special(m, which, m->r[s]);
    else if (i == 0xF3BF && (j & 0xFF00) == 0x8F00 && (j >> 4 & 15) >= 4 && (j >> 4 & 15) <= 6)
        m->cycles += 2; /* a barrier: all is done in order here */
    else
        return THUMB_UNKNOWN;
    return THUMB_DONE;
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
            load_to(m, d, pc + x * 4, 4);
        else if (i & 0x400)
            return special(m, i);
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
            load_to(m, d, m->r[SP] + x * 4, 4);
        else
            store(m, m->r[SP] + x * 4, 4, m->r[d]);
        break;
    case 10:
        m->r[d] = (i & 0x800 ? m->r[SP] : pc) + x * 4;
        break;
    case 11:
        return misc(m, i);
    case 12:
        return multiple(m, i);
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
        return wide(m, i);
    }
    return THUMB_DONE;
}

thumb_event thumb_step(thumb *m)
{
    const thumb before = *m;
    m->faulted = false;
    unsigned i = m->state ? load(m, m->r[PC], 2) : 0;
    m->cycles = 1;
    if (!m->state || m->faulted)
        return THUMB_FAULT;
    thumb_event event = execute(m, i);
    if (!m->faulted && event != THUMB_UNKNOWN)
        return event;
    event = m->faulted ? THUMB_FAULT : event;
    unsigned cycles = m->cycles;
    *m = before;
    m->cycles = cycles;
    return event;
}

uint32_t thumb_status(const thumb *m)
{
    return (uint32_t)m->n << 31 | (uint32_t)m->z << 30 | (uint32_t)m->c << 29 |
           (uint32_t)m->v << 28 | (uint32_t)m->state << 24 | m->exception;
}

void thumb_set_status(thumb *m, uint32_t status)
{
    set_flags(m, status);
    m->state = status >> 24 & 1;
    m->exception = status & 0x3F;
}

uint32_t thumb_main_sp(const thumb *m)
{
    return m->process_stack ? m->other_sp : m->r[SP];
}

uint32_t thumb_process_sp(const thumb *m)
{
    return m->process_stack ? m->r[SP] : m->other_sp;
}

void thumb_set_main_sp(thumb *m, uint32_t value)
{
    *(m->process_stack ? &m->other_sp : &m->r[SP]) = value & ~3u;
}

void thumb_set_process_sp(thumb *m, uint32_t value)
{
    *(m->process_stack ? &m->r[SP] : &m->other_sp) = value & ~3u;
}

uint32_t thumb_control(const thumb *m)
{
    return (uint32_t)m->process_stack << 1 | m->unprivileged;
}

void thumb_use_stack(thumb *m, bool process)
{
    if (process == m->process_stack)
        return;
    uint32_t sp = m->r[SP];
    m->r[SP] = m->other_sp;
    m->other_sp = sp;
    m->process_stack = process;
}
