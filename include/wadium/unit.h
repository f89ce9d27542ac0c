/* SPDX-License-Identifier: MIT */
/*
 * What all drivers of constant handles share: a handle whose unit and settings the compiler knows
 * becomes the register accesses themselves; another one calls what was compiled for its form.
 *
 * A form is a way in which a kind's roles lie on a chip. Units of equal role tables are of one
 * form; the chip's generated header numbers them, gives each unit its number, and finds table and
 * functions by it: `WADI_UART_FORMS(X, ...)` is X(form, ...) for each form that the chip has,
 * `WADI_UART_MORE(X, ...)` for each but the first.
 * docs/drivers.md tells how it works.
 */
#ifndef WADIUM_UNIT_H
#define WADIUM_UNIT_H

#ifndef WADI_CHIP_SAYS
#error "include the chip's own header, such as corran32_roles.h: it includes this one"
#endif

#include "irq.h"
#include "rate.h"
#include "roles.h"
#include "route.h"
#include "status.h"

/** A block of the chip that is a port of pins; generated. */
typedef struct wad_pin_unit {
    wad_block block;
    uint8_t form;
} wad_pin_unit;

/** What drivers need of the chip besides their unit, by pointers that fold; one a chip, generated.
 * What the chip has not is NULL. */
typedef struct wad_chip {
    const wad_pin_unit *const *ports; /**< by the number in a pin */
    unsigned n_ports;
    uintptr_t interrupts_base;
    const wad_interrupts_roles *interrupts;
} wad_chip;

WADI_INLINE const wad_chip *wadi_chip(void); /* the chip's header has it */

/* ---- what the compiler knows ---- */

/* True where the optimiser knows the value. Asked of a variable: of a call it says no at once. */
#if defined(__OPTIMIZE__) && defined(__GNUC__)
#define WADI_FOLDS(x) __builtin_constant_p(x)
#define WADI_MAY_FOLD 1
#else
#define WADI_MAY_FOLD                                                                              \
    0 /* in front of what only the optimiser can tell: nothing may be left of it */
#define WADI_FOLDS(x) ((void)sizeof(x), 0)
#endif

typedef struct wadi_sum {
    uintptr_t address;
    uint32_t bits;
} wadi_sum;

WADI_INLINE void wadi_probe(wadi_sum *sum, wad_field f)
{
    sum->address += f.off;
    sum->bits |= wadi_ones(f) << f.lsb;
}

/* Does it follow a field through a pointer, as all bodies must? Some compilers do not when they
 * optimise for debugging; there the form's own functions are called. */
WADI_INLINE bool wadi_follows(uintptr_t base, const wad_field *f)
{
    wadi_sum sum = {base, 0};
    wadi_probe(&sum, *f);
    wadi_probe(&sum, wad_at(*f, 0));
    uintptr_t all = sum.address + (uintptr_t)sum.bits;
    return WADI_FOLDS(all);
}

/* A unit whose place and table are known: what is left of a body is its accesses. */
#define WADI_KNOWS(unit, role)                                                                     \
    (WADI_FOLDS((unit)->block.base) && WADI_FOLDS((unit)->form) &&                                 \
     wadi_follows((unit)->block.base, (role)))

/* Called on a condition that the compiler found to hold: the build ends with the text. */
#if defined(__GNUC__) && !defined(__clang__)
#define WADI_REFUSE(name, text) void name(void) __attribute__((error(text)))
#elif defined(__clang__) && __clang_major__ >= 14
#define WADI_REFUSE(name, text) void name(void) __attribute__((error(text)))
#else
#define WADI_REFUSE(name, text)                                                                    \
    static inline void name(void)                                                                  \
    {                                                                                              \
    }
#endif

/* What is wrong ends the build where the compiler knows it, and the call where only the run does:
 * a handle may be known but for one member. */
#define WADI_REFUSE_IF(wrong, refuse, status)                                                      \
    {                                                                                              \
        const bool wrong_ = (wrong);                                                               \
        if (WADI_FOLDS(wrong_)) {                                                                  \
            if (wrong_)                                                                            \
                refuse();                                                                          \
        } else if (wrong_) {                                                                       \
            return status;                                                                         \
        }                                                                                          \
    }

/* A call that this chip cannot have. */
#if defined(__GNUC__) && (!defined(__clang__) || __clang_major__ >= 14)
#define WADI_REFUSED(type, name, text, ...) type name(__VA_ARGS__) __attribute__((error(text)))
#else
#define WADI_REFUSED(type, name, text, ...) type name(__VA_ARGS__)
#endif

/* ---- by form ---- */

