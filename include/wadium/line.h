/* SPDX-License-Identifier: MIT */
/*
 * Lines that a person types: echo, a backspace that erases, ends of lines of every habit.
 *
 *     static wad_line line;
 *     static char text[64];
 *
 *     wad_line_open(&line, text, sizeof text, put, NULL);        put: a wad_put_fn
 *     wad_print(wad_line_put, &line, "tide> ");
 *
 *     while (wad_uart_read(&link, &c, 1, 0))
 *         if (wad_line_feed(&line, c) >= 0)
 *             obey(text);
 *
 * Backspace and delete take the last character away, Ctrl-U all of them, Ctrl-C gives the line up;
 * arrow keys and other escape sequences are swallowed, other control characters as well.
 */
#ifndef WADIUM_LINE_H
#define WADIUM_LINE_H

#include <stdbool.h>

#include "print.h"

/** What ends a line. */
typedef enum wad_newline {
    WAD_NEWLINE_ANY,  /**< in: CR, LF, or CR and LF as one; out: CR and LF */
    WAD_NEWLINE_CR,   /**< only CR */
    WAD_NEWLINE_LF,   /**< only LF */
    WAD_NEWLINE_CRLF, /**< CR followed by LF */
} wad_newline;

/** The caller owns it and its text; change `echo` and the ends of lines at any time. */
typedef struct wad_line {
    bool echo;           /**< what is typed is sent back; true after wad_line_open */
    char hidden;         /**< sent back instead of each character, as for a password; 0: itself */
    wad_newline in, out; /**< ANY after wad_line_open */
    char *text;          /* private from here */
    size_t room, n;
    wad_put_fn put;
    void *context;
    unsigned char escape; /* where in an escape sequence */
    char last, last_out;
} wad_line;

/** `text` has room for `room` - 1 characters and a 0. Never blocks. */
void wad_line_open(wad_line *line, char *text, size_t room, wad_put_fn put, void *context);

/** One character that was typed. -1: the line goes on; else it is whole, `text` holds it with a 0
 * behind, and this is its length; the next character begins the next one. A character that finds no
 * room rings the bell and is dropped. Blocks as `put` does. */
int wad_line_feed(wad_line *line, char c);

/** A wad_put_fn that ends lines as `out` says, for text with newlines, CR LF among them; context is
 * the line. */
void wad_line_put(char c, void *line);

#endif
