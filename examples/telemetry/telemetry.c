/* SPDX-License-Identifier: MIT */
/*
 * Telemetry of the tide gauge: a sentence every second at 115 200 baud, by interrupt, while a
 * command line answers on the same port: help, rate N (sentences a second), read 0xADDRESS,
 * dump (the receive buffer).
 */
#include <string.h>

#include <wadium/alarm.h>
#include <wadium/irq.h>
#include <wadium/print.h>
#include <wadium/uart.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

static wad_timebase base;
static wad_alarms alarms;
static wad_alarm beat;
static wad_uart link;
static uint8_t in[128], out[1024];
static volatile bool due;
static int32_t level_mm = 2310;

void handle_BASE(void);
void handle_BASE(void)
{
    wad_alarms_handle(&alarms);
}

void handle_UART0(void);
void handle_UART0(void)
{
    wad_uart_handle(&link);
}

static void tell(void *context)
{
    (void)context;
    due = true;
}

static void put(char c, void *context)
{
    (void)context;
    (void)wad_uart_write(&link, &c, 1);
}

/* $TIDE,2.310*1e: the sum of all between $ and *, as sentences at sea end. */
static void sentence(void)
{
    char text[40];
    uint8_t sum = 0;
    (void)wad_format(text, sizeof text, "TIDE,%.3d", (int)level_mm);
    for (const char *p = text; *p; p++)
        sum = (uint8_t)(sum ^ (uint8_t)*p);
    wad_print(put, NULL, "$%s*%02x\r\n", text, (unsigned)sum);
    level_mm += 7;
}

/* ---- the command line ---- */

static uint32_t number(const char **p)
{
    uint32_t value = 0, radix = 10;
    while (**p == ' ')
        ++*p;
    if ((*p)[0] == '0' && (*p)[1] == 'x') {
        radix = 16;
        *p += 2;
    }
    for (;; ++*p) {
        uint32_t digit = **p >= '0' && **p <= '9'   ? (uint32_t)(**p - '0')
                         : **p >= 'a' && **p <= 'f' ? (uint32_t)(**p - 'a') + 10u
                                                    : 99u;
        if (digit >= radix)
            return value;
        value = value * radix + digit;
    }
}

static void obey(const char *line)
{
    if (!strncmp(line, "rate ", 5)) {
        const char *p = line + 5;
        uint32_t hz = number(&p);
        wad_status st =
            hz && hz <= 10 ? wad_alarm_every(&alarms, &beat, WAD_HZ(hz), tell, NULL) : WAD_E_RANGE;
        wad_print(put, NULL, st == WAD_OK ? "%u a second\r\n" : "not %u: 1 to 10\r\n",
                  (unsigned)hz);
    } else if (!strncmp(line, "read ", 5)) {
        const char *p = line + 5;
        uint32_t address = number(&p);
        wad_print(put, NULL, "%08x: %08x\r\n", (unsigned)address,
                  (unsigned)wad_port_read32(address, 0));
    } else if (!strcmp(line, "dump")) {
        wad_print_memory(put, NULL, in, 32, 0);
    } else if (!strcmp(line, "help")) {
        wad_print(put, NULL, "help, rate N, read 0xADDRESS, dump\r\n");
    } else if (*line) {
        wad_print(put, NULL, "? %s\r\n", line);
    }
}

int main(void)
{
    const wad_uart_config config = {
        .baud = 115200, .tx = CORRAN32_ROUTE_UART0_TX_PA9, .rx = CORRAN32_ROUTE_UART0_RX_PA10};
    char line[64];
    wad_status st = wad_timebase_open(&base, &corran32_base, 1000000, NULL);
    if (st == WAD_OK)
        st = wad_alarms_open(&alarms, &base, 0, 2);
    if (st == WAD_OK)
        st = wad_alarm_every(&alarms, &beat, WAD_HZ(1), tell, NULL);
    if (st == WAD_OK)
        st = wad_uart_open(&link, &corran32_uart0, &config, NULL);
    if (st == WAD_OK)
        st = wad_uart_background(&link, in, sizeof in, out, sizeof out, 1);
    if (st != WAD_OK)
        return (int)st;
    wad_irq_global_on();
    for (;;) {
        if (due) {
            due = false;
            sentence();
        }
        if (wad_uart_read_line(&link, line, sizeof line, '\r') >= 0)
            obey(line);
        wad_port_sleep();
    }
}
