/* SPDX-License-Identifier: MIT */
/* A person at the chip's serial line: the command as a process, with a pseudo-terminal or its own
 * input, and captured pins decoded by it. */
#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <string.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#include "support.h"

#define BENCH SOURCE_DIR "/examples/telemetry/telemetry.bench"
#define DIR   BUILD_DIR "/firmware"

/* ---- a running wadium ---- */

typedef struct process {
    GPid pid;
    int in, out, err;
    GString *said, *complained;
} process;

static process start(const char *const *args)
{
    process p = {.said = g_string_new(NULL), .complained = g_string_new(NULL)};
    GError *error = NULL;
    GPtrArray *argv = g_ptr_array_new();
    g_ptr_array_add(argv, (gpointer)(uintptr_t)(BUILD_DIR "/bin/wadium"));
    for (; *args; args++)
        g_ptr_array_add(argv, (gpointer)(uintptr_t)*args);
    g_ptr_array_add(argv, NULL);
    if (!g_spawn_async_with_pipes(NULL, (char **)argv->pdata, NULL, G_SPAWN_DO_NOT_REAP_CHILD, NULL,
                                  NULL, &p.pid, &p.in, &p.out, &p.err, &error))
        fail_msg("%s", error->message);
    g_ptr_array_free(argv, TRUE);
    return p;
}

/* Waits until `text` has come from `fd`, ten seconds at the most. */
static void wait_for(int fd, GString *all, const char *text)
{
    gint64 last = g_get_monotonic_time() + 10 * G_USEC_PER_SEC;
    while (!strstr(all->str, text) && g_get_monotonic_time() < last) {
        char bytes[512];
        struct pollfd ready = {fd, POLLIN, 0};
        if (poll(&ready, 1, 100) <= 0)
            continue;
        ssize_t n = read(fd, bytes, sizeof bytes);
        if (n > 0)
            g_string_append_len(all, bytes, n);
        else
            g_usleep(50000);
    }
    if (!strstr(all->str, text))
        fail_msg("'%s' did not come, but: %s", text, all->str);
}

