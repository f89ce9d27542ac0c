/* SPDX-License-Identifier: MIT */
/* Serial ports: every format over a wire, edges against the divider's law, how far off a sender may
 * be, and nothing lost in the background. */
#include <math.h>
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/host/model.h"
#include "wadium/irq.h"
#include "wadium/print.h"

#include "corran32_roles.h"

#define S  WAD_PS_PER_S
#define MS (S / 1000)

static wad_sim *sim;
static const wad_timebase base = {&corran32_base, .hz = 1000000};
static wad_uart port;
static wad_uart_stats stats;
static wad_status status;

static wad_status open_port(void)
{
    wad_status st = wad_timebase_open(&base);
    stats = (wad_uart_stats){0};
    port.unit = &corran32_uart0;
    port.time = &base;
    port.tx = CORRAN32_ROUTE_UART0_TX_PA9;
    port.rx = CORRAN32_ROUTE_UART0_RX_PA10;
    port.stats = &stats;
    return st == WAD_OK ? wad_uart_open(&port) : st;
}

/* ---- the world: a wire from PA9 to PA10 ---- */

static bool cut;

static void follow(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    (void)ps;
    if (!cut)
        wad_sim_drive(sim, wad_sheet_pin(sheet, "PA10"), level == WAD_LOW ? WAD_LOW : WAD_HIGH);
}

static void rest(wad_sim *s, void *ctx)
{
    (void)ctx;
    wad_sim_drive(s, wad_sheet_pin(sheet, "PA10"), WAD_HIGH);
}

