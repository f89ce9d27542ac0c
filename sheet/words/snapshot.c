/* SPDX-License-Identifier: MIT */
#include "snapshot.h"

#include <string.h>

#include "files/json.h"

typedef struct left_out {
    wad_fieldref ref;
    char *why;
} left_out;

static void free_left_out(void *p)
{
    left_out *l = p;
    g_free(l->why);
    g_free(l);
}

wad_snapshot *wad_snapshot_new(const wad_sheet *sheet, const char *source)
{
    wad_snapshot *s = g_new0(wad_snapshot, 1);
    s->sheet = sheet;
    s->source = g_strdup(source);
    s->words = g_array_new(FALSE, FALSE, sizeof(wad_word));
    s->absent = g_ptr_array_new_with_free_func(free_left_out);
    return s;
}

void wad_snapshot_free(wad_snapshot *s)
{
    if (!s)
        return;
    g_array_free(s->words, TRUE);
    g_ptr_array_free(s->absent, TRUE);
    g_free(s->source);
    g_free(s);
}

const char *wad_snapshot_source(const wad_snapshot *s)
{
    return s->source;
}

static wad_fieldref whole(const wad_fieldref *reg)
{
    wad_fieldref ref = *reg;
    ref.field = NULL;
    ref.lsb = 0;
    ref.width = reg->reg->width;
    return ref;
}

void wad_snapshot_put(wad_snapshot *s, const wad_fieldref *reg, uint32_t value)
{
    const wad_word w = {.ref = whole(reg), .value = value};
    g_array_append_val(s->words, w);
}

void wad_snapshot_leave_out(wad_snapshot *s, const wad_fieldref *reg, const char *why)
{
    left_out *l = g_new0(left_out, 1);
    l->ref = whole(reg);
    l->why = g_strdup(why);
    g_ptr_array_add(s->absent, l);
}

unsigned wad_snapshot_count(const wad_snapshot *s)
{
    return s->words->len;
}

const wad_word *wad_snapshot_word(const wad_snapshot *s, unsigned i)
{
    return i < s->words->len ? &g_array_index(s->words, wad_word, i) : NULL;
}

const wad_fieldref *wad_snapshot_left_out(const wad_snapshot *s, unsigned i, const char **why)
{
    if (i >= s->absent->len)
        return NULL;
    const left_out *l = s->absent->pdata[i];
    *why = l->why;
    return &l->ref;
}

/* ---- files ---- */

static void member(JsonBuilder *b, const char *name, const char *text)
{
    json_builder_set_member_name(b, name);
    json_builder_add_string_value(b, text);
}

static void named(JsonBuilder *b, const wad_fieldref *ref, const char *text)
{
    char *name = wad_fieldref_name(ref);
    member(b, name, text);
    g_free(name);
}

void wad_snapshot_write(const wad_snapshot *s, FILE *out)
{
    JsonBuilder *b = json_builder_new();
    json_builder_begin_object(b);
    member(b, "wadium", "snapshot 1");
    member(b, "chip", s->sheet->name);
    member(b, "sheet", s->sheet->hash);
    member(b, "source", s->source);
    json_builder_set_member_name(b, "registers");
    json_builder_begin_object(b);
    for (guint i = 0; i < s->words->len; i++) {
        const wad_word *w = &g_array_index(s->words, wad_word, i);
        char *value =
            g_strdup_printf("0x%0*llX", w->ref.reg->width / 4, (unsigned long long)w->value);
        named(b, &w->ref, value);
        g_free(value);
    }
    json_builder_end_object(b);
    json_builder_set_member_name(b, "left out");
    json_builder_begin_object(b);
    for (guint i = 0; i < s->absent->len; i++) {
        const left_out *l = s->absent->pdata[i];
        named(b, &l->ref, l->why);
    }
    json_builder_end_object(b);
    json_builder_end_object(b);
    wadi_json_write(json_builder_get_root(b), out);
    g_object_unref(b);
}

static const char *text_of(JsonObject *o, const char *name)
{
    JsonNode *n = json_object_get_member(o, name);
    return n && JSON_NODE_HOLDS_VALUE(n) && json_node_get_value_type(n) == G_TYPE_STRING
               ? json_node_get_string(n)
               : NULL;
}

static JsonObject *object_of(JsonObject *o, const char *name)
{
    JsonNode *n = json_object_get_member(o, name);
    return n && JSON_NODE_HOLDS_OBJECT(n) ? json_node_get_object(n) : NULL;
}

#define LARGEST (16u << 20) /* bytes: some hundred thousand registers */
#define DEEPEST 8           /* a snapshot nests 2 */

/* The parser goes down into itself at every bracket: look before. What JSON does not have outside
 * of its strings, though the parser may take it for a comment, would hide brackets. */
