/* SPDX-License-Identifier: MIT */
/* What a look at a run shows: rows of text, with what has changed marked. */
#include "live.h"

#include <math.h>
#include <string.h>

#include "bench/plot/columns.h"
#include "wadium/host/words.h"

/* ---- rows ---- */

static const char *keep(wad_live *l, const char *text)
{
    return g_string_chunk_insert(l->shown.texts, text);
}

static void mark(wad_live_row *row, unsigned from, unsigned length)
{
    if (row->n_marks < WAD_LIVE_MARKS)
        row->marks[row->n_marks++] = (wad_live_mark){from, length};
    row->changed = true;
}

static bool is_edge(char c)
{
    return c == ' ' || c == '{' || c == '}' || c == ',' || !c;
}

/* From the first word that differs to the last one. */
static void mark_difference(wad_live_row *row, const char *old)
{
    size_t n = strlen(row->text), m = strlen(old), from = 0, same = 0;
    while (from < n && from < m && row->text[from] == old[from])
        from++;
    while (same < n - from && same < m - from && row->text[n - 1 - same] == old[m - 1 - same])
        same++;
    while (from > 0 && !is_edge(row->text[from - 1]))
        from--;
    size_t end = n - same;
    while (end < n && !is_edge(row->text[end]))
        end++;
    if (end <= from) { /* something is gone */
        from = 0;
        end = n;
    }
    mark(row, (unsigned)from, (unsigned)(end - from));
}

/* Adds a row; what of its text is not what it was is marked. */
static void add(wad_live *l, wad_live_panel panel, wad_live_row row, bool compare)
{
    char *key = g_strdup_printf("%s\n%s", row.group, row.name);
    const char *old = g_hash_table_lookup(l->shown.before[panel], key);
    if (compare && l->shown.seen && g_strcmp0(old, row.text))
        mark_difference(&row, old ? old : "");
    g_hash_table_insert(l->shown.before[panel], key, g_strdup(row.text));
    g_array_append_val(l->shown.rows[panel], row);
}

static void add_text(wad_live *l, wad_live_panel panel, const char *group, const char *name,
                     char *text)
{
    wad_live_row row = {.group = keep(l, group), .name = keep(l, name), .text = keep(l, text)};
    add(l, panel, row, true);
    g_free(text);
}

/* ---- each panel ---- */

static char *volts_text(double volts)
{
    return isnan(volts) ? g_strdup("open") : g_strdup_printf("%.3f V", volts);
}

static void take_pins(wad_live *l)
{
    static const char *const words[] = {"low", "high", "floating"};
    for (guint i = 0; i < l->pins->len; i++) {
        const wadi_live_pin *p = l->pins->pdata[i];
        add_text(l, WAD_LIVE_PINS, "", p->name,
                 p->analog ? volts_text(wad_sim_volts(l->sim, p->pin, NULL))
                           : g_strdup(words[wad_sim_level(l->sim, p->pin)]));
    }
}

static void take_variables(wad_live *l)
{
    unsigned width = l->options->width ? l->options->width : 60;
    for (guint i = 0; i < l->variables->len; i++) {
        const wad_variable *v = &g_array_index(l->variables, wad_variable, i);
        char *file = g_path_get_basename(v->file);
        add_text(l, WAD_LIVE_VARIABLES, file, v->name, wad_variable_text(v, width));
        g_free(file);
    }
}

/* "0x00000011  EN 1, MODE 0 up": fields that are 0 and have no name for it are left out, unless
 * they have just become so. */
