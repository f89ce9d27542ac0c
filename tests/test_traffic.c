/* SPDX-License-Identifier: MIT */
/*
 * One plain C source, built for Cortex-M0+ and for the simulated chip: the register accesses of the
 * target's machine code and those that Wadium sees agree in order, width, address and value.
 */
#include <elf.h>
#include <stdlib.h>
#include <string.h>

#include "plain_support.h"
#include "standin/thumb.h"

#define SOURCE SOURCE_DIR "/examples/plain-lamp/plain_lamp.c"
#define ARM    "arm-none-eabi-gcc"

typedef struct seen {
    GArray *list; /* wad_access_record */
    unsigned at;
    char *difference;
} seen;

static int set_up(void **state)
{
    (void)state;
    plain_set_up();
    return 0;
}

static int tear_down(void **state)
{
    (void)state;
    plain_tear_down();
    return 0;
}

static void on_access(void *ctx, const wad_access_record *r)
{
    seen *s = ctx;
    g_array_append_val(s->list, *r);
}

/* ---- the target's code against what was seen ---- */

static bool compare(seen *s, bool write, uint32_t address, unsigned bytes, uint32_t *value)
{
    if (s->at >= s->list->len) {
        s->difference = g_strdup_printf("access %u, at 0x%08x, was never seen", s->at, address);
        return false;
    }
    const wad_access_record *r = &g_array_index(s->list, wad_access_record, s->at++);
    uint64_t at = r->block->base + r->reg->offset + (uint64_t)r->reg_index * r->reg->step;
    if (!write)
        *value = r->value;
    if (r->write == write && at == address && r->bytes == bytes && r->value == *value)
        return true;
    s->difference = g_strdup_printf(
        "access %u: the target's code has a %u-bit %s at 0x%08x of 0x%x, "
        "seen was a %u-bit %s at 0x%08llx of 0x%x",
        s->at - 1, bytes * 8, write ? "write" : "read", address, *value, r->bytes * 8,
        r->write ? "write" : "read", (unsigned long long)at, r->value);
    return false;
}

/* ---- the target's program ---- */

#define RAM      0x20000000u
#define RAM_SIZE 0x8000u
#define CODE     0x10000u

typedef struct machine {
    uint8_t ram[RAM_SIZE], code[CODE];
    thumb core;
    seen *seen;
} machine;

static uint8_t *plain(machine *t, uint32_t a, unsigned bytes)
{
    if (a - RAM <= RAM_SIZE - bytes)
        return t->ram + (a - RAM);
    return a <= CODE - bytes ? t->code + a : NULL;
}

static bool on_load(void *ctx, uint32_t address, unsigned bytes, uint32_t *value)
{
    machine *t = ctx;
    const uint8_t *p = plain(t, address, bytes);
    if (!p)
        return compare(t->seen, false, address, bytes, value);
    memcpy(value, p, bytes);
    return true;
}

static bool on_store(void *ctx, uint32_t address, unsigned bytes, uint32_t value)
{
    machine *t = ctx;
    uint8_t *p = plain(t, address, bytes);
    if (!p)
        return compare(t->seen, true, address, bytes, &value);
    memcpy(p, &value, bytes);
    return true;
}

static uint32_t load_elf(machine *t, const char *path)
{
    char *bytes;
    gsize size;
    assert_true(g_file_get_contents(path, &bytes, &size, NULL));
    const Elf32_Ehdr *eh = (const Elf32_Ehdr *)bytes;
    uint32_t entry = eh->e_entry;
    for (unsigned i = 0; i < eh->e_phnum; i++) {
        const Elf32_Phdr *ph = (const Elf32_Phdr *)(bytes + eh->e_phoff) + i;
        uint8_t *to = ph->p_type == PT_LOAD ? plain(t, ph->p_vaddr, MAX(ph->p_memsz, 1)) : NULL;
        if (to)
            memcpy(to, bytes + ph->p_offset, ph->p_filesz);
    }
    g_free(bytes);
    return entry;
}

/* Runs `main` until it opens interrupts; false: something else ended it, at `at`. */
static bool run_target(const char *elf, seen *s, uint32_t *at)
{
    machine *t = g_new0(machine, 1);
    bool good = true;
    t->seen = s;
    t->core = (thumb){.load = on_load, .store = on_store, .ctx = t, .masked = true, .state = true};
    t->core.r[THUMB_PC] = load_elf(t, elf) & ~1u;
    t->core.r[THUMB_SP] = RAM + RAM_SIZE;
    for (unsigned steps = 0; good && t->core.masked; steps++) {
        *at = t->core.r[THUMB_PC];
        good = steps < 10000000 && thumb_step(&t->core) == THUMB_DONE;
    }
    g_free(t);
    return good;
}

static char *build_for_target(const char *level)
{
    char *out, *err, *elf = g_build_filename(plain_folder(), "target.elf", NULL);
    int status =
        test_spawn(&out, &err, ARM, "-mcpu=cortex-m0plus", "-mthumb", level, "-std=c11",
                   "-ffreestanding", "-I" SOURCE_DIR "/include",
                   "-I" BUILD_DIR "/generated/corran32", "-nostdlib", "-Wl,-e,main",
                   "-Wl,-Ttext=0x100", "-Wl,-Tdata=0x20000000", SOURCE, "-lgcc", "-o", elf, NULL);
    if (status)
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    return elf;
}

/* What Wadium sees of a build for the simulated chip. */
static GArray *watch(const wad_sheet *sheet, unsigned compiler, const char *level)
{
    seen s = {.list = g_array_new(FALSE, FALSE, sizeof(wad_access_record))};
    char *why = NULL, *path = g_build_filename(plain_folder(), "fw.wfw", NULL);
    wad_sim *sim = wad_sim_new(sheet, &why);
    plain_build("corran32", compiler, level, SOURCE, "-DPLAIN");
    assert_true(wad_sim_load(sim, path, &why));
    wad_sim_watch_access(sim, on_access, &s);
    wad_sim_run(sim, WAD_PS_PER_S / 100);
    wad_sim_free(sim);
    g_free(path);
    return s.list;
}

static void the_targets_code_does_what_was_seen(void **state)
{
    static const char *const levels[] = {"-O0", "-O2", "-Os"};
    (void)state;
    char *arm = g_find_program_in_path(ARM);
    if (!arm && !getenv("WADIUM_NEED_ARM"))
        skip();
    assert_non_null(arm);
    g_free(arm);
    wad_sheet *sheet = test_chip("corran32");
    for (unsigned host = 0; host < 3; host++) {
        seen s = {.list = watch(sheet, 0, levels[host])};
        for (unsigned target = 0; target < 3; target++) {
            char *elf = build_for_target(levels[target]);
            uint32_t at = 0;
            s.at = 0;
            if (!run_target(elf, &s, &at))
                fail_msg("host %s, target %s: ends at 0x%x: %s", levels[host], levels[target], at,
                         s.difference ? s.difference : "");
            assert_true(s.at > 100); /* the polls of the crystal among them */
            g_free(elf);
        }
        g_array_free(s.list, TRUE);
    }
    wad_sheet_free(sheet);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_targets_code_does_what_was_seen),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
