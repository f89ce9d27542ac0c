/* SPDX-License-Identifier: MIT */
/* The serial driver for one form: R is its role table, WADI_L(name) the form's name of a function.
 * Included by the chip's header for each form that it has, where drivers/uart.c asks for it. A
 * function a section: the linker takes what is called. */

uint32_t WADI_L(wadi_uart_word)(const wad_uart *u)
{
    return wadi_uart_word_body(u, &R);
}

/* Opened before: what the block still has leaves, or the line would break off in a byte. */
void WADI_L(wadi_uart_leave)(const wad_uart *u)
{
    if (!wad_has(R.tx_done) || !wad_get(u->unit->block.base, R.enable))
        return;
    wad_deadline d = wad_deadline_us(u->time, 100000);
    while (!wadi_uart_is(u, &R, R.tx_done) && !wad_deadline_passed(u->time, &d)) {
    }
}

wad_status WADI_L(wadi_uart_open)(const wad_uart *u)
{
    const wad_route routes[] = {u->tx, u->rx, u->driver, u->rts, u->cts};
    const uint32_t clock = u->clock_hz ? u->clock_hz : u->unit->block.clock_hz();
    const uintptr_t base = u->unit->block.base;
    wadi_baud b = wadi_uart_baud(&R, clock, u->baud);
    if (!wadi_uart_is_near(u, b) || wadi_uart_n_bits(u) < 5u || wadi_uart_n_bits(u) > 9u ||
        u->parity > WAD_PARITY_SPACE || u->stop > WAD_STOP_2)
        return WAD_E_RANGE;
    if (!wadi_uart_has(u, &R))
        return WAD_E_ABSENT;
    if (!wad_block_up(&u->unit->block, WADI_POLLS))
        return WAD_E_TIMEOUT;
    if (u->time)
        WADI_L(wadi_uart_leave)(u);
    wadi_uart_off(base, &R);
    wadi_uart_forget(u);
    wadi_word c = wadi_uart_format(u, &R, b.eight);
    wadi_uart_put_baud(u, &R, b.count);
    for (unsigned i = 0; i < sizeof routes / sizeof *routes; i++) {
        wad_status st = routes[i] ? wadi_route_any(routes[i]) : WAD_OK;
        if (st != WAD_OK)
            return st;
    }
    wadi_uart_begin(u, &R, c);
    wad_status st = u->dma ? wadi_uart_moves(u)->open(u) : WAD_OK;
    if (st != WAD_OK || !wadi_uart_in_background(u))
        return st;
    return wad_irq_enable(u->unit->block.irq, u->priority);
}

void WADI_L(wadi_uart_close)(const wad_uart *u)
{
    const uintptr_t base = u->unit->block.base;
    uint32_t state = wad_port_irq_save();
    if (u->dma)
        (void)wadi_uart_moves(u)->close(u);
    const wad_uart nothing = {.unit = u->unit}; /* asks for nothing */
    wadi_word control = {R.enable.off, 0, 0};
    wadi_gather(base, &control, R.enable, 0);
    wadi_gather(base, &control, R.tx_enable, 0); /* where nothing else turns it off */
    wadi_gather(base, &control, R.rx_enable, 0);
    wadi_uart_asks(&nothing, &R, &control);
    wadi_uart_put_word(u, &control, R.enable);
    wadi_uart_thresholds(&nothing, &R);
    wadi_uart_forget(u);
    if (u->in)
        wadi_ring_empty(u->in);
    if (u->out)
        wadi_ring_empty(u->out);
    wad_port_irq_restore(state);
    if (wadi_uart_in_background(u))
        wad_irq_disable(u->unit->block.irq);
}

static bool WADI_L(wadi_uart_all_sent)(const wad_uart *u)
{
    if (u->out && u->out->at->put != u->out->at->taken)
        return false;
    return wad_has(R.tx_done) && wadi_uart_is(u, &R, R.tx_done);
}

wad_status WADI_L(wadi_uart_drain)(const wad_uart *u, uint32_t timeout_us)
{
    if (!u->time)
        return WAD_E_STATE;
    if (!wad_has(R.tx_done))
        return WAD_E_ABSENT;
    wad_deadline d = wad_deadline_us(u->time, timeout_us);
    while (!WADI_L(wadi_uart_all_sent)(u))
        if (wad_deadline_passed(u->time, &d))
            return WAD_E_TIMEOUT;
    return WAD_OK;
}

