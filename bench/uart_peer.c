/* SPDX-License-Identifier: MIT */
#include "uart_peer.h"

#include <string.h>

#include "wadium/host/model.h"

typedef struct sender {
    wad_event event;
    GByteArray *waiting;
    guint at; /* of the waiting bytes */
    uint64_t begin;
    uint32_t levels;
    unsigned bits, bit;
    bool busy;
} sender;

typedef struct script_entry {
    wadi_peer *peer;
    const wadi_peer_say *say;
} script_entry;

struct wadi_peer {
    wad_sim *sim;
    const wadi_peer_def *def;
    const GArray *says;
    unsigned number;
    wadi_serial_decoder decoder;
    wad_event byte_over;
    sender out;
    GArray *heard; /* wadi_serial_byte */
    GString *text;
    unsigned errors;
    GPtrArray *entries; /* script_entry */
};

/* ---- saying ---- */

static void drive(wadi_peer *p, bool level)
{
    if (p->def->drives)
        wad_sim_drive(p->sim, p->def->drives, level ? WAD_HIGH : WAD_LOW);
}

/* Each boundary from the frame's begin, so that no error adds up. */
static void arm(wadi_peer *p)
{
    sender *s = &p->out;
    const wadi_serial_format *f = &p->def->format;
    uint64_t halves = s->bit < s->bits ? 2 * (s->bit + 1) : 2 * s->bits + f->stop_halves;
    wad_sim_schedule(p->sim, &s->event, s->begin + wadi_serial_ps(f, halves));
}

static void next_byte(wadi_peer *p, uint64_t ps)
{
    sender *s = &p->out;
    s->busy = s->at < s->waiting->len;
    if (!s->busy) {
        g_byte_array_set_size(s->waiting, 0);
        s->at = 0;
        return;
    }
    s->bits = wadi_serial_frame(&p->def->format, s->waiting->data[s->at++], &s->levels);
    s->bit = 0;
    s->begin = ps;
    drive(p, false);
    arm(p);
}

static void on_bit(wad_event *e)
{
    wadi_peer *p = (wadi_peer *)((char *)e - offsetof(wadi_peer, out.event));
    sender *s = &p->out;
    if (s->bit == s->bits) {
        next_byte(p, e->ps);
        return;
    }
    s->bit++;
    drive(p, s->bit == s->bits || (s->levels >> s->bit & 1));
    arm(p);
}

static void say(wadi_peer *p, const wadi_peer_say *what)
{
    g_byte_array_append(p->out.waiting, (const guint8 *)what->text, (guint)what->n);
    if (!p->out.busy)
        next_byte(p, wad_sim_now(p->sim));
}

static void on_script(wad_sim *sim, void *ctx)
{
    const script_entry *entry = ctx;
    (void)sim;
    say(entry->peer, entry->say);
}

/* ---- hearing ---- */

static void answer(wadi_peer *p)
{
    for (guint i = 0; i < p->says->len; i++) {
        const wadi_peer_say *s = &g_array_index(p->says, wadi_peer_say, i);
        if (s->peer == p->number && s->to && g_str_has_suffix(p->text->str, s->to))
            say(p, s);
    }
}

static void on_byte(void *ctx, const wadi_serial_byte *byte)
{
    wadi_peer *p = ctx;
    g_array_append_val(p->heard, *byte);
    p->errors += byte->framing || byte->parity;
    g_string_append_c(p->text, byte->data ? (char)byte->data : ' '); /* a text holds no 0 */
    answer(p);
}

static void on_byte_over(wad_event *e)
{
    wadi_peer *p = (wadi_peer *)((char *)e - offsetof(wadi_peer, byte_over));
    wadi_serial_until(&p->decoder, e->ps);
}

static void on_level(void *ctx, uint64_t ps, wad_level level)
{
    wadi_peer *p = ctx;
    bool began = p->decoder.receiving;
    wadi_serial_edge(&p->decoder, ps, level != WAD_LOW); /* a line that nobody drives rests high */
    if (p->decoder.receiving && (!began || p->decoder.start == ps))
        wad_sim_schedule(p->sim, &p->byte_over, wadi_serial_over(&p->decoder));
}

/* ---- life ---- */

static void rest_high(wad_sim *sim, void *ctx)
{
    (void)sim;
    drive(ctx, true);
}

wadi_peer *wadi_peer_new(wad_sim *sim, const wadi_peer_def *def, const GArray *says,
                         unsigned number)
{
    wadi_peer *p = g_new0(wadi_peer, 1);
    p->sim = sim;
    p->def = def;
    p->says = says;
    p->number = number;
    p->out.event.fn = on_bit;
    p->out.waiting = g_byte_array_new();
    p->byte_over.fn = on_byte_over;
    p->heard = g_array_new(FALSE, FALSE, sizeof(wadi_serial_byte));
    p->text = g_string_new(NULL);
    p->entries = g_ptr_array_new_with_free_func(g_free);
    wadi_serial_begin(&p->decoder, &def->format, on_byte, p);
    wad_sim_at(sim, 0, rest_high, p);
    if (def->hears)
        wad_sim_watch_pin(sim, def->hears, on_level, p);
    for (guint i = 0; i < says->len; i++) {
        const wadi_peer_say *s = &g_array_index(says, wadi_peer_say, i);
        if (s->peer != number || s->to)
            continue;
        script_entry *entry = g_new(script_entry, 1);
        *entry = (script_entry){p, s};
        g_ptr_array_add(p->entries, entry);
        wad_sim_at(sim, s->at_ps, on_script, entry);
    }
    return p;
}

void wadi_peer_free(wadi_peer *p)
{
    if (!p)
        return;
    g_byte_array_free(p->out.waiting, TRUE);
    g_array_free(p->heard, TRUE);
    g_string_free(p->text, TRUE);
    g_ptr_array_free(p->entries, TRUE);
    g_free(p);
}

void wadi_peer_end(wadi_peer *p, uint64_t ps)
{
    wadi_serial_until(&p->decoder, ps);
}

/* ---- what it heard ---- */

uint64_t wadi_peer_heard(const wadi_peer *p, const char *text)
{
    const char *at = strstr(p->text->str, text);
    guint last = at ? (guint)(at - p->text->str + strlen(text)) : 0;
    return last && last <= p->heard->len ? g_array_index(p->heard, wadi_serial_byte, last - 1).ps
                                         : 0;
}

unsigned wadi_peer_bytes(const wadi_peer *p)
{
    return p->heard->len;
}

unsigned wadi_peer_errors(const wadi_peer *p)
{
    return p->errors;
}

char *wadi_peer_tail(const wadi_peer *p)
{
    gsize from = p->text->len > 40 ? p->text->len - 40 : 0;
    char *text = g_strescape(p->text->str + from, NULL);
    char *shown = g_strdup_printf("%s%s", from ? "..." : "", text);
    g_free(text);
    return shown;
}
