/* SPDX-License-Identifier: MIT */
/* Serial ports, SPI ports, converters and timers by DMA: the same calls as by interrupt. The
 * firmware is part of the test. */
#include <math.h>
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/check.h"
#include "wadium/clock.h"
#include "wadium/host/analog.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define MS (WAD_PS_PER_S / 1000)

static wad_sim *sim;
static const wad_timebase base = {&corran32_base, .hz = 1000000};
static wad_dma_mover mover;
static wad_timer pace;
static char story[200];

#define CHECK(condition)                                                                           \
    do {                                                                                           \
        if (!(condition) && !*story)                                                               \
            snprintf(story, sizeof story, "line %d: %s", __LINE__, #condition);                    \
    } while (0)

static wad_uart_stats stats;
static wad_uart_transfer sending, receiving;
static wad_uart port;
static wad_spi bus;
static wad_spi_jobs bus_jobs;

static void handle_mover(void)
{
    wad_dma_handle(&mover);
}

static void handle_port(void)
{
    wad_uart_handle(&port);
}

static unsigned bus_entries;

static void handle_bus(void)
{
    bus_entries++;
    wad_spi_handle(&bus);
}

static const wad_handler handlers[32] = {[CORRAN32_DMA0_IRQ] = handle_mover,
                                         [CORRAN32_UART0_IRQ] = handle_port,
                                         [CORRAN32_SPI0_IRQ] = handle_bus};

static void begin(int (*body)(void))
{
    char *why;
    *story = 0;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, body, handlers, 32);
}

static void run(uint64_t ps)
{
    wad_sim_run(sim, ps);
    if (*story)
        fail_msg("%s", story);
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        fail_msg("W%u: %s", wad_sim_finding(sim, i)->kind, wad_sim_finding(sim, i)->what);
    wad_sim_free(sim);
}

static void follow(void *to, uint64_t ps, wad_level level)
{
    (void)ps;
    wad_sim_drive(sim, to, level == WAD_LOW ? WAD_LOW : WAD_HIGH);
}

static void wire(const char *from, const char *to)
{
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, from), follow,
                      (void *)(uintptr_t)wad_sheet_pin(sheet, to));
}

static void open_mover(void)
{
    CHECK(wad_dma_open(&mover, &corran32_dma0, 1) == WAD_OK);
    CHECK(wad_timebase_open(&base) == WAD_OK);
    wad_irq_global_on();
}

static void wait_us(uint32_t us)
{
    wad_delay_us(&base, us);
}

/* ---- a serial port, its own line looped outside ---- */

static wad_dma_port port_dma;
static _Alignas(64) uint8_t in[64], out[128];
static uint8_t text[600], got[600];

static void set_port(void)
{
    port = (wad_uart){&corran32_uart0,
                      .baud = 115200,
                      .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                      .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                      .stats = &stats,
                      .dma = &port_dma,
                      .priority = 2};
    stats = (wad_uart_stats){0};
    port_dma = (wad_dma_port)WAD_UART_BY_DMA(&mover, CORRAN32_REQUEST_DMA0_UART0_TX_READY,
                                             CORRAN32_REQUEST_DMA0_UART0_RX_READY);
    for (unsigned i = 0; i < sizeof text; i++)
        text[i] = (uint8_t)(i * 29 + i / 7);
}

static int rings(void)
{
    size_t given = 0, taken = 0;
    open_mover();
    set_port();
    port.in = WAD_RING(in);
    port.out = WAD_RING(out);
    CHECK(wad_uart_open(&port) == WAD_OK);
    for (unsigned turns = 0; turns < 2000 && taken < sizeof text; turns++) {
        given += wad_uart_write(&port, text + given, MIN(sizeof text - given, turns % 50), 0);
        wait_us(turns % 5 * 300); /* the ring's 64 bytes last 5.5 ms */
        taken += wad_uart_read(&port, got + taken, sizeof got - taken, 0);
    }
    CHECK(taken == sizeof text && !memcmp(got, text, sizeof text));
    CHECK(stats.sent == sizeof text && stats.received == sizeof text);
    CHECK(!stats.dropped && !stats.overruns);
    /* nobody takes: what is lost is counted, what is left is the last of it */
    for (given = 0; given < 200; wait_us(1000))
        given += wad_uart_write(&port, text + given, 200 - given, 0);
    wait_us(20000);
    CHECK(wad_uart_waiting(&port) == 64 && stats.dropped == 136);
    CHECK(wad_uart_read(&port, got, 64, 0) == 64 && !memcmp(got, text + 136, 64));
    return 0;
}

