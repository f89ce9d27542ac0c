/* SPDX-License-Identifier: MIT */
#include "link.h"

#include <glib.h>
#include <setjmp.h>
#include <stdlib.h>
#include <string.h>

#include <wadium/irq.h>

#include "wadium/host/target.h"

#define LOOK_EVERY 8u /* accesses between looks for pending interrupts */

extern const char wad_firmware_chip[], wad_firmware_hash[];
extern void (*const wad_vectors[])(void);
extern const unsigned wad_vector_count;

static struct {
    wadi_link_options o;
    wadi_link_counts n;
    wad_sheet *sheet;
    wad_target *target;
    GHashTable *shadows; /* address -> value + 1 */
    gint64 began_us;
    bool masked, serving;
    unsigned since_look;
} desk = {.masked = true};

/* ---- the end ---- */

jmp_buf wadi_link_way_out;

void wadi_link_end(int status)
{
    longjmp(wadi_link_way_out, status + 1);
}

static void failed(char *why)
{
    fprintf(stderr, "wadium: %s\n", why);
    g_free(why);
    wadi_link_end(2);
}

static void check_time(void)
{
    if (desk.o.seconds > 0 &&
        (double)(g_get_monotonic_time() - desk.began_us) / 1e6 >= desk.o.seconds)
        wadi_link_end(0);
}

/* ---- life ---- */

static bool say(const char *format, const char *detail)
{
    fprintf(stderr, "wadium: ");
    fprintf(stderr, format, detail);
    fputc('\n', stderr);
    return false;
}

static bool read_sheet(void)
{
    char *path =
        desk.o.sheet ? g_strdup(desk.o.sheet) : wad_locate(wad_firmware_chip, ".sheet", NULL);
    wad_diags *diags = wad_diags_new();
    if (path)
        desk.sheet = wad_sheet_read(path, diags);
    wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    if (!path)
        say("no sheet for chip '%s': name it with --sheet", wad_firmware_chip);
    g_free(path);
    if (desk.sheet && strcmp(desk.sheet->hash, wad_firmware_hash))
        return say("the firmware was built from another version of %s's sheet: build it again",
                   wad_firmware_chip);
    return desk.sheet != NULL;
}

bool wadi_link_open(const wadi_link_options *options)
{
    char *why = NULL;
    const wad_target_options o = {.any_chip = options->any_chip, .stay = true};
    desk.o = *options;
    if (!read_sheet())
        return false;
    desk.target = wad_target_open(desk.sheet, options->where, &o, &why);
    if (!desk.target) {
        say("%s", why);
        g_free(why);
        return false;
    }
    char *text = NULL;
    if (!desk.o.as_it_is &&
        !wad_remote_monitor(wad_target_remote(desk.target), "reset", &text, &why)) {
        say("the chip was not reset first (%s)", why);
        g_free(why);
    }
    g_free(text);
    desk.shadows = g_hash_table_new(NULL, NULL);
    desk.began_us = g_get_monotonic_time();
    if (desk.o.trace)
        fputs("time_ps,file,line,function,access,register,value,changes\n", desk.o.trace);
    return true;
}

wadi_link_counts wadi_link_close(void)
{
    char *why = NULL;
    desk.n.seconds = (double)(g_get_monotonic_time() - desk.began_us) / 1e6;
    if (desk.target && !wad_remote_settle(wad_target_remote(desk.target), &why))
        say("%s", why);
    g_free(why);
    wad_target_close(desk.target);
    wad_sheet_free(desk.sheet);
    if (desk.shadows)
        g_hash_table_destroy(desk.shadows);
    return desk.n;
}

/* ---- shadows ---- */

/* Only writes change it, and reading it has no effect. */
static bool can_be_shadowed(const wad_fieldref *ref)
{
    const wad_register *r = ref->reg;
    if (r->alias || r->access != WAD_ACCESS_RW || r->lock)
        return false;
    for (unsigned i = 0; i < r->n_fields; i++)
        if (r->fields[i]->is_volatile || r->fields[i]->n_clearings ||
            (r->fields[i]->name && r->fields[i]->access != WAD_ACCESS_RW))
            return false;
    char *effect = wad_register_read_effect(ref);
    g_free(effect);
    return effect == NULL;
}

/* A write that may change more than its own register: gates and resets, aliases, bits that begin
 * something. */
static bool changes_others(const wad_fieldref *ref)
{
    const wad_layout *layout = ref->block->layout;
    return ref->reg->alias || ref->reg->access != WAD_ACCESS_RW || wad_acts_as(layout, "clocks") ||
           wad_acts_as(layout, "power");
}