static void take_register(wad_live *l, const wad_fieldref *ref, uint32_t value)
{
    gpointer key = GSIZE_TO_POINTER(wad_fieldref_address(ref));
    gpointer old = g_hash_table_lookup(l->shown.values, key);
    uint32_t before = l->shown.seen && old ? (uint32_t)(GPOINTER_TO_SIZE(old) - 1) : value;
    const wad_register *r = ref->reg;
    const wad_word word = {.ref = *ref, .value = value};
    wad_live_row row = {.group = ref->block->name, .quiet = value == (uint32_t)r->reset};
    GString *text = g_string_new(NULL);
    wad_fieldref f;
    char *one, *name = wad_fieldref_name(ref);
    g_string_printf(text, "0x%0*X", r->width / 4, value);
    if (before != value)
        mark(&row, 0, (unsigned)text->len);
    for (unsigned i = 0; (one = wad_word_field(&word, i, &f)); i++) {
        uint64_t bits = wad_fieldref_mask(&f);
        bool changed = (before ^ value) & bits;
        if (changed || value & bits || (!f.field->count && f.field->n_enums)) {
            g_string_append(text, "  ");
            if (changed)
                mark(&row, (unsigned)text->len, (unsigned)strlen(one));
            g_string_append(text, one);
        }
        g_free(one);
    }
    g_hash_table_insert(l->shown.values, key, GSIZE_TO_POINTER((gsize)value + 1));
    row.name = keep(l, strchr(name, '.') ? strchr(name, '.') + 1 : name);
    row.text = keep(l, text->str);
    add(l, WAD_LIVE_REGISTERS, row, false);
    g_string_free(text, TRUE);
    g_free(name);
}

static bool is_shown(const wad_live *l, const wad_instance *block)
{
    if (l->options->blocks && *l->options->blocks)
        return g_strv_contains(l->options->blocks, block->name);
    return g_hash_table_contains(l->touched, block);
}

static void take_registers(wad_live *l)
{
    const wad_sheet *s = l->bench->sheet;
    for (unsigned i = 0; i < s->n_blocks; i++)
        for (unsigned k = 0; is_shown(l, s->blocks[i]) && k < s->blocks[i]->layout->n_regs; k++) {
            const wad_register *r = s->blocks[i]->layout->regs[k];
            for (uint32_t e = 0; e < (r->count ? r->count : 1); e++) {
                wad_fieldref ref = {
                    .block = s->blocks[i], .reg = wad_register_element(r, e), .reg_index = e};
                uint32_t value;
                if (!r->alias && ref.reg->access != WAD_ACCESS_WO &&
                    wad_sim_peek(l->sim, wad_fieldref_address(&ref), &value))
                    take_register(l, &ref, value);
            }
        }
}

static void free_rate(gpointer data)
{
    g_free(((wadi_live_rate *)data)->counts);
}

/* Looks of the last second, the oldest first. */
static const wadi_live_rate *take_rate(wad_live *l)
{
    uint64_t now = wad_sim_now(l->sim);
    size_t bytes = l->bench->sheet->n_vectors * sizeof(uint64_t);
    wadi_live_rate r = {now, g_memdup2(l->irq_counts, bytes)};
    g_array_append_val(l->rates, r);
    while (l->rates->len > 2 &&
           (l->rates->len > WADI_LIVE_RATES ||
            g_array_index(l->rates, wadi_live_rate, 1).ps + WAD_PS_PER_S <= now))
        g_array_remove_index(l->rates, 0);
    return &g_array_index(l->rates, wadi_live_rate, 0);
}

static void take_interrupts(wad_live *l)
{
    const wad_sheet *s = l->bench->sheet;
    const wadi_live_rate *old = take_rate(l);
    double seconds = (double)(wad_sim_now(l->sim) - old->ps) / 1e12;
    for (unsigned i = 0; i < s->n_vectors; i++) {
        const wad_instance *owner = wad_sheet_irq_owner(s, i);
        uint64_t n = l->irq_counts[i];
        if (!n || !owner)
            continue;
        double rate = seconds > 0 ? (double)(n - old->counts[i]) / seconds : 0;
        char *total = g_strdup_printf("%llu", (unsigned long long)n);
        char *name =
            owner->n_irqs > 1 ? g_strdup_printf("%s %u", owner->name, i) : g_strdup(owner->name);
        char *key = g_strdup_printf("\n%s", name);
        const char *before = g_hash_table_lookup(l->shown.before[WAD_LIVE_INTERRUPTS], key);
        char *text = g_strdup_printf(
            rate < 1000 ? "%.4g a second, %s in all" : "%.0f a second, %s in all", rate, total);
        wad_live_row row = {.group = "", .name = keep(l, name), .text = keep(l, text)};
        if (l->shown.seen && g_strcmp0(before, total))
            mark(&row, 0, (unsigned)strlen(text));
        g_hash_table_insert(l->shown.before[WAD_LIVE_INTERRUPTS], key, total);
        g_array_append_val(l->shown.rows[WAD_LIVE_INTERRUPTS], row);
        g_free(name);
        g_free(text);
    }
}

