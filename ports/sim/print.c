/* SPDX-License-Identifier: MIT */
/*
 * Printing by the firmware: it comes out where wad_port_stdio says, else on the host's standard
 * output, and a handler that prints is told so. The linker sends the firmware's calls here
 * (--wrap).
 */
#include <stdarg.h>
#include <stdio.h>
#include <string.h>

#include "sim/check/habit.h"
#include "sim/core/sim.h"
#include "wadium/stdio.h"

#define PRINTS(name)                                                                               \
    wadi_handler_prints(name, (uintptr_t)__builtin_return_address(0),                              \
                        *(void **)__builtin_frame_address(0))

int __wrap_printf(const char *format, ...) __attribute__((format(printf, 1, 2)));
int __wrap_vprintf(const char *format, va_list args) __attribute__((format(printf, 1, 0)));
int __wrap_puts(const char *text);
int __wrap_putchar(int c);
int __wrap_getchar(void);

void wad_port_stdio(wad_stdout_fn out, wad_stdin_fn in, void *context)
{
    wadi_stdio *s = wadi_firmware_stdio();
    if (s)
        *s = (wadi_stdio){out, in, context};
}

/* False: there is no hook. */
static bool hooked(const char *text, size_t n)
{
    const wadi_stdio *s = wadi_firmware_stdio();
    if (!s || !s->out)
        return false;
    while (n) {
        size_t went = s->out(s->context, text, n);
        if (!went || went > n)
            break;
        text += went;
        n -= went;
    }
    return true;
}

static int print(const char *format, va_list args)
{
    const wadi_stdio *s = wadi_firmware_stdio();
    if (!s || !s->out)
        return vprintf(format, args);
    va_list again;
    va_copy(again, args);
    int n = vsnprintf(NULL, 0, format, again);
    va_end(again);
    if (n < 0)
        return n;
    char *text = g_alloca((gsize)n + 1); /* the run may end inside: nothing to be freed */
    vsnprintf(text, (size_t)n + 1, format, args);
    hooked(text, (size_t)n);
    return n;
}

int __wrap_vprintf(const char *format, va_list args)
{
    PRINTS("vprintf");
    return print(format, args);
}

int __wrap_printf(const char *format, ...)
{
    va_list args;
    PRINTS("printf");
    va_start(args, format);
    int n = print(format, args);
    va_end(args);
    return n;
}

int __wrap_puts(const char *text)
{
    PRINTS("puts");
    if (!hooked(text, strlen(text)))
        return puts(text);
    hooked("\n", 1);
    return 1;
}

int __wrap_putchar(int c)
{
    char text = (char)c;
    PRINTS("putchar");
    return hooked(&text, 1) ? (unsigned char)text : putchar(c);
}

/* The host's own input is not the chip's: without a hook it is at its end. */
int __wrap_getchar(void)
{
    const wadi_stdio *s = wadi_firmware_stdio();
    char c;
    if (!s || !s->in || s->in(s->context, &c, 1) != 1)
        return EOF;
    return (unsigned char)c;
}
