/* SPDX-License-Identifier: MIT */
/* Mistakes with DMA controllers, chosen by WRONG, and with RIGHT the same task done well. */
#include <wadium/dma.h>
#include <wadium/irq.h>

#include "corran32_roles.h"

#ifndef RIGHT
#define RIGHT 0
#endif
/* The one or the other. */
#define PICK(wrong, right) (RIGHT ? (right) : (wrong))
#define IS(number)         (WRONG == (number))

#define DMA CORRAN32_DMA0_BASE
#define R   corran32_dma_roles

enum {
    EN = 1,
    BYTE = 0,
    HALF = 2,
    WORD = 4,
    SSTEP = 8,
    DSTEP = 16,
    CHAIN = 1 << 11,
    WRAPDST = 1 << 19,
    REPEAT = 1 << 22,
    IRQHALF = 1 << 24,
    IRQEND = 1 << 25
};
#define REQ(code)     ((uint32_t)(code) << 5)
#define NEXT(channel) ((uint32_t)(channel) << 12)
#define WINDOW(bits)  ((uint32_t)(bits) << 15)

static wad_timer pace;
static _Alignas(64) uint16_t halfs[16], more[16], behind[64];
static _Alignas(32) uint8_t bytes[32], spare[32];
static volatile unsigned ends;

static void set(unsigned channel, const volatile void *from, const volatile void *to, uint32_t n)
{
    wad_put(DMA, wad_at(R.source, channel), wad_port_bus_address(from));
    wad_put(DMA, wad_at(R.destination, channel), wad_port_bus_address(to));
    wad_put(DMA, wad_at(R.count, channel), n);
}

/* A macro, so that the place is the caller's line. */
#define go(channel, control) wad_port_write32(DMA, (channel)*0x20 + 0x0C, (control))

#define REGISTER(base, field) ((const volatile void *)((base) + (field).off))

static void wait_end(unsigned channel)
{
    for (unsigned polls = 1000; polls && !wad_get(DMA, wad_at(R.end, channel)); polls--) {
    }
}

static void clear_end(unsigned channel)
{
    wad_clear(DMA, wad_at(R.end, channel));
}

static void begin_pace(uint32_t hz)
{
    pace = (wad_timer){&corran32_cnt1, .rate = {hz, 1}};
    if (wad_timer_open(&pace) == WAD_OK)
        wad_timer_start(&pace);
}

#define BY_PACE REQ(CORRAN32_REQUEST_DMA0_CNT1_WRAP)
#define BY_ADC  REQ(CORRAN32_REQUEST_DMA0_ADC0_DONE)
#define BY_RX   REQ(CORRAN32_REQUEST_DMA0_UART0_RX_READY)
#define BY_TX   REQ(CORRAN32_REQUEST_DMA0_UART0_TX_READY)

void handle_DMA0(void);
void handle_DMA0(void)
{
    ends++;
    if (IS(1208))
        wad_port_cycles(PICK(200000, 20));
    wad_clear(DMA, wad_at(R.half, 0));
    clear_end(0);
    if (IS(1211)) {
        wad_port_cycles(1000);
        if (!RIGHT)
            wad_put(DMA, wad_at(R.enable, 0), 0);
    }
}

/* A ring that nobody has to read for these. */
static void to_memory(uint32_t control)
{
    wad_irq_global_on();
    (void)!wad_irq_enable(corran32_dma0.irq, 1);
    set(0, &bytes[0], more, 16);
    go(0, EN | HALF | DSTEP | control); /* here 1208 1211 1218 */
}

/* ---- data registers ---- */

static const wad_uart port = {&corran32_uart0, .clock_hz = 8000000, .baud = 115200,
                              .tx = CORRAN32_ROUTE_UART0_TX_PA9,
                              .rx = CORRAN32_ROUTE_UART0_RX_PA10};
static const wad_adc adc = {&corran32_adc0, .clock_hz = 8000000, .bits = 12};
static const wad_adc_input level = {&adc, .channel = 4, .route = CORRAN32_ROUTE_ADC0_IN4_PA4};

static void open_port(void)
{
    (void)!wad_uart_open(&port);
}

static void send(void)
{
    open_port();
    if (!IS(1214) || RIGHT)
        wad_put(CORRAN32_UART0_BASE, corran32_serial_roles.tx_dma, 1);
    set(1, IS(1216) && !RIGHT ? (void *)halfs : (void *)bytes,
        REGISTER(CORRAN32_UART0_BASE, corran32_serial_roles.tx_data), 16);
    go(1, EN | BYTE | SSTEP | (IS(1202) ? PICK(DSTEP, 0) : 0) | BY_TX); /* here 1202 1214 1216 */
    if (IS(1209)) {
        set(2, spare, RIGHT ? more : REGISTER(CORRAN32_UART0_BASE, corran32_serial_roles.tx_data),
            16);
        go(2, EN | BYTE | SSTEP | PICK(BY_TX, REQ(0))); /* here 1209 */
    }
}

