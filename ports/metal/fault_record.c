/* SPDX-License-Identifier: MIT */
/* The registers of a fault, where start-up does not clear them. */
#include "access.h"

#define WORDS 10u
#define KEPT  0x57464C54u

/* The words, then a check over them: memory after a cold start holds anything. */
static volatile uint32_t kept[WORDS + 1] __attribute__((section(".noinit")));

static uint32_t check(void)
{
    uint32_t sum = KEPT;
    for (unsigned i = 0; i < WORDS; i++)
        sum = (sum << 5 | sum >> 27) ^ kept[i];
    return sum;
}

void wadi_fault_keep(const uint32_t *words)
{
    for (unsigned i = 0; i < WORDS; i++)
        kept[i] = words[i];
    kept[WORDS] = check();
}

uint32_t *wad_port_fault(void)
{
    return kept[WORDS] == check() ? (uint32_t *)(uintptr_t)kept : (uint32_t *)0;
}

void wad_port_fault_forget(void)
{
    kept[WORDS] = ~check();
}
