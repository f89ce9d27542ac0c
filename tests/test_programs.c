/* SPDX-License-Identifier: MIT */
/*
 * Random programs, compiled for the host and for the target by two compilers at several levels: the
 * stand-in's core comes to what the host's comes to. WADIUM_PROGRAMS programs (a few without), from
 * WADIUM_PROGRAM_SEED on; `make core-check` tries many, and those of another generator.
 */
#include <dlfcn.h>
#include <string.h>

#include "programs.h"
#include "standin/thumb.h"
#include "support.h"

#define BASE 0x20000000u
#define RAM  0x40000u
#define OUT  (BASE + RAM - 4096) /* the results, above the stack */

typedef struct machine {
    uint8_t ram[RAM];
    thumb core;
} machine;

static bool load(void *ctx, uint32_t address, unsigned bytes, uint32_t *value)
{
    machine *m = ctx;
    if (address - BASE > RAM - bytes)
        return false;
    *value = 0;
    memcpy(value, m->ram + (address - BASE), bytes);
    return true;
}

static bool store(void *ctx, uint32_t address, unsigned bytes, uint32_t value)
{
    machine *m = ctx;
    if (address - BASE > RAM - bytes)
        return false;
    memcpy(m->ram + (address - BASE), &value, bytes);
    return true;
}

/* ---- building ---- */

static const char script[] =
    "ENTRY(start)\nSECTIONS { . = 0x20000000; .text : { *(.text.start) *(.text*) "
    "*(.rodata*) } .data : { *(.data*) } .bss : { *(.bss*) *(COMMON) } "
    "/DISCARD/ : { *(.ARM.*) *(.comment) } }\n";

/* What compilers call on their own, and the way in; BKPT is the end. */
static const char runtime[] =
    "typedef __SIZE_TYPE__ size_t;\nextern void program(unsigned *results);\n"
    "__attribute__((section(\".text.start\"), naked)) void start(void)\n"
    "{ __asm volatile(\"ldr r0, =0x2003F000\\n bl program\\n bkpt 0\\n.ltorg\"); }\n"
    "void *memcpy(void *d, const void *s, size_t n) { char *to = d; const char *from = s;"
    " while (n--) *to++ = *from++; return d; }\n"
    "void *memmove(void *d, const void *s, size_t n) { char *to = d; const char *from = s;"
    " if (to < from) while (n--) *to++ = *from++; else while (n--) to[n] = from[n]; return d; }\n"
    "void *memset(void *d, int x, size_t n) { char *to = d; while (n--) *to++ = (char)x; return d; "
    "}\n"
    "void __aeabi_memcpy(void *d, const void *s, size_t n) { memcpy(d, s, n); }\n"
    "void __aeabi_memcpy4(void *d, const void *s, size_t n) { memcpy(d, s, n); }\n"
    "void __aeabi_memcpy8(void *d, const void *s, size_t n) { memcpy(d, s, n); }\n"
    "void __aeabi_memmove(void *d, const void *s, size_t n) { memmove(d, s, n); }\n"
    "void __aeabi_memmove4(void *d, const void *s, size_t n) { memmove(d, s, n); }\n"
    "void __aeabi_memset(void *d, size_t n, int x) { memset(d, x, n); }\n"
    "void __aeabi_memset4(void *d, size_t n, int x) { memset(d, x, n); }\n"
    "void __aeabi_memclr(void *d, size_t n) { memset(d, 0, n); }\n"
    "void __aeabi_memclr4(void *d, size_t n) { memset(d, 0, n); }\n"
    "void __aeabi_memclr8(void *d, size_t n) { memset(d, 0, n); }\n";

typedef struct files {
    char *folder, *source, *runtime, *script, *object, *elf, *image, *native;
} files;

static char *in_folder(const files *f, const char *name)
{
    return g_build_filename(f->folder, name, NULL);
}

static void put(const char *path, const char *text)
{
    assert_true(g_file_set_contents(path, text, -1, NULL));
}

