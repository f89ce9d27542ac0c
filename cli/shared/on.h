/* SPDX-License-Identifier: MIT */
/* What the verbs for a live target share. */
#ifndef CLI_ON_H
#define CLI_ON_H

#include "cli.h"
#include "wadium/host/target.h"

typedef struct cli_on {
    char *where, *image;
    gboolean any_chip, stay, log;
    gint timeout_ms;
    wad_board *board; /* when a board was named */
    wad_sheet *own;
    const wad_sheet *sheet;
    wad_target *target;
    wad_variables *variables;
} cli_on;

/* Its options, to stand among a verb's own. */
#define CLI_ON_OPTIONS(on)                                                                           \
    {"on",                                                                                           \
     'o',                                                                                            \
     0,                                                                                              \
     G_OPTION_ARG_STRING,                                                                            \
     &(on)->where,                                                                                   \
     "the target's server (else $WADIUM_BOARD, else 127.0.0.1:3333)",                                \
     "HOST:PORT or '| COMMAND'"},                                                                    \
        {"any-chip",                                                                                 \
         0,                                                                                          \
         0,                                                                                          \
         G_OPTION_ARG_NONE,                                                                          \
         &(on)->any_chip,                                                                            \
         "go on where the chip says to be another one",                                              \
         NULL},                                                                                      \
        {"stay", 0, 0, G_OPTION_ARG_NONE, &(on)->stay, "leave the core halted", NULL},               \
        {"timeout", 0, 0, G_OPTION_ARG_INT, &(on)->timeout_ms, "for an answer, in ms (5000)", "MS"}, \
    {                                                                                                \
        "log", 0, 0, G_OPTION_ARG_NONE, &(on)->log, "packets as they come and go, on stderr", NULL   \
    }

/** The sheet of a chip or board; then the target. False: it said why. */
bool cli_on_sheet(cli_on *on, const char *name);
bool cli_on_open(cli_on *on);
/** The image's variables, once they are asked for. */
bool cli_on_variables(cli_on *on);
void cli_on_close(cli_on *on);
/** "wadium: ..." of a `why`, which is freed. */
int cli_on_failed(char *why);

#endif
