/* SPDX-License-Identifier: MIT */
#include "log.h"

#include <stdbool.h>
#include <wadium/check.h>

#define SECTORS  4u
#define SECTOR   4096u
#define RECORD   16u
#define SLOTS    (SECTOR / RECORD)
#define MARK     0x54u /* 'T': a record, and no erased byte */
#define TRIES    3u
#define WRITE_US 5000u
#define ERASE_US 200000u

/* The flash memory's commands. */
enum { IDENTIFY = 0x90, STATUS = 0x10, ENABLE = 0x20, READ = 0x30, WRITE = 0x40, ERASE = 0x50 };
enum { BUSY = 1, REFUSED = 4 };

/* ---- the memory ---- */

static void set_head(uint8_t *head, uint8_t command, uint32_t address)
{
    head[0] = command;
    head[1] = (uint8_t)(address >> 16);
    head[2] = (uint8_t)(address >> 8);
    head[3] = (uint8_t)address;
}

static wad_status read_memory(log *l, uint32_t address, void *data, size_t n)
{
    uint8_t head[4];
    set_head(head, READ, address);
    return wad_spi_write_read(l->store, head, 4, data, n, 20000);
}

static wad_status read_status(log *l, uint8_t *status)
{
    static const uint8_t command = STATUS;
    return wad_spi_write_read(l->store, &command, 1, status, 1, 1000);
}

/* Until it is not busy, looked at every so often; nothing waits for ever. */
static wad_status settle(log *l, uint32_t timeout_us, uint32_t step_us, uint8_t *status)
{
    wad_deadline last = wad_deadline_us(l->time, timeout_us);
    for (;;) {
        wad_status st = read_status(l, status);
        if (st != WAD_OK || !(*status & BUSY))
            return st;
        if (wad_deadline_passed(l->time, &last))
            return WAD_E_TIMEOUT;
        wad_delay_us(l->time, step_us);
    }
}

/* Enabled, begun, awaited: a write of `n` bytes behind their head, or an erase. */
static wad_status change(log *l, const uint8_t *head, size_t n, uint32_t timeout_us,
                         uint32_t step_us)
{
    static const uint8_t enable = ENABLE;
    uint8_t status = 0;
    wad_status st = wad_spi_write(l->store, &enable, 1, 1000);
    if (st == WAD_OK)
        st = wad_spi_write(l->store, head, n, 5000);
    if (st == WAD_OK)
        st = settle(l, timeout_us, step_us, &status);
    if (st == WAD_OK && status & REFUSED)
        st = WAD_E_STATE;
    return st;
}

/* ---- records ---- */

static void put32(uint8_t *at, uint32_t value)
{
    for (unsigned i = 0; i < 4; i++)
        at[i] = (uint8_t)(value >> (8 * i));
}

static uint32_t get32(const uint8_t *at)
{
    return at[0] | (uint32_t)at[1] << 8 | (uint32_t)at[2] << 16 | (uint32_t)at[3] << 24;
}

/* Mark, a byte of 0, checksum, number, level, time. */
static void pack(uint8_t *at, const log_record *r)
{
    at[0] = MARK;
    at[1] = 0;
    put32(at + 4, r->number);
    put32(at + 8, (uint32_t)r->level_mm);
    put32(at + 12, r->time_s);
    uint16_t crc = wad_crc16(WAD_CRC16_START, at + 4, 12);
    at[2] = (uint8_t)(crc >> 8);
    at[3] = (uint8_t)crc;
}

static bool unpack(const uint8_t *at, log_record *r)
{
    uint16_t crc = wad_crc16(WAD_CRC16_START, at + 4, 12);
    *r = (log_record){get32(at + 4), (int32_t)get32(at + 8), get32(at + 12)};
    return at[0] == MARK && at[1] == 0 && at[2] == (uint8_t)(crc >> 8) && at[3] == (uint8_t)crc &&
           r->number;
}

static bool is_blank(const uint8_t *at)
{
    for (unsigned i = 0; i < RECORD; i++)
        if (at[i] != 0xFF)
            return false;
    return true;
}

static uint32_t address_of(unsigned sector, unsigned slot)
{
    return sector * SECTOR + slot * RECORD;
}

/* ---- the end of the log ---- */

/* The first record that counts, 0 for none: broken ones may stand before it. */
static wad_status first_of(log *l, unsigned sector, uint32_t *number)
{
    uint8_t slots[4 * RECORD];
    log_record r;
    *number = 0;
    wad_status st = read_memory(l, address_of(sector, 0), slots, sizeof slots);
    for (unsigned i = 0; st == WAD_OK && i < 4 && !*number; i++)
        if (unpack(slots + i * RECORD, &r))
            *number = r.number;
    return st;
}

