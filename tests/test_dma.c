/* SPDX-License-Identifier: MIT */
/* A DMA controller by its registers: random transfers against a reference copy, arbitration,
 * requests, what ends a transfer. The firmware is part of the test. */
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/dma.h"

#include "corran32.h"
#include "corran32_roles.h"

#define MS (WAD_PS_PER_S / 1000)

enum {
    EN = 1,
    SSTEP = 8,
    DSTEP = 16,
    CHAIN = 1 << 11,
    SWAP = 1 << 20,
    SUM = 1 << 21,
    REPEAT = 1 << 22,
    IRQEND = 1 << 25
};
#define SIZE(log)     ((uint32_t)(log) << 1)
#define REQ(code)     ((uint32_t)(code) << 5)
#define NEXT(channel) ((uint32_t)(channel) << 12)
#define WRAP(bits)    ((uint32_t)(bits) << 15)
#define WRAPDST       (1u << 19)
#define URGENT        (1u << 10)

static wad_sim *sim;

static void put(unsigned channel, unsigned offset, uint32_t value)
{
    wad_port_write32(CORRAN32_DMA0_BASE, channel * 0x20 + offset, value);
}

static uint32_t get(unsigned channel, unsigned offset)
{
    return wad_port_read32(CORRAN32_DMA0_BASE, channel * 0x20 + offset);
}

static void set(unsigned channel, uint32_t from, uint32_t to, uint32_t count, uint32_t control)
{
    put(channel, 0, from);
    put(channel, 4, to);
    put(channel, 8, count);
    put(channel, 12, control);
}

static uint32_t flags(void)
{
    return wad_port_read32(CORRAN32_DMA0_BASE, 0x100);
}

static void clear_flags(void)
{
    wad_port_write32(CORRAN32_DMA0_BASE, 0x100, 0x00FFFFFF);
}

static bool comes(uint32_t mask)
{
    for (unsigned polls = 100000; polls; polls--)
        if ((flags() & mask) == mask)
            return true;
    return false;
}

static void run(int (*body)(void))
{
    static const wad_handler none[32];
    char *why;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, body, none, 32);
    wad_sim_run(sim, 100000 * MS);
}

static void expect_only(wad_finding_kind kind)
{
    unsigned n = wad_sim_finding_count(sim);
    for (unsigned i = 0; i < n; i++)
        if (wad_sim_finding(sim, i)->kind != kind)
            fail_msg("W%u: %s", wad_sim_finding(sim, i)->kind, wad_sim_finding(sim, i)->what);
    assert_int_equal(n, kind != 0);
}

static void over(void)
{
    wad_sim_free(sim);
    sim = NULL;
}

static bool up(void)
{
    return wad_block_up(&corran32_dma0, 1000);
}

/* ---- random transfers against a reference ---- */

#define ARENA    8192u
#define CASES    100000u
#define PARALLEL 3u

static _Alignas(ARENA) uint8_t arena[ARENA];
static uint8_t model[ARENA];
static uint32_t seed;
static char story[200];

static uint32_t any(uint32_t n)
{
    seed ^= seed << 13;
    seed ^= seed >> 17;
    seed ^= seed << 5;
    return seed % n;
}

typedef struct transfer {
    uint32_t from, to, count, control; /* places in the arena */
} transfer;

static uint32_t next_place(uint32_t at, unsigned bytes, unsigned window)
{
    uint32_t size = window ? 1u << window : ARENA * 4;
    return at / size * size + (at % size + bytes) % size;
}

/* What the transfer does, by another way: element for element on bytes. */
static void reference(transfer *t, uint32_t *sum)
{
    unsigned bytes = 1u << (t->control >> 1 & 3), window = t->control >> 15 & 15;
    for (uint32_t k = 0; k < t->count; k++) {
        uint32_t value = 0;
        for (unsigned b = 0; b < bytes; b++)
            value |= (uint32_t)model[t->from + b] << 8 * (t->control & SWAP ? bytes - 1 - b : b);
        for (unsigned b = 0; b < bytes; b++)
            model[t->to + b] = (uint8_t)(value >> 8 * b);
        *sum += t->control & SUM ? value : 0;
        if (t->control & SSTEP)
            t->from = next_place(t->from, bytes, t->control & WRAPDST ? 0 : window);
        if (t->control & DSTEP)
            t->to = next_place(t->to, bytes, t->control & WRAPDST ? window : 0);
    }
}

