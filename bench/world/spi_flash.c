/* SPDX-License-Identifier: MIT */
/*
 * A made-up flash memory of 1 MiB: pages of 256 bytes, sectors of 4 KiB.
 *
 *     0x90 identify   3 bytes: 'S', 'k', 20 (2 ** 20 bytes)
 *     0x10 status     bit 0 BUSY, bit 1 ENABLED, bit 2 REFUSED: the last write or erase was not
 * done 0x20 enable     one write or erase is let through; 0x21 takes it back 0x30 read       3
 * bytes of address, then data on and on 0x40 write      3 bytes of address, then up to 256 bytes,
 * round and round in their page; done when the select ends; bits only go from 1 to 0 0x50 erase 3
 * bytes of address: its sector, to ones; 0x5C erases all 0x60 protect    one byte: so many 64 KiB
 * from the top take no write and no erase
 *
 * As real ones do it takes nothing but status while it is busy, nothing that was not enabled, and
 * nothing whose select ends in the middle of a byte. Power that fails in a write leaves the bytes
 * that were done, one that is half done, and the others; in an erase, a sector of anything.
 */
#include <glib.h>
#include <string.h>

#include "wadium/host/output.h"
#include "wadium/host/part.h"

#define SIZE   (1u << 20)
#define PAGE   256u
#define SECTOR 4096u

#define WRITE_PS     UINT64_C(700000000)     /* 0.7 ms */
#define ERASE_PS     UINT64_C(40000000000)   /* 40 ms */
#define ERASE_ALL_PS UINT64_C(2000000000000) /* 2 s */

enum {
    IDENTIFY = 0x90,
    STATUS = 0x10,
    ENABLE = 0x20,
    DISABLE = 0x21,
    READ = 0x30,
    WRITE = 0x40,
    ERASE = 0x50,
    ERASE_ALL = 0x5C,
    PROTECT = 0x60
};

typedef struct flash {
    uint8_t *bytes;
    /* the select under way */
    uint8_t command;
    uint32_t address;
    bool ignored;       /* the whole of it: it came while busy */
    uint8_t page[PAGE]; /* data to write, by place in the page */
    bool given[PAGE];
    unsigned n;
    /* between selects */
    bool enabled, refused;
    unsigned protected_blocks;
    /* a write or an erase under way */
    bool busy, erases;
    uint64_t begin_ps, length_ps;
    uint32_t from, count; /* bytes it works on; for a write a page */
} flash;

static bool is_busy(wad_part *p, flash *f)
{
    return f->busy && wad_part_now(p) < f->begin_ps + f->length_ps;
}

static void write_byte(flash *f, unsigned place)
{
    if (f->given[place])
        f->bytes[f->from + place] &= f->page[place];
}

/* What was begun is done. */
static void settle(wad_part *p, flash *f)
{
    if (!f->busy || is_busy(p, f))
        return;
    f->busy = false;
    if (f->erases)
        memset(f->bytes + f->from, 0xFF, f->count);
    for (unsigned i = 0; i < PAGE && !f->erases; i++)
        write_byte(f, i);
}

static uint32_t next(wad_part *p, unsigned i)
{
    static const uint8_t id[] = {'S', 'k', 20};
    flash *f = wad_part_state(p);
    settle(p, f);
    if (i == 0 || f->ignored)
        return 0xFF;
    if (f->command == IDENTIFY)
        return id[(i - 1) % 3];
    if (f->command == STATUS)
        return (uint32_t)(is_busy(p, f) | f->enabled << 1 | f->refused << 2);
    if (f->command == READ && i >= 4)
        return f->bytes[f->address++ % SIZE];
    return 0xFF;
}

static void take_data(flash *f, unsigned i, uint8_t byte)
{
    if (i <= 3 && (f->command == READ || f->command == WRITE || f->command == ERASE)) {
        f->address = (f->address << 8 | byte) % SIZE;
    } else if (f->command == WRITE) {
        f->page[f->address % PAGE] = byte;
        f->given[f->address % PAGE] = true;
        f->address = (f->address & ~(PAGE - 1)) | ((f->address + 1) & (PAGE - 1));
        f->n++;
    } else if (f->command == PROTECT && i == 1) {
        f->n = byte;
    }
}

static void came(wad_part *p, unsigned i, uint32_t frame)
{
    flash *f = wad_part_state(p);
    if (i) {
        if (!f->ignored)
            take_data(f, i, (uint8_t)frame);
        return;
    }
    f->command = (uint8_t)frame;
    f->address = 0;
    f->n = 0;
    f->ignored = is_busy(p, f) && frame != STATUS;
    if (f->ignored)
        wad_part_refuse(p, "command 0x%02x came while it was busy", frame);
    else if (frame == WRITE)
        memset(f->given, 0, sizeof f->given);
}

/* ---- what a select's end sets going ---- */

static void begin_work(wad_part *p, flash *f, bool erases, uint32_t from, uint32_t count)
{
    f->busy = true;
    f->erases = erases;
    wad_part_count(p, erases ? "erases" : "writes");
    f->from = from;
    f->count = count;
    f->begin_ps = wad_part_now(p);
    f->length_ps = !erases ? WRITE_PS : count == SIZE ? ERASE_ALL_PS : ERASE_PS;
}

