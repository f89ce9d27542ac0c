/* SPDX-License-Identifier: MIT */
/* The DMA controller's driver: channels claimed, copies, rings whose position is right at any
 * moment, lists, ends of every kind. The firmware is part of the test. */
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/dma.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define MS      (WAD_PS_PER_S / 1000)
#define BY_CNT0 CORRAN32_REQUEST_DMA0_CNT0_WRAP
#define BY_CNT1 CORRAN32_REQUEST_DMA0_CNT1_WRAP

static wad_sim *sim;
static wad_dma_mover mover;
static wad_dma one, two, three;
static wad_timer pace;
static char story[200];

static void handle_mover(void)
{
    wad_dma_handle(&mover);
}

static const wad_handler handlers[32] = {[CORRAN32_DMA0_IRQ] = handle_mover};

#define CHECK(condition)                                                                           \
    do {                                                                                           \
        if (!(condition) && !*story)                                                               \
            snprintf(story, sizeof story, "line %d: %s", __LINE__, #condition);                    \
    } while (0)

static void run(int (*body)(void))
{
    char *why;
    *story = 0;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, body, handlers, 32);
    wad_sim_run(sim, 500 * MS);
    if (*story)
        fail_msg("%s", story);
}

static void expect_only(wad_finding_kind kind)
{
    unsigned n = wad_sim_finding_count(sim);
    for (unsigned i = 0; i < n; i++)
        if (wad_sim_finding(sim, i)->kind != kind)
            fail_msg("W%u: %s", wad_sim_finding(sim, i)->kind, wad_sim_finding(sim, i)->what);
    wad_sim_free(sim);
}

static int rest(void)
{
    for (;;)
        wad_port_sleep();
    return 0;
}

static void open_mover(void)
{
    CHECK(wad_dma_open(&mover, &corran32_dma0, 1) == WAD_OK);
    wad_irq_global_on();
}

/* ---- what callbacks say ---- */

static struct {
    unsigned n;
    wad_status status;
    size_t moved;
} said;

static void on_done(void *context, wad_status status, size_t moved)
{
    (void)context;
    said.n++;
    said.status = status;
    said.moved = moved;
}

static bool over(unsigned n)
{
    for (unsigned polls = 20000; polls && said.n < n; polls--)
        wad_port_cycles(10);
    return said.n == n;
}

/* ---- channels ---- */

static int claims(void)
{
    wad_dma more[8];
    open_mover();
    CHECK(wad_dma_claim(&mover, &one, BY_CNT0, "pressure") == WAD_OK);
    CHECK(wad_dma_claim(&mover, &two, BY_CNT0, "telemetry") == WAD_E_STATE);
    CHECK(!strcmp(wad_dma_owner(&mover, BY_CNT0), "pressure"));
    CHECK(!wad_dma_owner(&mover, BY_CNT1));
    CHECK(wad_dma_claim_channel(&mover, &two, 8, BY_CNT1, "telemetry") == WAD_E_ARG);
    CHECK(wad_dma_claim_channel(&mover, &two, 0, BY_CNT1, "telemetry") == WAD_E_STATE);
    CHECK(wad_dma_claim_channel(&mover, &two, 5, 99, "telemetry") == WAD_E_ABSENT);
    CHECK(wad_dma_claim_channel(&mover, &two, 5, BY_CNT1, "telemetry") == WAD_OK);
    for (unsigned i = 0; i < 6; i++)
        CHECK(wad_dma_claim(&mover, &more[i], WAD_DMA_AT_ONCE, "copies") == WAD_OK);
    CHECK(wad_dma_claim(&mover, &more[6], WAD_DMA_AT_ONCE, "copies") == WAD_E_STATE);
    wad_dma_release(&one);
    CHECK(!wad_dma_owner(&mover, BY_CNT0));
    CHECK(wad_dma_claim(&mover, &more[6], BY_CNT0, "horn") == WAD_OK);
    CHECK(more[6].channel == 0);
    return 0;
}

static void a_request_has_one_owner_by_name(void **state)
{
    (void)state;
    run(claims);
    expect_only(0);
}

/* ---- copies ---- */

static _Alignas(256) uint8_t from[256], to[256];

