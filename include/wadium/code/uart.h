/* SPDX-License-Identifier: MIT */
/* The serial port's bodies, written once over a role table: inline where port and table are known,
 * compiled for each form in <wadium/code/uart_form.h>. Included by <wadium/uart.h> alone. */
#ifndef WADI_UART_CODE_H
#define WADI_UART_CODE_H

typedef struct wadi_uart_end {
    wad_uart_until until;
    uint8_t end;
} wadi_uart_end;

/* What moves bytes instead of the handler. */
typedef struct wadi_uart_style {
    wad_status (*open)(const wad_uart *u);
    wad_status (*close)(const wad_uart *u);
    void (*kick)(const wad_uart *u);
    wad_index (*put)(const wad_uart *u); /* how far what comes has come in the ring */
    wad_status (*send)(const wad_uart *u);
    wad_status (*receive)(const wad_uart *u);
    size_t (*stop)(const wad_uart *u, bool sending); /* bytes moved until then */
    void (*serve)(const wad_uart *u);
} wadi_uart_style;
extern const wadi_uart_style wadi_uart_by_dma;

WADI_DECLARE(WADI_UART_FORMS, wad_status, wadi_uart_open, const wad_uart *);
WADI_DECLARE(WADI_UART_FORMS, void, wadi_uart_leave, const wad_uart *);
WADI_DECLARE(WADI_UART_FORMS, void, wadi_uart_close, const wad_uart *);
WADI_DECLARE(WADI_UART_FORMS, wad_status, wadi_uart_set_baud, const wad_uart *, uint32_t, uint32_t);
WADI_DECLARE(WADI_UART_FORMS, wad_status, wadi_uart_drain, const wad_uart *, uint32_t);
WADI_DECLARE(WADI_UART_FORMS, bool, wadi_uart_give, const wad_uart *, uint32_t);
WADI_DECLARE(WADI_UART_FORMS, int, wadi_uart_take, const wad_uart *);
WADI_DECLARE(WADI_UART_FORMS, size_t, wadi_uart_queue, const wad_ring *, uintptr_t, const void *,
             size_t);
WADI_DECLARE(WADI_UART_FORMS, size_t, wadi_uart_write, const wad_uart *, const void *, size_t,
             uint32_t);
WADI_DECLARE(WADI_UART_FORMS, size_t, wadi_uart_read, const wad_uart *, void *, size_t, int,
             uint32_t, uint32_t);
WADI_DECLARE(WADI_UART_FORMS, size_t, wadi_uart_write_words, const wad_uart *, const uint16_t *,
             size_t, uint32_t);
WADI_DECLARE(WADI_UART_FORMS, size_t, wadi_uart_read_words, const wad_uart *, uint16_t *, size_t,
             uint32_t);
WADI_DECLARE(WADI_UART_FORMS, wad_status, wadi_uart_send, wad_uart_transfer *, uintptr_t,
             const void *, size_t);
WADI_DECLARE(WADI_UART_FORMS, wad_status, wadi_uart_send_by, const wad_uart *, const void *,
             size_t);
WADI_DECLARE(WADI_UART_FORMS, wad_status, wadi_uart_receive, const wad_uart *, void *, size_t,
             wadi_uart_end, wad_uart_done, void *);
WADI_DECLARE(WADI_UART_FORMS, void, wadi_uart_abort, const wad_uart *);
WADI_DECLARE(WADI_UART_FORMS, void, wadi_uart_handle, const wad_uart *);

/* Of no form. */
void wadi_uart_finish(wad_uart_transfer *t, wad_status status);

WADI_REFUSE(wadi_uart_baud_cannot_be,
            "wad_uart_open: no divider comes near enough to this baud from this clock "
            "(.within_ppm; 2 % where it is not given)");
WADI_REFUSE(wadi_uart_lacks, "wad_uart_open: the block lacks something that the port names: bits, "
                             "parity, stop bits, loop, inversion, flow control or rings");
WADI_REFUSE(wadi_uart_has_no_time, "a time limit needs the port's .time");