/* Sources in the first half; each channel's destination in a part of its own. */
static transfer random_transfer(unsigned channel)
{
    unsigned log = any(3), bytes = 1u << log, window = any(3) ? 0 : 3 + any(4);
    transfer t = {.count = 1 + any(24)};
    t.from = any(ARENA / 2 - 256) / bytes * bytes;
    t.to = ARENA / 2 + channel * (ARENA / 2 / PARALLEL) / 256 * 256 + any(512) / bytes * bytes;
    t.control = EN | SIZE(log) | (any(5) ? SSTEP : 0) | (any(5) ? DSTEP : 0) | WRAP(window) |
                (any(2) ? WRAPDST : 0) | (any(4) ? 0 : SWAP) | (any(4) ? 0 : SUM) |
                (any(4) ? 0 : URGENT);
    return t;
}

static bool agrees(unsigned number, unsigned channel, const transfer *t, uint32_t base)
{
    if (get(channel, 0) == base + t->from && get(channel, 4) == base + t->to &&
        get(channel, 8) == 0)
        return true;
    snprintf(story, sizeof story,
             "case %u, channel %u: source 0x%x of 0x%x, destination 0x%x of "
             "0x%x, left %u",
             number, channel, get(channel, 0), base + t->from, get(channel, 4), base + t->to,
             get(channel, 8));
    return false;
}

/* Together, or one after the other by chaining: both must come to the same. */
static bool one_case(unsigned number, uint32_t base)
{
    unsigned n = 1 + any(PARALLEL), first = any(8), step = 1 + any(2);
    bool chained = any(2);
    transfer all[PARALLEL];
    uint32_t sum = any(1000), expected = sum, ends = 0;
    wad_port_write32(CORRAN32_DMA0_BASE, 0x110, sum);
    for (unsigned k = n; k--;) {
        unsigned channel = (first + k * step) % 8, next = (first + (k + 1) * step) % 8;
        all[k] = random_transfer(k);
        uint32_t control = all[k].control;
        if (chained && k + 1 < n)
            control |= CHAIN | NEXT(next);
        else
            ends |= 1u << channel;
        set(channel, base + all[k].from, base + all[k].to, all[k].count,
            chained && k ? control & ~(uint32_t)EN : control);
    }
    bool good = comes(ends);
    for (unsigned k = 0; k < n && good; k++) {
        reference(&all[k], &expected);
        good = agrees(number, (first + k * step) % 8, &all[k], base);
    }
    if (good &&
        (memcmp(arena, model, ARENA) || wad_port_read32(CORRAN32_DMA0_BASE, 0x110) != expected)) {
        snprintf(story, sizeof story, "case %u: other memory, or another sum", number);
        good = false;
    }
    clear_flags();
    return good;
}

static int random_cases(void)
{
    uint32_t base = wad_port_bus_address(arena);
    seed = 77;
    if (!up())
        return 1;
    for (unsigned i = 0; i < ARENA; i++)
        arena[i] = model[i] = (uint8_t)any(256);
    for (unsigned i = 0; i < CASES; i++)
        if (!one_case(i, base)) {
            if (!*story)
                snprintf(story, sizeof story, "case %u: no end", i);
            return 1;
        }
    snprintf(story, sizeof story, "good");
    return 0;
}

static void random_transfers_equal_a_reference_copy(void **state)
{
    (void)state;
    *story = 0;
    run(random_cases);
    assert_string_equal(story, "good");
    over();
}

/* ---- time ---- */

static uint64_t begun, ended;
static unsigned moved_by[8];
static char order[64];
static unsigned n_order;

static void on_dma(void *ctx, const wad_dma_record *r)
{
    (void)ctx;
    if (r->what == WAD_DMA_ARMED && !begun)
        begun = r->ps;
    if (r->what == WAD_DMA_MOVED) {
        moved_by[r->channel]++;
        if (n_order < sizeof order - 1)
            order[n_order++] = (char)('0' + r->channel);
    }
    if (r->what == WAD_DMA_ENDED)
        ended = r->ps;
}

