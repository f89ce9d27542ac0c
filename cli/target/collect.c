/* SPDX-License-Identifier: MIT */
/* A board's checks over its serial line. */
#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <string.h>
#include <unistd.h>

#include "cli/shared/bridge.h"
#include "cli/shared/on.h"
#include "cli/shared/speeds.h"
#include "wadium/host/report.h"

typedef struct collect_flags {
    char *chip, *reset, *report, *junit, *image, *timeout, *output;
    gint baud;
    gboolean quiet;
} collect_flags;

/* ---- the line ---- */

static bool set_line(int fd, int baud)
{
    struct termios s;
    speed_t code;
    if (!isatty(fd) || tcgetattr(fd, &s))
        return true; /* a file, a pipe */
    if (!cli_speed_of((unsigned)baud, &code)) {
        cli_error("this system's serial lines have no %d baud", baud);
        return false;
    }
    cfmakeraw(&s);
    s.c_cflag |= CLOCAL | CREAD;
    cfsetspeed(&s, code);
    tcsetattr(fd, TCSANOW, &s);
    return true;
}

static int open_line(const char *path, int baud)
{
    int fd =
        strcmp(path, "-") ? open(path, O_RDONLY | O_NOCTTY | O_NONBLOCK | O_CLOEXEC) : STDIN_FILENO;
    if (fd < 0)
        cli_error("cannot open '%s': %s", path, g_strerror(errno));
    else if (!set_line(fd, baud)) {
        close(fd);
        fd = -1;
    }
    return fd;
}

/* The board begins when somebody listens. */
static bool reset_board(const collect_flags *f)
{
    char *why = NULL, *text = NULL;
    if (!f->reset)
        return true;
    wad_remote *r = wad_remote_open(f->reset, NULL, &why);
    bool good = r && wad_remote_monitor(r, "reset", &text, &why);
    wad_remote_close(r, true);
    g_free(text);
    if (!good)
        cli_on_failed(why);
    return good;
}

/* ---- what comes ---- */

typedef struct echo {
    FILE *out; /* lines as they came; NULL: none */
    bool quiet;
} echo;

static void on_line(void *ctx, uint64_t us, const char *line, unsigned heard)
{
    static const char *const marks[] = {" ", " ", "?"};
    const echo *e = ctx;
    if (!e->quiet)
        printf("%10.3f s %s %s\n", (double)us / 1e6, marks[heard], line);
    if (e->out)
        fprintf(e->out, "%s\n", line);
}

/* Until the plan is met, nothing has come for the time, or the user ends it. */
static void listen_to(int fd, wad_collect *c, uint64_t timeout_us)
{
    gint64 began = g_get_monotonic_time(), last = began;
    bool file = lseek(fd, 0, SEEK_CUR) >= 0 && !isatty(fd);
    while (!wad_collect_over(c) && !cli_interrupted()) {
        uint8_t bytes[1024];
        struct pollfd p = {fd, POLLIN, 0};
        gint64 now = g_get_monotonic_time();
        if (now - last > (gint64)timeout_us)
            return;
        if (poll(&p, 1, 100) <= 0)
            continue;
        ssize_t n = read(fd, bytes, sizeof bytes);
        if (n > 0) {
            last = g_get_monotonic_time();
            wad_collect_feed(c, bytes, (size_t)n, (uint64_t)(last - began));
        } else if (file || (n == 0 && !isatty(fd)))
            return;
        else
            g_usleep(20000); /* a terminal whose other end is not there, or not yet */
    }
}

/* ---- the end ---- */

static bool write_reports(const wad_collect *c, const collect_flags *f, const wad_sheet *sheet)
{
    char *why = NULL;
    cli_output out;
    const wad_page page = {.version = WADIUM_VERSION, .sheet = sheet, .firmware = f->image};
    if (f->report && !wad_collect_html(c, &page, f->report, &why)) {
        cli_on_failed(why);
        return false;
    }
    if (!f->junit)
        return true;
    if (!cli_open_output(&out, f->junit))
        return false;
    wad_collect_junit(c, "checks of", out.file);
    return cli_close_output(&out);
}

static int collect(const char *path, const collect_flags *f, const wad_sheet *sheet)
{
    uint64_t ps = 10 * WAD_PS_PER_S;
    cli_output raw = {0};
    if (f->timeout && !cli_time(f->timeout, &ps))
        return CLI_USAGE;
    int fd = open_line(path, f->baud), status = CLI_USAGE;
    if (fd < 0)
        return status;
    if ((!f->output || cli_open_output(&raw, f->output)) && reset_board(f)) {
        wad_collect *c = wad_collect_new();
        echo e = {raw.file, f->quiet};
        wad_collect_listen(c, on_line, &e);
        cli_catch_interrupt();
        listen_to(fd, c, ps / 1000000);
        wad_collect_end(c);
        wad_collect_text(c, stdout);
        status = wad_collect_passed(c) ? CLI_GOOD : CLI_FAILED;
        if (!write_reports(c, f, sheet))
            status = CLI_USAGE;
        wad_collect_free(c);
    }
    if (raw.file && !cli_close_output(&raw))
        status = CLI_USAGE;
    if (fd != STDIN_FILENO)
        close(fd);
    return status;
}

int cli_collect(int argc, char **argv)
{
    collect_flags f = {.baud = 115200};
    const GOptionEntry entries[] = {
        {"baud", 'b', 0, G_OPTION_ARG_INT, &f.baud, "of the line (115200)", "N"},
        {"reset", 0, 0, G_OPTION_ARG_STRING, &f.reset,
         "resets the board by this server once the line is open", "HOST:PORT"},
        {"timeout", 0, 0, G_OPTION_ARG_STRING, &f.timeout,
         "gives up when nothing has come for so long (10s)", "TIME"},
        {"quiet", 'q', 0, G_OPTION_ARG_NONE, &f.quiet, "only the end, not each line", NULL},
        {"tap", 0, 0, G_OPTION_ARG_FILENAME, &f.output, "the lines as they came", "FILE"},
        {"report", 0, 0, G_OPTION_ARG_FILENAME, &f.report, "a page with everything", "FILE.html"},
        {"junit", 0, 0, G_OPTION_ARG_FILENAME, &f.junit, "JUnit XML, for CI servers", "FILE.xml"},
        {"chip", 0, 0, G_OPTION_ARG_STRING, &f.chip, "for the report: chip or board", "CHIP|BOARD"},
        {"image", 'i', 0, G_OPTION_ARG_FILENAME, &f.image, "for the report: what runs on it",
         "FILE.elf"},
        {0}};
    int status;
    if (!cli_options(&argc, &argv, "collect", "SERIAL|FILE|-",
                     "Listens to the checks that run on a board (wadium/verify.h) and judges them: "
                     "a line with its time\neach, what failed and what is missing at the end. Exit "
                     "status 0: all of them came and passed.",
                     entries, &status))
        return status;
    cli_on on = {0};
    if (argc != 2)
        status = cli_error("collect takes a serial line or a file; see 'wadium collect --help'");
    else if (f.chip && !cli_on_sheet(&on, f.chip))
        status = CLI_USAGE;
    else
        status = collect(argv[1], &f, on.sheet);
    cli_on_close(&on);
    g_free(f.chip);
    g_free(f.reset);
    g_free(f.timeout);
    g_free(f.output);
    g_free(f.report);
    g_free(f.junit);
    g_free(f.image);
    return status;
}