static void rings_go_round_by_themselves(void **state)
{
    (void)state;
    begin(rings);
    wire("PA9", "PA10");
    run(2000 * MS);
}

/* A ring anywhere in memory takes a second channel, and works as well. */
static int crooked_ring(void)
{
    static _Alignas(64) uint8_t crooked[64 + 1];
    size_t taken = 0, given = 0;
    open_mover();
    set_port();
    port.in = &(const wad_ring){crooked + 1, 63, &(struct wadi_ring_at){0, 0}};
    port.out = WAD_RING(out);
    CHECK(wad_uart_open(&port) == WAD_OK);
    for (unsigned turns = 0; turns < 500 && taken < 300; turns++) {
        given += wad_uart_write(&port, text + given, MIN(300 - given, turns % 20), 0);
        wait_us(500);
        taken += wad_uart_read(&port, got + taken, sizeof got - taken, 0);
    }
    CHECK(taken == 300 && !memcmp(got, text, 300) && !stats.dropped);
    CHECK(port_dma.partner.mover == &mover);
    return 0;
}

static void a_ring_may_lie_anywhere(void **state)
{
    (void)state;
    begin(crooked_ring);
    wire("PA9", "PA10");
    run(2000 * MS);
}

static struct {
    unsigned n;
    wad_status status;
    size_t moved;
} sent, came;

static void on_sent(wad_status status, size_t n, void *context)
{
    (void)context;
    sent.n++;
    sent.status = status;
    sent.moved = n;
}

static void on_came(wad_status status, size_t n, void *context)
{
    (void)context;
    came.n++;
    came.status = status;
    came.moved = n;
}

static int transfers(void)
{
    open_mover();
    set_port();
    port.sends = &sending;
    port.receives = &receiving;
    CHECK(wad_uart_open(&port) == WAD_OK);
    CHECK(wad_uart_receive_until(&port, got, 100, WAD_UNTIL_END, '\n', on_came, NULL) ==
          WAD_E_ABSENT);
    /* a typed line of unknown length arrives whole */
    CHECK(wad_uart_receive_until(&port, got, sizeof got, WAD_UNTIL_IDLE, 0, on_came, NULL) ==
          WAD_OK);
    CHECK(wad_uart_receive(&port, got, 1, on_came, NULL) == WAD_E_STATE);
    CHECK(wad_uart_send(&port, "read TIDE\r", 10, on_sent, NULL) == WAD_OK);
    wait_us(3000);
    CHECK(sent.n == 1 && sent.status == WAD_OK && sent.moved == 10);
    CHECK(came.n == 1 && came.status == WAD_OK && came.moved == 10 &&
          !memcmp(got, "read TIDE\r", 10));
    /* full before it is idle */
    CHECK(wad_uart_receive_until(&port, got, 5, WAD_UNTIL_IDLE, 0, on_came, NULL) == WAD_OK);
    CHECK(wad_uart_send(&port, text, 5, on_sent, NULL) == WAD_OK);
    wait_us(3000);
    CHECK(came.n == 2 && came.moved == 5 && !memcmp(got, text, 5));
    /* both ended in the middle */
    CHECK(wad_uart_receive(&port, got, 400, on_came, NULL) == WAD_OK);
    CHECK(wad_uart_send(&port, text, 400, on_sent, NULL) == WAD_OK);
    wait_us(10000);
    wad_uart_abort(&port);
    CHECK(sent.n == 3 && sent.status == WAD_E_STATE && sent.moved > 100 && sent.moved < 130);
    CHECK(came.n == 3 && came.status == WAD_E_STATE && came.moved > 100 &&
          came.moved <= sent.moved && !memcmp(got, text, came.moved));
    return 0;
}

