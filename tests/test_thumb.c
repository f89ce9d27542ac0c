/* SPDX-License-Identifier: MIT */
/*
 * The stand-in's core against the architecture's pseudo-code, instruction by instruction: each row
 * holds an encoding as the manual draws it, and what it does, written the way the manual writes it.
 * Every encoding of 16 bits, and those of 32 that this core has, with random registers.
 */
#include <string.h>

#include "standin/thumb.h"
#include "support.h"

#define RAM 512u /* bytes, from 0 on */

/* ---- the machine of the manual ---- */

typedef struct machine {
    uint32_t R[16]; /* 13 in use; 15: of the instruction, plus 4, as it reads itself */
    uint32_t MSP, PSP;
    bool N, Z, C, V, T, PRIMASK, SPSEL, nPRIV, event;
    unsigned IPSR;
    uint8_t ram[RAM];
    /* what one instruction comes to */
    bool undefined, unpredictable, abort, branched, wfi, wfe, svc, bkpt, exception_return;
    uint32_t next, exc_return;
} machine;

static uint32_t get(const machine *m, unsigned n)
{
    return m->R[n];
}

static void put(machine *m, unsigned n, uint32_t value)
{
    m->R[n] = n == 13 ? value - value % 4 : value;
}

static uint32_t MemA(machine *m, uint32_t address, unsigned size)
{
    uint32_t value = 0;
    if (address % size != 0 || address > RAM - size) {
        m->abort = true;
        return 0;
    }
    for (unsigned i = 0; i < size; i++)
        value += (uint32_t)m->ram[address + i] * (1u << (8 * i));
    return value;
}

static void MemA_set(machine *m, uint32_t address, unsigned size, uint32_t value)
{
    if (address % size != 0 || address > RAM - size) {
        m->abort = true;
        return;
    }
    for (unsigned i = 0; i < size; i++)
        m->ram[address + i] = (uint8_t)(value / (1u << (8 * i)));
}

static void flags_nz(machine *m, uint32_t result)
{
    m->N = result >= 0x80000000u;
    m->Z = result == 0;
}

static uint32_t AddWithCarry(uint32_t x, uint32_t y, bool carry_in, bool *carry, bool *overflow)
{
    uint64_t unsigned_sum = (uint64_t)x + (uint64_t)y + carry_in;
    int64_t signed_sum = (int64_t)(int32_t)x + (int64_t)(int32_t)y + carry_in;
    uint32_t result = (uint32_t)unsigned_sum;
    *carry = (uint64_t)result != unsigned_sum;
    *overflow = (int64_t)(int32_t)result != signed_sum;
    return result;
}

static uint32_t add_flags(machine *m, uint32_t x, uint32_t y, bool carry_in)
{
    uint32_t result = AddWithCarry(x, y, carry_in, &m->C, &m->V);
    flags_nz(m, result);
    return result;
}

/* A bit at a time, as one would by hand. */
static uint32_t Shift_C(machine *m, char type, uint32_t x, unsigned amount)
{
    for (unsigned i = 0; i < amount; i++) {
        bool low = x & 1, high = x >= 0x80000000u;
        switch (type) {
        case 'L': /* LSL */
            m->C = high;
            x = x + x;
            break;
        case 'R': /* LSR */
            m->C = low;
            x = x / 2;
            break;
        case 'A': /* ASR */
            m->C = low;
            x = x / 2 + (high ? 0x80000000u : 0);
            break;
        default: /* ROR */
            m->C = low;
            x = x / 2 + (low ? 0x80000000u : 0);
        }
    }
    flags_nz(m, x);
    return x;
}

static uint32_t SignExtend(uint32_t x, unsigned bits)
{
    return x >= 1u << (bits - 1) ? x - (1u << bits) : x;
}

static void BranchTo(machine *m, uint32_t address)
{
    m->next = address;
    m->branched = true;
}

static void BranchWritePC(machine *m, uint32_t address)
{
    BranchTo(m, address - address % 2);
}

static void BXWritePC(machine *m, uint32_t address)
{
    if (m->IPSR != 0 && address / 0x10000000u == 15) {
        m->exception_return = true;
        m->exc_return = address;
    } else {
        m->T = address % 2;
        BranchTo(m, address - address % 2);
    }
}