static void copies_of(size_t a, size_t b, size_t n)
{
    memset(to, 0xEE, sizeof to);
    unsigned before = said.n;
    CHECK(wad_dma_copy(&one, to + b, from + a, n, on_done, NULL) == WAD_OK);
    CHECK(over(before + 1) && said.status == WAD_OK);
    CHECK(!memcmp(to + b, from + a, n) && (!b || to[b - 1] == 0xEE) && to[b + n] == 0xEE);
}

static int copying(void)
{
    for (unsigned i = 0; i < sizeof from; i++)
        from[i] = (uint8_t)(i * 31 + 5);
    open_mover();
    CHECK(wad_dma_claim(&mover, &one, WAD_DMA_AT_ONCE, "table") == WAD_OK);
    for (size_t a = 0; a < 4; a++)
        for (size_t b = 0; b < 4; b++)
            for (size_t n = 1; n < 40; n += 3)
                copies_of(a, b, n);
    memset(to, 0, sizeof to);
    CHECK(wad_dma_fill(&one, to + 1, 0xA7, 77, on_done, NULL) == WAD_OK);
    CHECK(wad_dma_fill(&one, to + 1, 0xA7, 77, on_done, NULL) == WAD_E_STATE);
    CHECK(over(said.n + 1));
    for (unsigned i = 0; i < sizeof to; i++)
        CHECK(to[i] == (i >= 1 && i < 78 ? 0xA7 : 0));
    return 0;
}

static void copies_and_fills_of_every_alignment(void **state)
{
    (void)state;
    said.n = 0;
    run(copying);
    expect_only(0);
}

static int refusals(void)
{
    static _Alignas(4) uint8_t odd[24];
    wad_dma_transfer t = {.source = from, .destination = to, .n = 4, .bytes = 4};
    open_mover();
    CHECK(wad_dma_claim(&mover, &one, WAD_DMA_AT_ONCE, "table") == WAD_OK);
    wad_dma_transfer x = t;
    x.n = 0;
    CHECK(wad_dma_start(&one, &x) == WAD_E_ARG);
    x = t, x.bytes = 3;
    CHECK(wad_dma_start(&one, &x) == WAD_E_ARG);
    x = t, x.source = from + 2;
    CHECK(wad_dma_start(&one, &x) == WAD_E_ARG);
    x = t, x.destination = to + 1;
    CHECK(wad_dma_start(&one, &x) == WAD_E_ARG);
    x = t, x.n = 65536;
    CHECK(wad_dma_start(&one, &x) == WAD_E_RANGE);
    x = t, x.flags = WAD_DMA_WHOLE;
    CHECK(wad_dma_start(&one, &x) == WAD_E_ABSENT);
    x = t, x.flags = WAD_DMA_RING; /* both sides go on */
    CHECK(wad_dma_start(&one, &x) == WAD_E_ARG);
    x = t, x.flags = WAD_DMA_RING | WAD_DMA_SOURCE_STAYS, x.destination = odd, x.n = 6;
    CHECK(wad_dma_start(&one, &x) == WAD_E_ARG); /* 24 bytes are no window */
    CHECK(wad_dma_again(&one) == WAD_E_STATE);
    CHECK(!wad_dma_left(&one) && !wad_dma_position(&one));
    CHECK(wad_dma_abort(&one) == WAD_OK && !said.n);
    return 0;
}

static void what_cannot_be_is_refused_and_begins_nothing(void **state)
{
    (void)state;
    said.n = 0;
    run(refusals);
    expect_only(0);
}

static int in_pieces(void)
{
    open_mover();
    CHECK(wad_dma_claim(&mover, &one, WAD_DMA_AT_ONCE, "table") == WAD_OK);
    memset(to, 0, sizeof to);
    CHECK(wad_dma_copy(&one, to, from, 32, on_done, NULL) == WAD_OK && over(1));
    CHECK(wad_dma_again(&one) == WAD_OK && over(2)); /* on from there */
    CHECK(!memcmp(to, from, 64) && !to[64]);
    CHECK(wad_dma_again_from(&one, from) == WAD_OK && over(3));
    CHECK(!memcmp(to + 64, from, 32));
    CHECK(wad_dma_again_to(&one, to + 128) == WAD_OK && over(4));
    CHECK(!memcmp(to + 128, from + 32, 32));
    CHECK(wad_dma_again_to(&one, to + 129) == WAD_E_ARG);
    return 0;
}

