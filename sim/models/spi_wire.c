/* SPDX-License-Identifier: MIT */
/*
 * Kind spi: clock, bits and selects. A frame of n bits takes 2 n half bits from its begin: the
 * clock changes at the end of each. Phase 0: a bit stands on the wire from the begin, is taken at
 * the first change and followed by the next bit at the second; phase 1: it comes with the first
 * change and is taken at the second. What is taken at a change is what stood there before it.
 */
#include "spi.h"

bool wadi_spi_busy(const spi_state *s)
{
    return s->stage == STAGE_START || s->stage == STAGE_SETUP || s->stage == STAGE_SHIFT ||
           s->stage == STAGE_HOLD || (s->stage == STAGE_PAUSE && s->out.n);
}

static bool select_level(wad_model *m, unsigned i, bool active)
{
    return active == (wad_model_get(m, ROLE_select_high, i) != 0);
}

/* ---- bits ---- */

static bool bit_of(const spi_state *s, uint32_t word, unsigned i)
{
    return word >> (s->lsb_first ? i : s->shift_bits - 1 - i) & 1;
}

static void take_bit(spi_state *s, unsigned i, bool level)
{
    unsigned place = s->lsb_first ? i : s->shift_bits - 1 - i;
    s->word_in |= (uint32_t)level << place;
}

/* What comes in: of the wire, or of the own data. */
static bool heard(const spi_state *s, unsigned i)
{
    if (s->loop)
        return bit_of(s, s->word_out, i);
    return s->controller ? s->miso_in : s->mosi_in;
}

static void show_bit(wad_model *m, const spi_state *s, unsigned i)
{
    wad_model_drive(m, s->controller ? ROLE_mosi : ROLE_miso, 0, bit_of(s, s->word_out, i));
}

/* One change of the clock, the k-th of a frame: a bit is taken, or the next one shown. */
static bool takes(const spi_state *s, unsigned k)
{
    return (k & 1) == s->phase;
}

static void after_change(wad_model *m, const spi_state *s, unsigned k)
{
    unsigned i = (k + 1) / 2; /* phase 0: after the second change the next one's bit */
    if (!takes(s, k) && (s->phase || i < s->shift_bits))
        show_bit(m, s, s->phase ? k / 2 : i);
}

/* ---- the controller ---- */

static void arm(wad_model *m, spi_state *s, uint64_t halves)
{
    wad_model_schedule(m, &s->next, wad_model_edge(m, s->at + halves * s->half));
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
    s->shift_bits = s->bits;
    s->word_out = wadi_spi_take(&s->out);
    s->word_in = 0;
    s->edge = 0;
    if (!s->checked)
        wadi_spi_check(m);
    enter(m, s, STAGE_SHIFT, at, 1);
    if (!s->phase)
        show_bit(m, s, 0);
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
    uint64_t over = s->at + (uint64_t)2 * s->shift_bits * s->half;
    uint32_t word = s->word_in;
    bool pulses = s->active && !s->select_hold;
    s->stage = STAGE_REST;
    if (pulses && s->hold) {
        enter(m, s, STAGE_HOLD, over, s->hold);
    } else if (pulses) {
        deselect(m, s, over);
    } else if (!s->out.n) {
        is_done(m);
        if (s->gap)
            enter(m, s, STAGE_PAUSE, over, s->gap);
    } else if (s->gap) {
        enter(m, s, STAGE_PAUSE, over, s->gap);
    } else {
        begin_frame(m, s, over);
    }
    wadi_spi_received(m, word);
}

static void change_clock(wad_model *m, spi_state *s)
{
    unsigned k = s->edge++;
    if (takes(s, k))
        take_bit(s, k / 2, heard(s, k / 2));
    wad_model_drive(m, ROLE_clock, 0, s->idle_high == (k & 1));
    after_change(m, s, k);
    if (s->edge == 2 * s->shift_bits)
        end_frame(m, s);
    else
        arm(m, s, s->edge + 1);
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
        begin_frame(m, s, s->at + s->setup * s->half);
        break;
    case STAGE_HOLD:
        deselect(m, s, s->at + s->hold * s->half);
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
    s->shift_bits = s->bits;
    s->word_in = 0;
    s->edge = 0;
    s->loaded = s->out.n != 0;
    s->word_out = s->loaded ? wadi_spi_take(&s->out) : 0;
    if (!s->phase)
        show_bit(m, s, 0);
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
    if (s->edge == 0 && (level == s->idle_high))
        return; /* no frame begins with a change to rest */
    if (s->edge == 0) {
        if (s->phase || !s->loaded)
            load(m, s);
        if (!s->loaded)
            underrun(m, s);
    }
    unsigned k = s->edge++;
    if (takes(s, k))
        take_bit(s, k / 2, heard(s, k / 2));
    after_change(m, s, k);
    if (s->edge < 2 * s->shift_bits)
        return;
    uint32_t word = s->word_in;
    s->frames++;
    s->edge = 0;
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
        s->edge = 0;
        s->loaded = false;
        if (!s->phase)
            load(m, s);
    } else {
        if (s->loaded && s->edge == 0 && s->out.n < s->out.depth) { /* not begun: it stays */
            s->out.first = (s->out.first + DEEPEST - 1) % DEEPEST;
            s->out.item[s->out.first] = s->word_out;
            s->out.n++;
        }
        s->loaded = false;
        s->edge = 0;
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
    s->edge = 0;
    s->loaded = false;
    if (s->active)
        drive_select(m, s, false);
}

void wadi_spi_wire_init(wad_model *m)
{
    spi_state *s = wad_model_state(m);
    s->next.fn = on_next;
}
