/* SPDX-License-Identifier: MIT */
/* Images for the target itself: cross compilers, start-up, linker script. */
#include <string.h>

#include "measure.h"

/* Compilers, and the start-up that goes with them. */
typedef struct compilers {
    const char *prefix, *port, *package;
} compilers;

static const compilers ARM = {"arm-none-eabi-", "metal-arm", "gcc-arm-none-eabi"},
                       RISCV = {"riscv64-unknown-elf-", "metal-riscv", "gcc-riscv64-unknown-elf"};

typedef struct target_cpu {
    const char *name;
    const compilers *by;
    const char *isas;
    unsigned entry; /* bytes that hardware, or the trap's beginning, puts on the stack */
    const char *flags[4];
} target_cpu;

static const target_cpu cpus[] = {
#define WADI_CPU(name, by, isas, entry, ...) {name, &by, isas, entry, {__VA_ARGS__, NULL}},
#include "cpus.def"
#undef WADI_CPU
};

typedef struct imager {
    wadi_builder w;
    const wad_image *o;
    const target_cpu *cpu;
    char *compiler;
    guint first_driver, first_start; /* objects before are the program's, drivers', start-up's */
} imager;

static bool is_in(const char *list, const char *word)
{
    char **words = g_strsplit(list, " ", -1);
    bool found = g_strv_contains((const char *const *)words, word);
    g_strfreev(words);
    return found;
}

/* The first that executes what the chip's core does. */
static const target_cpu *cpu_of(const wad_sheet *sheet)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(cpus); i++)
        if (is_in(cpus[i].isas, sheet->cpu.isa))
            return &cpus[i];
    return NULL;
}

/* "armv6m, armv7m and rv32": all names, or all cores. */
static char *list_of(bool cores)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < G_N_ELEMENTS(cpus); i++) {
        char **words = g_strsplit(cores ? cpus[i].isas : cpus[i].name, " ", -1);
        for (unsigned k = 0; words[k]; k++)
            if (!g_ptr_array_find_with_equal_func(names, words[k], g_str_equal, NULL))
                g_ptr_array_add(names, g_strdup(words[k]));
        g_strfreev(words);
    }
    GString *text = g_string_new(NULL);
    for (guint i = 0; i < names->len; i++)
        g_string_append_printf(text, "%s%s",
                               i == 0                ? ""
                               : i + 1 == names->len ? " and "
                                                     : ", ",
                               (char *)names->pdata[i]);
    g_ptr_array_free(names, TRUE);
    return g_string_free(text, FALSE);
}

/* A core of a sort that there is no start-up for: an image for another one would be no use. A chip
 * whose core is known may be measured for others. */
static bool find_cpu(imager *m)
{
    const target_cpu *own = cpu_of(m->w.sheet);
    if (!own) {
        char *cores = list_of(true);
        g_string_append_printf(
            m->w.log,
            "%s has a core '%s', which there is no start-up for: %s have one ('wadium build' makes "
            "firmware for the simulated chip)\n",
            m->w.sheet->name, m->w.sheet->cpu.isa, cores);
        g_free(cores);
        return false;
    }
    m->cpu = m->o->cpu ? NULL : own;
    for (unsigned i = 0; i < G_N_ELEMENTS(cpus) && m->o->cpu; i++)
        if (!strcmp(cpus[i].name, m->o->cpu))
            m->cpu = &cpus[i];
    if (!m->cpu) {
        char *names = list_of(false);
        g_string_append_printf(m->w.log, "there is no start-up for '%s': %s have one\n", m->o->cpu,
                               names);
        g_free(names);
        return false;
    }
    char *name = g_strconcat(m->cpu->by->prefix, "gcc", NULL);
    m->compiler = g_find_program_in_path(name);
    g_free(name);
    return m->compiler ||
           wadi_builder_fail(&m->w, "no cross compiler is installed: apt-get install %s",
                             m->cpu->by->package);
}

/* ---- compiling ---- */

