/* SPDX-License-Identifier: MIT */
/* Values of the firmware's variables in characters. */
#include <math.h>
#include <string.h>

#include "source.h"
#include "variables.h"

#define DEPTH 4

static void print_value(GString *text, wad_variable v, unsigned width, unsigned depth);

/* ---- numbers ---- */

/* The bytes as they lie, or the bits of a bit field. */
static uint64_t raw(const wad_variable *v)
{
    uint64_t value = 0;
    size_t bytes = v->bits ? (v->bit + v->bits + 7) / 8 : v->bytes;
    memcpy(&value, v->address, MIN(bytes, sizeof value));
    if (v->bits)
        value = value >> v->bit & (v->bits < 64 ? (UINT64_C(1) << v->bits) - 1 : UINT64_MAX);
    return value;
}

static int64_t extended(const wad_variable *v)
{
    unsigned bits = v->bits ? v->bits : (unsigned)MIN(v->bytes * 8, 64);
    return bits && bits < 64 ? (int64_t)(raw(v) << (64 - bits)) >> (64 - bits) : (int64_t)raw(v);
}

static double real(const wad_variable *v)
{
    float f;
    double d;
    long double l;
    if (v->bytes == sizeof f) {
        memcpy(&f, v->address, sizeof f);
        return f;
    }
    if (v->bytes == sizeof d) {
        memcpy(&d, v->address, sizeof d);
        return d;
    }
    memcpy(&l, v->address, MIN(v->bytes, sizeof l));
    return v->bytes == sizeof l ? (double)l : NAN;
}

/* "true", "17", "-3", "2.5", "'a' 97" */
static void print_base(GString *text, const wad_variable *v, Dwarf_Die *type)
{
    switch (wadi_type_number(type, DW_AT_encoding, 0)) {
    case DW_ATE_boolean:
        g_string_append(text, raw(v) ? "true" : "false");
        break;
    case DW_ATE_float:
        g_string_append_printf(text, "%.9g", real(v));
        break;
    case DW_ATE_signed:
    case DW_ATE_signed_char:
        g_string_append_printf(text, "%lld", (long long)extended(v));
        break;
    default:
        g_string_append_printf(text, "%llu", (unsigned long long)raw(v));
    }
}

static void print_enum(GString *text, const wad_variable *v, Dwarf_Die *type)
{
    Dwarf_Die die;
    uint64_t value = raw(v), mask = v->bytes < 8 ? (UINT64_C(1) << v->bytes * 8) - 1 : UINT64_MAX;
    if (dwarf_child(type, &die) == 0)
        do
            if (dwarf_tag(&die) == DW_TAG_enumerator) {
                Dwarf_Attribute attr;
                Dwarf_Sword own = 0;
                dwarf_formsdata(dwarf_attr(&die, DW_AT_const_value, &attr), &own);
                if (((uint64_t)own & mask) == value) {
                    g_string_append(text, dwarf_diename(&die));
                    return;
                }
            }
        while (dwarf_siblingof(&die, &die) == 0);
    g_string_append_printf(text, "%llu", (unsigned long long)value);
}

/* "NULL", "&horn", or an address of the host */
static void print_pointer(GString *text, const wad_variable *v)
{
    uintptr_t to = (uintptr_t)raw(v);
    char *name = !to      ? g_strdup("NULL")
                 : v->sim ? wadi_source_variable(v->sim, to)
                          : g_strdup_printf("0x%08llx", (unsigned long long)to);
    bool known = to && strncmp(name, "0x", 2) != 0;
    g_string_append_printf(text, "%s%s", known ? "&" : "", name);
    g_free(name);
}

/* ---- what has parts ---- */

static bool is_char(Dwarf_Die *type)
{
    uint64_t encoding = wadi_type_number(type, DW_AT_encoding, 0);
    return dwarf_tag(type) == DW_TAG_base_type &&
           (encoding == DW_ATE_signed_char || encoding == DW_ATE_unsigned_char) &&
           strstr(dwarf_diename(type), "char");
}

/* Printable up to the first 0, and something before it. */
static bool is_text(const char *bytes, size_t n)
{
    size_t i = 0;
    for (; i < n && bytes[i]; i++)
        if (!g_ascii_isprint(bytes[i]) && !strchr("\r\n\t", bytes[i]))
            return false;
    return i > 0 && i < n;
}

