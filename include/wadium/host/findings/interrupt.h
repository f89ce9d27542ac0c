/* SPDX-License-Identifier: MIT */
/* Interrupts, their handlers, and the way there. What the columns mean: <wadium/host/finding.h>. */
#ifndef WADIUM_HOST_FINDINGS_INTERRUPT_H
#define WADIUM_HOST_FINDINGS_INTERRUPT_H

/* clang-format off */
#define WAD_FINDINGS_INTERRUPT(X)                                                                               \
    X(NO_HANDLER,      301, "interrupt without a handler",                                                      \
      "The default handler parks for ever. Write the handler by the name in the generated vector table.")       \
    X(STORM,           302, "handler returned with its flag still set",                                         \
      "It is entered again at once and main stands still. Clear the flag in the handler.")                      \
    X(STALE_FLAG,      303, "interrupt enabled with its flag already set",                                      \
      "The handler runs at once for an old event. Clear the flag before enabling.")                             \
    X(CHAIN_LINE,      304, "interrupt enabled at the block but not at the controller",                         \
      "The handler never runs. Enable the line at the interrupt controller.")                                   \
    X(CHAIN_MASK,      305, "interrupt enabled but the global mask is closed",                                  \
      "The handler never runs. Open the global mask when set-up is done.")                                      \
    X(CHAIN_FLAG,      306, "interrupt enabled but its flag was never raised",                                  \
      "The handler never runs. Check that the block is enabled, clocked, and its period is right.")             \
    X(CHAIN_PRIORITY,  307, "interrupt enabled but never more urgent than what runs",                           \
      "The handler never runs. Another handler of the same or a more urgent priority never ends.")              \
    X(SLOW_HANDLER,    308, "handler takes longer than its period",                                             \
      "Events are lost and main starves. Do less in the handler, or ask for it less often.")                    \
    X(COMPARE_MISSED,  309, "compare value that will not be met",                                               \
      "The match comes after a whole round, or never. Set it from the last compare, and look at the count afterwards.")\
    X(PERIOD_GLITCH,   310, "period changed in the middle",                                                     \
      "The count is past the new end and runs on to its largest value. Change it shadowed, or at the wrap.")    \
    X(LATE_INTERRUPT,  311, "interrupt served later than required",                                             \
      "What held it up must be less urgent, or shorter. Give it a more urgent priority than the other one.")    \
    X(HANDLER_WAITS,   312, "handler that waits",                                                               \
      "Everything that is no more urgent stands still. Note what came, return, and let main wait.")             \
    X(TICK_MODULO,     313, "tick count tested for a multiple in a loop",                                       \
      "The loop runs faster than the tick and repeats, or slower and misses. Keep the time of the next turn, and compare.")\
    X(NO_VECTOR,       314, "handler that belongs to no interrupt",                                             \
      "Nothing calls it, and the interrupt that it was for parks. Name it as 'wadium show CHIP vectors' does.")
/* clang-format on */

#endif