static bool ConditionHolds(const machine *m, unsigned cond)
{
    bool result;
    switch (cond / 2) {
    case 0:
        result = m->Z;
        break;
    case 1:
        result = m->C;
        break;
    case 2:
        result = m->N;
        break;
    case 3:
        result = m->V;
        break;
    case 4:
        result = m->C && !m->Z;
        break;
    case 5:
        result = m->N == m->V;
        break;
    case 6:
        result = m->N == m->V && !m->Z;
        break;
    default:
        result = true;
    }
    return cond % 2 == 1 && cond != 15 ? !result : result;
}

static bool is_privileged(const machine *m)
{
    return m->IPSR != 0 || !m->nPRIV;
}

/* ---- the table ---- */

typedef struct row row;
typedef uint32_t (*field_fn)(const row *r, uint32_t i, char letter);
struct row {
    const char *bits; /* most significant first; letters are fields */
    void (*does)(machine *m, const row *r, uint32_t i);
};

/* A field's bits, wherever they stand, the most significant first. */
static uint32_t F(const row *r, uint32_t i, char letter)
{
    uint32_t value = 0;
    unsigned width = 0;
    for (const char *p = r->bits; *p; p++)
        width += *p != ' ';
    for (const char *p = r->bits; *p; p++) {
        if (*p == ' ')
            continue;
        width--;
        if (*p == letter)
            value = value * 2 + (i >> width & 1);
    }
    return value;
}

#define OP(name) static void name(machine *m, const row *r, uint32_t i)
#define D        F(r, i, 'd')
#define N_       F(r, i, 'n')
#define M_       F(r, i, 'm')
#define IMM      F(r, i, 'i')

OP(lsl_imm)
{
    put(m, D, Shift_C(m, 'L', get(m, M_), IMM));
}
OP(lsr_imm)
{
    put(m, D, Shift_C(m, 'R', get(m, M_), IMM == 0 ? 32 : IMM));
}
OP(asr_imm)
{
    put(m, D, Shift_C(m, 'A', get(m, M_), IMM == 0 ? 32 : IMM));
}
OP(add_reg)
{
    put(m, D, add_flags(m, get(m, N_), get(m, M_), false));
}
OP(sub_reg)
{
    put(m, D, add_flags(m, get(m, N_), ~get(m, M_), true));
}
OP(add_imm3)
{
    put(m, D, add_flags(m, get(m, N_), IMM, false));
}
OP(sub_imm3)
{
    put(m, D, add_flags(m, get(m, N_), ~IMM, true));
}
OP(mov_imm)
{
    put(m, D, IMM);
    flags_nz(m, IMM);
}
OP(cmp_imm)
{
    add_flags(m, get(m, N_), ~IMM, true);
}
OP(add_imm8)
{
    put(m, D, add_flags(m, get(m, D), IMM, false));
}
OP(sub_imm8)
{
    put(m, D, add_flags(m, get(m, D), ~IMM, true));
}

static void logic(machine *m, unsigned d, uint32_t result)
{
    put(m, d, result);
    flags_nz(m, result);
}
OP(and_reg)
{
    logic(m, D, get(m, D) & get(m, M_));
}
OP(eor_reg)
{
    logic(m, D, get(m, D) ^ get(m, M_));
}
OP(lsl_reg)
{
    put(m, D, Shift_C(m, 'L', get(m, D), get(m, M_) % 256));
}
OP(lsr_reg)
{
    put(m, D, Shift_C(m, 'R', get(m, D), get(m, M_) % 256));
}
OP(asr_reg)
{
    put(m, D, Shift_C(m, 'A', get(m, D), get(m, M_) % 256));
}
OP(adc_reg)
{
    put(m, D, add_flags(m, get(m, D), get(m, M_), m->C));
}
OP(sbc_reg)
{
    put(m, D, add_flags(m, get(m, D), ~get(m, M_), m->C));
}
OP(ror_reg)
{
    put(m, D, Shift_C(m, 'O', get(m, D), get(m, M_) % 256));
}
OP(tst_reg)
{
    flags_nz(m, get(m, D) & get(m, M_));
}
OP(rsb_imm)
{
    put(m, D, add_flags(m, ~get(m, M_), 0, true));
}
OP(cmp_reg)
{
    add_flags(m, get(m, D), ~get(m, M_), true);
}
OP(cmn_reg)
{
    add_flags(m, get(m, D), get(m, M_), false);
}
OP(orr_reg)
{
    logic(m, D, get(m, D) | get(m, M_));
}
OP(mul)
{
    logic(m, D, get(m, D) * get(m, M_));
}
OP(bic_reg)
{
    logic(m, D, get(m, D) & ~get(m, M_));
}
OP(mvn_reg)
{
    logic(m, D, ~get(m, M_));
}

