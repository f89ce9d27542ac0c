/* SPDX-License-Identifier: MIT */
/* What a C library on metal calls for standard output and input: _write and _read. Link it only
 * where there is such a library. */
#include <wadium/stdio.h>

int _write(int file, const char *text, int n);
int _read(int file, char *text, int n);

static wad_stdout_fn out_fn;
static wad_stdin_fn in_fn;
static void *hook_context;

void wad_port_stdio(wad_stdout_fn out, wad_stdin_fn in, void *context)
{
    out_fn = out;
    in_fn = in;
    hook_context = context;
}

int _write(int file, const char *text, int n)
{
    if ((file != 1 && file != 2) || !out_fn || n < 0)
        return -1;
    return (int)out_fn(hook_context, text, (size_t)n);
}

int _read(int file, char *text, int n)
{
    if (file != 0 || !in_fn || n < 0)
        return -1;
    return (int)in_fn(hook_context, text, (size_t)n);
}
