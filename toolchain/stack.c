/* SPDX-License-Identifier: MIT */
/* A bound of the stack, from the call graphs that the compiler writes. */
#include <fcntl.h>
#include <gelf.h>
#include <libelf.h>
#include <string.h>
#include <unistd.h>

#include "measure.h"

#define POINTER "__indirect_call"

typedef struct node {
    char *title, *name; /* "lamp.c:on_tick", "on_tick" */
    unsigned bytes;
    bool known;       /* compiled here, and in the image */
    bool left;        /* compiled here, and left out of it */
    bool grows;       /* a frame of no fixed size */
    bool own;         /* of the program or a driver */
    bool taken;       /* somebody has its address */
    GPtrArray *calls; /* titles */
    enum { NEW, UNDER_WAY, DONE } state;
    unsigned depth, pointers;
    struct node *next; /* the deepest way on */
} node;

typedef struct graph {
    GHashTable *nodes; /* by title */
    GPtrArray *order;
    GHashTable *linked; /* names of functions that are in the image */
    GString *unbounded, *assumed;
    unsigned pointers; /* calls by pointer on the way to here */
} graph;

static void free_node(void *p)
{
    node *n = p;
    g_free(n->title);
    g_free(n->name);
    g_ptr_array_free(n->calls, TRUE);
    g_free(n);
}

static node *find(graph *g, const char *title)
{
    node *n = g_hash_table_lookup(g->nodes, title);
    if (n)
        return n;
    const char *colon = strrchr(title, ':');
    n = g_new0(node, 1);
    n->title = g_strdup(title);
    n->name = g_strdup(colon ? colon + 1 : title);
    n->calls = g_ptr_array_new_with_free_func(g_free);
    g_hash_table_insert(g->nodes, n->title, n);
    g_ptr_array_add(g->order, n);
    return n;
}

/* The text behind `key: "`, up to the next quote; g_free. */
static char *quoted(const char *line, const char *key)
{
    char *mark = g_strdup_printf("%s: \"", key);
    const char *at = strstr(line, mark);
    at = at ? at + strlen(mark) : NULL;
    g_free(mark);
    const char *end = at ? strchr(at, '"') : NULL;
    return end ? g_strndup(at, (gsize)(end - at)) : NULL;
}

/* "wad_start\nruntime.c:49:6\n8 bytes (static)\n..." */
static void read_node(graph *g, const char *line)
{
    char *title = quoted(line, "title"), *label = quoted(line, "label");
    const char *bytes = label ? strstr(label, " bytes (") : NULL;
    node *n = title ? find(g, title) : NULL;
    if (n && bytes)
        n->left = !g_hash_table_contains(g->linked, n->name);
    if (n && bytes && g_hash_table_contains(g->linked, n->name)) {
        const char *from = bytes;
        while (from > label && g_ascii_isdigit(from[-1]))
            from--;
        n->known = true;
        n->bytes = MAX(n->bytes, (unsigned)g_ascii_strtoull(from, NULL, 10));
        n->grows |= g_str_has_prefix(bytes, " bytes (dynamic)");
    }
    g_free(title);
    g_free(label);
}

static void read_edge(graph *g, const char *line)
{
    char *from = quoted(line, "sourcename"), *to = quoted(line, "targetname");
    if (from && to)
        g_ptr_array_add(find(g, from)->calls, g_strdup(to));
    g_free(from);
    g_free(to);
}

static void read_graph(graph *g, const char *object)
{
    char *stem = g_strndup(object, strlen(object) - 2), *path = g_strconcat(stem, ".ci", NULL);
    char *text = NULL;
    if (g_file_get_contents(path, &text, NULL, NULL)) {
        char **lines = g_strsplit(text, "\n", -1);
        for (unsigned i = 0; lines[i]; i++)
            if (g_str_has_prefix(lines[i], "node:"))
                read_node(g, lines[i]);
            else if (g_str_has_prefix(lines[i], "edge:"))
                read_edge(g, lines[i]);
        g_strfreev(lines);
    }
    g_free(text);
    g_free(path);
    g_free(stem);
}

