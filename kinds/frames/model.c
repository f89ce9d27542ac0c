/* SPDX-License-Identifier: MIT */
/*
 * Kind frames: an SPI port with a memory of frames. Each has a format, a select and its times;
 * groups of them go one after the other, by number. The parity of a frame to send is noted when it
 * is written, and looked at when it begins.
 */
#include "sim/core/model.h"
#include "kinds/shared/shift.h"
#include "sim/core/block.h"
#include "sim/core/clock.h"
#include "sim/core/report.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_FRAMES(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef enum frame_stage {
    REST,
    BEGIN, /* with the next edge of the clock */
    READY, /* the device has none ready yet */
    SETUP, /* selected */
    SHIFT,
    BEHIND /* the frame's gap */
} frame_stage;

typedef struct frames_state {
    bool on, controller, loop;
    uint32_t asked; /* groups that were begun, by bit */
    unsigned group, frame, n_groups;
    frame_stage stage;
    wad_event next;
    uint64_t at;  /* clock edge of the stage's begin */
    uint64_t bit; /* clock edges of one; of an odd one the first half is the shorter */
    wadi_shift shift;
    bool idle_high;
    bool active; /* a select is */
    unsigned selected;
    bool clock_in, mosi_in, miso_in, select_in, ready_in;
    uint64_t parity; /* of frames to send, by bit */
} frames_state;

/* ---- flags ---- */

static void update(wad_model *m)
{
    const frames_state *s = wad_model_state(m);
    wad_model_put(m, ROLE_busy, 0, s->stage != REST);
}

static void flag_error(wad_model *m, unsigned role, unsigned frame)
{
    wad_model_put(m, role, 0, 1);
    wad_model_put(m, ROLE_error_frame, 0, frame);
    wad_model_event(m, role, 0);
}

/* ---- frames ---- */

static void drive_select(wad_model *m, frames_state *s, bool active)
{
    s->active = active;
    wad_model_drive(m, ROLE_chip_select, s->selected, !active);
}

static void enter(wad_model *m, frames_state *s, frame_stage stage, uint64_t at, uint64_t halves)
{
    s->stage = stage;
    s->at = at;
    wad_model_schedule(m, &s->next, wad_model_edge(m, at + halves * s->bit / 2));
}

static void show_bit(wad_model *m, const frames_state *s, unsigned i)
{
    wad_model_drive(m, s->controller ? ROLE_mosi : ROLE_miso, 0, wadi_shift_bit(&s->shift, i));
}

/* False: its parity is wrong. */
static bool load(wad_model *m, frames_state *s)
{
    unsigned f = wad_model_get(m, ROLE_format, s->frame);
    uint32_t word = wad_model_get(m, ROLE_tx, s->frame);
    unsigned bits = wad_model_get(m, ROLE_bits, f) + wad_model_code(m, ROLE_bits, "plus", 0);
    uint64_t said;
    if (wad_model_whole(m, ROLE_bits, f, &said))
        bits = (unsigned)CLAMP(said, 4, 32);
    uint32_t divider =
        (wad_model_get(m, ROLE_divider, f) + wad_model_code(m, ROLE_divider, "plus", 0)) *
        wad_model_code(m, ROLE_divider, "times", 1);
    if (wad_model_whole(m, ROLE_divider, f, &said))
        divider = (uint32_t)said;
    s->bit = MAX(divider, 2u);
    s->shift.phase = wad_model_get(m, ROLE_phase, f);
    s->shift.lsb_first = wad_model_get(m, ROLE_lsb_first, f);
    s->idle_high = wad_model_get(m, ROLE_idle_high, f);
    wadi_shift_begin(&s->shift, CLAMP(bits, 4u, 32u), word);
    return !wad_model_get(m, ROLE_parity_on, 0) ||
           (s->parity >> s->frame & 1) == (uint64_t)__builtin_parity(word);
}

static void next_group(wad_model *m);

/* The group is over, well or not. */
static void end_group(wad_model *m, frames_state *s, bool good)
{
    if (s->active && !good)
        drive_select(m, s, false);
    s->stage = REST;
    s->asked &= ~(1u << s->group);
    if (good) {
        wad_model_put(m, ROLE_done, s->group, 1);
        wad_model_event(m, ROLE_done, s->group);
    }
    next_group(m);
}

static void shift_now(wad_model *m, frames_state *s, uint64_t at)
{
    enter(m, s, SHIFT, at, 1);
    if (!s->shift.phase)
        show_bit(m, s, 0);
}

static void select_and_shift(wad_model *m, frames_state *s, uint64_t at)
{
    unsigned select = wad_model_get(m, ROLE_select, s->frame);
    bool on = wad_model_get(m, ROLE_select_on, s->frame), fresh = !s->active;
    if (s->active && (!on || select != s->selected)) {
        drive_select(m, s, false);
        fresh = true;
    }
    wad_model_drive(m, ROLE_clock, 0, s->idle_high);
    if (on && fresh) {
        s->selected = select;
        drive_select(m, s, true);
        if (wad_model_get(m, ROLE_setup, s->frame)) {
            enter(m, s, SETUP, at, wad_model_get(m, ROLE_setup, s->frame));
            return;
        }
    }
    shift_now(m, s, at);
}

