/* SPDX-License-Identifier: MIT */
/* Kind spi: clock, selects and frames, which shift.h takes apart. */
#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/report.h"
#include "state.h"

static bool select_level(wad_model *m, unsigned i, bool active)
{
    return active == (wad_model_get(m, ROLE_select_high, i) != 0);
}

/* ---- bits ---- */

/* What comes in: of the wire, or of the own data. */
static bool heard(const spi_state *s, unsigned k)
{
    if (s->loop)
        return wadi_shift_bit(&s->shift, k / 2);
    return s->controller ? s->miso_in : s->mosi_in;
}

static void show_bit(wad_model *m, const spi_state *s, unsigned i)
{
    wad_model_drive(m, s->controller ? ROLE_mosi : ROLE_miso, 0, wadi_shift_bit(&s->shift, i));
}

static void begin_shift(wad_model *m, spi_state *s, uint32_t word)
{
    s->shift.phase = s->phase;
    s->shift.lsb_first = s->lsb_first;
    wadi_shift_begin(&s->shift, s->bits, word);
    if (!s->phase)
        show_bit(m, s, 0);
}

/* What is taken at a change is what stood there before it; what is shown comes behind it. */
static void take_or_show(wad_model *m, spi_state *s, unsigned k, bool before)
{
    if (before && wadi_shift_takes(&s->shift, k))
        wadi_shift_take(&s->shift, k, heard(s, k));
    else if (!before && wadi_shift_next(&s->shift, k) >= 0)
        show_bit(m, s, (unsigned)wadi_shift_next(&s->shift, k));
}

/* ---- the controller ---- */

static void arm(wad_model *m, spi_state *s, uint64_t halves)
{
    wad_model_schedule(m, &s->next, wad_model_edge(m, s->at + halves * s->bit / 2));
}

/* The stage begins where the one before ended, to the edge. */
static void enter(wad_model *m, spi_state *s, spi_stage stage, uint64_t at, uint64_t halves)
{
    s->stage = stage;
    s->at = at;
    arm(m, s, halves);
}

static void drive_select(wad_model *m, spi_state *s, bool active)
{
    s->active = active;
    wad_model_drive(m, ROLE_chip_select, s->selected, select_level(m, s->selected, active));
}

static void begin_frame(wad_model *m, spi_state *s, uint64_t at)
{
    if (!s->checked)
        wadi_spi_check(m);
    enter(m, s, STAGE_SHIFT, at, 1);
    begin_shift(m, s, wadi_fifo_take(&s->out));
}

/* The begin of all: the select where the block drives one, else the frame at once. */
static void begin(wad_model *m, spi_state *s, uint64_t at)
{
    if (s->select_on && !s->active) {
        s->selected = s->select;
        s->checked = false;
        drive_select(m, s, true);
        if (s->setup) {
            enter(m, s, STAGE_SETUP, at, s->setup);
            return;
        }
    }
    begin_frame(m, s, at);
}

static void is_done(wad_model *m)
{
    wadi_spi_flag(m, ROLE_done);
}

/* No select any more; the next one comes after a half bit at least. */
static void deselect(wad_model *m, spi_state *s, uint64_t at)
{
    drive_select(m, s, false);
    if (!s->out.n)
        is_done(m);
    enter(m, s, STAGE_PAUSE, at, s->gap + 1);
}

static void end_frame(wad_model *m, spi_state *s)
{
    uint64_t over = s->at + s->shift.bits * s->bit;
    uint32_t word = s->shift.in;
    bool pulses = s->active && !s->select_hold;
    s->stage = STAGE_REST;
    if (pulses && s->hold) {
        enter(m, s, STAGE_HOLD, over, s->hold);
    } else if (pulses) {
        deselect(m, s, over);
    } else {
        if (!s->out.n)
            is_done(m);
        if (s->gap)
            enter(m, s, STAGE_PAUSE, over, s->gap);
        else if (s->out.n)
            begin_frame(m, s, over);
    }
    wadi_spi_received(m, word);
}

static void change_clock(wad_model *m, spi_state *s)
{
    unsigned k = s->shift.edge++;
    take_or_show(m, s, k, true);
    wad_model_drive(m, ROLE_clock, 0, s->idle_high == (k & 1));
    take_or_show(m, s, k, false);
    if (wadi_shift_over(&s->shift))
        end_frame(m, s);
    else
        arm(m, s, s->shift.edge + 1);
}

static void on_next(wad_event *e)
{
    wad_model *m = e->model;
    spi_state *s = wad_model_state(m);
    switch (s->stage) {
    case STAGE_SHIFT:
        change_clock(m, s);
        return;
    case STAGE_START:
        begin(m, s, wad_model_edges(m));
        break;
    case STAGE_SETUP:
        begin_frame(m, s, s->at + s->setup * s->bit / 2);
        break;
    case STAGE_HOLD:
        deselect(m, s, s->at + s->hold * s->bit / 2);
        break;
    default:
        s->stage = STAGE_REST;
        if (s->out.n)
            begin(m, s, wad_model_edges(m));
    }
    wadi_spi_update(m);
}