/* Its end: what is left to read, and its exit status. */
static int end(process *p, int number)
{
    char bytes[512];
    ssize_t n;
    int status;
    if (number)
        kill(p->pid, number);
    while ((n = read(p->out, bytes, sizeof bytes)) > 0)
        g_string_append_len(p->said, bytes, n);
    while ((n = read(p->err, bytes, sizeof bytes)) > 0)
        g_string_append_len(p->complained, bytes, n);
    assert_int_equal(waitpid(p->pid, &status, 0), p->pid);
    close(p->in);
    close(p->out);
    close(p->err);
    return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

static void forget(process *p)
{
    g_string_free(p->said, TRUE);
    g_string_free(p->complained, TRUE);
}

static int open_terminal(const process *p)
{
    const char *at = strstr(p->said->str, "/dev/");
    assert_non_null(at);
    char *name = g_strndup(at, strcspn(at, ": "));
    int fd = open(name, O_RDWR | O_NOCTTY | O_NONBLOCK);
    assert_true(fd >= 0);
    g_free(name);
    return fd;
}

static void set_speed(int fd, speed_t speed)
{
    struct termios s;
    assert_int_equal(tcgetattr(fd, &s), 0);
    cfsetispeed(&s, speed);
    cfsetospeed(&s, speed);
    assert_int_equal(tcsetattr(fd, TCSANOW, &s), 0);
}

/* ---- a terminal ---- */

/* Typed, answered, gone, back again: what came meanwhile is counted; a speed that does not fit is
 * named. Ctrl-C ends the run, and it is reported. */
static void a_terminal_types_leaves_and_comes_back(void **state)
{
    const char *const args[] = {"run", BENCH, "-d", DIR, "--terminal", "UART0", NULL};
    GString *heard = g_string_new(NULL);
    (void)state;
    process p = start(args);
    wait_for(p.out, p.said, "Ctrl-C here ends the run\n");
    int fd = open_terminal(&p);
    set_speed(fd, B9600);
    wait_for(p.err, p.complained, "UART0 runs at 115108 baud, 8N1\n");
    wait_for(p.err, p.complained, "the terminal is set to 9600 baud and UART0 to 115108");
    set_speed(fd, B115200);
    assert_int_equal(write(fd, "hexp\x7f\x7flp\r", 9), 9);
    wait_for(fd, heard, "hexp\b \b\b \blp\r\nread REG ");
    wait_for(fd, heard, "a name such as CLK.RESET\r\n");
    close(fd);
    wait_for(p.err, p.complained, "is no longer open\n");
    g_usleep(1200000); /* a sentence at least, in real time */
    fd = open_terminal(&p);
    set_speed(fd, B115200);
    wait_for(p.err, p.complained, "bytes that the chip sent before that are lost\n");
    g_string_truncate(heard, 0);
    assert_int_equal(write(fd, "read CLK.GATE\r", 14), 14);
    wait_for(fd, heard, "40000010: ");
    assert_int_equal(end(&p, SIGINT), 0);
    close(fd);
    assert_non_null(strstr(p.said->str, "a sentence a second"));
    assert_non_null(strstr(p.said->str, "expectations are not judged"));
    assert_non_null(strstr(p.complained->str, "found nobody at /dev/"));
    forget(&p);
    g_string_free(heard, TRUE);
}

static void the_bridge_is_checked_by_itself(void **state)
{
    const char *const args[] = {"run", "--loop", NULL};
    GString *heard = g_string_new(NULL);
    (void)state;
    process p = start(args);
    wait_for(p.out, p.said, "256 bytes went round as they were: the bridge is good\n");
    wait_for(p.out, p.said, "Ctrl-C ends it\n");
    int fd = open_terminal(&p);
    assert_int_equal(write(fd, "is anybody there", 16), 16);
    wait_for(fd, heard, "is anybody there");
    assert_int_equal(end(&p, SIGINT), 0);
    close(fd);
    assert_non_null(strstr(p.said->str, "\n16 bytes went round\n"));
    forget(&p);
    g_string_free(heard, TRUE);
}

/* ---- the console ---- */

static void the_console_shows_text_and_bytes(void **state)
{
    const char *const text[] = {"run",   BENCH,  "-d",     DIR, "--console", "LINK",
                                "--for", "1.1s", "--pace", "0", NULL};
    const char *const hex[] = {"run",   BENCH,   "-d",   DIR,      "--console", "UART0",
                               "--hex", "--for", "1.1s", "--pace", "0",         NULL};
    (void)state;
    process p = start(text);
    assert_int_equal(write(p.in, "read CLK.GATE\n", 14), 14);
    assert_int_equal(end(&p, 0), 0);
    assert_non_null(strstr(p.said->str, "read CLK.GATE\r\n40000010: 00"));
    assert_non_null(strstr(p.said->str, "$TIDE,2.310*1e\r\n"));
    forget(&p);
    p = start(hex);
    assert_int_equal(end(&p, 0), 0);
    assert_non_null(strstr(p.said->str, "24 54 49 44 45 2c 32 2e  33 31 30 2a 31 65 0d 0a  "
                                        "|$TIDE,2.310*1e..|\n"));
    forget(&p);
}

/* In real time: 1.2 s of the chip take as long, whatever the machine does besides. */
static void real_time_is_kept(void **state)
{
    const char *const args[] = {"run",  BENCH,   "-d",   DIR, "--console",
                                "LINK", "--for", "1.2s", NULL};
    (void)state;
    gint64 began = g_get_monotonic_time();
    process p = start(args);
    assert_int_equal(end(&p, 0), 0);
    assert_true(g_get_monotonic_time() - began >= 1190000);
    forget(&p);
}

/* ---- what cannot be ---- */

static void refused(const char *want, const char *const *args)
{
    process p = start(args);
    int status = end(&p, 0);
    if (status != 2 || !strstr(p.complained->str, want))
        fail_msg("status %d: %s, wanted %s", status, p.complained->str, want);
    forget(&p);
}

static void slips_are_named(void **state)
{
    static const struct {
        const char *want, *args[10];
    } slips[] = {
        {"'CNT0' is no serial line of the board, nor a port that leads to one; it has LINK",
         {"run", BENCH, "-d", DIR, "--console", "CNT0"}},
        {"'UART1' is no serial line", {"run", BENCH, "-d", DIR, "--console", "UART1"}},
        {"one of --terminal and --console",
         {"run", BENCH, "-d", DIR, "--console", "LINK", "--terminal", "LINK"}},
        {"--for and --pace go with", {"run", BENCH, "-d", DIR, "--for", "1s"}},
        {"--hex goes with --console", {"run", BENCH, "-d", DIR, "--hex"}},
        {"--pace is the chip's seconds",
         {"run", BENCH, "-d", DIR, "--console", "LINK", "--pace", "-1"}},
        {"not with --tap or --json", {"run", BENCH, "-d", DIR, "--console", "LINK", "--json"}},
        {"--for takes some time", {"run", BENCH, "-d", DIR, "--console", "LINK", "--for", "0s"}},
        {"no bench", {"run", BENCH, "--loop"}},
        {"serial takes a VCD file and one of its signals", {"serial", "x.vcd"}},
        {"--from and --to are the ends", {"serial", "x.vcd", "tx", "--from", "1s"}},
        {"--baud is 1 to", {"serial", "x.vcd", "tx", "--baud", "-5"}},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(slips); i++)
        refused(slips[i].want, slips[i].args);
}

/* ---- captured pins ---- */

static void a_captured_pin_is_decoded_and_drawn(void **state)
{
    char *folder = test_folder(), *vcd = g_build_filename(folder, "t.vcd", NULL);
    char *png = g_build_filename(folder, "t.png", NULL), *out, *err, *text;
    gsize size;
    (void)state;
    assert_int_equal(WADIUM(&out, &err, "run", BENCH, "-d", DIR, "--vcd", vcd), 0);
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "serial", vcd, "tx", "--from", "1s", "-o", png), 0);
    assert_non_null(strstr(out, "baud, 8N1; the baud is estimated from the edges, -0.07 % off "
                                "115200\n"));
    const char *row = strstr(out, "s   24 54 49 44 45 2c 32 2e  33 31 30 2a 31 65 0d 0a"
                                  "  |$TIDE,2.310*1e..|\n");
    assert_non_null(row);
    while (row > out && row[-1] != '\n')
        row--;
    double began = g_ascii_strtod(row, NULL); /* with the second, but for what the firmware takes */
    assert_true(began > 1.0 && began < 1.0001);
    assert_non_null(strstr(out, " 0 framing errors, 0 parity errors, 0 breaks\n"));
    assert_true(g_file_get_contents(png, &text, &size, NULL));
    assert_memory_equal(text, "\x89PNG", 4);
    g_free(text);
    g_free(out);
    g_free(err);
    /* a format that does not fit: half of a bit would fit as well, and is not taken */
    assert_int_equal(WADIUM(&out, &err, "serial", vcd, "tx", "--format", "8E1"), 1);
    assert_non_null(strstr(out, "8E1; the baud is estimated from the edges, -0.07 % off 115200\n"));
    g_free(out);
    g_free(err);
    /* another format: errors, and a status that says so */
    assert_int_equal(WADIUM(&out, &err, "serial", vcd, "tx", "--baud", "115200", "--format", "7O1"),
                     1);
    assert_non_null(strstr(out, "^^ parity error\n"));
    g_free(out);
    g_free(err);
    assert_int_equal(WADIUM(&out, &err, "serial", vcd, "rx"), 2);
    assert_non_null(strstr(err, "has no signal 'rx' (did you mean 'tx'?); it has tx, warn\n"));
    g_free(out);
    g_free(err);
    g_free(vcd);
    g_free(png);
    test_remove(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_terminal_types_leaves_and_comes_back),
        cmocka_unit_test(the_bridge_is_checked_by_itself),
        cmocka_unit_test(the_console_shows_text_and_bytes),
        cmocka_unit_test(real_time_is_kept),
        cmocka_unit_test(slips_are_named),
        cmocka_unit_test(a_captured_pin_is_decoded_and_drawn),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
