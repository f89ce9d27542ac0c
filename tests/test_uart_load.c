/* SPDX-License-Identifier: MIT */
/* A megabyte each way at the highest rate there is, with random gaps, and with errors put in: what
 * arrives, and what is counted, is exactly what was sent. */
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/host/model.h"
#include "wadium/irq.h"

#include "corran32_roles.h"

#define S     WAD_PS_PER_S
#define BAUD  1000000u /* 8 samples of 8 MHz */
#define BIT   (S / BAUD)
#define TOTAL (1u << 20)

static wad_sim *sim;
static wad_status status;

/* What goes each way, by number: no two neighbours alike, period far above a ring's size. */
static uint8_t byte_in(uint32_t i)
{
    return (uint8_t)((i * 2654435761u) >> 23);
}

static uint8_t byte_out(uint32_t i)
{
    return (uint8_t)((i * 2246822519u) >> 21);
}

/* ---- the firmware: both directions by interrupt ---- */

static uint8_t in_ring[1024], out_ring[1024];
static wad_uart_stats stats;
static const wad_uart port = {&corran32_uart0,
                              .clock_hz = 8000000,
                              .baud = BAUD,
                              .parity = WAD_PARITY_EVEN,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10,
                              .in = WAD_RING(in_ring),
                              .out = WAD_RING(out_ring),
                              .stats = &stats,
                              .priority = 1};
static uint32_t n_in, n_out, wrong_in;

/* Numbers of bytes that carry an error, which the sender keeps. */
static GArray *spoilt;
static guint next_spoilt;

static void take(void)
{
    uint8_t piece[97];
    size_t n = wad_uart_read(&port, piece, sizeof piece, 0);
    for (size_t i = 0; i < n; i++, n_in++) {
        bool bad =
            next_spoilt < spoilt->len && g_array_index(spoilt, uint32_t, next_spoilt) == n_in;
        next_spoilt += bad;
        wrong_in += !bad && piece[i] != byte_in(n_in);
    }
}

static void give(void)
{
    uint8_t piece[61];
    size_t n = MIN(TOTAL - n_out, 1 + n_out % 61);
    for (size_t i = 0; i < n; i++)
        piece[i] = byte_out(n_out + (uint32_t)i);
    n_out += (uint32_t)wad_uart_write(&port, piece, n, 0);
}

static int load_main(void)
{
    status = wad_uart_open(&port);
    wad_irq_global_on();
    while (status == WAD_OK && (n_in < TOTAL || n_out < TOTAL)) {
        take();
        if (n_out < TOTAL)
            give();
        wad_port_cycles(200);
    }
    for (;;)
        wad_port_sleep();
    return 0;
}

static void handle_port(void)
{
    wad_uart_handle(&port);
}

/* ---- the world: a sender of its own, and a receiver that looks at the middle of each bit ---- */

typedef struct far_end {
    wad_event event;
    GRand *rand;
    uint32_t n;     /* bytes sent, spoilt ones included */
    unsigned frame; /* levels, the start bit lowest */
    unsigned bit, bits;
    unsigned parity, framing, breaks;
} far_end;

static far_end far;

static unsigned ones(unsigned value)
{
    unsigned n = 0;
    for (; value; value &= value - 1)
        n++;
    return n;
}

/* Start, 8 data bits, even parity, stop; one frame in 500 has something wrong with it. */
static void next_frame(void)
{
    unsigned data = byte_in(far.n), parity = ones(data) & 1, stop = 1;
    int what = g_rand_int_range(far.rand, 0, 1500);
    far.bits = 11;
    if (what == 0) {
        parity ^= 1;
        far.parity++;
    } else if (what == 1 && data) {
        stop = 0;
        far.framing++;
    } else if (what == 2) {
        data = parity = stop = 0;
        far.bits = 13;
        far.breaks++;
    }
    if (what == 3) { /* all low but the parity bit: two errors, and no break */
        data = stop = 0;
        parity = 1;
        far.parity++;
        far.framing++;
    }
    if (what <= 3 && (what != 1 || data))
        g_array_append_val(spoilt, far.n);
    far.frame = data << 1 | parity << 9 | stop << 10;
    far.n++;
    far.bit = 0;
}

