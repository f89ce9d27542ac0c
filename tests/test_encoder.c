/* SPDX-License-Identifier: MIT */
/* Two-phase encoders against a walk that is counted by hand. */
#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/encoder.h"

#include "corran32_roles.h"

#define US (WAD_PS_PER_S / 1000000)

static wad_sim *sim;
static wad_encoder wheel;

/* ---- the world: a wheel at a quarter, its two tracks on PC6 and PC7 ---- */

typedef struct turn {
    int32_t quarter;
    const char *noise; /* a pulse of 1 us on that pin instead */
} turn;

static void show(wad_sim *s, int32_t quarter)
{
    static const bool a[] = {false, true, true, false}, b[] = {false, false, true, true};
    unsigned phase = (unsigned)quarter & 3u;
    wad_sim_drive(s, wad_sheet_pin(sheet, "PC6"), a[phase] ? WAD_HIGH : WAD_LOW);
    wad_sim_drive(s, wad_sheet_pin(sheet, "PC7"), b[phase] ? WAD_HIGH : WAD_LOW);
}

static void on_turn(wad_sim *s, void *ctx)
{
    show(s, ((const turn *)ctx)->quarter);
}

static void on_noise(wad_sim *s, void *ctx)
{
    const wad_pin_def *pin = wad_sheet_pin(sheet, ((const turn *)ctx)->noise);
    wad_sim_drive(s, pin, wad_sim_level(s, pin) == WAD_HIGH ? WAD_LOW : WAD_HIGH);
}

/* ---- the firmware ---- */

static unsigned filter;
static int32_t seen[4096];
static unsigned n_seen;
static bool fault;

static int wheel_main(void)
{
    if (wad_encoder_open(&wheel, &corran32_enc, CORRAN32_ROUTE_ENC_A_PC6, CORRAN32_ROUTE_ENC_B_PC7,
                         filter) != WAD_OK)
        return 1;
    for (;;) {
        wad_port_cycles(8 * 10); /* each 10 us and a little */
        int32_t now = wad_encoder_position(&wheel);
        if (n_seen < G_N_ELEMENTS(seen))
            seen[n_seen++] = now;
        fault = wad_encoder_fault(&wheel) || fault;
    }
    return 0;
}

static void begin(void)
{
    char *why;
    n_seen = 0;
    fault = false;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, wheel_main, NULL, 0);
}

static void end(uint64_t ps)
{
    wad_run_result r = wad_sim_run(sim, ps);
    if (r.end != WAD_RUN_TIME)
        fail_msg("%s", r.story);
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        wad_finding_print(wad_sim_finding(sim, i), stderr);
    assert_int_equal(wad_sim_finding_count(sim), 0);
    wad_sim_free(sim);
}

/* ---- tests ---- */

/* 1500 steps to and fro, at times of a random kind: where it stands at the end, and at no time
 * further away than one step. */
static void a_random_walk_is_followed(void **state)
{
    static turn turns[1500];
    GRand *rand = g_rand_new_with_seed(4);
    uint64_t ps = 1000 * US;
    int32_t at = 0, low = 0, high = 0;
    (void)state;
    filter = 0;
    begin();
    for (unsigned i = 0; i < 1500; i++) {
        at += g_rand_int_range(rand, 0, 5) ? 1 : -1;
        turns[i] = (turn){at, NULL};
        ps += (uint64_t)g_rand_int_range(rand, 2, 30) * US;
        wad_sim_at(sim, ps, on_turn, &turns[i]);
        low = MIN(low, at);
        high = MAX(high, at);
    }
    end(ps + 1000 * US);
    assert_true(at > 500);
    assert_int_equal(seen[n_seen - 1], at);
    assert_false(fault);
    for (unsigned i = 0; i < n_seen; i++)
        assert_in_range(seen[i] + 10, low + 10, high + 10);
    g_rand_free(rand);
}

/* Beyond the 16 bits of the block, forwards and back, in 3 us a step. */
static void positions_go_on_beyond_the_block(void **state)
{
    static turn turns[140000];
    (void)state;
    filter = 0;
    begin();
    for (int32_t i = 0; i < 140000; i++) {
        turns[i] = (turn){i < 70000 ? -i - 1 : -140000 + i + 1, NULL};
        wad_sim_at(sim, (uint64_t)(1000 + 3 * i) * US, on_turn, &turns[i]);
    }
    end((1000 + 3 * 70000) * US);
    int32_t lowest = 0;
    for (unsigned i = 0; i < n_seen; i++)
        lowest = MIN(lowest, seen[i]);
    assert_true(lowest < -13000); /* the first 4096 looks */
    assert_in_range(-wheel.position, 69990, 70000);
    assert_false(fault);
}

/* Pulses of 1 us are 8 clocks: a filter of 10 does not see them, one of 4 does, and they undo each
 * other. */
static void a_filter_swallows_noise(void **state)
{
    static turn noise[200];
    (void)state;
    for (filter = 4; filter <= 10; filter += 6) {
        begin();
        for (unsigned i = 0; i < 200; i++) {
            noise[i] = (turn){0, i / 2 % 2 ? "PC7" : "PC6"};
            wad_sim_at(sim, 1000 * US + i / 2 * 20 * US + i % 2 * US, on_noise, &noise[i]);
        }
        end(5000 * US);
        assert_int_equal(seen[n_seen - 1], 0);
        assert_false(fault);
    }
}

/* Both tracks at once: no step, but a fault. */
static void both_at_once_is_a_fault(void **state)
{
    static turn turns[2] = {{1, NULL}, {3, NULL}};
    (void)state;
    filter = 0;
    begin();
    wad_sim_at(sim, 1000 * US, on_turn, &turns[0]);
    wad_sim_at(sim, 2000 * US, on_turn, &turns[1]);
    end(3000 * US);
    assert_true(fault);
    assert_int_equal(seen[n_seen - 1], 1);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_random_walk_is_followed),
        cmocka_unit_test(positions_go_on_beyond_the_block),
        cmocka_unit_test(a_filter_swallows_noise),
        cmocka_unit_test(both_at_once_is_a_fault),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
