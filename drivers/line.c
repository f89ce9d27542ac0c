/* SPDX-License-Identifier: MIT */
#include <wadium/line.h>

enum { BELL = 7, BACKSPACE = 8, ESCAPE = 27, DELETE = 127, CTRL_C = 3, CTRL_U = 21 };

/* Where in ESC [ 1 ; 5 A one is. */
enum { NO_ESCAPE, AFTER_ESCAPE, IN_SEQUENCE };

void wad_line_open(wad_line *l, char *text, size_t room, wad_put_fn put, void *context)
{
    *l = (wad_line){.echo = true, .text = text, .room = room, .put = put, .context = context};
}

void wad_line_put(char c, void *line)
{
    wad_line *l = line;
    char before = l->last_out;
    l->last_out = c;
    if (c == '\n' ? before != '\r' && l->out != WAD_NEWLINE_LF : c == '\r')
        l->put('\r', l->context);
    if (c != '\r' && !(c == '\n' && l->out == WAD_NEWLINE_CR))
        l->put(c, l->context);
}

static void echo(wad_line *l, char c)
{
    if (l->echo)
        wad_line_put(c, l);
}

static void erase(wad_line *l)
{
    if (!l->n)
        return;
    l->n--;
    echo(l, BACKSPACE);
    echo(l, ' ');
    echo(l, BACKSPACE);
}

/* Does this character end the line, after `last`? */
static bool ends(const wad_line *l, char c, char last)
{
    switch (l->in) {
    case WAD_NEWLINE_CR:
        return c == '\r';
    case WAD_NEWLINE_LF:
        return c == '\n';
    case WAD_NEWLINE_CRLF:
        return c == '\n' && last == '\r';
    case WAD_NEWLINE_ANY:
        break;
    }
    return c == '\r' || (c == '\n' && last != '\r'); /* of CR LF, the LF is the same end */
}

static int finish(wad_line *l, size_t n)
{
    if (l->room)
        l->text[n] = 0;
    l->n = 0;
    echo(l, '\n');
    return (int)n;
}

/* True: it belonged to an escape sequence. */
static bool swallow(wad_line *l, char c)
{
    if (l->escape == NO_ESCAPE) {
        l->escape = c == ESCAPE ? AFTER_ESCAPE : NO_ESCAPE;
        return c == ESCAPE;
    }
    if (l->escape == AFTER_ESCAPE)
        l->escape = c == '[' || c == 'O' ? IN_SEQUENCE : NO_ESCAPE;
    else if (c >= '@' && c <= '~')
        l->escape = NO_ESCAPE;
    return true;
}

static void store(wad_line *l, char c)
{
    if (l->n + 1u < l->room) {
        l->text[l->n++] = c;
        echo(l, l->hidden ? l->hidden : c);
    } else {
        echo(l, BELL);
    }
}

int wad_line_feed(wad_line *l, char c)
{
    char last = l->last;
    l->last = c;
    if (swallow(l, c))
        return -1;
    if (ends(l, c, last))
        return finish(l, l->n);
    if (c == CTRL_C)
        return finish(l, 0);
    if (c == BACKSPACE || c == DELETE)
        erase(l);
    else if (c == CTRL_U)
        while (l->n)
            erase(l);
    else if ((unsigned char)c >= ' ')
        store(l, c);
    return -1;
}
