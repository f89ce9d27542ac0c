/* SPDX-License-Identifier: MIT */
/* Firmware that does what no chip can: each of RUNAWAY would take the simulator's process with it.
 */
#include <pthread.h>
#include <setjmp.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/time.h>
#include <unistd.h>

#include "corran32.h"

static jmp_buf nowhere;
static volatile int sink;

static void use(void)
{
    for (int i = 0; i < 100; i++)
        sink = (int)CORRAN32_CNT0->CTRL;
}

static void *thread(void *arg)
{
    use();
    return arg;
}

static void swallow(int number)
{
    (void)number;
}

/* Called before main. */
__attribute__((constructor)) static void early(void)
{
    if (RUNAWAY == 9)
        _exit(0);
}

int main(void)
{
    use();
    switch (RUNAWAY) {
    case 1: /* longjmp without setjmp */
        memset(nowhere, 0x5A, sizeof nowhere);
        longjmp(nowhere, 1);
    case 2: { /* a thread that touches registers */
        pthread_t t;
        pthread_create(&t, NULL, thread, NULL);
        pthread_join(t, NULL);
        break;
    }
    case 3: { /* more than was asked for */
        char *volatile p = malloc(24);
        memset(p, 0x77, 400);
        free(malloc(24));
        free(p);
        break;
    }
    case 4: { /* a timer of the host's */
        struct itimerval soon = {{0, 1000}, {0, 1000}};
        setitimer(ITIMER_REAL, &soon, NULL);
        for (;;)
            use();
    }
    case 5: /* handles the host's signals, and then a fault */
        signal(SIGSEGV, swallow);
        *(volatile int *)16 = 1;
        break;
    case 6: /* the same, and nobody is heard any more */ {
        sigset_t all;
        sigfillset(&all);
        sigprocmask(SIG_BLOCK, &all, NULL);
        signal(SIGSEGV, swallow);
        for (;;)
            __asm__ volatile("nop");
    }
    case 7: /* two of it */
        if (fork() == 0)
            for (;;)
                sleep(1);
        for (;;)
            use();
    case 8: /* says that all is good */
        _Exit(0);
    case 10: /* waits in the host's library */
        for (;;)
            sleep(1000);
    default:
        break;
    }
    for (;;)
        sink++;
}
