/* SPDX-License-Identifier: MIT */
#include <errno.h>
#include <fcntl.h>
#include <string.h>
#include <unistd.h>

#include "cli/shared/apart.h"
#include "cli/shared/cli.h"

static const cli_verb verbs[] = {
#define WADI_VERB(name, summary) {#name, summary, cli_##name},
#include "verbs.def"
#undef WADI_VERB
};

static void usage(FILE *out)
{
    fputs("wadium describes a chip's registers once, runs its firmware on Linux, measures it, and\n"
          "tells what the silicon would keep quiet about.\n\nusage: wadium VERB ...\n\n",
          out);
    for (unsigned i = 0; i < G_N_ELEMENTS(verbs); i++)
        fprintf(out, "  %-9s %s\n", verbs[i].name, verbs[i].summary);
    fputs("\n'wadium VERB --help' tells more.\n"
          "exit status: 0 good, 1 judged and bad, 2 the command is wrong, 3 an input cannot be\n"
          "read or an output not written\n",
          out);
}

/* A standard stream that is closed: the next file that is opened would take its place. */
static void fill_streams(void)
{
    for (int fd = 0; fd < 3; fd++)
        if (fcntl(fd, F_GETFD) < 0 && open("/dev/null", fd ? O_RDONLY : O_WRONLY) != fd)
            _exit(CLI_FILE);
}

/* All that was said has arrived. */
static int finish(int status)
{
    errno = 0;
    bool whole = !ferror(stdout);
    whole = fflush(stdout) == 0 && whole;
    if (!whole && !errno && write(STDOUT_FILENO, "\n", 1) == 1) /* what it was is long forgotten */
        errno = 0;
    if (!whole && errno != EPIPE)
        cli_file_error("standard output: %s",
                       errno ? g_strerror(errno) : "not all of it could be written");
    else if (whole)
        return status == CLI_USAGE && cli_had_file_trouble() ? CLI_FILE : status;
    return MAX(status, CLI_FILE);
}

static int run_verb(int argc, char **argv)
{
    if (argc < 2) {
        usage(stderr);
        return CLI_USAGE;
    }
    if (!strcmp(argv[1], "--help") || !strcmp(argv[1], "-h") || !strcmp(argv[1], "help")) {
        usage(stdout);
        return CLI_GOOD;
    }
    if (!strcmp(argv[1], "--version")) {
        puts("wadium " WADIUM_VERSION);
        return CLI_GOOD;
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(verbs); i++)
        if (!strcmp(argv[1], verbs[i].name))
            return verbs[i].run(argc - 1, argv + 1);
    return cli_error("there is no verb '%s'; 'wadium --help' lists them", argv[1]);
}

int main(int argc, char **argv)
{
    fill_streams();
    cli_apart_begin();
    return finish(run_verb(argc, argv));
}