/* The chip's header has them. */
WADI_INLINE const wad_uart_roles *wadi_uart_roles(unsigned form);
WADI_INLINE uint32_t wadi_uart_writable(unsigned form, uint32_t off);

/* ---- baud ---- */

typedef struct wadi_baud {
    uint32_t count; /* divider with its fraction */
    int32_t off;    /* ppm */
    bool any, eight;
} wadi_baud;

WADI_INLINE uint32_t wadi_uart_most(const wad_uart_roles *r)
{
    const unsigned bits = r->divider_fraction.width;
    return ((wadi_ones(r->divider) + r->divider_plus) << bits) + WADI_BIT(bits) - 1u;
}

WADI_INLINE uint32_t wadi_uart_least(const wad_uart_roles *r)
{
    return WADI_BIT(r->divider_fraction.width) * (r->divider_plus ? r->divider_plus : 1u);
}

WADI_INLINE uint32_t wadi_size_of(int32_t ppm)
{
    return (uint32_t)(ppm < 0 ? -ppm : ppm);
}

/* One of two dividers: more samples a bit see noise better, so 8 only where 16 are not as near. */
WADI_INLINE wadi_baud wadi_uart_nearer(const wad_uart_roles *r, wadi_baud best, uint64_t count,
                                       int64_t off, bool eight)
{
    if (count < wadi_uart_least(r) || count > wadi_uart_most(r) || off > 1000000 || off < -1000000)
        return best;
    if (best.any && wadi_size_of((int32_t)off) >= wadi_size_of(best.off))
        return best;
    return (wadi_baud){(uint32_t)count, (int32_t)off, true, eight};
}

/* By the compiler, in exact whole numbers; what it does not know goes to wadi_uart_baud. */
WADI_INLINE wadi_baud wadi_uart_baud_known(const wad_uart_roles *r, uint32_t clock, uint32_t baud)
{
    const unsigned bits = r->divider_fraction.width;
    wadi_baud best = {0, 0, false, false};
    if (!baud || baud > 0x0FFFFFFFu || !clock)
        return best;
    uint64_t d = WAD_DIVISOR(clock, (uint64_t)baud * 16u, bits);
    best =
        wadi_uart_nearer(r, best, d, WAD_DIVISOR_PPM(clock, (uint64_t)baud * 16u, bits, d), false);
    if (wadi_has_code(r->over, r->over_x8) && (!best.any || best.off)) {
        d = WAD_DIVISOR(clock, (uint64_t)baud * 8u, bits);
        best = wadi_uart_nearer(r, best, d, WAD_DIVISOR_PPM(clock, (uint64_t)baud * 8u, bits, d),
                                true);
    }
    return best;
}

/* The same at run time: the same registers. */
WADI_INLINE wadi_baud wadi_uart_baud(const wad_uart_roles *r, uint32_t clock, uint32_t baud)
{
    const unsigned bits = r->divider_fraction.width;
    wadi_baud best = {0, 0, false, false};
    int32_t off;
    if (!baud || baud > 0x0FFFFFFFu || !clock)
        return best;
    for (unsigned samples = 16; samples >= (wadi_has_code(r->over, r->over_x8) ? 8u : 16u);
         samples /= 2u) {
        uint32_t d = wad_divisor((uint64_t)clock << bits, baud * samples, &off);
        best = wadi_uart_nearer(r, best, d, off, samples == 8u);
        if (best.any && !best.off)
            break;
    }
    return best;
}

WADI_INLINE int32_t wadi_uart_ppm(const wad_uart *u)
{
    return wadi_uart_baud_known(wadi_uart_roles(u->unit->form), u->clock_hz, u->baud).off;
}

WADI_INLINE bool wadi_uart_is_near(const wad_uart *u, wadi_baud b)
{
    return b.any && wadi_size_of(b.off) <= (u->within_ppm ? u->within_ppm : 20000u);
}

/* ---- format ---- */

WADI_INLINE unsigned wadi_uart_n_bits(const wad_uart *u)
{
    return u->bits ? u->bits : 8u;
}

