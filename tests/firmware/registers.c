/* SPDX-License-Identifier: MIT */
/* A program of the host whose memory plays registers, for gdbserver. */
#include <stdint.h>
#include <stdio.h>
#include <sys/mman.h>

#define BASE ((volatile uint32_t *)0x40000000)

volatile uint32_t rounds;

void turn(void);
__attribute__((noinline)) void turn(void)
{
    rounds++;
    BASE[1] = rounds;
}

int main(void)
{
    if (mmap((void *)BASE, 0x10000, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS | MAP_FIXED,
             -1, 0) != (void *)BASE)
        return 2;
    BASE[0] = 0x12345678;
    for (unsigned i = 0; i < 16384 - 64; i++)
        ((volatile uint8_t *)BASE)[64 + i] = (uint8_t)(i * 7);
    while (BASE[2] == 0)
        turn();
    return 7;
}