OP(add_high)
{
    if (D == 15 && M_ == 15) {
        m->unpredictable = true;
        return;
    }
    uint32_t result = get(m, D) + get(m, M_);
    if (D == 15)
        BranchWritePC(m, result);
    else
        put(m, D, result);
}
OP(cmp_high)
{
    m->unpredictable = (D < 8 && M_ < 8) || D == 15 || M_ == 15;
    if (!m->unpredictable)
        add_flags(m, get(m, D), ~get(m, M_), true);
}
OP(mov_high)
{
    if (D == 15)
        BranchWritePC(m, get(m, M_));
    else
        put(m, D, get(m, M_));
}
OP(bx)
{
    m->unpredictable = F(r, i, 'z') != 0 || M_ == 15;
    if (!m->unpredictable)
        BXWritePC(m, get(m, M_));
}
OP(blx)
{
    m->unpredictable = F(r, i, 'z') != 0 || M_ == 15;
    if (m->unpredictable)
        return;
    uint32_t target = get(m, M_), next_instr_addr = get(m, 15) - 2;
    put(m, 14, next_instr_addr - next_instr_addr % 2 + 1);
    m->T = target % 2;
    BranchTo(m, target - target % 2);
}

static uint32_t Align(uint32_t x, uint32_t y)
{
    return y * (x / y);
}
static void ldr_to(machine *m, unsigned t, uint32_t address, unsigned size, unsigned sign)
{
    uint32_t data = MemA(m, address, size);
    put(m, t, sign ? SignExtend(data, sign) : data);
}
OP(ldr_lit)
{
    ldr_to(m, D, Align(get(m, 15), 4) + IMM * 4, 4, 0);
}
OP(str_reg)
{
    MemA_set(m, get(m, N_) + get(m, M_), 4, get(m, D));
}
OP(strh_reg)
{
    MemA_set(m, get(m, N_) + get(m, M_), 2, get(m, D) % 65536);
}
OP(strb_reg)
{
    MemA_set(m, get(m, N_) + get(m, M_), 1, get(m, D) % 256);
}
OP(ldrsb_reg)
{
    ldr_to(m, D, get(m, N_) + get(m, M_), 1, 8);
}
OP(ldr_reg)
{
    ldr_to(m, D, get(m, N_) + get(m, M_), 4, 0);
}
OP(ldrh_reg)
{
    ldr_to(m, D, get(m, N_) + get(m, M_), 2, 0);
}
OP(ldrb_reg)
{
    ldr_to(m, D, get(m, N_) + get(m, M_), 1, 0);
}
OP(ldrsh_reg)
{
    ldr_to(m, D, get(m, N_) + get(m, M_), 2, 16);
}
OP(str_imm)
{
    MemA_set(m, get(m, N_) + IMM * 4, 4, get(m, D));
}
OP(ldr_imm)
{
    ldr_to(m, D, get(m, N_) + IMM * 4, 4, 0);
}
OP(strb_imm)
{
    MemA_set(m, get(m, N_) + IMM, 1, get(m, D) % 256);
}
OP(ldrb_imm)
{
    ldr_to(m, D, get(m, N_) + IMM, 1, 0);
}
OP(strh_imm)
{
    MemA_set(m, get(m, N_) + IMM * 2, 2, get(m, D) % 65536);
}
OP(ldrh_imm)
{
    ldr_to(m, D, get(m, N_) + IMM * 2, 2, 0);
}
OP(str_sp)
{
    MemA_set(m, get(m, 13) + IMM * 4, 4, get(m, D));
}
OP(ldr_sp)
{
    ldr_to(m, D, get(m, 13) + IMM * 4, 4, 0);
}
OP(adr)
{
    put(m, D, Align(get(m, 15), 4) + IMM * 4);
}
OP(add_sp_to)
{
    put(m, D, get(m, 13) + IMM * 4);
}
OP(add_sp)
{
    put(m, 13, get(m, 13) + IMM * 4);
}
OP(sub_sp)
{
    put(m, 13, get(m, 13) - IMM * 4);
}
OP(sxth)
{
    put(m, D, SignExtend(get(m, M_) % 65536, 16));
}
OP(sxtb)
{
    put(m, D, SignExtend(get(m, M_) % 256, 8));
}
OP(uxth)
{
    put(m, D, get(m, M_) % 65536);
}
OP(uxtb)
{
    put(m, D, get(m, M_) % 256);
}