static wad_status read_slot(log *l, unsigned sector, unsigned slot, uint8_t *record)
{
    return read_memory(l, address_of(sector, slot), record, RECORD);
}

/* Slots are used in order, so the first blank one is found by halving; the newest record stands
 * before it, behind those that were broken off. */
static wad_status find_end(log *l)
{
    uint8_t slot[RECORD];
    log_record r = {0};
    unsigned low = 1, high = SLOTS;
    wad_status st = WAD_OK;
    while (low < high && st == WAD_OK) {
        unsigned middle = (low + high) / 2;
        st = read_slot(l, l->sector, middle, slot);
        if (is_blank(slot))
            high = middle;
        else
            low = middle + 1;
    }
    l->slot = low;
    for (unsigned at = low; at-- && st == WAD_OK && !l->count;) {
        st = read_slot(l, l->sector, at, slot);
        if (unpack(slot, &r))
            l->count = r.number;
    }
    return st;
}

wad_status log_open(log *l, const wad_spi_device *store, const wad_timebase *time)
{
    static const uint8_t command = IDENTIFY;
    uint8_t id[3], status;
    uint32_t newest = 0;
    *l = (log){.store = store, .time = time, .sector = SECTORS - 1, .slot = SLOTS};
    /* it may be busy still with what was begun before the power failed */
    wad_status st = settle(l, ERASE_US, 1000, &status);
    if (st == WAD_OK)
        st = wad_spi_write_read(store, &command, 1, id, 3, 1000);
    if (st == WAD_OK && (id[0] != 'S' || id[1] != 'k' || id[2] != 20))
        st = WAD_E_ABSENT;
    for (unsigned i = 0; st == WAD_OK && i < SECTORS; i++) {
        uint32_t number;
        st = first_of(l, i, &number);
        if (number > newest) {
            newest = number;
            l->sector = i;
        }
    }
    if (st != WAD_OK)
        return st == WAD_E_TIMEOUT ? WAD_E_ABSENT : st; /* a line that floats is busy for ever */
    return newest ? find_end(l) : WAD_OK;
}

/* ---- appending ---- */

static wad_status next_sector(log *l)
{
    uint8_t head[4];
    unsigned next = (l->sector + 1) % SECTORS;
    set_head(head, ERASE, address_of(next, 0));
    wad_status st = change(l, head, 4, ERASE_US, 2000);
    if (st != WAD_OK)
        return st;
    l->sector = next;
    l->slot = 0;
    return WAD_OK;
}

/* Written, and read back: what counts is what the memory holds. */
static wad_status write_record(log *l, const uint8_t *packet)
{
    uint8_t back[RECORD];
    uint32_t address = address_of(l->sector, l->slot);
    l->slot++; /* whatever comes of it: this slot is used */
    wad_status st = change(l, packet, 4 + RECORD, WRITE_US, 100);
    if (st == WAD_OK)
        st = read_memory(l, address, back, RECORD);
    if (st == WAD_OK)
        st = wad_check_exchange(packet + 4, back, RECORD, 8, NULL);
    return st;
}

wad_status log_append(log *l, int32_t level_mm, uint32_t time_s)
{
    const log_record r = {l->count + 1, level_mm, time_s};
    uint8_t packet[4 + RECORD];
    wad_status st = WAD_E_DATA;
    pack(packet + 4, &r);
    for (unsigned i = 0; st == WAD_E_DATA && i < TRIES; i++) {
        if (l->slot >= SLOTS) {
            st = next_sector(l);
            if (st != WAD_OK)
                return st;
        }
        set_head(packet, WRITE, address_of(l->sector, l->slot));
        st = write_record(l, packet);
    }
    if (st == WAD_OK)
        l->count = r.number;
    return st;
}

/* ---- looking one up ---- */

/* Backwards from the end: nearly always it is as many slots back as its number is. */
wad_status log_find(log *l, uint32_t number, log_record *record)
{
    unsigned at = l->sector * SLOTS + l->slot;
    for (unsigned i = 0; i < SECTORS * SLOTS; i++) {
        uint8_t slot[RECORD];
        at = at ? at - 1 : SECTORS * SLOTS - 1;
        wad_status st = read_slot(l, at / SLOTS, at % SLOTS, slot);
        if (st != WAD_OK)
            return st;
        if (unpack(slot, record) && record->number == number)
            return WAD_OK;
    }
    return WAD_E_EMPTY;
}