WADI_INLINE uint32_t wadi_uart_bits(const wad_uart_roles *r, unsigned bits)
{
    return bits == 5u   ? r->bits_five
           : bits == 6u ? r->bits_six
           : bits == 7u ? r->bits_seven
           : bits == 8u ? r->bits_eight
           : bits == 9u ? r->bits_nine
                        : WAD_NO_CODE;
}

WADI_INLINE uint32_t wadi_uart_parity(const wad_uart_roles *r, wad_uart_parity p)
{
    return p == WAD_PARITY_EVEN    ? r->parity_mode_even
           : p == WAD_PARITY_ODD   ? r->parity_mode_odd
           : p == WAD_PARITY_MARK  ? r->parity_mode_mark
           : p == WAD_PARITY_SPACE ? r->parity_mode_space
                                   : r->parity_mode_none;
}

WADI_INLINE uint32_t wadi_uart_stop(const wad_uart_roles *r, wad_uart_stop s)
{
    return s == WAD_STOP_2 ? r->stop_two : s == WAD_STOP_1_5 ? r->stop_one_half : r->stop_one;
}

WADI_INLINE bool wadi_uart_in_background(const wad_uart *u)
{
    return u->in || u->out || u->sends || u->receives;
}

WADI_INLINE bool wadi_uart_has_format(const wad_uart *u, const wad_uart_roles *r)
{
    unsigned bits = wadi_uart_n_bits(u);
    if (wad_has(r->bits) ? wadi_uart_bits(r, bits) == WAD_NO_CODE : bits != 8u)
        return false;
    if (u->parity != WAD_PARITY_NONE &&
        !wadi_has_code(r->parity_mode, wadi_uart_parity(r, u->parity)))
        return false;
    return u->stop == WAD_STOP_1 || wadi_has_code(r->stop, wadi_uart_stop(r, u->stop));
}

/* All that the port names. */
WADI_INLINE bool wadi_uart_has(const wad_uart *u, const wad_uart_roles *r)
{
    bool background = wadi_uart_in_background(u);
    return wadi_uart_has_format(u, r) && (!u->loop || wad_has(r->loop)) &&
           (!u->msb_first || wad_has(r->msb_first)) && (!u->invert_tx || wad_has(r->invert_tx)) &&
           (!u->invert_rx || wad_has(r->invert_rx)) && (!u->driver || wad_has(r->half_duplex)) &&
           (!u->lead || (u->driver && wad_has(r->lead) && u->lead <= wadi_ones(r->lead))) &&
           (!(u->rts || u->cts) || wad_has(r->flow)) && (!background || u->unit->block.irq >= 0) &&
           (!(u->in || u->receives) || u->dma || wad_has(r->rx_ready_irq)) &&
           (!(u->out || u->sends) || u->dma || wad_has(r->tx_ready_irq)) &&
           (!(u->in || u->out) || wadi_uart_n_bits(u) <= 8u) &&
           (!u->dma || (wad_has(r->tx_dma) && wad_has(r->rx_dma)));
}

/* ---- opening ---- */

/* What a word has; the rest of its register stays. */
WADI_INLINE void wadi_uart_put_word(const wad_uart *u, const wadi_word *w, wad_field with)
{
    wadi_put_word(u->unit->block.base, w, with.size, wadi_uart_writable(u->unit->form, w->off));
}

/* Received: half of the queue, and the rest when nothing more comes; polled, each byte at once. To
 * send: half of it free. */
WADI_INLINE void wadi_uart_thresholds(const wad_uart *u, const wad_uart_roles *r)
{
    const uintptr_t base = u->unit->block.base;
    const wad_field with = wad_has(r->rx_at) ? r->rx_at : r->tx_at;
    const uint32_t wait = wadi_ones(r->rx_wait);
    wadi_word w = {with.off, 0, 0};
    bool in = u->in && !u->dma;
    if (!wad_has(with))
        return;
    wadi_gather(base, &w, r->rx_at, in && wad_has(r->rx_wait) ? wadi_ones(r->rx_at) >> 1 : 0u);
    wadi_gather(base, &w, r->rx_wait, !in ? 0u : wait < 20u ? wait : 20u);
    wadi_gather(base, &w, r->tx_at, wadi_ones(r->tx_at) >> ((u->out || u->sends) && !u->dma));
    wadi_uart_put_word(u, &w, with);
}