static unsigned writes;

static void on_access(void *ctx, const wad_access_record *r)
{
    (void)ctx;
    writes += r->write && !strncmp(r->reg->name, "COUNTGO", 7);
}

static void a_second_start_is_one_register(void **state)
{
    (void)state;
    said.n = 0;
    writes = 0;
    char *why;
    *story = 0;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, in_pieces, handlers, 32);
    wad_sim_watch_access(sim, on_access, NULL);
    wad_sim_run(sim, 500 * MS);
    if (*story)
        fail_msg("%s", story);
    assert_int_equal(writes, 1);
    expect_only(0);
}

/* ---- rings ---- */

static uint32_t source;
static _Alignas(64) uint32_t ring[20];
static unsigned n_halves, ring_size;
static bool in_turn;
static uint64_t truth; /* elements moved, as the simulator counts them */

static void on_half(void *context, unsigned half)
{
    (void)context;
    in_turn = in_turn && half == n_halves % 2 &&
              truth % ring_size == (half ? 0 : (ring_size + 1) / 2); /* an element takes 50 us */
    n_halves++;
}

static void on_moved(void *ctx, const wad_dma_record *r)
{
    (void)ctx;
    truth += r->what == WAD_DMA_MOVED;
}

/* Looked at all the time, from one element to the next and from round to round. */
static int ring_goes_round(void)
{
    wad_dma_transfer t = {.source = &source,
                          .destination = ring,
                          .n = ring_size,
                          .bytes = 4,
                          .flags = WAD_DMA_SOURCE_STAYS | WAD_DMA_RING,
                          .half = on_half,
                          .done = on_done};
    open_mover();
    pace = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(20000)};
    CHECK(wad_timer_open(&pace) == WAD_OK);
    CHECK(wad_dma_claim(&mover, &one, BY_CNT0, "ring") == WAD_OK);
    if (ring_size != 16) {
        CHECK(wad_dma_claim_partner(&one, &two) == WAD_OK);
        t.partner = &two;
    }
    CHECK(wad_dma_start(&one, &t) == WAD_OK);
    wad_timer_start(&pace);
    for (unsigned i = 0; i < 6000; i++) {
        uint64_t before = truth, at = wad_dma_position(&one);
        if (at < before || at > truth) {
            snprintf(story, sizeof story, "look %u: at %u, moved %u to %u", i, (unsigned)at,
                     (unsigned)before, (unsigned)truth);
            break;
        }
        wad_port_cycles(i % 7 * 13);
    }
    CHECK(wad_dma_abort(&one) == WAD_OK);
    uint64_t at = truth;
    CHECK(at > 5 * ring_size);
    CHECK(said.n == 1 && said.status == WAD_E_STATE && said.moved == (size_t)at);
    uint64_t due = at / ring_size * 2 + (at % ring_size >= (ring_size + 1) / 2);
    if (n_halves != due && !*story)
        snprintf(story, sizeof story, "%u halves at %u", n_halves, (unsigned)at);
    CHECK(in_turn);
    return 0;
}

static void a_ring_says_where_it_is_at_any_moment(void **state)
{
    static const unsigned sizes[] = {16, 20, 13, 7};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(sizes); i++) {
        char *why;
        ring_size = sizes[i];
        said.n = n_halves = 0;
        truth = 0;
        in_turn = true;
        *story = 0;
        memset(ring, 0, sizeof ring);
        source = 0xC0FFEE;
        sim = wad_sim_new(sheet, &why);
        wad_sim_attach(sim, ring_goes_round, handlers, 32);
        wad_sim_watch_dma(sim, on_moved, NULL);
        wad_sim_run(sim, 500 * MS);
        if (*story)
            fail_msg("ring of %u: %s", ring_size, story);
        for (unsigned k = 0; k < 20; k++)
            assert_int_equal(ring[k], k < ring_size ? 0xC0FFEE : 0);
        expect_only(0);
    }
}

/* ---- lists ---- */

static _Alignas(16) wad_dma_settings room[4];