static void watch(wad_sim *s)
{
    begun = ended = 0;
    memset(moved_by, 0, sizeof moved_by);
    memset(order, 0, sizeof order);
    n_order = 0;
    wad_sim_watch_dma(s, on_dma, NULL);
}

static void run_watched(int (*body)(void))
{
    static const wad_handler none[32];
    char *why;
    sim = wad_sim_new(sheet, &why);
    watch(sim);
    wad_sim_attach(sim, body, none, 32);
    wad_sim_run(sim, 100 * MS);
}

static int copy_100(void)
{
    uint32_t base = wad_port_bus_address(arena);
    if (up())
        set(0, base, base + 4096, 100, EN | SIZE(2) | SSTEP | DSTEP);
    wad_port_cycles(5000); /* computes: the bus is the mover's alone */
    return 0;
}

/* 8 MHz, 4 cycles an element, 3 + 1 until the first one. */
static void an_element_takes_what_the_sheet_says(void **state)
{
    (void)state;
    uint64_t waited;
    run_watched(copy_100);
    assert_int_equal(ended - begun, (4 + 100 * 4) * 125000ull);
    assert_int_equal(wad_sim_bus_taken(sim, &waited), 400 * 125000ull);
    wad_sim_run(sim, 100 * MS); /* another run begins anew */
    assert_int_equal(wad_sim_bus_taken(sim, &waited), 400 * 125000ull);
    expect_only(0);
    over();
}

static int copy_and_poll(void)
{
    uint32_t base = wad_port_bus_address(arena);
    if (up()) {
        set(0, base, base + 4096, 100, EN | SIZE(2) | SSTEP | DSTEP);
        comes(1);
    }
    return 0;
}

/* Core and mover take turns: neither waits for more than one access of the other. */
static void core_and_mover_share_the_bus(void **state)
{
    (void)state;
    uint64_t waited;
    run_watched(copy_and_poll);
    wad_sim_bus_taken(sim, &waited);
    assert_true(ended - begun > (100 * 4 + 99 * 2) * 125000ull);
    assert_true(ended - begun < (100 * 4 + 103 * 2 + 8) * 125000ull);
    assert_true(waited > 99 * 2 * 125000ull && waited < 102 * 4 * 125000ull);
    over();
}

static int three_at_once(void)
{
    uint32_t base = wad_port_bus_address(arena);
    if (!up())
        return 1;
    wad_port_write32(CORRAN32_DMA0_BASE, 0x108, 0x7); /* held until all are armed */
    set(0, base, base + 4096, 6, EN | SSTEP | DSTEP);
    set(1, base, base + 4196, 6, EN | SSTEP | DSTEP);
    set(2, base, base + 4296, 4, EN | SSTEP | DSTEP | URGENT);
    wad_port_write32(CORRAN32_DMA0_BASE, 0x108, 0);
    wad_port_cycles(1000);
    return 0;
}

static void urgent_ones_go_first_and_others_in_turn(void **state)
{
    (void)state;
    run_watched(three_at_once);
    assert_string_equal(order, "2222010101010101");
    expect_only(0);
    over();
}

/* ---- requests ---- */

static wad_timer pace;

static int by_timer(void)
{
    static const uint32_t pattern[4] = {0x11, 0x22, 0x33, 0x44};
    uint32_t from = wad_port_bus_address(pattern), to = wad_port_bus_address(arena);
    pace = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(10000)};
    if (!up() || wad_timer_open(&pace) != WAD_OK)
        return 1;
    memset(arena, 0, 64);
    set(3, from, to, 4, EN | SIZE(2) | SSTEP | DSTEP | REQ(CORRAN32_REQUEST_DMA0_CNT0_WRAP));
    wad_timer_start(&pace);
    wad_port_cycles(8 * 1050); /* ten periods */
    return 0;
}

static void a_timer_moves_one_element_a_period(void **state)
{
    (void)state;
    run_watched(by_timer);
    assert_int_equal(moved_by[3], 4);
    assert_int_equal(arena[12], 0x44);
    assert_true(ended - begun > 4 * 100 * 1000000ull && ended - begun < 402 * 1000000ull);
    expect_only(0);
    over();
}

