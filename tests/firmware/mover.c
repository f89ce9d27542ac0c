/* SPDX-License-Identifier: MIT */
/* The DMA controller of whatever chip: copies, fills, a ring paced by a timer, lists, an abort.
 * LEVEL1: all of it was right; WARN: something was not. */
#include <wadium/dma.h>
#include <wadium/irq.h>
#include <wadium/pin.h>

#include MOVER_CHIP
#include MOVER_PINS

static wad_dma_mover mover;
static wad_dma one, other;
static const wad_timer pace = {&MOVER_TIMER, .rate = WAD_RATE_HZ(5000), .within_ppm = 100000};
static _Alignas(4) uint8_t from[128], to[128];
static uint16_t ring[12], word = 0x5AC3;
static _Alignas(16) wad_dma_settings room[3];
static volatile unsigned over, halves;
static volatile wad_status how;
static volatile size_t moved;
static unsigned cases, wrong;
static uint32_t seed = 3;

void handle_DMA0(void);
void handle_DMA0(void)
{
    wad_dma_handle(&mover);
}

static void on_done(void *context, wad_status status, size_t n)
{
    (void)context;
    over++;
    how = status;
    moved = n;
}

static void on_half(void *context, unsigned half)
{
    (void)context;
    halves = half == halves % 2u ? halves + 1u : 1000u;
}

static uint32_t any(uint32_t n)
{
    seed = seed * 1664525u + 1013904223u;
    return (seed >> 16) % n;
}

static void check(bool good)
{
    cases++;
    wrong += !good;
}

static bool wait_for(unsigned n)
{
    for (unsigned polls = 2000; polls && over < n; polls--)
        wad_port_cycles(20);
    return over == n && how == WAD_OK;
}

static bool same(const uint8_t *a, const uint8_t *b, size_t n)
{
    while (n && *a == *b) {
        a++;
        b++;
        n--;
    }
    return !n;
}

static void copy_any(void)
{
    size_t a = any(40), b = any(40), n = 1u + any(80);
    for (unsigned i = 0; i < sizeof from; i++) {
        from[i] = (uint8_t)any(256);
        to[i] = 0xEE;
    }
    over = 0;
    check(wad_dma_copy(&one, to + b, from + a, n, on_done, NULL) == WAD_OK && wait_for(1) &&
          same(to + b, from + a, n) && (!b || to[b - 1] == 0xEE) && to[b + n] == 0xEE);
}

static void fill(void)
{
    over = 0;
    check(wad_dma_fill(&one, to + 3, 0x77, 50, on_done, NULL) == WAD_OK && wait_for(1) &&
          to[3] == 0x77 && to[52] == 0x77);
}

static void list(wad_dma *loader)
{
    wad_dma_transfer pieces[] = {{.source = from, .destination = to + 64, .n = 10, .bytes = 1},
                                 {.source = from + 64, .destination = to, .n = 6, .bytes = 2},
                                 {.source = &word,
                                  .destination = ring,
                                  .n = 12,
                                  .bytes = 2,
                                  .flags = WAD_DMA_SOURCE_STAYS,
                                  .done = on_done}};
    over = 0;
    check(wad_dma_list(&one, loader, pieces, room, 3) == WAD_OK && wait_for(1) && moved == 28 &&
          same(to + 64, from, 10) && same(to, from + 64, 12) && ring[11] == word);
}

static void go_round(wad_dma *partner)
{
    wad_dma_transfer t = {.source = &word,
                          .destination = ring,
                          .n = 12,
                          .bytes = 2,
                          .flags = WAD_DMA_SOURCE_STAYS | WAD_DMA_RING,
                          .partner = partner,
                          .half = on_half,
                          .done = on_done};
    over = halves = 0;
    ring[0] = ring[11] = 0;
    check(wad_dma_start(&one, &t) == WAD_OK);
    wad_timer_start(&pace);
    while (wad_dma_position(&one) < 65u) {
    }
    uint64_t at = wad_dma_position(&one);
    check(at >= 65u && at < 68u && halves == 10u && ring[0] == word && ring[11] == word);
    check(wad_dma_abort(&one) == WAD_OK && over == 1 && how == WAD_E_STATE && moved >= 65u);
    wad_timer_stop(&pace);
}

static void begin(void)
{
    wad_status st = wad_pin_output(MOVER_WARN, true);
    if (st == WAD_OK)
        st = wad_pin_output(MOVER_LEVEL, false);
    if (st == WAD_OK)
        st = wad_dma_open(&mover, &MOVER_BLOCK, 0);
    if (st == WAD_OK)
        st = wad_timer_open(&pace);
    check(st == WAD_OK);
    wad_irq_global_on();
}

int main(void)
{
    begin();
    check(wad_dma_claim(&mover, &one, WAD_DMA_AT_ONCE, "copies") == WAD_OK);
    for (unsigned i = 0; i < 100; i++)
        copy_any();
    fill();
#ifdef MOVER_LOADS /* from memory, by itself */
    list(NULL);
    wad_dma_release(&one);
    check(wad_dma_claim(&mover, &one, MOVER_REQUEST, "ring") == WAD_OK);
    check(wad_dma_claim(&mover, &other, MOVER_REQUEST + 1u, "another") == WAD_E_STATE);
    go_round(NULL);
#else
    check(wad_dma_claim(&mover, &other, WAD_DMA_AT_ONCE, "settings") == WAD_OK);
    list(&other);
    wad_dma_release(&other);
    wad_dma_release(&one);
    check(wad_dma_claim(&mover, &one, MOVER_REQUEST, "ring") == WAD_OK);
    check(wad_dma_claim_partner(&one, &other) == WAD_OK);
    go_round(&other);
#endif
    wad_pin_write(MOVER_WARN, wrong != 0);
    wad_pin_write(MOVER_LEVEL, !wrong && cases > 105);
    for (;;)
        wad_port_sleep();
}
