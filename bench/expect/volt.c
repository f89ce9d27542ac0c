/* SPDX-License-Identifier: MIT */
/* Expectations of volts at a captured pin. */
#include "bench/language/value.h"
#include "expectation.h"
#include "lang/rational.h"
#include "sheet/read/number.h"
#include "wadium/host/meter.h"
#include "wadium/host/spectrum.h"

/* ---- what the captured samples say ---- */

typedef struct heard_tone {
    wad_tone t;
    bool is_one;
    wadi_judged no; /* measured: why nothing is judged */
} heard_tone;

static heard_tone measure(const wadi_expectation *e, const wadi_scene *scene)
{
    heard_tone h = {.is_one = false};
    size_t n;
    const wad_sample *samples = wad_capture_samples(scene->capture, e->number, &n);
    if (n)
        h.is_one =
            wad_tone_measure(samples, n, e->from_ps, MIN(e->to_ps, scene->run->end_ps), &h.t);
    else
        h.no.measured = g_strdup("nothing was captured");
    return h;
}

/* Of an expectation that needs a tone. */
static heard_tone measure_tone(const wadi_expectation *e, const wadi_scene *scene)
{
    heard_tone h = measure(e, scene);
    if (!h.is_one && !h.no.measured)
        h.no.measured = g_strdup("no tone: it does not change, or too seldom");
    return h;
}

static wadi_judged judge_tone(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    heard_tone h = measure_tone(e, scene);
    (void)state;
    if (h.no.measured)
        return h.no;
    return (wadi_judged){g_strdup_printf("%.9g Hz", h.t.hz), wadi_expect_close(e, h.t.hz)};
}

static wadi_judged judge_amplitude(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    heard_tone h = measure_tone(e, scene);
    (void)state;
    if (h.no.measured)
        return h.no;
    return (wadi_judged){wad_amount_text(h.t.amplitude, "V"), wadi_expect_close(e, h.t.amplitude)};
}

static wadi_judged judge_mean(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    heard_tone h = measure(e, scene);
    (void)state;
    if (h.no.measured)
        return h.no;
    return (wadi_judged){wad_amount_text(h.t.mean, "V"), wadi_expect_close(e, h.t.mean)};
}

static wadi_judged judge_distortion(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    heard_tone h = measure_tone(e, scene);
    (void)state;
    return h.no.measured ? h.no : wadi_judge_share(e, h.t.distortion);
}

/* `stays 0.5 V to 2 V` */
static bool parse_stays(wad_bench *b, wadi_cursor *c, wadi_expectation *e)
{
    (void)b;
    if (wadi_expect_wanted(c, e, WAD_UNIT_V) && wadi_need_word(c, "to"))
        wadi_take_amount(c, &e->within, &e->within_unit);
    return !c->failed;
}

static wadi_judged judge_stays(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    heard_tone h = measure(e, scene);
    (void)state;
    if (h.no.measured)
        return h.no;
    char *low = wad_amount_text(h.t.min, "V"), *high = wad_amount_text(h.t.max, "V");
    bool ok = h.t.min >= wadi_rat_double(e->wanted) && h.t.max <= wadi_rat_double(e->within);
    wadi_judged j = {g_strdup_printf("%s to %s", low, high), ok};
    g_free(low);
    g_free(high);
    return j;
}

/* ---- steps of a converter's output: how regular are they? ---- */

typedef struct steps {
    uint64_t n, last_ps;
    wad_stats period;
} steps;

static void hear_step(const wadi_expectation *e, void *state, const wadi_heard *h)
{
    steps *s = state;
    if (!wadi_in_window(e, h->ps))
        return;
    if (s->n++)
        wad_stats_add(&s->period, h->ps - s->last_ps);
    s->last_ps = h->ps;
}

static wadi_judged judge_samples(const wadi_expectation *e, void *state, const wadi_scene *scene)
{
    (void)scene;
    return wadi_judge_spread(e, &((const steps *)state)->period, "fewer than two samples");
}

#define NEAR (WADI_TAKES_VALUE | WADI_TAKES_WITHIN)

const wadi_expectation_class
    wadi_expect_tone = {.words = "frequency",
                        .example = "expect horn frequency 440 Hz within 100 ppm",
                        .about = WADI_ABOUT_VOLTS,
                        .unit = WAD_UNIT_HZ,
                        .operands = NEAR,
                        .windowed = true,
                        .judge = judge_tone},
    wadi_expect_amplitude = {.words = "amplitude",
                             .example = "expect horn amplitude 1.2 V within 1 %",
                             .about = WADI_ABOUT_VOLTS,
                             .unit = WAD_UNIT_V,
                             .operands = NEAR,
                             .windowed = true,
                             .judge = judge_amplitude},
    wadi_expect_mean = {.words = "mean",
                        .example = "expect horn mean 1.65 V within 10 mV from 1 s",
                        .about = WADI_ABOUT_VOLTS,
                        .unit = WAD_UNIT_V,
                        .operands = NEAR,
                        .windowed = true,
                        .judge = judge_mean},
    wadi_expect_distortion = {.words = "distortion below",
                              .example = "expect horn distortion below 1 %",
                              .about = WADI_ABOUT_VOLTS,
                              .unit = WAD_UNIT_PART,
                              .operands = WADI_TAKES_VALUE,
                              .windowed = true,
                              .judge = judge_distortion},
    wadi_expect_samples = {.words = "samples every",
                           .example = "expect horn samples every 35.5 us within 1 ns",
                           .about = WADI_ABOUT_VOLTS,
                           .unit = WAD_UNIT_S,
                           .operands = NEAR,
                           .windowed = true,
                           .state_size = sizeof(steps),
                           .hear = hear_step,
                           .judge = judge_samples},
    wadi_expect_stays = {.words = "stays",
                         .example = "expect horn stays 0.5 V to 2 V",
                         .about = WADI_ABOUT_VOLTS,
                         .windowed = true,
                         .parse = parse_stays,
                         .judge = judge_stays};
