/* SPDX-License-Identifier: MIT */
/* Built once for a chip: a serial port whose caller waits, on the block or on its rings. */
#include "uart_private.h"

#ifdef WAD_UART_TABLE

/* An error of the word that waits: a bit beside it, or a flag that is cleared by hand; those that
 * reading clears were counted by whoever looked. */
WADI_INLINE bool wrong(uintptr_t base, uint32_t word, wad_field beside, wad_field flag)
{
    if (wad_has(beside))
        return word >> beside.lsb & 1u;
    return wad_has(flag) && (flag.how & WAD_HOW_KIND) != WAD_HOW_READ && wad_take(base, flag);
}

uint16_t wadi_uart_take(wad_uart *u)
{
    uintptr_t base = u->block->base;
    uint32_t word = wadi_read(base, R.rx_data.off, R.rx_data.size); /* once: reading takes it */
    uint16_t errors = 0;
    u->stats.received++;
    if (wrong(base, word, R.byte_framing, R.framing)) {
        u->stats.framing++;
        errors |= WAD_WORD_FRAMING;
    }
    if (wrong(base, word, R.byte_parity, R.parity_error)) {
        u->stats.parity++;
        errors |= WAD_WORD_PARITY;
    }
    if (wrong(base, word, R.byte_break, R.break_seen)) {
        u->stats.breaks++;
        errors |= WAD_WORD_BREAK;
    }
    return (uint16_t)((word >> R.rx_data.lsb & u->data_mask) | errors);
}

/* What is moved: bytes or words, out or in, and what ends it before all are there. */
typedef struct job {
    uint8_t *data;
    size_t n;
    int end;
    uint32_t gap_us;
    bool in, words;
} job;

/* One goes or comes now; false: not yet. */
static bool step(wad_uart *u, const job *j, size_t i)
{
    uint8_t *byte = j->data + i;
    uint16_t *word = (uint16_t *)(void *)j->data + i;
    if (!j->in && u->out.data)
        return wad_uart_write(u, byte, 1) == 1u;
    if (j->in && u->in.data)
        return wad_uart_read(u, byte, 1) == 1u;
    if (!j->in) {
        if (!uart_is(u, R.tx_ready))
            return false;
        wad_put(u->block->base, R.tx_data, j->words ? *word : *byte);
        u->stats.sent++;
        return true;
    }
    if (!uart_has_byte(u))
        return false;
    uint16_t taken = wadi_uart_take(u);
    if (j->words)
        *word = taken;
    else
        *byte = (uint8_t)taken;
    return true;
}

static wad_status move(wad_uart *u, const job *j, uint32_t timeout_us, size_t *moved)
{
    size_t done = 0;
    wad_status st = WAD_OK;
    const wad_uart_transfer *goes_on = j->in ? &u->receives : &u->sends;
    if (!u->time || goes_on->data || (j->words && u->background)) {
        st = WAD_E_STATE;
    } else {
        wad_deadline last = wad_deadline_us(u->time, timeout_us), gap = last;
        bool over = j->n == 0;
        while (!over && st == WAD_OK) {
            if (step(u, j, done)) {
                over = ++done == j->n || (j->in && !j->words && j->data[done - 1u] == j->end);
                if (j->gap_us)
                    gap = wad_deadline_us(u->time, j->gap_us);
            } else if (j->gap_us && done && wad_deadline_passed(u->time, &gap)) {
                over = true;
            } else if (wad_deadline_passed(u->time, &last)) {
                st = WAD_E_TIMEOUT;
            }
        }
    }
    if (moved)
        *moved = done;
    return st;
}

wad_status wad_uart_put(wad_uart *u, const void *data, size_t n, uint32_t timeout_us, size_t *sent)
{
    const job j = {.data = (uint8_t *)(uintptr_t)data, .n = n};
    return move(u, &j, timeout_us, sent);
}

wad_status wad_uart_get_until(wad_uart *u, void *data, size_t n, int end, uint32_t gap_us,
                              uint32_t timeout_us, size_t *received)
{
    const job j = {.data = data, .n = n, .end = end, .gap_us = gap_us, .in = true};
    return move(u, &j, timeout_us, received);
}

wad_status wad_uart_get(wad_uart *u, void *data, size_t n, uint32_t timeout_us, size_t *received)
{
    return wad_uart_get_until(u, data, n, -1, 0, timeout_us, received);
}

wad_status wad_uart_put_words(wad_uart *u, const uint16_t *words, size_t n, uint32_t timeout_us,
                              size_t *sent)
{
    const job j = {.data = (uint8_t *)(uintptr_t)words, .n = n, .words = true};
    return move(u, &j, timeout_us, sent);
}

wad_status wad_uart_get_words(wad_uart *u, uint16_t *words, size_t n, uint32_t timeout_us,
                              size_t *received)
{
    const job j = {.data = (uint8_t *)words, .n = n, .in = true, .words = true};
    return move(u, &j, timeout_us, received);
}

#endif