static void on_far_bit(wad_event *e)
{
    const wad_pin_def *pin = wad_sheet_pin(sheet, "PA10");
    if (far.bit < far.bits) {
        wad_sim_drive(sim, pin, far.frame >> far.bit++ & 1 ? WAD_HIGH : WAD_LOW);
        wad_sim_schedule(sim, e, e->ps + BIT);
        return;
    }
    /* the line rests, at least a bit after a stop bit that was low */
    bool was_low = !(far.frame >> (far.bits - 1) & 1);
    wad_sim_drive(sim, pin, WAD_HIGH);
    uint64_t gap = was_low ? 2 * BIT : 0;
    if (g_rand_int_range(far.rand, 0, 8) == 0)
        gap += (uint64_t)g_rand_int_range(far.rand, 0, 30 * (int)(BIT / 1000)) * 1000;
    if (far.n < TOTAL) {
        next_frame();
        wad_sim_schedule(sim, e, e->ps + gap);
    }
}

static void begin_far(wad_sim *s, void *ctx)
{
    (void)ctx;
    wad_sim_drive(s, wad_sheet_pin(sheet, "PA10"), WAD_HIGH);
    next_frame();
    wad_sim_schedule(s, &far.event, S / 100);
}

typedef struct listener {
    bool receiving, level;
    uint64_t start, at[16];
    bool to[16];
    unsigned n;
    uint32_t bytes, wrong;
} listener;

static listener ear;

static bool looked(unsigned bit)
{
    uint64_t ps = ear.start + bit * BIT + BIT / 2;
    bool now = false;
    for (unsigned i = 0; i < ear.n && ear.at[i] <= ps; i++)
        now = ear.to[i];
    return now;
}

static void heard(void)
{
    unsigned data = 0;
    for (unsigned i = 0; i < 8; i++)
        data |= (unsigned)looked(1 + i) << i;
    bool good = data == byte_out(ear.bytes) && looked(9) == (ones(data) & 1) && looked(10);
    ear.wrong += !good;
    ear.bytes++;
    ear.receiving = false;
}

static void on_sent(void *ctx, uint64_t ps, wad_level to)
{
    bool level = to != WAD_LOW;
    (void)ctx;
    if (ear.receiving && ps >= ear.start + 10 * BIT + BIT / 2)
        heard();
    if (!ear.receiving && ear.level && !level) {
        ear.receiving = true;
        ear.start = ps;
        ear.n = 0;
    } else if (ear.receiving) {
        ear.at[ear.n] = ps;
        ear.to[ear.n++] = level;
    }
    ear.level = level;
}

/* ---- */

static void a_megabyte_each_way_with_errors_put_in(void **state)
{
    static const wad_handler handlers[17] = {[CORRAN32_UART0_IRQ] = handle_port};
    char *why;
    (void)state;
    sim = wad_sim_new(sheet, &why);
    spoilt = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    far = (far_end){.event = {.fn = on_far_bit}, .rand = g_rand_new_with_seed(20)};
    ear = (listener){.level = true};
    wad_sim_at(sim, 0, begin_far, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA9"), on_sent, NULL);
    wad_sim_attach(sim, load_main, handlers, 17);
    assert_int_equal(wad_sim_run(sim, 15 * S).end, WAD_RUN_TIME);
    if (ear.receiving)
        heard();
    assert_int_equal(status, WAD_OK);
    assert_int_equal(WAD_UART_PPM(port), 0);
    /* in: every byte, the spoilt ones at their places, and nothing else counted */
    assert_int_equal(n_in, TOTAL);
    assert_int_equal(wrong_in, 0);
    assert_int_equal(next_spoilt, spoilt->len);
    assert_true(far.parity > 500 && far.framing > 500 && far.breaks > 500);
    assert_int_equal(stats.received, TOTAL);
    assert_int_equal(stats.parity, far.parity);
    assert_int_equal(stats.framing, far.framing);
    assert_int_equal(stats.breaks, far.breaks);
    assert_int_equal(stats.overruns, 0);
    assert_int_equal(stats.dropped, 0);
    /* out */
    assert_int_equal(n_out, TOTAL);
    assert_int_equal(stats.sent, TOTAL);
    assert_int_equal(ear.bytes, TOTAL);
    assert_int_equal(ear.wrong, 0);
    printf("%u bytes each way at %u baud; %u parity errors, %u framing errors, %u breaks put in "
           "and counted\n",
           TOTAL, BAUD, far.parity, far.framing, far.breaks);
    g_array_free(spoilt, TRUE);
    g_rand_free(far.rand);
    wad_sim_free(sim);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_megabyte_each_way_with_errors_put_in),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
