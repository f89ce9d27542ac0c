/* SPDX-License-Identifier: MIT */
/* A DMA controller whose count has 12 bits: what is longer goes in parts, or is refused. The sheet
 * is Corran32's with a narrower count (tests/CMakeLists.txt); the firmware is part of the test. */
#include <string.h>

#include "support.h"
#include "wadium/irq.h"

#include "narrow32_roles.h"

static wad_sim *sim;
static wad_sheet *sheet;
static const wad_timebase base = {&narrow32_base, .hz = 1000000};
static wad_dma_mover mover;
static wad_dma_port port_dma;
static wad_uart_stats stats;
static wad_uart_transfer sending, receiving;
static wad_uart port;
static char story[200];
static _Alignas(4096) uint8_t in[4096], out[8192];
static uint8_t text[6000], got[6000];
static uint8_t copy[4096];

#define CHECK(condition)                                                                           \
    do {                                                                                           \
        if (!(condition) && !*story)                                                               \
            snprintf(story, sizeof story, "line %d: %s", __LINE__, #condition);                    \
    } while (0)

static void handle_mover(void)
{
    wad_dma_handle(&mover);
}

static void handle_port(void)
{
    wad_uart_handle(&port);
}

static const wad_handler handlers[32] = {
    [NARROW32_DMA0_IRQ] = handle_mover, [NARROW32_UART0_IRQ] = handle_port};

static void follow(void *to, uint64_t ps, wad_level level)
{
    (void)ps;
    wad_sim_drive(sim, to, level == WAD_LOW ? WAD_LOW : WAD_HIGH);
}

static void open_all(void)
{
    port = (wad_uart){&narrow32_uart0,
                      .baud = 460800,
                      .tx = NARROW32_ROUTE_UART0_TX_PA9,
                      .rx = NARROW32_ROUTE_UART0_RX_PA10,
                      .stats = &stats,
                      .dma = &port_dma,
                      .priority = 2};
    stats = (wad_uart_stats){0};
    port_dma = (wad_dma_port)WAD_UART_BY_DMA(&mover, NARROW32_REQUEST_DMA0_UART0_TX_READY,
                                             NARROW32_REQUEST_DMA0_UART0_RX_READY);
    CHECK(wad_dma_open(&mover, &narrow32_dma0, 1) == WAD_OK);
    CHECK(wad_timebase_open(&base) == WAD_OK);
    wad_irq_global_on();
    for (unsigned i = 0; i < sizeof text; i++)
        text[i] = (uint8_t)(i * 29 + i / 7);
}

static void run(int (*body)(void), bool wired)
{
    char *why;
    *story = 0;
    sim = wad_sim_new(sheet, &why);
    wad_sim_attach(sim, body, handlers, 32);
    if (wired)
        wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA9"), follow,
                          (void *)(uintptr_t)wad_sheet_pin(sheet, "PA10"));
    wad_sim_run(sim, WAD_PS_PER_S);
    if (*story)
        fail_msg("%s", story);
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        fail_msg("W%u: %s", wad_sim_finding(sim, i)->kind, wad_sim_finding(sim, i)->what);
    wad_sim_free(sim);
}

static int one_write(void)
{
    size_t taken = 0;
    open_all();
    CHECK(wad_dma_most() == 4095);
    port.in = &(const wad_ring){in, 2047, &(struct wadi_ring_at){0, 0}};
    port.out = WAD_RING(out);
    CHECK(wad_uart_open(&port) == WAD_OK);
    CHECK(wad_uart_open(&port) == WAD_OK);
    CHECK(wad_uart_write(&port, text, sizeof text, 0) == sizeof text);
    for (unsigned turns = 0; turns < 400 && taken < sizeof text; turns++) {
        wad_delay_us(&base, 1000);
        taken += wad_uart_read(&port, got + taken, sizeof got - taken, 0);
    }
    CHECK(taken == sizeof text && !memcmp(got, text, sizeof text));
    CHECK(stats.sent == sizeof text && !stats.refused && !stats.dropped);
    return 0;
}

static void six_thousand_bytes_go_out_in_parts(void **state)
{
    (void)state;
    run(one_write, true);
}

static struct {
    unsigned n;
    wad_status status;
    size_t moved;
} over;

static void on_over(wad_status status, size_t n, void *context)
{
    (void)context;
    over.n++;
    over.status = status;
    over.moved = n;
}

/* Whoever asks for more than goes at once hears so, and nothing has begun. */
static int too_much(void)
{
    static wad_dma channel;
    wad_dma_transfer bytes = {.source = text, .destination = copy, .n = 4096, .bytes = 1};
    open_all();
    port.in = WAD_RING(in);
    CHECK(wad_uart_open(&port) == WAD_E_RANGE);
    port.in = NULL;
    port.sends = &sending;
    port.receives = &receiving;
    CHECK(wad_uart_open(&port) == WAD_OK);
    CHECK(wad_uart_send(&port, text, sizeof text, on_over, NULL) == WAD_E_RANGE);
    CHECK(wad_uart_receive(&port, got, sizeof got, on_over, NULL) == WAD_E_RANGE);
    CHECK(!over.n);
    CHECK(wad_uart_send(&port, text, 4095, on_over, NULL) == WAD_OK);
    wad_delay_us(&base, 100000);
    CHECK(over.n == 1 && over.status == WAD_OK && over.moved == 4095);
    CHECK(wad_dma_claim(&mover, &channel, WAD_DMA_AT_ONCE, "copy") == WAD_OK);
    CHECK(wad_dma_start(&channel, &bytes) == WAD_E_RANGE);
    bytes.n--;
    CHECK(wad_dma_start(&channel, &bytes) == WAD_OK);
    wad_delay_us(&base, 10000);
    CHECK(!memcmp(copy, text, 4095) && !copy[4095]);
    return 0;
}

static void what_does_not_fit_is_refused(void **state)
{
    (void)state;
    run(too_much, false);
}

static int set_up(void **state)
{
    wad_diags *diags = wad_diags_new();
    (void)state;
    sheet = wad_sheet_read(NARROW_SHEET, diags);
    assert_non_null(sheet);
    wad_diags_free(diags);
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_sheet_free(sheet);
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(six_thousand_bytes_go_out_in_parts),
                                       cmocka_unit_test(what_does_not_fit_is_refused)};
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
