/* SPDX-License-Identifier: MIT */
#include "serial_peer.h"

#include <string.h>

#include "lang/rational.h"
#include "wadium/host/output.h"

typedef struct sender {
    wad_event event;
    GByteArray *waiting;
    guint at; /* of the waiting bytes */
    uint64_t begin;
    uint32_t levels;
    unsigned bits, bit;
    bool busy;
} sender;

typedef struct peer {
    wad_part *part;
    const wadi_serial_form *form;
    wad_serial_format format; /* as it is now */
    wadi_serial_decoder decoder;
    wad_event byte_over;
    sender out;
    bool rested;            /* the run has begun */
    wad_event noise, quiet; /* a pulse begins, and ends */
    GArray *heard;          /* wadi_serial_byte */
    GString *text;
    wadi_serial_fn listener; /* somebody is there: the script is not played */
    void *listener_ctx;
} peer;

static const wad_pin_def *pin_of(const peer *p, unsigned wire)
{
    return p->part->said->pins[wire];
}

/* A peer that does as the chip does looks how it is set, before each byte. */
static void follow_chip(peer *p)
{
    const wad_pin_def *rx = pin_of(p, WADI_PEER_RX), *tx = pin_of(p, WADI_PEER_TX);
    wad_serial_port port;
    if (p->form->as_chip &&
        ((rx && wad_sim_serial_at(p->part->sim, rx, &port)) ||
         (tx && wad_sim_serial_at(p->part->sim, tx, &port))) &&
        port.format.baud.num > 0)
        p->format = port.format;
}

/* ---- the wire to the chip ---- */

/* A pulse of up to a bit's length, anywhere in the bit that begins. */
static void make_noise(peer *p, uint64_t ps)
{
    GRand *rand = p->part->rand;
    if (!p->form->noise.num || g_rand_double(rand) >= wadi_rat_double(p->form->noise))
        return;
    double bit = (double)wadi_serial_ps(&p->format, 2), at = g_rand_double(rand);
    double length = g_rand_double(rand) * bit;
    wad_sim_schedule(p->part->sim, &p->noise, ps + (uint64_t)(at * bit));
    wad_sim_schedule(p->part->sim, &p->quiet, ps + (uint64_t)(at * bit + length) + 1);
}

static void disturb(peer *p, bool on, uint64_t ps)
{
    wadi_wire *w = &p->part->wires[WADI_PEER_RX].wire;
    w->glitch = on;
    wadi_wire_update(w, ps);
}

static void on_noise(wad_event *e)
{
    disturb((peer *)((char *)e - offsetof(peer, noise)), true, e->ps);
}

static void on_quiet(wad_event *e)
{
    disturb((peer *)((char *)e - offsetof(peer, quiet)), false, e->ps);
}

/* ---- saying ---- */

static void drive(peer *p, bool level)
{
    if (!p->form->looped)
        wad_part_drive(p->part, WADI_PEER_RX, level ? WAD_HIGH : WAD_LOW);
}

/* Each boundary from the frame's begin, so that no error adds up. */
static void arm(peer *p)
{
    sender *s = &p->out;
    uint64_t halves = s->bit < s->bits ? 2 * (s->bit + 1) : 2 * s->bits + p->format.stop_halves;
    wad_sim_schedule(p->part->sim, &s->event, s->begin + wadi_serial_ps(&p->format, halves));
}

/* The chip's RTS is high: it has no room. */
static bool held(const peer *p)
{
    const wad_pin_def *rts = pin_of(p, WADI_PEER_RTS);
    return rts && wad_sim_level(p->part->sim, rts) == WAD_HIGH;
}

static void next_byte(peer *p, uint64_t ps)
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
    drive(p, false);
    make_noise(p, ps);
    arm(p);
}

static void on_bit(wad_event *e)
{
    peer *p = (peer *)((char *)e - offsetof(peer, out.event));
    sender *s = &p->out;
    if (s->bit == s->bits) {
        next_byte(p, e->ps);
        return;
    }
    s->bit++;
    drive(p, s->bit == s->bits || (s->levels >> s->bit & 1));
    make_noise(p, e->ps);
    arm(p);
}

