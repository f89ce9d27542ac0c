/* SPDX-License-Identifier: MIT */
/* A pseudo-terminal of the host: any program for serial lines can open it. */
#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <string.h>
#include <unistd.h>

#include "bridge.h"
#include "speeds.h"

struct cli_terminal {
    int fd;
    char *name;
    bool attached;
    unsigned lost;   /* bytes that found nobody, or no room */
    unsigned before; /* of them, when it was last said */
    wad_serial_port port;
    double told_baud;
    bool told_flow, told;
};

/* ---- Ctrl-C ---- */

static volatile sig_atomic_t interrupted;

static void on_interrupt(int number)
{
    (void)number;
    interrupted = 1;
}

void cli_catch_interrupt(void)
{
    struct sigaction action = {.sa_handler = on_interrupt};
    struct sigaction before;
    interrupted = 0;
    sigaction(SIGINT, &action, NULL);
    sigaction(SIGTERM, &action, NULL);
    if (!sigaction(SIGHUP, NULL, &before) && before.sa_handler != SIG_IGN) /* not under nohup */
        sigaction(SIGHUP, &action, NULL);
}

bool cli_interrupted(void)
{
    return interrupted;
}

static bool over(void *ctx)
{
    (void)ctx;
    return interrupted;
}

/* ---- settings ---- */

static double port_baud(const wad_serial_port *p)
{
    return (double)p->format.baud.num / (double)p->format.baud.den;
}

void cli_tell_port(const wad_serial_port *p, FILE *out)
{
    char format[8];
    wad_serial_name(&p->format, format);
    fprintf(out, "%s runs at %.6g baud, %s%s\n", p->block->name, port_baud(p), format,
            p->flow ? ", with flow control" : "");
}

/* What the program at the other end has set, against the chip: a mismatch would be rubbish on a
 * real line. (Linux keeps a pseudo-terminal's bits and parity at 8 and none whatever is set.) */
static void compare(cli_terminal *t)
{
    struct termios s;
    if (!t->port.block || !t->attached || tcgetattr(t->fd, &s))
        return;
    unsigned theirs = cli_baud_of(cfgetospeed(&s));
    bool flow = (s.c_cflag & CRTSCTS) != 0;
    double ours = port_baud(&t->port);
    if (t->told && t->told_baud == theirs && t->told_flow == flow)
        return;
    t->told = true;
    t->told_baud = theirs;
    t->told_flow = flow;
    if (theirs && (theirs > ours * 1.03 || theirs < ours * 0.97))
        fprintf(stderr,
                "wadium: the terminal is set to %u baud and %s to %.6g: on a real line neither "
                "would understand the other\n",
                theirs, t->port.block->name, ours);
    if (flow != t->port.flow)
        fprintf(stderr, "wadium: %s uses flow control (RTS, CTS) and %s does not\n",
                flow ? "the terminal" : t->port.block->name,
                flow ? t->port.block->name : "the terminal");
    unsigned stops = s.c_cflag & CSTOPB ? 4 : 2;
    if (stops != t->port.format.stop_halves && t->port.format.stop_halves != 3)
        fprintf(stderr, "wadium: the terminal is set to %u stop bit%s and %s to %u\n", stops / 2,
                stops == 4 ? "s" : "", t->port.block->name, t->port.format.stop_halves / 2);
}

static void set_port(void *ctx, const wad_serial_port *port)
{
    cli_terminal *t = ctx;
    t->port = *port;
    t->told = false;
    cli_tell_port(port, stderr);
    compare(t);
}

/* ---- bytes ---- */

static void attach(cli_terminal *t, bool now)
{
    if (t->attached == now)
        return;
    t->attached = now;
    fprintf(stderr, "wadium: %s is %s\n", t->name, now ? "open" : "no longer open");
    if (now && t->lost != t->before)
        fprintf(stderr, "wadium: %u bytes that the chip sent before that are lost\n",
                t->lost - t->before);
    t->before = t->lost;
    t->told = false;
}

static size_t take(void *ctx, uint8_t *bytes, size_t room, uint64_t wait_us)
{
    cli_terminal *t = ctx;
    struct pollfd p = {t->fd, POLLIN, 0};
    int ready = poll(&p, 1, 0);
    attach(t, !(p.revents & POLLHUP));
    compare(t);
    if (ready == 0 && wait_us >= 1000)
        ready = poll(&p, 1, (int)MIN(wait_us / 1000, 100));
    if (ready <= 0 || !(p.revents & POLLIN) || !room)
        return 0;
    ssize_t n = read(t->fd, bytes, room);
    return n > 0 ? (size_t)n : 0;
}