#define MUST(...)                                                                                  \
    do {                                                                                           \
        char *out_, *err_;                                                                         \
        if (test_spawn(&out_, &err_, __VA_ARGS__, NULL))                                           \
            fail_msg("%s", err_);                                                                  \
        g_free(out_);                                                                              \
        g_free(err_);                                                                              \
    } while (0)

static void prepare(files *f)
{
    f->folder = test_folder();
    f->source = in_folder(f, "p.c");
    f->script = in_folder(f, "p.ld");
    f->object = in_folder(f, "p.o");
    f->elf = in_folder(f, "p.elf");
    f->image = in_folder(f, "p.bin");
    f->native = in_folder(f, "p.so");
    f->runtime = in_folder(f, "r.o");
    char *c = in_folder(f, "r.c");
    put(c, runtime);
    put(f->script, script);
    MUST("arm-none-eabi-gcc", "-mcpu=cortex-m0plus", "-mthumb", "-O1", "-fno-builtin",
         "-fno-tree-loop-distribute-patterns", "-c", c, "-o", f->runtime);
    g_free(c);
}

static void tidy(files *f)
{
    char *const all[] = {f->source, f->script, f->object, f->elf, f->image, f->native, f->runtime};
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        g_free(all[i]);
    test_remove(f->folder);
}

static void run_native(const files *f, uint32_t *results)
{
    MUST("gcc", "-O1", "-fwrapv", "-w", "-fPIC", "-shared", f->source, "-o", f->native);
    void *loaded = dlopen(f->native, RTLD_NOW | RTLD_LOCAL);
    void (*program)(uint32_t *);
    if (!loaded)
        fail_msg("%s", dlerror());
    *(void **)&program = dlsym(loaded, "program");
    program(results);
    dlclose(loaded);
}

typedef struct way {
    const char *compiler, *level;
} way;

static const way ways[] = {{"gcc", "-O0"}, {"gcc", "-O1"},   {"gcc", "-O2"},
                           {"gcc", "-Os"}, {"clang", "-O2"}, {"clang", "-Oz"}};

static bool has_clang(void)
{
    static int known = -1;
    if (known < 0) {
        char *path = g_find_program_in_path("clang");
        known = path != NULL;
        g_free(path);
    }
    return known;
}

static bool build(const files *f, const way *w)
{
    if (!strcmp(w->compiler, "clang")) {
        if (!has_clang())
            return false;
        MUST("clang", "--target=thumbv6m-none-eabi", "-mcpu=cortex-m0plus", "-fwrapv", "-w",
             w->level, "-ffreestanding", "-c", f->source, "-o", f->object);
    } else {
        MUST("arm-none-eabi-gcc", "-mcpu=cortex-m0plus", "-mthumb", "-fwrapv", "-w", w->level,
             "-ffreestanding", "-c", f->source, "-o", f->object);
    }
    MUST("arm-none-eabi-gcc", "-mcpu=cortex-m0plus", "-mthumb", "-nostdlib", "-Wl,--build-id=none",
         "-T", f->script, f->runtime, f->object, "-lgcc", "-o", f->elf);
    MUST("arm-none-eabi-objcopy", "-O", "binary", f->elf, f->image);
    return true;
}

static void run_core(const files *f, uint32_t *results, const char *what)
{
    machine *m = g_new0(machine, 1);
    char *bytes;
    gsize size;
    assert_true(g_file_get_contents(f->image, &bytes, &size, NULL));
    assert_true(size < RAM / 2);
    memcpy(m->ram, bytes, size);
    g_free(bytes);
    m->core = (thumb){.load = load, .store = store, .ctx = m, .state = true};
    m->core.r[THUMB_PC] = BASE;
    m->core.r[THUMB_SP] = OUT;
    thumb_event event = THUMB_DONE;
    unsigned steps;
    for (steps = 0; event == THUMB_DONE && steps < 100000000; steps++)
        event = thumb_step(&m->core);
    if (event != THUMB_BREAK)
        fail_msg("%s: after %u steps at 0x%x: event %d", what, steps, m->core.r[THUMB_PC], event);
    memcpy(results, m->ram + (OUT - BASE), PROGRAM_RESULTS * 4);
    g_free(m);
}

