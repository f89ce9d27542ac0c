/* SPDX-License-Identifier: MIT */
/*
 * Kind uart: a serial port. Bits are counted in samples, `over` of them a bit, and samples in clock
 * edges by a divider with a fraction: sample k comes with clock edge floor(k * divider / 2 ** f)
 * after the block was enabled (the sender: after its frame began).
 */
#include "sim/core/model.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/feed.h"
#include "sim/core/report.h"
#include "state.h"

/* ---- numbers ---- */

static unsigned choose(wad_model *m, unsigned role, const char *const *codes, unsigned n,
                       unsigned otherwise)
{
    if (!wad_model_has(m, role))
        return otherwise;
    uint32_t value = wad_model_get(m, role, 0);
    for (unsigned i = 0; i < n; i++)
        if (wad_model_code(m, role, codes[i], UINT32_MAX) == value)
            return i;
    return otherwise;
}

static void read_format(wad_model *m, uart_format *f)
{
    static const char *const bits[] = {"five", "six", "seven", "eight", "nine"};
    static const char *const parities[] = {"none", "even", "odd", "mark", "space"};
    static const char *const stops[] = {"one", "one_half", "two"};
    static const char *const overs[] = {"x16", "x8"};
    f->bits = 5 + choose(m, ROLE_bits, bits, 5, 3);
    uint64_t said_bits;
    if (wad_model_whole(m, ROLE_bits, 0, &said_bits))
        f->bits = (unsigned)CLAMP(said_bits, 5, 9);
    f->parity = (parity)choose(m, ROLE_parity_mode, parities, 5, 0);
    f->stop_halves = 2 + choose(m, ROLE_stop, stops, 3, 0);
    f->over = choose(m, ROLE_over, overs, 2, 0) ? 8 : 16;
    f->frac_bits = wad_model_width(m, ROLE_divider_fraction);
    f->divider =
        (((uint64_t)wad_model_get(m, ROLE_divider, 0) + wad_model_code(m, ROLE_divider, "plus", 0))
         << f->frac_bits) +
        wad_model_get(m, ROLE_divider_fraction, 0);
    uint64_t whole;
    wad_rational said; /* the fraction counts in its own bits, or in 1/256 */
    if (wad_model_says(m, ROLE_divider, 0, &said) && said.num > 0) {
        f->frac_bits = said.den == 1 ? f->frac_bits : 8;
        whole = (uint64_t)said.num / (uint64_t)said.den;
        f->divider =
            (whole << f->frac_bits) +
            (((uint64_t)said.num % (uint64_t)said.den) << f->frac_bits) / (uint64_t)said.den +
            (said.den == 1 ? wad_model_get(m, ROLE_divider_fraction, 0) : 0);
    }
    if (!f->divider)
        f->divider = 1;
    f->msb_first = wad_model_get(m, ROLE_msb_first, 0);
    f->invert_tx = wad_model_get(m, ROLE_invert_tx, 0);
    f->invert_rx = wad_model_get(m, ROLE_invert_rx, 0);
    f->loop = wad_model_get(m, ROLE_loop, 0);
}

/* ---- the model's interface ---- */

static void init(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    uint32_t depth = wad_model_code(m, ROLE_tx_data, "depth", 1);
    s->bare = !depth;
    s->out.depth = MAX(depth, 1);
    s->in.depth = wad_model_code(m, ROLE_rx_data, "depth", 1);
    s->sticks = wad_model_code(m, ROLE_overrun, "sticks", 0) != 0;
    wadi_uart_look_up(m, s);
    wadi_uart_send_init(m);
    wadi_uart_receive_init(m);
}