static uint32_t byte(uint32_t x, unsigned n)
{
    return x >> 8 * n & 255;
}
OP(rev)
{
    uint32_t x = get(m, M_);
    put(m, D, byte(x, 0) << 24 | byte(x, 1) << 16 | byte(x, 2) << 8 | byte(x, 3));
}
OP(rev16)
{
    uint32_t x = get(m, M_);
    put(m, D, byte(x, 2) << 24 | byte(x, 3) << 16 | byte(x, 0) << 8 | byte(x, 1));
}
OP(revsh)
{
    uint32_t x = get(m, M_);
    put(m, D, SignExtend(byte(x, 0) << 8 | byte(x, 1), 16));
}
OP(cps)
{
    if (is_privileged(m))
        m->PRIMASK = F(r, i, 'i');
}

static unsigned BitCount(uint32_t list)
{
    unsigned n = 0;
    for (; list; list /= 2)
        n += list % 2;
    return n;
}
OP(push)
{
    uint32_t registers = F(r, i, 'l') + (F(r, i, 'p') ? 1u << 14 : 0);
    m->unpredictable = BitCount(registers) < 1;
    uint32_t address = get(m, 13) - 4 * BitCount(registers);
    for (unsigned k = 0; k <= 14 && !m->unpredictable; k++)
        if (registers >> k & 1) {
            MemA_set(m, address, 4, get(m, k));
            address += 4;
        }
    put(m, 13, get(m, 13) - 4 * BitCount(registers));
}
OP(pop)
{
    uint32_t registers = F(r, i, 'l') + (F(r, i, 'p') ? 1u << 15 : 0);
    m->unpredictable = BitCount(registers) < 1;
    uint32_t address = get(m, 13);
    put(m, 13, get(m, 13) + 4 * BitCount(registers));
    for (unsigned k = 0; k <= 7; k++)
        if (registers >> k & 1) {
            put(m, k, MemA(m, address, 4));
            address += 4;
        }
    if (registers >> 15 & 1)
        BXWritePC(m, MemA(m, address, 4));
}
OP(stm)
{
    uint32_t address = get(m, N_), registers = F(r, i, 'l'), base = address;
    m->unpredictable = BitCount(registers) < 1;
    for (unsigned k = 0; k <= 7 && !m->unpredictable; k++)
        if (registers >> k & 1) {
            MemA_set(m, address, 4, k == N_ ? base : get(m, k));
            address += 4;
        }
    put(m, N_, base + 4 * BitCount(registers));
}
OP(ldm)
{
    uint32_t base = get(m, N_), address = base, registers = F(r, i, 'l');
    m->unpredictable = BitCount(registers) < 1;
    for (unsigned k = 0; k <= 7; k++)
        if (registers >> k & 1) {
            put(m, k, MemA(m, address, 4));
            address += 4;
        }
    if (!(registers >> N_ & 1))
        put(m, N_, base + 4 * BitCount(registers));
}
OP(bkpt)
{
    (void)r;
    (void)i;
    m->bkpt = true;
}
OP(nop)
{
    (void)m;
    (void)r;
    (void)i;
}
OP(wfe)
{
    (void)r;
    (void)i;
    if (m->event)
        m->event = false;
    else
        m->wfe = true;
}
OP(wfi)
{
    (void)r;
    (void)i;
    m->wfi = true;
}
OP(sev)
{
    (void)r;
    (void)i;
    m->event = true;
}
OP(b_cond)
{
    if (ConditionHolds(m, F(r, i, 'c')))
        BranchWritePC(m, get(m, 15) + SignExtend(IMM, 8) * 2);
}
OP(svc)
{
    (void)r;
    (void)i;
    m->svc = true;
}
OP(undefined)
{
    (void)r;
    (void)i;
    m->undefined = true;
}
OP(b)
{
    BranchWritePC(m, get(m, 15) + SignExtend(IMM, 11) * 2);
}

