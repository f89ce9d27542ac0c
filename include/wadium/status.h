/* SPDX-License-Identifier: MIT */
/*
 * What every call returns that can fail.
 *
 *     wad_status st = wad_timer_open(&blink, &corran32_cnt0, WAD_PERIOD_MS(500), &error_ppm);
 *     if (st != WAD_OK)
 *         show(wad_status_text(st));
 */
#ifndef WADIUM_STATUS_H
#define WADIUM_STATUS_H

/* clang-format off */
#define WAD_STATUSES(X)                                                      \
    X(OK,        "done")                                                     \
    X(E_ARG,     "an argument is missing or out of its stated range")        \
    X(E_RANGE,   "the hardware cannot reach the wanted value; nothing was written") \
    X(E_TIMEOUT, "a ready flag did not come in time")                        \
    X(E_STATE,   "not now: open it first, or stop it first")                 \
    X(E_ABSENT,  "this chip has no such thing")                              \
    X(E_EMPTY,   "nothing has come yet")                                     \
    X(E_DATA,    "what came is not what was sent")
/* clang-format on */

typedef enum wad_status {
#define WAD_STATUS_CODE(name, text) WAD_##name,
    WAD_STATUSES(WAD_STATUS_CODE)
#undef WAD_STATUS_CODE
} wad_status;

#if defined(__GNUC__)
#define WAD_MUST_CHECK __attribute__((warn_unused_result))
#else
#define WAD_MUST_CHECK
#endif

/** One line of English for a status. Never blocks; a handler may call it. */
const char *wad_status_text(wad_status status);

#endif