static GPtrArray *compile_line(const imager *m)
{
    static const char *const common[] = {"-std=gnu11",
                                         "-g",
                                         "-ffreestanding",
                                         "-Wall",
                                         "-Os",
                                         "-ffunction-sections",
                                         "-fdata-sections",
                                         "-fcallgraph-info=su,da",
                                         NULL};
    GPtrArray *argv = g_ptr_array_new_with_free_func(g_free);
    char *lower = g_ascii_strdown(m->w.sheet->name, -1);
    wadi_add(argv, "%s", m->compiler);
    wadi_add_all(argv, m->cpu->flags);
    wadi_add_all(argv, common);
    wadi_add(argv, "-I%s", WADIUM_ROOT "/include");
    wadi_add(argv, "-I" WADIUM_ROOT "/ports/%s", m->cpu->by->port);
    wadi_add(argv, "-I%s", WADIUM_ROOT "/ports/metal");
    wadi_add(argv, "-I%s", m->w.folder);
    wadi_add(argv, "-DWAD_CHIP=\"%s_roles.h\"", lower);
    wadi_add(argv, "%s", m->w.sheet->cpu.char_unsigned ? "-funsigned-char" : "-fsigned-char");
    g_free(lower);
    return argv;
}

static void compile(imager *m, GPtrArray *lines, const char *source, bool users)
{
    GPtrArray *argv = compile_line(m);
    if (users)
        wadi_add_all(argv, m->o->flags);
    wadi_add(argv, "-c%s", "");
    wadi_add_file(argv, source);
    const char *object = wadi_builder_object(&m->w, source);
    wadi_builder_line(&m->w, lines, argv, users ? NULL : source, object);
}

static bool compile_folder(imager *m, GPtrArray *lines, const char *folder)
{
    GPtrArray *paths = wadi_builder_sources(&m->w, folder);
    for (guint i = 0; paths && i < paths->len; i++)
        if (!g_str_has_suffix(paths->pdata[i], "/metal/stdio.c")) /* for who links a C library */
            compile(m, lines, paths->pdata[i], false);
    if (paths)
        g_ptr_array_free(paths, TRUE);
    return paths != NULL;
}

static bool compile_all(imager *m)
{
    GPtrArray *lines = g_ptr_array_new();
    char *port = g_build_filename("ports", m->cpu->by->port, NULL);
    char *lower = g_ascii_strdown(m->w.sheet->name, -1);
    char *vectors = g_strdup_printf("%s/%s_vectors.c", m->w.folder, lower);
    for (unsigned i = 0; m->o->sources[i]; i++)
        compile(m, lines, m->o->sources[i], true);
    m->first_driver = m->w.objects->len;
    bool ok = compile_folder(m, lines, "drivers");
    m->first_start = m->w.objects->len;
    compile(m, lines, vectors, false);
    ok = compile_folder(m, lines, "ports/metal") && compile_folder(m, lines, port) && ok;
    g_free(vectors);
    g_free(lower);
    g_free(port);
    return wadi_builder_compile(&m->w, lines) && ok;
}

/* ---- linking ---- */

static bool link_all(imager *m, const char *map)
{
    static const char *const flags[] = {"-nostdlib",
                                        "-nostartfiles",
                                        "-Wl,--gc-sections",
                                        "-Wl,--fatal-warnings",
                                        "-Wl,--no-warn-rwx-segments",
                                        NULL};
    GPtrArray *argv = g_ptr_array_new_with_free_func(g_free);
    wadi_add(argv, "%s", m->compiler);
    wadi_add_all(argv, m->cpu->flags);
    wadi_add_all(argv, flags);
    wadi_add(argv, "-L%s", m->w.folder);
    wadi_add(argv, "-T" WADIUM_ROOT "/ports/metal/%s",
             m->o->ram ? "sections-ram.ld" : "sections.ld");
    wadi_add(argv, "-Wl,-Map=%s", map);
    for (guint i = 0; i < m->w.objects->len; i++)
        wadi_add(argv, "%s", m->w.objects->pdata[i]);
    wadi_add(argv, "-lgcc%s", "");
    wadi_add(argv, "-o%s/out.elf", m->w.folder);
    return wadi_builder_run(&m->w, argv);
}

