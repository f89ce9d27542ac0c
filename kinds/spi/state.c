/* SPDX-License-Identifier: MIT */
/* Kind spi: what its files share. */
#include "state.h"

#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/report.h"

bool wadi_spi_works(wad_model *m)
{
    const spi_state *s = wad_model_state(m);
    return s->controller ? wadi_spi_busy(s) : s->shift.edge != 0;
}

bool wadi_spi_has_room(wad_model *m)
{
    const spi_state *s = wad_model_state(m);
    return s->out.n < s->out.depth && !(s->bare && wadi_spi_works(m));
}

/* Flags that follow from the queues. */
void wadi_spi_update(wad_model *m)
{
    const spi_state *s = wad_model_state(m);
    bool room = s->out.n <= s->tx_at && wadi_spi_has_room(m);
    wad_model_put(m, ROLE_tx_ready, 0, room);
    wad_model_put(m, ROLE_rx_ready, 0, s->in.n > s->rx_at);
    wad_model_put(m, ROLE_busy, 0, wadi_spi_works(m));
    if (m->asks) {
        wad_model_request(m, ROLE_tx_ready, 0, s->on && room && wad_model_get(m, ROLE_tx_dma, 0));
        wad_model_request(m, ROLE_rx_ready, 0,
                          s->in.n > s->rx_at && wad_model_get(m, ROLE_rx_dma, 0));
    }
}

void wadi_spi_flag(wad_model *m, unsigned role)
{
    wad_model_put(m, role, 0, 1);
    wad_model_event(m, role, 0);
}

static uint64_t divider(wad_model *m)
{
    uint64_t value = wad_model_get(m, ROLE_divider, 0), d = value;
    if (wad_model_whole(m, ROLE_divider, 0, &d))
        return MAX(d, 2);
    d = value;
    uint32_t power = wad_model_code(m, ROLE_divider, "power", 0);
    if (power)
        for (d = 1; value; value--)
            d *= power;
    d = (d + wad_model_code(m, ROLE_divider, "plus", 0)) *
        wad_model_code(m, ROLE_divider, "times", 1);
    return d < 2 ? 2 : d;
}

static unsigned frame_bits(wad_model *m)
{
    uint64_t said;
    if (wad_model_whole(m, ROLE_bits, 0, &said))
        return (unsigned)CLAMP(said, 4, 32);
    if (!wad_model_has(m, ROLE_bits))
        return 8;
    uint32_t bits = wad_model_get(m, ROLE_bits, 0) * wad_model_code(m, ROLE_bits, "step", 1) +
                    wad_model_code(m, ROLE_bits, "plus", 0);
    return CLAMP(bits, 4, 32);
}

bool wadi_spi_is_set(wad_model *m, unsigned role, bool otherwise)
{
    return wad_model_has(m, role) ? wad_model_get(m, role, 0) != 0 : otherwise;
}

void wadi_spi_read_format(wad_model *m, spi_state *s)
{
    s->bit = divider(m);
    s->bits = frame_bits(m);
    s->phase = wadi_spi_is_set(m, ROLE_phase, false);
    s->idle_high = wadi_spi_is_set(m, ROLE_idle_high, false);
    s->lsb_first = wadi_spi_is_set(m, ROLE_lsb_first, false);
    s->loop = wadi_spi_is_set(m, ROLE_loop, false);
    s->watch = wadi_spi_is_set(m, ROLE_watch, false);
    s->setup = wad_model_get(m, ROLE_setup, 0);
    s->hold = wad_model_get(m, ROLE_hold, 0);
    s->gap = wad_model_get(m, ROLE_gap, 0);
}

unsigned wadi_spi_under_way(const spi_state *s)
{
    return s->controller ? s->out.n + (s->stage == STAGE_SHIFT) : s->shift.edge != 0;
}

/* The size may be another one between frames, not in one. */
void wadi_spi_check_size(wad_model *m, const spi_state *s)
{
    unsigned bits = frame_bits(m);
    if (s->on && bits != s->bits && wadi_spi_under_way(s))
        wadi_report(m->sim, WAD_FINDING_SPI_RESIZED, NULL,
                    "frames of %s were made %u bits long, from %u, with %u under way",
                    m->block->inst->name, bits, s->bits, wadi_spi_under_way(s));
}

void wadi_spi_received(wad_model *m, uint32_t word)
{
    spi_state *s = wad_model_state(m);
    s->last_ps = m->sim->now;
    if (!wadi_fifo_put(&s->in, word)) {
        wadi_slot stand_in = {.address = m->block->inst->base};
        wadi_spi_flag(m, ROLE_overrun);
        wadi_report_at(m->sim, WAD_FINDING_SPI_OVERRUN, &stand_in, &s->sent_trace,
                       "%s has lost a frame: %u that came before it %s not been read",
                       m->block->inst->name, s->in.n, s->in.n == 1 ? "has" : "have");
    } else {
        wad_model_event(m, ROLE_rx_ready, 0);
    }
    wadi_spi_update(m);
}

bool wadi_spi_busy(const spi_state *s)
{
    return s->stage == STAGE_START || s->stage == STAGE_SETUP || s->stage == STAGE_SHIFT ||
           s->stage == STAGE_HOLD || (s->stage == STAGE_PAUSE && s->out.n);
}
