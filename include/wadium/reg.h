/* SPDX-License-Identifier: MIT */
/*
 * Register fields: how to ask, set and clear them, on any chip.
 *
 *     #include "corran32_roles.h"
 *
 *     wad_put(CORRAN32_CNT0_BASE, corran32_counter_presc_div, 47);
 *     wad_put2(CORRAN32_CLK_BASE, corran32_clocks_pll_mul, 6, corran32_clocks_pll_div, 1);
 *     if (wad_get(CORRAN32_CNT0_BASE, corran32_counter_stat_wrap))
 *         wad_clear(CORRAN32_CNT0_BASE, corran32_counter_stat_wrap);
 *
 * A wad_field knows its place and how it is written: merged with the rest of
 * its register, alone, by writing 1 or by writing 0. With a constant field each
 * call folds to the volatile accesses one would write by hand.
 *
 * None of these calls blocks, and a handler may make them. One that merges
 * (reads, then writes) is not atomic: guard it with wad_port_irq_save where a
 * handler writes the same register.
 */
#ifndef WADIUM_REG_H
#define WADIUM_REG_H

#include <stddef.h>

#include "port.h"

/** Changes whenever generated role tables would no longer fit these headers. */
#define WAD_ROLES_FORMAT 8

/** How a field is written. */
enum {
    WAD_HOW_MERGE, /**< read the register, change the field, write it back */
    WAD_HOW_ALONE, /**< the only field one writes: write it, the rest 0 */
    WAD_HOW_ONE,   /**< 1 acts (clears or sets), 0 leaves alone: write the mask, never read */
    WAD_HOW_READ,  /**< read-only, or cleared by reading */
    WAD_HOW_ZERO,  /**< 0 clears, 1 leaves alone: write 1 to the register's other flags, `ones` */
    WAD_HOW_ENTRY, /**< a flag that hardware clears when its handler is entered */
    WAD_HOW_DATA,  /**< a flag that reading a data register clears, `high` bytes further on */
    WAD_HOW_KIND = 0x0F,
    /* and besides */
    WAD_HOW_HIGH_FIRST = 0x10, /**< split: the high part is written first */
    WAD_HOW_LATCHES = 0x20,    /**< split: reading the low part holds the high one */
    WAD_HOW_LOCKED = 0x40,     /**< a lock must be opened before it is written */
    WAD_HOW_BESIDE = 0x80,     /**< WAD_HOW_ZERO: settings in the register, which must stay */
};

/** A field, or an array of fields; width 0: this chip has no such field. */
typedef struct wad_field {
    uint16_t off;  /**< bytes from the block's base */
    uint16_t step; /**< bytes from one register of an array to the next; WAD_HOW_DATA: of the data
                      registers */
    uint8_t lsb;
    uint8_t width; /**< bits */
    uint8_t size;  /**< bytes of the register: 1, 2 or 4 */
    uint8_t how;   /**< WAD_HOW_... */
    uint8_t lstep; /**< bits from one array element to the next */
    uint8_t n;     /**< array elements in one register */
    int16_t high;  /**< split over two registers: bytes from the low one to the high one, else 0 */
    uint32_t ones; /**< WAD_HOW_ZERO: all bits of the register that 0 clears, or that must be 1 */
} wad_field;

/** A setting that the field has not: in place of its code. */
#define WAD_NO_CODE 0xFFu

/** What must hold before a block answers: a field to set, or one to wait for. */
typedef struct wad_need {
    uintptr_t address;
    uint32_t mask;
    uint32_t value;
    uint8_t size;
    uint8_t wait; /**< 1: read-only, poll until it holds */
} wad_need;

/** A block of the chip, as generated from the sheet. */
typedef struct wad_block {
    uintptr_t base;
    uint32_t (*clock_hz)(void); /**< rate of the clock that reaches the block, in hertz */
    const wad_need *needs;
    uint8_t n_needs;
    uint8_t bits;          /**< width of its main counter or data register */
    uint8_t chooses_clock; /**< a register of its own selects its clock */
    uint8_t in_order;      /**< a need is met only after another was waited for */
    int16_t irq;           /**< interrupt line, -1 for none */
} wad_block;

#if defined(__GNUC__)
#define WADI_INLINE           static inline __attribute__((always_inline))
#define WADI_KNOWN(condition) (__builtin_constant_p(condition) && (condition))
#else
#define WADI_INLINE           static inline
#define WADI_KNOWN(condition) 0
#endif

/* Where int has 16 bits, 1u has as many. */
#define WADI_BIT(n) ((uint32_t)1 << (n))