static void take_inputs(wad_live *l)
{
    for (guint i = 0; i < l->inputs->len; i++) {
        const wadi_live_input *in = &g_array_index(l->inputs, wadi_live_input, i);
        char *text;
        if (in->button) {
            wad_level on = in->button->active_low ? WAD_LOW : WAD_HIGH;
            text = g_strdup(wad_sim_level(l->sim, in->pin) == on ? "pressed" : "released");
        } else {
            text = volts_text(wad_sim_volts(l->sim, in->pin, NULL));
        }
        add_text(l, WAD_LIVE_INPUTS, "", in->name, text);
    }
}

static void take_findings(wad_live *l)
{
    for (unsigned i = 0; i < wad_sim_finding_count(l->sim); i++) {
        const wad_finding *f = wad_sim_finding(l->sim, i);
        char *name = g_strdup_printf("W%03u", (unsigned)f->kind);
        char *file =
            f->n_places && f->places[0].file ? g_path_get_basename(f->places[0].file) : NULL;
        char *where = file ? g_strdup_printf("%s:%u: ", file, f->places[0].line) : g_strdup("");
        char *times = f->count > 1 ? g_strdup_printf(" (%u times)", f->count) : g_strdup("");
        char *group = g_strdup_printf("%u", i);
        add_text(l, WAD_LIVE_FINDINGS, group, name,
                 g_strdup_printf("%s%s%s", where, f->what, times));
        g_free(group);
        g_free(times);
        g_free(where);
        g_free(file);
        g_free(name);
    }
}

void wadi_live_take_in(wad_live *l)
{
    g_string_chunk_clear(l->shown.texts);
    for (unsigned i = 0; i < WAD_LIVE_PANELS; i++)
        g_array_set_size(l->shown.rows[i], 0);
    take_pins(l);
    take_variables(l);
    take_registers(l);
    take_interrupts(l);
    take_inputs(l);
    take_findings(l);
    l->shown.seen = true;
}

const wad_live_row *wad_live_rows(wad_live *l, wad_live_panel panel, unsigned *n)
{
    *n = l->shown.rows[panel]->len;
    return (const wad_live_row *)(void *)l->shown.rows[panel]->data;
}

/* ---- pictures in characters ---- */

static double value_at(const GArray *past, uint64_t ps, guint *i)
{
    while (*i + 1 < past->len && g_array_index(past, wad_sample, *i + 1).ps <= ps)
        ++*i;
    const wad_sample *s = past->len ? &g_array_index(past, wad_sample, *i) : NULL;
    return s && s->ps <= ps ? s->value : NAN;
}

