/* SPDX-License-Identifier: MIT */
#include "forms.h"

#include <string.h>

#include "emit.h"
#include "sheet/chip/c_name.h"
#include "sheet/chip/served.h"

/* As the drivers are carried over. */
static const struct {
    const char *kind, *driver; /* whose header, types and functions they are */
} kinds[] = {{"gpio", "pin"}, {"spi", "spi"}, {"uart", "uart"},        {"counter", "timer"},
             {"adc", "adc"},  {"dac", "dac"}, {"timebase", "timebase"}};

static const char *driver_of(const wad_kind *kind)
{
    for (unsigned i = 0; kind && !kind->own && i < G_N_ELEMENTS(kinds); i++)
        if (!strcmp(kind->name, kinds[i].kind))
            return kinds[i].driver;
    return NULL;
}

bool wadi_has_forms(const wad_kind *kind)
{
    return driver_of(kind) != NULL;
}

const char *wadi_unit_type(const wad_kind *kind)
{
    static char type[64];
    if (!wadi_has_forms(kind))
        return "wad_block";
    g_snprintf(type, sizeof type, "wad_%s_unit", driver_of(kind));
    return type;
}

static bool is_served(const wad_instance *unit, const char *kind)
{
    char *why = wad_acts_as(unit->layout, kind) ? wadi_unserved(unit) : NULL;
    bool served = wad_acts_as(unit->layout, kind) && !why;
    g_free(why);
    return served;
}

typedef struct forms {
    GPtrArray *tables;  /* what stands in each */
    GPtrArray *layouts; /* of the first unit that has it */
    GArray *of;         /* of each block of the chip, -1: none */
} forms;

static char *table_of(const wadi_emitter *e, const wad_layout *layout)
{
    char *text = NULL;
    size_t size;
    wadi_emitter to = *e;
    to.out = open_memstream(&text, &size);
    wadi_emit_roles_of(&to, layout);
    if (layout->n_locks) /* functions of its own */
        fprintf(to.out, "    /* behind the lock of %s */\n", layout->name);
    fclose(to.out);
    return text;
}

static forms find_forms(const wadi_emitter *e, const char *kind)
{
    forms f = {g_ptr_array_new_with_free_func(free), g_ptr_array_new(),
               g_array_new(FALSE, FALSE, sizeof(int))};
    for (unsigned i = 0; i < e->sheet->n_blocks; i++) {
        const wad_instance *b = e->sheet->blocks[i];
        int form = -1;
        if (is_served(b, kind)) {
            char *text = table_of(e, b->layout);
            for (guint k = 0; k < f.tables->len && form < 0; k++)
                form = strcmp(f.tables->pdata[k], text) ? -1 : (int)k;
            if (form < 0) {
                form = (int)f.tables->len;
                g_ptr_array_add(f.tables, g_steal_pointer(&text));
                g_ptr_array_add(f.layouts, (gpointer)b->layout);
            }
            free(text);
        }
        g_array_append_val(f.of, form);
    }
    return f;
}

static void forget(forms *f)
{
    g_ptr_array_free(f->tables, TRUE);
    g_ptr_array_free(f->layouts, TRUE);
    g_array_free(f->of, TRUE);
}

/* "corran32_serial_roles"; the second of a layout's name "corran32_serial_roles_2". */
static char *name_of(const wadi_emitter *e, const forms *f, guint form)
{
    const wad_layout *layout = f->layouts->pdata[form];
    unsigned before = 0;
    for (guint i = 0; i < form; i++)
        before += !strcmp(((const wad_layout *)f->layouts->pdata[i])->name, layout->name);
    return before ? g_strdup_printf("%s_%s_roles_%u", e->lower, layout->name, before + 1)
                  : g_strdup_printf("%s_%s_roles", e->lower, layout->name);
}