static void compare(const files *f, const char *name)
{
    uint32_t wanted[PROGRAM_RESULTS] = {0}, is[PROGRAM_RESULTS];
    run_native(f, wanted);
    for (unsigned k = 0; k < G_N_ELEMENTS(ways); k++) {
        if (!build(f, &ways[k]))
            continue;
        char *what = g_strdup_printf("%s, %s %s", name, ways[k].compiler, ways[k].level);
        run_core(f, is, what);
        for (unsigned i = 0; i < PROGRAM_RESULTS; i++)
            if (is[i] != wanted[i])
                fail_msg("%s: result %u is 0x%08x, wanted 0x%08x", what, i, is[i], wanted[i]);
        g_free(what);
    }
}

static unsigned number(const char *name, unsigned usual)
{
    const char *given = g_getenv(name);
    return given ? (unsigned)g_ascii_strtoull(given, NULL, 10) : usual;
}

static void random_programs_come_to_what_the_host_comes_to(void **state)
{
    files f;
    unsigned n = number("WADIUM_PROGRAMS", 6), seed = number("WADIUM_PROGRAM_SEED", 1);
    (void)state;
    prepare(&f);
    for (unsigned i = 0; i < n; i++) {
        char *text = test_program(seed + i), *name = g_strdup_printf("program %u", seed + i);
        put(f.source, text);
        compare(&f, name);
        g_free(name);
        g_free(text);
    }
    tidy(&f);
}

/* Programs of files, for other generators: WADIUM_PROGRAM_FILES is a list with blanks. */
static void programs_of_files(void **state)
{
    const char *list = g_getenv("WADIUM_PROGRAM_FILES");
    char **paths = g_strsplit(list ? list : "", " ", -1), *text;
    files f;
    (void)state;
    prepare(&f);
    for (unsigned i = 0; paths[i]; i++) {
        if (!*paths[i])
            continue;
        assert_true(g_file_get_contents(paths[i], &text, NULL, NULL));
        put(f.source, text);
        compare(&f, paths[i]);
        g_free(text);
    }
    g_strfreev(paths);
    tidy(&f);
}

/* What compilers made of these was computed wrongly once. */
static void three_loads_in_a_row(void **state)
{
    files f;
    (void)state;
    prepare(&f);
    put(f.source,
        "#include <stdint.h>\n#define N __attribute__((noinline))\n"
        "static N uint32_t use(uint32_t a, uint32_t b, uint32_t c) { return a * 3 + b * 5 + c * 7; "
        "}\n"
        "static N uint32_t pass(const uint32_t *p) { return use(p[0], p[1], p[2]); }\n"
        "static N uint32_t pick(uint32_t x) { switch (x) { case 0: return 11; case 1: return 7; "
        "case 2:"
        " return 99; case 3: return 1; case 4: return 5; case 5: return 1000; default: return 0; } "
        "}\n"
        "static N uint32_t act(uint32_t x, uint32_t *p) { switch (x) { case 0: p[0]++; break; case "
        "1:"
        " p[1] ^= 3; break; case 2: p[2] += p[0]; break; case 3: p[3] = x; break; case 4: p[1]--;"
        " break; case 5: p[0] *= 5; break; case 6: return p[2]; } return p[0] ^ p[1]; }\n"
        "void program(uint32_t *r) { uint32_t p[8] = {1, 2, 3, 4, 5, 6, 7, 8};\n"
        "for (uint32_t i = 0; i < 8; i++) { r[i] = pass(p + (i & 3)); r[8 + i] = pick(i);"
        " r[16 + i] = act(i, p); } }\n");
    compare(&f, "three loads");
    tidy(&f);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(three_loads_in_a_row),
        cmocka_unit_test(random_programs_come_to_what_the_host_comes_to),
        cmocka_unit_test(programs_of_files),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
