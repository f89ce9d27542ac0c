/* SPDX-License-Identifier: MIT */
/*
 * The C library's standard output and input on a port of one's own, where there is a C library.
 *
 *     static size_t put(void *context, const char *text, size_t n)
 *     {
 *         (void)context;
 *         return wad_uart_write(&link, text, n, 1000000);
 *     }
 *
 *     wad_port_stdio(put, NULL, NULL);
 *     printf("tide %d mm\n", level_mm);
 *
 * On the simulated chip printf, vprintf, puts, putchar and getchar go here; without the call,
 * output appears on the host's standard output, and input is at its end. On metal the library's
 * _write and _read do (ports/metal/stdio.c).
 */
#ifndef WADIUM_STDIO_H
#define WADIUM_STDIO_H

#include <stddef.h>

/** Takes `n` characters, and returns how many went. */
typedef size_t (*wad_stdout_fn)(void *context, const char *text, size_t n);
/** Waits for at least one character, gives at most `n`; 0: the input is at its end. */
typedef size_t (*wad_stdin_fn)(void *context, char *text, size_t n);

/** From now on, until the chip's reset; NULL: that direction stays as it is without. */
void wad_port_stdio(wad_stdout_fn out, wad_stdin_fn in, void *context);

#endif
