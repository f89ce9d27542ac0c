/* SPDX-License-Identifier: MIT */
/* How far off a sender may be, for each way to divide a clock to a baud: found by simulation,
 * compared with theory, and with the table of docs/uart.md. WADIUM_TABLE=1 prints that table. */
#include <math.h>
#include <string.h>

#include "corran32_sheet.h"
#include "wadium/clock.h"
#include "wadium/host/model.h"
#include "wadium/pin.h"

#include "corran32_roles.h"

#define S     WAD_PS_PER_S
#define PORT  CORRAN32_UART0_BASE
#define R     corran32_serial_roles
#define BYTES 150u

typedef struct scheme {
    const char *name;
    unsigned samples, parts; /* of a divider step: 1, 8 or 32 */
} scheme;

static const scheme schemes[] = {{"integer, 16 samples", 16, 1},
                                 {"integer, 8 samples", 8, 1},
                                 {"eighths, 16 samples", 16, 8},
                                 {"32nds, 16 samples", 16, 32},
                                 {"32nds, 8 samples", 8, 32}};
static const unsigned clocks[] = {7372800, 8000000, 12000000};
static const unsigned bauds[] = {9600, 115200, 230400};

static wad_sim *sim;

/* ---- the chip: written by register, so that each scheme is what it says ---- */

static uint32_t divider; /* in 32nds */
static unsigned samples;
static uint32_t n_came, wrong;

static uint8_t sent_as(uint32_t i)
{
    return (uint8_t)((i * 2654435761u) >> 24);
}

static int listen_main(void)
{
    wad_block_up(&corran32_uart0.block, 1000);
    wad_put(PORT, R.enable, 0);
    wad_put(PORT, R.over, samples == 8 ? R.over_x8 : R.over_x16);
    wad_put(PORT, R.divider, divider >> 5);
    wad_put(PORT, R.divider_fraction, divider & 31);
    (void)!wad_pin_route(CORRAN32_ROUTE_UART0_RX_PA10);
    wad_put(PORT, R.rx_enable, 1);
    wad_put(PORT, R.enable, 1);
    for (;;) {
        if (!wad_get(PORT, R.rx_level)) {
            wad_port_cycles(200);
            continue;
        }
        uint32_t word = wad_port_read32(PORT, 0x10);
        wrong += (word & 0x70FF) != sent_as(n_came);
        n_came++;
    }
    return 0;
}

/* ---- the sender: bytes without gaps, its bits `share` too short ---- */

static wad_event event;
static double bit_ps, began;
static uint32_t n_sent, levels;
static unsigned bit;

static void on_bit(wad_event *e)
{
    if (bit == 10) {
        bit = 0;
        began += 10 * bit_ps;
        n_sent++;
    }
    if (n_sent == BYTES)
        return;
    levels = (uint32_t)sent_as(n_sent) << 1 | 0x200;
    wad_sim_drive(sim, wad_sheet_pin(sheet, "PA10"), levels >> bit & 1 ? WAD_HIGH : WAD_LOW);
    bit++;
    wad_sim_schedule(sim, e, (uint64_t)(began + bit * bit_ps));
}

static void begin(wad_sim *s, void *ctx)
{
    (void)ctx;
    wad_sim_drive(s, wad_sheet_pin(sheet, "PA10"), WAD_HIGH);
    began = (double)wad_sim_now(s) + 20 * bit_ps;
    wad_sim_schedule(s, &event, (uint64_t)began);
}

static bool decodes(unsigned clock, unsigned baud, double share)
{
    char *why;
    event = (wad_event){.fn = on_bit};
    bit_ps = 1e12 / (baud * (1 + share));
    n_sent = bit = n_came = wrong = 0;
    sim = wad_sim_new(sheet, &why);
    assert_true(wad_sim_set_clock_error(sim, wad_sheet_clock(sheet, "internal"),
                                        (wad_rational){(int64_t)clock - 8000000, 8000000}));
    wad_sim_at(sim, S / 1000, begin, NULL);
    wad_sim_attach(sim, listen_main, NULL, 0);
    wad_sim_run(sim, S / 1000 + (uint64_t)((BYTES + 6) * 10 * bit_ps));
    wad_sim_free(sim);
    return n_came == BYTES && !wrong;
}

/* The furthest share on one side of `good` that decodes, to a tenth of a percent. */
static double furthest(unsigned clock, unsigned baud, double good, double step)
{
    double last = good;
    while (fabs(last + step - good) < 0.12 && decodes(clock, baud, last + step))
        last += step;
    return last;
}

/* ---- the table ---- */

static void check_row(const scheme *s, unsigned clock, unsigned baud, const char *document)
{
    double steps = (double)clock / baud / s->samples * s->parts;
    uint32_t n = (uint32_t)(steps + 0.5);
    n = n < s->parts ? s->parts : n; /* a divider of 1 at least */
    divider = n * (32 / s->parts);
    samples = s->samples;
    double own = (double)clock * 32 / divider / s->samples, error = own / baud - 1;
    /* the next start bit must not begin before it is looked for, the stop bit must by its middle */
    double fast = (1 + error) * 10 / (9.5 + 2.0 / s->samples) - 1;
    double slow = (1 + error) * 9 / 9.5 - 1;
    char row[200], none[200];
    /* a sender at our own rate is understood, wherever that is */
    double centre = round(error * 1000) / 1000;
    if (!decodes(clock, baud, centre))
        fail_msg("%s, %u, %u: not even its own rate", s->name, clock, baud);
    double most = furthest(clock, baud, centre, 0.001);
    double least = furthest(clock, baud, centre, -0.001);
    if (fabs(most - fast) > 0.0025 || fabs(least - slow) > 0.0025)
        fail_msg("%s, %u, %u: %+.2f %% to %+.2f %%, in theory %+.2f %% to %+.2f %%", s->name, clock,
                 baud, least * 100, most * 100, slow * 100, fast * 100);
    g_snprintf(
        row, sizeof row,
        "| %s | %.5g MHz | %u | %.5g | %+.2f %% | %+.1f %% to %+.1f %% | %+.1f %% to %+.1f %% |",
        s->name, clock / 1e6, baud, divider / 32.0, error * 100, least * 100, most * 100,
        slow * 100, fast * 100);
    g_snprintf(none, sizeof none, "%s%s", row, least > 0 || most < 0 ? " no |" : " yes |");
    if (g_getenv("WADIUM_TABLE"))
        printf("%s\n", none);
    else if (!strstr(document, none))
        fail_msg("docs/uart.md has no row '%s' (WADIUM_TABLE=1 prints all)", none);
}

static void simulation_theory_and_the_document_agree(void **state)
{
    char *document;
    (void)state;
    assert_true(g_file_get_contents(SOURCE_DIR "/docs/uart.md", &document, NULL, NULL));
    for (unsigned c = 0; c < G_N_ELEMENTS(clocks); c++)
        for (unsigned b = 0; b < G_N_ELEMENTS(bauds); b++)
            for (unsigned s = 0; s < G_N_ELEMENTS(schemes); s++)
                check_row(&schemes[s], clocks[c], bauds[b], document);
    g_free(document);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(simulation_theory_and_the_document_agree),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