#ifdef WAD_PORT_BY_SIZE /* a port of calls: one of them for any width */
#define wadi_read  wad_port_read
#define wadi_write wad_port_write
#else
WADI_INLINE uint32_t wadi_read(uintptr_t base, uint32_t off, uint8_t size)
{
    return size == 1   ? wad_port_read8(base, off)
           : size == 2 ? wad_port_read16(base, off)
                       : wad_port_read32(base, off);
}

WADI_INLINE void wadi_write(uintptr_t base, uint32_t off, uint8_t size, uint32_t value)
{
    if (size == 1)
        wad_port_write8(base, off, (uint8_t)value);
    else if (size == 2)
        wad_port_write16(base, off, (uint16_t)value);
    else
        wad_port_write32(base, off, value);
}
#endif

WADI_INLINE uint32_t wadi_ones(wad_field f)
{
    return f.width >= 32 ? 0xFFFFFFFFu : WADI_BIT(f.width) - 1u;
}

/* The i-th element of an array field as a plain field. */
WADI_INLINE wad_field wad_at(wad_field f, unsigned i)
{
    unsigned n = f.n ? f.n : 1u;
    f.off = (uint16_t)(f.off + i / n * f.step);
    if ((f.how & WAD_HOW_KIND) == WAD_HOW_DATA)
        f.high = (int16_t)(f.high + (int)(i * f.step));
    f.lsb = (uint8_t)(f.lsb + i % n * f.lstep);
    return f;
}

/** True when the chip has this field at all. */
WADI_INLINE bool wad_has(wad_field f)
{
    return f.width != 0;
}

/** True when the chip has the field, and that setting in it. */
WADI_INLINE bool wadi_has_code(wad_field f, uint32_t code)
{
    return wad_has(f) && code != WAD_NO_CODE;
}

/* Does it lie in two registers? */
WADI_INLINE bool wadi_is_split(wad_field f)
{
    return f.high && (f.how & WAD_HOW_KIND) != WAD_HOW_DATA;
}

/* The two halves of a split field as fields of their own. */
WADI_INLINE wad_field wadi_low_part(wad_field f)
{
    f.width = (uint8_t)(f.size * 8u - f.lsb);
    f.high = 0;
    return f;
}

WADI_INLINE wad_field wadi_high_part(wad_field f)
{
    f.width = (uint8_t)(f.width - (f.size * 8u - f.lsb));
    f.off = (uint16_t)(f.off + f.high);
    f.lsb = 0;
    f.high = 0;
    return f;
}

/* The two halves as they belong together: where reading the low one does not hold the high one, the
 * high one is read until it is the same twice. */
WADI_INLINE uint32_t wadi_read_halves(uintptr_t base, wad_field f, uint32_t *high_half)
{
    wad_field low = wadi_low_part(f), high = wadi_high_part(f);
    uint32_t lo, hi;
    if (f.how & WAD_HOW_LATCHES) {
        lo = wadi_read(base, low.off, f.size);
        hi = wadi_read(base, high.off, f.size);
    } else {
        uint32_t again = wadi_read(base, high.off, f.size);
        do {
            hi = again;
            lo = wadi_read(base, low.off, f.size);
            again = wadi_read(base, high.off, f.size);
        } while (again != hi);
    }
    *high_half = hi & wadi_ones(high);
    return lo >> low.lsb & wadi_ones(low);
}

WADI_INLINE uint32_t wadi_get_split(uintptr_t base, wad_field f)
{
    uint32_t high, low = wadi_read_halves(base, f, &high);
    return low | high << wadi_low_part(f).width;
}

/** The field's value. One that is split over two registers comes whole, also while it counts. */
WADI_INLINE uint32_t wad_get(uintptr_t base, wad_field f)
{
    if (wadi_is_split(f))
        return wadi_get_split(base, f);
    return wadi_read(base, f.off, f.size) >> f.lsb & wadi_ones(f);
}

/** The same for a value of up to 64 bits. Never torn. */
WADI_INLINE uint64_t wad_get64(uintptr_t base, wad_field f)
{
    if (!wadi_is_split(f) || f.width <= 32)
        return wad_get(base, f);
    uint32_t high, low = wadi_read_halves(base, f, &high);
    return low | (uint64_t)high << wadi_low_part(f).width;
}

WADI_INLINE void wadi_put_plain(uintptr_t base, wad_field f, uint32_t value)
{
    uint32_t mask = wadi_ones(f) << f.lsb, bits = value << f.lsb & mask;
    if ((f.how & WAD_HOW_KIND) == WAD_HOW_ZERO)
        bits |= f.ones & ~mask;
    if (f.how & WAD_HOW_BESIDE)
        bits |= wadi_read(base, f.off, f.size) & ~f.ones;
    if ((f.how & WAD_HOW_KIND) == WAD_HOW_MERGE) {
        uint32_t old = wadi_read(base, f.off, f.size);
        /* setting every bit of a field needs no clearing first; compilers miss that after inlining
         */
        bits |= WADI_KNOWN(bits == mask) ? old : old & ~mask;
    }
    wadi_write(base, f.off, f.size, bits);
}