static int too_fast(void)
{
    uint32_t base = wad_port_bus_address(arena);
    pace = (wad_timer){&corran32_cnt0, .rate = WAD_RATE_HZ(1000000)};
    if (!up() || wad_timer_open(&pace) != WAD_OK)
        return 1;
    /* two others keep the bus: 8 MHz / 12 cycles are less than a million */
    set(0, base, base + 4096, 500, EN | SSTEP | DSTEP);
    set(1, base, base + 5096, 500, EN | SSTEP | DSTEP);
    set(2, base, base + 6096, 100, EN | SSTEP | DSTEP | REQ(CORRAN32_REQUEST_DMA0_CNT0_WRAP));
    wad_timer_start(&pace);
    wad_port_cycles(3000);
    return 0;
}

static void requests_that_come_too_fast_are_told(void **state)
{
    (void)state;
    run_watched(too_fast);
    expect_only(WAD_FINDING_DMA_LOST);
    over();
}

/* ---- ends ---- */

static uint32_t left, after;

static int past_the_end(void)
{
    uint32_t top = wad_port_bus_address(arena) & 0xF0000000u;
    if (!up())
        return 1;
    set(0, wad_port_bus_address(arena), 0x5FFFFFF0u + (top & 0), 4, EN | SIZE(2) | SSTEP | DSTEP);
    wad_port_cycles(200);
    left = get(0, 8);
    after = flags();
    return 0;
}

static void where_nothing_is_the_channel_stops(void **state)
{
    (void)state;
    run_watched(past_the_end);
    assert_int_equal(left, 4);
    assert_int_equal(after, 1 << 16); /* an error, and no end */
    expect_only(WAD_FINDING_DMA_UNMAPPED);
    over();
}

/* Three registers can be read, and the fourth cannot. */
static int half_way(void)
{
    if (!up())
        return 1;
    memset(arena, 0xEE, 32);
    wad_port_write32(CORRAN32_DMA0_BASE, 0x108, 0xA0); /* HOLD, behind FLAGS and STAT */
    set(0, CORRAN32_DMA0_BASE + 0x100, wad_port_bus_address(arena), 8,
        EN | SIZE(2) | SSTEP | DSTEP);
    wad_port_cycles(200);
    left = get(0, 8);
    after = flags();
    return 0;
}

static void a_bus_error_half_way_leaves_what_was_moved(void **state)
{
    (void)state;
    run_watched(half_way);
    assert_int_equal(left, 5);
    assert_int_equal(after, 1 << 16);
    assert_int_equal(arena[8], 0xA0);
    assert_int_equal(arena[12], 0xEE);
    expect_only(WAD_FINDING_DMA_UNMAPPED);
    over();
}

/* ---- a port with a memory of frames ---- */

#define F corran32_frames_roles

static _Alignas(4) uint32_t frames[8] = {1, 0x80, 0x55, 0xAA, 0xF0, 0x0F, 0xC3, 0x3C}, back[8];
static _Alignas(4) uint32_t go_word = 1, fetch_word;

/* Out of memory, begun, and back into memory behind its last frame: four channels, no core. */
static int fed(void)
{
    uintptr_t port = CORRAN32_FRM0_BASE;
    uint32_t tx = (uint32_t)port + F.tx.off, rx = (uint32_t)port + F.rx.off;
    if (!up() || !wad_block_up(&corran32_frm0, 1000))
        return 1;
    wad_put(port, F.loop, 1);
    wad_put(port, wad_at(F.first, 0), 0);
    wad_put(port, wad_at(F.last, 0), 7);
    wad_put(port, F.controller, 1);
    wad_put(port, F.enable, 1);
    fetch_word = EN | SIZE(2) | SSTEP | DSTEP;
    set(3, rx, wad_port_bus_address(back), 8, 0);
    set(2, wad_port_bus_address(&fetch_word), CORRAN32_DMA0_BASE + 3 * 0x20 + 12, 1,
        EN | SIZE(2) | REQ(CORRAN32_REQUEST_DMA0_FRM0_DONE0));
    set(1, wad_port_bus_address(&go_word), (uint32_t)port + F.start.off, 1, SIZE(2));
    set(0, wad_port_bus_address(frames), tx, 8, EN | SIZE(2) | SSTEP | DSTEP | CHAIN | NEXT(1));
    wad_port_cycles(20000);
    return 0;
}

