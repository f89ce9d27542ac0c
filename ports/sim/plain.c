/* SPDX-License-Identifier: MIT */
/*
 * The entry points that compilers call before memory accesses when they build
 * with -fsanitize=thread; here they lead to the simulated chip. Accesses to
 * registers are told apart by their address, never by the entry point: a
 * compiler may announce a volatile bit-field as a plain access.
 *
 * Time passes on volatile accesses only, so that every optimisation level
 * behaves alike.
 */
#include <stddef.h>
#include <stdlib.h>
#include <string.h>

#include "sim/check/owned.h"
#include "sim/check/race.h"
#include "sim/core/bus.h"
#include "sim/core/fault.h"
#include "sim/core/report.h"
#include "sim/core/stop.h"
#include "sim/host/plain.h"

/* The caller's place; a macro, because it must see the caller's frame. */
#define CALLER(sim)                                                                                \
    (sim)->call.pc = (uintptr_t)__builtin_return_address(0);                                       \
    (sim)->call.frame = *(void **)__builtin_frame_address(0)

#define EXPORT __attribute__((visibility("default")))

static inline bool is_register(const wad_sim *sim, uintptr_t address)
{
    return address - sim->plain.regs_start < sim->plain.regs_end - sim->plain.regs_start;
}

/* ---- loads and stores ---- */

/* A variable: a volatile one takes time, once for each bus word; what watches it is told. */
static __attribute__((noinline)) void watched(wad_sim *sim, uintptr_t address, size_t bytes,
                                              bool write, wadi_how how)
{
    if (sim->ears & WADI_EAR_CALL_IN)
        wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_CALL_IN, .address = address});
    if (sim->ears & WADI_EAR_OWNED)
        wadi_owned_access(sim, address, bytes, write);
    if (sim->ears & WADI_EAR_VARIABLE)
        wadi_race_access(sim, address, bytes, write, how);
}

static inline void spend_words(wad_sim *sim, size_t bytes)
{
    wadi_cpu_access(sim);
    for (size_t at = sim->sheet->bus_bits / 8u; at < bytes; at += sim->sheet->bus_bits / 8u)
        wadi_cpu_access(sim);
}

#define ACCESS(sim, address, size, write, how, aligned)                                            \
    wad_sim *sim = wadi_current;                                                                   \
    if (!sim) {                                                                                    \
        wadi_plain_stray((uintptr_t)(address));                                                    \
        return;                                                                                    \
    }                                                                                              \
    wadi_flush(sim);                                                                               \
    if (__builtin_expect(is_register(sim, (uintptr_t)(address)), 0)) {                             \
        CALLER(sim);                                                                               \
        if (write)                                                                                 \
            wadi_plain_write(sim, (uintptr_t)(address), (unsigned)(size));                         \
        else                                                                                       \
            wadi_plain_read(sim, (uintptr_t)(address), (unsigned)(size));                          \
        return;                                                                                    \
    }                                                                                              \
    if ((how) != WADI_PLAIN) {                                                                     \
        CALLER(sim);                                                                               \
        spend_words(sim, (size));                                                                  \
    } else if (write) {                                                                            \
        sim->plain.writes++;                                                                       \
    } else {                                                                                       \
        sim->plain.reads++;                                                                        \
        sim->plain.read_pc = (uintptr_t)__builtin_return_address(0);                               \
        sim->plain.read_address = (uintptr_t)(address);                                            \
    }                                                                                              \
    if (__builtin_expect(                                                                          \
            ((aligned) && (uintptr_t)(address) & ((size)-1) & sim->plain.align_mask) ||            \
                sim->ears & WADI_EAR_MEMORY,                                                       \
            0)) {                                                                                  \
        CALLER(sim);                                                                               \
        if ((aligned) && (uintptr_t)(address) & ((size)-1) & sim->plain.align_mask)                \
            wadi_misaligned(sim, (uintptr_t)(address), (unsigned)(size));                          \
        watched(sim, (uintptr_t)(address), (size), (write), (how));                                \
    }

#define ONE(name, bytes, write, how, aligned)                                                      \
    EXPORT void name(void *address);                                                               \
    void name(void *address)                                                                       \
    {                                                                                              \
        ACCESS(sim, address, bytes, write, how, aligned)                                           \
    }

