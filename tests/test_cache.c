/* SPDX-License-Identifier: MIT */
/* Compiled drivers are kept between builds: the same image, sooner; and never another chip's. */
#include <glib/gstdio.h>
#include <string.h>
#include <unistd.h>
#include <utime.h>

#include "support.h"
#include "wadium/host/output.h"

static char *folder, *kept, *source, *calls, *chip, *other;

/* A chip of one timer, whose reload register lies at `%s`. */
static const char sheet[] =
    "chip Tiny {\n bus little 32\n cpu armv6m\n memory flash at 0 size 16 KiB\n"
    " memory ram at 0x2000_0000 size 4 KiB\n clock core 8 MHz\n"
    " block CNT at 0x4000_0000 like counter\n}\n"
    "layout counter {\n reg CTRL at 0x00 rw reset 0 \"control\" { 0 EN rw \"counts\"\n 1 IRQ rw "
    "\"interrupt\" }\n"
    " reg RELOAD at %s rw reset 0 \"reload\" { 15:0 VALUE rw \"reload\" }\n"
    " reg STAT at 0x08 w1c reset 0 \"status\" { 0 WRAP w1c \"over\" }\n"
    " acts as counter {\n enable CTRL.EN\n reload RELOAD.VALUE plus 1\n wrap STAT.WRAP\n wrap_irq "
    "CTRL.IRQ\n }\n}\n";

static const char program[] = "#include <tiny_roles.h>\n"
                              "static const wad_timer t = {&tiny_cnt, .counts = 1000};\n"
                              "int main(void) { return (int)wadi_timer_open_any(&t); }\n";

static char *path_of(const char *name)
{
    return g_build_filename(folder, name, NULL);
}

static char *write_chip(const char *name, const char *reload_at)
{
    char *path = path_of(name), *text = g_strdup_printf(sheet, reload_at);
    assert_true(g_file_set_contents(path, text, -1, NULL));
    g_free(text);
    return path;
}

/* Its bytes without what names the build's own folder: code and data as they go to the flash. */
static GBytes *image(const char *sheet_path, const char *name)
{
    char *elf = path_of(name), *bin = g_strconcat(elf, ".bin", NULL), *out, *err, *bytes;
    gsize size;
    if (WADIUM(&out, &err, "image", sheet_path, source, "-q", "-o", elf) != 0)
        fail_msg("%s%s", out, err);
    g_free(out);
    g_free(err);
    assert_int_equal(
        test_spawn(&out, &err, "arm-none-eabi-objcopy", "-O", "binary", elf, bin, NULL), 0);
    assert_true(g_file_get_contents(bin, &bytes, &size, NULL));
    g_unlink(elf);
    g_unlink(bin);
    g_free(out);
    g_free(err);
    g_free(bin);
    g_free(elf);
    return g_bytes_new_take(bytes, size);
}

/* How often the compiler was called since this was asked last. */
static unsigned compilations(void)
{
    char *text = NULL;
    unsigned n = 0;
    if (g_file_get_contents(calls, &text, NULL, NULL))
        for (const char *at = text; (at = strchr(at, '\n')); at++)
            n++;
    g_unlink(calls);
    g_free(text);
    return n;
}

/* A compiler in front of the real one, that notes each call. */
static bool watch_compiler(void)
{
    char *real = g_find_program_in_path("arm-none-eabi-gcc"), *here = path_of("arm-none-eabi-gcc");
    char *script = g_strdup_printf("#!/bin/sh\necho call >>'%s'\nexec '%s' \"$@\"\n", calls, real);
    char *path = g_strdup_printf("%s:%s", folder, g_getenv("PATH"));
    bool ok = g_file_set_contents(here, script, -1, NULL) && g_chmod(here, 0755) == 0;
    g_setenv("PATH", path, TRUE);
    g_free(path);
    g_free(script);
    g_free(here);
    g_free(real);
    return ok;
}

static unsigned entries(void)
{
    unsigned n = 0;
    GDir *dir = g_dir_open(kept, 0, NULL);
    for (const char *name; dir && (name = g_dir_read_name(dir)); n++)
        assert_true(g_str_has_suffix(name, ".o") || g_str_has_suffix(name, ".ci"));
    if (dir)
        g_dir_close(dir);
    return n;
}