static bool shadowed(uint64_t address, uint32_t *value)
{
    gpointer found = NULL;
    if (!desk.o.shadow ||
        !g_hash_table_lookup_extended(desk.shadows, GSIZE_TO_POINTER(address), NULL, &found))
        return false;
    *value = GPOINTER_TO_UINT(found);
    return true;
}

static void keep(const wad_fieldref *ref, uint64_t address, uint32_t value)
{
    if (desk.o.shadow && can_be_shadowed(ref))
        g_hash_table_insert(desk.shadows, GSIZE_TO_POINTER(address), GUINT_TO_POINTER(value));
}

/* ---- accesses ---- */

static void trace(const wad_fieldref *ref, bool known, uint64_t address, bool write, unsigned bytes,
                  uint32_t value)
{
    if (!desk.o.trace)
        return;
    char *name =
        known ? wad_fieldref_name(ref) : g_strdup_printf("0x%08llX", (unsigned long long)address);
    fprintf(desk.o.trace, "%lld,desk,0,,%s,%s,0x%0*X,\"\"\n",
            (long long)(g_get_monotonic_time() - desk.began_us) * 1000000, write ? "write" : "read",
            name, (int)bytes * 2, value);
    g_free(name);
}

/* What is pending is looked at now and then: there is nobody to interrupt the desk. */
static void look_sometimes(void)
{
    if (desk.masked || desk.serving || ++desk.since_look < LOOK_EVERY)
        return;
    desk.since_look = 0;
    wadi_link_serve();
}

static bool find(uint64_t address, wad_fieldref *ref)
{
    return wad_sheet_at(desk.sheet, address, ref) && wad_fieldref_address(ref) == address;
}

uint32_t wadi_link_read(uint64_t address, unsigned bytes)
{
    wad_fieldref ref = {0};
    uint32_t value = 0;
    char *why = NULL;
    bool known = find(address, &ref);
    check_time();
    desk.n.reads++;
    if (known && shadowed(address, &value))
        desk.n.from_shadow++;
    else if (!wad_remote_get(wad_target_remote(desk.target), address, bytes, &value, &why))
        failed(why);
    else if (known)
        keep(&ref, address, value);
    trace(&ref, known, address, false, bytes, value);
    look_sometimes();
    return value;
}

void wadi_link_write(uint64_t address, unsigned bytes, uint32_t value)
{
    wad_fieldref ref = {0};
    char *why = NULL;
    wad_remote *r = wad_target_remote(desk.target);
    const uint8_t raw[] = {(uint8_t)value, (uint8_t)(value >> 8), (uint8_t)(value >> 16),
                           (uint8_t)(value >> 24)};
    bool known = find(address, &ref);
    check_time();
    desk.n.writes++;
    if (desk.o.batch ? !wad_remote_post(r, address, raw, bytes, &why)
                     : !wad_remote_put(r, address, bytes, value, &why))
        failed(why);
    if (!known || changes_others(&ref))
        g_hash_table_remove_all(desk.shadows);
    else
        keep(&ref, address, value);
    trace(&ref, known, address, true, bytes, value);
    look_sometimes();
}

/* ---- interrupts ---- */

bool wadi_link_masked(void)
{
    return desk.masked;
}

void wadi_link_mask(bool on)
{
    desk.masked = on;
}

/* By the controller's own registers, as a core without vectors would. */
static int pending(void)
{
    bool serving = desk.serving;
    FILE *kept = desk.o.trace;
    uint64_t reads = desk.n.reads;
    desk.serving = true; /* looking is not looked at, and no access of the firmware's */
    desk.o.trace = NULL;
    int line = wad_irq_current();
    desk.o.trace = kept;
    desk.n.reads = reads;
    desk.serving = serving;
    desk.n.looks++;
    return line;
}

bool wadi_link_serve(void)
{
    int line;
    bool any = false;
    if (desk.masked || desk.serving)
        return false;
    while ((line = pending()) >= 0 && (unsigned)line < wad_vector_count) {
        FILE *kept = desk.o.trace;
        desk.serving = any = true;
        desk.n.handlers++;
        desk.o.trace = NULL;
        (void)(wad_irq_dismiss(line) == WAD_OK); /* the core forgets what it serves */
        desk.o.trace = kept;
        wad_vectors[line]();
        desk.serving = false;
    }
    return any;
}

void wadi_link_sleep(void)
{
    while (pending() < 0)
        check_time();
    wadi_link_serve();
}