/* What asks, and that nothing else does: with the control register where it lies in that. */
WADI_INLINE void wadi_uart_asks(const wad_uart *u, const wad_uart_roles *r, wadi_word *control)
{
    const uintptr_t base = u->unit->block.base;
    const wad_field with = wad_has(r->rx_ready_irq) ? r->rx_ready_irq : r->tx_ready_irq;
    wadi_word own = {with.off, 0, 0};
    wadi_word *w = own.off == control->off ? control : &own;
    bool in = u->in && !u->dma, by_dma = u->dma != 0;
    if (!wad_has(with))
        return;
    wadi_gather(base, w, r->rx_ready_irq, in);
    wadi_gather(base, w, r->tx_ready_irq, 0);
    wadi_gather(base, w, r->tx_done_irq, 0);
    wadi_gather(base, w, r->timeout_irq, in);
    wadi_gather(base, w, r->overrun_irq, in || by_dma);
    wadi_gather(base, w, r->framing_irq, by_dma);
    wadi_gather(base, w, r->parity_irq, by_dma);
    wadi_gather(base, w, r->break_irq, 0);
    wadi_gather(base, w, r->idle_irq, by_dma && u->in);
    if (w == &own)
        wadi_uart_put_word(u, w, with);
}

/* The control register but for what asks and works: the block is off. */
WADI_INLINE wadi_word wadi_uart_format(const wad_uart *u, const wad_uart_roles *r, bool eight)
{
    const uintptr_t base = u->unit->block.base;
    wadi_word c = {r->enable.off, 0, 0};
    wadi_gather(base, &c, r->enable, 0);
    wadi_gather(base, &c, r->bits, wadi_uart_bits(r, wadi_uart_n_bits(u)));
    wadi_gather(base, &c, r->parity_mode, wadi_uart_parity(r, u->parity));
    wadi_gather(base, &c, r->stop, wadi_uart_stop(r, u->stop));
    wadi_gather(base, &c, r->over, eight ? r->over_x8 : r->over_x16);
    wadi_gather(base, &c, r->loop, u->loop);
    wadi_gather(base, &c, r->msb_first, u->msb_first);
    wadi_gather(base, &c, r->invert_tx, u->invert_tx);
    wadi_gather(base, &c, r->invert_rx, u->invert_rx);
    wadi_gather(base, &c, r->flow, u->rts || u->cts);
    wadi_gather(base, &c, r->half_duplex, u->driver != 0);
    wadi_gather(base, &c, r->lead, u->lead);
    wadi_gather(base, &c, r->tx_enable, u->tx || u->loop);
    wadi_gather(base, &c, r->rx_enable, u->rx || u->loop);
    wadi_gather(base, &c, r->send_break, 0);
    wadi_gather(base, &c, r->tx_dma, 0);
    wadi_gather(base, &c, r->rx_dma, 0);
    wadi_uart_put_word(u, &c, r->enable);
    return c;
}

/* Both parts in one write, where they lie in one register. */
WADI_INLINE void wadi_uart_put_baud(const wad_uart *u, const wad_uart_roles *r, uint32_t count)
{
    const uintptr_t base = u->unit->block.base;
    const unsigned bits = r->divider_fraction.width;
    const uint32_t whole = (count >> bits) - r->divider_plus;
    wadi_word w = {r->divider.off, 0, 0};
    wadi_gather(base, &w, r->divider_fraction, count & (WADI_BIT(bits) - 1u));
    if (wadi_is_split(r->divider)) {
        wad_put(base, r->divider, whole);
        return;
    }
    wadi_gather(base, &w, r->divider, whole);
    wadi_uart_put_word(u, &w, r->divider);
}