static void transfers_call_back_once(void **state)
{
    (void)state;
    memset(&sent, 0, sizeof sent);
    memset(&came, 0, sizeof came);
    begin(transfers);
    wire("PA9", "PA10");
    run(500 * MS);
}

/* ---- an SPI port over a jumper ---- */

static wad_dma_port bus_dma;
static wad_spi_device device;
static uint16_t frames_out[200], frames_in[200];

static void open_bus(uint8_t bits)
{
    bus = (wad_spi){&corran32_spi0,
                    .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                    .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                    .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                    .time = &base,
                    .jobs = &bus_jobs,
                    .dma = &bus_dma,
                    .priority = 2};
    device = (wad_spi_device){&bus, .hz = 1000000, .bits = bits};
    bus_dma = (wad_dma_port)WAD_SPI_BY_DMA(&mover, CORRAN32_REQUEST_DMA0_SPI0_TX_READY,
                                           CORRAN32_REQUEST_DMA0_SPI0_RX_READY);
    CHECK(wad_spi_open(&bus) == WAD_OK);
    CHECK(wad_spi_add(&device) == WAD_OK);
}

static unsigned jobs_over;

static void on_job(wad_spi_job *job, wad_status status)
{
    CHECK(status == WAD_OK);
    (void)job;
    jobs_over++;
}

static bool job_over(unsigned n)
{
    for (unsigned i = 0; i < 1000 && jobs_over < n; i++)
        wait_us(20);
    return jobs_over == n;
}

static int exchange(void)
{
    static wad_spi_job all, parts;
    open_mover();
    open_bus(16);
    for (unsigned i = 0; i < 200; i++)
        frames_out[i] = (uint16_t)(i * 40503u + 1);
    all = (wad_spi_job){.device = &device,
                        .out = frames_out,
                        .n_out = 200,
                        .in = frames_in,
                        .n_in = 200,
                        .done = on_job};
    CHECK(wad_spi_submit(&all) == WAD_OK);
    wad_port_sleep(); /* the core has nothing to do until the end */
    CHECK(job_over(1) && all.moved == 200);
    CHECK(!memcmp(frames_in, frames_out, sizeof frames_in));
    CHECK(!bus_entries);
    /* three frames before, five wanted, and four behind them */
    memset(frames_in, 0, sizeof frames_in);
    parts = (wad_spi_job){.device = &device,
                          .out = frames_out,
                          .n_out = 12,
                          .in = frames_in,
                          .n_in = 5,
                          .skip = 3,
                          .done = on_job};
    CHECK(wad_spi_submit(&parts) == WAD_OK && job_over(2));
    CHECK(!memcmp(frames_in, frames_out + 3, 10) && !frames_in[5] && parts.moved == 12);
    /* more in than out: ones go out */
    parts = (wad_spi_job){.device = &device,
                          .out = frames_out,
                          .n_out = 2,
                          .in = frames_in,
                          .n_in = 6,
                          .done = on_job};
    CHECK(wad_spi_submit(&parts) == WAD_OK && job_over(3));
    CHECK(frames_in[1] == frames_out[1] && frames_in[2] == 0xFFFF && frames_in[5] == 0xFFFF);
    return 0;
}

static void two_hundred_frames_without_the_core(void **state)
{
    (void)state;
    jobs_over = bus_entries = 0;
    begin(exchange);
    wire("PB15", "PB14");
    run(200 * MS);
}

static int stopped(void)
{
    static wad_spi_job job;
    open_mover();
    open_bus(8);
    job = (wad_spi_job){.device = &device, .out = text, .n_out = 500, .in = got, .n_in = 500};
    CHECK(wad_spi_submit(&job) == WAD_OK);
    wait_us(1000);
    wad_spi_abort(&bus);
    CHECK(job.state == WAD_SPI_OVER && job.status == WAD_E_STATE);
    CHECK(!wad_get(CORRAN32_SPI0_BASE, corran32_spi_roles.busy));
    CHECK(wad_spi_transfer(&device, text, got, 20, 10000) == WAD_OK && !memcmp(text, got, 20));
    return 0;
}

