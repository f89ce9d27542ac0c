/* SPDX-License-Identifier: MIT */
/* The SPI port of whatever chip, over a jumper: every form that it has, waited for and by
 * interrupt. LEVEL1: all of them came back; WARN: something did not. */
#include <wadium/check.h>
#include <wadium/irq.h>
#include <wadium/pin.h>
#include <wadium/watchdog.h>

#include EXCHANGE_CHIP
#include EXCHANGE_PINS

#define N 6u

static const wad_timebase base = {.unit = &EXCHANGE_TIME};
static const wad_spi bus = {&EXCHANGE_SPI,         .clock = EXCHANGE_SCK,
                            .mosi = EXCHANGE_MOSI, .miso = EXCHANGE_MISO,
                            .time = &base,         .jobs = &(wad_spi_jobs){0}};
static wad_spi_device device;
static uint32_t out[N], in[N], seed = 5, cases, wrong;

void handle_SPI0(void);
void handle_SPI0(void)
{
    wad_spi_handle(&bus);
}

static wad_status exchange(bool by_interrupt)
{
    static wad_spi_job job;
    job = (wad_spi_job){.device = &device, .out = out, .n_out = N, .in = in, .n_in = N};
    if (!by_interrupt)
        return wad_spi_run(&job, 1000000);
    wad_status st = wad_spi_submit(&job);
    while (st == WAD_OK && job.state != WAD_SPI_OVER)
        wad_port_cycles(50);
    return st == WAD_OK ? job.status : st;
}

static void one(uint8_t mode, bool lsb, uint8_t bits, bool by_interrupt)
{
    device = (wad_spi_device){&bus, .hz = 1000000, .mode = mode, .bits = bits, .lsb_first = lsb};
    wad_status st = wad_spi_add(&device);
    if (st == WAD_E_ABSENT) /* not this chip */
        return;
    for (unsigned i = 0; i < N; i++) { /* random in all bytes of them */
        seed = seed * 1664525u + 1013904223u;
        out[i] = seed ^ seed >> 16;
    }
    if (st == WAD_OK)
        st = exchange(by_interrupt);
    if (st == WAD_OK)
        st = wad_check_exchange(out, in, N, bits, NULL);
    cases++;
    wrong += st != WAD_OK;
}

int main(void)
{
    wad_status st = WAD_OK;
#ifdef EXCHANGE_DOG
    st = wad_watchdog_stop();
#endif
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_spi_open(&bus);
    if (st == WAD_OK)
        st = wad_pin_output(EXCHANGE_WARN, false);
    if (st == WAD_OK)
        st = wad_pin_output(EXCHANGE_LEVEL, false);
    if (st != WAD_OK)
        return (int)st + 1;
    wad_irq_global_on();
    for (uint8_t mode = 0; mode < 4; mode++)
        for (uint8_t bits = 4; bits <= 32; bits++)
            for (unsigned how = 0; how < 4; how++)
                one(mode, how & 1u, bits, how & 2u);
    wad_pin_write(EXCHANGE_WARN, wrong != 0);
    wad_pin_write(EXCHANGE_LEVEL, !wrong && cases == EXCHANGE_CASES);
    for (;;)
        wad_port_sleep();
}
