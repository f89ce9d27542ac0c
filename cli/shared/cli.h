/* SPDX-License-Identifier: MIT */
/* The command line: one verb a file, no logic that a library caller would miss. */
#ifndef WADI_CLI_H
#define WADI_CLI_H

#include <glib.h>

#include "wadium/host/bench.h"
#include "wadium/host/output.h"
#include "wadium/host/recording.h"

/* Exit statuses: the worse of two is the larger one. */
enum {
    CLI_GOOD = 0,
    CLI_FAILED = 1, /* judged, and bad */
    CLI_USAGE = 2,  /* the command is wrong: nothing was begun */
    CLI_FILE = 3    /* an input cannot be read, or an output not written */
};

typedef struct cli_verb {
    const char *name;
    const char *summary;
    int (*run)(int argc, char **argv);
} cli_verb;

#define WADI_VERB(name, summary) int cli_##name(int argc, char **argv);
#include "cli/verbs.def"
#undef WADI_VERB

/** Parses options; false: the verb ends with *status. The synopsis is what follows the verb. */
bool cli_options(int *argc, char ***argv, const char *verb, const char *synopsis,
                 const char *description, const GOptionEntry *entries, int *status);

/** An option, and where its value stands in a struct of flags; rows end with a NULL name. */
typedef struct cli_option {
    const char *name;
    char letter;
    GOptionArg takes;
    size_t at;
    const char *help, *what;
} cli_option;
bool cli_read_flags(int *argc, char ***argv, const char *verb, const char *synopsis,
                    const char *description, const cli_option *options, void *flags, int *status);
/** Texts and lists of texts. */
void cli_free_flags(void *flags, const cli_option *options);
/** "wadium: ..." on stderr; returns CLI_USAGE. */
int cli_error(const char *format, ...) __attribute__((format(printf, 1, 2)));
/** The same of a file that cannot be read or written; returns CLI_FILE. */
int cli_file_error(const char *format, ...) __attribute__((format(printf, 1, 2)));
/** Prints what was said of inputs, and frees it. */
void cli_tell(wad_diags *diags);
/** One of them could not be read, or an output not written: CLI_USAGE is then CLI_FILE. */
bool cli_had_file_trouble(void);

/** A sheet by chip name or path; NULL: it said why. */
wad_sheet *cli_read_sheet(const char *name);
/** One line where the sheet says what no model follows. */
void cli_tell_unsimulated(const wad_sheet *sheet, const wad_bench *bench);
/** A board by name or path, NULL without a message when there is no such file. */
bool cli_find_board(const char *name, wad_board **board);

/** A name that is none of `names`: "there is no WHAT 'NAME' (did you mean 'OTHER'?)"; CLI_USAGE. */
int cli_unknown(const char *what, const char *name, const char *const *names, unsigned n);
/** Each of `blocks` (NULL-terminated, or NULL) is the chip's; false: it said which is not. */
bool cli_check_blocks(const wad_sheet *sheet, char *const *blocks);

/** "1.5 ms" to picoseconds; false: it said what is wrong. */
bool cli_time(const char *text, uint64_t *ps);

/** The part of `plot --intervals`; `path` NULL: as a table. */
int cli_plot_intervals(char *const *files, unsigned n, const wad_wanted_signal *wanted,
                       const wad_plot_options *options, const char *path);

/** Some signals of a recording, NULL: all. NULL: it said why. */
wad_capture *cli_load_signals(const char *path, const wad_wanted_signal *wanted, uint64_t *end_ps);
/** "A,B" to signals that must be there, NULL to NULL; free with cli_free_wanted. */
wad_wanted_signal *cli_wanted_signals(const char *names);
void cli_free_wanted(wad_wanted_signal *wanted);

/** Output to a file, whole or not at all, or to stdout. */
typedef struct cli_output {
    FILE *file;
    wad_output *output;
} cli_output;
bool cli_open_output(cli_output *out, const char *path);
/** Puts the file in place; false: it said why not. */
bool cli_close_output(cli_output *out);

#endif