static void give(void *ctx, const wad_serial_heard *byte)
{
    cli_terminal *t = ctx;
    uint8_t c = (uint8_t)byte->data;
    if (!t->attached || write(t->fd, &c, 1) != 1)
        t->lost++;
}

/* ---- life ---- */

/* Raw: bytes pass as they are until a program sets it otherwise. */
static bool make_raw(const char *name)
{
    struct termios s;
    int fd = open(name, O_RDWR | O_NOCTTY | O_CLOEXEC);
    bool ok = fd >= 0 && !tcgetattr(fd, &s);
    if (ok) {
        cfmakeraw(&s);
        ok = !tcsetattr(fd, TCSANOW, &s);
    }
    if (fd >= 0)
        close(fd);
    return ok;
}

static cli_terminal *open_pair(void)
{
    cli_terminal *t = g_new0(cli_terminal, 1);
    t->fd = posix_openpt(O_RDWR | O_NOCTTY | O_CLOEXEC | O_NONBLOCK);
    const char *name = t->fd >= 0 && !grantpt(t->fd) && !unlockpt(t->fd) ? ptsname(t->fd) : NULL;
    t->name = g_strdup(name);
    if (name && make_raw(name))
        return t;
    cli_error("no pseudo-terminal is to be had: %s", g_strerror(errno));
    cli_terminal_close(t);
    return NULL;
}

cli_terminal *cli_terminal_open(const char *line, double pace, wad_bridge *bridge)
{
    cli_terminal *t = open_pair();
    if (!t)
        return NULL;
    cli_catch_interrupt();
    *bridge = (wad_bridge){line, take, give, set_port, over, t, pace};
    printf("%s is at %s: open it with any program for serial lines; Ctrl-C here ends the run\n",
           line, t->name);
    fflush(stdout);
    return t;
}

const char *cli_terminal_name(const cli_terminal *t)
{
    return t->name;
}

void cli_terminal_close(cli_terminal *t)
{
    if (!t)
        return;
    if (t->lost)
        fprintf(stderr, "wadium: %u bytes that the chip sent found nobody at %s\n", t->lost,
                t->name);
    if (t->fd >= 0)
        close(t->fd);
    g_free(t->name);
    g_free(t);
}

/* ---- the bridge by itself ---- */

/* What waits at our end goes back where it came from; how many bytes. */
static unsigned echo(cli_terminal *t, int wait_ms)
{
    uint8_t bytes[64];
    struct pollfd p = {t->fd, POLLIN, 0};
    if (poll(&p, 1, wait_ms) <= 0 || !(p.revents & POLLIN))
        return 0;
    ssize_t n = read(t->fd, bytes, sizeof bytes);
    return n > 0 && write(t->fd, bytes, (size_t)n) == n ? (unsigned)n : 0;
}

/* All 256 bytes, from the end that a program opens, to us and back. */
static bool check_loop(cli_terminal *t)
{
    uint8_t out[256], in[256];
    size_t got = 0;
    int fd = open(t->name, O_RDWR | O_NOCTTY | O_CLOEXEC | O_NONBLOCK);
    for (unsigned i = 0; i < 256; i++)
        out[i] = (uint8_t)i;
    bool ok = fd >= 0 && write(fd, out, 256) == 256;
    for (unsigned tries = 0; ok && got < 256 && tries < 100; tries++) {
        echo(t, 10);
        ssize_t n = read(fd, in + got, 256 - got);
        got += n > 0 ? (size_t)n : 0;
    }
    if (fd >= 0)
        close(fd);
    return ok && got == 256 && !memcmp(in, out, 256);
}

int cli_terminal_loop(void)
{
    cli_terminal *t = open_pair();
    if (!t)
        return CLI_USAGE;
    bool good = check_loop(t);
    printf("%s: %s\n", t->name,
           good ? "256 bytes went round as they were: the bridge is good"
                : "what went in did not come back: the fault is here, not in the chip");
    unsigned n = 0;
    if (good) {
        printf("what you type there comes back from here, without a chip; Ctrl-C ends it\n");
        fflush(stdout);
        cli_catch_interrupt();
        while (!cli_interrupted()) {
            unsigned now = echo(t, 100);
            n += now;
            if (!now)
                g_usleep(20000); /* nobody there: poll returns at once */
        }
        printf("\n%u bytes went round\n", n);
    }
    cli_terminal_close(t);
    return good ? CLI_GOOD : CLI_FAILED;
}