/* ---- measuring ---- */

static const char *group_of(void *ctx, unsigned object)
{
    const imager *m = ctx;
    return object < m->first_driver ? "program" : object < m->first_start ? "drivers" : "start-up";
}

static void measure_memories(const wad_sheet *s, wad_image_report *report)
{
    for (unsigned i = 0; i < s->n_memories; i++)
        *(g_str_has_prefix(s->memories[i].name, "flash") ? &report->flash : &report->ram) +=
            s->memories[i].size;
}

static bool build(imager *m, wad_image_report *report)
{
    char *map = g_build_filename(m->w.folder, "out.map", NULL);
    bool ok = wadi_builder_prepare(&m->w) &&
              wadi_builder_generate(&m->w, "memory.ld", wad_emit_linker) && find_cpu(m) &&
              compile_all(m) && link_all(m, map) &&
              wadi_measure_sizes(&m->w, map, group_of, m, report);
    if (ok) {
        measure_memories(m->w.sheet, report);
        char *image = g_build_filename(m->w.folder, "out.elf", NULL);
        wadi_measure_stack(&m->w, image, m->cpu->entry, &report->stack);
        g_free(image);
        ok = (!m->o->map || wadi_builder_put(&m->w, "out.map", m->o->map)) &&
             wadi_builder_put(&m->w, "out.elf", m->o->output);
    }
    g_free(map);
    return ok;
}

bool wad_build_image(const wad_image *image, wad_image_report *report, char **log)
{
    imager m = {.o = image};
    *report = (wad_image_report){0};
    wadi_builder_init(&m.w, image->chip, image->board);
    bool ok = m.w.folder && build(&m, report);
    wadi_builder_clear(&m.w);
    g_free(m.compiler);
    *log = g_string_free(m.w.log, FALSE);
    return ok;
}

void wad_image_report_clear(wad_image_report *report)
{
    if (report->parts)
        g_ptr_array_free(report->parts, TRUE);
    g_free(report->stack.deepest);
    g_free(report->stack.unbounded);
    g_free(report->stack.assumed);
    *report = (wad_image_report){0};
}

/* ---- the report ---- */

static void print_share(const char *what, uint64_t bytes, uint64_t of, FILE *out)
{
    fprintf(out, "  %-6s %6llu bytes", what, (unsigned long long)bytes);
    if (of)
        fprintf(out, " of %llu, %.1f %%", (unsigned long long)of,
                100.0 * (double)bytes / (double)of);
    fputc('\n', out);
}

static void print_stack(const wad_image_report *r, FILE *out)
{
    const wad_image_stack *s = &r->stack;
    uint64_t used = r->data + r->zero;
    fprintf(out, "\nstack  %6u bytes at most", s->main + s->handlers);
    if (r->ram > used)
        fprintf(out, ", %llu are free", (unsigned long long)(r->ram - used));
    fprintf(out, "\n  main %u: %s\n", s->main, s->deepest);
    if (s->n_handlers)
        fprintf(out, "  handlers %u: %u of them, inside of each other\n", s->handlers,
                s->n_handlers);
    if (s->unbounded)
        fprintf(out, "  no bound: %s call themselves or grow\n", s->unbounded);
    if (s->assumed)
        fprintf(out,
                "  assumed: %s (any function whose address is taken; 0 bytes for what was "
                "not compiled here)\n",
                s->assumed);
}

void wad_image_report_print(const wad_image_report *r, FILE *out)
{
    print_share("flash", r->code + r->data, r->flash, out);
    print_share("RAM", r->data + r->zero, r->ram, out);
    fprintf(out, "\n%-18s %-10s %8s %6s %6s\n", "part", "of", "code", "data", "zero");
    for (guint i = 0; i < r->parts->len; i++) {
        const wad_image_part *p = r->parts->pdata[i];
        fprintf(out, "%-18s %-10s %8u %6u %6u\n", p->name, p->group, p->code, p->data, p->zero);
    }
    fprintf(out, "%-18s %-10s %8u %6u %6u\n", "all", "", r->code, r->data, r->zero);
    print_stack(r, out);
}