OP(bl)
{
    uint32_t S = F(r, i, 's'), I1 = F(r, i, 'j') == S, I2 = F(r, i, 'k') == S;
    uint32_t imm = S << 24 | I1 << 23 | I2 << 22 | F(r, i, 'h') << 12 | F(r, i, 'i') << 1;
    uint32_t next_instr_addr = get(m, 15);
    put(m, 14, next_instr_addr - next_instr_addr % 2 + 1);
    BranchWritePC(m, get(m, 15) + SignExtend(imm, 25));
}
static bool has_special(uint32_t sysm)
{
    return (sysm < 8 && sysm != 4) || sysm == 8 || sysm == 9 || sysm == 16 || sysm == 20;
}
OP(msr)
{
    uint32_t sysm = F(r, i, 'y'), value = get(m, N_);
    m->unpredictable = N_ == 13 || N_ == 15 || !has_special(sysm);
    if (m->unpredictable)
        return;
    if (sysm / 8 == 0 && !(sysm & 4)) {
        m->N = value >> 31 & 1;
        m->Z = value >> 30 & 1;
        m->C = value >> 29 & 1;
        m->V = value >> 28 & 1;
    } else if (sysm / 8 == 1 && is_privileged(m)) {
        uint32_t *sp = sysm == 8 ? &m->MSP : &m->PSP;
        *sp = value - value % 4;
        if ((sysm == 9) == m->SPSEL)
            m->R[13] = *sp;
    } else if (sysm == 16 && is_privileged(m)) {
        m->PRIMASK = value % 2;
    } else if (sysm == 20 && is_privileged(m)) {
        m->nPRIV = value % 2;
        if (m->IPSR == 0 && (value >> 1 & 1) != m->SPSEL) {
            *(m->SPSEL ? &m->PSP : &m->MSP) = m->R[13];
            m->SPSEL = !m->SPSEL;
            m->R[13] = m->SPSEL ? m->PSP : m->MSP;
        }
    }
}
OP(mrs)
{
    uint32_t sysm = F(r, i, 'y'), value = 0;
    m->unpredictable = D == 13 || D == 15 || !has_special(sysm);
    if (m->unpredictable)
        return;
    if (sysm / 8 == 0) {
        if (sysm & 1)
            value += m->IPSR;
        if (!(sysm & 4))
            value += (uint32_t)m->N << 31 | (uint32_t)m->Z << 30 | (uint32_t)m->C << 29 |
                     (uint32_t)m->V << 28;
    } else if (sysm / 8 == 1 && is_privileged(m)) {
        bool process = sysm == 9;
        value = process == m->SPSEL ? m->R[13] : process ? m->PSP : m->MSP;
    } else if (sysm == 16 && is_privileged(m)) {
        value = m->PRIMASK;
    } else if (sysm == 20) {
        value = m->SPSEL * 2u + m->nPRIV;
    }
    put(m, D, value);
}

static const row narrow[] = {
    {"00000 iiiii mmm ddd", lsl_imm},
    {"00001 iiiii mmm ddd", lsr_imm},
    {"00010 iiiii mmm ddd", asr_imm},
    {"0001100 mmm nnn ddd", add_reg},
    {"0001101 mmm nnn ddd", sub_reg},
    {"0001110 iii nnn ddd", add_imm3},
    {"0001111 iii nnn ddd", sub_imm3},
    {"00100 ddd iiiiiiii", mov_imm},
    {"00101 nnn iiiiiiii", cmp_imm},
    {"00110 ddd iiiiiiii", add_imm8},
    {"00111 ddd iiiiiiii", sub_imm8},
    {"010000 0000 mmm ddd", and_reg},
    {"010000 0001 mmm ddd", eor_reg},
    {"010000 0010 mmm ddd", lsl_reg},
    {"010000 0011 mmm ddd", lsr_reg},
    {"010000 0100 mmm ddd", asr_reg},
    {"010000 0101 mmm ddd", adc_reg},
    {"010000 0110 mmm ddd", sbc_reg},
    {"010000 0111 mmm ddd", ror_reg},
    {"010000 1000 mmm ddd", tst_reg},
    {"010000 1001 mmm ddd", rsb_imm},
    {"010000 1010 mmm ddd", cmp_reg},
    {"010000 1011 mmm ddd", cmn_reg},
    {"010000 1100 mmm ddd", orr_reg},
    {"010000 1101 mmm ddd", mul},
    {"010000 1110 mmm ddd", bic_reg},
    {"010000 1111 mmm ddd", mvn_reg},
    {"010001 00 d mmmm ddd", add_high},
    {"010001 01 d mmmm ddd", cmp_high},
    {"010001 10 d mmmm ddd", mov_high},
    {"010001 110 mmmm zzz", bx},
    {"010001 111 mmmm zzz", blx},
    {"01001 ddd iiiiiiii", ldr_lit},
    {"0101 000 mmm nnn ddd", str_reg},
    {"0101 001 mmm nnn ddd", strh_reg},
    {"0101 010 mmm nnn ddd", strb_reg},
    {"0101 011 mmm nnn ddd", ldrsb_reg},
    {"0101 100 mmm nnn ddd", ldr_reg},
    {"0101 101 mmm nnn ddd", ldrh_reg},
    {"0101 110 mmm nnn ddd", ldrb_reg},
    {"0101 111 mmm nnn ddd", ldrsh_reg},
    {"011 0 0 iiiii nnn ddd", str_imm},
    {"011 0 1 iiiii nnn ddd", ldr_imm},
    {"011 1 0 iiiii nnn ddd", strb_imm},
    {"011 1 1 iiiii nnn ddd", ldrb_imm},
    {"1000 0 iiiii nnn ddd", strh_imm},
    {"1000 1 iiiii nnn ddd", ldrh_imm},
    {"1001 0 ddd iiiiiiii", str_sp},
    {"1001 1 ddd iiiiiiii", ldr_sp},
    {"1010 0 ddd iiiiiiii", adr},
    {"1010 1 ddd iiiiiiii", add_sp_to},
    {"1011 0000 0 iiiiiii", add_sp},
    {"1011 0000 1 iiiiiii", sub_sp},
    {"1011 0010 00 mmm ddd", sxth},
    {"1011 0010 01 mmm ddd", sxtb},
    {"1011 0010 10 mmm ddd", uxth},
    {"1011 0010 11 mmm ddd", uxtb},
    {"1011 0 10 p llllllll", push},
    {"1011 0110 011 i 0010", cps},
    {"1011 1010 00 mmm ddd", rev},
    {"1011 1010 01 mmm ddd", rev16},
    {"1011 1010 11 mmm ddd", revsh},
    {"1011 1 10 p llllllll", pop},
    {"1011 1110 iiiiiiii", bkpt},
    {"1011 1111 0000 0000", nop},
    {"1011 1111 0001 0000", nop}, /* yield */
    {"1011 1111 0010 0000", wfe},
    {"1011 1111 0011 0000", wfi},
    {"1011 1111 0100 0000", sev},
    {"1011 1111 0101 0000", nop}, /* hints of later cores do nothing */
    {"1011 1111 011a 0000", nop},
    {"1011 1111 1aaa 0000", nop},
    {"1100 0 nnn llllllll", stm},
    {"1100 1 nnn llllllll", ldm},
    {"1101 1110 iiiiiiii", undefined},
    {"1101 1111 iiiiiiii", svc},
    {"1101 cccc iiiiiiii", b_cond},
    {"11100 iiiiiiiiiii", b},
};

