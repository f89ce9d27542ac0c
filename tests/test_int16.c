/* SPDX-License-Identifier: MIT */
/* The sums that a compiler with an int of 16 bits has to come to (int16/sums.c): they come out so
 * here, and the settings among them are the nearest of all there are. */
#include <math.h>

#include "support.h"

static unsigned n_wrong, last_wrong, n_solved;

#define SUMS_RUN
#define HERE    __attribute__((constructor))
#define WRONG() (n_wrong++, last_wrong = __LINE__)

static void check_nearest(const void *divider, uint32_t clock_hz, uint32_t hz, uint32_t per,
                          uint64_t t);

#include "int16/sums.c"

bool wad_need_meet(const wad_need *need,
                   uint32_t polls) /* of wad_clock_start, which nobody calls */
{
    (void)need;
    (void)polls;
    return false;
}

/* |a - b t| / t of each prescaler's two nearest counts, without shortcuts. */
static void check_nearest(const void *divider, uint32_t clock_hz, uint32_t hz, uint32_t per,
                          uint64_t t)
{
    const wad_divider *d = divider;
    long double a = (long double)clock_hz * per * d->up, b = (long double)d->down * hz;
    long double least = fabsl(a - b * (long double)t) / (long double)t;
    uint32_t n = d->set ? d->n_set : d->prescale_max;
    for (uint32_t i = d->set ? 0 : d->prescale_min; i < n + !d->set; i++) {
        uint32_t p = d->set ? d->set[i] : i;
        if (d->power && (p & (p - 1))) /* of 2 here */
            continue;
        for (int up = 0; up < 2; up++) {
            long double count = floorl(a / b / p) + up;
            count = count < d->min ? d->min : count > d->max ? d->max : count;
            if (fabsl(a - b * count * p) / (count * p) < least * (1 - 1e-12L))
                n_wrong++;
        }
    }
    n_solved++;
}

static void sums_come_out_here_as_well(void **state)
{
    (void)state;
    if (n_wrong)
        fail_msg("%u wrong, one at int16/sums.c:%u", n_wrong, last_wrong);
    assert_int_equal(n_solved, 7);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(sums_come_out_here_as_well)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
