/* SPDX-License-Identifier: MIT */
/* Kind adc: what its two files share. */
#ifndef WADI_MODEL_ADC_H
#define WADI_MODEL_ADC_H

#include "sim/core/block.h"
#include "sim/core/model.h"
#include "sim/core/report.h"
#include "sim/electric/volt.h"
#include "wadium/kinds.h"

enum {
#define ROLE(name, sort, need, text) ROLE_##name,
    WAD_ROLES_ADC(ROLE)
#undef ROLE
};

#define BIT(role) WAD_ROLE_BIT(ROLE_##role)

typedef struct adc_state {
    wad_event up, calibrated, settled, sampled, over;
    bool converting, unread, seen; /* seen: a result was there at some time */
    bool warned_left;
    /* how things are, whatever became of the flags that say it */
    bool is_ready, is_calibrated, has_settled;
    bool quiet;          /* asks DMA no more: its transfer has ended */
    unsigned slot, left; /* slots done; conversions of this result still to come */
    uint64_t sum;
    uint64_t begin;      /* edge of the conversion's begin */
    double cap, cap_neg; /* volts on the sampling capacitors */
    uint32_t result;     /* the last, as it is read */
    uint32_t code;       /* of the conversion under way, once it is sampled */
    wadi_trace set;      /* who began it, or chose the trigger */
    uint64_t noise;
    unsigned reads_left; /* of left-aligned results, as they stand */
} adc_state;

/** A finding at the line that began the conversion, or set its trigger. */
#define ADC_COMPLAIN(m, s, kind, ...)                                                              \
    do {                                                                                           \
        wadi_slot stand_in = {.address = (m)->block->inst->base};                                  \
        if (!wadi_report_again((m)->sim, WAD_FINDING_##kind, &stand_in, &(s)->set))                \
            wadi_report_at((m)->sim, WAD_FINDING_##kind, &stand_in, &(s)->set, __VA_ARGS__);       \
    } while (0)

static inline unsigned adc_channel(const wad_model *m, const adc_state *s)
{
    return wad_model_get(m, ROLE_channel, s->slot);
}

unsigned adc_bits(const wad_model *m);
/** Clock edges of the block for so many half cycles of the converter. */
uint64_t adc_edges(const wad_model *m, unsigned halves);
unsigned adc_sample_halves(const wad_model *m, unsigned channel);
/** The reference in volts, 0: there is none. */
double adc_reference(const wad_model *m);
/** Pins, clock and reference as they should be when a conversion begins. */
void adc_check(wad_model *m, adc_state *s);
/** The sampling time is over: the capacitors hold what they have reached. */
void adc_take(wad_model *m, adc_state *s);

#endif