unsigned wadi_form_of(const wadi_emitter *e, const wad_instance *unit)
{
    forms f = find_forms(e, unit->layout->kind->name);
    int form = g_array_index(f.of, int, unit->index);
    forget(&f);
    return form < 0 ? 0 : (unsigned)form;
}

unsigned wadi_channels(const wad_layout *layout)
{
    const wad_role *role = wad_layout_role(layout, "compare");
    if (!role)
        role = wad_layout_role(layout, "drive");
    return role ? wad_role_count(role) : 0;
}

static unsigned most_channels(const forms *f)
{
    unsigned most = 1;
    for (guint i = 0; i < f->layouts->len; i++)
        most = MAX(most, wadi_channels(f->layouts->pdata[i]));
    return most;
}

/* What keeps a form's registers from being written. */
static void emit_form_locks(const wadi_emitter *e, const forms *f, const char *kind)
{
    const char *calls[] = {"unlock", "lock"};
    for (unsigned c = 0; c < 2; c++) {
        fprintf(e->out,
                "\nWADI_INLINE void wadi_%s_%s(unsigned form, uintptr_t base)\n{\n    (void)form;\n"
                "    (void)base;\n",
                kind, calls[c]);
        for (guint i = 0; i < f->layouts->len; i++) {
            const wad_layout *layout = f->layouts->pdata[i];
            if (layout->n_locks)
                fprintf(e->out, "    if (form == %uu)\n        %s_%s_%s(base);\n", i, e->lower,
                        layout->name, calls[c]);
        }
        fprintf(e->out, "}\n");
    }
}

/* Bits that a write of the whole register would change: what 0 leaves alone is none of them. */
static uint64_t writable(const wad_register *reg)
{
    static const wad_access harmless[] = {WAD_ACCESS_RESERVED, WAD_ACCESS_RO,  WAD_ACCESS_RC,
                                          WAD_ACCESS_W1C,      WAD_ACCESS_W1S, WAD_ACCESS_W1T,
                                          WAD_ACCESS_PULSE};
    uint64_t mask = UINT64_MAX >> (64 - reg->width);
    for (unsigned i = 0; i < G_N_ELEMENTS(harmless); i++)
        mask &= ~wad_register_mask(reg, harmless[i]);
    for (unsigned i = 0; i < reg->n_fields; i++)
        mask |= reg->fields[i]->must << reg->fields[i]->lsb;
    return mask;
}

/* Of all registers at one place. */
static uint64_t writable_at(const wad_layout *layout, uint32_t offset)
{
    uint64_t mask = 0;
    for (unsigned i = 0; i < layout->n_regs; i++)
        if (layout->regs[i]->offset == offset)
            mask |= writable(layout->regs[i]);
    return mask;
}

/* Of the registers in which roles lie; of others a driver must assume the most. */
static void emit_writable(const wadi_emitter *e, const forms *f, const char *kind)
{
    fprintf(e->out,
            "\nWADI_INLINE uint32_t wadi_%s_writable(unsigned form, uint32_t off)\n{\n"
            "    (void)form;\n",
            kind);
    for (guint i = 0; i < f->layouts->len; i++) {
        const wad_layout *layout = f->layouts->pdata[i];
        GHashTable *said = g_hash_table_new(NULL, NULL);
        fprintf(e->out, "    if (form == %uu)\n        return ", i);
        for (unsigned k = 0; k < layout->n_roles; k++) {
            const wad_register *reg = layout->roles[k].reg;
            if (reg && layout->roles[k].sort == WAD_ROLE_FIELD &&
                g_hash_table_add(said, GUINT_TO_POINTER(reg->offset)))
                fprintf(e->out, "off == 0x%02Xu ? 0x%llXu : ", reg->offset,
                        (unsigned long long)writable_at(layout, reg->offset));
        }
        fprintf(e->out, "0xFFFFFFFFu;\n");
        g_hash_table_destroy(said);
    }
    fprintf(e->out, "    return 0xFFFFFFFFu;\n}\n");
}