static int a_list(void)
{
    static uint16_t halfs[8];
    wad_dma_transfer pieces[] = {
        {.source = from + 100, .destination = to, .n = 20, .bytes = 1},
        {.source = from, .destination = to + 20, .n = 5, .bytes = 4},
        {.source = &from[8],
         .destination = halfs,
         .n = 8,
         .bytes = 2,
         .flags = WAD_DMA_SOURCE_STAYS},
        {.source = from + 50, .destination = to + 40, .n = 3, .bytes = 2, .done = on_done}};
    open_mover();
    memset(to, 0, sizeof to);
    CHECK(wad_dma_claim(&mover, &one, WAD_DMA_AT_ONCE, "pieces") == WAD_OK);
    CHECK(wad_dma_claim(&mover, &two, WAD_DMA_AT_ONCE, "their settings") == WAD_OK);
    CHECK(wad_dma_list(&one, NULL, pieces, room, 4) == WAD_E_ABSENT);
    for (unsigned twice = 1; twice <= 2; twice++) {
        memset(to, 0, sizeof to);
        CHECK(wad_dma_list(&one, &two, pieces, room, 4) == WAD_OK);
        CHECK(wad_dma_list(&one, &two, pieces, room, 4) == WAD_E_STATE);
        CHECK(wad_dma_copy(&two, to, from, 4, NULL, NULL) == WAD_E_STATE);
        CHECK(over(twice) && said.status == WAD_OK && said.moved == 36);
        CHECK(!memcmp(to, from + 100, 20) && !memcmp(to + 20, from, 20));
        CHECK(!memcmp(to + 40, from + 50, 6) && !to[46]);
        for (unsigned i = 0; i < 8; i++)
            CHECK(halfs[i] == (from[8] | from[9] << 8));
    }
    return 0;
}

static void a_list_goes_through_without_the_core(void **state)
{
    (void)state;
    said.n = 0;
    run(a_list);
    expect_only(0);
}

/* A list that is aborted behind every few cycles: nothing moves any more, also where the settings
 * of the next piece were on their way. */
static unsigned cut_after;

static int cut_list(void)
{
    wad_dma_transfer pieces[4];
    for (unsigned i = 0; i < 4; i++)
        pieces[i] = (wad_dma_transfer){.source = from + i * 8,
                                       .destination = to + i * 8,
                                       .n = 4,
                                       .bytes = 2,
                                       .done = i == 3 ? on_done : NULL};
    open_mover();
    memset(to, 0, sizeof to);
    CHECK(wad_dma_claim(&mover, &one, WAD_DMA_AT_ONCE, "pieces") == WAD_OK);
    CHECK(wad_dma_claim(&mover, &two, WAD_DMA_AT_ONCE, "their settings") == WAD_OK);
    CHECK(wad_dma_list(&one, &two, pieces, room, 4) == WAD_OK);
    wad_port_cycles(cut_after);
    CHECK(wad_dma_abort(&one) == WAD_OK);
    uint8_t then[32];
    memcpy(then, to, sizeof then);
    wad_port_cycles(500);
    CHECK(!memcmp(then, to, sizeof then));
    CHECK(said.n == 1);
    CHECK(said.status == WAD_E_STATE || (said.status == WAD_OK && !memcmp(to, from, 32)));
    /* and all of it is free for the next one */
    CHECK(wad_dma_copy(&one, to, from, 64, on_done, NULL) == WAD_OK && over(2));
    return 0;
}

static void an_aborted_list_stays_aborted(void **state)
{
    unsigned ended = 0, cut = 0;
    (void)state;
    for (cut_after = 1; cut_after < 200; cut_after += 3) {
        said.n = 0;
        said.status = WAD_E_ARG;
        run(cut_list);
        expect_only(0);
        cut++;
        ended += cut_after > 150;
    }
    assert_true(cut > 60 && ended > 10);
}

/* ---- ends ---- */

