/* SPDX-License-Identifier: MIT */
/* What `wadium watch` shows a run on: lines of text, or the whole terminal. */
#ifndef CLI_WATCH_H
#define CLI_WATCH_H

#include "cli/shared/cli.h"
#include "cli/shared/on.h"

typedef struct cli_screen cli_screen;

/** Takes the terminal. NULL: it said why not. */
cli_screen *cli_screen_open(double pace);
/** Draws, and does what the keys say; `screen` is the context. */
void cli_screen_look(void *screen, wad_live *live, wad_live_reason reason);
/** Gives the terminal back. */
void cli_screen_close(cli_screen *screen);

/** Of a live target instead: values as they change, every so often (NULL: 100 ms), for so long
 * (NULL: until the user ends it). */
int cli_watch_target(cli_on *on, const char *chip, char **names, const char *every,
                     const char *duration);

#endif