/** Sets the field to `value` (bits beyond its width are dropped). For a field that acts on 1,
 * `value` holds the ones; for one that acts on 0, the zeros. A split field takes two writes. */
WADI_INLINE void wad_put(uintptr_t base, wad_field f, uint32_t value)
{
    if (!wadi_is_split(f)) {
        wadi_put_plain(base, f, value);
        return;
    }
    wad_field low = wadi_low_part(f), high = wadi_high_part(f);
    if (f.how & WAD_HOW_HIGH_FIRST)
        wadi_put_plain(base, high, value >> low.width);
    wadi_put_plain(base, low, value);
    if (!(f.how & WAD_HOW_HIGH_FIRST))
        wadi_put_plain(base, high, value >> low.width);
}

/** The same for a value of up to 64 bits. */
WADI_INLINE void wad_put64(uintptr_t base, wad_field f, uint64_t value)
{
    if (!wadi_is_split(f) || f.width <= 32) {
        wad_put(base, f, (uint32_t)value);
        return;
    }
    wad_field low = wadi_low_part(f), high = wadi_high_part(f);
    if (f.how & WAD_HOW_HIGH_FIRST)
        wadi_put_plain(base, high, (uint32_t)(value >> low.width));
    wadi_put_plain(base, low, (uint32_t)value);
    if (!(f.how & WAD_HOW_HIGH_FIRST))
        wadi_put_plain(base, high, (uint32_t)(value >> low.width));
}

/** Sets two fields of one register in one write; the register's other fields stay. */
WADI_INLINE void wad_put2(uintptr_t base, wad_field f, uint32_t fv, wad_field g, uint32_t gv)
{
    uint32_t fm = wadi_ones(f) << f.lsb, gm = wadi_ones(g) << g.lsb;
    uint32_t old = wadi_read(base, f.off, f.size) & ~(fm | gm);
    wadi_write(base, f.off, f.size, old | (fv << f.lsb & fm) | (gv << g.lsb & gm));
}

/** Sets two fields of one register in one write and the register's other fields to 0. */
WADI_INLINE void wad_only2(uintptr_t base, wad_field f, uint32_t fv, wad_field g, uint32_t gv)
{
    uint32_t fm = wadi_ones(f) << f.lsb, gm = wadi_ones(g) << g.lsb;
    wadi_write(base, f.off, f.size, (fv << f.lsb & fm) | (gv << g.lsb & gm));
}

/* A field of a register of which several are set in one go: into `word` when it lies in the
 * register of `with`, else written at once. */
WADI_INLINE uint32_t wadi_also(uintptr_t base, uint32_t word, wad_field with, wad_field f,
                               uint32_t value)
{
    if (!wad_has(f))
        return word;
    if (f.off != with.off) {
        wad_put(base, f, value);
        return word;
    }
    return (word & ~(wadi_ones(f) << f.lsb)) | (value & wadi_ones(f)) << f.lsb;
}

/** Clears a flag the way its register wants it, and no other flag. */
WADI_INLINE void wad_clear(uintptr_t base, wad_field f)
{
    if ((f.how & WAD_HOW_KIND) == WAD_HOW_ENTRY)
        return;
    if ((f.how & WAD_HOW_KIND) == WAD_HOW_READ)
        (void)wadi_read(base, f.off, f.size);
    else if ((f.how & WAD_HOW_KIND) == WAD_HOW_DATA)
        (void)wadi_read(base, (uint32_t)(f.off + f.high), f.size);
    else
        wad_put(base, f, (f.how & WAD_HOW_KIND) == WAD_HOW_ONE ? 0xFFFFFFFFu : 0);
}

/** Takes a flag: true when it was set; then it is clear. Where reading clears, it is read once.
 * Where entering the handler has cleared it, that one knows that it was set: true. */
WADI_INLINE bool wad_take(uintptr_t base, wad_field f)
{
    if ((f.how & WAD_HOW_KIND) == WAD_HOW_ENTRY)
        return true;
    if (!wad_get(base, f))
        return false;
    if ((f.how & WAD_HOW_KIND) != WAD_HOW_READ)
        wad_clear(base, f);
    return true;
}

/**
 * Brings a block up: sets its gate and reset fields in the sheet's order and waits for the
 * read-only ones (reset done), each at most `polls` times. Blocks for that long; not for handlers
 * that share the gate registers. False: one never came.
 */
bool wad_block_up(const wad_block *block, uint32_t polls);

/** Sets or waits for one need; as wad_block_up. */
bool wad_need_meet(const wad_need *need, uint32_t polls);

#endif
