/* SPDX-License-Identifier: MIT */
#include "xml.h"

#include <libxml/tree.h>

void wadi_junit_begin(wadi_junit *j, FILE *out)
{
    xmlDoc *doc = xmlNewDoc(BAD_CAST "1.0");
    xmlNode *root = xmlNewNode(NULL, BAD_CAST "testsuites");
    xmlDocSetRootElement(doc, root);
    *j = (wadi_junit){.out = out, .doc = doc, .root = root};
}

/* XML has no place for control characters, nor for what is no text. */
static char *clean(const char *text)
{
    char *valid = g_utf8_make_valid(text, -1);
    GString *out = g_string_new(NULL);
    for (const char *p = valid; *p; p = g_utf8_next_char(p)) {
        gunichar c = g_utf8_get_char(p);
        bool has_place = (c >= 0x20 && c != 0xFFFE && c != 0xFFFF) || c == '\n' || c == '\t';
        g_string_append_unichar(out, has_place ? c : '?');
    }
    g_free(valid);
    return g_string_free(out, FALSE);
}

static void attribute(xmlNode *node, const char *name, const char *text)
{
    char *valid = clean(text);
    xmlNewProp(node, BAD_CAST name, BAD_CAST valid);
    g_free(valid);
}

static void number(xmlNode *node, const char *name, unsigned value)
{
    char text[16];
    g_snprintf(text, sizeof text, "%u", value);
    xmlNewProp(node, BAD_CAST name, BAD_CAST text);
}

static void end_suite(wadi_junit *j)
{
    if (!j->suite)
        return;
    number(j->suite, "tests", j->tests);
    number(j->suite, "failures", j->failures);
    number(j->suite, "skipped", j->skipped);
}

void wadi_junit_suite(wadi_junit *j, const char *name)
{
    end_suite(j);
    j->tests = j->failures = j->skipped = 0;
    j->suite = xmlNewChild(j->root, NULL, BAD_CAST "testsuite", NULL);
    attribute(j->suite, "name", name);
}

void wadi_junit_case(wadi_junit *j, const char *name, const char *failure, const char *skip)
{
    xmlNode *node = xmlNewChild(j->suite, NULL, BAD_CAST "testcase", NULL);
    attribute(node, "name", name);
    j->tests++;
    if (failure) {
        attribute(xmlNewChild(node, NULL, BAD_CAST "failure", NULL), "message", failure);
        j->failures++;
    } else if (skip) {
        attribute(xmlNewChild(node, NULL, BAD_CAST "skipped", NULL), "message", skip);
        j->skipped++;
    }
}

void wadi_junit_end(wadi_junit *j)
{
    end_suite(j);
    xmlDocFormatDump(j->out, j->doc, 1);
    xmlFreeDoc(j->doc);
}