WADI_INLINE void wadi_uart_clear_flags(uintptr_t base, const wad_uart_roles *r)
{
    wadi_word w = {r->overrun.off, 0, 0};
    wadi_clear_with(base, &w, r->overrun);
    wadi_clear_with(base, &w, r->framing);
    wadi_clear_with(base, &w, r->parity_error);
    wadi_clear_with(base, &w, r->break_seen);
    wadi_clear_with(base, &w, r->idle);
    wadi_clear_with(base, &w, r->timeout);
    if (w.value)
        wadi_write(base, r->overrun.off, r->overrun.size, w.value);
}

/* Opened before: its format stands still while it works. */
WADI_INLINE void wadi_uart_off(uintptr_t base, const wad_uart_roles *r)
{
    wad_put(base, r->enable, 0);
}

/* Does anybody look at old flags? Errors beside each word need none. */
WADI_INLINE bool wadi_uart_looks_at_flags(const wad_uart *u, const wad_uart_roles *r)
{
    return wadi_uart_in_background(u) || u->dma || u->stats || r->overrun_sticks ||
           !wad_has(r->byte_framing);
}

/* Pins are the port's; flags away, and it works. */
WADI_INLINE void wadi_uart_begin(const wad_uart *u, const wad_uart_roles *r, wadi_word c)
{
    const uintptr_t base = u->unit->block.base;
    if (wadi_uart_looks_at_flags(u, r))
        wadi_uart_clear_flags(base, r);
    wadi_uart_asks(u, r, &c);
    wadi_uart_thresholds(u, r);
    wadi_gather(base, &c, r->enable, 1);
    wadi_uart_put_word(u, &c, r->enable);
}

/* Transfers of an opening before this one. What is in rings stays there. */
WADI_INLINE void wadi_uart_forget(const wad_uart *u)
{
    if (u->sends)
        u->sends->data = 0;
    if (u->receives)
        u->receives->data = 0;
}

/* All known: nothing but the accesses is left. */
WADI_INLINE wad_status wadi_uart_open_known(const wad_uart *u)
{
    const wad_uart_roles *r = wadi_uart_roles(u->unit->form);
    const uintptr_t base = u->unit->block.base;
    wad_status st = WAD_OK;
    wadi_baud b = wadi_uart_baud_known(r, u->clock_hz, u->baud);
    WADI_REFUSE_IF(!wadi_uart_is_near(u, b), wadi_uart_baud_cannot_be, WAD_E_RANGE)
    WADI_REFUSE_IF(!wadi_uart_has(u, r), wadi_uart_lacks, WAD_E_ABSENT)
    if (!wadi_up(&u->unit->block, wadi_port_of(u->tx), wadi_port_of(u->rx)))
        return WAD_E_TIMEOUT;
    if (u->time)
        WADI_OF_FORM(WADI_UART_MORE, u->unit->form, wadi_uart_leave, u);
    wadi_uart_off(base, r);
    wadi_uart_forget(u);
    wadi_word c = wadi_uart_format(u, r, b.eight);
    wadi_uart_put_baud(u, r, b.count);
    wadi_functions(u->tx, u->rx, 0);
    if (u->driver)
        st = wadi_route(u->driver);
    if (u->rts && st == WAD_OK)
        st = wadi_route(u->rts);
    if (u->cts && st == WAD_OK)
        st = wadi_route(u->cts);
    if (st != WAD_OK)
        return st;
    wadi_uart_begin(u, r, c);
    return wadi_uart_in_background(u) ? wadi_line_on(u->unit->block.irq, u->priority) : WAD_OK;
}

/* ---- a word ---- */

/* One flag of those that reading clears, found set in a register that was read for another one. */
WADI_INLINE bool wadi_lost_by(wad_field flag, wad_field read, uint32_t word)
{
    return wad_has(flag) && (flag.how & WAD_HOW_KIND) == WAD_HOW_READ && flag.off == read.off &&
           word >> flag.lsb & 1u;
}

WADI_INLINE bool wadi_clears_by_hand(wad_field flag)
{
    return wad_has(flag) && (flag.how & WAD_HOW_KIND) != WAD_HOW_READ;
}

