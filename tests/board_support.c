/* SPDX-License-Identifier: MIT */
#include "board_support.h"

#include <signal.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

static void start(test_standin *b, GPtrArray *argv)
{
    GError *error = NULL;
    g_ptr_array_add(argv, NULL);
    if (!g_spawn_async_with_pipes(SOURCE_DIR, (char **)argv->pdata, NULL,
                                  G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDERR_TO_DEV_NULL, NULL,
                                  NULL, &b->pid, NULL, &b->out, NULL, &error))
        fail_msg("%s", error->message);
    g_ptr_array_free(argv, TRUE);
}

static void wait_until_ready(test_standin *b)
{
    GString *text = g_string_new(NULL);
    char c;
    const char *at;
    while (!(at = strstr(text->str, "ready at ")) || text->str[text->len - 1] != '\n') {
        if (read(b->out, &c, 1) != 1)
            fail_msg("the stand-in did not begin: %s", text->str);
        g_string_append_c(text, c);
    }
    g_strlcpy(b->where, at + 9, sizeof b->where);
    b->where[strcspn(b->where, "\n")] = 0;
    g_string_free(text, TRUE);
}

void test_plug_in_board(test_standin *b, const char *board, ...)
{
    const char *const common[] = {BUILD_DIR "/bin/wadium", "board", board, "--listen", "0"};
    GPtrArray *argv = g_ptr_array_new();
    va_list args;
    for (unsigned i = 0; i < G_N_ELEMENTS(common); i++)
        g_ptr_array_add(argv, (gpointer)common[i]);
    va_start(args, board);
    for (const char *arg; (arg = va_arg(args, const char *));)
        g_ptr_array_add(argv, (gpointer)arg);
    va_end(args);
    start(b, argv);
    wait_until_ready(b);
}

int test_unplug(test_standin *b)
{
    int status = 0;
    kill(b->pid, SIGINT);
    waitpid(b->pid, &status, 0);
    g_spawn_close_pid(b->pid);
    close(b->out);
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

void test_let_run(const char *firmware, const char *vcd, const char *duration, ...)
{
    const char *const common[] = {BUILD_DIR "/bin/wadium",
                                  "board",
                                  "skerry",
                                  "--listen",
                                  "0",
                                  "--pace",
                                  "0",
                                  "--firmware",
                                  firmware,
                                  "--vcd",
                                  vcd,
                                  "--for",
                                  duration};
    GPtrArray *argv = g_ptr_array_new();
    va_list args;
    test_standin b;
    int status;
    for (unsigned i = 0; i < G_N_ELEMENTS(common); i++)
        g_ptr_array_add(argv, (gpointer)common[i]);
    va_start(args, duration);
    for (const char *arg; (arg = va_arg(args, const char *));)
        g_ptr_array_add(argv, (gpointer)arg);
    va_end(args);
    start(&b, argv);
    waitpid(b.pid, &status, 0);
    g_spawn_close_pid(b.pid);
    close(b.out);
    assert_int_equal(status, 0);
}
