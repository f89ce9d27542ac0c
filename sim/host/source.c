/* SPDX-License-Identifier: MIT */
/* From addresses in the firmware to source lines, by DWARF. */
#include "source.h"

#include <dwarf.h>
#include <elfutils/libdw.h>
#include <fcntl.h>
#include <gelf.h>
#include <link.h>
#include <string.h>
#include <unistd.h>

#include "sim/core/report.h"
#include "variables.h"

#ifndef WADIUM_ROOT
#error "WADIUM_ROOT names the folder whose drivers/ and include/ are the library's own"
#endif

#define PAIRS 256

typedef struct pair {
    uintptr_t a, b;
    bool known, same_line, one_statement, one_block;
} pair;

struct wadi_debug_info {
    Dwarf *dwarf;
    int fd;
    uintptr_t bias;
    GStringChunk *names;
    GHashTable *here;  /* wad_place by the hash of a trace */
    pair pairs[PAIRS]; /* a read-modify-write is judged on every tick: remember the verdicts */
};

/* The compilation unit of an address; not every compiler writes the table that finds it at once. */
static bool find_unit(wadi_debug_info *src, Dwarf_Addr addr, Dwarf_Die *cu)
{
    if (!src->dwarf)
        return false;
    if (dwarf_addrdie(src->dwarf, addr, cu))
        return true;
    Dwarf_CU *unit = NULL;
    while (dwarf_get_units(src->dwarf, unit, &unit, NULL, NULL, cu, NULL) == 0)
        if (dwarf_haspc(cu, addr) > 0)
            return true;
    return false;
}

typedef struct place_list {
    wad_place *places;
    unsigned n, room;
    wadi_debug_info *src;
} place_list;

static int main_bias(struct dl_phdr_info *info, size_t size, void *data)
{
    (void)size;
    *(uintptr_t *)data = info->dlpi_addr;
    return 1; /* the first object is the program itself */
}

static wadi_debug_info *open_source(wad_sim *sim)
{
    if (sim->host.source)
        return sim->host.source;
    wadi_debug_info *src = g_new0(wadi_debug_info, 1);
    const char *path = sim->host.fw.path ? sim->host.fw.path : "/proc/self/exe";
    src->names = g_string_chunk_new(4096);
    src->bias = sim->host.fw.bias;
    if (!sim->host.fw.path)
        dl_iterate_phdr(main_bias, &src->bias);
    src->fd = open(path, O_RDONLY | O_CLOEXEC);
    src->dwarf = src->fd < 0 ? NULL : dwarf_begin(src->fd, DWARF_C_READ);
    sim->host.source = src;
    return src;
}

void wadi_source_free(wadi_debug_info *src)
{
    if (!src)
        return;
    if (src->dwarf)
        dwarf_end(src->dwarf);
    if (src->fd >= 0)
        close(src->fd);
    if (src->here)
        g_hash_table_destroy(src->here);
    g_string_chunk_free(src->names);
    g_free(src);
}

static const char *intern(wadi_debug_info *src, const char *text)
{
    return text ? g_string_chunk_insert_const(src->names, text) : NULL;
}

/* The library's own takes number 0 for none; since version 5 of the format it is the unit's file.
 */
const char *wadi_source_decl_file(Dwarf_Die *die)
{
    Dwarf_Attribute attr;
    Dwarf_Word number;
    Dwarf_Die unit;
    Dwarf_Files *files;
    size_t n;
    Dwarf_Half version = 0;
    if (dwarf_formudata(dwarf_attr_integrate(die, DW_AT_decl_file, &attr), &number) ||
        !dwarf_cu_die(die->cu, &unit, &version, NULL, NULL, NULL, NULL, NULL) ||
        dwarf_getsrcfiles(&unit, &files, &n) || number >= n || (!number && version < 5))
        return NULL;
    return dwarf_filesrc(files, (size_t)number, NULL, NULL);
}

/* Absolute, ".." folded away; relative names stand from the unit's compilation folder. */
static char *path_of(Dwarf_Die *cu, const char *file)
{
    Dwarf_Attribute attr;
    const char *folder = dwarf_formstring(dwarf_attr(cu, DW_AT_comp_dir, &attr));
    return g_canonicalize_filename(file, folder && *folder == '/' ? folder : NULL);
}

