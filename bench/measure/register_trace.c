/* SPDX-License-Identifier: MIT */
/* The register trace: each access with its time, source line, register, value and changed fields.
 */
#include "register_trace.h"

#include <string.h>

#include "files/csv.h"

struct wadi_trace_writer {
    wad_trace_options options;
    wad_sim *sim;
    wad_capture *capture;
    GHashTable *words; /* register's address -> word + 1 */
};

static bool is_wanted(const wadi_trace_writer *t, const wad_instance *block)
{
    const char *const *wanted = t->options.blocks;
    return !wanted || !*wanted || g_strv_contains(wanted, block->name);
}

/* "EN 0>1, MODE up>down" */
static char *changes(const wad_access_record *r)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < r->reg->n_fields; i++) {
        const wad_bitfield *f = r->reg->fields[i];
        for (unsigned k = 0; f->name && k < (f->count ? f->per_reg : 1u); k++) {
            wad_fieldref ref = {
                .field = f, .lsb = (uint8_t)(f->lsb + k * f->step), .width = f->width};
            uint64_t mask = wad_fieldref_mask(&ref);
            if (!((r->before ^ r->after) & mask))
                continue;
            g_string_append_printf(text, "%s%s", text->len ? ", " : "", f->name);
            if (f->count)
                g_string_append_printf(text, "[%u]", k);
            g_string_append_printf(text, " %llu>%llu",
                                   (unsigned long long)((r->before & mask) >> ref.lsb),
                                   (unsigned long long)((r->after & mask) >> ref.lsb));
        }
    }
    return g_string_free(text, FALSE);
}

static void write_line(const wadi_trace_writer *t, const wad_access_record *r, const char *name)
{
    wad_place place;
    wad_sim_here(t->sim, &place);
    char *changed = changes(r),
         *file = place.file ? g_path_get_basename(place.file) : g_strdup("?");
    FILE *out = t->options.out;
    const char *way = r->write ? "write" : "read";
    if (t->options.csv) {
        fprintf(out, "%llu,", (unsigned long long)r->ps);
        wadi_csv_put(out, file);
        fprintf(out, ",%u,%s,%s,%s,0x%0*X,\"%s\"\n", place.line,
                place.function ? place.function : "", way, name, (int)r->bytes * 2, r->value,
                changed);
    } else {
        char *where = g_strdup_printf("%s:%u", file, place.line);
        fprintf(out, "%14.3f us  %-22s %-5s  %-16s 0x%0*X%s%s\n", (double)r->ps / 1e6, where, way,
                name, (int)r->bytes * 2, r->value, *changed ? "  " : "", changed);
        g_free(where);
    }
    g_free(changed);
    g_free(file);
}

static void note_word(const wadi_trace_writer *t, const wad_access_record *r, const char *name)
{
    const wad_register *reg = r->reg->alias ? r->reg->alias_of : r->reg;
    gpointer key = GSIZE_TO_POINTER(r->block->base + reg->offset + (gsize)r->reg_index * reg->step);
    unsigned word = GPOINTER_TO_UINT(g_hash_table_lookup(t->words, key));
    if (!word) {
        char *shown =
            r->reg->alias ? g_strdup_printf("%s.%s", r->block->name, reg->name) : g_strdup(name);
        word = wad_capture_word(t->capture, shown, reg->width, reg->reset) + 1;
        g_hash_table_insert(t->words, key, GUINT_TO_POINTER(word));
        g_free(shown);
    }
    wad_capture_value(t->capture, word - 1, r->ps, r->write ? r->after : r->value);
}

static void on_access(void *ctx, const wad_access_record *r)
{
    const wadi_trace_writer *t = ctx;
    if (!is_wanted(t, r->block))
        return;
    wad_fieldref ref = {.block = r->block, .reg = r->reg, .reg_index = r->reg_index};
    char *name = wad_fieldref_name(&ref);
    if (t->options.out)
        write_line(t, r, name);
    if (t->options.words)
        note_word(t, r, name);
    g_free(name);
}

wadi_trace_writer *wadi_trace_start(wad_sim *sim, wad_capture *capture,
                                    const wad_trace_options *options)
{
    wadi_trace_writer *t = g_new0(wadi_trace_writer, 1);
    t->options = *options;
    t->sim = sim;
    t->capture = capture;
    t->words = g_hash_table_new(NULL, NULL);
    if (options->out && options->csv)
        fputs("time_ps,file,line,function,access,register,value,changes\n", options->out);
    wad_sim_watch_access(sim, on_access, t);
    return t;
}

void wadi_trace_end(wadi_trace_writer *t)
{
    if (!t)
        return;
    wad_sim_watch_access(t->sim, NULL, NULL);
    g_hash_table_destroy(t->words);
    g_free(t);
}
