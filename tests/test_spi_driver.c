/* SPDX-License-Identifier: MIT */
/* What the SPI driver does besides frames: devices of one bus in a queue, the device role, a
 * bus that is lost, ends before the end, arguments that cannot be. */
#include <string.h>

#include "two_buses.h"
#include "wadium/check.h"
#include "wadium/host/spi.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define S  WAD_PS_PER_S
#define MS (S / 1000)

static wad_spi_device a, b, far;
static wad_status status, more[24];

static wad_spi config;
static wad_spi_stats second_stats;
static wad_spi_jobs second_jobs;

static const wad_pin_def *pin(const char *name)
{
    return wad_sheet_pin(sheet, name);
}

static wad_status open_bus(void)
{
    config.unit = &corran32_spi0;
    config.stats = &bus_stats;
    config.jobs = &bus_jobs;
    config.priority = 1;
    bus_stats = (wad_spi_stats){0};
    config.clock = CORRAN32_ROUTE_SPI0_SCK_PB13;
    config.mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15;
    config.miso = CORRAN32_ROUTE_SPI0_MISO_PB14;
    config.time = &base;
    wad_status st = wad_timebase_open(&base);
    wad_irq_global_on();
    bus = config;
    return st == WAD_OK ? wad_spi_open(&bus) : st;
}

/* ---- a device that always says the same, edge by edge ---- */

static const uint8_t known[] = {0x5C, 0x01, 0xF3, 0x28, 0x96, 0x0D};

static struct {
    bool there, selected, high, phase, lsb;
    unsigned bit; /* of all that it says */
} says;

static void say(void)
{
    unsigned i = says.bit / 8 % sizeof known, k = says.bit % 8;
    wad_sim_drive(sim, pin("PB14"), known[i] >> (says.lsb ? k : 7 - k) & 1 ? WAD_HIGH : WAD_LOW);
}

static void on_select(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)ps;
    says.selected = says.there && level == WAD_LOW;
    says.bit = 0;
    if (says.selected && !says.phase)
        say();
    else if (says.there)
        wad_sim_drive(sim, pin("PB14"), WAD_FLOATING);
}

static void on_clock(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)ps;
    if (!says.selected)
        return;
    bool first = (level == WAD_HIGH) != says.high;
    if (says.phase && first)
        say();
    if (first)
        return;
    says.bit++;
    if (!says.phase)
        say();
}

static void follow(void *to, uint64_t ps, wad_level level)
{
    (void)ps;
    wad_sim_drive(sim, to, level);
}

static void wire(const char *from, const char *to)
{
    wad_sim_watch_pin(sim, pin(from), follow, (void *)(uintptr_t)pin(to));
}

static void begin(int (*main_fn)(void))
{
    char *why;
    sim = wad_sim_new(sheet, &why);
    wad_sim_watch_pin(sim, pin("PB12"), on_select, NULL);
    wad_sim_watch_pin(sim, pin("PB13"), on_clock, NULL);
    wad_sim_attach(sim, main_fn, handlers, 32);
}

static void run(uint64_t ps)
{
    assert_int_equal(wad_sim_run(sim, ps).end, WAD_RUN_TIME);
}

static void end_with(unsigned findings)
{
    test_findings(sim, findings);
    wad_sim_free(sim);
    memset(&says, 0, sizeof says);
    config = (wad_spi){0};
}

/* ---- a device in another mode, or with another bit order, is told apart ---- */

static wad_pattern seen;
static unsigned own_mode;

static int told_apart_main(void)
{
    uint8_t in[sizeof known];
    wad_exchange_check check = {.pattern = WAD_PATTERN_OTHER};
    a = (wad_spi_device){&bus, .hz = 1000000, .mode = (uint8_t)own_mode,
                         .select = CORRAN32_ROUTE_SPI0_CS0_PB12, .setup = 1};
    status = open_bus();
    if (status == WAD_OK)
        status = wad_spi_add(&a);
    if (status == WAD_OK)
        status = wad_spi_read(&a, in, sizeof in, 1000);
    if (status == WAD_OK)
        (void)!wad_check_exchange(known, in, sizeof in, 8, &check);
    seen = check.pattern;
    return rest();
}