const char *wadi_source_decl_path(wadi_decl_path *last, Dwarf_Die *die)
{
    Dwarf_Die unit;
    const char *file = wadi_source_decl_file(die);
    if (file && file == last->file && die->cu == last->unit)
        return last->path;
    if (!file || !dwarf_cu_die(die->cu, &unit, NULL, NULL, NULL, NULL, NULL, NULL))
        return NULL;
    char *path = path_of(&unit, file);
    g_free(last->path);
    *last = (wadi_decl_path){die->cu, file, path};
    return path;
}

static const char *full_name(wadi_debug_info *src, Dwarf_Die *cu, const char *file)
{
    if (!file)
        return NULL;
    char *path = path_of(cu, file);
    const char *name = intern(src, path);
    g_free(path);
    return name;
}

static void add_place(place_list *list, const char *function, const char *file, int line)
{
    if (list->n < list->room)
        list->places[list->n++] = (wad_place){intern(list->src, function), file, (unsigned)line};
}

static bool in_function(Dwarf_Die *scope)
{
    int tag = dwarf_tag(scope);
    return tag == DW_TAG_inlined_subroutine || tag == DW_TAG_subprogram;
}

static int number(Dwarf_Die *die, unsigned name)
{
    Dwarf_Attribute attr;
    Dwarf_Word value = 0;
    dwarf_formudata(dwarf_attr(die, name, &attr), &value);
    return (int)value;
}

/* By address libdw gives an inlined function's scopes as declared; by entry, as they are nested. */
static int nested_scopes(Dwarf_Die *cu, Dwarf_Addr addr, Dwarf_Die **scopes)
{
    Dwarf_Die *declared;
    int n = dwarf_getscopes(cu, addr, &declared);
    if (n <= 0)
        return n;
    n = dwarf_getscopes_die(&declared[0], scopes);
    free(declared);
    return n;
}

/* The functions around an address, innermost first: inlined ones name the line they stand in. */
static void add_scopes(place_list *list, Dwarf_Die *cu, Dwarf_Addr addr, const char *file, int line)
{
    Dwarf_Die *scopes;
    int n = nested_scopes(cu, addr, &scopes);
    bool any = false;
    for (int i = 0; i < n; i++) {
        if (!in_function(&scopes[i]))
            continue;
        any = true;
        add_place(list, dwarf_diename(&scopes[i]), file, line);
        if (dwarf_tag(&scopes[i]) == DW_TAG_subprogram)
            break;
        Dwarf_Files *files;
        size_t n_files;
        line = number(&scopes[i], DW_AT_call_line);
        file = NULL;
        if (dwarf_getsrcfiles(cu, &files, &n_files) == 0)
            file = full_name(
                list->src, cu,
                dwarf_filesrc(files, (size_t)number(&scopes[i], DW_AT_call_file), NULL, NULL));
    }
    if (n > 0)
        free(scopes);
    if (!any)
        add_place(list, NULL, file, line);
}

/* Where the function around an address is declared. */
static void add_function(place_list *list, uintptr_t pc)
{
    Dwarf_Die cu, *scopes;
    Dwarf_Addr addr = pc - 1 - list->src->bias;
    if (!find_unit(list->src, addr, &cu))
        return;
    int n = nested_scopes(&cu, addr, &scopes), line = 0;
    for (int i = 0; i < n; i++)
        if (dwarf_tag(&scopes[i]) == DW_TAG_subprogram) {
            dwarf_decl_line(&scopes[i], &line);
            add_place(list, dwarf_diename(&scopes[i]),
                      full_name(list->src, &cu, wadi_source_decl_file(&scopes[i])), line);
            break;
        }
    if (n > 0)
        free(scopes);
}

static void add_pc(place_list *list, uintptr_t pc)
{
    wadi_debug_info *src = list->src;
    Dwarf_Die cu;
    Dwarf_Addr addr = pc - 1 - src->bias;
    if (!find_unit(src, addr, &cu))
        return;
    Dwarf_Line *at = dwarf_getsrc_die(&cu, addr);
    int line = 0;
    if (at)
        dwarf_lineno(at, &line);
    /* what a compiler has moved may have no line: the next one that has is the nearest guess */
    for (Dwarf_Addr next = addr + 1; at && !line && next < addr + 64; next++) {
        at = dwarf_getsrc_die(&cu, next);
        if (at)
            dwarf_lineno(at, &line);
    }
    const char *file = at ? full_name(src, &cu, dwarf_linesrc(at, NULL, NULL)) : NULL;
    add_scopes(list, &cu, addr, file, line);
}

struct Dwarf *wadi_source_dwarf(wad_sim *sim)
{
    return open_source(sim)->dwarf;
}

