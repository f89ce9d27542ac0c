/* SPDX-License-Identifier: MIT */
/* Firmware as a shared object: loading, checking, putting its variables back. */
#include "firmware.h"

#include <dlfcn.h>
#include <elf.h>
#include <fcntl.h>
#include <gelf.h>
#include <link.h>
#include <string.h>
#include <unistd.h>

#include "guard.h"
#include "plain.h"
#include "source.h"
#include "variables.h"

static void *symbol(const wadi_firmware *fw, const char *name)
{
    return dlsym(fw->handle, name);
}

/* ---- the object in memory ---- */

static int find_object(struct dl_phdr_info *info, size_t size, void *data)
{
    (void)size;
    wadi_firmware *fw = data;
    const struct link_map *map = NULL;
    if (dlinfo(fw->handle, RTLD_DI_LINKMAP, &map) || !map || info->dlpi_addr != map->l_addr ||
        strcmp(info->dlpi_name, map->l_name))
        return 0;
    uintptr_t relro = 0, relro_end = 0;
    fw->bias = info->dlpi_addr;
    for (int i = 0; i < info->dlpi_phnum; i++)
        if (info->dlpi_phdr[i].p_type == PT_GNU_RELRO) {
            relro = fw->bias + info->dlpi_phdr[i].p_vaddr;
            relro_end = relro + info->dlpi_phdr[i].p_memsz;
        }
    long page = sysconf(_SC_PAGESIZE);
    relro_end &= ~(uintptr_t)(page - 1); /* the loader protects whole pages only */
    for (int i = 0; i < info->dlpi_phnum; i++) {
        const ElfW(Phdr) *ph = &info->dlpi_phdr[i];
        uintptr_t start = fw->bias + ph->p_vaddr, end = start + ph->p_memsz;
        if (ph->p_type != PT_LOAD)
            continue;
        fw->start = fw->end ? MIN(fw->start, start) : start;
        fw->end = MAX(fw->end, end);
        if (ph->p_flags & PF_X) {
            fw->text_start = start;
            fw->text_end = end;
        }
        if (!(ph->p_flags & PF_W))
            continue;
        if (relro >= start && relro < end && relro_end > start)
            start = MIN(relro_end, end);
        fw->data_start = fw->data_end ? MIN(fw->data_start, start) : start;
        fw->data_end = MAX(fw->data_end, end);
        wadi_segment seg = {(char *)start, end - start, NULL};
        g_array_append_val(fw->segments, seg);
    }
    return 1;
}

/* Variables in .noinit keep their values over a reset: cut them out of what is put back. */
static void cut_out(GArray *segments, char *start, size_t size)
{
    for (guint i = 0; i < segments->len; i++) {
        wadi_segment *seg = &g_array_index(segments, wadi_segment, i);
        if (start < seg->start || start + size > seg->start + seg->size)
            continue;
        wadi_segment rest = {start + size, (size_t)(seg->start + seg->size - (start + size)), NULL};
        seg->size = (size_t)(start - seg->start);
        g_array_append_val(segments, rest);
        return;
    }
}

static void cut_noinit(wadi_firmware *fw)
{
    int fd = open(fw->path, O_RDONLY | O_CLOEXEC);
    elf_version(EV_CURRENT);
    Elf *elf = fd < 0 ? NULL : elf_begin(fd, ELF_C_READ, NULL);
    size_t names;
    if (elf && elf_getshdrstrndx(elf, &names) == 0)
        for (Elf_Scn *scn = NULL; (scn = elf_nextscn(elf, scn));) {
            GElf_Shdr sh;
            if (!gelf_getshdr(scn, &sh))
                continue;
            const char *name = elf_strptr(elf, names, sh.sh_name);
            if (name && g_str_has_prefix(name, ".noinit"))
                cut_out(fw->segments, (char *)(fw->bias + sh.sh_addr), sh.sh_size);
        }
    if (elf)
        elf_end(elf);
    if (fd >= 0)
        close(fd);
}

/* Firmware that was compiled for the second way in asks the host for the compiler's entry points.
 */