static bool is_protected(const flash *f, uint32_t from, uint32_t count)
{
    return from + count > SIZE - f->protected_blocks * 65536u;
}

static void change_memory(wad_part *p, flash *f, unsigned frames, unsigned bits)
{
    const char *what = f->command == WRITE ? "page write" : "erase";
    uint32_t from = f->command == WRITE   ? f->address & ~(PAGE - 1)
                    : f->command == ERASE ? f->address & ~(SECTOR - 1)
                                          : 0;
    uint32_t count = f->command == WRITE ? PAGE : f->command == ERASE ? SECTOR : SIZE;
    unsigned least = f->command == WRITE ? 5 : f->command == ERASE ? 4 : 1;
    const char *why = NULL;
    if (bits)
        why = "its select ended in the middle of a byte";
    else if (frames < least)
        why = "its select ended before its address and data were there";
    else if (!f->enabled)
        why = "it was not enabled";
    else if (is_protected(f, from, count))
        why = "it is protected there";
    f->refused = why != NULL;
    f->enabled = false;
    if (why)
        wad_part_refuse(p, "the %s at 0x%05x was not done: %s", what, from, why);
    else
        begin_work(p, f, f->command != WRITE, from, count);
}

static void deselected(wad_part *p, unsigned frames, unsigned bits)
{
    flash *f = wad_part_state(p);
    if (!frames || f->ignored)
        return;
    switch (f->command) {
    case ENABLE:
    case DISABLE:
        f->enabled = f->command == ENABLE && !bits;
        break;
    case WRITE:
    case ERASE:
    case ERASE_ALL:
        change_memory(p, f, frames, bits);
        break;
    case PROTECT:
        if (frames >= 2 && !bits)
            f->protected_blocks = MIN(f->n, 16u);
        break;
    case IDENTIFY:
    case STATUS:
    case READ:
        break;
    default:
        wad_part_refuse(p, "it has no command 0x%02x", f->command);
    }
}

/* ---- power, files ---- */

/* So much of the work was done; where it stood when the power failed anything may be. */
static void break_off(wad_part *p, flash *f)
{
    double done = (double)(wad_part_now(p) - f->begin_ps) / (double)f->length_ps;
    if (f->erases) { /* the whole sector at once: any bit may be 1 already */
        for (uint32_t i = 0; i < f->count; i++)
            f->bytes[f->from + i] |= (uint8_t)wad_part_random(p);
        return;
    }
    unsigned n = 0, k = 0;
    for (unsigned i = 0; i < PAGE; i++)
        n += f->given[i];
    for (unsigned i = 0; i < PAGE; i++) {
        if (!f->given[i])
            continue;
        if (k == (unsigned)(done * n)) /* under way: some bits are 0 already */
            f->page[i] |= (uint8_t)wad_part_random(p);
        if (k <= (unsigned)(done * n))
            write_byte(f, i);
        k++;
    }
}

static void power_fails(wad_part *p)
{
    flash *f = wad_part_state(p);
    settle(p, f);
    if (f->busy)
        break_off(p, f);
    uint8_t *bytes = f->bytes;
    unsigned kept = f->protected_blocks; /* it lasts */
    *f = (flash){.bytes = bytes, .protected_blocks = kept, .ignored = true};
}

static bool begin(wad_part *p, char **why)
{
    flash *f = wad_part_state(p);
    const char *image = wad_part_image(p);
    f->bytes = g_malloc(SIZE);
    memset(f->bytes, 0xFF, SIZE);
    if (!image)
        return true;
    char *text = NULL;
    gsize n = 0;
    GError *error = NULL;
    if (!g_file_get_contents(image, &text, &n, &error)) {
        *why =
            g_strdup_printf("%s's contents cannot be read: %s", wad_part_name(p), error->message);
        g_error_free(error);
    } else if (n > SIZE) {
        *why = g_strdup_printf("%s holds 1 MiB, and %s has %zu bytes", wad_part_name(p), image, n);
    } else {
        memcpy(f->bytes, text, n);
    }
    g_free(text);
    return !*why;
}

static void end(wad_part *p)
{
    g_free(((flash *)wad_part_state(p))->bytes);
}

static bool keep(const wad_part *p, const char *path, char **why)
{
    const flash *f = wad_part_state(p);
    char *reason;
    if (wad_output_bytes(path, f->bytes, SIZE, &reason))
        return true;
    *why = g_strdup_printf("%s's contents cannot be kept: %s", wad_part_name(p), reason);
    g_free(reason);
    return false;
}

static const wad_part_spi spi = {.bits = 8, .next = next, .came = came, .deselected = deselected};

const wad_part_class wadi_part_flash = {.kind = "flash",
                                        .wires = WAD_WIRES_SPI,
                                        .state_size = sizeof(flash),
                                        .counts = "writes erases",
                                        .spi = &spi,
                                        .begin = begin,
                                        .power_fails = power_fails,
                                        .keep = keep,
                                        .end = end};
