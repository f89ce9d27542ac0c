/* SPDX-License-Identifier: MIT */
/* Converters from volts. What the columns mean: <wadium/kinds.h>. */
#ifndef WADIUM_KINDS_ADC_H
#define WADIUM_KINDS_ADC_H

/* clang-format off */
/* Quantities and codes stand last: what a model hears must be among the first 64. */
#define WAD_ROLES_ADC(X)                                                                       \
    X(enable,       FIELD,  MAY,  "powered while 1")                                           \
    X(ready,        FLAG,   MAY,  "flag: the time to power up is over")                        \
    X(calibrate,    FIELD,  MAY,  "writing 1 begins a calibration")                            \
    X(calibrated,   FLAG,   MAY,  "flag: a calibration is over, and stands")                   \
    X(prescale,     FIELD,  MAY,  "converter clock: the block's by value + plus, or power ** value") \
    X(reference,    FIELD,  MAY,  "which reference; without it, the supply")                   \
    X(reference_ready,FLAG, MAY,  "flag: the internal reference has settled")                  \
    X(resolution,   FIELD,  MAY,  "bits: step * value + plus; without it, as wide as the result") \
    X(align_left,   FIELD,  MAY,  "the result's first bit is the register's first")            \
    X(sample,       FIELD,  MAY,  "half cycles of sampling: plus + times * value, or plus + times * power ** value, by channel") \
    X(start,        FIELD,  MUST, "writing 1 begins a conversion, or a sequence")              \
    X(stop,         FIELD,  MAY,  "writing 1 ends what is under way")                          \
    X(continuous,   FIELD,  MAY,  "it begins again by itself")                                 \
    X(length,       FIELD,  MAY,  "slots of a sequence")                                       \
    X(channel,      FIELD,  MUST, "which input, by slot")                                      \
    X(differential, FIELD,  MAY,  "against the next input instead of ground, by channel")      \
    X(is_signed,    FIELD,  MAY,  "differential results are two's complement; else offset by half") \
    X(data,         FIELD,  MUST, "the result; reading takes it; by slot where each has its own") \
    X(done,         FLAG,   MUST, "flag: a conversion is over")                                \
    X(done_irq,     FIELD,  MAY,  "interrupt enable for it")                                   \
    X(dma_on,       FIELD,  MAY,  "asks DMA to take each result")                              \
    X(dma_keep,     FIELD,  MAY,  "goes on asking behind a DMA transfer's end; without it, always") \
    X(sequence,     FLAG,   MAY,  "flag: the last slot's conversion is over")                  \
    X(sequence_irq, FIELD,  MAY,  "interrupt enable for it")                                   \
    X(overrun,      FLAG,   MAY,  "flag: a result came before the last one was taken")         \
    X(overrun_irq,  FIELD,  MAY,  "interrupt enable for it")                                   \
    X(busy,         FIELD,  MAY,  "a conversion is under way")                                 \
    X(trigger,      FIELD,  MAY,  "which trigger it listens to, as the block's list numbers them") \
    X(trigger_edge, FIELD,  MAY,  "which edges of it begin a conversion")                      \
    X(watch_on,     FIELD,  MAY,  "results are compared with two limits")                      \
    X(watch_channel,FIELD,  MAY,  "of this input only; without it, of all")                    \
    X(watch_low,    FIELD,  MAY,  "lower limit, as results are without alignment")             \
    X(watch_high,   FIELD,  MAY,  "upper limit")                                               \
    X(watch,        FLAG,   MAY,  "flag: a result was beyond them")                            \
    X(watch_irq,    FIELD,  MAY,  "interrupt enable for it")                                   \
    X(oversample,   FIELD,  MAY,  "2 ** value conversions are added up for one result")        \
    X(shift,        FIELD,  MAY,  "the sum is shifted right by so many bits")                  \
    X(internal_on,  FIELD,  MAY,  "the internal inputs are connected")                         \
    X(input,        SIGNAL, MAY,  "analog pin, by channel")                                    \
    X(reference_pin,SIGNAL, MAY,  "pin of the external reference")                             \
    X(capacitor,    FARAD,  MAY,  "sampling capacitor")                                        \
    X(switch_ohm,   OHM,    MAY,  "resistance between pin and capacitor")                      \
    X(noise,        VOLT,   MAY,  "of a conversion, effective value")                          \
    X(offset_error, VOLT,   MAY,  "before a calibration")                                      \
    X(gain_error,   SHARE,  MAY,  "before a calibration")                                      \
    X(power_up,     TIME,   MAY,  "from enable to ready")                                      \
    X(calibration,  TIME,   MAY,  "of a calibration")                                          \
    X(clock_min,    FREQ,   MAY,  "slowest converter clock")                                   \
    X(clock_max,    FREQ,   MAY,  "fastest converter clock")                                   \
    X(sample_fixed, COUNT,  MAY,  "half cycles of sampling, where no field sets them")         \
    X(convert,      COUNT,  MAY,  "half cycles of a conversion after sampling, without the bits") \
    X(convert_bit,  COUNT,  MAY,  "half cycles for each bit")                                  \
    X(internal,     VOLT,   MAY,  "the internal reference")                                    \
    X(internal_settle,TIME, MAY,  "from its selection until it can be used")                   \
    X(bandgap,      VOLT,   MAY,  "the internal input `bandgap`")                              \
    X(warm,         VOLT,   MAY,  "the internal input `temperature` at 25 degrees")            \
    X(slope,        VOLT,   MAY,  "what it falls by a degree")                                 \
    X(prescale_plus,CODE,   MAY,  "added to the prescaler value")                              \
    X(prescale_power,CODE,  MAY,  "the divider is this number to the power of the value")      \
    X(reference_supply,CODE,MAY,  "the supply")                                                \
    X(reference_internal,CODE,MAY,"the internal one")                                          \
    X(reference_external,CODE,MAY,"the pin")                                                   \
    X(resolution_plus,CODE, MAY,  "added to get the bits")                                     \
    X(resolution_step,CODE, MAY,  "bits that one of the value is worth")                       \
    X(resolution_most,CODE, MAY,  "largest value; those above are reserved")                   \
    X(sample_plus,  CODE,   MAY,  "half cycles")                                               \
    X(sample_times, CODE,   MAY,  "half cycles; 0: 1")                                         \
    X(sample_power, CODE,   MAY,  "0: the value itself counts")                                \
    X(length_plus,  CODE,   MAY,  "added to get the slots")                                    \
    X(channel_bandgap,CODE, MAY,  "internal input: the bandgap")                               \
    X(channel_temperature,CODE,MAY,"internal input: the temperature")                          \
    X(channel_half, CODE,   MAY,  "internal input: half of the supply")                        \
    X(channel_ground,CODE,  MAY,  "internal input: ground")                                    \
    X(trigger_edge_off,CODE,MAY,  "none")                                                      \
    X(trigger_edge_rise,CODE,MAY, "rising, and events")                                        \
    X(trigger_edge_fall,CODE,MAY, "falling")                                                   \
    X(trigger_edge_both,CODE,MAY, "both")
/* clang-format on */

#endif
#ifdef WAD_KIND
WAD_KIND(adc, WAD_ROLES_ADC)
#endif