/* What each byte asks for, taken when it is written. */
static void read_words(wad_model *m, uart_state *s)
{
    s->flow = wad_model_get(m, ROLE_flow, 0) != 0;
    s->half_duplex = wad_model_get(m, ROLE_half_duplex, 0) != 0;
    s->breaks = wad_model_get(m, ROLE_send_break, 0) != 0;
    s->tx_dma = wad_model_get(m, ROLE_tx_dma, 0) != 0;
    s->rx_dma = wad_model_get(m, ROLE_rx_dma, 0) != 0;
    s->tx_at = wad_model_get(m, ROLE_tx_at, 0);
    s->rx_at = wad_model_get(m, ROLE_rx_at, 0);
    s->rx_wait = wad_model_get(m, ROLE_rx_wait, 0);
}

static void reset(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    s->on = s->sends = s->receives = false;
    s->out.n = s->in.n = 0;
    read_words(m, s);
    wadi_uart_send_stop(m);
    wadi_uart_receive_stop(m);
    wadi_uart_update(m);
}

static void refresh(wad_model *m, wad_role_set roles)
{
    const uart_state *s = wad_model_state(m);
    if (roles & BIT(rx_data)) {
        uint32_t item = s->in.n ? s->in.item[s->in.first] : 0;
        wad_model_put(m, ROLE_rx_data, 0, item & 0x1FF);
        wad_model_put(m, ROLE_byte_framing, 0, (item & ERROR_FRAMING) != 0);
        wad_model_put(m, ROLE_byte_parity, 0, (item & ERROR_PARITY) != 0);
        wad_model_put(m, ROLE_byte_break, 0, (item & ERROR_BREAK) != 0);
    }
    if (roles & BIT(rx_level))
        wad_model_put(m, ROLE_rx_level, 0, s->in.n);
    if (roles & BIT(tx_level))
        wad_model_put(m, ROLE_tx_level, 0, s->out.n);
}

static void was_read(wad_model *m, const wad_register *reg)
{
    uart_state *s = wad_model_state(m);
    if (!s->in.n) {
        wad_fieldref ref = {.block = m->block->inst, .reg = reg};
        char *name = wad_fieldref_name(&ref);
        wadi_report(m->sim, WAD_FINDING_RX_EMPTY, NULL, "%s was read, and nothing had arrived",
                    name);
        g_free(name);
        return;
    }
    wadi_fifo_take(&s->in);
    s->moves++;
    wadi_uart_taken(m);
    wadi_uart_update(m);
}

static void put_byte(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    uint32_t byte = wad_model_get(m, ROLE_tx_data, 0);
    const char *name = m->block->inst->name;
    s->moves++;
    if (!s->sends)
        wadi_report(m->sim, WAD_FINDING_UART_OFF, NULL,
                    "byte 0x%02x was given to %s, whose transmitter is off: it is not sent", byte,
                    name);
    else if (!wadi_uart_has_room(s) || !wadi_fifo_put(&s->out, (uint16_t)byte))
        wadi_report(m->sim, WAD_FINDING_TX_FULL, NULL,
                    "byte 0x%02x was given to %s, which has no room for it: it is lost", byte,
                    name);
    else
        wadi_uart_send_next(m);
}

static void set_control(wad_model *m)
{
    uart_state *s = wad_model_state(m);
    bool on = wad_model_get(m, ROLE_enable, 0) && wad_model_clocked(m);
    bool sends = on && (!wad_model_has(m, ROLE_tx_enable) || wad_model_get(m, ROLE_tx_enable, 0));
    bool receives =
        on && (!wad_model_has(m, ROLE_rx_enable) || wad_model_get(m, ROLE_rx_enable, 0));
    if (on) {
        wad_model_enabled(m);
        read_format(m, &s->format);
    }
    if (on && !s->on) {
        s->grid = wad_model_edges(m);
        s->checked = false;
        if (!s->format.loop) /* inversion may have changed */
            s->line = s->before = s->pin != s->format.invert_rx;
    }
    if (s->sends && !sends && (s->sending || s->out.n)) {
        wadi_report(m->sim, WAD_FINDING_CUT_OFF, NULL,
                    "%s was switched off with %u byte%s still to send", m->block->inst->name,
                    s->out.n + s->sending, s->out.n + s->sending == 1 ? "" : "s");
        s->out.n = 0;
        wadi_uart_send_stop(m);
    }
    if (s->receives && !receives)
        wadi_uart_receive_stop(m);
    s->on = on;
    s->sends = sends;
    if (receives && !s->receives)
        wadi_uart_receive_start(m);
    s->receives = receives;
    wad_model_uses(m, ROLE_tx, 0, sends);
    wad_model_uses(m, ROLE_rx, 0, receives && !s->format.loop);
    wadi_uart_send_show(m);
    wadi_uart_send_next(m);
}