/* What the data look like, and how many findings say why. */
static wad_pattern told(unsigned mode, unsigned other, bool lsb, bool *found)
{
    begin(told_apart_main);
    const wad_spi_part part = {.name = "DEVICE",
                               .select = pin("PB12"),
                               .clock = pin("PB13"),
                               .modes = 1u << other,
                               .lsb_first = lsb};
    wad_sim_spi_part(sim, &part);
    own_mode = mode;
    says.there = true;
    says.high = other >> 1;
    says.phase = other & 1;
    says.lsb = lsb;
    run(2 * MS);
    assert_int_equal(status, WAD_OK);
    *found =
        wad_sim_finding_count(sim) == 1 && wad_sim_finding(sim, 0)->kind == WAD_FINDING_SPI_MODE;
    end_with(*found);
    return seen;
}

/* Bits that come with the edge that takes are taken one late. Bits that go with the edge that takes
 * are caught just before: that looks right, by luck of delays, and the finding tells. */
static void another_mode_or_order_is_told_apart(void **state)
{
    bool found;
    (void)state;
    for (unsigned mode = 0; mode < 4; mode++)
        for (unsigned other = 0; other < 4; other++) {
            wad_pattern pattern = told(mode, other, false, &found);
            assert_int_equal(found, mode != other);
            if (mode == other)
                assert_int_equal(pattern, WAD_PATTERN_SAME);
            else if ((mode ^ other) == 1 && (other & 1))
                assert_int_equal(pattern, WAD_PATTERN_LATE);
        }
    assert_int_equal(told(0, 0, true, &found), WAD_PATTERN_REVERSED);
    assert_true(found);
}

/* ---- nobody there ---- */

static wad_pattern pulled[2];

static int nobody_main(void)
{
    uint8_t in[4];
    wad_exchange_check check;
    const wad_pull pulls[] = {WAD_PULL_UP, WAD_PULL_DOWN};
    a = (wad_spi_device){&bus, .hz = 1000000, .select = CORRAN32_ROUTE_SPI0_CS0_PB12};
    for (unsigned i = 0; i < 2; i++) {
        status = wad_pin_input(CORRAN32_PB14, pulls[i]);
        if (status == WAD_OK)
            status = open_bus();
        if (status == WAD_OK)
            status = wad_spi_add(&a);
        if (status == WAD_OK)
            status = wad_spi_read(&a, in, 4, 1000);
        more[i] = wad_check_exchange(known, in, 4, 8, &check);
        pulled[i] = check.pattern;
    }
    return rest();
}

static void nobody_there_reads_as_the_line_is_pulled(void **state)
{
    (void)state;
    begin(nobody_main);
    run(10 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(more[0], WAD_E_DATA);
    assert_int_equal(more[1], WAD_E_DATA);
    assert_int_equal(pulled[0], WAD_PATTERN_ONES);
    assert_int_equal(pulled[1], WAD_PATTERN_ZEROS);
    end_with(0);
}

/* ---- jobs ---- */

static uint8_t in8[6];
static uint16_t in16[4];
static const uint16_t out16[4] = {0x1234, 0xBEEF, 0x0001, 0xFFFE};
static unsigned ended, order[16];
static wad_spi_job first, next, again;

static void note(wad_spi_job *job, wad_status st)
{
    order[ended] = job == &first ? 1 : job == &next ? 2 : 3;
    more[ended++] = st;
    if (job == &first) /* the callback queues one more, behind the one that waits */
        status = wad_spi_submit(&again);
}

static wad_status open_two(void)
{
    a = (wad_spi_device){&bus, .hz = 2000000, .select = CORRAN32_ROUTE_SPI0_CS0_PB12, .setup = 1,
                         .hold = 2};
    b = (wad_spi_device){&bus,       .hz = 500000,   .mode = 3,
                         .bits = 16, .by_pin = true, .select_pin = CORRAN32_PB5};
    wad_status st = open_bus();
    if (st == WAD_OK)
        st = wad_spi_add(&a);
    if (st == WAD_OK)
        st = wad_spi_add(&b);
    wad_irq_global_on();
    return st;
}

static int queue_main(void)
{
    status = open_two();
    first = (wad_spi_job){.device = &a, .in = in8, .n_in = sizeof in8, .done = note};
    next =
        (wad_spi_job){.device = &b, .out = out16, .n_out = 4, .in = in16, .n_in = 4, .done = note};
    again = (wad_spi_job){.device = &a, .in = in8 + 1, .n_in = 1, .skip = 2, .done = note};
    if (status == WAD_OK)
        status = wad_spi_submit(&first);
    if (status == WAD_OK)
        status = wad_spi_submit(&next);
    more[8] = wad_spi_submit(&next);                     /* it waits already */
    more[9] = wad_spi_transfer(&a, known, in16, 2, 100); /* the bus is not idle */
    more[10] = wad_spi_begin(&a);
    return rest();
}

static unsigned b_selects;

static void on_b(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)ps;
    b_selects += level == WAD_LOW;
    if (level == WAD_LOW) /* the other device's select has ended */
        assert_int_equal(wad_sim_level(sim, pin("PB12")), WAD_HIGH);
}

