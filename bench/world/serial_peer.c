/* SPDX-License-Identifier: MIT */
#include "serial_peer.h"

#include <string.h>

#include "bench/language/said.h"
#include "lang/rational.h"
#include "wadium/host/model.h"
#include "wadium/host/output.h"
#include "wire.h"

typedef struct sender {
    wad_event event;
    GByteArray *waiting;
    guint at; /* of the waiting bytes */
    uint64_t begin;
    uint32_t levels;
    unsigned bits, bit;
    bool busy;
} sender;

/* Something of the script: a text, or a trouble's begin or end. */
typedef struct entry {
    wadi_peer *peer;
    const wadi_peer_say *say;
    const wadi_trouble *trouble;
    bool ends;
} entry;

struct wadi_peer {
    wad_sim *sim;
    const wadi_peer_def *def;
    const GArray *says;
    unsigned number;
    wad_serial_format format; /* as it is now */
    wadi_wire to_chip, from_chip;
    wadi_serial_decoder decoder;
    wad_event byte_over;
    sender out;
    wad_event noise, quiet; /* a pulse begins, and ends */
    GRand *rand;
    GArray *heard; /* wadi_serial_byte */
    GString *text;
    GPtrArray *entries;
    wadi_serial_fn listener; /* somebody is there: the script is not played */
    void *listener_ctx;
};

/* A peer that does as the chip does looks how it is set, before each byte. */
static void follow_chip(wadi_peer *p)
{
    wad_serial_port port;
    if (p->def->as_chip &&
        ((p->def->drives && wad_sim_serial_at(p->sim, p->def->drives, &port)) ||
         (p->def->hears && wad_sim_serial_at(p->sim, p->def->hears, &port))) &&
        port.format.baud.num > 0)
        p->format = port.format;
}

/* ---- the wire to the chip ---- */

static void on_to_chip(void *ctx, uint64_t ps, wad_level level)
{
    const wadi_peer *p = ctx;
    (void)ps;
    if (p->def->drives)
        wad_sim_drive(p->sim, p->def->drives, level);
}

/* A pulse of up to a bit's length, anywhere in the bit that begins. */
static void make_noise(wadi_peer *p, uint64_t ps)
{
    if (!p->def->noise.num || g_rand_double(p->rand) >= wadi_rat_double(p->def->noise))
        return;
    double bit = (double)wadi_serial_ps(&p->format, 2), at = g_rand_double(p->rand);
    double length = g_rand_double(p->rand) * bit;
    wad_sim_schedule(p->sim, &p->noise, ps + (uint64_t)(at * bit));
    wad_sim_schedule(p->sim, &p->quiet, ps + (uint64_t)(at * bit + length) + 1);
}

static void on_noise(wad_event *e)
{
    wadi_peer *p = (wadi_peer *)((char *)e - offsetof(wadi_peer, noise));
    p->to_chip.glitch = true;
    wadi_wire_update(&p->to_chip, e->ps);
}

static void on_quiet(wad_event *e)
{
    wadi_peer *p = (wadi_peer *)((char *)e - offsetof(wadi_peer, quiet));
    p->to_chip.glitch = false;
    wadi_wire_update(&p->to_chip, e->ps);
}

/* ---- saying ---- */

static void drive(wadi_peer *p, uint64_t ps, bool level)
{
    if (!p->def->looped)
        wadi_wire_set(&p->to_chip, ps, level ? WAD_HIGH : WAD_LOW);
}

/* Each boundary from the frame's begin, so that no error adds up. */
static void arm(wadi_peer *p)
{
    sender *s = &p->out;
    uint64_t halves = s->bit < s->bits ? 2 * (s->bit + 1) : 2 * s->bits + p->format.stop_halves;
    wad_sim_schedule(p->sim, &s->event, s->begin + wadi_serial_ps(&p->format, halves));
}

/* The chip's RTS is high: it has no room. */
static bool held(const wadi_peer *p)
{
    return p->def->rts && wad_sim_level(p->sim, p->def->rts) == WAD_HIGH;
}

static void next_byte(wadi_peer *p, uint64_t ps)
{
    sender *s = &p->out;
    s->busy = s->at < s->waiting->len && !held(p);
    if (!s->busy) {
        g_byte_array_remove_range(s->waiting, 0, s->at);
        s->at = 0;
        return;
    }
    follow_chip(p);
    s->bits = wadi_serial_frame(&p->format, s->waiting->data[s->at++], &s->levels);
    s->bit = 0;
    s->begin = ps;
    drive(p, ps, false);
    make_noise(p, ps);
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
    drive(p, e->ps, s->bit == s->bits || (s->levels >> s->bit & 1));
    make_noise(p, e->ps);
    arm(p);
}

void wadi_peer_send(wadi_peer *p, const uint8_t *bytes, gsize n)
{
    g_byte_array_append(p->out.waiting, bytes, (guint)n);
    if (!p->out.busy)
        next_byte(p, wad_sim_now(p->sim));
}

