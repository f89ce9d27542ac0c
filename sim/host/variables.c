/* SPDX-License-Identifier: MIT */
/* The firmware's variables by name: which there are, and parts of them by path. */
#include "variables.h"

#include <fcntl.h>
#include <string.h>
#include <unistd.h>

#include "source.h"

struct wadi_variables {
    GArray *list; /* wadi_entry, by file and line */
    GStringChunk *names;
    wad_sim *sim; /* NULL: of a file, for a target elsewhere */
    uintptr_t bias;
    Dwarf *dwarf; /* of a file */
    int fd;
    wadi_decl_path last; /* while the list is made */
};

typedef struct wadi_entry {
    wad_variable v;
    bool constant, own;
} wadi_entry;

/* ---- types ---- */

Dwarf_Die wadi_type_of(const wad_variable *v)
{
    return (Dwarf_Die){.addr = (void *)(uintptr_t)v->type, .cu = v->unit};
}

bool wadi_type_bare(Dwarf_Die *type, bool *constant)
{
    for (;;) {
        int tag = dwarf_tag(type);
        Dwarf_Attribute attr;
        Dwarf_Die next;
        if (tag == DW_TAG_const_type && constant)
            *constant = true;
        if (tag != DW_TAG_typedef && tag != DW_TAG_const_type && tag != DW_TAG_volatile_type &&
            tag != DW_TAG_restrict_type && tag != DW_TAG_atomic_type)
            return tag != DW_TAG_invalid;
        if (!dwarf_formref_die(dwarf_attr_integrate(type, DW_AT_type, &attr), &next))
            return false;
        *type = next;
    }
}

bool wadi_type_named(Dwarf_Die *die, Dwarf_Die *type)
{
    Dwarf_Attribute attr;
    return dwarf_formref_die(dwarf_attr_integrate(die, DW_AT_type, &attr), type) != NULL;
}

uint64_t wadi_type_number(Dwarf_Die *die, unsigned name, uint64_t otherwise)
{
    Dwarf_Attribute attr;
    Dwarf_Word value;
    if (dwarf_formudata(dwarf_attr_integrate(die, name, &attr), &value))
        return otherwise;
    return value;
}

/* Elements of all dimensions. */
size_t wadi_type_elements(Dwarf_Die *array)
{
    Dwarf_Die range;
    size_t n = 1;
    bool any = false;
    if (dwarf_child(array, &range))
        return 0;
    do {
        if (dwarf_tag(&range) != DW_TAG_subrange_type)
            continue;
        n *= (size_t)wadi_type_number(&range, DW_AT_count,
                                      wadi_type_number(&range, DW_AT_upper_bound, UINT64_MAX) + 1);
        any = true;
    } while (dwarf_siblingof(&range, &range) == 0);
    return any ? n : 0;
}

/* ---- the list ---- */

static bool address_of(Dwarf_Die *die, uintptr_t *address)
{
    Dwarf_Attribute attr, indirect;
    Dwarf_Op *ops;
    Dwarf_Addr at;
    size_t n;
    if (dwarf_getlocation(dwarf_attr(die, DW_AT_location, &attr), &ops, &n) || n != 1)
        return false;
    if (ops[0].atom == DW_OP_addrx) { /* clang's: its place in a list of addresses */
        if (dwarf_getlocation_attr(&attr, &ops[0], &indirect) || dwarf_formaddr(&indirect, &at))
            return false;
        *address = at;
        return true;
    }
    *address = ops[0].number;
    return ops[0].atom == DW_OP_addr;
}