/* An overrun in a word that was read, and that is cleared by hand. */
WADI_INLINE void wadi_uart_overrun(const wad_uart *u, const wad_uart_roles *r, uint32_t word)
{
    if (!(word >> r->overrun.lsb & 1u))
        return;
    wad_clear(u->unit->block.base, r->overrun);
    if (u->stats)
        u->stats->overruns++;
}

/* The flag's register; errors in it that reading clears are counted. */
WADI_INLINE uint32_t wadi_uart_word_of(const wad_uart *u, const wad_uart_roles *r, wad_field flag)
{
    uint32_t word = wadi_read(u->unit->block.base, flag.off, flag.size);
    if (!u->stats)
        return word;
    if (wadi_lost_by(r->overrun, flag, word))
        u->stats->overruns++;
    if (wadi_lost_by(r->framing, flag, word))
        u->stats->framing++;
    if (wadi_lost_by(r->parity_error, flag, word))
        u->stats->parity++;
    return word;
}

WADI_INLINE bool wadi_uart_is(const wad_uart *u, const wad_uart_roles *r, wad_field flag)
{
    return wadi_uart_word_of(u, r, flag) >> flag.lsb & 1u;
}

/* Has a byte arrived? An overrun that stands beside it, or that would stop the receiver, goes. */
WADI_INLINE bool wadi_uart_has_byte(const wad_uart *u, const wad_uart_roles *r)
{
    uint32_t word = wadi_uart_word_of(u, r, r->rx_ready);
    bool came = word >> r->rx_ready.lsb & 1u;
    bool looks = wadi_clears_by_hand(r->overrun) && (u->stats || r->overrun_sticks);
    if (looks && r->overrun.off == r->rx_ready.off)
        wadi_uart_overrun(u, r, word);
    else if (looks && !came)
        wadi_uart_overrun(u, r, wadi_read(u->unit->block.base, r->overrun.off, r->overrun.size));
    return came;
}

/* An error of the word that waits, as its bit 2 ** n: a bit beside the word, or a flag that is
 * cleared by hand; those that reading clears were counted by whoever looked. */
WADI_INLINE uint32_t wadi_uart_wrong(const wad_uart *u, uint32_t word, wad_field beside,
                                     wad_field flag, unsigned n, volatile uint32_t *count)
{
    uint32_t wrong = 0;
    if (wad_has(beside))
        wrong = word >> beside.lsb & 1u;
    else if (wadi_clears_by_hand(flag))
        wrong = wad_take(u->unit->block.base, flag);
    if (count && wrong)
        *count = *count + 1u;
    return wrong << n;
}

/* Takes one word with its errors beside it, and counted; it must have arrived. */
WADI_INLINE uint32_t wadi_uart_word_body(const wad_uart *u, const wad_uart_roles *r)
{
    volatile wad_uart_stats *s = u->stats;
    uint32_t word = wadi_read(u->unit->block.base, r->rx_data.off,
                              r->rx_data.size); /* once: reading takes it */
    if (s)
        s->received++;
    uint32_t errors =
        wadi_uart_wrong(u, word, r->byte_framing, r->framing, 12, s ? &s->framing : 0);
    if (u->parity != WAD_PARITY_NONE)
        errors |= wadi_uart_wrong(u, word, r->byte_parity, r->parity_error, 13, s ? &s->parity : 0);
    errors |= wadi_uart_wrong(u, word, r->byte_break, r->break_seen, 14, s ? &s->breaks : 0);
    return (word >> r->rx_data.lsb & (WADI_BIT(wadi_uart_n_bits(u)) - 1u)) | errors;
}

#ifdef WADI_UART_BODIES
WADI_DECLARE(WADI_UART_FORMS, uint32_t, wadi_uart_word, const wad_uart *);
#endif

/* One function for all of a form's functions, inline in the user's file. */
WADI_INLINE uint32_t wadi_uart_word(const wad_uart *u, const wad_uart_roles *r)
{
#ifdef WADI_UART_BODIES
    (void)r;
    return WADI_OF_FORM(WADI_UART_MORE, u->unit->form, wadi_uart_word, u);
#else
    return wadi_uart_word_body(u, r);
#endif
}