wad_status WADI_L(wadi_uart_set_baud)(const wad_uart *u, uint32_t baud, uint32_t timeout_us)
{
    const uint32_t clock = u->clock_hz ? u->clock_hz : u->unit->block.clock_hz();
    const uintptr_t base = u->unit->block.base;
    wadi_baud b = wadi_uart_baud(&R, clock, baud);
    if (!wadi_uart_is_near(u, b))
        return WAD_E_RANGE;
    wad_status st = WADI_L(wadi_uart_drain)(u, timeout_us);
    if (st != WAD_OK)
        return st;
    uint32_t state = wad_port_irq_save(); /* the handler changes what asks */
    wad_put(base, R.enable, 0);
    if (wad_has(R.over))
        wad_put(base, R.over, b.eight ? R.over_x8 : R.over_x16);
    wadi_uart_put_baud(u, &R, b.count);
    wad_put(base, R.enable, 1);
    wad_port_irq_restore(state);
    return WAD_OK;
}

/* ---- polled ---- */

bool WADI_L(wadi_uart_give)(const wad_uart *u, uint32_t word)
{
    return wadi_uart_give_body(u, &R, word);
}

int WADI_L(wadi_uart_take)(const wad_uart *u)
{
    return wadi_uart_take_body(u, &R);
}

/* ---- rings ---- */

size_t WADI_L(wadi_uart_queue)(const wad_ring *out, uintptr_t base, const void *data, size_t n)
{
    uint32_t state = wad_port_irq_save(); /* several may write */
    n = wadi_ring_put(out, data, n);
    if (n)
        wad_put(base, R.tx_ready_irq, 1);
    wad_port_irq_restore(state);
    return n;
}

/* As many as there is room for now. */
static size_t WADI_L(wadi_uart_push)(const wad_uart *u, const uint8_t *data, size_t n)
{
    if (u->out && !u->dma)
        return WADI_L(wadi_uart_queue)(u->out, u->unit->block.base, data, n);
    if (u->out) {
        uint32_t state = wad_port_irq_save();
        n = wadi_ring_put(u->out, data, n);
        if (n)
            wadi_uart_moves(u)->kick(u);
        wad_port_irq_restore(state);
        return n;
    }
    size_t done = 0;
    while (done < n && wadi_uart_give_body(u, &R, data[done]))
        done++;
    return done;
}

static size_t WADI_L(wadi_uart_pull)(const wad_uart *u, uint8_t *data, size_t n)
{
    if (u->in)
        return wadi_ring_take(u->in, wadi_uart_held(u), data, n);
    size_t done = 0;
    while (done < n && wadi_uart_has_byte(u, &R))
        data[done++] = (uint8_t)wadi_uart_word(u, &R);
    return done;
}

size_t WADI_L(wadi_uart_write)(const wad_uart *u, const void *data, size_t n, uint32_t timeout_us)
{
    const uint8_t *bytes = data;
    if (u->sends && u->sends->data)
        return 0;
    size_t done = WADI_L(wadi_uart_push)(u, bytes, n);
    if (done == n || !timeout_us || !u->time)
        return done;
    wad_deadline d = wad_deadline_us(u->time, timeout_us);
    do
        done += WADI_L(wadi_uart_push)(u, bytes + done, n - done);
    while (done < n && !wad_deadline_passed(u->time, &d));
    return done;
}

size_t WADI_L(wadi_uart_read)(const wad_uart *u, void *data, size_t n, int end, uint32_t gap_us,
                              uint32_t timeout_us)
{
    uint8_t *bytes = data;
    size_t done = 0;
    if (u->receives && u->receives->data)
        return 0;
    if (!timeout_us || !u->time) {
        if (end < 0)
            return WADI_L(wadi_uart_pull)(u, bytes, n);
        while (done < n && WADI_L(wadi_uart_pull)(u, bytes + done, 1) && bytes[done++] != end) {
        }
        return done;
    }
    wad_deadline last = wad_deadline_us(u->time, timeout_us), gap = last;
    while (done < n) {
        if (WADI_L(wadi_uart_pull)(u, bytes + done, 1)) {
            if (bytes[done++] == end)
                break;
            if (gap_us)
                gap = wad_deadline_us(u->time, gap_us);
        } else if (gap_us && done && wad_deadline_passed(u->time, &gap)) {
            break;
        } else if (wad_deadline_passed(u->time, &last)) {
            break;
        }
    }
    return done;
}