gsize wadi_peer_waiting(const wadi_peer *p)
{
    return p->out.waiting->len - p->out.at;
}

static void on_rts(void *ctx, uint64_t ps, wad_level level)
{
    wadi_peer *p = ctx;
    if (level != WAD_HIGH && !p->out.busy)
        next_byte(p, ps);
}

/* ---- hearing ---- */

static void answer(wadi_peer *p)
{
    for (guint i = 0; i < p->says->len; i++) {
        const wadi_peer_say *s = &g_array_index(p->says, wadi_peer_say, i);
        if (s->peer == p->number && s->to && g_str_has_suffix(p->text->str, s->to))
            wadi_peer_send(p, (const uint8_t *)s->text, s->n);
    }
}

static void on_byte(void *ctx, const wadi_serial_byte *byte)
{
    wadi_peer *p = ctx;
    g_array_append_val(p->heard, *byte);
    g_string_append_c(p->text, byte->data ? (char)byte->data : ' '); /* a text holds no 0 */
    if (p->listener)
        p->listener(p->listener_ctx, byte);
    else
        answer(p);
}

static void on_byte_over(wad_event *e)
{
    wadi_peer *p = (wadi_peer *)((char *)e - offsetof(wadi_peer, byte_over));
    wadi_serial_until(&p->decoder, e->ps);
}

/* What comes out of the wire from the chip. */
static void on_from_chip(void *ctx, uint64_t ps, wad_level level)
{
    wadi_peer *p = ctx;
    bool began = p->decoder.receiving;
    if (p->def->as_chip && !began) {
        follow_chip(p);
        p->decoder.format = p->format;
    }
    wadi_serial_edge(&p->decoder, ps, level != WAD_LOW); /* a line that nobody drives rests high */
    if (p->decoder.receiving && (!began || p->decoder.start == ps))
        wad_sim_schedule(p->sim, &p->byte_over, wadi_serial_over(&p->decoder));
    if (p->def->looped)
        wadi_wire_set(&p->to_chip, ps, level);
}

static void on_level(void *ctx, uint64_t ps, wad_level level)
{
    wadi_wire_set(&((wadi_peer *)ctx)->from_chip, ps, level);
}

void wadi_peer_listen(wadi_peer *p, wadi_serial_fn fn, void *ctx)
{
    p->listener = fn;
    p->listener_ctx = ctx;
}

/* ---- the script ---- */

static void trouble(wadi_wire *w, const wadi_trouble *t, bool on, uint64_t ps)
{
    wadi_wire_trouble(w, t->kind, t->level, on, ps);
}

static void on_script(wad_sim *sim, void *ctx)
{
    const entry *e = ctx;
    wadi_peer *p = e->peer;
    uint64_t now = wad_sim_now(sim);
    if (e->say && !p->listener) /* whoever sits there speaks for himself */
        wadi_peer_send(p, (const uint8_t *)e->say->text, e->say->n);
    else if (e->say)
        return;
    else if (!e->trouble)
        drive(p, now, true); /* at the run's begin the line rests */
    else if (e->trouble->kind == WADI_TROUBLE_HOLD)
        wad_sim_drive(sim, p->def->cts, e->ends ? WAD_LOW : WAD_HIGH);
    else if (e->trouble->rx)
        trouble(&p->to_chip, e->trouble, !e->ends, now);
    if (e->trouble && e->trouble->tx)
        trouble(&p->from_chip, e->trouble, !e->ends, now);
}

static void at(wadi_peer *p, uint64_t ps, const wadi_peer_say *say, const wadi_trouble *t,
               bool ends)
{
    entry *e = g_new(entry, 1);
    *e = (entry){p, say, t, ends};
    g_ptr_array_add(p->entries, e);
    wad_sim_at(p->sim, ps, on_script, e);
}

static void set_cts(wad_sim *sim, void *ctx)
{
    const wadi_peer *p = ctx;
    wad_sim_drive(sim, p->def->cts, WAD_LOW);
}

static void plan(wadi_peer *p, const wadi_lines *lines)
{
    at(p, 0, NULL, NULL, false);
    if (p->def->cts)
        wad_sim_at(p->sim, 0, set_cts, p);
    for (guint i = 0; i < lines->troubles->len; i++) {
        const wadi_trouble *t = &g_array_index(lines->troubles, wadi_trouble, i);
        if (t->peer != p->number)
            continue;
        at(p, t->at_ps, NULL, t, false);
        if (t->for_ps)
            at(p, t->at_ps + t->for_ps, NULL, t, true);
    }
    for (guint i = 0; i < p->says->len; i++) {
        const wadi_peer_say *s = &g_array_index(p->says, wadi_peer_say, i);
        if (s->peer == p->number && !s->to)
            at(p, s->at_ps, s, NULL, false);
    }
}

/* ---- life ---- */