static void an_abort_leaves_the_bus_idle(void **state)
{
    (void)state;
    begin(stopped);
    wire("PB15", "PB14");
    run(100 * MS);
}

/* ---- a converter ---- */

static wad_dma_port adc_dma;
static wad_adc_scans scans;
static const wad_adc adc = {&corran32_adc0, .bits = 12, .scans = &scans, .dma = &adc_dma};
static const wad_adc_input at_pin = {&adc, .channel = 4, .route = CORRAN32_ROUTE_ADC0_IN4_PA4,
                                     .source_ohms = 1000};
static const wad_adc_input half_supply = {&adc, .channel = 14, .source_ohms = 20000};
static const wad_adc_input ground = {&adc, .channel = 15, .source_ohms = 20000};
static _Alignas(64) uint16_t codes[32];
static unsigned halves, fulls;
static bool right;

static void on_half(const uint16_t *c, size_t n, void *context)
{
    (void)context;
    halves++;
    right = right && c == codes && n == 15;
}

static void on_full(const uint16_t *c, size_t n, void *context)
{
    (void)context;
    fulls++;
    right = right && c == codes + 15 && n == 15;
}

static int scan(void)
{
    static const uint8_t channels[] = {4, 14, 15}; /* pressure, half of the supply, ground */
    static wad_adc_scan s = {.adc = &adc,
                             .channels = channels,
                             .n_channels = 3,
                             .codes = codes,
                             .n = 30,
                             .timer = &pace,
                             .trigger = CORRAN32_TRIGGER_ADC0_CNT1_WRAP,
                             .rate = {.hz = 1000, .per = 1},
                             .half = on_half,
                             .full = on_full};
    int32_t ppm;
    open_mover();
    adc_dma = (wad_dma_port)WAD_ADC_BY_DMA(&mover, CORRAN32_REQUEST_DMA0_ADC0_DONE);
    CHECK(wad_adc_open(&adc) == WAD_OK);
    CHECK(wad_adc_add(&at_pin) == WAD_OK);
    CHECK(wad_adc_add(&half_supply) == WAD_OK && wad_adc_add(&ground) == WAD_OK);
    CHECK(wad_adc_calibrate(&adc) == WAD_OK);
    pace = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(1000)};
    CHECK(wad_timer_open(&pace) == WAD_OK);
    CHECK(wad_adc_begin(&s, &ppm) == WAD_OK && ppm == 0);
    for (unsigned i = 0; i < 50; i++) /* 50 ms: five rounds of ten scans */
        wait_us(1000);
    wad_adc_end(&adc);
    CHECK(right && halves == 5 && fulls + (fulls == 4) == 5 && !scans.overruns);
    for (unsigned i = 0; i < 10; i++) {
        CHECK(abs((int)codes[i * 3] - 1241) < 3);     /* 1 V of 3.3 V */
        CHECK(abs((int)codes[i * 3 + 1] - 2048) < 3); /* slot by slot */
        CHECK(codes[i * 3 + 2] < 3);
    }
    /* once: two channels' results, and it is over */
    s.once = true;
    s.n = 6;
    halves = fulls = 0;
    right = true;
    s.half = s.full = NULL;
    memset(codes, 0xFF, sizeof codes);
    CHECK(wad_adc_begin(&s, &ppm) == WAD_OK);
    wait_us(5000);
    CHECK(codes[5] < 3 && codes[6] == 0xFFFF && !scans.scan);
    return 0;
}

static double one_volt(void *ctx, uint64_t ps)
{
    (void)ctx;
    (void)ps;
    return 1;
}

static void scans_fill_the_buffer_slot_by_slot(void **state)
{
    (void)state;
    right = true;
    halves = fulls = 0;
    begin(scan);
    wad_sim_analog(sim, wad_sheet_pin(sheet, "PA4"),
                   &(wad_analog_source){.volts = one_volt, .ohms = 1000});
    run(200 * MS);
}