static const row broad[] = {
    {"11110 s hhhhhhhhhh 11 j 1 k iiiiiiiiiii", bl},
    {"1111001110 0 0 nnnn 10 0 0 1000 yyyyyyyy", msr},
    {"1111001111 1 0 1111 10 0 0 dddd yyyyyyyy", mrs},
    {"1111001110 1 1 1111 10 0 0 1111 0100 aaaa", nop}, /* DSB */
    {"1111001110 1 1 1111 10 0 0 1111 0101 aaaa", nop}, /* DMB */
    {"1111001110 1 1 1111 10 0 0 1111 0110 aaaa", nop}, /* ISB */
};

static bool matches(const char *bits, uint32_t i, unsigned width)
{
    for (; *bits; bits++) {
        if (*bits == ' ')
            continue;
        width--;
        if ((*bits == '0' || *bits == '1') && (unsigned)(*bits - '0') != (i >> width & 1))
            return false;
    }
    assert_int_equal(width, 0);
    return true;
}

static const row *decode(uint32_t i, bool wide)
{
    const row *rows = wide ? broad : narrow;
    for (unsigned k = 0; k < (wide ? G_N_ELEMENTS(broad) : G_N_ELEMENTS(narrow)); k++)
        if (matches(rows[k].bits, i, wide ? 32 : 16))
            return &rows[k];
    return NULL;
}

/* ---- both ---- */

static uint8_t own[RAM];

static bool load(void *ctx, uint32_t address, unsigned bytes, uint32_t *value)
{
    (void)ctx;
    if (address > RAM - bytes)
        return false;
    *value = 0;
    memcpy(value, own + address, bytes);
    return true;
}

static bool store(void *ctx, uint32_t address, unsigned bytes, uint32_t value)
{
    (void)ctx;
    if (address > RAM - bytes)
        return false;
    memcpy(own + address, &value, bytes);
    return true;
}

/* Numbers that matter, and any. */
static uint32_t word(GRand *rand)
{
    static const uint32_t corners[] = {
        0,   1,   2,          3,          31,         32,         33,         64,
        255, 256, 0x7FFFFFFF, 0x80000000, 0xFFFFFFFF, 0xFFFFFFF9, 0xFFFFFFF1, 0x7F};
    int way = g_rand_int_range(rand, 0, 5);
    if (way == 0)
        return corners[g_rand_int_range(rand, 0, G_N_ELEMENTS(corners))];
    if (way < 4) /* an address */
        return (uint32_t)g_rand_int_range(rand, 0, RAM) & (way == 3 ? ~0u : ~3u);
    return g_rand_int(rand);
}

