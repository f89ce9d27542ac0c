/* SPDX-License-Identifier: MIT */
/* What both metal ports do before main and where a firmware ends up when it should not. */
#include <stddef.h>
#include <stdint.h>

#include "access.h"

/* From the linker script. */
extern uint32_t wad_data_load[], wad_data_start[], wad_data_end[], wad_bss_start[], wad_bss_end[];

int main(void);
void wad_start(void) __attribute__((noreturn));

/* Read it in the debugger: which interrupt had no handler. */
extern volatile unsigned wad_unhandled_vector;
volatile unsigned wad_unhandled_vector;

/* The only two library calls that compilers make by themselves. */
void *memcpy(void *to, const void *from, size_t n);
void *memset(void *to, int value, size_t n);

__attribute__((optimize("no-tree-loop-distribute-patterns"))) void *
memcpy(void *to, const void *from, size_t n)
{
    unsigned char *t = to;
    const unsigned char *f = from;
    while (n--)
        *t++ = *f++;
    return to;
}

__attribute__((optimize("no-tree-loop-distribute-patterns"))) void *memset(void *to, int value,
                                                                           size_t n)
{
    unsigned char *t = to;
    while (n--)
        *t++ = (unsigned char)value;
    return to;
}

/* Interrupts are masked here and stay so until the application opens them. */
void wad_start(void)
{
    const uint32_t *from = wad_data_load;
    for (uint32_t *to = wad_data_start; to < wad_data_end; to++)
        *to = *from++;
    for (uint32_t *to = wad_bss_start; to < wad_bss_end; to++)
        *to = 0;
    main();
    for (;;) {
    }
}

void wad_port_unhandled(unsigned vector)
{
    wad_unhandled_vector = vector;
    for (;;) {
    }
}
