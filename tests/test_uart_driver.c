/* SPDX-License-Identifier: MIT */
/* What the serial driver does besides bytes in order: transfers that call back, ends of receptions,
 * nine bits, two ports at once, lines that a person types. */
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/host/model.h"
#include "wadium/irq.h"
#include "wadium/line.h"

#include "corran32_roles.h"

#define S  WAD_PS_PER_S
#define MS (S / 1000)

static wad_sim *sim;
static const wad_timebase base = {&corran32_base, .hz = 1000000};
static wad_uart port,
    second; /* known to the run only: what the compiler knows is tested by the examples */
static wad_uart config;
static wad_uart_stats stats, second_stats;
static wad_uart_transfer sending, receiving;
static wad_status status;

static void handle_port(void)
{
    wad_uart_handle(&port);
}

static void handle_second(void)
{
    wad_uart_handle(&second);
}

static const wad_handler handlers[17] = {
    [CORRAN32_UART0_IRQ] = handle_port, [CORRAN32_UART1_IRQ] = handle_second};

/* ---- the world: UART0 and UART1 wired across ---- */

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

static void run(int (*main_fn)(void), uint64_t ps)
{
    char *why;
    sim = wad_sim_new(sheet, &why);
    wire("PA9", "PA3");
    wire("PA2", "PA10");
    wad_sim_attach(sim, main_fn, handlers, 17);
    assert_int_equal(wad_sim_run(sim, ps).end, WAD_RUN_TIME);
}

static void end_clean(void)
{
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        wad_finding_print(wad_sim_finding(sim, i), stderr);
    assert_int_equal(wad_sim_finding_count(sim), 0);
    wad_sim_free(sim);
}

/* Both ports, with nothing in between but the wires. */
static wad_status set_both(void)
{
    wad_status st = wad_timebase_open(&base);
    stats = second_stats = (wad_uart_stats){0};
    config.time = &base;
    config.priority = 1;
    port = second = config;
    port.unit = &corran32_uart0;
    port.tx = CORRAN32_ROUTE_UART0_TX_PA9;
    port.rx = CORRAN32_ROUTE_UART0_RX_PA10;
    port.stats = &stats;
    second.unit = &corran32_uart1;
    second.tx = CORRAN32_ROUTE_UART1_TX_PA2;
    second.rx = CORRAN32_ROUTE_UART1_RX_PA3;
    second.stats = &second_stats;
    return st;
}

static wad_status begin(void)
{
    wad_status st = wad_uart_open(&port);
    if (st == WAD_OK)
        st = wad_uart_open(&second);
    wad_irq_global_on();
    return st;
}

/* Without rings: transfers in both directions. */
static wad_status open_transfers(void)
{
    wad_status st = set_both();
    port.sends = &sending;
    second.receives = &receiving;
    return st == WAD_OK ? begin() : st;
}

static int rest(void)
{
    for (;;)
        wad_port_sleep();
    return 0;
}

/* ---- transfers ---- */

static uint8_t text[300], heard[300];
static unsigned sends, receptions;
static size_t counts[8];
static wad_status ends[8];

/* The callback begins the next one, three in all. */
static void sent(wad_status st, size_t n, void *context)
{
    assert_ptr_equal(context, text);
    assert_int_equal(st, WAD_OK);
    assert_int_equal(n, 100);
    /* the last bit has left the wire */
    assert_int_not_equal(wad_get(CORRAN32_UART0_BASE, corran32_serial_roles.tx_done), 0);
    if (++sends < 3)
        status = wad_uart_send(&port, text + 100 * sends, 100, sent, context);
}

static void received(wad_status st, size_t n, void *context)
{
    (void)context;
    ends[receptions] = st;
    counts[receptions++] = n;
    if (receptions < 3)
        status = wad_uart_receive(&second, heard + 100 * receptions, 100, received, NULL);
}

static int chained_main(void)
{
    config = (wad_uart){.baud = 500000};
    status = open_transfers();
    if (status == WAD_OK)
        status = wad_uart_receive(&second, heard, 100, received, NULL);
    if (status == WAD_OK)
        status = wad_uart_send(&port, text, 100, sent, text);
    return rest();
}

