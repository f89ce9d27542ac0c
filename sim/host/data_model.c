/* SPDX-License-Identifier: MIT */
/* Where the firmware's C means something else on the target than here: long, int, char. */
#include <dwarf.h>
#include <elfutils/libdw.h>
#include <string.h>

#include "source.h"
#include "variables.h"

/* One way to differ, with the first object that does. */
typedef struct difference {
    char *first;
    unsigned more;
} difference;

typedef struct scan {
    const wad_sheet *sheet;
    difference wide_long, int_bits, char_sign;
    wadi_decl_path last;
} scan;

/* The base type behind qualifiers, arrays and the user's own typedefs; false for types of fixed
 * width, which system headers define. */
static bool base_type(Dwarf_Die *die, Dwarf_Die *type)
{
    Dwarf_Attribute attr;
    if (!dwarf_formref_die(dwarf_attr_integrate(die, DW_AT_type, &attr), type))
        return false;
    for (;;) {
        int tag = dwarf_tag(type);
        if (tag == DW_TAG_base_type)
            return true;
        const char *file = tag == DW_TAG_typedef ? wadi_source_decl_file(type) : NULL;
        bool fixed = file && (g_str_has_prefix(file, "/usr/") || strstr(file, "/include/stdint"));
        if (fixed || (tag != DW_TAG_typedef && tag != DW_TAG_const_type &&
                      tag != DW_TAG_volatile_type && tag != DW_TAG_array_type))
            return false;
        Dwarf_Die next;
        if (!dwarf_formref_die(dwarf_attr_integrate(type, DW_AT_type, &attr), &next))
            return false;
        *type = next;
    }
}

static void add(difference *d, Dwarf_Die *die)
{
    if (d->first) {
        d->more++;
        return;
    }
    int line = 0;
    dwarf_decl_line(die, &line);
    const char *file = wadi_source_decl_file(die);
    char *base = file ? g_path_get_basename(file) : g_strdup("?");
    d->first = g_strdup_printf("'%s' (%s:%d)", dwarf_diename(die), base, line);
    g_free(base);
}

static void look_at(scan *s, Dwarf_Die *die)
{
    Dwarf_Die type;
    if (!dwarf_diename(die) || !base_type(die, &type))
        return;
    const char *name = dwarf_diename(&type);
    Dwarf_Attribute attr;
    Dwarf_Word encoding = 0;
    dwarf_formudata(dwarf_attr(&type, DW_AT_encoding, &attr), &encoding);
    if (!name)
        return;
    if (g_str_has_prefix(name, "long") && !strstr(name, "long long") && !strstr(name, "double") &&
        dwarf_bytesize(&type) == 8)
        add(&s->wide_long, die);
    else if ((!strcmp(name, "int") || !strcmp(name, "unsigned int")) &&
             s->sheet->cpu.int_bits != 32)
        add(&s->int_bits, die);
    else if (!strcmp(name, "char") &&
             (encoding == DW_ATE_unsigned_char) != s->sheet->cpu.char_unsigned)
        add(&s->char_sign, die);
}

static bool is_object(int tag)
{
    return tag == DW_TAG_variable || tag == DW_TAG_formal_parameter || tag == DW_TAG_member;
}

static void walk(scan *s, Dwarf_Die *parent)
{
    Dwarf_Die die;
    if (dwarf_child(parent, &die))
        return;
    do {
        const char *file =
            is_object(dwarf_tag(&die)) ? wadi_source_decl_path(&s->last, &die) : NULL;
        if (file && !strstr(file, "<built-in>") && !wadi_source_is_library(file) &&
            !g_str_has_prefix(file, "/usr/"))
            look_at(s, &die);
        walk(s, &die);
    } while (dwarf_siblingof(&die, &die) == 0);
}

static void note(wad_sim *sim, difference *d, const char *format, const char *target)
{
    if (!d->first)
        return;
    GString *text = g_string_new(NULL);
    g_string_append_printf(text, format, d->first, target);
    if (d->more)
        g_string_append_printf(text, "; so are %u more", d->more);
    g_ptr_array_add(sim->told.notes, g_string_free(text, FALSE));
    g_clear_pointer(&d->first, g_free);
}

static void find_differences(wad_sim *sim)
{
    scan s = {.sheet = sim->sheet};
    Dwarf *dwarf = sim->host.fw.handle ? wadi_source_dwarf(sim) : NULL;
    Dwarf_CU *unit = NULL;
    Dwarf_Die cu;
    sim->told.notes = g_ptr_array_new_with_free_func(g_free);
    while (dwarf && dwarf_get_units(dwarf, unit, &unit, NULL, NULL, &cu, NULL) == 0) {
        const char *name = dwarf_diename(&cu);
        if (!name || !g_str_has_suffix(name, "_vectors.c"))
            walk(&s, &cu);
    }
    g_free(s.last.path);
    note(sim, &s.wide_long, "data model: %s is a long, 64 bits here and 32 on %s",
         sim->sheet->name);
    note(sim, &s.int_bits, "data model: %s is an int, 32 bits here and 16 on %s", sim->sheet->name);
    note(sim, &s.char_sign,
         sim->sheet->cpu.char_unsigned
             ? "data model: %s is a char, signed here and unsigned on %s (-funsigned-char makes "
               "them equal)"
             : "data model: %s is a char, unsigned here and signed on %s (-fsigned-char makes them "
               "equal)",
         sim->sheet->name);
}

unsigned wad_sim_note_count(wad_sim *sim)
{
    if (!sim->told.notes)
        find_differences(sim);
    return sim->told.notes->len;
}

const char *wad_sim_note(wad_sim *sim, unsigned i)
{
    return i < wad_sim_note_count(sim) ? sim->told.notes->pdata[i] : NULL;
}