void wadi_peer_send(wad_part *part, const uint8_t *bytes, gsize n)
{
    peer *p = part->shell;
    g_byte_array_append(p->out.waiting, bytes, (guint)n);
    if (p->rested && !p->out.busy)
        next_byte(p, wad_sim_now(part->sim));
}

void wad_part_send(wad_part *part, const uint8_t *bytes, size_t n)
{
    if (part->said->shell == &wadi_serial_shell)
        wadi_peer_send(part, bytes, n);
    else
        wad_part_refuse(part, "its class sends bytes, and is on no serial line");
}

gsize wadi_peer_waiting(const wad_part *part)
{
    const peer *p = part->shell;
    return p->out.waiting->len - p->out.at;
}

void wadi_peer_hold(wad_part *part, bool on)
{
    wad_part_drive(part, WADI_PEER_CTS, on ? WAD_HIGH : WAD_LOW);
}

/* ---- hearing ---- */

static void answer(peer *p)
{
    for (const wadi_reply *r = p->form->replies; r; r = r->next)
        if (g_str_has_suffix(p->text->str, r->to))
            wadi_peer_send(p->part, (const uint8_t *)r->text, r->n);
}

static void on_byte(void *ctx, const wadi_serial_byte *byte)
{
    peer *p = ctx;
    const wad_part_serial *own = p->part->said->cls->serial;
    g_array_append_val(p->heard, *byte);
    g_string_append_c(p->text, byte->data ? (char)byte->data : ' '); /* a text holds no 0 */
    if (p->listener) {
        p->listener(p->listener_ctx, byte);
        return;
    }
    answer(p);
    if (own && own->byte)
        own->byte(p->part, &(wad_serial_heard){byte->ps, byte->data, byte->framing, byte->parity,
                                               byte->is_break});
}

static void on_byte_over(wad_event *e)
{
    peer *p = (peer *)((char *)e - offsetof(peer, byte_over));
    wadi_serial_until(&p->decoder, e->ps);
}

static void on_tx(peer *p, uint64_t ps, wad_level level)
{
    bool began = p->decoder.receiving;
    if (p->form->as_chip && !began) {
        follow_chip(p);
        p->decoder.format = p->format;
    }
    wadi_serial_edge(&p->decoder, ps, level != WAD_LOW); /* a line that nobody drives rests high */
    if (p->decoder.receiving && (!began || p->decoder.start == ps))
        wad_sim_schedule(p->part->sim, &p->byte_over, wadi_serial_over(&p->decoder));
    if (p->form->looped)
        wad_part_drive(p->part, WADI_PEER_RX, level);
}

static void on_edge(wad_part *part, unsigned wire, uint64_t ps, wad_level level)
{
    peer *p = part->shell;
    if (wire == WADI_PEER_TX)
        on_tx(p, ps, level);
    else if (wire == WADI_PEER_RTS && level != WAD_HIGH && !p->out.busy)
        next_byte(p, ps);
}

void wadi_peer_listen(wad_part *part, wadi_serial_fn fn, void *ctx)
{
    peer *p = part->shell;
    p->listener = fn;
    p->listener_ctx = ctx;
}

bool wadi_peer_is_taken(const wad_part *part)
{
    return ((const peer *)part->shell)->listener != NULL;
}

/* ---- life ---- */

/* At the run's begin the line rests. */
static void rest(wad_sim *sim, void *ctx)
{
    peer *p = ctx;
    drive(p, true);
    wadi_peer_hold(p->part, false);
    if (!p->rested && p->out.waiting->len) /* what was to be sent before the run began */
        next_byte(p, wad_sim_now(sim));
    p->rested = true;
}

static void begin(wad_part *part)
{
    peer *p = part->shell;
    const wadi_serial_form *form = part->said->form;
    p->part = part;
    p->form = form;
    p->format = form->format;
    p->out.event.fn = on_bit;
    p->out.waiting = g_byte_array_new();
    p->noise.fn = on_noise;
    p->quiet.fn = on_quiet;
    p->byte_over.fn = on_byte_over;
    p->heard = g_array_new(FALSE, FALSE, sizeof(wadi_serial_byte));
    p->text = g_string_new(NULL);
    wadi_serial_begin(&p->decoder, &form->format, on_byte, p);
    const wad_pin_def *const ends[] = {pin_of(p, WADI_PEER_TX), pin_of(p, WADI_PEER_RX)};
    for (unsigned i = 0; i < 2; i++)
        if (!form->as_chip && !form->looped && ends[i])
            wad_sim_serial_end(part->sim, ends[i], part->said->name, &form->format);
    wad_sim_at(part->sim, 0, rest, p);
}

