/* SPDX-License-Identifier: MIT */
/* The client: registers of the core, as the server's target description lists them. */
#include <libxml/parser.h>
#include <libxml/tree.h>
#include <string.h>

#include "session.h"

/* ---- the description ---- */

static char *fetch(wad_remote *r, const char *annex, char **why)
{
    GString *text = g_string_new(NULL);
    for (bool more = true; more && !*why;) {
        char *packet =
            g_strdup_printf("qXfer:features:read:%s:%zx,%zx", annex, text->len, r->packet_max - 16);
        if (wadi_remote_ask_text(r, packet, why)) {
            const char *reply = wadi_remote_reply(r);
            if (*reply != 'm' && *reply != 'l')
                *why = g_strdup_printf("%s does not describe the core's registers", r->where);
            else
                g_string_append_len(text, reply + 1, (gssize)r->in.data->len - 1);
            more = *reply == 'm' && r->in.data->len > 1 && text->len < 1u << 20;
        }
        g_free(packet);
    }
    return g_string_free(text, *why != NULL);
}

static unsigned number_of(xmlNode *node, const char *name, unsigned otherwise)
{
    xmlChar *text = xmlGetProp(node, BAD_CAST name);
    unsigned value = text ? (unsigned)strtoul((char *)text, NULL, 10) : otherwise;
    xmlFree(text);
    return value;
}

static bool read_annex(wad_remote *r, const char *annex, GArray *list, unsigned depth, char **why);

static void read_node(wad_remote *r, xmlNode *node, GArray *list, unsigned depth, char **why)
{
    for (xmlNode *n = node; n && !*why; n = n->next) {
        if (n->type != XML_ELEMENT_NODE)
            continue;
        if (!strcmp((const char *)n->name, "reg")) {
            const wad_remote_register *last =
                list->len ? &g_array_index(list, wad_remote_register, list->len - 1) : NULL;
            xmlChar *name = xmlGetProp(n, BAD_CAST "name");
            wad_remote_register reg = {g_strdup(name ? (char *)name : ""),
                                       number_of(n, "regnum", last ? last->number + 1 : 0),
                                       number_of(n, "bitsize", 32)};
            g_array_append_val(list, reg);
            xmlFree(name);
        } else if (!strcmp((const char *)n->name, "include")) {
            xmlChar *href = xmlGetProp(n, BAD_CAST "href");
            if (href)
                read_annex(r, (char *)href, list, depth + 1, why);
            xmlFree(href);
        } else
            read_node(r, n->children, list, depth, why);
    }
}

static bool read_annex(wad_remote *r, const char *annex, GArray *list, unsigned depth, char **why)
{
    if (depth > 8 || ++r->annexes > 64 || list->len > 4096) {
        *why = g_strdup_printf("%s describes the core in circles, or without end", r->where);
        return false;
    }
    char *text = fetch(r, annex, why);
    if (!text)
        return false;
    xmlDoc *doc = xmlReadMemory(text, (int)strlen(text), annex, NULL,
                                XML_PARSE_NONET | XML_PARSE_NOERROR | XML_PARSE_NOWARNING);
    if (doc)
        read_node(r, xmlDocGetRootElement(doc), list, depth, why);
    else
        *why = g_strdup_printf("%s: its description of the core is no XML", r->where);
    xmlFreeDoc(doc);
    g_free(text);
    return *why == NULL;
}

const wad_remote_register *wad_remote_registers(wad_remote *r, unsigned *n, char **why)
{
    *why = NULL;
    if (!r->registers) {
        GArray *list = g_array_new(FALSE, TRUE, sizeof(wad_remote_register));
        r->annexes = 0;
        bool good = read_annex(r, "target.xml", list, 0, why);
        if (good && list->len == 0)
            *why = g_strdup_printf("%s describes a core without registers", r->where);
        r->n_registers = list->len;
        r->registers = (wad_remote_register *)(void *)g_array_free(list, FALSE);
        if (*why) {
            for (unsigned i = 0; i < r->n_registers; i++)
                g_free((char *)r->registers[i].name);
            g_clear_pointer(&r->registers, g_free);
            r->n_registers = 0;
        }
    }
    *n = r->n_registers;
    return r->registers;
}

/* ---- values ---- */

static const wad_remote_register *find(wad_remote *r, const char *name, char **why)
{
    unsigned n;
    const wad_remote_register *list = wad_remote_registers(r, &n, why);
    for (unsigned i = 0; list && i < n; i++)
        if (!strcmp(list[i].name, name))
            return &list[i];
    if (!*why)
        *why = g_strdup_printf("the core has no register '%s'", name);
    return NULL;
}

/* By p where the server has that; else from all of them, which lie in the order of their numbers.
 */
static const char *value_of(wad_remote *r, const wad_remote_register *reg, char **why)
{
    char *packet = g_strdup_printf("p%x", reg->number);
    bool good = wadi_remote_ask_text(r, packet, why);
    g_free(packet);
    if (!good)
        return NULL;
    if (*wadi_remote_reply(r))
        return wadi_remote_reply(r);
    if (!wadi_remote_ask_text(r, "g", why))
        return NULL;
    size_t at = 0;
    for (unsigned i = 0; i < r->n_registers; i++)
        if (r->registers[i].number < reg->number)
            at += r->registers[i].bits / 4;
    return at < r->in.data->len ? wadi_remote_reply(r) + at : "";
}

bool wad_remote_get_register(wad_remote *r, const char *name, uint64_t *value, char **why)
{
    uint8_t raw[8] = {0};
    *why = NULL;
    const wad_remote_register *reg = find(r, name, why);
    const char *digits = reg ? value_of(r, reg, why) : NULL;
    if (!digits)
        return false;
    size_t bytes = MIN(reg->bits / 8, sizeof raw);
    if (strlen(digits) < 2 * bytes || wadi_unhex(digits, 2 * bytes, raw, sizeof raw) < 0) {
        *why = g_strdup_printf("register %s has no value now", name);
        return false;
    }
    *value = 0;
    for (size_t i = 0; i < bytes; i++)
        *value |= (uint64_t)raw[i] << 8 * wadi_remote_byte(r, (unsigned)i, (unsigned)bytes);
    return true;
}

bool wad_remote_set_register(wad_remote *r, const char *name, uint64_t value, char **why)
{
    uint8_t raw[8];
    *why = NULL;
    const wad_remote_register *reg = find(r, name, why);
    if (!reg)
        return false;
    unsigned bytes = MIN(reg->bits / 8, sizeof raw);
    for (unsigned i = 0; i < bytes; i++)
        raw[i] = (uint8_t)(value >> 8 * wadi_remote_byte(r, i, bytes));
    GString *packet = g_string_new(NULL);
    g_string_printf(packet, "P%x=", reg->number);
    wadi_hex(packet, raw, bytes);
    bool good = wadi_remote_ask_text(r, packet->str, why) && wadi_remote_is_ok(r, name, why);
    g_string_free(packet, TRUE);
    return good;
}