static void begin(bool wired)
{
    char *why;
    cut = !wired;
    sim = wad_sim_new(sheet, &why);
    wad_sim_at(sim, 0, rest, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA9"), follow, NULL);
}

static wad_run_result run(int (*main_fn)(void), const wad_handler *handlers, uint64_t ps)
{
    wad_sim_attach(sim, main_fn, handlers, handlers ? 17 : 0);
    return wad_sim_run(sim, ps);
}

static void end_clean(void)
{
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        wad_finding_print(wad_sim_finding(sim, i), stderr);
    assert_int_equal(wad_sim_finding_count(sim), 0);
    wad_sim_free(sim);
}

static const wad_finding *find(wad_finding_kind kind)
{
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        if (wad_sim_finding(sim, i)->kind == kind)
            return wad_sim_finding(sim, i);
    return NULL;
}

/* ---- every format ---- */

static unsigned wrong_bytes;

/* Each byte goes out and comes back. */
static int echo_main(void)
{
    status = open_port();
    for (unsigned i = 0; status == WAD_OK && i < 256; i += 5) {
        uint8_t out = (uint8_t)i, in = 0;
        if (wad_uart_write(&port, &out, 1, 20000) != 1 || wad_uart_read(&port, &in, 1, 20000) != 1)
            status = WAD_E_TIMEOUT;
        wrong_bytes += in != (out & 0xFF >> (port.bits ? 8 - port.bits : 0));
    }
    for (;;)
        wad_port_sleep();
    return 0;
}

static void every_format_comes_back(void **state)
{
    (void)state;
    for (uint8_t bits = 5; bits <= 8; bits++)
        for (int parity = 0; parity < 5; parity++)
            for (int stop = 0; stop < 3; stop++) {
                port = (wad_uart){.baud = parity % 2 ? 500000 : 230400,
                                  .bits = bits,
                                  .parity = (wad_uart_parity)parity,
                                  .stop = (wad_uart_stop)stop};
                wrong_bytes = 0;
                begin(true);
                run(echo_main, NULL, 20 * MS);
                if (status != WAD_OK || wrong_bytes || stats.framing || stats.parity)
                    fail_msg(
                        "%u bits, parity %d, stop %d: status %d, %u wrong, %u framing, %u parity",
                        bits, parity, stop, (int)status, wrong_bytes, stats.framing, stats.parity);
                assert_int_equal(stats.received, 52);
                end_clean();
            }
}

/* The loop inside needs no wire; with the wire cut and no loop, nothing comes. */
static void a_cut_wire_is_noticed(void **state)
{
    (void)state;
    for (int loop = 0; loop < 2; loop++) {
        port = (wad_uart){.baud = 230400, .loop = loop};
        wrong_bytes = 0;
        begin(false);
        run(echo_main, NULL, 50 * MS);
        assert_int_equal(status, loop ? WAD_OK : WAD_E_TIMEOUT);
        assert_int_equal(stats.received, loop ? 52 : 0);
        end_clean();
    }
}

/* ---- edges ---- */

static uint64_t edges[64];
static unsigned n_edges;

static void note(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    if (level == WAD_FLOATING || (!n_edges && level == WAD_HIGH))
        return;
    if (n_edges < 64)
        edges[n_edges++] = ps;
}

static int pattern_main(void)
{
    static const uint8_t bytes[] = {0x55, 0x55, 0x55};
    status = open_port();
    if (status == WAD_OK)
        status = wad_uart_write(&port, bytes, 3, 10000) == 3 ? WAD_OK : WAD_E_TIMEOUT;
    for (;;)
        wad_port_sleep();
    return 0;
}

/* 0x55 changes with every bit. Bit k of a frame begins floor(k * 16 * divider / 32) clocks after it
 * did, the divider in 32nds; frames follow without a gap. */
static void bits_lie_where_the_fraction_puts_them(void **state)
{
    static const uint32_t bauds[] = {115200, 230400, 9600, 57600, 31250, 250000};
#define OFF(baud_) WAD_UART_PPM(((wad_uart){&corran32_uart0, .clock_hz = 8000000, .baud = (baud_)}))
    const int32_t off[] = {OFF(115200), OFF(230400), OFF(9600),
                           OFF(57600),  OFF(31250),  OFF(250000)};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(bauds); i++) {
        port = (wad_uart){.baud = bauds[i]};
        n_edges = 0;
        begin(false);
        wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA9"), note, NULL);
        run(pattern_main, NULL, 10 * MS);
        assert_int_equal(status, WAD_OK);
        uint64_t samples, divider;
        uint32_t baud_reg = 0, ctrl = 0;
        assert_true(wad_sim_peek(sim, CORRAN32_UART0_BASE + 8, &baud_reg));
        assert_true(wad_sim_peek(sim, CORRAN32_UART0_BASE, &ctrl));
        samples = ctrl >> 16 & 1 ? 8 : 16;
        divider = baud_reg; /* 32nds: the fraction lies below the whole part */
        assert_int_equal(n_edges, 30);
        double actual = 8e6 * 32 / (double)(divider * samples);
        assert_true(fabs((actual / bauds[i] - 1) * 1e6 - off[i]) <= 1);
        uint64_t begin_ps = edges[0];
        for (unsigned k = 0; k < 30; k++) {
            unsigned frame = k / 10, bit = k % 10;
            uint64_t clocks = frame * (10 * samples * divider / 32) + bit * samples * divider / 32;
            assert_int_equal(edges[k] - begin_ps, clocks * 125000);
        }
        end_clean();
    }
}

/* Most significant bit first, or inverted, or both: looked at in the middle of each bit. */
static uint64_t changes_at[64];
static wad_level changed_to[64];
static unsigned n_changes;

static void note_all(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    if (n_changes < 64) {
        changes_at[n_changes] = ps;
        changed_to[n_changes++] = level;
    }
}

static bool high_at(uint64_t ps)
{
    wad_level level = WAD_FLOATING;
    for (unsigned i = 0; i < n_changes && changes_at[i] <= ps; i++)
        level = changed_to[i];
    return level == WAD_HIGH;
}

static int one_byte_main(void)
{
    uint8_t byte = 0x39;
    status = open_port();
    wad_port_cycles(8000);
    if (status == WAD_OK)
        status = wad_uart_write(&port, &byte, 1, 10000) == 1 ? WAD_OK : WAD_E_TIMEOUT;
    for (;;)
        wad_port_sleep();
    return 0;
}

