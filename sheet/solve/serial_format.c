/* SPDX-License-Identifier: MIT */
/* Serial formats as text: 8N1. */
#include <glib.h>
#include <stdio.h>

#include "wadium/host/rate.h"
#include "wadium/host/serial.h"

bool wad_serial_parse(const char *text, wad_serial_format *f)
{
    wad_frame frame;
    if (!wad_frame_parse(text, &frame))
        return false;
    f->bits = frame.data_bits;
    f->parity = g_ascii_toupper(text[1]);
    f->stop_halves = frame.half_stops;
    return true;
}

void wad_serial_name(const wad_serial_format *f, char *text)
{
    static const char *const stops[] = {"1", "1.5", "2"};
    snprintf(text, 8, "%u%c%s", f->bits, f->parity, stops[(f->stop_halves - 2) % 3]);
}
