/* SPDX-License-Identifier: MIT */
/* Expectations of DMA channels and of the bus. */
#include "expectation.h"

static wadi_judged judge_elements(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    const wad_dma_stats *s = wadi_dma_meter_channel(scene->dma, e->block, e->number);
    (void)state;
    return wadi_judge_count(e, s ? s->elements : 0);
}

static wadi_judged judge_latency(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    const wad_dma_stats *s = wadi_dma_meter_channel(scene->dma, e->block, e->number);
    (void)state;
    return wadi_judge_latency(e, s ? &s->latency : NULL, "no request was answered");
}

static wadi_judged judge_bus(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    uint64_t waited, taken = wad_sim_bus_taken(scene->sim, &waited), end = scene->run->end_ps;
    (void)state;
    return wadi_judge_share(e, end ? (double)taken / (double)end : 0);
}

const wadi_expectation_class wadi_expect_elements = {.words = "elements",
                                                     .example = "expect DMA0 channel 0 elements 0",
                                                     .about = WADI_ABOUT_CHANNEL,
                                                     .operands = WADI_TAKES_VALUE,
                                                     .judge = judge_elements},
                             wadi_expect_element_latency =
                                 {.words = "latency below",
                                  .example = "expect DMA0 channel 0 latency below 10 us",
                                  .about = WADI_ABOUT_CHANNEL,
                                  .unit = WAD_UNIT_S,
                                  .operands = WADI_TAKES_VALUE,
                                  .judge = judge_latency},
                             wadi_expect_bus = {.words = "bus below",
                                                .example = "expect bus below 5 %",
                                                .about = WADI_ABOUT_RUN,
                                                .unit = WAD_UNIT_PART,
                                                .operands = WADI_TAKES_VALUE,
                                                .judge = judge_bus};