#define CONTROLS                                                                                   \
    (BIT(enable) | BIT(tx_enable) | BIT(rx_enable) | BIT(bits) | BIT(parity_mode) | BIT(stop) |    \
     BIT(over) | BIT(divider) | BIT(divider_fraction) | BIT(loop) | BIT(msb_first) |               \
     BIT(invert_tx) | BIT(invert_rx) | BIT(send_break) | BIT(flow) | BIT(half_duplex))

static void written(wad_model *m, const wad_write *w)
{
    if (w->roles & (CONTROLS | BIT(tx_at) | BIT(rx_at) | BIT(rx_wait)))
        read_words(m, wad_model_state(m));
    if (w->roles & BIT(tx_data))
        put_byte(m);
    if (w->roles & CONTROLS)
        set_control(m);
    wadi_uart_update(m);
}

static void hear(wad_model *m, unsigned role, unsigned i, bool level)
{
    uart_state *s = wad_model_state(m);
    (void)i;
    if (role == ROLE_cts) {
        s->held = level;
        wadi_uart_send_next(m);
        wadi_uart_update(m);
        return;
    }
    s->pin = level;
    if (!s->format.loop)
        wadi_uart_hear(m, level != s->format.invert_rx);
}

/* Bits of another length from here on: what is on its way is lost, as on silicon. */
static void clock_changes(wad_model *m, bool before)
{
    uart_state *s = wad_model_state(m);
    if (before) {
        if (s->on)
            wadi_rate_changes(m, s->format.over * s->format.divider >> s->format.frac_bits);
        wadi_uart_send_stop(m);
        wadi_uart_receive_stop(m);
        s->on = false;
    } else {
        set_control(m);
        wadi_uart_update(m);
    }
}

/* A handler returned and the line still asks. It moved a byte: it will be called for the next. Only
 * room to send asks, and there is nothing: said here. Else it forgot a flag. */
static bool still_asks(wad_model *m, uintptr_t handler)
{
    uart_state *s = wad_model_state(m);
    bool moved = s->moves != s->seen;
    s->seen = s->moves;
    if (moved)
        return true;
    if (wadi_feeds_ask_beside(m, ROLE_tx_ready))
        return false;
    wadi_trace trace = {{handler + 1}, 1, true};
    wadi_report_at(m->sim, WAD_FINDING_TX_NOTHING, NULL, &trace,
                   "the handler of %s returned without a byte to send, and its interrupt for room "
                   "to send is still enabled",
                   m->block->inst->name);
    return true;
}

/* A frame is on the wire, out or in, or waits to go out. */
static bool busy(wad_model *m)
{
    const uart_state *s = wad_model_state(m);
    return s->sending || s->out.n || s->receiving;
}

const wad_model_class wadi_model_uart = {.kind = "uart",
                                         .state_size = sizeof(uart_state),
                                         .live = BIT(rx_data) | BIT(rx_level) | BIT(tx_level),
                                         .on_read = BIT(rx_data),
                                         .follows = BIT(tx_ready) | BIT(rx_ready),
                                         .asks = BIT(tx_ready) | BIT(rx_ready),
                                         .init = init,
                                         .reset = reset,
                                         .refresh = refresh,
                                         .read = was_read,
                                         .written = written,
                                         .input = hear,
                                         .still_asks = still_asks,
                                         .busy = busy,
                                         .clock = clock_changes};