static void add_variable(wadi_variables *all, Dwarf_Die *die, const char *function,
                         const char *file)
{
    Dwarf_Die type;
    uintptr_t address;
    Dwarf_Word size;
    const char *name = dwarf_diename(die);
    wadi_entry e = {0};
    int line = 0;
    if (!name || !file || !address_of(die, &address) || !wadi_type_named(die, &type))
        return;
    e.v.sim = all->sim;
    e.v.type = type.addr;
    e.v.unit = type.cu;
    if (!wadi_type_bare(&type, &e.constant))
        return;
    /* an array's elements carry the const */
    Dwarf_Die element = type;
    if (dwarf_tag(&type) == DW_TAG_array_type && wadi_type_named(&type, &element))
        wadi_type_bare(&element, &e.constant);
    if (dwarf_aggregate_size(&type, &size))
        return;
    dwarf_decl_line(die, &line);
    char *full = function ? g_strdup_printf("%s.%s", function, name) : g_strdup(name);
    e.v.name = g_string_chunk_insert_const(all->names, full);
    e.v.file = g_string_chunk_insert_const(all->names, file);
    e.v.line = (unsigned)line;
    e.v.address = (const void *)(address + all->bias);
    e.v.bytes = (size_t)size;
    e.own = !wadi_source_is_library(file);
    g_array_append_val(all->list, e);
    g_free(full);
}

static void walk(wadi_variables *all, Dwarf_Die *parent, const char *function)
{
    Dwarf_Die die;
    if (dwarf_child(parent, &die))
        return;
    do {
        int tag = dwarf_tag(&die);
        if (tag == DW_TAG_variable) {
            add_variable(all, &die, function, wadi_source_decl_path(&all->last, &die));
        } else if (tag == DW_TAG_subprogram)
            walk(all, &die, dwarf_diename(&die));
        else if (tag == DW_TAG_lexical_block)
            walk(all, &die, function);
    } while (dwarf_siblingof(&die, &die) == 0);
}

static int by_place(const void *a, const void *b)
{
    const wadi_entry *x = a, *y = b;
    int order = strcmp(x->v.file, y->v.file);
    if (order)
        return order;
    if (x->v.line != y->v.line)
        return (x->v.line > y->v.line) - (x->v.line < y->v.line);
    return strcmp(x->v.name, y->v.name);
}

static wadi_variables *new_list(wad_sim *sim, uintptr_t bias, Dwarf *dwarf)
{
    wadi_variables *all = g_new0(wadi_variables, 1);
    Dwarf_CU *unit = NULL;
    Dwarf_Die cu;
    all->list = g_array_new(FALSE, TRUE, sizeof(wadi_entry));
    all->names = g_string_chunk_new(1024);
    all->sim = sim;
    all->bias = bias;
    all->fd = -1;
    while (dwarf && dwarf_get_units(dwarf, unit, &unit, NULL, NULL, &cu, NULL) == 0) {
        const char *name = dwarf_diename(&cu);
        if (!name || !g_str_has_suffix(name, "_vectors.c"))
            walk(all, &cu, NULL);
    }
    g_clear_pointer(&all->last.path, g_free);
    g_array_sort(all->list, by_place);
    return all;
}

static wadi_variables *list_of(wad_sim *sim)
{
    if (sim->host.variables)
        return sim->host.variables;
    sim->host.looking_up++;
    sim->host.variables =
        new_list(sim, sim->host.fw.bias, sim->host.fw.handle ? wadi_source_dwarf(sim) : NULL);
    sim->host.looking_up--;
    return sim->host.variables;
}

wad_variables *wad_variables_open(const char *path, char **why)
{
    int fd = open(path, O_RDONLY | O_CLOEXEC);
    Dwarf *dwarf = fd < 0 ? NULL : dwarf_begin(fd, DWARF_C_READ);
    *why = NULL;
    if (!dwarf) {
        *why = g_strdup_printf(fd < 0 ? "there is no image '%s'"
                                      : "'%s' has no debugging information: build it with -g",
                               path);
        if (fd >= 0)
            close(fd);
        return NULL;
    }
    wadi_variables *all = new_list(NULL, 0, dwarf);
    all->dwarf = dwarf;
    all->fd = fd;
    return all;
}

void wad_variables_close(wad_variables *all)
{
    wadi_variables_free(all);
}