static void free_peer(wad_part *part)
{
    peer *p = part->shell;
    g_byte_array_free(p->out.waiting, TRUE);
    g_array_free(p->heard, TRUE);
    g_string_free(p->text, TRUE);
}

/* Written beside and put in place when it is whole. */
static bool keep(const peer *p, char **why)
{
    const wadi_part_said *said = p->part->said;
    GByteArray *bytes = g_byte_array_new();
    char *reason;
    for (guint i = 0; i < p->heard->len; i++) {
        guint8 byte = (guint8)g_array_index(p->heard, wadi_serial_byte, i).data;
        g_byte_array_append(bytes, &byte, 1);
    }
    bool ok = wad_output_bytes(said->keep, bytes->data, bytes->len, &reason);
    if (!ok)
        *why = g_strdup_printf("what %s heard cannot be kept: %s", said->name, reason);
    g_free(reason);
    g_byte_array_free(bytes, TRUE);
    return ok;
}

static bool end(wad_part *part, uint64_t ps, char **why)
{
    peer *p = part->shell;
    wadi_serial_until(&p->decoder, ps);
    return !part->said->keep || part->said->cls->keep || keep(p, why);
}

const wadi_shell wadi_serial_shell = {.cuts = 1u << WADI_PEER_TX | 1u << WADI_PEER_RX,
                                      .name_wires = "name the wire: RX is to the chip, TX from it",
                                      .state_size = sizeof(peer),
                                      .begin = begin,
                                      .edge = on_edge,
                                      .keeps = true,
                                      .end = end,
                                      .free = free_peer};

/* A peer without a class of its own: says what the bench says. */
const wad_part_class wadi_part_peer = {.kind = "serial", .wires = WAD_WIRES_SERIAL};

/* ---- what it heard ---- */

static const wadi_serial_byte *byte_at(const peer *p, guint i)
{
    return &g_array_index(p->heard, wadi_serial_byte, i);
}

/* The bytes whose start bits lie in a stretch of time are some in a row. */
static guint first_after(const peer *p, uint64_t ps)
{
    guint i = 0;
    while (i < p->heard->len && byte_at(p, i)->ps < ps)
        i++;
    return i;
}

uint64_t wadi_peer_heard(const wad_part *part, const char *text, uint64_t from_ps, uint64_t to_ps)
{
    const peer *p = part->shell;
    guint from = first_after(p, from_ps);
    guint end = to_ps == UINT64_MAX ? p->heard->len : first_after(p, to_ps + 1);
    size_t n = strlen(text);
    const char *found = end > from ? memmem(p->text->str + from, end - from, text, n) : NULL;
    return found && n ? byte_at(p, (guint)(found - p->text->str + n) - 1)->ps : 0;
}

unsigned wadi_peer_bytes(const wad_part *part, uint64_t from_ps, uint64_t to_ps)
{
    const peer *p = part->shell;
    guint n = 0;
    for (guint i = 0; i < p->heard->len; i++)
        n += byte_at(p, i)->ps >= from_ps && byte_at(p, i)->ps <= to_ps;
    return n;
}

unsigned wadi_peer_errors(const wad_part *part, uint64_t from_ps, uint64_t to_ps)
{
    const peer *p = part->shell;
    unsigned n = 0;
    for (guint i = 0; i < p->heard->len; i++)
        n += byte_at(p, i)->ps >= from_ps && byte_at(p, i)->ps <= to_ps &&
             (byte_at(p, i)->framing || byte_at(p, i)->parity);
    return n;
}

char *wadi_peer_tail(const wad_part *part)
{
    const peer *p = part->shell;
    gsize from = p->text->len > 40 ? p->text->len - 40 : 0;
    char *text = g_strescape(p->text->str + from, NULL);
    char *shown = g_strdup_printf("%s%s", from ? "..." : "", text);
    g_free(text);
    return shown;
}