static void callbacks_begin_the_next_transfer(void **state)
{
    (void)state;
    sends = receptions = 0;
    memset(heard, 0, sizeof heard);
    for (unsigned i = 0; i < sizeof text; i++)
        text[i] = (uint8_t)(i * 7 >> 1);
    run(chained_main, 30 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(sends, 3);
    assert_int_equal(receptions, 3);
    assert_memory_equal(heard, text, sizeof text);
    end_clean();
}

static void noted(wad_status st, size_t n, void *context)
{
    (void)context;
    ends[receptions] = st;
    counts[receptions++] = n;
}

/* "tide\n" ends at its newline; what comes after it stays for the next one, which an idle line
 * ends; the third is given up. */
static int ends_main(void)
{
    config = (wad_uart){.baud = 115200};
    status = open_transfers();
    if (status == WAD_OK)
        status = wad_uart_receive_until(&second, heard, 50, WAD_UNTIL_END, '\n', noted, NULL);
    if (status == WAD_OK)
        status = wad_uart_send(&port, "tide\nand more", 13, NULL, NULL);
    while (status == WAD_OK && receptions < 1)
        wad_port_sleep();
    if (status == WAD_OK)
        status = wad_uart_receive_until(&second, heard + 50, 50, WAD_UNTIL_IDLE, 0, noted, NULL);
    while (status == WAD_OK && receptions < 2)
        wad_port_sleep();
    if (status == WAD_OK)
        status = wad_uart_receive(&second, heard + 100, 50, noted, NULL);
    if (status == WAD_OK)
        status = wad_uart_send(&port, "abc", 3, NULL, NULL);
    wad_port_cycles(8000);
    ends[6] = wad_uart_receive(&second, heard, 1, NULL, NULL); /* one goes on */
    ends[7] = wad_uart_send(&port, heard, 0, NULL, NULL);
    ends[5] = wad_uart_send(&second, heard, 1, NULL, NULL); /* it makes none */
    wad_uart_abort(&second);
    return rest();
}

static void receptions_end_where_they_should(void **state)
{
    (void)state;
    receptions = 0;
    memset(heard, 0, sizeof heard);
    run(ends_main, 100 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(receptions, 3);
    assert_int_equal(counts[0], 5);
    assert_memory_equal(heard, "tide\n", 6);
    assert_int_equal(counts[1], 8);
    assert_memory_equal(heard + 50, "and more", 9);
    assert_int_equal(ends[2], WAD_E_STATE);
    assert_int_equal(ends[6], WAD_E_STATE);
    assert_int_equal(ends[7], WAD_E_ARG);
    assert_int_equal(ends[5], WAD_E_STATE);
    end_clean();
}

/* ---- waiting, with and without rings ---- */

static size_t got[8];
static uint64_t gap_took;
static uint8_t ring_in[64], ring_out[64];
static bool rings;

static int waits_main(void)
{
    config = (wad_uart){.baud = 115200};
    status = set_both();
    if (rings)
        second.in = WAD_RING(ring_in);
    if (rings)
        port.out = WAD_RING(ring_out);
    if (status == WAD_OK)
        status = begin();
    if (status != WAD_OK)
        return rest();
    got[0] = wad_uart_write(&port, "one;two", 7, 1000);
    got[1] = wad_uart_read_until(&second, heard, 50, ';', 0, 5000);
    got[2] = wad_uart_read_until(&second, heard + 50, 50, -1, 500, 50000);
    gap_took = wad_sim_now(sim);
    got[3] = wad_uart_read(&second, heard + 100, 5, 2000);
    gap_took = wad_sim_now(sim) - gap_took;
    got[4] = wad_uart_write(&port, "", 0, 0);
    return rest();
}

static void waiting_ends_by_byte_by_gap_and_by_time(void **state)
{
    (void)state;
    for (int with = 0; with < 2; with++) {
        rings = with;
        memset(heard, 0, sizeof heard);
        memset(got, 9, sizeof got);
        run(waits_main, 50 * MS);
        assert_int_equal(status, WAD_OK);
        assert_int_equal(got[0], 7);
        assert_int_equal(got[1], 4);
        assert_memory_equal(heard, "one;", 5);
        assert_int_equal(got[2], 3);
        assert_memory_equal(heard + 50, "two", 4);
        assert_int_equal(got[3], 0);
        assert_true(gap_took >= 2 * MS && gap_took < 2 * MS + MS / 50);
        assert_int_equal(got[4], 0);
        end_clean();
    }
}

/* ---- nine bits, and errors beside their word ---- */

static uint16_t words[4];

static int nine_main(void)
{
    static const uint16_t out[4] = {0x1FF, 0x100, 0x0AA, 0x155};
    config = (wad_uart){.baud = 115200, .bits = 9};
    status = set_both();
    if (status == WAD_OK)
        status = begin();
    got[1] = wad_uart_write_words(&port, out, 4, 5000);
    got[0] = wad_uart_read_words(&second, words, 4, 5000);
    port.in = WAD_RING(ring_in);
    ends[0] = wad_uart_open(&port);
    return rest();
}

static void nine_bits_pass(void **state)
{
    (void)state;
    run(nine_main, 20 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(got[0], 4);
    assert_int_equal(got[1], 4);
    assert_int_equal(words[0], 0x1FF);
    assert_int_equal(words[1], 0x100);
    assert_int_equal(words[2], 0x0AA);
    assert_int_equal(words[3], 0x155);
    assert_int_equal(ends[0], WAD_E_ABSENT); /* no ring of bytes holds them */
    end_clean();
}

/* The receiver is told another parity after the second byte: those that follow are wrong, each by
 * itself, and a break between them. */
static int errors_main(void)
{
    static const uint16_t out[2] = {0x31, 0x33};
    config = (wad_uart){.baud = 115200, .parity = WAD_PARITY_EVEN};
    status = set_both();
    if (status == WAD_OK)
        status = begin();
    got[1] = wad_uart_write_words(&port, out, 2, 5000);
    if (status == WAD_OK)
        status = wad_uart_drain(&port, 5000);
    wad_put(CORRAN32_UART0_BASE, corran32_serial_roles.enable, 0);
    wad_put(CORRAN32_UART0_BASE, corran32_serial_roles.parity_mode,
            corran32_serial_roles.parity_mode_odd);
    wad_put(CORRAN32_UART0_BASE, corran32_serial_roles.enable, 1);
    got[1] += wad_uart_write_words(&port, out, 1, 5000);
    if (status == WAD_OK)
        status = wad_uart_drain(&port, 5000);
    wad_put(CORRAN32_UART0_BASE, corran32_serial_roles.send_break, 1);
    wad_port_cycles(8 * 200);
    wad_put(CORRAN32_UART0_BASE, corran32_serial_roles.send_break, 0);
    wad_port_cycles(8 * 200);
    got[0] = wad_uart_read_words(&second, words, 4, 5000);
    return rest();
}

static void errors_stand_beside_their_word(void **state)
{
    (void)state;
    run(errors_main, 20 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(got[0], 4);
    assert_int_equal(got[1], 3);
    assert_int_equal(words[0], 0x31);
    assert_int_equal(words[1], 0x33);
    assert_int_equal(words[2], 0x31 | WAD_WORD_PARITY);
    assert_int_equal(words[3], WAD_WORD_BREAK);
    assert_int_equal(second_stats.parity, 1);
    assert_int_equal(second_stats.breaks, 1);
    assert_int_equal(second_stats.framing, 0);
    wad_sim_free(sim);
}

/* ---- two ports, each in the background, both ways ---- */

static uint8_t rings_of[4][128];
static uint32_t moved[2], wrong[2];

static void shuffle(const wad_uart *uart, unsigned which, uint32_t *out)
{
    uint8_t piece[24];
    size_t n = 1 + *out % 23;
    for (size_t i = 0; i < n; i++)
        piece[i] = (uint8_t)((*out + i) * (which + 3));
    *out += (uint32_t)wad_uart_write(uart, piece, n, 0);
    n = wad_uart_read(uart, piece, sizeof piece, 0);
    for (size_t i = 0; i < n; i++)
        wrong[which] += piece[i] != (uint8_t)((moved[which] + i) * (4 - which));
    moved[which] += (uint32_t)n;
}

static int both_main(void)
{
    uint32_t out[2] = {0, 0};
    config = (wad_uart){.baud = 250000};
    status = set_both();
    port.in = WAD_RING(rings_of[0]);
    port.out = WAD_RING(rings_of[1]);
    second.in = WAD_RING(rings_of[2]);
    second.out = WAD_RING(rings_of[3]);
    if (status == WAD_OK)
        status = begin();
    while (status == WAD_OK) {
        shuffle(&port, 0, &out[0]);
        shuffle(&second, 1, &out[1]);
        wad_port_cycles(100 + out[0] % 300);
    }
    return rest();
}

static void two_ports_do_not_mix(void **state)
{
    (void)state;
    moved[0] = moved[1] = wrong[0] = wrong[1] = 0;
    run(both_main, S / 2);
    assert_int_equal(status, WAD_OK);
    for (unsigned i = 0; i < 2; i++) {
        assert_true(moved[i] > 11000 && moved[i] <= 12500); /* 25 000 a second is the line's */
        assert_int_equal(wrong[i], 0);
    }
    assert_int_equal(stats.overruns + second_stats.overruns + stats.dropped + second_stats.dropped,
                     0);
    end_clean();
}

/* Another baud while the port is in use: what is on its way leaves first; one that cannot be, or a
 * wait that is too short, leaves the old one. */
static int rates_main(void)
{
    config = (wad_uart){.baud = 9600};
    status = set_both();
    port.out = WAD_RING(ring_out);
    if (status == WAD_OK)
        status = begin();
    got[0] = wad_uart_write(&port, "0123456789", 10, 0);
    ends[0] = wad_uart_set_baud(&port, 115200, 2000); /* two bytes of ten have gone */
    ends[1] = wad_uart_set_baud(&port, 3000000, 50000);
    got[1] = wad_uart_read(&second, heard, 10, 20000); /* at the old baud still */
    ends[3] = wad_uart_set_baud(&port, 500000, 50000);
    ends[4] = wad_uart_set_baud(&second, 500000, 50000);
    got[0] += wad_uart_write(&port, "fast", 4, 0);
    got[2] = wad_uart_read(&second, heard + 50, 4, 120); /* 80 us at that baud */
    return rest();
}

static void the_baud_changes_while_the_port_is_used(void **state)
{
    (void)state;
    memset(heard, 0, sizeof heard);
    run(rates_main, 100 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(got[0], 14);
    assert_int_equal(ends[0], WAD_E_TIMEOUT);
    assert_int_equal(ends[1], WAD_E_RANGE);
    assert_int_equal(got[1], 10);
    assert_memory_equal(heard, "0123456789", 11);
    assert_int_equal(ends[3], WAD_OK);
    assert_int_equal(ends[4], WAD_OK);
    assert_int_equal(got[2], 4);
    assert_memory_equal(heard + 50, "fast", 5);
    end_clean();
}

/* Opened twice, with the rings at work in between: nothing is wrong, and the second one counts. */
static int twice_main(void)
{
    config = (wad_uart){.baud = 9600};
    status = set_both();
    port.in = WAD_RING(ring_in);
    port.out = WAD_RING(ring_out);
    if (status == WAD_OK)
        status = begin();
    got[0] = wad_uart_write(&port, "gone", 4, 0);
    config = (wad_uart){.baud = 115200, .parity = WAD_PARITY_EVEN};
    ends[0] = set_both();
    port.out = WAD_RING(ring_out);
    ends[1] = begin();
    got[0] = wad_uart_write(&port, "tide", 4, 0);
    got[1] = wad_uart_read(&second, heard, 8, 5000);
    return rest();
}

static void a_port_that_works_is_opened_anew(void **state)
{
    (void)state;
    memset(heard, 0, sizeof heard);
    run(twice_main, 50 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(ends[0], WAD_OK);
    assert_int_equal(ends[1], WAD_OK);
    assert_int_equal(got[1], 8); /* what the block had has left at the old baud */
    assert_memory_equal(heard, "gonetide", 8);
    for (unsigned i = 0; i < wad_sim_finding_count(sim); i++)
        assert_int_not_equal(wad_sim_finding(sim, i)->kind, WAD_FINDING_NOT_STABLE);
    wad_sim_free(sim);
}

/* Rings, closed with bytes under way; then the same block by polling, which rings' handlers and
 * enables must not disturb, and then closed for good. */
static unsigned handled;

static void count_handled(void)
{
    handled++;
    wad_uart_handle(&port);
}

static const wad_handler counting[17] = {
    [CORRAN32_UART0_IRQ] = count_handled, [CORRAN32_UART1_IRQ] = handle_second};

static uint32_t uart0_word(uint32_t off)
{
    return wad_port_read32(CORRAN32_UART0_BASE, off);
}

static int close_main(void)
{
    enum { CTL = 0, ASKS = 0x0C, ON = 1 };
    config = (wad_uart){.baud = 115200};
    status = set_both();
    port.in = WAD_RING(ring_in);
    port.out = WAD_RING(ring_out);
    ends[0] = begin();
    (void)wad_uart_write(&port, "tide", 4, 0);
    wad_uart_close(&port);
    got[0] =
        (uart0_word(CTL) & ON) | uart0_word(ASKS) |
        wad_get(CORRAN32_INT_BASE, wad_at(corran32_interrupts_roles.enable, CORRAN32_UART0_IRQ));
    got[1] = wadi_ring_held(port.out);
    handled = 0;
    config = (wad_uart){.baud = 57600};
    ends[1] = set_both();
    second.in = WAD_RING(ring_in);
    ends[2] = begin();
    (void)wad_uart_write(&port, "low", 3, 0);
    got[2] = wad_uart_read(&second, heard, 3, 5000);
    got[3] = uart0_word(ASKS) | handled;
    wad_uart_close(&port);
    wad_uart_close(&second);
    wad_uart_close(&second); /* what is closed stays so */
    got[4] = uart0_word(CTL) & ON;
    return rest();
}

static void a_port_is_closed_and_opened_otherwise(void **state)
{
    char *why;
    (void)state;
    memset(heard, 0, sizeof heard);
    sim = wad_sim_new(sheet, &why);
    wire("PA9", "PA3");
    wire("PA2", "PA10");
    wad_sim_attach(sim, close_main, counting, 17);
    assert_int_equal(wad_sim_run(sim, 50 * MS).end, WAD_RUN_TIME);
    assert_int_equal(status, WAD_OK);
    for (unsigned i = 0; i < 3; i++)
        assert_int_equal(ends[i], WAD_OK);
    assert_int_equal(got[0], 0);
    assert_int_equal(got[1], 0);
    assert_int_equal(got[2], 3);
    assert_memory_equal(heard, "low", 3);
    assert_int_equal(got[3], 0);
    assert_int_equal(got[4], 0);
    wad_sim_free(sim);
}

/* Lines in a buffer that is too small for one, and what is forgotten. */
static int lines_main(void)
{
    config = (wad_uart){.baud = 115200};
    status = set_both();
    port.in = WAD_RING(ring_in);
    if (status == WAD_OK)
        status = begin();
    got[0] = wad_uart_write(&second, "high\nlow\nebb", 12, 20000);
    wad_port_cycles(20000);
    char *line = (char *)heard;
    got[1] =
        (size_t)wad_uart_read_line(&port, line, 1, '\n') + 1u; /* -1: no room for a character */
    got[2] = (size_t)wad_uart_read_line(&port, line + 10, 3, '\n'); /* in pieces */
    got[3] = (size_t)wad_uart_read_line(&port, line + 20, 10, '\n');
    got[4] = (size_t)wad_uart_read_line(&port, line + 30, 10, '\n');
    got[5] = (size_t)wad_uart_read_line(&port, line + 40, 10, '\n') + 1u; /* not whole yet */
    got[6] = wad_uart_waiting(&port);
    wad_uart_discard(&port);
    got[7] = wad_uart_waiting(&port);
    return rest();
}

static void lines_are_taken_as_there_is_room(void **state)
{
    (void)state;
    memset(heard, 0, sizeof heard);
    run(lines_main, 50 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(got[0], 12);
    assert_int_equal(got[1], 0);
    assert_int_equal(got[2], 2);
    assert_string_equal((char *)heard + 10, "hi");
    assert_int_equal(got[3], 2);
    assert_string_equal((char *)heard + 20, "gh");
    assert_int_equal(got[4], 3);
    assert_string_equal((char *)heard + 30, "low");
    assert_int_equal(got[5], 0);
    assert_int_equal(got[6], 3);
    assert_int_equal(got[7], 0);
    wad_sim_free(sim);
}

/* What waits in the ring is forgotten, what the block has is sent. */
static int flush_main(void)
{
    config = (wad_uart){.baud = 9600};
    status = set_both();
    port.out = WAD_RING(ring_out);
    if (status == WAD_OK)
        status = begin();
    got[0] = wad_uart_write(&port, text, 60, 0);
    wad_port_cycles(1000);
    got[1] = wad_uart_flush(&port);
    if (status == WAD_OK)
        status = wad_uart_drain(&port, 50000);
    return rest();
}

static void a_flush_forgets_what_waits(void **state)
{
    (void)state;
    run(flush_main, 100 * MS);
    assert_int_equal(status, WAD_OK);
    assert_int_equal(got[0], 60);
    assert_int_equal(got[1] + stats.sent, 60);
    assert_true(stats.sent >= 4 && stats.sent <= 9);
    wad_sim_free(sim);
}

/* ---- lines ---- */

static char typed[64];
static GString *echoed;

static void note(char c, void *context)
{
    assert_ptr_equal(context, &typed);
    g_string_append_c(echoed, c);
}

static void a_line_is_edited(void **state)
{
    static const struct {
        wad_newline in, out;
        const char *keys, *lines, *echo;
    } cases[] = {
        {WAD_NEWLINE_ANY, WAD_NEWLINE_ANY, "help\r", "help|", "help\r\n"},
        {WAD_NEWLINE_ANY, WAD_NEWLINE_LF, "a\r\nb\nc\r", "a|b|c|", "a\nb\nc\n"},
        {WAD_NEWLINE_ANY, WAD_NEWLINE_CR, "a\r\rb\n\n", "a||b||", "a\r\rb\r\r"},
        {WAD_NEWLINE_CR, WAD_NEWLINE_ANY, "a\nb\r", "ab|", "ab\r\n"},
        {WAD_NEWLINE_LF, WAD_NEWLINE_ANY, "a\rb\n", "ab|", "ab\r\n"},
        {WAD_NEWLINE_CRLF, WAD_NEWLINE_ANY, "a\rb\nc\r\n", "abc|", "abc\r\n"},
        {WAD_NEWLINE_ANY, WAD_NEWLINE_ANY, "rat\b\x7fone\r", "rone|", "rat\b \b\b \bone\r\n"},
        {WAD_NEWLINE_ANY, WAD_NEWLINE_ANY, "\b\x7fx\r", "x|", "x\r\n"},
        {WAD_NEWLINE_ANY, WAD_NEWLINE_ANY, "ab\x15z\r", "z|", "ab\b \b\b \bz\r\n"},
        {WAD_NEWLINE_ANY, WAD_NEWLINE_ANY, "ab\x03z\r", "|z|", "ab\r\nz\r\n"},
        {WAD_NEWLINE_ANY, WAD_NEWLINE_ANY, "a\x1b[1;5Ab\x1bOAc\r", "abc|", "abc\r\n"},
        {WAD_NEWLINE_ANY, WAD_NEWLINE_ANY, "123456789\r", "1234567|", "1234567\a\a\r\n"},
    };
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(cases); i++) {
        wad_line line;
        GString *lines = g_string_new(NULL);
        echoed = g_string_new(NULL);
        wad_line_open(&line, typed, 8, note, &typed);
        line.in = cases[i].in;
        line.out = cases[i].out;
        for (const char *p = cases[i].keys; *p; p++) {
            int n = wad_line_feed(&line, *p);
            if (n >= 0) {
                assert_int_equal(n, strlen(typed));
                g_string_append_printf(lines, "%s|", typed);
            }
        }
        if (strcmp(lines->str, cases[i].lines) || strcmp(echoed->str, cases[i].echo))
            fail_msg("case %u: lines '%s', echo '%s'", i, lines->str, echoed->str);
        g_string_free(lines, TRUE);
        g_string_free(echoed, TRUE);
    }
}

static void a_password_is_not_shown(void **state)
{
    wad_line line;
    (void)state;
    echoed = g_string_new(NULL);
    wad_line_open(&line, typed, sizeof typed, note, &typed);
    line.hidden = '*';
    for (const char *p = "tide\b\r"; *p; p++)
        (void)wad_line_feed(&line, *p);
    assert_string_equal(typed, "tid");
    assert_string_equal(echoed->str, "****\b \b\r\n");
    g_string_truncate(echoed, 0);
    line.echo = false;
    for (const char *p = "x\r"; *p; p++)
        (void)wad_line_feed(&line, *p);
    assert_string_equal(echoed->str, "");
    g_string_free(echoed, TRUE);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(callbacks_begin_the_next_transfer),
        cmocka_unit_test(receptions_end_where_they_should),
        cmocka_unit_test(waiting_ends_by_byte_by_gap_and_by_time),
        cmocka_unit_test(nine_bits_pass),
        cmocka_unit_test(errors_stand_beside_their_word),
        cmocka_unit_test(two_ports_do_not_mix),
        cmocka_unit_test(the_baud_changes_while_the_port_is_used),
        cmocka_unit_test(a_port_that_works_is_opened_anew),
        cmocka_unit_test(a_port_is_closed_and_opened_otherwise),
        cmocka_unit_test(lines_are_taken_as_there_is_room),
        cmocka_unit_test(a_flush_forgets_what_waits),
        cmocka_unit_test(a_line_is_edited),
        cmocka_unit_test(a_password_is_not_shown),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
