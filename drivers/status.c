/* SPDX-License-Identifier: MIT */
#include <wadium/status.h>

const char *wad_status_text(wad_status status)
{
    static const char *const texts[] = {
#define TEXT(name, text) text,
        WAD_STATUSES(TEXT)
#undef TEXT
    };
    return (unsigned)status < sizeof texts / sizeof texts[0] ? texts[status] : "unknown status";
}