static void begin_frame(wad_model *m, frames_state *s, uint64_t at)
{
    if (!load(m, s)) {
        flag_error(m, ROLE_parity, s->frame);
        end_group(m, s, false);
    } else if (wad_model_get(m, ROLE_wait_ready, s->frame) && s->ready_in) {
        s->stage = READY;
    } else {
        select_and_shift(m, s, at);
    }
}

static void next_group(wad_model *m)
{
    frames_state *s = wad_model_state(m);
    if (!s->on || s->stage != REST || !s->asked)
        return;
    s->group = (unsigned)__builtin_ctz(s->asked);
    s->frame = wad_model_get(m, ROLE_first, s->group);
    if (!s->controller) { /* the other one's clock moves it */
        s->stage = READY;
        return;
    }
    s->bit = 2;
    enter(m, s, BEGIN, wad_model_edges(m) + 1, 0);
}

/* The last frame, or the next one; round the memory's end as well. */
static void step(wad_model *m, frames_state *s)
{
    if (s->frame == wad_model_get(m, ROLE_last, s->group)) {
        end_group(m, s, true);
        return;
    }
    s->frame = (s->frame + 1) % wad_model_count(m, ROLE_tx);
    if (s->controller)
        begin_frame(m, s, wad_model_edges(m));
}

static void end_frame(wad_model *m, frames_state *s)
{
    wad_model_put(m, ROLE_rx, s->frame, s->shift.in);
    if (s->active && !wad_model_get(m, ROLE_hold, s->frame))
        drive_select(m, s, false);
    enter(m, s, BEHIND, s->at + s->shift.bits * s->bit, wad_model_get(m, ROLE_gap, s->frame) + 1);
}

static void behind_frame(wad_model *m, frames_state *s)
{
    s->stage = REST;
    if (wad_model_get(m, ROLE_wait_ready, s->frame) && !s->ready_in) {
        flag_error(m, ROLE_desync, s->frame);
        end_group(m, s, false);
    } else {
        step(m, s);
    }
}

static bool heard(const frames_state *s, unsigned k)
{
    if (s->loop)
        return wadi_shift_bit(&s->shift, k / 2);
    return s->controller ? s->miso_in : s->mosi_in;
}

static void take_or_show(wad_model *m, frames_state *s, unsigned k, bool before)
{
    if (before && wadi_shift_takes(&s->shift, k))
        wadi_shift_take(&s->shift, k, heard(s, k));
    else if (!before && wadi_shift_next(&s->shift, k) >= 0)
        show_bit(m, s, (unsigned)wadi_shift_next(&s->shift, k));
}

static void change_clock(wad_model *m, frames_state *s)
{
    unsigned k = s->shift.edge++;
    take_or_show(m, s, k, true);
    wad_model_drive(m, ROLE_clock, 0, s->idle_high == (k & 1));
    take_or_show(m, s, k, false);
    if (wadi_shift_over(&s->shift))
        end_frame(m, s);
    else
        wad_model_schedule(m, &s->next,
                           wad_model_edge(m, s->at + (s->shift.edge + 1) * s->bit / 2));
}

static void on_next(wad_event *e)
{
    wad_model *m = e->model;
    frames_state *s = wad_model_state(m);
    if (s->stage == SHIFT)
        change_clock(m, s);
    else if (s->stage == BEGIN)
        begin_frame(m, s, wad_model_edges(m));
    else if (s->stage == SETUP)
        shift_now(m, s, wad_model_edges(m));
    else if (s->stage == BEHIND)
        behind_frame(m, s);
    update(m);
}

/* ---- as a device ---- */

/* The frame that the controller is to take next. */
static void begin_answer(wad_model *m, frames_state *s)
{
    if (!load(m, s)) {
        flag_error(m, ROLE_parity, s->frame);
        end_group(m, s, false);
        return;
    }
    s->stage = SHIFT;
    if (!s->shift.phase)
        show_bit(m, s, 0);
}

static void hear_clock(wad_model *m, frames_state *s, bool level)
{
    bool changed = level != s->clock_in;
    s->clock_in = level;
    if (!changed || !s->on || s->controller || !s->select_in || s->stage != SHIFT)
        return;
    if (!s->shift.edge && level == s->idle_high)
        return;
    unsigned k = s->shift.edge++;
    take_or_show(m, s, k, true);
    take_or_show(m, s, k, false);
    if (!wadi_shift_over(&s->shift))
        return;
    wad_model_put(m, ROLE_rx, s->frame, s->shift.in);
    step(m, s);
    if (s->stage == REST || s->stage == READY) /* the group was over, or another one is to come */
        return;
    begin_answer(m, s);
}

