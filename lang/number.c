/* SPDX-License-Identifier: MIT */
/* Numbers as people write them: 18, 0x12, 0b1_0010. */
#include <glib.h>

#include "wadium/host/words.h"

bool wad_parse_number(const char *text, uint64_t *value)
{
    char digits[80] = "";
    size_t n = 0;
    for (; *text && n + 1 < sizeof digits; text++)
        if (*text != '_' || !n)
            digits[n++] = *text;
    digits[n] = 0;
    bool binary = g_str_has_prefix(digits, "0b");
    char *end;
    const char *from = binary ? digits + 2 : digits;
    if (*text || !g_ascii_isdigit(*from))
        return false;
    bool hex = !binary && g_str_has_prefix(digits, "0x");
    *value = g_ascii_strtoull(from, &end, binary ? 2 : hex ? 16 : 10);
    return !*end && end != from && !(hex && !digits[2]);
}