/* ---- functions whose address somebody has ---- */

static void take(graph *g, const char *name)
{
    for (guint i = 0; i < g->order->len; i++) {
        node *n = g->order->pdata[i];
        n->taken |= n->known && !strcmp(n->name, name);
    }
}

static void read_relocations(graph *g, Elf *elf, Elf_Scn *scn, const GElf_Shdr *sh)
{
    GElf_Shdr symbols, of;
    Elf_Scn *table = elf_getscn(elf, sh->sh_link);
    Elf_Data *list = elf_getdata(table, NULL), *data = elf_getdata(scn, NULL);
    GElf_Ehdr head;
    size_t names;
    if (!gelf_getehdr(elf, &head) || !gelf_getshdr(table, &symbols) ||
        elf_getshdrstrndx(elf, &names))
        return;
    unsigned word = head.e_machine == EM_ARM ? R_ARM_ABS32 : R_RISCV_32;
    for (int i = 0; i < (int)(sh->sh_size / sh->sh_entsize); i++) {
        GElf_Rel rel;
        GElf_Rela rela;
        GElf_Sym sym;
        uint64_t info = sh->sh_type == SHT_RELA ? (gelf_getrela(data, i, &rela) ? rela.r_info : 0)
                                                : (gelf_getrel(data, i, &rel) ? rel.r_info : 0);
        if (GELF_R_TYPE(info) != word || !gelf_getsym(list, (int)GELF_R_SYM(info), &sym))
            continue;
        const char *name = elf_strptr(elf, symbols.sh_link, sym.st_name);
        if (GELF_ST_TYPE(sym.st_info) == STT_SECTION &&
            gelf_getshdr(elf_getscn(elf, sym.st_shndx), &of))
            name = elf_strptr(elf, names, of.sh_name);
        if (name)
            take(g, g_str_has_prefix(name, ".text.") ? name + 6 : name);
    }
}

static void read_references(graph *g, const char *object)
{
    int fd = open(object, O_RDONLY | O_CLOEXEC);
    elf_version(EV_CURRENT);
    Elf *elf = fd < 0 ? NULL : elf_begin(fd, ELF_C_READ, NULL);
    size_t names;
    for (Elf_Scn *scn = NULL; elf && (scn = elf_nextscn(elf, scn));) {
        GElf_Shdr sh;
        if (!gelf_getshdr(scn, &sh) || (sh.sh_type != SHT_REL && sh.sh_type != SHT_RELA) ||
            elf_getshdrstrndx(elf, &names))
            continue;
        const char *name = elf_strptr(elf, names, sh.sh_name);
        /* debugging information names every function */
        if (name && !strstr(name, ".debug") && !strstr(name, ".vectors"))
            read_relocations(g, elf, scn, &sh);
    }
    if (elf)
        elf_end(elf);
    if (fd >= 0)
        close(fd);
}

/* ---- depth ---- */

static void note(GString *list, const char *name)
{
    char *padded = g_strdup_printf(", %s,", name), *in = g_strdup_printf(", %s,", list->str);
    if (!strstr(in, padded))
        g_string_append_printf(list, "%s%s", list->len ? ", " : "", name);
    g_free(padded);
    g_free(in);
}

static unsigned depth_of(graph *g, node *n);

/* A call by pointer leads to any function whose address somebody has. */
static node *deepest_taken(graph *g)
{
    node *best = NULL;
    for (guint i = 0; i < g->order->len; i++) {
        node *n = g->order->pdata[i];
        if (n->taken && n->state != UNDER_WAY && (depth_of(g, n), !best || n->depth > best->depth))
            best = n;
    }
    return best;
}