/* Where nobody asks for the errors: the byte alone. */
WADI_INLINE uint8_t wadi_uart_byte(const wad_uart *u, const wad_uart_roles *r)
{
    if (u->stats || !wad_has(r->byte_framing))
        return (uint8_t)wadi_uart_word(u, r);
    uint32_t word = wadi_read(u->unit->block.base, r->rx_data.off, r->rx_data.size);
    return (uint8_t)(word >> r->rx_data.lsb & (WADI_BIT(wadi_uart_n_bits(u)) - 1u));
}

WADI_INLINE int wadi_uart_take_body(const wad_uart *u, const wad_uart_roles *r)
{
    return wadi_uart_has_byte(u, r) ? (int)wadi_uart_word(u, r) : -1;
}

WADI_INLINE bool wadi_uart_give_body(const wad_uart *u, const wad_uart_roles *r, uint32_t word)
{
    if (!wadi_uart_is(u, r, r->tx_ready))
        return false;
    wad_put(u->unit->block.base, r->tx_data, word);
    if (u->stats)
        u->stats->sent++;
    return true;
}

/* ---- rings ---- */

WADI_INLINE const wadi_uart_style *wadi_uart_moves(const wad_uart *u)
{
    return u->dma ? u->dma->style : NULL;
}

/* Bytes that have come into the ring and are not taken. */
WADI_INLINE size_t wadi_uart_held(const wad_uart *u)
{
    if (!u->in)
        return 0;
    wad_index put = u->dma ? wadi_uart_moves(u)->put(u) : u->in->at->put;
    return wadi_ring_between(u->in->at->taken, put);
}

WADI_INLINE size_t wadi_uart_flush_ring(const wad_uart *u)
{
    if (!u->out)
        return 0;
    uint32_t state = wad_port_irq_save(); /* the handler takes */
    if (u->dma)
        u->out->at->taken = (wad_index)(u->out->at->taken + wadi_uart_moves(u)->stop(u, true));
    size_t n = wadi_ring_held(u->out);
    u->out->at->put = u->out->at->taken;
    wad_port_irq_restore(state);
    return n;
}

/* ---- the handler ---- */

/* All of it: what is below the threshold would wait for the timeout. */
WADI_INLINE bool wadi_uart_arrived(const wad_uart *u, const wad_uart_roles *r)
{
    return wad_has(r->rx_level) ? wad_get(u->unit->block.base, r->rx_level) != 0
                                : wadi_uart_has_byte(u, r);
}

WADI_INLINE void wadi_uart_receive_all(const wad_uart *u, const wad_uart_roles *r)
{
    const wad_ring *in = u->in;
    while (wadi_uart_arrived(u, r)) {
        uint8_t byte = wadi_uart_byte(u, r);
        wad_index put = in->at->put;
        uint32_t held = (uint32_t)wadi_ring_between(in->at->taken, put);
        if (held > in->mask) {
            if (u->stats)
                u->stats->dropped++;
            continue;
        }
        in->data[put & in->mask] = byte;
        in->at->put = (wad_index)(put + 1u);
        if (u->stats && held + 1u > u->stats->most)
            u->stats->most = held + 1u;
    }
}

WADI_INLINE void wadi_uart_send_more(const wad_uart *u, const wad_uart_roles *r)
{
    const uintptr_t base = u->unit->block.base;
    const wad_ring *out = u->out;
    while (wadi_uart_is(u, r, r->tx_ready)) {
        wad_index taken = out->at->taken;
        if (taken != out->at->put) {
            wad_put(base, r->tx_data, out->data[taken & out->mask]);
            out->at->taken = ++taken;
            if (u->stats)
                u->stats->sent++;
        }
        if (taken == out->at->put) { /* else it would ask for ever */
            wad_put(base, r->tx_ready_irq, 0);
            return;
        }
    }
}