/* A number's size; 0 for a struct, a union, a pointer. */
static unsigned number_size(Dwarf_Die type)
{
    if (!wadi_type_bare(&type, NULL) || dwarf_tag(&type) != DW_TAG_base_type)
        return 0;
    return (unsigned)wadi_type_number(&type, DW_AT_byte_size, 0);
}

bool wadi_variable_around(wad_sim *sim, uintptr_t host, wadi_extent *extent)
{
    const wadi_variables *all = list_of(sim);
    for (guint i = 0; all && i < all->list->len; i++) {
        const wad_variable *one = &g_array_index(all->list, wadi_entry, i).v;
        if (host < (uintptr_t)one->address || host >= (uintptr_t)one->address + one->bytes)
            continue;
        Dwarf_Die type = wadi_type_of(one), inner;
        *extent = (wadi_extent){one->name, (uintptr_t)one->address, one->bytes, 0};
        if (wadi_type_bare(&type, NULL) && dwarf_tag(&type) == DW_TAG_array_type &&
            wadi_type_named(&type, &inner))
            extent->element = number_size(inner);
        return true;
    }
    return false;
}

void wadi_variables_free(wadi_variables *all)
{
    if (!all)
        return;
    g_array_free(all->list, TRUE);
    g_string_chunk_free(all->names);
    if (all->dwarf)
        dwarf_end(all->dwarf);
    if (all->fd >= 0)
        close(all->fd);
    g_free(all);
}

static const wadi_entry *shown(const wadi_variables *all, unsigned *i)
{
    for (guint k = 0; k < all->list->len; k++) {
        const wadi_entry *e = &g_array_index(all->list, wadi_entry, k);
        if (e->own && !e->constant && !(*i)--)
            return e;
    }
    return NULL;
}

unsigned wad_variable_count(wad_sim *sim)
{
    unsigned most = UINT_MAX;
    shown(list_of(sim), &most);
    return UINT_MAX - most;
}

wad_variable wad_variable_at(wad_sim *sim, unsigned i)
{
    const wadi_entry *e = shown(list_of(sim), &i);
    return e ? e->v : (wad_variable){0};
}

/* ---- by name ---- */

static char *base_of(const char *file)
{
    return g_path_get_basename(file);
}

static bool has_name(const wad_variable *v, const char *name, size_t length)
{
    if (strlen(v->name) == length && !strncmp(v->name, name, length))
        return true;
    char *file = base_of(v->file), *with = g_strdup_printf("%s:%s", file, v->name);
    bool same = strlen(with) == length && !strncmp(with, name, length);
    g_free(with);
    g_free(file);
    return same;
}

/* The longest beginning of the path that is a variable's name ends at a `.`, a `[` or the end. */
static const char *split_name(const wadi_variables *all, const char *path, const wad_variable **v,
                              unsigned *n)
{
    for (size_t length = strlen(path); length > 0; length--) {
        if (path[length] && path[length] != '.' && path[length] != '[')
            continue;
        bool own = false;
        *n = 0;
        for (guint i = 0; i < all->list->len; i++) {
            const wadi_entry *e = &g_array_index(all->list, wadi_entry, i);
            if (!has_name(&e->v, path, length) || (own && !e->own))
                continue;
            *n = e->own && !own ? 1 : *n + 1; /* the library's do not count beside the user's */
            own = e->own;
            *v = &e->v;
        }
        if (*n)
            return path + length;
    }
    return NULL;
}

static char *names_of(const wadi_variables *all)
{
    GString *text = g_string_new(NULL);
    unsigned n = 0;
    for (guint i = 0; i < all->list->len && n < 12; i++) {
        const wadi_entry *e = &g_array_index(all->list, wadi_entry, i);
        if (e->own && !e->constant)
            g_string_append_printf(text, "%s%s", n++ ? ", " : "", e->v.name);
    }
    return g_string_free(text, FALSE);
}