static int halts(void)
{
    open_mover();
    pace = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(10000)};
    CHECK(wad_timer_open(&pace) == WAD_OK);
    CHECK(wad_dma_claim(&mover, &one, BY_CNT0, "table") == WAD_OK);
    wad_dma_transfer t = {.source = from, .destination = to, .n = 30, .bytes = 1, .done = on_done};
    CHECK(wad_dma_start(&one, &t) == WAD_OK);
    wad_timer_start(&pace);
    wad_port_cycles(800 * 5 + 400);
    CHECK(wad_dma_pause(&one, true) == WAD_OK);
    size_t left = wad_dma_left(&one);
    CHECK(left == 25);
    wad_port_cycles(8000);
    CHECK(wad_dma_left(&one) == left && !said.n);
    CHECK(wad_dma_pause(&one, false) == WAD_OK);
    wad_port_cycles(800 * 3);
    CHECK(wad_dma_left(&one) < left && wad_dma_left(&one) >= left - 4);
    CHECK(wad_dma_abort(&one) == WAD_OK);
    CHECK(said.n == 1 && said.status == WAD_E_STATE && !memcmp(to, from, said.moved));
    /* a request that never comes: nothing hangs */
    wad_timer_stop(&pace);
    CHECK(wad_dma_start(&one, &t) == WAD_OK);
    wad_port_cycles(8000);
    CHECK(wad_dma_left(&one) == 30);
    wad_dma_release(&one);
    CHECK(said.n == 2 && said.moved == 0);
    /* beyond the memory: the rest is told, what was moved stays */
    CHECK(wad_dma_claim(&mover, &three, WAD_DMA_AT_ONCE, "astray") == WAD_OK);
    t.destination = (void *)(uintptr_t)0x5FFF0000u;
    CHECK(wad_dma_start(&three, &t) == WAD_OK && over(3));
    CHECK(said.status == WAD_E_DATA && said.moved == 0);
    return 0;
}

static void pauses_aborts_and_errors_are_told_once(void **state)
{
    (void)state;
    said.n = 0;
    run(halts);
    expect_only(WAD_FINDING_DMA_UNMAPPED);
}

/* The callback begins the next one. */
static unsigned rounds;

static void again_and_again(void *context, wad_status status, size_t moved)
{
    on_done(context, status, moved);
    if (++rounds < 5)
        CHECK(wad_dma_copy(&one, to, from, 64, again_and_again, NULL) == WAD_OK);
}

static int chained_by_hand(void)
{
    open_mover();
    CHECK(wad_dma_claim(&mover, &one, WAD_DMA_AT_ONCE, "table") == WAD_OK);
    CHECK(wad_dma_copy(&one, to, from, 64, again_and_again, NULL) == WAD_OK);
    return rest();
}

static void a_callback_begins_the_next(void **state)
{
    (void)state;
    said.n = rounds = 0;
    run(chained_by_hand);
    assert_int_equal(said.n, 5);
    expect_only(0);
}

static int with_sum(void)
{
    uint32_t sum = 0, expected = 7;
    open_mover();
    CHECK(wad_dma_claim(&mover, &one, WAD_DMA_AT_ONCE, "table") == WAD_OK);
    CHECK(wad_dma_set_sum(&mover, 7) == WAD_OK);
    wad_dma_transfer t = {.source = from,
                          .destination = to,
                          .n = 16,
                          .bytes = 2,
                          .flags = WAD_DMA_SUM | WAD_DMA_SWAP,
                          .done = on_done};
    CHECK(wad_dma_start(&one, &t) == WAD_OK && over(1));
    for (unsigned i = 0; i < 32; i += 2) {
        CHECK(to[i] == from[i + 1] && to[i + 1] == from[i]);
        expected += (uint32_t)(to[i] | to[i + 1] << 8);
    }
    CHECK(wad_dma_sum(&mover, &sum) == WAD_OK && sum == expected);
    return 0;
}

static void bytes_are_swapped_and_summed(void **state)
{
    (void)state;
    said.n = 0;
    run(with_sum);
    expect_only(0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_request_has_one_owner_by_name),
        cmocka_unit_test(copies_and_fills_of_every_alignment),
        cmocka_unit_test(what_cannot_be_is_refused_and_begins_nothing),
        cmocka_unit_test(a_second_start_is_one_register),
        cmocka_unit_test(a_ring_says_where_it_is_at_any_moment),
        cmocka_unit_test(a_list_goes_through_without_the_core),
        cmocka_unit_test(an_aborted_list_stays_aborted),
        cmocka_unit_test(pauses_aborts_and_errors_are_told_once),
        cmocka_unit_test(a_callback_begins_the_next),
        cmocka_unit_test(bytes_are_swapped_and_summed),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