/* What is received at once: up to half of the queue, and no more than is wanted. */
WADI_INLINE void wadi_uart_set_threshold(uintptr_t base, const wad_uart_roles *r,
                                         const wad_uart_transfer *t)
{
    if (!wad_has(r->rx_at))
        return;
    uint32_t left = (uint32_t)(t->n - t->at), half = wadi_ones(r->rx_at) >> 1;
    if (t->until == WAD_UNTIL_END)
        left = 1; /* each byte may be the last */
    wad_put(base, r->rx_at, left > half ? half : left - 1u);
}

WADI_INLINE void wadi_uart_listen(uintptr_t base, const wad_uart_roles *r,
                                  const wad_uart_transfer *t, bool on)
{
    if (on)
        wadi_uart_set_threshold(base, r, t);
    wad_put(base, r->rx_ready_irq, on);
    if (wad_has(r->idle_irq))
        wad_put(base, r->idle_irq, on && t->until == WAD_UNTIL_IDLE);
}

/* All bytes are given: its `done` once they have left. */
WADI_INLINE void wadi_uart_given(const wad_uart *u, const wad_uart_roles *r)
{
    if (wad_has(r->tx_done_irq))
        wad_put(u->unit->block.base, r->tx_done_irq, 1); /* it asks when the last has left */
    else
        wadi_uart_finish(u->sends, WAD_OK);
}

WADI_INLINE void wadi_uart_serve_sending(const wad_uart *u, const wad_uart_roles *r)
{
    const uintptr_t base = u->unit->block.base;
    wad_uart_transfer *t = u->sends;
    if (t->at < t->n) {
        while (t->at < t->n) {
            if (!wadi_uart_is(u, r, r->tx_ready))
                return;
            size_t at = t->at;
            wad_put(base, r->tx_data, ((volatile uint8_t *)t->data)[at]);
            t->at = at + 1u;
            if (u->stats)
                u->stats->sent++;
        }
        wad_put(base, r->tx_ready_irq, 0);
        wadi_uart_given(u, r);
    } else if (wad_has(r->tx_done_irq) && wadi_uart_is(u, r, r->tx_done)) {
        wad_put(base, r->tx_done_irq, 0);
        wadi_uart_finish(t, WAD_OK);
    }
}

WADI_INLINE void wadi_uart_serve_receiving(const wad_uart *u, const wad_uart_roles *r)
{
    const uintptr_t base = u->unit->block.base;
    wad_uart_transfer *t = u->receives;
    bool idle = t->until == WAD_UNTIL_IDLE && wad_has(r->idle_irq) && wad_take(base, r->idle);
    bool over = false;
    while (!over && wadi_uart_arrived(u, r)) {
        uint8_t byte = (uint8_t)wadi_uart_word(u, r);
        size_t at = t->at;
        ((volatile uint8_t *)t->data)[at] = byte;
        t->at = at + 1u;
        over = at + 1u == t->n || (t->until == WAD_UNTIL_END && byte == t->end);
    }
    if (!over && !(idle && t->at)) {
        wadi_uart_set_threshold(base, r, t);
        return;
    }
    wadi_uart_listen(base, r, t, false);
    wadi_uart_finish(t, WAD_OK);
}

WADI_INLINE void wadi_uart_handle_body(const wad_uart *u, const wad_uart_roles *r)
{
    const uintptr_t base = u->unit->block.base;
    if (wad_has(r->timeout))
        wad_clear(base, r->timeout);
    if (u->dma)
        wadi_uart_moves(u)->serve(u);
    else if (u->in)
        wadi_uart_receive_all(u, r);
    if (wadi_clears_by_hand(r->overrun))
        wadi_uart_overrun(u, r, wadi_read(base, r->overrun.off, r->overrun.size));
    if (u->out && !u->dma && wad_get(base, r->tx_ready_irq))
        wadi_uart_send_more(u, r);
    if (u->receives && u->receives->data && !u->dma)
        wadi_uart_serve_receiving(u, r);
    if (u->sends && u->sends->data && (!u->dma || u->sends->at == u->sends->n))
        wadi_uart_serve_sending(u, r);
}

#endif