static bool is_plain(const wadi_firmware *fw)
{
    bool plain = false;
    int fd = open(fw->path, O_RDONLY | O_CLOEXEC);
    elf_version(EV_CURRENT);
    Elf *elf = fd < 0 ? NULL : elf_begin(fd, ELF_C_READ, NULL);
    for (Elf_Scn *scn = NULL; elf && (scn = elf_nextscn(elf, scn));) {
        GElf_Shdr sh;
        GElf_Sym sym;
        if (!gelf_getshdr(scn, &sh) || sh.sh_type != SHT_DYNSYM)
            continue;
        Elf_Data *data = elf_getdata(scn, NULL);
        for (int i = 0; data && gelf_getsym(data, i, &sym) && !plain; i++) {
            const char *name = elf_strptr(elf, sh.sh_link, sym.st_name);
            plain = name && sym.st_shndx == SHN_UNDEF && g_str_has_prefix(name, "__tsan_");
        }
    }
    if (elf)
        elf_end(elf);
    if (fd >= 0)
        close(fd);
    return plain;
}

static void save_segments(wadi_firmware *fw)
{
    for (guint i = 0; i < fw->segments->len; i++) {
        wadi_segment *seg = &g_array_index(fw->segments, wadi_segment, i);
        seg->saved = g_malloc(seg->size + 1);
        memcpy(seg->saved, seg->start, seg->size);
    }
}

void wadi_firmware_restore(wad_sim *sim)
{
    for (guint i = 0; sim->host.fw.segments && i < sim->host.fw.segments->len; i++) {
        const wadi_segment *seg = &g_array_index(sim->host.fw.segments, wadi_segment, i);
        memcpy(seg->start, seg->saved, seg->size);
    }
}

/* ---- loading ---- */

/* A second load of the same file would share its variables: give it a copy of its own. */
static char *private_copy(const char *path, char **why)
{
    char *text, *temp = NULL;
    gsize size;
    GError *error = NULL;
    if (!g_file_get_contents(path, &text, &size, &error)) {
        *why = g_strdup(error->message);
        g_error_free(error);
        return NULL;
    }
    int fd = g_file_open_tmp("wadium-XXXXXX.wfw", &temp, &error);
    if (fd >= 0) {
        close(fd);
        if (!g_file_set_contents(temp, text, (gssize)size, &error)) {
            unlink(temp);
            g_clear_pointer(&temp, g_free);
        }
    }
    if (!temp) {
        *why = g_strdup(error->message);
        g_error_free(error);
    }
    g_free(text);
    return temp;
}

static bool open_object(wadi_firmware *fw, char **why)
{
    void *loaded = dlopen(fw->path, RTLD_NOW | RTLD_LOCAL | RTLD_NOLOAD);
    if (loaded) {
        dlclose(loaded);
        fw->temp = private_copy(fw->path, why);
        if (!fw->temp)
            return false;
    }
    wadi_guard_busy(WAD_BUSY_LOADING); /* what it does before main */
    fw->handle = dlopen(fw->temp ? fw->temp : fw->path, RTLD_NOW | RTLD_LOCAL);
    wadi_guard_busy(0);
    if (!fw->handle)
        *why = g_strdup_printf("cannot load the firmware: %s", dlerror());
    return fw->handle != NULL;
}

static bool check_object(const wad_sim *sim, const wadi_firmware *fw, char **why)
{
    const char *chip = symbol(fw, "wad_firmware_chip"), *hash = symbol(fw, "wad_firmware_hash");
    if (!chip || !hash || !symbol(fw, "wad_vectors") || !symbol(fw, "wad_vector_count"))
        *why = g_strdup_printf("'%s' holds no generated vector table: link the file that "
                               "'wadium emit vectors %s' writes",
                               fw->path, sim->sheet->name);
    else if (strcmp(chip, sim->sheet->name))
        *why = g_strdup_printf("'%s' was built for %s, the bench plays on %s", fw->path, chip,
                               sim->sheet->name);
    else if (strcmp(hash, sim->sheet->hash))
        *why = g_strdup_printf("'%s' was built from another version of %s's sheet (%s, now %s): "
                               "build it again",
                               fw->path, chip, hash, sim->sheet->hash);
    else if (!symbol(fw, "main"))
        *why = g_strdup_printf("'%s' has no main", fw->path);
    return *why == NULL;
}

static void let_go(wad_sim *sim);