static void jobs_of_two_devices_come_in_order(void **state)
{
    (void)state;
    ended = b_selects = 0;
    memset(in8, 0, sizeof in8);
    begin(queue_main);
    says.there = true;
    wad_sim_watch_pin(sim, pin("PB5"), on_b, NULL);
    run(20 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(ended, 3);
    for (unsigned i = 0; i < 3; i++) {
        assert_int_equal(order[i], i + 1);
        assert_int_equal(more[i], WAD_OK);
    }
    assert_int_equal(in8[0], known[0]);
    assert_int_equal(in8[1], known[2]); /* of the job that the callback queued: frame 2 */
    assert_memory_equal(in8 + 2, known + 2, 4);
    assert_int_equal(more[8], WAD_E_STATE);
    assert_int_equal(more[9], WAD_E_STATE);
    assert_int_equal(more[10], WAD_E_STATE);
    assert_int_equal(b_selects, 1);
    assert_int_equal(bus_stats.jobs, 3);
    assert_int_equal(bus_stats.frames, 6 + 4 + 3);
    assert_int_equal(bus_stats.overruns, 0);
    assert_int_equal(first.state, WAD_SPI_OVER);
    assert_int_equal(next.moved, 4);
    end_with(0);
}

static uint8_t long_in[2000];

static int abort_main(void)
{
    status = open_two();
    first = (wad_spi_job){.device = &a, .in = long_in, .n_in = sizeof long_in, .done = note};
    next = (wad_spi_job){.device = &b, .out = out16, .n_out = 4, .done = note};
    again = (wad_spi_job){.device = &a, .in = in8, .n_in = 2, .done = note};
    if (status == WAD_OK)
        status = wad_spi_submit(&first);
    if (status == WAD_OK)
        status = wad_spi_submit(&next);
    wad_delay_us(&base, 300);
    wad_spi_abort(&bus); /* its callback queues the third, which is done */
    more[8] = wad_get(CORRAN32_SPI0_BASE, corran32_spi_roles.busy) ? WAD_E_STATE : WAD_OK;
    return rest();
}

static void an_abort_leaves_the_bus_idle(void **state)
{
    (void)state;
    ended = 0;
    begin(abort_main);
    says.there = true;
    run(20 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(ended, 3);
    assert_int_equal(order[0], 1);
    assert_int_equal(order[1], 2);
    assert_int_equal(order[2], 3);
    assert_int_equal(more[0], WAD_E_STATE);
    assert_int_equal(more[1], WAD_E_STATE);
    assert_int_equal(more[2], WAD_OK);
    assert_true(first.moved > 40 && first.moved < sizeof long_in);
    assert_memory_equal(long_in, known, sizeof known);
    assert_memory_equal(in8, known, 2);
    assert_int_equal(wad_sim_level(sim, pin("PB12")), WAD_HIGH);
    end_with(0);
}

/* ---- the select's times, its level, its number ---- */

static uint64_t select_from, select_to, first_edge, last_edge, gap_least;

static void on_high_select(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    if (level == WAD_HIGH && !select_from)
        select_from = ps;
    else if (level == WAD_LOW && select_from && !select_to)
        select_to = ps;
}

static void on_timed_clock(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)level;
    if (!select_from || select_to)
        return;
    if (!first_edge)
        first_edge = ps;
    else if (ps - last_edge > gap_least)
        gap_least = ps - last_edge;
    last_edge = ps;
}

static int times_main(void)
{
    a = (wad_spi_device){&bus,
                         .hz = 500000, /* half a bit is a microsecond */
                         .select = CORRAN32_ROUTE_SPI0_CS2_PB11,
                         .select_number = 2,
                         .select_high = true,
                         .setup = 7,
                         .hold = 5,
                         .gap = 3};
    uint8_t out[3] = {0xA5, 0x5A, 0xFF};
    status = open_bus();
    if (status == WAD_OK)
        status = wad_spi_add(&a);
    if (status == WAD_OK)
        status = wad_spi_write(&a, out, 3, 1000);
    /* the same by hand, as DMA would */
    if (status == WAD_OK)
        status = wad_spi_begin(&a);
    if (status == WAD_OK) {
        wadi_write(wad_spi_tx_address(&bus), 0, (uint8_t)wad_spi_access_bytes(&bus), 0x42);
        status = wad_spi_end(&a, 1000);
    }
    more[0] = bus_stats.jobs == 1 ? WAD_OK : WAD_E_DATA;
    return rest();
}

static void the_select_keeps_its_times(void **state)
{
    const uint64_t half = MS / 1000;
    (void)state;
    select_from = select_to = first_edge = last_edge = gap_least = 0;
    begin(times_main);
    wad_sim_watch_pin(sim, pin("PB11"), on_high_select, NULL);
    wad_sim_watch_pin(sim, pin("PB13"), on_timed_clock, NULL);
    run(10 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(more[0], WAD_OK);
    assert_int_equal(first_edge - select_from, 8 * half); /* a frame begins half a bit before it */
    assert_int_equal(gap_least, 4 * half);
    /* what releases it comes when the last frame has been read: no earlier than hold */
    assert_true(select_to - last_edge >= 5 * half && select_to - last_edge < 15 * half);
    assert_int_equal(wad_sim_level(sim, pin("PB11")), WAD_LOW);
    end_with(0);
}

/* ---- device role: SPI1 answers SPI0 ---- */

static uint8_t near_in[8], far_in[8];
static const uint8_t near_out[8] = {1, 2, 3, 0xF0, 0x55, 0xAA, 7, 0x80};
static const uint8_t far_out[8] = {0x11, 0x22, 0xC3, 0x44, 5, 0x66, 0x77, 0xFE};
static unsigned mode_now, rounds_right;

static wad_status open_far(void)
{
    second = (wad_spi){&corran32_spi1,
                       .clock = CORRAN32_ROUTE_SPI1_SCK_PC4,
                       .mosi = CORRAN32_ROUTE_SPI1_MOSI_PC6,
                       .miso = CORRAN32_ROUTE_SPI1_MISO_PC5,
                       .device = true,
                       .time = &base,
                       .stats = &second_stats,
                       .jobs = &second_jobs,
                       .priority = 1};
    far =
        (wad_spi_device){&second, .mode = (uint8_t)mode_now, .select = CORRAN32_ROUTE_SPI1_CS0_PC7};
    wad_status st = wad_spi_open(&second);
    return st == WAD_OK ? wad_spi_add(&far) : st;
}

static int device_main(void)
{
    wad_irq_global_on();
    for (mode_now = 0; mode_now < 4; mode_now++) {
        a = (wad_spi_device){&bus,
                             .hz = 250000,
                             .mode = (uint8_t)mode_now,
                             .select = CORRAN32_ROUTE_SPI0_CS0_PB12,
                             .setup = 1,
                             .hold = 1};
        wad_spi_job answer = {.device = &far,
                              .out = far_out,
                              .n_out = sizeof far_out,
                              .in = far_in,
                              .n_in = sizeof far_in};
        memset(near_in, 0, sizeof near_in);
        memset(far_in, 0, sizeof far_in);
        status = open_bus();
        if (status == WAD_OK)
            status = wad_spi_add(&a);
        if (status == WAD_OK)
            status = open_far();
        if (status == WAD_OK)
            status = wad_spi_submit(&answer);
        if (status == WAD_OK)
            status = wad_spi_transfer(&a, near_out, near_in, sizeof near_out, 10000);
        wad_delay_ms(&base, 1);
        rounds_right += status == WAD_OK && answer.state == WAD_SPI_OVER &&
                        answer.status == WAD_OK && !memcmp(near_in, far_out, sizeof far_out) &&
                        !memcmp(far_in, near_out, sizeof near_out);
    }
    /* nobody clocks it: the time is up, and it is ready for the next */
    more[0] = wad_spi_transfer(&far, far_out, far_in, 4, 500);
    return rest();
}

static void a_device_answers_in_all_modes(void **state)
{
    (void)state;
    rounds_right = 0;
    begin(device_main);
    wire("PB13", "PC4");
    wire("PB15", "PC6");
    wire("PC5", "PB14");
    wire("PB12", "PC7");
    run(50 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(rounds_right, 4);
    assert_int_equal(more[0], WAD_E_TIMEOUT);
    assert_int_equal(second_stats.timeouts, 1);
    end_with(0);
}

/* ---- another controller ---- */

static bool with_handler;

static int fault_main(void)
{
    uint8_t byte = 0;
    a = (wad_spi_device){&bus, .hz = 100000};
    config.watch = true;
    config.watch_select = CORRAN32_ROUTE_SPI0_CS0_PB12;
    status = open_bus();
    bus.jobs = with_handler ? &bus_jobs : NULL;
    if (status == WAD_OK)
        status = wad_spi_open(&bus);
    if (status == WAD_OK)
        status = wad_spi_add(&a);
    wad_irq_global_on();
    if (status == WAD_OK)
        more[0] = wad_spi_read(&a, long_in, 1000, 100000); /* selected from outside meanwhile */
    wad_delay_ms(&base, 20);
    more[1] = wad_spi_read(&a, &byte, 1, 1000); /* it is controller again */
    return rest();
}

static void let_go(wad_sim *s, void *level)
{
    wad_sim_drive(s, pin("PB12"), *(wad_level *)level);
}

static void another_controller_takes_the_bus(void **state)
{
    static wad_level high = WAD_HIGH, low = WAD_LOW;
    (void)state;
    for (unsigned i = 0; i < 2; i++) { /* who waits notices, or the handler does */
        with_handler = i;
        begin(fault_main);
        wad_sim_at(sim, 0, let_go, &high);
        wad_sim_at(sim, 5 * MS, let_go, &low);
        wad_sim_at(sim, 10 * MS, let_go, &high);
        run(50 * MS);
        assert_int_equal(status, WAD_OK);
        assert_int_equal(more[0], WAD_E_STATE);
        assert_int_equal(more[1], WAD_OK);
        assert_int_equal(bus_stats.faults, 1);
        assert_int_equal(wad_sim_finding(sim, 0)->kind, WAD_FINDING_SPI_FAULT);
        end_with(1);
    }
}

/* ---- closed with a job under way ---- */

static int close_main(void)
{
    status = open_two();
    first = (wad_spi_job){.device = &a, .in = long_in, .n_in = sizeof long_in, .done = note};
    next = (wad_spi_job){.device = &b, .out = out16, .n_out = 4, .done = note};
    if (status == WAD_OK)
        status = wad_spi_submit(&first);
    if (status == WAD_OK)
        status = wad_spi_submit(&next);
    wad_delay_us(&base, 300);
    wad_spi_close(&bus);
    wad_spi_close(&bus); /* what is closed stays so */
    wad_delay_ms(&base, 1);
    more[0] = wad_get(CORRAN32_SPI0_BASE, corran32_spi_roles.enable) ||
                      wad_get(CORRAN32_SPI0_BASE, corran32_spi_roles.select_hold) ||
                      wad_port_read32(CORRAN32_SPI0_BASE, 0x0C) || first.state || next.state
                  ? WAD_E_STATE
                  : WAD_OK;
    status = open_two(); /* and opened again */
    more[1] = wad_spi_read(&a, in8, 3, 1000);
    return rest();
}

static void a_closed_bus_asks_for_nothing(void **state)
{
    (void)state;
    ended = 0;
    begin(close_main);
    says.there = true;
    run(20 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(ended, 0); /* nobody is told */
    assert_int_equal(more[0], WAD_OK);
    assert_int_equal(more[1], WAD_OK);
    assert_memory_equal(in8, known, 3);
    wad_sim_free(sim);
    memset(&says, 0, sizeof says);
    config = (wad_spi){0};
}

/* ---- what cannot be ---- */

static int slips_main(void)
{
    static wad_spi_job empty, lost;
    const wad_spi_device good = {&bus, .hz = 1000000};
    wad_spi_device l = good;
    unsigned n = 0;
    uint8_t byte = 0;
    status = open_bus();
    l.hz = 0;
    more[n++] = wad_spi_add(&l);
    l.hz = 1000; /* 8 MHz / 1024 is the slowest */
    more[n++] = wad_spi_add(&l);
    l = good;
    l.bits = 3;
    more[n++] = wad_spi_add(&l);
    l.bits = 33;
    more[n++] = wad_spi_add(&l);
    l = good;
    l.mode = 4;
    more[n++] = wad_spi_add(&l);
    l = good;
    l.by_pin = true;
    l.select = CORRAN32_ROUTE_SPI0_CS0_PB12;
    more[n++] = wad_spi_add(&l);
    l = good;
    l.hz = 3000000; /* not above: 8 MHz / 4 */
    a = l;
    more[n++] = wad_spi_add(&a);
    more[n++] = wad_spi_transfer(&a, &byte, &byte, 0, 100);
    more[n++] = wad_spi_read(&a, NULL, 1, 100);
    more[n++] = wad_spi_submit(&empty);
    lost = (wad_spi_job){.device = &a, .in = &byte, .n_in = 1};
    bus.jobs = NULL;
    more[n++] = wad_spi_submit(&lost); /* nothing in the background */
    bus.time = NULL;
    more[n++] = wad_spi_read(&a, &byte, 1, 100);
    bus.time = &base;
    b = l;
    b.bits = 16;
    more[n++] = wad_spi_add(&b);
    more[n++] = wad_spi_write_read_crc(&b, &byte, 1, &byte, 1, 100);
    more[n++] = WAD_SPI_HZ(a) == 2000000 ? WAD_OK : WAD_E_DATA;
    return rest();
}

static void what_cannot_be_is_refused(void **state)
{
    static const wad_status want[] = {WAD_E_ARG,   WAD_E_RANGE, WAD_E_RANGE, WAD_E_RANGE, WAD_E_ARG,
                                      WAD_E_ARG,   WAD_OK,      WAD_E_ARG,   WAD_E_ARG,   WAD_E_ARG,
                                      WAD_E_STATE, WAD_E_STATE, WAD_OK,      WAD_E_ARG,   WAD_OK};
    (void)state;
    begin(slips_main);
    run(10 * MS);
    assert_int_equal(status, WAD_OK);
    for (unsigned i = 0; i < G_N_ELEMENTS(want); i++)
        if (more[i] != want[i])
            fail_msg("slip %u: status %d, not %d", i, more[i], want[i]);
    wad_sim_free(sim);
    config = (wad_spi){0};
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(another_mode_or_order_is_told_apart),
        cmocka_unit_test(nobody_there_reads_as_the_line_is_pulled),
        cmocka_unit_test(jobs_of_two_devices_come_in_order),
        cmocka_unit_test(an_abort_leaves_the_bus_idle),
        cmocka_unit_test(the_select_keeps_its_times),
        cmocka_unit_test(a_device_answers_in_all_modes),
        cmocka_unit_test(another_controller_takes_the_bus),
        cmocka_unit_test(a_closed_bus_asks_for_nothing),
        cmocka_unit_test(what_cannot_be_is_refused),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
