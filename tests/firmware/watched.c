/* SPDX-License-Identifier: MIT */
/* Variables of every kind, and something that goes on: a timer a thousand times a second, a button,
 * the lamp that follows it. */
#include <wadium/irq.h>
#include <wadium/pin.h>

#include <corran32_roles.h>
#include <skerry_pins.h>

enum tide { TIDE_LOW, TIDE_HIGH = 5, TIDE_FALLING };

typedef struct reading {
    uint16_t raw;
    int8_t drift;
    struct {
        unsigned gain : 3;
        unsigned channel : 5;
        int offset : 4;
    } bits;
} reading;

/* looked at from outside only */
#define USED __attribute__((used))

static volatile uint32_t ticks;
static volatile uint16_t samples[16];
static volatile enum tide tide = TIDE_HIGH;
USED static volatile reading last = {4095, -7, {5, 17, -3}};
USED static volatile int grid[2][3] = {{1, 2, 3}, {4, -5, 6}};
USED static volatile reading kept[2] = {{1, 2, {3, 4, 5}}, {6, 7, {1, 2, -1}}};
static volatile bool pressed;
USED static volatile float ratio = 0.25f;
USED static volatile char name[12] = "mole";
USED static volatile uint64_t wide = 0x123456789ABCDEF0u;
static volatile uint32_t *where = &ticks;
static void tick(void *context);
static const wad_timer pace = {&corran32_cnt0, .clock_hz = 8000000, .rate = WAD_RATE_HZ(1000),
                               .on_wrap = tick, .priority = 1};
static const volatile uint16_t fixed = 77;

void handle_CNT0(void);
void handle_CNT0(void)
{
    wad_timer_handle(&pace);
}

static void tick(void *context)
{
    static volatile uint8_t turn;
    (void)context;
    samples[ticks % 16u] = (uint16_t)(ticks * 3u);
    ticks++;
    turn++;
    tide = ticks % 2u ? TIDE_FALLING : TIDE_HIGH;
}

int main(void)
{
    wad_status st = wad_pin_output(SKERRY_WARN, false);
    if (st == WAD_OK)
        st = wad_pin_input(SKERRY_TEST, WAD_PULL_UP);
    if (st == WAD_OK)
        st = wad_timer_open(&pace);
    if (st != WAD_OK || *where != fixed - 77u)
        return 1;
    wad_timer_start(&pace);
    wad_irq_global_on();
    for (;;) {
        wad_port_sleep();
        pressed = wad_pin_read(SKERRY_TEST) == SKERRY_TEST_ACTIVE;
        wad_pin_write(SKERRY_WARN, pressed);
    }
}