static bool member(wad_variable *v, Dwarf_Die *type, const char *name, size_t length)
{
    Dwarf_Die die;
    if (dwarf_child(type, &die))
        return false;
    do {
        const char *own = dwarf_diename(&die);
        Dwarf_Die next;
        Dwarf_Word size;
        if (dwarf_tag(&die) != DW_TAG_member || !own || strlen(own) != length ||
            strncmp(own, name, length) || !wadi_type_named(&die, &next))
            continue;
        wadi_type_place(&die, v);
        v->type = next.addr;
        v->unit = next.cu;
        if (!dwarf_aggregate_size(&next, &size))
            v->bytes = (size_t)size;
        return true;
    } while (dwarf_siblingof(&die, &die) == 0);
    return false;
}

void wadi_type_place(Dwarf_Die *die, wad_variable *v)
{
    v->address = (const char *)v->address + wadi_type_number(die, DW_AT_data_member_location, 0);
    v->bits = (unsigned)wadi_type_number(die, DW_AT_bit_size, 0);
    v->bit = (unsigned)wadi_type_number(die, DW_AT_data_bit_offset, 0);
    if (dwarf_hasattr_integrate(die, DW_AT_bit_offset)) /* clang's: from the unit's highest bit */
        v->bit = (unsigned)(8 * wadi_type_number(die, DW_AT_byte_size, v->bytes)) - v->bits -
                 (unsigned)wadi_type_number(die, DW_AT_bit_offset, 0);
    v->address = (const char *)v->address + v->bit / 8;
    v->bit %= 8;
}

static bool element(wad_variable *v, Dwarf_Die *type, const char **at, char **why)
{
    char *end;
    Dwarf_Die next;
    Dwarf_Word size;
    unsigned long long i = g_ascii_strtoull(*at + 1, &end, 10);
    if (!g_ascii_isdigit((*at)[1]) || dwarf_tag(type) != DW_TAG_array_type || *end != ']' ||
        !wadi_type_named(type, &next) || dwarf_aggregate_size(&next, &size)) {
        *why = g_strdup_printf("'%s': [0] and so on goes with arrays", *at);
        return false;
    }
    if (i >= wadi_type_elements(type)) {
        *why =
            g_strdup_printf("'%s': it has %zu elements, from [0]", *at, wadi_type_elements(type));
        return false;
    }
    v->address = (const char *)v->address + i * size;
    v->bytes = (size_t)size;
    v->type = next.addr;
    v->unit = next.cu;
    *at = end + 1;
    return true;
}

static bool follow(wad_variable *v, const char *at, char **why)
{
    while (*at) {
        Dwarf_Die type = wadi_type_of(v);
        wadi_type_bare(&type, NULL);
        if (*at == '[') {
            if (!element(v, &type, &at, why))
                return false;
            continue;
        }
        size_t length = *at == '.' ? strcspn(at + 1, ".[") : 0;
        if (!length || !member(v, &type, at + 1, length)) {
            *why = g_strdup_printf("'%s' has no member '%.*s'", v->name, (int)length, at + 1);
            return false;
        }
        at += 1 + length;
    }
    return true;
}

bool wad_variables_find(wad_variables *all, const char *path, wad_variable *variable, char **why)
{
    const wad_variable *found = NULL;
    unsigned n = 0;
    const char *rest = split_name(all, path, &found, &n);
    *why = NULL;
    if (!rest) {
        char *names = names_of(all);
        *why = g_strdup_printf("the firmware has no variable '%s' in memory; it has %s", path,
                               *names ? names : "none");
        g_free(names);
        return false;
    }
    if (n > 1) {
        char *file = base_of(found->file);
        *why = g_strdup_printf("%u files have a '%.*s': say which, as %s:%s", n, (int)(rest - path),
                               path, file, found->name);
        g_free(file);
        return false;
    }
    *variable = *found;
    if (!follow(variable, rest, why))
        return false;
    variable->name = g_string_chunk_insert_const(all->names, path);
    return true;
}

bool wad_variable_find(wad_sim *sim, const char *path, wad_variable *variable, char **why)
{
    return wad_variables_find(list_of(sim), path, variable, why);
}
