/* SPDX-License-Identifier: MIT */
/* `expect awake below 5 %` */
#include "expectation.h"

static wadi_judged judge(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    const wad_run_result *run = scene->run;
    (void)state;
    return wadi_judge_share(e, run->end_ps ? (double)run->awake_ps / (double)run->end_ps : 1);
}

const wadi_expectation_class wadi_expect_awake = {
    .words = "awake below",
    .example = "expect awake below 5 %",
    .about = WADI_ABOUT_RUN,
    .unit = WAD_UNIT_PART,
    .operands = WADI_TAKES_VALUE,
    .judge = judge,
};