static void begin(GRand *rand, machine *m, uint32_t at)
{
    memset(m, 0, offsetof(machine, ram));
    for (unsigned k = 0; k < RAM; k += 4) {
        uint32_t x = word(rand);
        memcpy(m->ram + k, &x, 4);
    }
    for (unsigned k = 0; k < 15; k++)
        put(m, k, word(rand));
    m->N = g_rand_boolean(rand);
    m->Z = g_rand_boolean(rand);
    m->C = g_rand_boolean(rand);
    m->V = g_rand_boolean(rand);
    m->T = true;
    m->PRIMASK = g_rand_boolean(rand);
    m->event = g_rand_boolean(rand);
    m->nPRIV = g_rand_int_range(rand, 0, 4) == 0;
    m->IPSR = g_rand_boolean(rand) ? (unsigned)g_rand_int_range(rand, 1, 48) : 0;
    m->SPSEL = m->IPSR == 0 && g_rand_boolean(rand);
    uint32_t other = word(rand) & ~3u;
    m->MSP = m->SPSEL ? other : m->R[13];
    m->PSP = m->SPSEL ? m->R[13] : other;
    m->undefined = m->unpredictable = m->abort = m->branched = m->wfi = m->wfe = m->svc = false;
    m->bkpt = m->exception_return = false;
    m->R[15] = at + 4;
}

static thumb twin(const machine *m, uint32_t at)
{
    thumb t = {.load = load, .store = store};
    memcpy(t.r, m->R, sizeof t.r);
    t.r[THUMB_PC] = at;
    t.n = m->N;
    t.z = m->Z;
    t.c = m->C;
    t.v = m->V;
    t.state = m->T;
    t.masked = m->PRIMASK;
    t.event = m->event;
    t.unprivileged = m->nPRIV;
    t.exception = m->IPSR;
    t.process_stack = m->SPSEL;
    t.other_sp = m->SPSEL ? m->MSP : m->PSP;
    return t;
}

static void differ(const char *what, uint32_t i, uint32_t is, uint32_t wanted)
{
    if (is != wanted)
        fail_msg("instruction %04x: %s is 0x%x, wanted 0x%x", i, what, is, wanted);
}

static void compare(const thumb *t, thumb_event event, const machine *m, uint32_t i)
{
    static const char *const names[] = {"r0", "r1", "r2",  "r3",  "r4",  "r5", "r6", "r7",
                                        "r8", "r9", "r10", "r11", "r12", "sp", "lr"};
    thumb_event wanted = m->exception_return ? THUMB_RETURN
                         : m->bkpt           ? THUMB_BREAK
                         : m->svc            ? THUMB_SERVICE
                         : m->wfi            ? THUMB_WAIT
                         : m->wfe            ? THUMB_WAIT_EVENT
                                             : THUMB_DONE;
    differ("the event", i, event, wanted);
    for (unsigned k = 0; k < 15; k++)
        differ(names[k], i, t->r[k], m->R[k]);
    if (m->exception_return)
        differ("what it returns with", i, t->returns, m->exc_return);
    else
        differ("pc", i, t->r[THUMB_PC], m->next);
    differ("msp", i, thumb_main_sp(t), m->SPSEL ? m->MSP : m->R[13]);
    differ("psp", i, thumb_process_sp(t), m->SPSEL ? m->R[13] : m->PSP);
    differ("flags", i, t->n * 8u + t->z * 4u + t->c * 2u + t->v,
           m->N * 8u + m->Z * 4u + m->C * 2u + m->V);
    differ("the state bit", i, t->state, m->T);
    differ("primask", i, t->masked, m->PRIMASK);
    differ("control", i, thumb_control(t), m->SPSEL * 2u + m->nPRIV);
    differ("the event register", i, t->event, m->event);
    differ("the exception", i, t->exception, m->IPSR);
    if (memcmp(own, m->ram, RAM))
        fail_msg("instruction %04x: memory differs", i);
}