static void convert(void)
{
    const wad_adc_roles a = corran32_converter_roles;
    uintptr_t base = CORRAN32_ADC0_BASE;
    bool late = IS(1210) && !RIGHT;
    (void)!wad_adc_open(&adc);
    (void)!wad_adc_add(&level);
    wad_put(base, a.calibrate, 1);
    while (!wad_get(base, a.calibrated)) {
    }
    wad_put(base, wad_at(a.channel, 0), 4);
    if (!IS(1215) || RIGHT)
        wad_put(base, a.dma_keep, 1);
    wad_put(base, a.trigger, CORRAN32_TRIGGER_ADC0_CNT1_WRAP);
    wad_put(base, a.trigger_edge, 1);
    if (late) {
        wad_put(base, a.dma_on, 1);
        begin_pace(1000);
        wad_port_cycles(10000);
    }
    bool narrow = IS(1201) && !RIGHT, ring = !IS(1212) || RIGHT;
    set(0, REGISTER(base, a.data), narrow ? (void *)bytes : (void *)halfs, 16);
    go(0, EN | (narrow ? BYTE : HALF) | DSTEP | BY_ADC | /* here 1201 1210 1212 1215 */
              (ring ? REPEAT | WRAPDST | WINDOW(narrow ? 4 : 5) : 0));
    if (late)
        return;
    wad_put(base, a.dma_on, 1);
    begin_pace(1000);
    wad_port_cycles(20 * 8000); /* 20 results */
}

/* ---- memory ---- */

static void __attribute__((noinline)) from_the_stack(void)
{
    static uint16_t kept[16];
    volatile uint16_t own[16];
    own[0] = 1;
    set(0, RIGHT ? kept : own, more, 16);
    go(0, EN | HALF | SSTEP | DSTEP | BY_PACE); /* here 1207 */
}

static volatile uint32_t deep;

static void __attribute__((noinline)) something_else(void)
{
    for (unsigned i = 0; i < 1000; i++)
        deep = deep + i;
    wad_port_cycles(80000);
}

static void act(void)
{
    if (IS(1201) || IS(1210) || IS(1212) || IS(1215)) {
        convert();
    } else if (IS(1202) || IS(1209) || IS(1214) || IS(1216)) {
        send();
    } else if (IS(1203)) {
        set(0, behind, halfs, PICK(32, 16));
        go(0, EN | HALF | SSTEP | DSTEP); /* here 1203 */
    } else if (IS(1204)) {
        set(0, behind, &halfs[8], PICK(12, 8));
        go(0, EN | HALF | SSTEP | DSTEP); /* here 1204 */
    } else if (IS(1205)) {
        set(0, halfs, PICK(&behind[8], &behind[32]), 16);
        go(0, EN | HALF | SSTEP | DSTEP | WRAPDST | WINDOW(6)); /* here 1205 */
    } else if (IS(1206)) {
        set(0, &behind[PICK(0, 4)], &behind[PICK(4, 0)], 16);
        go(0, EN | HALF | SSTEP | DSTEP); /* here 1206 */
    } else if (IS(1207)) {
        from_the_stack();
        begin_pace(5000);
        something_else();
    } else if (IS(1208) || IS(1211)) {
        to_memory(REPEAT | WRAPDST | WINDOW(5) | IRQEND | BY_PACE | (IS(1208) ? IRQHALF : 0));
        if (IS(1211) && RIGHT)
            go(0, EN | HALF | DSTEP | IRQEND | BY_PACE);
        begin_pace(1000);
    } else if (IS(1213)) {
        for (unsigned i = 0; i < 3; i++) {
            set(0, behind, halfs, 16);
            go(0, EN | HALF | SSTEP | DSTEP); /* here 1213 */
            wait_end(0);
            if (RIGHT)
                clear_end(0);
        }
    } else if (IS(1217)) {
        set(0, behind, halfs, 16);
        for (unsigned i = 0; i < 2; i++) {
            go(0, EN | HALF | SSTEP | DSTEP); /* here 1217 */
            wait_end(0);
            clear_end(0);
            if (RIGHT)
                set(0, behind, halfs, 16);
        }
    } else if (IS(1218)) {
        to_memory(BY_PACE);
        begin_pace(1000);
        wad_port_cycles(40000);
        wad_put(DMA, wad_at(R.pause, 0), 1);
        wad_port_cycles(40000);
        wad_put(DMA, wad_at(R.pause, 0), PICK(1, 0));
    } else if (IS(1219)) {
        set(1, bytes, spare, 16);
        set(0, behind, halfs, 16);
        go(0, EN | HALF | SSTEP | DSTEP | CHAIN | NEXT(PICK(0, 1))); /* here 1219 */
    } else if (IS(1220)) {
        set(0, behind, PICK(&bytes[1], &bytes[2]), 4);
        go(0, EN | HALF | SSTEP | DSTEP); /* here 1220 */
    } else if (IS(1221)) {
        set(0, behind, RIGHT ? (void *)halfs : (void *)(uintptr_t)0x30000000u, 16);
        go(0, EN | HALF | SSTEP | DSTEP); /* here 1221 */
    } else if (IS(1222)) {
        set(0, behind, halfs, PICK(0, 16));
        go(0, EN | HALF | SSTEP | DSTEP); /* here 1222 */
    } else {
        set(0, behind, more, 64);
        set(1, bytes, spare, 32);
        set(2, halfs, halfs, 16);
        wad_put(DMA, wad_at(R.pause, 0), 0);
        go(2, EN | HALF | SSTEP | BY_PACE); /* here 1223 */
        begin_pace(PICK(1000000, 20000));
        for (unsigned i = 0; i < 20; i++) {
            set(0, behind, &behind[32], 32);
            go(0, EN | BYTE | SSTEP);
            set(1, bytes, spare, 32);
            go(1, EN | BYTE | SSTEP);
            wad_port_cycles(400);
            clear_end(0);
            clear_end(1);
        }
    }
}

int main(void)
{
    (void)!wad_block_up(&corran32_dma0, 1000);
    act();
    for (;;)
        wad_port_sleep();
}
