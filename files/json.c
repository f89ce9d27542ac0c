/* SPDX-License-Identifier: MIT */
#include "json.h"

#include <math.h>

/* The library's own writer makes "3e-09.0" of 3e-09. */
static void put_number(double value, FILE *out)
{
    char text[G_ASCII_DTOSTR_BUF_SIZE];
    if (!isfinite(value))
        fputs("null", out);
    else
        fputs(g_ascii_dtostr(text, sizeof text, value), out);
}

static void put_text(const char *text, FILE *out)
{
    char *valid = g_utf8_make_valid(text, -1);
    fputc('"', out);
    for (const char *p = valid; *p; p++)
        if (*p == '"' || *p == '\\')
            fprintf(out, "\\%c", *p);
        else if (*p == '\n')
            fputs("\\n", out);
        else if ((guchar)*p < 0x20 || *p == 0x7F)
            fprintf(out, "\\u%04x", (unsigned)*p & 0xFFU);
        else
            fputc(*p, out);
    fputc('"', out);
    g_free(valid);
}

static void put_value(JsonNode *node, FILE *out)
{
    GType type = json_node_get_value_type(node);
    if (type == G_TYPE_STRING)
        put_text(json_node_get_string(node), out);
    else if (type == G_TYPE_BOOLEAN)
        fputs(json_node_get_boolean(node) ? "true" : "false", out);
    else if (type == G_TYPE_INT64)
        fprintf(out, "%" G_GINT64_FORMAT, json_node_get_int(node));
    else
        put_number(json_node_get_double(node), out);
}

static void put_node(JsonNode *node, int depth, FILE *out);

static void put_object(JsonObject *object, int depth, FILE *out)
{
    GList *names = json_object_get_members(object);
    fputs("{", out);
    for (GList *at = names; at; at = at->next) {
        fprintf(out, "%s\n%*s", at == names ? "" : ",", depth * 2 + 2, "");
        put_text(at->data, out);
        fputs(" : ", out);
        put_node(json_object_get_member(object, at->data), depth + 1, out);
    }
    if (names)
        fprintf(out, "\n%*s", depth * 2, "");
    fputc('}', out);
    g_list_free(names);
}

static void put_array(JsonArray *array, int depth, FILE *out)
{
    guint n = json_array_get_length(array);
    fputc('[', out);
    for (guint i = 0; i < n; i++) {
        fprintf(out, "%s\n%*s", i ? "," : "", depth * 2 + 2, "");
        put_node(json_array_get_element(array, i), depth + 1, out);
    }
    if (n)
        fprintf(out, "\n%*s", depth * 2, "");
    fputc(']', out);
}

static void put_node(JsonNode *node, int depth, FILE *out)
{
    switch (JSON_NODE_TYPE(node)) {
    case JSON_NODE_OBJECT:
        put_object(json_node_get_object(node), depth, out);
        break;
    case JSON_NODE_ARRAY:
        put_array(json_node_get_array(node), depth, out);
        break;
    case JSON_NODE_VALUE:
        put_value(node, out);
        break;
    default:
        fputs("null", out);
    }
}

void wadi_json_write(JsonNode *root, FILE *out)
{
    put_node(root, 0, out);
    fputc('\n', out);
    json_node_unref(root);
}