static unsigned depth_of(graph *g, node *n)
{
    if (n->state == DONE)
        return n->depth;
    n->state = UNDER_WAY;
    n->pointers = g->pointers;
    unsigned below = 0;
    if (n->grows)
        note(g->unbounded, n->name);
    if (!n->known && !n->left)
        note(g->assumed, n->name);
    for (guint i = 0; i < n->calls->len; i++) {
        bool pointer = !strcmp(n->calls->pdata[i], POINTER);
        g->pointers += pointer;
        node *to = pointer ? deepest_taken(g) : find(g, n->calls->pdata[i]);
        if (pointer)
            note(g->assumed, "calls by pointer");
        /* back to where it came from, by a pointer that may well lead elsewhere: not counted */
        if (to && to->state == UNDER_WAY && g->pointers == to->pointers)
            note(g->unbounded, to->name);
        unsigned d = to && to->state != UNDER_WAY ? depth_of(g, to) : 0;
        g->pointers -= pointer;
        if (!to || to->state == UNDER_WAY)
            continue;
        if (d >= below) {
            below = d;
            n->next = to;
        }
    }
    n->depth = n->bytes + below;
    n->state = DONE;
    return n->depth;
}

static node *named(graph *g, const char *name)
{
    for (guint i = 0; i < g->order->len; i++) {
        node *n = g->order->pdata[i];
        if (n->known && !strcmp(n->name, name))
            return n;
    }
    return NULL;
}

static char *way_from(const node *n)
{
    GString *text = g_string_new(NULL);
    for (; n; n = n->next)
        g_string_append_printf(text, "%s%s %u", text->len ? " > " : "", n->name, n->bytes);
    return g_string_free(text, FALSE);
}

/* The core's own (fault and its like) end the program: they count once, as any other. */
static bool is_handler(const node *n)
{
    return n->known && n->own && g_str_has_prefix(n->name, "handle_");
}

static void read_linked(graph *g, const char *image)
{
    int fd = open(image, O_RDONLY | O_CLOEXEC);
    elf_version(EV_CURRENT);
    Elf *elf = fd < 0 ? NULL : elf_begin(fd, ELF_C_READ, NULL);
    for (Elf_Scn *scn = NULL; elf && (scn = elf_nextscn(elf, scn));) {
        GElf_Shdr sh;
        GElf_Sym sym;
        Elf_Data *data =
            gelf_getshdr(scn, &sh) && sh.sh_type == SHT_SYMTAB ? elf_getdata(scn, NULL) : NULL;
        for (int i = 0; data && gelf_getsym(data, i, &sym); i++)
            if (GELF_ST_TYPE(sym.st_info) == STT_FUNC)
                g_hash_table_add(g->linked, g_strdup(elf_strptr(elf, sh.sh_link, sym.st_name)));
    }
    if (elf)
        elf_end(elf);
    if (fd >= 0)
        close(fd);
}

static char *or_none(GString *text)
{
    return g_string_free(text, text->len == 0);
}

void wadi_measure_stack(wadi_builder *w, const char *image, unsigned entry, wad_image_stack *stack)
{
    graph g = {.nodes = g_hash_table_new(g_str_hash, g_str_equal),
               .order = g_ptr_array_new_with_free_func(free_node),
               .linked = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL),
               .unbounded = g_string_new(NULL),
               .assumed = g_string_new(NULL)};
    read_linked(&g, image);
    for (guint i = 0; i < w->objects->len; i++) {
        const char *object = w->objects->pdata[i];
        guint before = g.order->len;
        read_graph(&g, object);
        bool generated = g_str_has_suffix(object, "_vectors.o") || strstr(object, "_vectors");
        for (guint k = before; k < g.order->len; k++)
            ((node *)g.order->pdata[k])->own = !generated;
    }
    for (guint i = 0; i < w->objects->len; i++)
        if (!strstr(w->objects->pdata[i], "_vectors"))
            read_references(&g, w->objects->pdata[i]);
    node *start = named(&g, "wad_start");
    stack->main = start ? depth_of(&g, start) : 0;
    stack->deepest = way_from(start);
    for (guint i = 0; i < g.order->len; i++) {
        node *n = g.order->pdata[i];
        if (!is_handler(n))
            continue;
        stack->handlers += depth_of(&g, n) + entry;
        stack->n_handlers++;
    }
    stack->unbounded = or_none(g.unbounded);
    stack->assumed = or_none(g.assumed);
    g_hash_table_destroy(g.linked);
    g_hash_table_destroy(g.nodes);
    g_ptr_array_free(g.order, TRUE);
}
