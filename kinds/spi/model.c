/* SPDX-License-Identifier: MIT */
/* Kind spi: registers, queues, flags. */
#include "sim/core/model.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/pin.h"
#include "sim/core/report.h"
#include "state.h"

/* ---- settings ---- */

static void read_words(wad_model *m, spi_state *s)
{
    s->select_on = wadi_spi_is_set(m, ROLE_select_on, false);
    s->select_hold = wadi_spi_is_set(m, ROLE_select_hold, false);
    s->select = wad_model_get(m, ROLE_select, 0);
    s->tx_at = wad_model_get(m, ROLE_tx_at, 0);
    s->rx_at = wad_model_get(m, ROLE_rx_at, 0);
}

/* Whatever is under way breaks off. */
static void switch_off(wad_model *m, spi_state *s)
{
    unsigned n = wadi_spi_under_way(s);
    if (n)
        wadi_report(m->sim, WAD_FINDING_SPI_CUT, NULL,
                    "%s was switched off with %u frame%s under way: the device has part of it",
                    m->block->inst->name, n, n == 1 ? "" : "s");
    if (s->in.n)
        s->unread += s->in.n;
    s->out.n = s->in.n = 0;
    wadi_spi_stop(m);
}

/* Without a pin for it a device is selected always. */
static bool select_is_wired(const wad_model *m)
{
    const wadi_binding *b = &m->roles[ROLE_chip_select];
    return b->count && b->signals && b->signals[0]->nets->len;
}

static void set_control(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    bool on = wad_model_get(m, ROLE_enable, 0) && wad_model_clocked(m);
    s->clocked = wad_model_clocked(m);
    if (s->on && !on)
        switch_off(m, s);
    s->on = on;
    s->controller = wadi_spi_is_set(m, ROLE_controller, true);
    if (on)
        wad_model_enabled(m);
    wadi_spi_read_format(m, s);
    s->checked = false;
    if (on && !s->controller && !select_is_wired(m) && !s->select_in) {
        s->select_in = true;
        wad_model_outward(m, ROLE_miso, 0, true);
    }
    wad_model_uses(m, ROLE_clock, 0, on);
    wad_model_uses(m, ROLE_chip_select, s->select_on ? s->select : 0,
                   on && s->controller && s->select_on);
    wadi_spi_show(m);
    wadi_spi_kick(m);
}

static void check_select(wad_model *m, const spi_state *s)
{
    unsigned select = wad_model_get(m, ROLE_select, 0);
    bool on = wadi_spi_is_set(m, ROLE_select_on, false);
    if (s->on && s->active && s->stage == STAGE_SHIFT && (!on || select != s->selected))
        wadi_report(m->sim, WAD_FINDING_SPI_CUT, NULL,
                    "chip select %u of %s was taken away in the middle of a frame", s->selected,
                    m->block->inst->name);
}

/* ---- frames ---- */

static void put_frame(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    uint32_t word = wad_model_get(m, ROLE_tx_data, 0) & wadi_spi_mask(s->bits);
    const char *name = m->block->inst->name;
    s->moves++;
    s->sent_trace = wadi_trace_here(m->sim);
    if (!s->on)
        wadi_report(m->sim, WAD_FINDING_SPI_OFF, NULL,
                    "frame 0x%x was given to %s, which is off: it is not sent", word, name);
    else if (!wadi_spi_has_room(m) || !wadi_fifo_put(&s->out, word))
        wadi_report(m->sim, WAD_FINDING_SPI_FULL, NULL,
                    "frame 0x%x was given to %s, which has no room for it: it is lost", word, name);
    else
        wadi_spi_kick(m);
}

static void was_read(wad_model *m, const wad_register *reg)
{
    spi_state *s = wad_model_state(m);
    (void)reg;
    s->reads++;
    if (!s->in.n) {
        unsigned n = wadi_spi_under_way(s);
        wadi_report(m->sim, WAD_FINDING_SPI_EARLY, NULL,
                    n ? "received data of %s were read with the exchange still under way: %u "
                        "frame%s to go"
                      : "received data of %s were read, and nothing had been exchanged",
                    m->block->inst->name, n, n == 1 ? "" : "s");
        return;
    }
    wadi_fifo_take(&s->in);
    s->moves++;
    wadi_spi_update(m);
}

/* ---- the model's interface ---- */