static void bits_go_in_either_order_and_upside_down(void **state)
{
    (void)state;
    for (unsigned how = 0; how < 4; how++) {
        bool msb = how & 1, inverted = how & 2;
        port = (wad_uart){.baud = 10000, .msb_first = msb, .invert_tx = inverted};
        n_changes = 0;
        begin(false);
        wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA9"), note_all, NULL);
        run(one_byte_main, NULL, 5 * MS);
        assert_int_equal(status, WAD_OK);
        /* the line rests, inverted low, for a millisecond; then the start bit */
        uint64_t start = 0, bit = S / 10000;
        for (unsigned i = 0; i < n_changes && !start; i++)
            if (changes_at[i] > MS && (changed_to[i] == WAD_LOW) != inverted)
                start = changes_at[i];
        assert_true(start > 0);
        assert_int_equal(high_at(start - bit), !inverted);
        unsigned data = 0;
        for (unsigned i = 0; i < 8; i++) {
            bool one = high_at(start + bit * (i + 1) + bit / 2) != inverted;
            data |= (unsigned)one << (msb ? 7 - i : i);
        }
        assert_int_equal(data, 0x39);
        assert_int_equal(high_at(start + 9 * bit + bit / 2), !inverted);
        end_clean();
    }
}

/* DE goes up half a bit before the start bit, stays up between bytes, and goes down with the end of
 * the last stop bit. */
static uint64_t driver_up, driver_down;
static unsigned driver_pulses;

static void note_driver(void *ctx, uint64_t ps, wad_level level)
{
    (void)ctx;
    if (level == WAD_HIGH) {
        driver_up = ps;
        driver_pulses++;
    } else if (level == WAD_LOW && driver_pulses) {
        driver_down = ps;
    }
}

static void the_lines_driver_is_on_while_something_is_sent(void **state)
{
    (void)state;
    port = (wad_uart){.baud = 250000, .driver = CORRAN32_ROUTE_UART0_DE_PA8, .lead = 4};
    n_edges = driver_pulses = 0;
    begin(false);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA9"), note, NULL);
    wad_sim_watch_pin(sim, wad_sheet_pin(sheet, "PA8"), note_driver, NULL);
    run(pattern_main, NULL, 10 * MS);
    assert_int_equal(status, WAD_OK);
    uint64_t bit = S / 250000, clock = S / 8000000;
    assert_int_equal(n_edges, 30);
    assert_int_equal(driver_pulses, 1);
    assert_int_equal(driver_down - edges[0], 30 * bit);
    assert_in_range(edges[0] - driver_up, bit / 2 - clock, bit / 2 + 2 * clock);
    end_clean();
}

/* ---- a sender that is off ---- */

typedef struct off_sender {
    wad_event event;
    double bit_ps, begin;
    unsigned n, bytes;
    uint32_t frame;
} off_sender;

static off_sender sender;

static void on_off_bit(wad_event *e)
{
    off_sender *o = (off_sender *)e;
    unsigned bit = o->n % 10;
    if (bit == 0) { /* a new byte, the last stop bit is over */
        if (o->bytes++ == 200)
            return;
        o->frame = (uint32_t)((o->bytes * 37 & 0xFF) << 1 | 0x200);
        o->begin = (double)e->ps;
    }
    wad_sim_drive(sim, wad_sheet_pin(sheet, "PA10"), o->frame >> bit & 1 ? WAD_HIGH : WAD_LOW);
    o->n++;
    wad_sim_schedule(sim, &o->event, (uint64_t)(o->begin + (bit + 1) * o->bit_ps));
}

static void start_sender(wad_sim *s, void *ctx)
{
    (void)ctx;
    wad_sim_schedule(s, &sender.event, MS);
}

static size_t n_heard;

static int listen_main(void)
{
    uint8_t bytes[200];
    size_t n = 0;
    port = (wad_uart){.baud = 19200};
    status = open_port();
    if (status == WAD_OK)
        n = wad_uart_read(&port, bytes, 200, 200000);
    n_heard = n;
    for (unsigned i = 0; i < n; i++)
        wrong_bytes += bytes[i] != (uint8_t)((i + 1) * 37);
    for (;;)
        wad_port_sleep();
    return 0;
}

static bool decodes(double share)
{
    wrong_bytes = 0;
    sender = (off_sender){.event = {.fn = on_off_bit}};
    sender.bit_ps = 416.75 * 125000 / (1 + share); /* 52 3/32 of an eighth of a bit: 19 196 baud */
    begin(false);
    wad_sim_at(sim, MS / 2, start_sender, NULL);
    run(listen_main, NULL, 200 * MS);
    bool good = status == WAD_OK && n_heard == 200 && !wrong_bytes && !stats.framing;
    if (!good && stats.framing)
        assert_non_null(find(WAD_FINDING_FRAMING));
    wad_sim_free(sim);
    return good;
}