static void a_memory_of_frames_is_fed_and_fetched(void **state)
{
    (void)state;
    memset(back, 0, sizeof back);
    run_watched(fed);
    assert_memory_equal(back, frames, sizeof frames);
    assert_string_equal(order, "000000001233333333");
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++) /* its pins are not given to it */
        assert_int_equal(wad_sim_finding(sim, i)->kind, WAD_FINDING_NOT_ROUTED);
    over();
}

/* An abort at every access: what is counted as moved is moved, and nothing else. */
static unsigned pause_cycles;

static int aborted(void)
{
    uint32_t base = wad_port_bus_address(arena);
    if (!up())
        return 1;
    memset(arena + 4096, 0, 64);
    set(0, base, base + 4096, 16, EN | SIZE(2) | SSTEP | DSTEP);
    wad_port_cycles(pause_cycles);
    wad_port_write32(CORRAN32_DMA0_BASE, 0x10C, 1);
    wad_port_cycles(100);
    left = get(0, 8);
    after = flags();
    return 0;
}

static void an_abort_in_every_phase_loses_and_doubles_nothing(void **state)
{
    (void)state;
    unsigned seen = 0;
    for (unsigned i = 0; i < 4096; i++)
        arena[i] = (uint8_t)(i * 7 + 1) | 1;
    for (pause_cycles = 1; pause_cycles < 90; pause_cycles++) {
        run_watched(aborted);
        unsigned copied = 0;
        while (copied < 16 && !memcmp(arena + 4096 + copied * 4, arena + copied * 4, 4))
            copied++;
        for (unsigned i = copied * 4; i < 64; i++)
            if (arena[4096 + i])
                fail_msg("%u cycles: byte %u was written, %u elements are there", pause_cycles, i,
                         copied);
        if (copied != 16 - left || moved_by[0] != copied)
            fail_msg("%u cycles: %u copied, %u left", pause_cycles, copied, left);
        if ((after & 1) != (left == 0))
            fail_msg("%u cycles: end %u, %u left", pause_cycles, after & 1, left);
        seen |= 1u << copied;
        over();
    }
    assert_int_equal(seen, 0x1FFFF); /* every number of elements came up */
}

static int in_reset(void)
{
    uint32_t base = wad_port_bus_address(arena);
    if (!up())
        return 1;
    set(0, base, base + 4096, 1000, EN | SIZE(2) | SSTEP | DSTEP);
    wad_port_cycles(500);
    uint32_t bit = 1u << 29, reset = wad_port_read32(CORRAN32_CLK_BASE, 0x14);
    wad_port_write32(CORRAN32_CLK_BASE, 0x14, reset | bit);
    wad_port_cycles(100);
    wad_port_write32(CORRAN32_CLK_BASE, 0x14, reset);
    wad_port_cycles(100);
    after = get(0, 12);
    return 0;
}

static void a_reset_in_the_middle_ends_it(void **state)
{
    (void)state;
    run_watched(in_reset);
    assert_true(moved_by[0] > 100 && moved_by[0] < 135);
    assert_int_equal(after, 0);
    expect_only(0);
    over();
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(random_transfers_equal_a_reference_copy),
        cmocka_unit_test(an_element_takes_what_the_sheet_says),
        cmocka_unit_test(core_and_mover_share_the_bus),
        cmocka_unit_test(urgent_ones_go_first_and_others_in_turn),
        cmocka_unit_test(a_timer_moves_one_element_a_period),
        cmocka_unit_test(requests_that_come_too_fast_are_told),
        cmocka_unit_test(where_nothing_is_the_channel_stops),
        cmocka_unit_test(a_bus_error_half_way_leaves_what_was_moved),
        cmocka_unit_test(a_memory_of_frames_is_fed_and_fetched),
        cmocka_unit_test(an_abort_in_every_phase_loses_and_doubles_nothing),
        cmocka_unit_test(a_reset_in_the_middle_ends_it),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