/* One instruction at a random place, both ways. */
static void check(GRand *rand, uint32_t i, bool wide)
{
    static machine m, before;
    uint32_t at = (uint32_t)g_rand_int_range(rand, 0, RAM / 2 - 8) * 2;
    begin(rand, &m, at);
    if (wide) {
        m.ram[at] = (uint8_t)(i >> 16);
        m.ram[at + 1] = (uint8_t)(i >> 24);
    }
    m.ram[at + 2 * wide] = (uint8_t)i;
    m.ram[at + 2 * wide + 1] = (uint8_t)(i >> 8);
    before = m;
    memcpy(own, m.ram, RAM);
    thumb t = twin(&m, at);
    const thumb was = t;
    const row *r = decode(i, wide);
    m.next = at + (wide ? 4 : 2);
    if (r)
        r->does(&m, r, i);
    else
        m.undefined = true;
    if (m.bkpt)
        m.next = at;
    thumb_event event = thumb_step(&t);
    bool bad = m.undefined || m.unpredictable || m.abort;
    if (!bad) {
        compare(&t, event, &m, i);
        return;
    }
    differ("the event", i, event, m.abort ? THUMB_FAULT : THUMB_UNKNOWN);
    t.cycles = was.cycles;
    t.faulted = was.faulted;
    if (memcmp(&t, &was, sizeof t))
        fail_msg("instruction %04x: it faults and has changed something", i);
    if (!m.abort && memcmp(own, before.ram, RAM))
        fail_msg("instruction %04x: it is none, and has stored something", i);
}

static void every_encoding_does_what_the_manual_says(void **state)
{
    GRand *rand = g_rand_new_with_seed(17);
    (void)state;
    for (unsigned round = 0; round < 4; round++)
        for (uint32_t i = 0; i < 0xE800; i++)
            check(rand, i, false);
    g_rand_free(rand);
}

static void every_wide_encoding_does_what_the_manual_says(void **state)
{
    GRand *rand = g_rand_new_with_seed(18);
    (void)state;
    for (unsigned n = 0; n < 100000; n++) /* mostly none of this core's */
        check(rand, 0xE8000000u + (uint32_t)g_rand_int_range(rand, 0, 0x18000000), true);
    for (unsigned k = 0; k < G_N_ELEMENTS(broad); k++)
        for (unsigned n = 0; n < 5000; n++) {
            uint32_t i = 0;
            for (const char *p = broad[k].bits; *p; p++)
                if (*p != ' ')
                    i = i * 2 + (*p == '1' || (*p != '0' && g_rand_boolean(rand)));
            if (k && n % 4) /* special registers that there are */
                i = (i & ~0xFFu) |
                    (uint32_t)(uint8_t[]){0, 1, 3, 5, 8, 9, 16, 20}[g_rand_int_range(rand, 0, 8)];
            check(rand, i, true);
        }
    g_rand_free(rand);
}

/* The shifts by a register take amounts of more than 31 seriously. */
static void shifts_by_registers_for_all_amounts(void **state)
{
    GRand *rand = g_rand_new_with_seed(19);
    (void)state;
    static const uint16_t shifts[] = {0x4088, 0x40C8, 0x4108, 0x41C8}; /* r0 by r1 */
    for (unsigned k = 0; k < G_N_ELEMENTS(shifts); k++)
        for (unsigned by = 0; by < 256; by++) {
            machine m;
            begin(rand, &m, 0);
            m.R[1] = by | 0xABCDEF00u;
            m.ram[0] = (uint8_t)shifts[k];
            m.ram[1] = (uint8_t)(shifts[k] >> 8);
            memcpy(own, m.ram, RAM);
            thumb t = twin(&m, 0);
            const row *r = decode(shifts[k], false);
            m.next = 2;
            r->does(&m, r, shifts[k]);
            thumb_event event = thumb_step(&t);
            compare(&t, event, &m, shifts[k]);
        }
    g_rand_free(rand);
}

static void code_at_an_even_address_is_none(void **state)
{
    GRand *rand = g_rand_new_with_seed(20);
    machine m;
    (void)state;
    begin(rand, &m, 0x40);
    m.IPSR = 0;
    m.R[3] = 0x80;
    m.ram[0x40] = 0x18; /* bx r3 */
    m.ram[0x41] = 0x47;
    memcpy(own, m.ram, RAM);
    thumb t = twin(&m, 0x40);
    assert_int_equal(thumb_step(&t), THUMB_DONE);
    assert_int_equal(t.r[THUMB_PC], 0x80);
    assert_int_equal(thumb_step(&t), THUMB_FAULT);
    g_rand_free(rand);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_encoding_does_what_the_manual_says),
        cmocka_unit_test(every_wide_encoding_does_what_the_manual_says),
        cmocka_unit_test(shifts_by_registers_for_all_amounts),
        cmocka_unit_test(code_at_an_even_address_is_none),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