static void init(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    uint32_t depth = wad_model_code(m, ROLE_tx_data, "depth", 1);
    s->bare = !depth;
    s->out.depth = MAX(depth, 1);
    s->in.depth = wad_model_code(m, ROLE_rx_data, "depth", 1);
    s->select_in = false;
    wadi_spi_wire_init(m);
}

static void reset(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    wadi_spi_stop(m);
    s->on = false;
    s->controller = false;
    s->out.n = s->in.n = s->unread = s->reads = 0;
    read_words(m, s);
    wadi_spi_read_format(m, s);
    wadi_spi_show(m);
    wadi_spi_update(m);
}

static void refresh(wad_model *m, wad_role_set roles)
{
    const spi_state *s = wad_model_state(m);
    if (roles & BIT(rx_data))
        wad_model_put(m, ROLE_rx_data, 0, s->in.n ? s->in.item[s->in.first] : 0);
    if (roles & BIT(rx_level))
        wad_model_put(m, ROLE_rx_level, 0, s->in.n);
    if (roles & BIT(tx_level))
        wad_model_put(m, ROLE_tx_level, 0, s->out.n);
}

#define ENABLES                                                                                    \
    (BIT(tx_ready_irq) | BIT(rx_ready_irq) | BIT(done_irq) | BIT(overrun_irq) |                    \
     BIT(underrun_irq) | BIT(fault_irq))
#define FORMAT                                                                                     \
    (BIT(enable) | BIT(controller) | BIT(divider) | BIT(phase) | BIT(idle_high) | BIT(lsb_first) | \
     BIT(bits) | BIT(loop) | BIT(watch) | BIT(setup) | BIT(hold) | BIT(gap) | BIT(select_high))
#define SELECTS (BIT(select_on) | BIT(select) | BIT(select_hold) | BIT(tx_at) | BIT(rx_at))

static void written(wad_model *m, const wad_write *w)
{
    spi_state *s = wad_model_state(m);
    if (w->roles & BIT(tx_data))
        put_frame(m);
    if (w->roles & SELECTS) {
        check_select(m, s);
        read_words(m, s);
        s->select_trace = wadi_trace_here(m->sim);
        if (s->active && (!s->select_hold || !s->select_on))
            wadi_spi_release(m);
    }
    if (w->roles & FORMAT) {
        wadi_spi_check_size(m, s);
        s->format_trace = wadi_trace_here(m->sim);
    }
    if (w->roles & (FORMAT | SELECTS))
        set_control(m);
    wadi_spi_update(m);
}

/* Another controller has this one selected: it gives way. */
static void mode_fault(wad_model *m, spi_state *s)
{
    wadi_slot stand_in = {.address = m->block->inst->base};
    wadi_report_at(m->sim, WAD_FINDING_SPI_FAULT, &stand_in, &s->format_trace,
                   "another controller selected %s while it was one: it is a device now, and "
                   "drives nothing",
                   m->block->inst->name);
    wad_model_put(m, ROLE_controller, 0, 0);
    wadi_spi_flag(m, ROLE_fault);
    s->out.n = 0;
    wadi_spi_stop(m);
    set_control(m);
    wadi_spi_update(m);
}

static void hear(wad_model *m, unsigned role, unsigned i, bool level)
{
    spi_state *s = wad_model_state(m);
    if (role == ROLE_clock) {
        wadi_spi_hear_clock(m, level);
        wadi_spi_update(m);
    } else if (role == ROLE_mosi) {
        s->mosi_in = level;
    } else if (role == ROLE_miso) {
        s->miso_in = level;
    } else if (i == 0 && s->on && s->controller && s->watch) {
        if (level == (wad_model_get(m, ROLE_select_high, 0) != 0))
            mode_fault(m, s);
    } else if (i == 0) {
        wadi_spi_hear_select(m, level);
    }
}

static void clock_changes(wad_model *m, bool before)
{
    spi_state *s = wad_model_state(m);
    if (!before) {
        set_control(m);
        wadi_spi_update(m);
        return;
    }
    if (s->on)
        wadi_rate_changes(m, s->bit);
    wadi_spi_stop(m);
    s->on = false;
}

static bool still_asks(wad_model *m, uintptr_t handler)
{
    spi_state *s = wad_model_state(m);
    bool moved = s->moves != s->seen;
    (void)handler;
    s->seen = s->moves;
    return moved;
}

const wad_model_class wadi_model_spi = {.kind = "spi",
                                        .state_size = sizeof(spi_state),
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
                                        .busy = wadi_spi_works,
                                        .ended = wadi_spi_ended,
                                        .clock = clock_changes};