/*
 * The stop bit's middle sample, which decides with one of its neighbours, lies 9.5 bits after the
 * start was seen; the receiver looks for the next start two samples later, a quarter of a bit with
 * 8 of them. A fast sender's next start comes after 10 / (1 + s) of our bits, and must not come
 * before that: s is 10 / 9.75 - 1 = 2.6 % at the most. A slow one's stop bit begins after 9 / (1 +
 * s), and must have by the middle: 9 / 9.5 - 1 = -5.3 %.
 */
static void the_largest_mismatch_agrees_with_theory(void **state)
{
    double fast = 0, slow = 0;
    (void)state;
    for (double share = 0.02; share < 0.08 && decodes(share); share += 0.001)
        fast = share;
    for (double share = -0.02; share > -0.08 && decodes(share); share -= 0.001)
        slow = share;
    if (fabs(fast - (10 / 9.75 - 1)) > 0.0015 || fabs(slow - (9 / 9.5 - 1)) > 0.0015)
        fail_msg("fast %.2f %%, slow %.2f %%", fast * 100, slow * 100);
}

/* ---- in the background ---- */

static uint8_t in_ring[256], out_ring[256];
static uint32_t sent_sum, got_sum, n_sent, n_got, order_errors;

static void handle_port(void)
{
    wad_uart_handle(&port);
}

#define TOTAL 40000u

