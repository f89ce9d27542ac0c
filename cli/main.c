/* SPDX-License-Identifier: MIT */
#include <errno.h>
#include <fcntl.h>
#include <string.h>
#include <unistd.h>

#include "cli/shared/apart.h"
#include "cli/shared/cli.h"

static const cli_verb verbs[] = {
    {"show", "a chip, block or register as the datasheet shows it; a board's wiring", cli_show},
    {"find", "a text or an address, among everything a sheet names", cli_find},
    {"encode", "fields to a register's word, with the C that writes it", cli_encode},
    {"decode", "a register's value, or a dump, to fields and meanings", cli_decode},
    {"diff", "two dumps compared field by field", cli_diff},
    {"pins", "pins for signals: conflicts, the fewest moves, routing registers", cli_pins},
    {"clocks", "the clock tree, and the settings for wanted frequencies", cli_clocks},
    {"rate", "the fields' values that give a wanted rate, exactly", cli_rate},
    {"lint", "what is doubtful in a sheet", cli_lint},
    {"emit", "generated C: header, roles, vectors, linker memories, pin names; commands for gdb",
     cli_emit},
    {"new", "a project that builds and runs as it is", cli_new},
    {"build", "firmware for the simulated chip from C files", cli_build},
    {"run", "run benches: firmware on the simulated chip, measured and judged", cli_run},
    {"watch", "a bench as it runs, or a live target: variables, registers, pins; step, press, turn",
     cli_watch},
    {"steps", "the explained register writes of a bring-up, as text, Markdown or C", cli_steps},
    {"measure", "frequency, duty, widths of every signal of a VCD or CSV file", cli_measure},
    {"spi", "captured pins of a VCD file as exchanges, with mode, clock and what is wrong",
     cli_spi},
    {"serial", "a captured pin of a VCD file as serial bytes, with their errors", cli_serial},
    {"plot", "a timing diagram of a VCD or CSV file: PNG, SVG or text", cli_plot},
    {"board", "a stand-in for a board: real time, GDB remote protocol, a terminal for its UART",
     cli_board},
    {"image", "the image for the target itself, its sizes and its stack", cli_image},
    {"peek", "registers and variables of a live target", cli_peek},
    {"poke", "a register of a live target, written and read back", cli_poke},
    {"dump", "all registers of a live target, as lines or as a snapshot", cli_dump},
    {"load", "a program into a live target's RAM", cli_load},
    {"collect", "the checks that run on a board, over its serial line", cli_collect},
    {"compare", "two snapshots of registers, two captures of pins, or two register traces",
     cli_compare},
    {"findings", "what Wadium can find wrong, with meanings and cures", cli_findings},
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