#define WADI_DECLARE_ONE(form_, type, name, ...) type name##_##form_(__VA_ARGS__);
/* The functions of each form, and that which finds the form by the unit's number. */
#define WADI_DECLARE(forms, type, name, ...)                                                       \
    forms(WADI_DECLARE_ONE, type, name, __VA_ARGS__) type name##_any(__VA_ARGS__)

#define WADI_BY_ONE(form_, n, name, ...) (n) == form_ ? name##_##form_(__VA_ARGS__):
/* A known form: its own function. */
#define WADI_BY_FORM(forms, n, name, ...)                                                          \
    (!WADI_FOLDS(n) ? name##_any(__VA_ARGS__)                                                      \
                    : forms(WADI_BY_ONE, n, name, __VA_ARGS__) name##_any(__VA_ARGS__))
/* The same where it is known to be known, and in the body of NAME_any; `more` are the forms but the
 * first. */
#define WADI_OF_FORM(more, n, name, ...)                                                           \
    (more(WADI_BY_ONE, n, name, __VA_ARGS__) name##_0(__VA_ARGS__))

/* ---- a block and its pins, up ---- */

enum { WADI_POLLS = 4096 }; /* of a reset that must be over; one short instruction where it folds */

WADI_INLINE wad_need wadi_need(const wad_block *b, unsigned i)
{
    const wad_need none = {0};
    return b && i < b->n_needs ? b->needs[i] : none;
}

/* Of one register: one access for both. */
WADI_INLINE void wadi_join(wad_need *a, wad_need *b)
{
    if (!a->size || !b->size || a->address != b->address || a->wait != b->wait)
        return;
    a->mask |= b->mask;
    a->value |= b->value;
    b->size = 0;
}

WADI_INLINE void wadi_set_need(wad_need n)
{
    if (!n.size || n.wait)
        return;
    uintptr_t page = n.address & ~(uintptr_t)0xFFF;
    uint32_t off = (uint32_t)(n.address & 0xFFF);
    uint32_t old = wadi_read(page, off, n.size);
    wadi_write(page, off, n.size, n.value == n.mask ? old | n.value : (old & ~n.mask) | n.value);
}

WADI_INLINE bool wadi_wait_need(wad_need n)
{
    if (!n.size || !n.wait)
        return true;
    uintptr_t page = n.address & ~(uintptr_t)0xFFF;
    uint32_t off = (uint32_t)(n.address & 0xFFF);
    uint32_t polls = WADI_POLLS, wrong;
    do {
        wrong = wadi_read(page, off, n.size);
        wrong = (n.value == n.mask ? ~wrong : wrong ^ n.value) & n.mask;
        if (wrong && !--polls)
            return false;
    } while (wrong);
    return true;
}

#define WADI_UP_STEP(i, act)                                                                       \
    {                                                                                              \
        wad_need x = wadi_need(a, i), y = wadi_need(b, i), z = wadi_need(c, i);                    \
        wadi_join(&x, &y);                                                                         \
        wadi_join(&x, &z);                                                                         \
        wadi_join(&y, &z);                                                                         \
        act                                                                                        \
    }
#define WADI_UP_SET wadi_set_need(x), wadi_set_need(y), wadi_set_need(z);
#define WADI_UP_WAIT                                                                               \
    if (!wadi_wait_need(x) || !wadi_wait_need(y) || !wadi_wait_need(z))                            \
        return false;

/* Up to three blocks, four needs each, of which all settings precede all waits: the generator marks
 * the others (`in_order`), and wad_block_up does them. */
WADI_INLINE bool wadi_up(const wad_block *a, const wad_block *b, const wad_block *c)
{
    uint32_t state = wad_port_irq_save(); /* gate registers are shared by all drivers */
    WADI_UP_STEP(0, WADI_UP_SET)
    WADI_UP_STEP(1, WADI_UP_SET)
    WADI_UP_STEP(2, WADI_UP_SET)
    WADI_UP_STEP(3, WADI_UP_SET)
    wad_port_irq_restore(state);
    WADI_UP_STEP(0, WADI_UP_WAIT)
    WADI_UP_STEP(1, WADI_UP_WAIT)
    WADI_UP_STEP(2, WADI_UP_WAIT)
    WADI_UP_STEP(3, WADI_UP_WAIT)
    return true;
}

/* What a handle says of its block's clock, to a port that knows better. */
WADI_INLINE void wadi_tell_clock(const wad_block *block, uint32_t clock_hz)
{
#ifdef WAD_PORT_TELLS
    if (clock_hz)
        wad_port_tell_clock(block->base, clock_hz);
#else
    (void)block;
    (void)clock_hz;
#endif
}

/* ---- words: fields of one register gathered, then written once ---- */

typedef struct wadi_word {
    uint32_t off, value, mask; /* which bits of it are known */
} wadi_word;

/* Into the word when it lies in that register. */
WADI_INLINE bool wadi_gather_here(wadi_word *w, wad_field f, uint32_t value)
{
    if (!wad_has(f) || f.off != w->off)
        return false;
    const uint32_t mask = wadi_ones(f) << f.lsb;
    w->value = (w->value & ~mask) | (value << f.lsb & mask);
    w->mask |= mask;
    return true;
}

/* The same, else written at once. */
WADI_INLINE void wadi_gather(uintptr_t base, wadi_word *w, wad_field f, uint32_t value)
{
    if (!wadi_gather_here(w, f, value) && wad_has(f))
        wad_put(base, f, value);
}

/* Whole, where it covers all that a write would change; else merged. */
WADI_INLINE void wadi_put_word(uintptr_t base, const wadi_word *w, uint8_t size, uint32_t writable)
{
    uint32_t value = w->value;
    if (!w->mask)
        return;
    if (writable & ~w->mask)
        value |= wadi_read(base, w->off, size) & ~w->mask;
    wadi_write(base, w->off, size, value);
}

/* A flag that 1 clears goes with others of its register in one write; another by itself. */
WADI_INLINE void wadi_clear_with(uintptr_t base, wadi_word *w, wad_field f)
{
    if (!wad_has(f))
        return;
    if ((f.how & WAD_HOW_KIND) == WAD_HOW_ONE && f.off == w->off)
        (void)wadi_gather_here(w, f, 0xFFFFFFFFu);
    else
        wad_clear(base, f);
}

/* ---- pins ---- */

WADI_INLINE const wad_pin_unit *wadi_pin_port(wad_pin pin)
{
    const wad_chip *chip = wadi_chip();
    return (unsigned)pin >> 8 < chip->n_ports ? chip->ports[pin >> 8] : NULL;
}

WADI_INLINE const wad_block *wadi_port_of(wad_route route)
{
    const wad_pin_unit *port = route ? wadi_pin_port(WAD_ROUTE_PIN(route)) : NULL;
    return port ? &port->block : NULL;
}

#ifdef WADI_GPIO_FORMS

/* The chip's header has them. */
WADI_INLINE const wad_gpio_roles *wadi_gpio_roles(unsigned form);
WADI_INLINE void wadi_gpio_unlock(unsigned form, uintptr_t base);
WADI_INLINE void wadi_gpio_lock(unsigned form, uintptr_t base);

/* The role's place by pin, of the port that has the pin. */
WADI_INLINE wad_field wadi_function_of(wad_route route)
{
    const wad_pin_unit *port = wadi_pin_port(WAD_ROUTE_PIN(route));
    return wad_at(wadi_gpio_roles(port ? port->form : 0)->function, WAD_ROUTE_PIN(route) & 0xFFu);
}

/* Before and after a field is written that may be behind the port's lock. */
WADI_INLINE void wadi_pins_open(const wad_pin_unit *port, wad_field f)
{
    if (port && f.how & WAD_HOW_LOCKED)
        wadi_gpio_unlock(port->form, port->block.base);
}

WADI_INLINE void wadi_pins_close(const wad_pin_unit *port, wad_field f)
{
    if (port && f.how & WAD_HOW_LOCKED)
        wadi_gpio_lock(port->form, port->block.base);
}

/* No signals that move together by a field of their block, and ports that drivers serve. */
WADI_INLINE bool wadi_is_plain(wad_route route)
{
    return !route ||
           (!WAD_ROUTE_FIELD(route) && wadi_port_of(route) && !wadi_port_of(route)->in_order &&
            (!WAD_ROUTE_FN(route) || wad_has(wadi_function_of(route))));
}

/* Does it lie in that register of that port? */
WADI_INLINE bool wadi_is_beside(wad_route a, wad_route b)
{
    return a && b && WAD_ROUTE_FN(a) && WAD_ROUTE_FN(b) &&
           wadi_pin_port(WAD_ROUTE_PIN(a)) == wadi_pin_port(WAD_ROUTE_PIN(b)) &&
           wadi_function_of(a).off == wadi_function_of(b).off;
}

/* The function of `a`, and of those of the others that lie beside it. */
WADI_INLINE void wadi_put_functions(wad_route a, wad_route b, wad_route c)
{
    const wad_pin_unit *port = wadi_pin_port(WAD_ROUTE_PIN(a));
    const wad_field f = wadi_function_of(a);
    if (!port)
        return;
    wadi_word w = {f.off, 0, 0};
    (void)wadi_gather_here(&w, f, WAD_ROUTE_FN(a));
    if (wadi_is_beside(a, b))
        (void)wadi_gather_here(&w, wadi_function_of(b), WAD_ROUTE_FN(b));
    if (wadi_is_beside(a, c))
        (void)wadi_gather_here(&w, wadi_function_of(c), WAD_ROUTE_FN(c));
    wadi_pins_open(port, f);
    wadi_put_word(port->block.base, &w, f.size, 0xFFFFFFFFu);
    wadi_pins_close(port, f);
}

/* Three pins' functions, merged under the mask; one access for those of one register. */
WADI_INLINE void wadi_functions(wad_route a, wad_route b, wad_route c)
{
    const bool has_a = a && WAD_ROUTE_FN(a), has_b = b && WAD_ROUTE_FN(b);
    const bool has_c = c && WAD_ROUTE_FN(c);
    if (!has_a && !has_b && !has_c)
        return;
    uint32_t state = wad_port_irq_save();
    if (has_a)
        wadi_put_functions(a, b, c);
    if (has_b && !wadi_is_beside(a, b))
        wadi_put_functions(b, c, 0);
    if (has_c && !wadi_is_beside(a, c) && !wadi_is_beside(b, c))
        wadi_put_functions(c, 0, 0);
    wad_port_irq_restore(state);
}

#else /* the chip has no ports that drivers serve */

WADI_INLINE bool wadi_is_plain(wad_route route)
{
    return !route;
}

WADI_INLINE void wadi_functions(wad_route a, wad_route b, wad_route c)
{
    (void)a;
    (void)b;
    (void)c;
}

#endif

/* wad_pin_route and its like, for drivers: of any chip (drivers/pin.c). */
wad_status wadi_route_any(wad_route route);
wad_status wadi_route_analog(wad_route route);

WADI_INLINE wad_status wadi_route(wad_route route)
{
    const wad_block *port = wadi_port_of(route);
    if (!WADI_MAY_FOLD || !WADI_FOLDS(route) || !port || !WADI_FOLDS(port->base) ||
        !wadi_is_plain(route))
        return wadi_route_any(route);
    if (!wadi_up(port, 0, 0))
        return WAD_E_TIMEOUT;
    wadi_functions(route, 0, 0);
    return WAD_OK;
}

/* The pin's function, and its digital input off; its port is up. */
WADI_INLINE void wadi_take_analog(wad_route route)
{
#ifdef WADI_GPIO_FORMS
    const wad_pin_unit *port = wadi_pin_port(WAD_ROUTE_PIN(route));
    if (!port)
        return;
    const wad_field f = wadi_function_of(route);
    const wad_field off =
        wad_at(wadi_gpio_roles(port->form)->digital_off, WAD_ROUTE_PIN(route) & 0xFFu);
    uint32_t state = wad_port_irq_save();
    if (WAD_ROUTE_FN(route)) {
        wadi_pins_open(port, f);
        wad_put(port->block.base, f, WAD_ROUTE_FN(route));
        wadi_pins_close(port, f);
    }
    if (wad_has(off)) {
        wadi_pins_open(port, off);
        wad_put(port->block.base, off, 1);
        wadi_pins_close(port, off);
    }
    wad_port_irq_restore(state);
#else
    (void)route;
#endif
}

WADI_INLINE wad_status wadi_analog(wad_route route)
{
    const wad_block *port = wadi_port_of(route);
    if (!WADI_MAY_FOLD || !WADI_FOLDS(route) || !port || !WADI_FOLDS(port->base) ||
        !wadi_is_plain(route))
        return wadi_route_analog(route);
    if (!wadi_up(port, 0, 0))
        return WAD_E_TIMEOUT;
    wadi_take_analog(route);
    return WAD_OK;
}

/* ---- interrupts ---- */

/* A line at the controller; what the compiler cannot follow goes to wad_irq_enable. */
WADI_INLINE wad_status wadi_line_on(int line, unsigned priority)
{
    const wad_chip *chip = wadi_chip();
    const wad_interrupts_roles *r = chip->interrupts;
    if (!r || line < 0 || !WADI_FOLDS(line) || !WADI_FOLDS(priority) ||
        (wad_has(r->priority) ? priority > wadi_ones(r->priority) : priority > 0))
        return wad_irq_enable(line, priority);
    uint32_t state = wad_port_irq_save();
    if (wad_has(r->priority))
        wad_put(chip->interrupts_base, wad_at(r->priority, (unsigned)line), priority);
    wad_put(chip->interrupts_base, wad_at(r->enable, (unsigned)line), 1);
    wad_port_irq_restore(state);
    return WAD_OK;
}

#endif