void wadi_spi_kick(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    if (!s->on || !s->controller || s->stage != STAGE_REST || !s->out.n)
        return;
    s->stage = STAGE_START; /* with an edge of the clock */
    wad_model_schedule(m, &s->next, wad_model_edge(m, wad_model_edges(m) + 1));
}

void wadi_spi_release(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    if (!s->active || (s->stage != STAGE_REST && s->stage != STAGE_PAUSE))
        return;
    if (s->stage == STAGE_PAUSE && s->out.n)
        return; /* after the frame that waits */
    enter(m, s, STAGE_HOLD, wad_model_edges(m) + 1, s->hold);
}

/* ---- the device ---- */

static void load(wad_model *m, spi_state *s)
{
    s->loaded = s->out.n != 0;
    begin_shift(m, s, s->loaded ? wadi_fifo_take(&s->out) : 0);
}

/* The controller wants a frame that nobody has given. */
static void underrun(wad_model *m, const spi_state *s)
{
    wadi_slot stand_in = {.address = m->block->inst->base};
    wadi_spi_flag(m, ROLE_underrun);
    wadi_report_at(m->sim, WAD_FINDING_SPI_UNDERRUN, &stand_in, &s->format_trace,
                   "frame %u of an exchange was taken from %s, which had none to send: zeros went "
                   "out",
                   s->frames + 1, m->block->inst->name);
}

void wadi_spi_hear_clock(wad_model *m, bool level)
{
    spi_state *s = wad_model_state(m);
    bool changed = level != s->clock_in;
    s->clock_in = level;
    if (!changed || !s->on || s->controller || !s->select_in)
        return;
    if (s->shift.edge == 0 && (level == s->idle_high))
        return; /* no frame begins with a change to rest */
    if (s->shift.edge == 0) {
        if (s->phase || !s->loaded)
            load(m, s);
        if (!s->loaded)
            underrun(m, s);
    }
    unsigned k = s->shift.edge++;
    take_or_show(m, s, k, true);
    take_or_show(m, s, k, false);
    if (!wadi_shift_over(&s->shift))
        return;
    uint32_t word = s->shift.in;
    s->frames++;
    s->shift.edge = 0;
    s->loaded = false;
    if (!s->phase)
        load(m, s);
    wadi_spi_received(m, word);
}

/* A frame that is broken off is lost, and begins anew with the next select. */
void wadi_spi_hear_select(wad_model *m, bool level)
{
    spi_state *s = wad_model_state(m);
    bool active = level == (wad_model_get(m, ROLE_select_high, 0) != 0);
    bool changed = active != s->select_in;
    s->select_in = active;
    if (!changed || !s->on || s->controller)
        return;
    wad_model_outward(m, ROLE_miso, 0, active);
    if (active) {
        s->frames = 0;
        s->shift.edge = 0;
        s->loaded = false;
        if (!s->phase)
            load(m, s);
    } else {
        if (s->loaded && s->shift.edge == 0 && s->out.n < s->out.depth) { /* not begun: it stays */
            s->out.first = (s->out.first + WADI_FIFO_DEEPEST - 1) % WADI_FIFO_DEEPEST;
            s->out.item[s->out.first] = s->shift.out;
            s->out.n++;
        }
        s->loaded = false;
        s->shift.edge = 0;
        is_done(m);
    }
    wadi_spi_update(m);
}

/* ---- both ---- */

void wadi_spi_show(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    bool leads = s->controller && s->clocked;
    unsigned n = wad_model_count(m, ROLE_chip_select);
    if (s->stage != STAGE_SHIFT)
        wad_model_drive(m, ROLE_clock, 0, s->idle_high);
    wad_model_outward(m, ROLE_clock, 0, leads);
    wad_model_outward(m, ROLE_mosi, 0, leads);
    wad_model_outward(m, ROLE_miso, 0, s->on && !s->controller && s->select_in);
    for (unsigned i = 0; i < n; i++) {
        if (!s->active || i != s->selected)
            wad_model_drive(m, ROLE_chip_select, i, select_level(m, i, false));
        wad_model_outward(m, ROLE_chip_select, i, leads && !(s->watch && i == 0));
    }
}

void wadi_spi_stop(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    wad_model_cancel(m, &s->next);
    s->stage = STAGE_REST;
    s->shift.edge = 0;
    s->loaded = false;
    if (s->active)
        drive_select(m, s, false);
}

void wadi_spi_wire_init(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    s->next.fn = on_next;
}
