/* SPDX-License-Identifier: MIT */
/*
 * The water's temperature every 250 ms, by interrupt: an alarm asks the thermometer for the result
 * of the last conversion, the answer's handler starts the next one, and main sleeps in between. A
 * result is taken only when it is ready and its checksum is right.
 *
 * WARN: the last turn brought none.
 */
#include <wadium/check.h>
#include <wadium/irq.h>
#include <wadium/pin.h>
#include <wadium/print.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

/* The thermometer: read and checksum beside the register's number. */
#define READ     0x80u
#define WITH_CRC 0x40u
enum { STAT = 1, CTRL = 2, DEGH = 3 };

static const wad_timebase base = {&corran32_base, .clock_hz = 8000000, .hz = 1000000};
static const wad_alarms alarms = {&base, .channel = 0, .priority = 1, .list = &(wad_alarm_list){0}};
static wad_alarm turn;
static const wad_spi bus = {&corran32_spi0,
                            .clock_hz = 8000000,
                            .clock = CORRAN32_ROUTE_SPI0_SCK_PB13,
                            .mosi = CORRAN32_ROUTE_SPI0_MOSI_PB15,
                            .miso = CORRAN32_ROUTE_SPI0_MISO_PB14,
                            .jobs = &(wad_spi_jobs){0},
                            .priority = 1};
static const wad_spi_device thermo = {&bus, .hz = 4000000, .select = CORRAN32_ROUTE_SPI0_CS0_PB12,
                                      .setup = 1, .hold = 1};
static uint8_t out[128];
static const wad_uart link = {&corran32_uart0,      .clock_hz = 8000000,
                              .baud = 115200,       .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .out = WAD_RING(out), .priority = 2};

static const uint8_t ask_status[] = {READ | STAT}, ask_degrees[] = {READ | WITH_CRC | DEGH},
                     begin[] = {CTRL, 1};
static uint8_t status[1], degrees[3];

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1, 0);
}

void handle_BASE(void);
void handle_BASE(void)
{
    wad_alarms_handle(&alarms);
}

void handle_SPI0(void);
void handle_SPI0(void)
{
    wad_spi_handle(&bus);
}

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&link);
}

static void fail(const char *why)
{
    wad_pin_write(SKERRY_WARN, true);
    wad_print(put, NULL, "no temperature: %s\r\n", why);
}

/* ---- one turn: status, degrees, the next conversion; each begins the one after it ---- */

static wad_spi_job start = {.device = &thermo, .out = begin, .n_out = 2};

static void submit(wad_spi_job *job)
{
    if (wad_spi_submit(job) != WAD_OK)
        fail("the last turn has not ended");
}

static void on_degrees(wad_spi_job *job, wad_status st)
{
    uint8_t crc = wad_crc8(wad_crc8(WAD_CRC8_START, ask_degrees, 1), degrees, 2);
    (void)job;
    if (st != WAD_OK || crc != degrees[2]) {
        fail("checksum");
    } else {
        int32_t value = (int16_t)(uint16_t)(degrees[0] << 8 | degrees[1]); /* 1/256 degree */
        wad_pin_write(SKERRY_WARN, false);
        wad_print(put, NULL, "water %.3d C\r\n", (int)(value * 1000 / 256));
    }
    submit(&start);
}

static wad_spi_job read_degrees = {.device = &thermo,
                                   .out = ask_degrees,
                                   .n_out = 1,
                                   .in = degrees,
                                   .n_in = 3,
                                   .skip = 1,
                                   .done = on_degrees};

static void on_status(wad_spi_job *job, wad_status st)
{
    (void)job;
    if (st == WAD_OK && status[0] == 1) {
        submit(&read_degrees);
        return;
    }
    fail(status[0] == 0xFF ? "no thermometer answers" : "not ready");
    submit(&start);
}

static wad_spi_job read_status = {.device = &thermo,
                                  .out = ask_status,
                                  .n_out = 1,
                                  .in = status,
                                  .n_in = 1,
                                  .skip = 1,
                                  .done = on_status};

static void begin_turn(void *context)
{
    (void)context;
    submit(&read_status);
}

/* ---- set-up ---- */

static wad_status open_bus(void)
{
    wad_status st = wad_pin_output(SKERRY_STORE_CS, true); /* the other one stays out of it */
    if (st == WAD_OK)
        st = wad_pin_input(SKERRY_THERMO_MISO, WAD_PULL_UP);
    if (st == WAD_OK)
        st = wad_spi_open(&bus);
    return st == WAD_OK ? wad_spi_add(&thermo) : st;
}

static wad_status open(void)
{
    wad_status st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_timebase_open(&base);
    if (st == WAD_OK)
        st = wad_uart_open(&link);
    if (st == WAD_OK)
        st = open_bus();
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms);
    return st == WAD_OK ? wad_alarm_every(&alarms, &turn, WAD_HZ(4), begin_turn, NULL) : st;
}

int main(void)
{
    if (open() != WAD_OK) {
        wad_pin_write(SKERRY_WARN, true);
        return 1;
    }
    submit(&start); /* the first conversion */
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
