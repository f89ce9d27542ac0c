/* SPDX-License-Identifier: MIT */
/*
 * Printing by the firmware: it comes out on the host's standard output, and a handler that prints
 * is told so. The linker sends the firmware's calls here (--wrap).
 */
#include <stdarg.h>
#include <stdio.h>

#include "sim/internal.h"

#define PRINTS(name)                                                                               \
    wadi_handler_prints(name, (uintptr_t)__builtin_return_address(0),                              \
                        *(void **)__builtin_frame_address(0))

int __wrap_printf(const char *format, ...) __attribute__((format(printf, 1, 2)));
int __wrap_vprintf(const char *format, va_list args) __attribute__((format(printf, 1, 0)));
int __wrap_puts(const char *text);
int __wrap_putchar(int c);

int __wrap_vprintf(const char *format, va_list args)
{
    PRINTS("vprintf");
    return vprintf(format, args);
}

int __wrap_printf(const char *format, ...)
{
    va_list args;
    PRINTS("printf");
    va_start(args, format);
    int n = vprintf(format, args);
    va_end(args);
    return n;
}

int __wrap_puts(const char *text)
{
    PRINTS("puts");
    return puts(text);
}

int __wrap_putchar(int c)
{
    PRINTS("putchar");
    return putchar(c);
}
