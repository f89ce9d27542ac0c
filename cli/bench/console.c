/* SPDX-License-Identifier: MIT */
/* The keyboard and screen that wadium runs on as the other end of a serial line. */
#include <poll.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

#include "cli/shared/bridge.h"
#include "wadium/host/decode.h"

enum { LEAVE = 0x1D, SWITCH = 0x14 }; /* Ctrl-], Ctrl-T */

struct cli_console {
    bool hex, keyboard, raw, ended, leave;
    struct termios before;
    wad_serial_heard row[16];
    unsigned n;
};

/* ---- screen ---- */

static void print_row(cli_console *c)
{
    if (!c->n)
        return;
    wad_show_serial_row(c->row, c->n, stdout);
    c->n = 0;
    fflush(stdout);
}

static void print_text(const wad_serial_heard *byte)
{
    uint8_t b = (uint8_t)byte->data;
    if (byte->framing || byte->parity)
        printf("<%s %02x>", byte->is_break ? "break" : byte->framing ? "framing" : "parity", b);
    else if ((b >= 0x20 && b < 0x7F) || b == '\r' || b == '\n' || b == '\b' || b == '\t' || b == 7)
        putchar(b);
    else
        printf("\\x%02x", b);
    fflush(stdout);
}

static void give(void *ctx, const wad_serial_heard *byte)
{
    cli_console *c = ctx;
    if (!c->hex) {
        print_text(byte);
        return;
    }
    c->row[c->n++] = *byte;
    if (c->n == 16 || byte->data == '\n')
        print_row(c);
}

/* ---- keyboard ---- */

static size_t obey(cli_console *c, uint8_t *bytes, size_t n)
{
    size_t kept = 0;
    for (size_t i = 0; i < n; i++) {
        c->leave = c->leave || (c->raw && bytes[i] == LEAVE);
        if (c->raw && bytes[i] == SWITCH) {
            print_row(c);
            if (!c->hex) /* the text may stand in the middle of a line */
                putchar('\n');
            c->hex = !c->hex;
        } else if (!(c->raw && bytes[i] == LEAVE)) {
            bytes[kept++] = bytes[i] == '\n' && !c->raw ? '\r' : bytes[i]; /* as the key gives it */
        }
    }
    return kept;
}

static size_t take(void *ctx, uint8_t *bytes, size_t room, uint64_t wait_us)
{
    cli_console *c = ctx;
    struct pollfd p = {STDIN_FILENO, POLLIN, 0};
    if (c->ended || !room || poll(&p, 1, wait_us >= 1000 ? (int)MIN(wait_us / 1000, 100) : 0) <= 0)
        return 0;
    ssize_t n = read(STDIN_FILENO, bytes, room);
    c->ended = n <= 0; /* the input's end is not the run's: what was asked may still be answered */
    return n > 0 ? obey(c, bytes, (size_t)n) : 0;
}

static bool over(void *ctx)
{
    return ((cli_console *)ctx)->leave || cli_interrupted();
}

static void set_port(void *ctx, const wad_serial_port *port)
{
    print_row(ctx);
    fflush(stdout);
    cli_tell_port(port, stderr);
}

/* ---- life ---- */

cli_console *cli_console_open(const char *line, double pace, bool hex, wad_bridge *bridge)
{
    cli_console *c = g_new0(cli_console, 1);
    c->hex = hex;
    *bridge = (wad_bridge){line, take, give, set_port, over, c, pace};
    if (isatty(STDIN_FILENO) && !tcgetattr(STDIN_FILENO, &c->before)) {
        struct termios raw = c->before;
        printf("%s is here: what you type goes to it; Ctrl-T changes between text and hex, Ctrl-] "
               "ends the run\n",
               line);
        fflush(stdout);
        cfmakeraw(&raw);
        raw.c_oflag |= OPOST; /* our own lines end as always */
        c->raw = !tcsetattr(STDIN_FILENO, TCSANOW, &raw);
    }
    cli_catch_interrupt();
    return c;
}

void cli_console_close(cli_console *c)
{
    if (!c)
        return;
    print_row(c);
    if (c->raw)
        tcsetattr(STDIN_FILENO, TCSANOW, &c->before);
    putchar('\n');
    g_free(c);
}