size_t WADI_L(wadi_uart_write_words)(const wad_uart *u, const uint16_t *words, size_t n,
                                     uint32_t timeout_us)
{
    size_t done = 0;
    if (u->out || (u->sends && u->sends->data))
        return 0;
    wad_deadline d = {0, 0};
    if (timeout_us && u->time)
        d = wad_deadline_us(u->time, timeout_us);
    while (done < n) {
        if (wadi_uart_give_body(u, &R, words[done]))
            done++;
        else if (!timeout_us || !u->time || wad_deadline_passed(u->time, &d))
            break;
    }
    return done;
}

size_t WADI_L(wadi_uart_read_words)(const wad_uart *u, uint16_t *words, size_t n,
                                    uint32_t timeout_us)
{
    size_t done = 0;
    if (u->in || (u->receives && u->receives->data))
        return 0;
    wad_deadline d = {0, 0};
    if (timeout_us && u->time)
        d = wad_deadline_us(u->time, timeout_us);
    while (done < n) {
        int word = wadi_uart_take_body(u, &R);
        if (word >= 0)
            words[done++] = (uint16_t)word;
        else if (!timeout_us || !u->time || wad_deadline_passed(u->time, &d))
            break;
    }
    return done;
}

/* ---- transfers ---- */

wad_status WADI_L(wadi_uart_send)(wad_uart_transfer *t, uintptr_t base, const void *data, size_t n)
{
    if (!data || !n)
        return WAD_E_ARG;
    uint32_t state = wad_port_irq_save(); /* the handler may serve the other direction meanwhile */
    t->at = 0;
    t->n = n;
    t->data = (uint8_t *)(uintptr_t)data;
    wad_put(base, R.tx_ready_irq, 1);
    wad_port_irq_restore(state);
    return WAD_OK;
}

wad_status WADI_L(wadi_uart_send_by)(const wad_uart *u, const void *data, size_t n)
{
    if (!u->dma)
        return WADI_L(wadi_uart_send)(u->sends, u->unit->block.base, data, n);
    if (!data || !n)
        return WAD_E_ARG;
    uint32_t state = wad_port_irq_save();
    u->sends->at = 0;
    u->sends->n = n;
    u->sends->data = (uint8_t *)(uintptr_t)data;
    wad_status st = wadi_uart_moves(u)->send(u);
    if (st != WAD_OK)
        u->sends->data = 0;
    wad_port_irq_restore(state);
    return st;
}

wad_status WADI_L(wadi_uart_receive)(const wad_uart *u, void *data, size_t n, wadi_uart_end by,
                                     wad_uart_done done, void *context)
{
    wad_uart_transfer *t = u->receives;
    if (!data || !n)
        return WAD_E_ARG;
    if (!t || u->in || t->data)
        return WAD_E_STATE;
    if ((by.until == WAD_UNTIL_IDLE && !wad_has(R.idle_irq)) ||
        (by.until == WAD_UNTIL_END && u->dma))
        return WAD_E_ABSENT;
    uint32_t state = wad_port_irq_save();
    t->at = 0;
    t->n = n;
    t->done = done;
    t->context = context;
    t->until = by.until;
    t->end = by.end;
    t->data = data;
    if (by.until == WAD_UNTIL_IDLE)
        wad_clear(u->unit->block.base, R.idle); /* an old one is not the end of this */
    wad_status st = WAD_OK;
    if (u->dma)
        st = wadi_uart_moves(u)->receive(u);
    else
        wadi_uart_listen(u->unit->block.base, &R, t, true);
    if (st != WAD_OK)
        t->data = 0;
    wad_port_irq_restore(state);
    return st;
}

void WADI_L(wadi_uart_abort)(const wad_uart *u)
{
    const uintptr_t base = u->unit->block.base;
    uint32_t state = wad_port_irq_save();
    wad_uart_transfer *out = u->sends, *in = u->receives;
    bool sent = out && out->data, received = in && in->data;
    if (u->dma && sent && out->at < out->n)
        out->at = wadi_uart_moves(u)->stop(u, true);
    if (u->dma && received)
        in->at = wadi_uart_moves(u)->stop(u, false);
    if (sent && wad_has(R.tx_ready_irq))
        wad_put(base, R.tx_ready_irq, 0);
    if (sent && wad_has(R.tx_done_irq))
        wad_put(base, R.tx_done_irq, 0);
    if (received && !u->dma)
        wadi_uart_listen(base, &R, in, false);
    if (sent)
        wadi_uart_finish(out, WAD_E_STATE);
    if (received)
        wadi_uart_finish(in, WAD_E_STATE);
    wad_port_irq_restore(state);
}

void WADI_L(wadi_uart_handle)(const wad_uart *u)
{
    wadi_uart_handle_body(u, &R);
}
