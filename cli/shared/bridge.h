/* SPDX-License-Identifier: MIT */
/* What sits at the other end of a serial line: a terminal of the host's, or this very one. */
#ifndef CLI_BRIDGE_H
#define CLI_BRIDGE_H

#include "cli/shared/cli.h"

typedef struct cli_terminal cli_terminal;
typedef struct cli_console cli_console;

/** Opens a pseudo-terminal and says its name. NULL: it said why not. */
cli_terminal *cli_terminal_open(const char *line, double pace, wad_bridge *bridge);
const char *cli_terminal_name(const cli_terminal *terminal);
/** Closes it, and says what was lost. */
void cli_terminal_close(cli_terminal *terminal);
/** Checks the way from the terminal's end to ours and back, then sends back what is typed until the
 * user ends it; no chip. */
int cli_terminal_loop(void);

/** This terminal's keyboard and screen; `hex`: rows of bytes with their times. */
cli_console *cli_console_open(const char *line, double pace, bool hex, wad_bridge *bridge);
void cli_console_close(cli_console *console);

/** Ctrl-C ends the run, not the program, from here on. */
void cli_catch_interrupt(void);
bool cli_interrupted(void);

/** "UART0 is set to 115200 baud, 8N1", once for each setting. */
void cli_tell_port(const wad_serial_port *port, FILE *out);

#endif
