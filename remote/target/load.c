/* SPDX-License-Identifier: MIT */
/* Programs into a live target's memory. */
#include <fcntl.h>
#include <gelf.h>
#include <glib.h>
#include <libelf.h>
#include <string.h>
#include <unistd.h>

#include "wadium/host/target.h"

typedef struct image {
    int fd;
    Elf *elf;
    GElf_Ehdr head;
    const char *bytes;
    size_t size, n;
} image;

static void close_image(image *m)
{
    if (m->elf)
        elf_end(m->elf);
    if (m->fd >= 0)
        close(m->fd);
}

static bool open_image(image *m, const char *path, char **why)
{
    *m = (image){.fd = open(path, O_RDONLY | O_CLOEXEC)};
    elf_version(EV_CURRENT);
    m->elf = m->fd < 0 ? NULL : elf_begin(m->fd, ELF_C_READ, NULL);
    *why = NULL;
    if (m->fd < 0)
        *why = g_strdup_printf("there is no image '%s'", path);
    else if (!m->elf || !gelf_getehdr(m->elf, &m->head) || elf_getphdrnum(m->elf, &m->n) ||
             !(m->bytes = elf_rawfile(m->elf, &m->size)))
        *why = g_strdup_printf("'%s' is no ELF image", path);
    if (!*why)
        return true;
    close_image(m);
    return false;
}

/* The i-th part with bytes of its own; false: it has none, or `why`. */
static bool part(const image *m, size_t i, GElf_Phdr *ph, const char *path, char **why)
{
    if (!gelf_getphdr(m->elf, (int)i, ph) || ph->p_type != PT_LOAD || !ph->p_filesz)
        return false;
    if (ph->p_offset <= m->size && ph->p_filesz <= m->size - ph->p_offset)
        return true;
    *why = g_strdup_printf("'%s' is cut short", path);
    return false;
}

static const wad_memory *memory_of(const wad_sheet *s, const GElf_Phdr *ph)
{
    for (unsigned i = 0; i < s->n_memories; i++) {
        const wad_memory *m = &s->memories[i];
        if (ph->p_paddr >= m->base && ph->p_paddr - m->base < m->size &&
            ph->p_filesz <= m->size - (ph->p_paddr - m->base))
            return m;
    }
    return NULL;
}

static bool check(const wad_sheet *sheet, const GElf_Phdr *ph, bool flash, char **why)
{
    const wad_memory *m = memory_of(sheet, ph);
    if (!m)
        *why = g_strdup_printf("%llu bytes at 0x%08llx lie in no memory of %s",
                               (unsigned long long)ph->p_filesz, (unsigned long long)ph->p_paddr,
                               sheet->name);
    else if (!flash && g_str_has_prefix(m->name, "flash"))
        *why = g_strdup_printf("%llu bytes at 0x%08llx belong into %s: build the image for RAM "
                               "('wadium image --ram'), or program it with your probe's own tool",
                               (unsigned long long)ph->p_filesz, (unsigned long long)ph->p_paddr,
                               m->name);
    return *why == NULL;
}

static bool put(wad_remote *r, const image *m, const GElf_Phdr *ph, char **why)
{
    const char *from = m->bytes + ph->p_offset;
    char *back = g_malloc(ph->p_filesz);
    bool good = wad_remote_write(r, ph->p_paddr, from, ph->p_filesz, why) &&
                wad_remote_read(r, ph->p_paddr, back, ph->p_filesz, why);
    for (size_t i = 0; good && i < ph->p_filesz; i++)
        if (back[i] != from[i]) {
            *why = g_strdup_printf("the byte at 0x%08llx reads back as 0x%02x, and 0x%02x was "
                                   "written",
                                   (unsigned long long)(ph->p_paddr + i), (uint8_t)back[i],
                                   (uint8_t)from[i]);
            good = false;
        }
    g_free(back);
    return good;
}

/* The vectors stand first in the first part: stack pointer and start. */
static bool set_off(wad_target *t, const image *m, wad_loaded *loaded, char **why)
{
    wad_remote *r = wad_target_remote(t);
    loaded->start = m->head.e_entry;
    if (m->head.e_machine == EM_ARM) {
        uint32_t stack = 0;
        if (!wad_remote_get(r, loaded->table, 4, &stack, why) ||
            !wad_remote_set_register(r, "sp", stack, why) ||
            !wad_remote_set_register(r, "xpsr", 1u << 24, why))
            return false;
        loaded->stack = stack;
        loaded->start &= ~UINT64_C(1);
    }
    return wad_remote_set_register(r, "pc", loaded->start, why);
}

static bool load(wad_target *t, const image *m, const char *path, bool flash, wad_loaded *loaded,
                 char **why)
{
    wad_remote *r = wad_target_remote(t);
    const wad_sheet *sheet = wad_target_sheet(t);
    GElf_Phdr ph;
    loaded->table = UINT64_MAX;
    for (size_t i = 0; i < m->n; i++) /* all or nothing */
        if ((part(m, i, &ph, path, why) && !check(sheet, &ph, flash, why)) || *why)
            return false;
    for (size_t i = 0; i < m->n; i++) {
        if (!part(m, i, &ph, path, why))
            continue;
        if (!put(r, m, &ph, why))
            return false;
        loaded->bytes += ph.p_filesz;
        loaded->table = MIN(loaded->table, ph.p_paddr);
    }
    if (!loaded->bytes)
        *why = g_strdup_printf("'%s' has nothing to load", path);
    return *why == NULL && set_off(t, m, loaded, why);
}

bool wad_target_load(wad_target *t, const char *elf, bool flash, wad_loaded *loaded, char **why)
{
    image m;
    *loaded = (wad_loaded){0};
    if (!open_image(&m, elf, why))
        return false;
    bool good = load(t, &m, elf, flash, loaded, why);
    close_image(&m);
    return good;
}

bool wad_image_symbol(const char *elf, const char *name, uint64_t *address, char **why)
{
    image m;
    bool found = false;
    if (!open_image(&m, elf, why))
        return false;
    for (Elf_Scn *scn = NULL; !found && (scn = elf_nextscn(m.elf, scn));) {
        GElf_Shdr sh;
        GElf_Sym sym;
        Elf_Data *data =
            gelf_getshdr(scn, &sh) && sh.sh_type == SHT_SYMTAB ? elf_getdata(scn, NULL) : NULL;
        for (int i = 0; data && !found && gelf_getsym(data, i, &sym); i++) {
            const char *own = elf_strptr(m.elf, sh.sh_link, sym.st_name);
            found = own && !strcmp(own, name) && sym.st_shndx != SHN_UNDEF;
            *address = sym.st_value & ~UINT64_C(1);
        }
    }
    if (!found)
        *why = g_strdup_printf("'%s' has no symbol '%s'", elf, name);
    close_image(&m);
    return found;
}