char *wad_live_trace(wad_live *l, unsigned row, unsigned columns)
{
    if (row >= l->pins->len || !columns)
        return g_strdup("");
    const wadi_live_pin *p = l->pins->pdata[row];
    uint64_t now = wad_sim_now(l->sim), from = now > l->window_ps ? now - l->window_ps : 0;
    GString *text = g_string_new(NULL);
    if (p->analog) {
        double *values = g_new(double, columns);
        guint at = 0;
        unsigned n = 0;
        for (uint64_t ps = from; n < columns && ps <= now; n++) {
            ps = from + (uint64_t)((double)l->window_ps * (n + 1) / columns);
            values[n] = value_at(p->past, ps, &at);
        }
        wadi_append_heights(text, values, n, 0.25);
        for (; n < columns; n++)
            g_string_append_c(text, ' ');
        g_free(values);
        return g_string_free(text, FALSE);
    }
    wadi_axis x = {.from = from, .to = from + l->window_ps, .columns = columns};
    wadi_column *cols = g_new0(wadi_column, columns);
    for (guint i = 0; i < p->past->len; i++) {
        const wad_sample *s = &g_array_index(p->past, wad_sample, i);
        uint64_t to = i + 1 < p->past->len ? s[1].ps : now + 1;
        wadi_columns_mark(cols, &x, s->ps, to, (uint32_t)s->value);
    }
    for (unsigned i = 0; i < columns; i++)
        g_string_append(text, wadi_column_glyph(cols, i));
    g_free(cols);
    return g_string_free(text, FALSE);
}

char *wad_live_bars(wad_live *l, unsigned row, unsigned columns)
{
    if (row >= l->variables->len || !columns)
        return NULL;
    const wad_variable *v = &g_array_index(l->variables, wad_variable, row);
    unsigned n = wad_variable_numbers(v, NULL, 0);
    if (n < 2)
        return NULL;
    double *all = g_new(double, n), *shown = g_new(double, columns);
    wad_variable_numbers(v, all, n);
    unsigned m = MIN(n, columns);
    for (unsigned i = 0; i < m; i++)
        shown[i] = all[(size_t)i * n / m];
    GString *text = g_string_new(NULL);
    wadi_append_heights(text, shown, m, 0);
    g_free(shown);
    g_free(all);
    return g_string_free(text, FALSE);
}

/* ---- the head ---- */

char *wadi_live_access_text(const wad_access_record *r)
{
    wad_fieldref ref = {.block = r->block, .reg = r->reg, .reg_index = r->reg_index}, f;
    char *name = wad_fieldref_name(&ref), *one;
    GString *text = g_string_new(NULL);
    const wad_word word = {.ref = ref, .value = r->after};
    g_string_printf(text, "%s %s 0x%0*X", r->write ? "writes" : "reads", name, (int)r->bytes * 2,
                    r->value);
    for (unsigned i = 0; (one = wad_word_field(&word, i, &f)); i++) {
        uint64_t bits = wad_fieldref_mask(&f);
        if ((r->before ^ r->after) & bits)
            g_string_append_printf(text, ", %s (was %llu)", one,
                                   (unsigned long long)((r->before & bits) >> f.lsb));
        g_free(one);
    }
    g_free(name);
    return g_string_free(text, FALSE);
}

static double amperes(wad_live *l)
{
    const wad_charge *c = wad_sim_charge(l->sim);
    double sum = 0;
    for (unsigned i = 0; c->known && i < c->n_consumers; i++)
        sum += c->consumers[i].amperes;
    return c->known ? sum : -1;
}

wad_live_state wad_live_now(wad_live *l)
{
    wad_live_state s = {.setting = l->setting,
                        .title = l->bench->title,
                        .ps = wad_sim_now(l->sim),
                        .end_ps = l->end_ps,
                        .window_ps = l->window_ps,
                        .awake = 1,
                        .amperes = amperes(l),
                        .what = l->goal.what ? l->goal.what : "",
                        .place = l->goal.place};
    uint64_t asleep = wad_sim_asleep(l->sim, &s.asleep);
    if (s.ps)
        s.awake = 1 - (double)MIN(asleep, s.ps) / (double)s.ps;
    return s;
}

/* ---- lines ---- */

static const char *const titles[] = {"pin",       "variable", "register",
                                     "interrupt", "input",    "finding"};

/* The text with a `*` behind each marked piece. */
static void print_marked(const wad_live_row *row, FILE *out)
{
    unsigned at = 0;
    for (unsigned i = 0; i < row->n_marks; i++) {
        unsigned end = row->marks[i].from + row->marks[i].length;
        fprintf(out, "%.*s*", (int)(end - at), row->text + at);
        at = end;
    }
    fprintf(out, "%s\n", row->text + at);
}

