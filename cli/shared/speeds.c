/* SPDX-License-Identifier: MIT */
#include "speeds.h"

static const struct {
    speed_t code;
    unsigned baud;
} speeds[] = {{B300, 300},       {B600, 600},       {B1200, 1200},      {B2400, 2400},
              {B4800, 4800},     {B9600, 9600},     {B19200, 19200},    {B38400, 38400},
              {B57600, 57600},   {B115200, 115200}, {B230400, 230400},  {B460800, 460800},
              {B500000, 500000}, {B921600, 921600}, {B1000000, 1000000}};

#define SPEEDS (sizeof speeds / sizeof *speeds)

bool cli_speed_of(unsigned baud, speed_t *code)
{
    for (unsigned i = 0; i < SPEEDS; i++)
        if (speeds[i].baud == baud) {
            *code = speeds[i].code;
            return true;
        }
    return false;
}

unsigned cli_baud_of(speed_t code)
{
    for (unsigned i = 0; i < SPEEDS; i++)
        if (speeds[i].code == code)
            return speeds[i].baud;
    return 0;
}