static unsigned depth_of(const char *text, size_t size)
{
    unsigned depth = 0, most = 0;
    bool in_string = false;
    for (size_t i = 0; i < size; i++) {
        char c = text[i];
        if (in_string && c == '\\')
            i++;
        else if (c == '"')
            in_string = !in_string;
        else if (!in_string && strchr("/'#", c))
            return UINT_MAX;
        else if (!in_string && (c == '[' || c == '{'))
            depth++;
        else if (!in_string && (c == ']' || c == '}') && depth)
            depth--;
        most = MAX(most, depth);
    }
    return most;
}

/* The parser owns what is returned; NULL: `why`. */
static JsonObject *open_file(JsonParser *parser, const char *path, char **why)
{
    char *text = NULL;
    gsize size = 0;
    GError *error = NULL;
    bool ok = g_file_get_contents(path, &text, &size, &error);
    *why = NULL;
    if (ok && size > LARGEST) {
        *why = g_strdup_printf("%s is no snapshot: it has %zu bytes, one has %u at most", path,
                               (size_t)size, LARGEST);
    } else if (ok && depth_of(text, size) > DEEPEST) {
        *why = g_strdup_printf("%s is no snapshot: it is nested deeper than %d, or no JSON", path,
                               DEEPEST);
    } else if (!ok || !json_parser_load_from_data(parser, text, (gssize)size, &error)) {
        *why = g_strdup_printf("%s is no snapshot: %s", path, error->message);
        g_error_free(error);
    }
    g_free(text);
    if (*why)
        return NULL;
    JsonNode *root = json_parser_get_root(parser);
    JsonObject *o = root && JSON_NODE_HOLDS_OBJECT(root) ? json_node_get_object(root) : NULL;
    const char *head = o ? text_of(o, "wadium") : NULL;
    if (!head || strcmp(head, "snapshot 1") || !object_of(o, "registers") || !text_of(o, "chip")) {
        *why = g_strdup_printf("%s is no snapshot: 'wadium dump' and 'wadium run --snapshot' write "
                               "them",
                               path);
        return NULL;
    }
    return o;
}

char *wad_snapshot_chip(const char *path, char **why)
{
    JsonParser *parser = json_parser_new();
    JsonObject *o = open_file(parser, path, why);
    char *chip = o ? g_strdup(text_of(o, "chip")) : NULL;
    g_object_unref(parser);
    return chip;
}

static bool read_registers(wad_snapshot *s, JsonObject *list, const char *path, char **why)
{
    GList *names = json_object_get_members(list);
    for (GList *at = names; at && !*why; at = at->next) {
        wad_fieldref ref;
        uint64_t value;
        const char *text = text_of(list, at->data);
        char *wrong = NULL;
        if (!wad_sheet_resolve(s->sheet, at->data, &ref, &wrong))
            *why = g_strdup_printf("%s: %s", path, wrong);
        else if (!text || !wad_parse_number(text, &value))
            *why = g_strdup_printf("%s: %s has no number", path, (const char *)at->data);
        else
            wad_snapshot_put(s, &ref, (uint32_t)value);
        g_free(wrong);
    }
    g_list_free(names);
    return *why == NULL;
}

static void read_left_out(wad_snapshot *s, JsonObject *list)
{
    GList *names = list ? json_object_get_members(list) : NULL;
    for (GList *at = names; at; at = at->next) {
        wad_fieldref ref;
        char *wrong = NULL;
        const char *text = text_of(list, at->data);
        if (text && wad_sheet_resolve(s->sheet, at->data, &ref, &wrong))
            wad_snapshot_leave_out(s, &ref, text);
        g_free(wrong);
    }
    g_list_free(names);
}

wad_snapshot *wad_snapshot_read(const wad_sheet *sheet, const char *path, char **note, char **why)
{
    JsonParser *parser = json_parser_new();
    JsonObject *o = open_file(parser, path, why);
    wad_snapshot *s = NULL;
    *note = NULL;
    if (o && strcmp(text_of(o, "chip"), sheet->name))
        *why = g_strdup_printf("%s is of %s, not of %s", path, text_of(o, "chip"), sheet->name);
    if (o && !*why) {
        const char *source = text_of(o, "source"), *hash = text_of(o, "sheet");
        s = wad_snapshot_new(sheet, source ? source : path);
        read_left_out(s, object_of(o, "left out"));
        if (!read_registers(s, object_of(o, "registers"), path, why))
            g_clear_pointer(&s, wad_snapshot_free);
        else if (!hash || strcmp(hash, sheet->hash))
            *note = g_strdup_printf("%s was taken by another version of the sheet", path);
    }
    g_object_unref(parser);
    return s;
}
