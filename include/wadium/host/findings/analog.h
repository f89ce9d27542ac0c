/* SPDX-License-Identifier: MIT */
/* Converters. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_ANALOG_H
#define WADIUM_HOST_FINDINGS_ANALOG_H

/* clang-format off */
#define WAD_FINDINGS_ANALOG(X)                                                                                  \
    X(ADC_SAMPLING,   1001, "sampling time too short for the source",                                           \
      "The capacitor does not reach the input, and every result is off towards the last channel. Sample longer, or add a buffer.")\
    X(ADC_CLOCK,      1002, "converter clock out of its limits",                                                \
      "Too fast, bits come out wrong; too slow, the capacitor leaks. Choose another prescaler.")                \
    X(ADC_NOT_READY,  1003, "conversion begun before the converter was ready",                                  \
      "It begins nothing, or gives rubbish. Enable it, and wait for its ready flag.")                           \
    X(ADC_UNCALIBRATED,1004,"conversion without a calibration",                                                 \
      "Offset and gain errors of the part are in every result. Calibrate after each power-up.")                 \
    X(ADC_EARLY,      1005, "result read before the conversion was over",                                       \
      "It is the last one again. Wait for the flag of the conversion's end.")                                   \
    X(ADC_OVERRUN,    1006, "result lost",                                                                      \
      "The next one came before it was taken. Take results by interrupt or DMA, or convert less often.")        \
    X(ADC_NO_PIN,     1007, "channel that no analog pin is given to",                                           \
      "It converts what the last channel left on the capacitor. Route the pin to its analog function.")         \
    X(ADC_DIGITAL,    1008, "digital input left on at an analog pin",                                           \
      "Between the levels it draws current, and disturbs. Switch the digital input off at the port.")           \
    X(ADC_TRIGGER,    1009, "trigger faster than the conversion",                                               \
      "Triggers that come meanwhile are lost, and the rate is not what it seems. Sample shorter, or trigger less often.")\
    X(ADC_REFERENCE,  1010, "reference not ready",                                                              \
      "Results are scaled by what it has reached so far. Wait until it has settled; look at its pin.")          \
    X(ADC_LEFT,       1011, "left-aligned result taken as it stands",                                           \
      "Each is a multiple of 2 to the power of the missing bits, and beyond full scale. Shift it right, or align right.")\
    X(ADC_RANGE,      1012, "input beyond what can be converted",                                               \
      "The result is clipped and looks plausible. Divide the voltage, or take a higher reference.")             \
    X(ADC_RESERVED,   1013, "reserved resolution",                                                              \
      "Silicon does what it likes. Clear the field before setting it: |= only adds bits.")                      \
    X(DAC_UNDERRUN,   1014, "trigger without a new value",                                                      \
      "The last value stands twice, and the wave limps. Refill sooner, at a more urgent priority.")             \
    X(ADC_ORDER,      1015, "halves of a result read in the wrong order",                                       \
      "Reading one holds the other: first that one, or the value is of two results. wad_get has it right.")
/* clang-format on */

#endif
