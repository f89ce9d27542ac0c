/* SPDX-License-Identifier: MIT */
#ifndef WADI_CSV_READ_H
#define WADI_CSV_READ_H

#include "wadium/host/recording.h"

/** A table's signals, to a listener as a VCD file's; false: `diags`. */
bool wadi_csv_read(const char *path, const wad_vcd_listener *to, wad_diags *diags);

#endif