bool wadi_source_is_library(const char *file)
{
    char *path = g_canonicalize_filename(file, NULL);
    bool library = g_str_has_prefix(path, WADIUM_ROOT "/drivers/") ||
                   g_str_has_prefix(path, WADIUM_ROOT "/include/") ||
                   g_str_has_prefix(path, WADIUM_ROOT "/ports/") ||
                   g_str_has_suffix(path, "_roles.h"); /* generated */
    g_free(path);
    return library;
}

static bool is_library(const wad_place *place)
{
    return place->file && wadi_source_is_library(place->file);
}

static unsigned all_places(wad_sim *sim, const wadi_trace *trace, wad_place *all, unsigned room)
{
    sim->host.looking_up++;
    place_list list = {all, 0, room, open_source(sim)};
    if (trace->whole)
        add_function(&list, trace->pc[0]);
    for (unsigned i = trace->whole; i < trace->n; i++)
        add_pc(&list, trace->pc[i]);
    sim->host.looking_up--;
    return list.n;
}

unsigned wad_sim_stack(wad_sim *sim, wad_place *places, unsigned room)
{
    wadi_trace trace = wadi_trace_here(sim);
    return all_places(sim, &trace, places, room);
}

unsigned wadi_source_places(wad_sim *sim, const wadi_trace *trace, wad_place *places, unsigned room)
{
    wad_place all[32];
    unsigned count = all_places(sim, trace, all, G_N_ELEMENTS(all));
    unsigned first = 0;
    while (first < count && is_library(&all[first]))
        first++;
    if (first == count) /* all of it is the library's: better than nothing */
        first = 0;
    unsigned n = MIN(count - first, room);
    memcpy(places, all + first, n * sizeof *places);
    return n;
}

/* The object of the symbol table that holds an address. */
static bool find_object(Elf *elf, uintptr_t address, GElf_Sym *found, const char **name)
{
    for (Elf_Scn *scn = NULL; elf && (scn = elf_nextscn(elf, scn));) {
        GElf_Shdr sh;
        if (!gelf_getshdr(scn, &sh) || sh.sh_type != SHT_SYMTAB)
            continue;
        Elf_Data *data = elf_getdata(scn, NULL);
        for (int i = 0; data && gelf_getsym(data, i, found); i++)
            if (GELF_ST_TYPE(found->st_info) == STT_OBJECT &&
                address - found->st_value < found->st_size) {
                *name = elf_strptr(elf, sh.sh_link, found->st_name);
                return *name != NULL;
            }
    }
    return false;
}

static char *variable_at(wad_sim *sim, uintptr_t address)
{
    const wadi_debug_info *src = open_source(sim);
    GElf_Sym sym;
    const char *name;
    if (!src->dwarf || !find_object(dwarf_getelf(src->dwarf), address - src->bias, &sym, &name))
        return g_strdup_printf("0x%08llx", (unsigned long long)address);
    uint64_t offset = address - src->bias - sym.st_value;
    /* a static of a function is called name.1 by some compilers */
    char *plain = g_strndup(name, strcspn(name, "."));
    char *text =
        offset ? g_strdup_printf("%s+%llu", plain, (unsigned long long)offset) : g_strdup(plain);
    g_free(plain);
    return text;
}

char *wadi_source_variable(wad_sim *sim, uintptr_t address)
{
    sim->host.looking_up++;
    char *name = variable_at(sim, address);
    sim->host.looking_up--;
    return name;
}

/* A trace of registers asks at every access: places are kept by the return addresses. */
bool wad_sim_here(wad_sim *sim, wad_place *place)
{
    wadi_trace trace = wadi_trace_here(sim);
    wadi_debug_info *src = open_source(sim);
    uint64_t key = trace.n;
    for (unsigned i = 0; i < trace.n; i++)
        key = (key ^ trace.pc[i]) * UINT64_C(0x100000001B3);
    if (!src->here)
        src->here = g_hash_table_new_full(g_int64_hash, g_int64_equal, g_free, g_free);
    wad_place *known = g_hash_table_lookup(src->here, &key);
    if (!known) {
        known = g_new0(wad_place, 1);
        if (trace.n)
            wadi_source_places(sim, &trace, known, 1);
        g_hash_table_insert(src->here, g_memdup2(&key, sizeof key), known);
    }
    *place = *known;
    return known->file != NULL;
}

/* Down from the outermost, as long as both stand in the same functions, and at the same lines: what
 * goes apart by then are functions that the statement calls, as a register's `read` and `write`. */