/* Out as fast as there is room, in pieces of odd sizes; in what has come. Bytes are in order. */
static int stream_main(void)
{
    uint8_t piece[61];
    port = (wad_uart){
        .baud = 500000, .in = WAD_RING(in_ring), .out = WAD_RING(out_ring), .priority = 1};
    status = open_port();
    wad_irq_global_on();
    while (status == WAD_OK && n_got < TOTAL) {
        size_t n = TOTAL - n_sent < 61 ? TOTAL - n_sent : 1 + n_sent % 61;
        for (size_t i = 0; i < n; i++)
            piece[i] = (uint8_t)((n_sent + i) * 7 >> 3);
        n = wad_uart_write(&port, piece, n, 0);
        for (size_t i = 0; i < n; i++)
            sent_sum = sent_sum * 31 + piece[i];
        n_sent += (uint32_t)n;
        n = wad_uart_read(&port, piece, 1 + n_got % 61, 0);
        for (size_t i = 0; i < n; i++) {
            order_errors += piece[i] != (uint8_t)((n_got + i) * 7 >> 3);
            got_sum = got_sum * 31 + piece[i];
        }
        n_got += (uint32_t)n;
        wad_port_cycles(50 + n_got % 400);
    }
    if (status == WAD_OK)
        status = wad_uart_drain(&port, 10000);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void nothing_is_lost_in_the_background(void **state)
{
    static const wad_handler handlers[17] = {[CORRAN32_UART0_IRQ] = handle_port};
    (void)state;
    sent_sum = got_sum = n_sent = n_got = order_errors = 0;
    begin(true);
    run(stream_main, handlers, 2 * S);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(n_got, TOTAL);
    assert_int_equal(order_errors, 0);
    assert_int_equal(sent_sum, got_sum);
    assert_int_equal(stats.sent, TOTAL);
    assert_int_equal(stats.received, TOTAL);
    assert_int_equal(stats.overruns + stats.dropped + stats.framing, 0);
    assert_true(stats.most > 1 && stats.most <= 256);
    end_clean();
}

/* A mask that stays closed too long: bytes are lost, counted as an event, and said so. */
static int late_main(void)
{
    static const uint8_t bytes[64];
    port = (wad_uart){
        .baud = 500000, .in = WAD_RING(in_ring), .out = WAD_RING(out_ring), .priority = 1};
    status = open_port();
    wad_irq_global_on();
    (void)wad_uart_write(&port, bytes, 12, 0);
    wad_port_cycles(100);
    uint32_t state = wad_irq_save();
    wad_port_cycles(8 * 400); /* 400 us are 20 bytes, the queues hold 8 each */
    wad_irq_restore(state);
    (void)!wad_uart_drain(&port, 10000);
    for (;;)
        wad_port_sleep();
    return 0;
}

static void what_is_lost_is_counted(void **state)
{
    static const wad_handler handlers[17] = {[CORRAN32_UART0_IRQ] = handle_port};
    (void)state;
    begin(true);
    run(late_main, handlers, 100 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(stats.overruns, stats.received < 12);
    wad_sim_free(sim);
}

/* ---- what cannot be ---- */

static wad_status refused[6];
static const uint16_t refused_words[1];
static size_t refused_n;

static int refused_main(void)
{
    port = (wad_uart){.baud = 2000000};
    refused[0] = open_port();
    port.baud = 1;
    refused[1] = open_port();
    port = (wad_uart){.baud = 9600, .bits = 10};
    refused[2] = open_port();
    port = (wad_uart){.baud = 9600};
    status = open_port();
    refused[3] = wad_uart_send(&port, "a", 1, NULL, NULL);
    port.out = WAD_RING(out_ring);
    refused_n = wad_uart_write_words(&port, refused_words, 1, 0);
    port.time = NULL;
    refused[4] = wad_uart_drain(&port, 1000);
    port = (wad_uart){.baud = 9600, .parity = (wad_uart_parity)7};
    refused[5] = open_port();
    for (;;)
        wad_port_sleep();
    return 0;
}

static void what_cannot_be_is_refused(void **state)
{
    static const wad_status want[6] = {WAD_E_RANGE, WAD_E_RANGE, WAD_E_RANGE,
                                       WAD_E_STATE, WAD_E_STATE, WAD_E_RANGE};
    (void)state;
    begin(false);
    run(refused_main, NULL, MS);
    for (unsigned i = 0; i < 6; i++)
        if (refused[i] != want[i])
            fail_msg("call %u: status %d, wanted %d", i, (int)refused[i], (int)want[i]);
    assert_int_equal(refused_n, 0); /* words go past a ring of bytes */
    wad_sim_free(sim);
}

/* ---- text ---- */

static void numbers_become_text(void **state)
{
    static const struct {
        const char *want;
        const char *format;
        int value;
    } cases[] = {{"0", "%d", 0},
                 {"-7", "%d", -7},
                 {"   -7", "%5d", -7},
                 {"-0007", "%05d", -7},
                 {"-7   |", "%-5d|", -7},
                 {"-2147483648", "%d", INT32_MIN},
                 {"12.345", "%.3d", 12345},
                 {"-0.005", "%.3d", -5},
                 {"0.000", "%.3d", 0},
                 {" 1.50", "%5.2d", 150},
                 {"ff", "%x", 255},
                 {"000000ff", "%08x", 255},
                 {"4294967295", "%u", -1},
                 {"5%", "%d%%", 5}};
    char text[40];
    (void)state;
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wformat-nonliteral"
#pragma GCC diagnostic ignored "-Wformat-security"
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        size_t n = wad_format(text, sizeof text, cases[i].format, cases[i].value);
        assert_string_equal(text, cases[i].want);
        assert_int_equal(n, strlen(cases[i].want));
    }
#pragma GCC diagnostic pop
    assert_int_equal(wad_format(text, 4, "%s", "abcdef"), 6);
    assert_string_equal(text, "abc");
    wad_format(text, sizeof text, "[%6s|%-6s|%c]", "ab", "cd", 'e');
    assert_string_equal(text, "[    ab|cd    |e]");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_format_comes_back),
        cmocka_unit_test(a_cut_wire_is_noticed),
        cmocka_unit_test(bits_lie_where_the_fraction_puts_them),
        cmocka_unit_test(bits_go_in_either_order_and_upside_down),
        cmocka_unit_test(the_lines_driver_is_on_while_something_is_sent),
        cmocka_unit_test(the_largest_mismatch_agrees_with_theory),
        cmocka_unit_test(nothing_is_lost_in_the_background),
        cmocka_unit_test(what_is_lost_is_counted),
        cmocka_unit_test(what_cannot_be_is_refused),
        cmocka_unit_test(numbers_become_text),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