wadi_peer *wadi_peer_new(wad_sim *sim, const wadi_lines *lines, unsigned number)
{
    wadi_peer *p = g_new0(wadi_peer, 1);
    const wadi_peer_def *def = &g_array_index(lines->defs, wadi_peer_def, number);
    p->sim = sim;
    p->def = def;
    p->says = lines->says;
    p->number = number;
    p->format = def->format;
    p->to_chip =
        (wadi_wire){.level = WAD_FLOATING, .seen = WAD_FLOATING, .fn = on_to_chip, .ctx = p};
    p->from_chip =
        (wadi_wire){.level = WAD_FLOATING, .seen = WAD_FLOATING, .fn = on_from_chip, .ctx = p};
    p->out.event.fn = on_bit;
    p->out.waiting = g_byte_array_new();
    p->noise.fn = on_noise;
    p->quiet.fn = on_quiet;
    p->rand = g_rand_new_with_seed(lines->seed + number);
    p->byte_over.fn = on_byte_over;
    p->heard = g_array_new(FALSE, FALSE, sizeof(wadi_serial_byte));
    p->text = g_string_new(NULL);
    p->entries = g_ptr_array_new_with_free_func(g_free);
    wadi_serial_begin(&p->decoder, &def->format, on_byte, p);
    if (def->hears)
        wad_sim_watch_pin(sim, def->hears, on_level, p);
    if (def->rts)
        wad_sim_watch_pin(sim, def->rts, on_rts, p);
    if (!def->as_chip && !def->looped && def->hears)
        wad_sim_serial_end(sim, def->hears, def->name, &def->format);
    if (!def->as_chip && !def->looped && def->drives)
        wad_sim_serial_end(sim, def->drives, def->name, &def->format);
    plan(p, lines);
    return p;
}

void wadi_peer_free(wadi_peer *p)
{
    if (!p)
        return;
    g_rand_free(p->rand);
    g_byte_array_free(p->out.waiting, TRUE);
    g_array_free(p->heard, TRUE);
    g_string_free(p->text, TRUE);
    g_ptr_array_free(p->entries, TRUE);
    g_free(p);
}

/* Written beside and put in place when it is whole. */
static bool keep(const wadi_peer *p, char **why)
{
    GByteArray *bytes = g_byte_array_new();
    char *reason;
    for (guint i = 0; i < p->heard->len; i++) {
        guint8 byte = (guint8)g_array_index(p->heard, wadi_serial_byte, i).data;
        g_byte_array_append(bytes, &byte, 1);
    }
    bool ok = wad_output_bytes(p->def->keep, bytes->data, bytes->len, &reason);
    if (!ok)
        *why = g_strdup_printf("what %s heard cannot be kept: %s", p->def->name, reason);
    g_free(reason);
    g_byte_array_free(bytes, TRUE);
    return ok;
}

bool wadi_peer_end(wadi_peer *p, uint64_t ps, char **why)
{
    wadi_serial_until(&p->decoder, ps);
    return !p->def->keep || keep(p, why);
}

/* ---- what it heard ---- */

static const wadi_serial_byte *byte_at(const wadi_peer *p, guint i)
{
    return &g_array_index(p->heard, wadi_serial_byte, i);
}

/* The bytes whose start bits lie in a stretch of time are some in a row. */
static guint first_after(const wadi_peer *p, uint64_t ps)
{
    guint i = 0;
    while (i < p->heard->len && byte_at(p, i)->ps < ps)
        i++;
    return i;
}

uint64_t wadi_peer_heard(const wadi_peer *p, const char *text, uint64_t from_ps, uint64_t to_ps)
{
    guint from = first_after(p, from_ps);
    guint end = to_ps == UINT64_MAX ? p->heard->len : first_after(p, to_ps + 1);
    size_t n = strlen(text);
    const char *found = end > from ? memmem(p->text->str + from, end - from, text, n) : NULL;
    return found && n ? byte_at(p, (guint)(found - p->text->str + n) - 1)->ps : 0;
}

unsigned wadi_peer_bytes(const wadi_peer *p, uint64_t from_ps, uint64_t to_ps)
{
    guint n = 0;
    for (guint i = 0; i < p->heard->len; i++)
        n += byte_at(p, i)->ps >= from_ps && byte_at(p, i)->ps <= to_ps;
    return n;
}

unsigned wadi_peer_errors(const wadi_peer *p, uint64_t from_ps, uint64_t to_ps)
{
    unsigned n = 0;
    for (guint i = 0; i < p->heard->len; i++)
        n += byte_at(p, i)->ps >= from_ps && byte_at(p, i)->ps <= to_ps &&
             (byte_at(p, i)->framing || byte_at(p, i)->parity);
    return n;
}

char *wadi_peer_tail(const wadi_peer *p)
{
    gsize from = p->text->len > 40 ? p->text->len - 40 : 0;
    char *text = g_strescape(p->text->str + from, NULL);
    char *shown = g_strdup_printf("%s%s", from ? "..." : "", text);
    g_free(text);
    return shown;
}