static void print_array(GString *text, const wad_variable *v, Dwarf_Die *array, unsigned width,
                        unsigned depth)
{
    Dwarf_Die named, type;
    Dwarf_Word size;
    size_t n = wadi_type_elements(array);
    if (!wadi_type_named(array, &named) || dwarf_aggregate_size(&named, &size)) {
        g_string_append(text, "[]");
        return;
    }
    type = named;
    wadi_type_bare(&type, NULL);
    if (is_char(&type) && is_text(v->address, n)) {
        char *plain = g_strescape(v->address, NULL);
        g_string_append_printf(text, "\"%s\"", plain);
        g_free(plain);
        return;
    }
    gsize start = text->len;
    g_string_append_printf(text, "[%zu]", n);
    for (size_t i = 0; i < n; i++) {
        if (text->len - start + 6 > width) {
            g_string_append(text, " ...");
            return;
        }
        wad_variable e = {.sim = v->sim,
                          .name = v->name,
                          .address = (const char *)v->address + i * size,
                          .bytes = (size_t)size,
                          .type = named.addr,
                          .unit = named.cu};
        g_string_append_c(text, ' ');
        print_value(text, e, width, depth + 1);
    }
}

static void print_struct(GString *text, const wad_variable *v, Dwarf_Die *type, unsigned width,
                         unsigned depth)
{
    Dwarf_Die die;
    gsize start = text->len;
    bool first = true;
    g_string_append_c(text, '{');
    if (depth < DEPTH && dwarf_child(type, &die) == 0)
        do {
            Dwarf_Die next;
            Dwarf_Word size;
            const char *name = dwarf_diename(&die);
            if (dwarf_tag(&die) != DW_TAG_member || !wadi_type_named(&die, &next))
                continue;
            if (text->len - start + 8 > width) {
                g_string_append(text, first ? "..." : ", ...");
                break;
            }
            wad_variable m = *v;
            m.type = next.addr;
            m.unit = next.cu;
            m.bytes = dwarf_aggregate_size(&next, &size) ? 0 : (size_t)size;
            wadi_type_place(&die, &m);
            g_string_append_printf(text, "%s%s%s", first ? "" : ", ", name ? name : "",
                                   name ? " " : "");
            gsize used = text->len - start;
            print_value(text, m, used < width ? width - (unsigned)used : 0, depth + 1);
            first = false;
        } while (dwarf_siblingof(&die, &die) == 0);
    g_string_append_c(text, '}');
}

static void print_value(GString *text, wad_variable v, unsigned width, unsigned depth)
{
    Dwarf_Die type = wadi_type_of(&v);
    wadi_type_bare(&type, NULL);
    switch (dwarf_tag(&type)) {
    case DW_TAG_base_type:
        print_base(text, &v, &type);
        break;
    case DW_TAG_enumeration_type:
        print_enum(text, &v, &type);
        break;
    case DW_TAG_pointer_type:
        print_pointer(text, &v);
        break;
    case DW_TAG_array_type:
        print_array(text, &v, &type, width, depth);
        break;
    case DW_TAG_structure_type:
    case DW_TAG_union_type:
        print_struct(text, &v, &type, width, depth);
        break;
    default:
        g_string_append(text, "?");
    }
}

char *wad_variable_text(const wad_variable *v, unsigned width)
{
    GString *text = g_string_new(NULL);
    print_value(text, *v, width, 0);
    return g_string_free(text, FALSE);
}

unsigned wad_variable_numbers(const wad_variable *v, double *numbers, unsigned room)
{
    Dwarf_Die type = wadi_type_of(v), named;
    Dwarf_Word size;
    wadi_type_bare(&type, NULL);
    if (dwarf_tag(&type) != DW_TAG_array_type || !wadi_type_named(&type, &named) ||
        dwarf_aggregate_size(&named, &size))
        return 0;
    Dwarf_Die base = named;
    wadi_type_bare(&base, NULL);
    uint64_t encoding = wadi_type_number(&base, DW_AT_encoding, 0);
    if (dwarf_tag(&base) != DW_TAG_base_type)
        return 0;
    size_t n = wadi_type_elements(&type);
    for (size_t i = 0; i < n && i < room; i++) {
        wad_variable e = {.address = (const char *)v->address + i * size, .bytes = (size_t)size};
        bool negative = encoding == DW_ATE_signed || encoding == DW_ATE_signed_char;
        numbers[i] = encoding == DW_ATE_float ? real(&e)
                     : negative               ? (double)extended(&e)
                                              : (double)raw(&e);
    }
    return (unsigned)n;
}