static void hear_select(wad_model *m, frames_state *s, bool active)
{
    bool changed = active != s->select_in;
    s->select_in = active;
    if (!changed || !s->on || s->controller)
        return;
    wad_model_outward(m, ROLE_miso, 0, active);
    if (active && s->stage == READY) {
        begin_answer(m, s);
    } else if (!active && s->stage == SHIFT) {
        if (s->shift.edge)
            flag_error(m, ROLE_length, s->frame);
        s->stage = READY; /* the frame begins anew with the next select */
    }
}

/* ---- the model's interface ---- */

static void stop(wad_model *m, frames_state *s)
{
    wad_model_cancel(m, &s->next);
    s->stage = REST;
    s->asked = 0;
    if (s->active)
        drive_select(m, s, false);
}

static void set_control(wad_model *m)
{
    frames_state *s = wad_model_state(m);
    bool on = wad_model_get(m, ROLE_enable, 0) && wad_model_clocked(m);
    s->controller = wad_model_has(m, ROLE_controller) ? wad_model_get(m, ROLE_controller, 0) : true;
    s->loop = wad_model_get(m, ROLE_loop, 0);
    if (s->on && !on) {
        if (s->stage != REST)
            wadi_report(m->sim, WAD_FINDING_SPI_CUT, NULL,
                        "%s was switched off with group %u under way, at frame %u",
                        m->block->inst->name, s->group, s->frame);
        stop(m, s);
    }
    s->on = on;
    bool leads = on && s->controller;
    if (on)
        wad_model_enabled(m);
    wad_model_outward(m, ROLE_clock, 0, leads);
    wad_model_outward(m, ROLE_mosi, 0, leads);
    for (unsigned i = 0; i < wad_model_count(m, ROLE_chip_select); i++) {
        if (!s->active || s->selected != i)
            wad_model_drive(m, ROLE_chip_select, i, true);
        wad_model_outward(m, ROLE_chip_select, i, leads);
    }
    wad_model_uses(m, ROLE_clock, 0, on);
    next_group(m);
}

static void init(wad_model *m)
{
    frames_state *s = wad_model_state(m);
    s->next.fn = on_next;
    s->n_groups = MIN(wad_model_count(m, ROLE_done), 32u);
    s->ready_in = true;
}

static void reset(wad_model *m)
{
    frames_state *s = wad_model_state(m);
    stop(m, s);
    s->on = false;
    s->parity = 0;
    set_control(m);
    update(m);
}

static void begin_groups(wad_model *m, const wad_write *w)
{
    frames_state *s = wad_model_state(m);
    if (!s->on) {
        wadi_report(m->sim, WAD_FINDING_SPI_OFF, NULL,
                    "a group of frames was begun on %s, which is off: nothing is sent",
                    m->block->inst->name);
        return;
    }
    for (unsigned i = 0; i < s->n_groups; i++) {
        const wadi_part *p = &m->roles[ROLE_start].parts[i];
        if (w->wrote >> p->lsb & 1)
            s->asked |= 1u << i;
    }
    next_group(m);
}

static void written(wad_model *m, const wad_write *w)
{
    frames_state *s = wad_model_state(m);
    if (w->roles & BIT(tx)) {
        uint64_t bit = UINT64_C(1) << w->reg_index;
        s->parity = __builtin_parity(w->after) ? s->parity | bit : s->parity & ~bit;
    }
    if (w->roles & BIT(flip_bit)) {
        unsigned frame = wad_model_get(m, ROLE_flip_frame, 0);
        uint32_t bit = 1u << wad_model_get(m, ROLE_flip_bit, 0);
        wad_model_put(m, ROLE_tx, frame, wad_model_get(m, ROLE_tx, frame) ^ bit);
    }
    if (w->roles & BIT(start))
        begin_groups(m, w);
    if (w->roles & BIT(enable))
        set_control(m);
    update(m);
}

static void hear(wad_model *m, unsigned role, unsigned i, bool level)
{
    frames_state *s = wad_model_state(m);
    if (role == ROLE_clock) {
        hear_clock(m, s, level);
    } else if (role == ROLE_mosi) {
        s->mosi_in = level;
    } else if (role == ROLE_miso) {
        s->miso_in = level;
    } else if (role == ROLE_ready) {
        s->ready_in = level;
        if (!level && s->stage == READY && s->controller) { /* with the next edge of the clock */
            s->bit = 2;
            enter(m, s, BEGIN, wad_model_edges(m) + 1, 0);
        }
    } else if (i == 0) {
        hear_select(m, s, !level);
    }
    update(m);
}

static void clock_changes(wad_model *m, bool before)
{
    frames_state *s = wad_model_state(m);
    if (before) {
        if (s->on && s->stage != REST)
            wadi_rate_changes(m, s->bit);
        stop(m, s);
        s->on = false;
    } else {
        set_control(m);
        update(m);
    }
}

static bool busy(wad_model *m)
{
    const frames_state *s = wad_model_state(m);
    return s->stage != REST;
}

const wad_model_class wadi_model_frames = {.kind = "frames",
                                           .state_size = sizeof(frames_state),
                                           .init = init,
                                           .reset = reset,
                                           .written = written,
                                           .input = hear,
                                           .busy = busy,
                                           .clock = clock_changes};
