/* SPDX-License-Identifier: MIT */
/*
 * A log of tide readings in flash memory that loses no acknowledged record, whenever the power
 * fails.
 *
 * Records of 16 bytes stand one after the other in a ring of sectors. A record counts when its
 * checksum is right. A slot that is not blank is never written again, so a write that was broken
 * off costs a slot and nothing else. The sector that comes next is erased when the one before is
 * full; what is lost then is the oldest quarter.
 */
#ifndef LOG_H
#define LOG_H

#include <corran32_roles.h>

typedef struct log_record {
    uint32_t number; /* from 1 */
    int32_t level_mm;
    uint32_t time_s;
} log_record;

typedef struct log {
    const wad_spi_device *store;
    const wad_timebase *time;
    uint32_t count;        /* number of the last record, 0: none */
    unsigned sector, slot; /* that the next record goes to */
} log;

/* Finds the end of the log. WAD_E_ABSENT: no flash memory answers. */
wad_status log_open(log *l, const wad_spi_device *store, const wad_timebase *time);

/* Returns WAD_OK when the record is in the memory for good. */
wad_status log_append(log *l, int32_t level_mm, uint32_t time_s);

/* The record of a number, as long as the ring holds it. WAD_E_EMPTY: it does not. */
wad_status log_find(log *l, uint32_t number, log_record *record);

#endif