static char *shown_name(wad_live_panel panel, const wad_live_row *row)
{
    return panel == WAD_LIVE_REGISTERS ? g_strdup_printf("%s.%s", row->group, row->name)
                                       : g_strdup(row->name);
}

void wad_live_print_panel(wad_live *l, wad_live_panel panel, bool all, FILE *out)
{
    unsigned n;
    const wad_live_row *rows = wad_live_rows(l, panel, &n);
    for (unsigned i = 0; i < n; i++) {
        bool moved = panel == WAD_LIVE_PINS && l->pins->len > i;
        if (!(all && !rows[i].quiet) && !rows[i].changed)
            continue;
        char *name = shown_name(panel, &rows[i]);
        fprintf(out, "  %-10s %-16s ", titles[panel], name);
        if (moved) {
            char *trace = wad_live_trace(l, i, 50);
            fprintf(out, "%s  ", trace);
            g_free(trace);
        }
        print_marked(&rows[i], out);
        g_free(name);
    }
}

void wad_live_print(wad_live *l, bool all, FILE *out)
{
    wad_live_state s = wad_live_now(l);
    fprintf(out, "%.9f s  %s, awake %.3g %%", (double)s.ps / 1e12, s.asleep ? "asleep" : "awake",
            100 * s.awake);
    if (s.amperes >= 0) {
        char *current = wad_amount_text(s.amperes, "A");
        fprintf(out, ", draws %s", current);
        g_free(current);
    }
    if (*s.what)
        fprintf(out, "; %s", s.what);
    if (s.place.file) {
        char *file = g_path_get_basename(s.place.file);
        fprintf(out, " at %s:%u", file, s.place.line);
        g_free(file);
    }
    fputc('\n', out);
    for (unsigned i = 0; i < WAD_LIVE_PANELS; i++)
        wad_live_print_panel(l, (wad_live_panel)i, all, out);
}

/* ---- life ---- */

static bool choose_variables(wad_live *l, char **why)
{
    const char *const *wanted = l->options->variables;
    for (unsigned i = 0; wanted && wanted[i]; i++) {
        wad_variable v;
        if (!wad_variable_find(l->sim, wanted[i], &v, why))
            return false;
        g_array_append_val(l->variables, v);
    }
    for (unsigned i = 0; !(wanted && *wanted) && i < wad_variable_count(l->sim); i++) {
        wad_variable v = wad_variable_at(l->sim, i);
        g_array_append_val(l->variables, v);
    }
    return true;
}

bool wadi_live_panels_init(wad_live *l, char **why)
{
    l->shown.texts = g_string_chunk_new(4096);
    l->variables = g_array_new(FALSE, FALSE, sizeof(wad_variable));
    l->shown.values = g_hash_table_new(NULL, NULL);
    l->rates = g_array_new(FALSE, FALSE, sizeof(wadi_live_rate));
    g_array_set_clear_func(l->rates, free_rate);
    for (unsigned i = 0; i < WAD_LIVE_PANELS; i++) {
        l->shown.rows[i] = g_array_new(FALSE, FALSE, sizeof(wad_live_row));
        l->shown.before[i] = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    }
    for (unsigned i = 0; l->options->blocks && l->options->blocks[i]; i++)
        if (!wad_sheet_block(l->bench->sheet, l->options->blocks[i])) {
            *why = g_strdup_printf("%s has no block '%s'", l->bench->sheet->name,
                                   l->options->blocks[i]);
            return false;
        }
    return choose_variables(l, why);
}

void wadi_live_panels_free(wad_live *l)
{
    g_string_chunk_free(l->shown.texts);
    g_array_free(l->variables, TRUE);
    g_hash_table_destroy(l->shown.values);
    g_array_free(l->rates, TRUE);
    for (unsigned i = 0; i < WAD_LIVE_PANELS; i++) {
        g_array_free(l->shown.rows[i], TRUE);
        g_hash_table_destroy(l->shown.before[i]);
    }
}
