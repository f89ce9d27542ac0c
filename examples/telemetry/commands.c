/* SPDX-License-Identifier: MIT */
#include "commands.h"

#include <stddef.h>

#include <corran32.h>
#include <wadium/reg.h>

/* What can be asked for by name; everything else by its address. */
#define AT(block, layout, reg)                                                                     \
    {                                                                                              \
#block "." #reg, CORRAN32_##block##_BASE + offsetof(corran32_##layout##_regs, reg)         \
    }

static const struct {
    const char *name;
    uintptr_t address;
} names[] = {AT(CLK, clocks, GATE),   AT(CLK, clocks, RESET),  AT(PINC, gpio, OUT),
             AT(UART0, serial, CTRL), AT(UART0, serial, STAT), AT(UART0, serial, BAUD)};

/* Registers lie here; anything else would be a bus fault. */
#define FIRST 0x40000000u
#define LAST  0x4001FFFFu

typedef struct answer {
    wad_put_fn put;
    void *context;
} answer;

/* ---- words of a line ---- */

static const char *skip(const char *p)
{
    while (*p == ' ')
        p++;
    return p;
}

static bool is_digit(char c, uint32_t radix, uint32_t *digit)
{
    *digit = c >= '0' && c <= '9'   ? (uint32_t)(c - '0')
             : c >= 'a' && c <= 'f' ? (uint32_t)(c - 'a') + 10u
             : c >= 'A' && c <= 'F' ? (uint32_t)(c - 'A') + 10u
                                    : 99u;
    return *digit < radix;
}

/* 42 or 0x2a; false: no number stands there. */
static bool number(const char **at, uint32_t *value)
{
    const char *p = skip(*at);
    uint32_t radix = p[0] == '0' && p[1] == 'x' ? 16 : 10, digit;
    p += radix == 16 ? 2 : 0;
    if (!is_digit(*p, radix, &digit))
        return false;
    for (*value = 0; is_digit(*p, radix, &digit); p++)
        *value = *value * radix + digit;
    *at = p;
    return true;
}

/* How long `word` is where `text` begins with it as a whole word; else 0. */
static size_t word_length(const char *text, const char *word)
{
    size_t n = 0;
    while (word[n] && text[n] == word[n])
        n++;
    return !word[n] && (text[n] == ' ' || !text[n]) ? n : 0;
}

/* A name of the table, or an address that a register can have. */
static bool place(const char **at, uint32_t *address)
{
    const char *p = skip(*at);
    for (unsigned i = 0; i < sizeof names / sizeof names[0]; i++) {
        size_t n = word_length(p, names[i].name);
        if (n) {
            *address = (uint32_t)names[i].address;
            *at = p + n;
            return true;
        }
    }
    return number(at, address) && *address >= FIRST && *address <= LAST - 3u && *address % 4u == 0;
}

/* ---- commands ---- */

static void say_where(const answer *a)
{
    wad_print(a->put, a->context, "? an address from %08x to %08x, a multiple of 4, or",
              (unsigned)FIRST, (unsigned)LAST);
    for (unsigned i = 0; i < sizeof names / sizeof names[0]; i++)
        wad_print(a->put, a->context, " %s", names[i].name);
    wad_print(a->put, a->context, "\n");
}

static void show(const answer *a, uint32_t address)
{
    wad_print(a->put, a->context, "%08x: %08x\n", (unsigned)address,
              (unsigned)wadi_read(address, 0, 4));
}

static void read_one(const char *rest, const answer *a)
{
    uint32_t address;
    if (place(&rest, &address))
        show(a, address);
    else
        say_where(a);
}

static void write_one(const char *rest, const answer *a)
{
    uint32_t address, value;
    if (!place(&rest, &address)) {
        say_where(a);
    } else if (!number(&rest, &value)) {
        wad_print(a->put, a->context, "? write REG VALUE\n");
    } else {
        wadi_write(address, 0, 4, value);
        show(a, address);
    }
}

/* Registers as bytes, 64 at the most: reading some of them acts. */
static void dump(const char *rest, const answer *a)
{
    uint32_t words[16], address, n = 16;
    if (!place(&rest, &address)) {
        say_where(a);
        return;
    }
    (void)number(&rest, &n);
    n = n > 64u ? 64u : n;
    for (uint32_t i = 0; i < (n + 3u) / 4u; i++)
        words[i] = wadi_read(address, 4u * i, 4);
    wad_print_memory(a->put, a->context, words, n, address);
}

static void rate(const char *rest, const answer *a)
{
    uint32_t hz = 0;
    if (number(&rest, &hz) && set_rate(hz) == WAD_OK)
        wad_print(a->put, a->context, "%u a second\n", (unsigned)hz);
    else
        wad_print(a->put, a->context, "? rate 1 to 10\n");
}

static void help(const char *rest, const answer *a)
{
    (void)rest;
    wad_print(a->put, a->context,
              "read REG         a register's value\n"
              "write REG VALUE  and what it is then\n"
              "dump ADDR N      N bytes of registers\n"
              "rate N           sentences a second, 1 to 10\n"
              "REG and ADDR are an address such as 0x40000014, or a name such as CLK.RESET\n");
}

static const struct {
    const char *name;
    void (*fn)(const char *rest, const answer *a);
} commands[] = {
    {"help", help}, {"read", read_one}, {"write", write_one}, {"dump", dump}, {"rate", rate}};

void obey(const char *line, wad_put_fn put, void *context)
{
    const answer a = {put, context};
    line = skip(line);
    for (unsigned i = 0; i < sizeof commands / sizeof commands[0]; i++) {
        size_t n = word_length(line, commands[i].name);
        if (n) {
            commands[i].fn(line + n, &a);
            return;
        }
    }
    if (*line)
        wad_print(put, context, "? %s: try help\n", line);
}
