/* SPDX-License-Identifier: MIT */
/* `wadium show CHIP dma`: DMA controllers, who may ask them, and who of a board has which channel.
 */
#include <glib.h>
#include <string.h>

#include "wadium/host/board.h"

static bool is_mover(const wad_instance *b)
{
    return wad_acts_as(b->layout, "dma");
}

/* The field of the asking block that lets its requests out. */
static char *enable_of(const wad_trigger *t)
{
    const wad_role *r = wad_request_enable(t);
    if (!r)
        return g_strdup("");
    wad_fieldref ref = wad_role_ref(t->from, r, 0);
    return wad_fieldref_name(&ref);
}

static char *text_of(const wad_trigger *t)
{
    static const char by_channel[] = ", by channel";
    int place = wad_kind_role_index(t->from->layout->kind, t->role->name);
    const char *text = t->from->layout->kind->roles[place].text;
    text += g_str_has_prefix(text, "flag: ") ? 6 : 0;
    size_t n = strlen(text) - (g_str_has_suffix(text, by_channel) ? strlen(by_channel) : 0);
    return g_strndup(text, n);
}

static void show_requests(const wad_instance *b, FILE *out)
{
    const wad_role *role = wad_layout_role(b->layout, "request");
    wad_fieldref ref = wad_role_ref(b, role, 0);
    bool shared = wad_role_count(role) < 2;
    if (!ref.reg) {
        fprintf(out, "each channel's request is fixed\n");
    } else {
        fprintf(out, "%s.%s%s%s selects; %s\n", (ref.block ? ref.block : b)->name, ref.reg->name,
                shared ? "." : "[n].", ref.field ? ref.field->name : "",
                shared ? "all channels share one request"
                       : "each channel has a request of its own");
    }
    fprintf(out, "  %-8s %-18s %-18s %s\n", "request", "of", "enabled by", "when");
    for (unsigned i = 0; i < b->n_requests; i++) {
        const wad_trigger *t = &b->requests[i];
        char *name = wad_trigger_name(t), *enable = enable_of(t), *text = text_of(t);
        fprintf(out, "  %-8u %-18s %-18s %s\n", t->code, name, *enable ? enable : "-", text);
        g_free(text);
        g_free(enable);
        g_free(name);
    }
}

static unsigned channels_of(const wad_instance *b)
{
    return wad_role_count(wad_layout_role(b->layout, "enable"));
}

unsigned wad_show_dma(const wad_sheet *s, FILE *out)
{
    unsigned n = 0;
    for (unsigned i = 0; i < s->n_blocks; i++) {
        const wad_instance *b = s->blocks[i];
        if (!is_mover(b))
            continue;
        fprintf(out, "%s%s: %s\nchannels 0 to %u, settings in %s\n", n++ ? "\n" : "", b->name,
                b->text ? b->text : "", channels_of(b) - 1,
                wad_layout_role(b->layout, "descriptor") ? "memory" : "registers");
        if (b->n_requests)
            show_requests(b, out);
    }
    return n;
}

/* ---- of a board ---- */

void wad_show_claims(const wad_board *board, FILE *out)
{
    fprintf(out, "%-12s %-8s %-18s %s\n", "DMA", "channel", "request", "for");
    for (unsigned i = 0; i < board->n_claims; i++) {
        const wad_claim *c = &board->claims[i];
        char *name = c->request ? wad_trigger_name(c->request) : g_strdup("none: at once");
        fprintf(out, "%-12s %-8u %-18s %s\n", c->mover->name, c->channel, name, c->text);
        g_free(name);
    }
}

#define DOUBT(diags, claim, ...)                                                                   \
    wad_diags_add((diags), WAD_WARNING, &(claim)->where, NULL, __VA_ARGS__)

static void lint_pair(wad_diags *diags, const wad_claim *a, const wad_claim *b)
{
    if (a->mover != b->mover)
        return;
    const wad_role *selector = wad_layout_role(a->mover->layout, "request");
    if (a->channel == b->channel)
        DOUBT(diags, b, "channel %u of %s is for \"%s\" already", b->channel, b->mover->name,
              a->text);
    if (!a->request || !b->request)
        return;
    char *name = wad_trigger_name(b->request), *other = wad_trigger_name(a->request);
    if (a->request == b->request)
        DOUBT(diags, b, "%s asks channel %u, for \"%s\", already", name, a->channel, a->text);
    else if (selector && wad_role_count(selector) < 2)
        DOUBT(diags, b, "the channels of %s share one request, which is %s for \"%s\"",
              b->mover->name, other, a->text);
    g_free(name);
    g_free(other);
}

void wad_board_lint(const wad_board *board, wad_diags *diags)
{
    for (unsigned i = 0; i < board->n_claims; i++)
        for (unsigned k = 0; k < i; k++)
            lint_pair(diags, &board->claims[k], &board->claims[i]);
}
