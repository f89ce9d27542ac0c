/* SPDX-License-Identifier: MIT */
/* What a thing of the sheet is called in C. */
#ifndef WADI_C_NAME_H
#define WADI_C_NAME_H

#include "wadium/host/sheet.h"

/** "CORRAN32" and "corran32"; of a unit "TIM.S[3]" TIM_S3; free with g_free. */
char *wadi_emit_upper(const char *name);
char *wadi_emit_lower(const char *name);
char *wadi_emit_name(const char *name);

/** A group lies by itself if no other register lies within it: then it is an array of structs. */
bool wadi_is_struct(const wad_layout *layout, const wad_group *g);
/** The register's name in the header's macros: "CC", of an element that differs "CC0"; `element`
 * UINT32_MAX: of them all; free with g_free. */
char *wadi_emit_register(const wad_register *reg, uint32_t element);
/** "CORRAN32_DMA0->CH[3].READ", as the generated header has it; free with g_free. */
char *wadi_emit_place(const wad_sheet *sheet, const wad_fieldref *ref);

/** "handle_CNT0"; of several lines "handle_CNT0_wrap" where the line serves one flag, else
 * "handle_CNT0_1"; "handle_TIMERS" where the sheet names the line; free with g_free. */
char *wadi_emit_handler(const wad_sheet *sheet, unsigned line);

#endif