static void the_second_build_is_the_same_one(void **state)
{
    (void)state;
    assert_int_equal(entries(), 0);
    GBytes *first = image(chip, "first.elf");
    unsigned n = entries();
    assert_true(n > 40); /* drivers and start-up, each with the compiler's notes */
    assert_true(compilations() > n / 2);
    GBytes *second = image(chip, "second.elf");
    assert_int_equal(entries(), n);
    assert_int_equal(compilations(), 2); /* the program, and all linked */
    assert_true(g_bytes_equal(first, second));
    /* what a fault has changed is no driver */
    GDir *dir = g_dir_open(kept, 0, NULL);
    for (const char *name; (name = g_dir_read_name(dir));) {
        char *path = g_build_filename(kept, name, NULL), *bytes;
        gsize size;
        assert_true(g_file_get_contents(path, &bytes, &size, NULL));
        bytes[size / 2] ^= 1;
        assert_true(g_file_set_contents(path, bytes, (gssize)size, NULL));
        g_free(bytes);
        g_free(path);
    }
    g_dir_close(dir);
    GBytes *third = image(chip, "third.elf");
    assert_true(g_bytes_equal(first, third));
    assert_true(compilations() > n / 2);
    g_bytes_unref(image(chip, "fourth.elf"));
    assert_int_equal(compilations(), 2);
    g_bytes_unref(first);
    g_bytes_unref(third);
    g_bytes_unref(second);
}

/* Its timer has another layout: its drivers are others, and not those that are kept. */
static void another_chip_has_its_own(void **state)
{
    (void)state;
    wad_output_remove_folder(kept);
    GBytes *first = image(chip, "a.elf");
    unsigned n = entries();
    GBytes *second = image(other, "b.elf");
    assert_true(entries() > n); /* what does not know the chip's registers may be the same */
    assert_false(g_bytes_equal(first, second));
    g_setenv("WADIUM_CACHE", "", TRUE);
    GBytes *alone = image(other, "c.elf");
    assert_true(g_bytes_equal(second, alone));
    g_setenv("WADIUM_CACHE", kept, TRUE);
    g_bytes_unref(first);
    g_bytes_unref(second);
    g_bytes_unref(alone);
}

/* Old ones go when there are too many; what else lies in the folder stays. */
static void only_its_own_files_are_forgotten(void **state)
{
    static const char *const names[] = {
        "mine.o", "0000000000000000000000000000000000000000000000000000000000000000.o"};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++) {
        char *path = g_build_filename(kept, names[i], NULL);
        assert_true(g_file_set_contents(path, "", 0, NULL));
        assert_int_equal(truncate(path, 300 << 20), 0); /* no room is taken: all of it is a hole */
        assert_int_equal(utime(path, &(struct utimbuf){1, 1}), 0);
        g_free(path);
    }
    char *third = write_chip("third.sheet", "0x10"); /* something new is to be kept */
    g_bytes_unref(image(third, "e.elf"));
    g_free(third);
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++) {
        char *path = g_build_filename(kept, names[i], NULL);
        assert_int_equal(g_file_test(path, G_FILE_TEST_EXISTS), i == 0);
        g_unlink(path);
        g_free(path);
    }
}

static void without_a_place_it_builds_all_the_same(void **state)
{
    (void)state;
    char *file = path_of("file");
    assert_true(g_file_set_contents(file, "", 0, NULL));
    g_setenv("WADIUM_CACHE", file, TRUE); /* no folder, and none can be made there */
    g_bytes_unref(image(chip, "d.elf"));
    g_setenv("WADIUM_CACHE", kept, TRUE);
    g_free(file);
}

static int set_up(void **state)
{
    (void)state;
    folder = g_dir_make_tmp("wadium-XXXXXX", NULL);
    kept = path_of("kept");
    source = path_of("x.c");
    chip = write_chip("tiny.sheet", "0x04");
    other = write_chip("other.sheet", "0x0C");
    g_setenv("WADIUM_CACHE", kept, TRUE);
    calls = path_of("calls");
    return g_file_set_contents(source, program, -1, NULL) && watch_compiler() ? 0 : 1;
}

static int tear_down(void **state)
{
    (void)state;
    wad_output_remove_folder(folder);
    g_free(folder);
    g_free(kept);
    g_free(source);
    g_free(calls);
    g_free(chip);
    g_free(other);
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_second_build_is_the_same_one),
        cmocka_unit_test(another_chip_has_its_own),
        cmocka_unit_test(only_its_own_files_are_forgotten),
        cmocka_unit_test(without_a_place_it_builds_all_the_same),
    };
    return cmocka_run_group_tests(tests, set_up, tear_down);
}