bool wad_sim_load(wad_sim *sim, const char *path, char **why)
{
    *why = NULL;
    wadi_firmware_unload(sim);
    wadi_firmware *fw = &sim->host.fw;
    if (!g_file_test(path, G_FILE_TEST_IS_REGULAR)) {
        *why = g_strdup_printf("there is no firmware '%s'", path);
        return false;
    }
    fw->path = g_canonicalize_filename(path, NULL);
    fw->segments = g_array_new(FALSE, TRUE, sizeof(wadi_segment));
    if (!open_object(fw, why) || !check_object(sim, fw, why)) {
        wadi_firmware_unload(sim);
        return false;
    }
    dl_iterate_phdr(find_object, fw);
    fw->window = sim->sheet->bus_bits < 32 ? fw->data_start & ~(uintptr_t)0xFFFF : fw->bias;
    fw->plain = is_plain(fw);
    if (fw->plain && fw->bias)
        *why = g_strdup_printf("'%s' must lie at its own address, which is taken: plain firmware "
                               "runs once in a process",
                               fw->path);
    if (*why || (fw->plain && !wadi_plain_map(sim, why))) {
        wadi_firmware_unload(sim);
        return false;
    }
    cut_noinit(fw);
    save_segments(fw);
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_LOAD, .on = true});
    *(void **)&fw->main_fn = symbol(fw, "main");
    fw->handlers = symbol(fw, "wad_vectors");
    fw->n_handlers = *(const unsigned *)symbol(fw, "wad_vector_count");
    return true;
}

/* The program itself: its variables are the chip's memory, from a RAM's usual address on. */
static int find_program(struct dl_phdr_info *info, size_t size, void *data)
{
    (void)size;
    wadi_firmware *fw = data;
    for (int i = 0; i < info->dlpi_phnum; i++) {
        const ElfW(Phdr) *ph = &info->dlpi_phdr[i];
        uintptr_t start = info->dlpi_addr + ph->p_vaddr, end = start + ph->p_memsz;
        if (ph->p_type != PT_LOAD)
            continue;
        fw->start = fw->end ? MIN(fw->start, start) : start;
        fw->end = MAX(fw->end, end);
        if (ph->p_flags & PF_W) {
            fw->data_start = fw->data_end ? MIN(fw->data_start, start) : start;
            fw->data_end = MAX(fw->data_end, end);
        }
    }
    fw->window = fw->start - 0x20000000u;
    return 1; /* the first one is the program */
}

void wad_sim_attach(wad_sim *sim, int (*main_fn)(void), const wad_handler *handlers,
                    unsigned n_handlers)
{
    wadi_firmware_unload(sim);
    sim->host.fw.main_fn = main_fn;
    sim->host.fw.handlers = handlers;
    sim->host.fw.n_handlers = n_handlers;
    sim->host.fw.text_end = UINTPTR_MAX;
    dl_iterate_phdr(find_program, &sim->host.fw);
}

void wad_sim_unload(wad_sim *sim)
{
    wad_sim_note_count(sim); /* looked for while the file is known */
    let_go(sim);
}

void wadi_firmware_unload(wad_sim *sim)
{
    wadi_source_free(g_steal_pointer(&sim->host.source));
    if (sim->told.notes)
        g_ptr_array_free(g_steal_pointer(&sim->told.notes), TRUE);
    let_go(sim);
}

/* Everything but what findings lean on: their lines' text. */
static void let_go(wad_sim *sim)
{
    wadi_firmware *fw = &sim->host.fw;
    wadi_variables_free(g_steal_pointer(&sim->host.variables));
    wadi_tell(sim, &(wadi_told){.ear = WADI_EAR_LOAD});
    wadi_plain_unmap(sim);
    wadi_guard_busy(fw->handle ? WAD_BUSY_UNLOADING : 0);
    if (fw->handle)
        dlclose(fw->handle);
    wadi_guard_busy(0);
    if (fw->temp)
        unlink(fw->temp);
    for (guint i = 0; fw->segments && i < fw->segments->len; i++)
        g_free(g_array_index(fw->segments, wadi_segment, i).saved);
    if (fw->segments)
        g_array_free(fw->segments, TRUE);
    g_free(fw->temp);
    g_free(fw->path);
    *fw = (wadi_firmware){0};
}

wad_handler wadi_firmware_handler(const wad_sim *sim, unsigned line)
{
    return line < sim->host.fw.n_handlers ? sim->host.fw.handlers[line] : NULL;
}

const wadi_carrier wadi_host_carrier = {wadi_firmware_handler, wadi_cpu_no_handler,
                                        wadi_plain_pick_up};