/* Read, then write, announced in one call. */
#define BOTH(name, bytes, aligned)                                                                 \
    EXPORT void name(void *address);                                                               \
    void name(void *address)                                                                       \
    {                                                                                              \
        if (wadi_current && is_register(wadi_current, (uintptr_t)address)) {                       \
            wadi_flush(wadi_current);                                                              \
            CALLER(wadi_current);                                                                  \
            wadi_plain_read(wadi_current, (uintptr_t)address, bytes);                              \
        }                                                                                          \
        ACCESS(sim, address, bytes, true, WADI_PLAIN, aligned)                                     \
    }

#define ACCESSES(bytes)                                                                            \
    ONE(__tsan_read##bytes, bytes, false, WADI_PLAIN, true)                                        \
    ONE(__tsan_volatile_read##bytes, bytes, false, WADI_VOLATILE, true)                            \
    ONE(__tsan_write##bytes, bytes, true, WADI_PLAIN, true)                                        \
    ONE(__tsan_volatile_write##bytes, bytes, true, WADI_VOLATILE, true)                            \
    BOTH(__tsan_read_write##bytes, bytes, true)

/* Of packed data: the target's compiler knows as well, and takes it apart. */
#define UNALIGNED(bytes)                                                                           \
    ONE(__tsan_unaligned_read##bytes, bytes, false, WADI_PLAIN, false)                             \
    ONE(__tsan_unaligned_volatile_read##bytes, bytes, false, WADI_VOLATILE, false)                 \
    ONE(__tsan_unaligned_write##bytes, bytes, true, WADI_PLAIN, false)                             \
    ONE(__tsan_unaligned_volatile_write##bytes, bytes, true, WADI_VOLATILE, false)                 \
    BOTH(__tsan_unaligned_read_write##bytes, bytes, false)

ACCESSES(1)
ACCESSES(2)
ACCESSES(4)
ACCESSES(8)
ACCESSES(16)
UNALIGNED(2)
UNALIGNED(4)
UNALIGNED(8)
UNALIGNED(16)

/* ---- ranges: struct copies ---- */

EXPORT void __tsan_read_range(void *address, size_t size);
EXPORT void __tsan_write_range(void *address, size_t size);

void __tsan_read_range(void *address, size_t size)
{
    ACCESS(sim, address, size, false, WADI_PLAIN, false)
}

void __tsan_write_range(void *address,
                        size_t size){ACCESS(sim, address, size, true, WADI_PLAIN, false)}

/* ---- functions: a write must not wait beyond its function ---- */

EXPORT void __tsan_init(void);
EXPORT void __tsan_func_entry(void *caller);
EXPORT void __tsan_func_exit(void);

void __tsan_init(void)
{
}

void __tsan_func_entry(void *caller)
{
    wad_sim *sim = wadi_current;
    (void)caller;
    if (sim)
        wadi_flush(sim);
}

void __tsan_func_exit(void)
{
    wad_sim *sim = wadi_current;
    if (sim)
        wadi_flush(sim);
}

EXPORT void __tsan_vptr_read(void **address);
EXPORT void __tsan_vptr_update(void **address, void *value);

void __tsan_vptr_read(void **address)
{
    (void)address;
}

void __tsan_vptr_update(void **address, void *value)
{
    (void)address;
    (void)value;
}

/* ---- atomics: carried out on memory; on a register a read, then a write ---- */

static void atomic_enter(const void *address, unsigned bytes, uintptr_t pc, void *frame)
{
    wad_sim *sim = wadi_current;
    if (!sim)
        return;
    wadi_flush(sim);
    sim->call.pc = pc;
    sim->call.frame = frame;
    if (is_register(sim, (uintptr_t)address))
        wadi_plain_read(sim, (uintptr_t)address, bytes);
    else {
        wadi_cpu_access(sim);
        if (sim->ears & WADI_EAR_MEMORY)
            watched(sim, (uintptr_t)address, bytes, false, WADI_ATOMIC);
    }
}

static void atomic_leave(const void *address, unsigned bytes)
{
    wad_sim *sim = wadi_current;
    if (!sim)
        return;
    if (is_register(sim, (uintptr_t)address))
        wadi_plain_write(sim, (uintptr_t)address, bytes);
    else if (sim->ears & WADI_EAR_MEMORY)
        watched(sim, (uintptr_t)address, bytes, true, WADI_ATOMIC);
}

#define ATOMIC_ENTER(address, type)                                                                \
    atomic_enter((const void *)(address), sizeof(type), (uintptr_t)__builtin_return_address(0),    \
                 *(void **)__builtin_frame_address(0))

#define ATOMIC_FETCH(type, bits, op)                                                               \
    EXPORT type __tsan_atomic##bits##_fetch_##op(volatile type *a, type v, int order);             \
    type __tsan_atomic##bits##_fetch_##op(volatile type *a, type v, int order)                     \
    {                                                                                              \
        (void)order;                                                                               \
        ATOMIC_ENTER(a, type);                                                                     \
        type old = __atomic_fetch_##op(a, v, __ATOMIC_SEQ_CST);                                    \
        atomic_leave((const void *)a, sizeof(type));                                               \
        return old;                                                                                \
    }

#define ATOMIC_CAS(type, bits, strength)                                                           \
    EXPORT int __tsan_atomic##bits##_compare_exchange_##strength(volatile type *a, type *expected, \
                                                                 type v, int order, int fail);     \
    int __tsan_atomic##bits##_compare_exchange_##strength(volatile type *a, type *expected,        \
                                                          type v, int order, int fail)             \
    {                                                                                              \
        (void)order;                                                                               \
        (void)fail;                                                                                \
        ATOMIC_ENTER(a, type);                                                                     \
        bool done = __atomic_compare_exchange_n(a, expected, v, false, __ATOMIC_SEQ_CST,           \
                                                __ATOMIC_SEQ_CST);                                 \
        if (done)                                                                                  \
            atomic_leave((const void *)a, sizeof(type));                                           \
        return done;                                                                               \
    }

#define ATOMICS(type, bits)                                                                        \
    EXPORT type __tsan_atomic##bits##_load(const volatile type *a, int order);                     \
    type __tsan_atomic##bits##_load(const volatile type *a, int order)                             \
    {                                                                                              \
        (void)order;                                                                               \
        ATOMIC_ENTER(a, type);                                                                     \
        return __atomic_load_n(a, __ATOMIC_SEQ_CST);                                               \
    }                                                                                              \
    EXPORT void __tsan_atomic##bits##_store(volatile type *a, type v, int order);                  \
    void __tsan_atomic##bits##_store(volatile type *a, type v, int order)                          \
    {                                                                                              \
        (void)order;                                                                               \
        ATOMIC_ENTER(a, type);                                                                     \
        __atomic_store_n(a, v, __ATOMIC_SEQ_CST);                                                  \
        atomic_leave((const void *)a, sizeof(type));                                               \
    }                                                                                              \
    EXPORT type __tsan_atomic##bits##_exchange(volatile type *a, type v, int order);               \
    type __tsan_atomic##bits##_exchange(volatile type *a, type v, int order)                       \
    {                                                                                              \
        (void)order;                                                                               \
        ATOMIC_ENTER(a, type);                                                                     \
        type old = __atomic_exchange_n(a, v, __ATOMIC_SEQ_CST);                                    \
        atomic_leave((const void *)a, sizeof(type));                                               \
        return old;                                                                                \
    }                                                                                              \
    EXPORT type __tsan_atomic##bits##_compare_exchange_val(volatile type *a, type expected,        \
                                                           type v, int order, int fail);           \
    type __tsan_atomic##bits##_compare_exchange_val(volatile type *a, type expected, type v,       \
                                                    int order, int fail)                           \
    {                                                                                              \
        __tsan_atomic##bits##_compare_exchange_strong(a, &expected, v, order, fail);               \
        return expected;                                                                           \
    }

#define ATOMIC_ALL(type, bits)                                                                     \
    ATOMIC_FETCH(type, bits, add)                                                                  \
    ATOMIC_FETCH(type, bits, sub)                                                                  \
    ATOMIC_FETCH(type, bits, and)                                                                  \
    ATOMIC_FETCH(type, bits, or)                                                                   \
    ATOMIC_FETCH(type, bits, xor)                                                                  \
    ATOMIC_FETCH(type, bits, nand)                                                                 \
    ATOMIC_CAS(type, bits, strong)                                                                 \
    ATOMIC_CAS(type, bits, weak)                                                                   \
    ATOMICS(type, bits)

ATOMIC_ALL(uint8_t, 8)
ATOMIC_ALL(uint16_t, 16)
ATOMIC_ALL(uint32_t, 32)
ATOMIC_ALL(uint64_t, 64)

EXPORT void __tsan_atomic_thread_fence(int order);
EXPORT void __tsan_atomic_signal_fence(int order);

void __tsan_atomic_thread_fence(int order)
{
    (void)order;
    if (wadi_current)
        wadi_flush(wadi_current);
}

void __tsan_atomic_signal_fence(int order)
{
    __tsan_atomic_thread_fence(order);
}

/* ---- the library's block calls, linked with --wrap: copies from and to registers ---- */

EXPORT void *__wrap_memcpy(void *to, const void *from, size_t n);
EXPORT void *__wrap_memmove(void *to, const void *from, size_t n);
EXPORT void *__wrap_memset(void *to, int value, size_t n);

/* Announces a range of registers as the loads and stores that a copy makes. */
static void announce(wad_sim *sim, uintptr_t address, size_t n, bool write, uintptr_t pc,
                     void *frame)
{
    wadi_flush(sim);
    if (!n || (!is_register(sim, address) && !(sim->ears & WADI_EAR_MEMORY)))
        return;
    sim->call.pc = pc;
    sim->call.frame = frame;
    if (!is_register(sim, address))
        watched(sim, address, n, write, WADI_PLAIN);
    else if (write)
        wadi_plain_write(sim, address, (unsigned)n);
    else
        wadi_plain_read(sim, address, (unsigned)n);
}

/* A copy, which may overlap: the source is announced as read, the target as written. */
static void *copy(void *to, const void *from, size_t n, uintptr_t pc, void *frame)
{
    wad_sim *sim = wadi_current;
    if (sim) {
        announce(sim, (uintptr_t)from, n, false, pc, frame);
        announce(sim, (uintptr_t)to, n, true, pc, frame);
    }
    memmove(to, from, n);
    if (sim)
        wadi_flush(sim);
    return to;
}

void *__wrap_memmove(void *to, const void *from, size_t n)
{
    return copy(to, from, n, (uintptr_t)__builtin_return_address(0),
                *(void **)__builtin_frame_address(0));
}

void *__wrap_memcpy(void *to, const void *from, size_t n)
{
    return copy(to, from, n, (uintptr_t)__builtin_return_address(0),
                *(void **)__builtin_frame_address(0));
}

void *__wrap_memset(void *to, int value, size_t n)
{
    wad_sim *sim = wadi_current;
    if (sim)
        announce(sim, (uintptr_t)to, n, true, (uintptr_t)__builtin_return_address(0),
                 *(void **)__builtin_frame_address(0));
    memset(to, value, n);
    if (sim)
        wadi_flush(sim);
    return to;
}

/* ---- the way out of a hosted program, linked with --wrap: a controller has none ---- */

EXPORT void __wrap_exit(int status) __attribute__((noreturn));
EXPORT void __wrap__exit(int status) __attribute__((noreturn));
EXPORT void __wrap_abort(void) __attribute__((noreturn));

static void leave(char *story, uintptr_t pc, void *frame) __attribute__((noreturn));
static void leave(char *story, uintptr_t pc, void *frame)
{
    wad_sim *sim = wadi_current;
    if (!sim)
        abort();
    wadi_flush(sim);
    sim->call.pc = pc;
    sim->call.frame = frame;
    sim->run.story.trace = wadi_trace_here(sim);
    wadi_run_stop(sim, WAD_RUN_RETURNED, story);
}

#define LEAVE(...)                                                                                 \
    leave(g_strdup_printf(__VA_ARGS__), (uintptr_t)__builtin_return_address(0),                    \
          *(void **)__builtin_frame_address(0))

void __wrap_exit(int status)
{
    LEAVE("the firmware called exit(%d): a controller has nowhere to go", status);
}

void __wrap__exit(int status)
{
    LEAVE("the firmware called _exit(%d): a controller has nowhere to go", status);
}

void __wrap_abort(void)
{
    LEAVE("the firmware called abort()");
}
