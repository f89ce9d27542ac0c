/* SPDX-License-Identifier: MIT */
/* What a thing of the sheet is called in C. */
#ifndef WADI_C_NAME_H
#define WADI_C_NAME_H

#include "wadium/host/sheet.h"

/** "CORRAN32" and "corran32"; free with g_free. */
char *wadi_emit_upper(const char *name);
char *wadi_emit_lower(const char *name);

/** "handle_CNT0", or "handle_PORT_1" for the second line of a block; free with g_free. */
char *wadi_emit_handler(const wad_sheet *sheet, unsigned line);

#endif
