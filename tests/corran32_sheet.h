/* SPDX-License-Identifier: MIT */
/* For tests of firmware that is attached: Corran32's sheet, read once for the program. */
#ifndef CORRAN32_SHEET_H
#define CORRAN32_SHEET_H

#include "support.h"

static wad_sheet *sheet;

static int set_up(void **state)
{
    (void)state;
    sheet = test_chip("corran32");
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    wad_sheet_free(sheet);
    return 0;
}

#endif