void wadi_emit_form_counts(const wadi_emitter *e)
{
    for (unsigned k = 0; k < G_N_ELEMENTS(kinds); k++) {
        forms f = find_forms(e, kinds[k].kind);
        char *upper = wadi_emit_upper(kinds[k].kind);
        if (f.tables->len && !strcmp(kinds[k].kind, "counter"))
            fprintf(e->out, "#define WADI_TIMER_CHANNELS %u\n", most_channels(&f));
        if (f.tables->len) {
            fprintf(e->out, "#define WADI_%s_FORMS(X, ...)", upper);
            for (guint i = 0; i < f.tables->len; i++)
                fprintf(e->out, " X(%u, __VA_ARGS__)", i);
            fprintf(e->out, "\n#define WADI_%s_MORE(X, ...)", upper);
            for (guint i = 1; i < f.tables->len; i++)
                fprintf(e->out, " X(%u, __VA_ARGS__)", i);
            fprintf(e->out, "\n");
        }
        g_free(upper);
        forget(&f);
    }
}

void wadi_emit_form_headers(const wadi_emitter *e)
{
    fprintf(e->out, "\n");
    for (unsigned k = 0; k < G_N_ELEMENTS(kinds); k++) {
        forms f = find_forms(e, kinds[k].kind);
        if (f.tables->len)
            fprintf(e->out, "#include <wadium/%s.h>\n", kinds[k].driver);
        if (f.tables->len && !strcmp(kinds[k].kind, "timebase"))
            fprintf(e->out, "#include <wadium/alarm.h>\n#include <wadium/input.h>\n");
        forget(&f);
    }
}

void wadi_emit_forms(const wadi_emitter *e)
{
    for (unsigned k = 0; k < G_N_ELEMENTS(kinds); k++) {
        forms f = find_forms(e, kinds[k].kind);
        for (guint i = 0; i < f.tables->len; i++) {
            char *name = name_of(e, &f, i);
            fprintf(e->out, "\n/* form %u of kind %s */\nstatic const wad_%s_roles %s = {\n%s};\n",
                    i, kinds[k].kind, kinds[k].kind, name, (char *)f.tables->pdata[i]);
            g_free(name);
        }
        if (f.tables->len) {
            char *first = name_of(e, &f, 0);
            fprintf(e->out,
                    "\nWADI_INLINE const wad_%s_roles *wadi_%s_roles(unsigned form)\n{\n"
                    "    (void)form;\n    return ",
                    kinds[k].kind, kinds[k].kind);
            for (guint i = 1; i < f.tables->len; i++) {
                char *name = name_of(e, &f, i);
                fprintf(e->out, "form == %uu ? &%s : ", i, name);
                g_free(name);
            }
            fprintf(e->out, "&%s;\n}\n", first);
            g_free(first);
            emit_form_locks(e, &f, kinds[k].kind);
            emit_writable(e, &f, kinds[k].kind);
        }
        forget(&f);
    }
}

void wadi_emit_form_bodies(const wadi_emitter *e)
{
    for (unsigned k = 0; k < G_N_ELEMENTS(kinds); k++) {
        forms f = find_forms(e, kinds[k].kind);
        char *upper = wadi_emit_upper(kinds[k].kind);
        if (f.tables->len)
            fprintf(e->out, "\n#ifdef WADI_%s_BODIES\n", upper);
        for (guint i = 0; i < f.tables->len; i++) {
            char *name = name_of(e, &f, i);
            fprintf(e->out,
                    "#define R %s\n#define WADI_L(name) name##_%u\n#define WADI_FORM %uu\n"
                    "#include <wadium/code/%s_form.h>\n#undef R\n#undef WADI_L\n"
                    "#undef WADI_FORM\n",
                    name, i, i, kinds[k].driver);
            g_free(name);
        }
        if (f.tables->len)
            fprintf(e->out, "#endif\n");
        g_free(upper);
        forget(&f);
    }
}