static bool is_one_statement(const wad_place *a, unsigned n_a, const wad_place *b, unsigned n_b)
{
    if (!n_a || !n_b || a[n_a - 1].function != b[n_b - 1].function)
        return false;
    while (n_a && n_b && a[n_a - 1].function == b[n_b - 1].function) {
        const wad_place *x = &a[--n_a], *y = &b[--n_b];
        if (!x->file || x->file != y->file || x->line != y->line)
            return false;
    }
    return true;
}

/* Some compilers number the blocks of one line; 0 from those that do not. */
static unsigned block_of(wadi_debug_info *src, uintptr_t pc)
{
    Dwarf_Die cu;
    Dwarf_Addr addr = pc - 1 - src->bias;
    Dwarf_Line *line = find_unit(src, addr, &cu) ? dwarf_getsrc_die(&cu, addr) : NULL;
    unsigned block = 0;
    if (line)
        dwarf_linediscriminator(line, &block);
    return block;
}

static const pair *judge(wad_sim *sim, uintptr_t a, uintptr_t b)
{
    wadi_debug_info *src = open_source(sim);
    pair *p = &src->pairs[(a ^ b * 31) % PAIRS];
    if (p->known && p->a == a && p->b == b)
        return p;
    wad_place x, y, all_a[32], all_b[32];
    wadi_trace ta = {{a}, 1, false}, tb = {{b}, 1, false};
    bool found = wadi_source_places(sim, &ta, &x, 1) && wadi_source_places(sim, &tb, &y, 1);
    unsigned n_a = all_places(sim, &ta, all_a, G_N_ELEMENTS(all_a)),
             n_b = all_places(sim, &tb, all_b, G_N_ELEMENTS(all_b));
    sim->host.looking_up++;
    *p = (pair){a,
                b,
                true,
                found && x.file && x.file == y.file && x.line == y.line,
                is_one_statement(all_a, n_a, all_b, n_b),
                block_of(src, a) == block_of(src, b)};
    sim->host.looking_up--;
    return p;
}

bool wadi_source_same_line(wad_sim *sim, uintptr_t a, uintptr_t b)
{
    return judge(sim, a, b)->same_line;
}

bool wadi_source_one_statement(wad_sim *sim, uintptr_t a, uintptr_t b, bool unbranched)
{
    const pair *p = judge(sim, a, b);
    return p->one_statement && (!unbranched || p->one_block);
}

/* ---- the text of lines ---- */

/* The lines of the file that the user's place lies in; NULL without. Host time that is not the
 * firmware's, until let_file_go: a long file takes more than a tick of the guard. */
static char **file_of(wad_sim *sim, const wadi_trace *trace, unsigned *line)
{
    sim->host.looking_up++;
    wad_place place = {0};
    char *text = NULL, **lines = NULL;
    if (wadi_source_places(sim, trace, &place, 1) && place.file && place.line &&
        g_file_get_contents(place.file, &text, NULL, NULL))
        lines = g_strsplit(text, "\n", -1);
    g_free(text);
    *line = place.line;
    if (lines && place.line > g_strv_length(lines))
        g_clear_pointer(&lines, g_strfreev);
    return lines;
}

static void let_file_go(wad_sim *sim, char **lines)
{
    g_strfreev(lines);
    sim->host.looking_up--;
}

unsigned wadi_source_before(wad_sim *sim, const wadi_trace *trace, char **out, unsigned room)
{
    unsigned line, n = 0;
    char **lines = file_of(sim, trace, &line);
    for (; lines && n < room && n < line; n++)
        out[n] = g_strdup(lines[line - 1 - n]);
    let_file_go(sim, lines);
    return n;
}

char *wadi_source_after(wad_sim *sim, const wadi_trace *trace)
{
    unsigned line;
    char **lines = file_of(sim, trace, &line), *found = NULL;
    for (; lines && !found && lines[line]; line++)
        if (*g_strstrip(lines[line]))
            found = g_strdup(lines[line]);
    let_file_go(sim, lines);
    return found;
}

bool wadi_source_line_shifts(wad_sim *sim, const wadi_trace *trace)
{
    unsigned line, n;
    char **lines = file_of(sim, trace, &line);
    bool shifts = false;
    for (n = 0; lines && n < 3 && lines[line - 1 + n]; n++)
        shifts = shifts || strstr(lines[line - 1 + n], ">>") || strstr(lines[line - 1 + n], " / ");
    let_file_go(sim, lines);
    return shifts;
}