/* ---- a wave, and pulses ---- */

static wad_dma_port horn_dma;
static wad_dac_streams streams;
static const wad_dac horn = {&corran32_dac0, .route = CORRAN32_ROUTE_DAC0_OUT_PA5,
                             .streams = &streams};
static _Alignas(64) uint16_t wave[32];
static unsigned refills;

static void refill(uint16_t *c, size_t n, void *context)
{
    (void)context;
    right = right && n == 16 && (c == wave) == (refills % 2 == 0);
    refills++;
}

static int tone(void)
{
    static const wad_dac_stream stream = {&horn,
                                          wave,
                                          .trigger = CORRAN32_TRIGGER_DAC0_CNT1_WRAP,
                                          .n = 32,
                                          .refill = refill,
                                          .dma = &horn_dma};
    open_mover();
    horn_dma = (wad_dma_port)WAD_DAC_BY_DMA(&mover, CORRAN32_REQUEST_DMA0_DAC0_EMPTY);
    wad_wave_sine(wave, 32, 1000, 2048);
    CHECK(wad_dac_open(&horn) == WAD_OK);
    pace = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(32000)};
    CHECK(wad_timer_open(&pace) == WAD_OK);
    CHECK(wad_dac_play(&stream) == WAD_OK);
    wad_timer_start(&pace);
    wait_us(20000);
    CHECK(right && refills >= 39 && refills <= 42 && !streams.underruns);
    wad_dac_end(&horn);
    CHECK(wad_dac_play(&stream) == WAD_OK);
    wait_us(2000);
    CHECK(!streams.underruns);
    return 0;
}

static void a_wave_goes_out_and_is_refilled(void **state)
{
    (void)state;
    right = true;
    refills = 0;
    begin(tone);
    run(100 * MS);
}

static uint64_t rise, widths[64];
static unsigned n_widths;

static void on_pulse(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    if (level == WAD_HIGH)
        rise = ps;
    else if (rise && n_widths < 64)
        widths[n_widths++] = (ps - rise) / 125000;
}

static const _Alignas(16) uint16_t pattern[8] = {100, 200, 300, 400, 500, 400, 300, 200};

static int pulses(void)
{
    static wad_dma dma;
    open_mover();
    CHECK(wad_dma_claim(&mover, &dma, CORRAN32_REQUEST_DMA0_CNT1_WRAP, "lamps") == WAD_OK);
    pace = (wad_timer){&corran32_cnt1, .rate = WAD_RATE_HZ(8000)};
    CHECK(wad_timer_open(&pace) == WAD_OK);
    CHECK(wad_timer_pwm(&pace, 2, CORRAN32_ROUTE_CNT1_CH2_PA2, 0) == WAD_OK);
    CHECK(wad_timer_play(&pace, 2, &dma, pattern, 8, true) == WAD_OK);
    wad_timer_start(&pace);
    wait_us(4000);
    return 0;
}

static void a_pattern_of_pulses_without_the_core(void **state)
{
    (void)state;
    rise = n_widths = 0;
    begin(pulses);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA2"), on_pulse, NULL);
    run(50 * MS);
    assert_true(n_widths >= 20);
    unsigned first = 0;
    while (first < 8 && widths[0] != pattern[first])
        first++;
    for (unsigned i = 0; i < 20; i++)
        assert_int_equal(widths[i], pattern[(first + i) % 8]);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(rings_go_round_by_themselves),
        cmocka_unit_test(a_ring_may_lie_anywhere),
        cmocka_unit_test(transfers_call_back_once),
        cmocka_unit_test(two_hundred_frames_without_the_core),
        cmocka_unit_test(an_abort_leaves_the_bus_idle),
        cmocka_unit_test(scans_fill_the_buffer_slot_by_slot),
        cmocka_unit_test(a_wave_goes_out_and_is_refilled),
        cmocka_unit_test(a_pattern_of_pulses_without_the_core),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
