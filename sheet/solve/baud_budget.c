/* SPDX-License-Identifier: MIT */
/*
 * How far two ends of an asynchronous line may differ.
 *
 * The receiver finds the start edge with its next sample, so up to one sample late, and then looks
 * at the middle of each bit by its own clock; nothing sets it right before the next start edge. The
 * last bit looked at is the first stop bit: with n bits before it, its middle is taken at
 *
 *     (n + 1/2 + d) * own bit time / sender's bit time - n        0 <= d <= 1 / samples
 *
 * of that bit as the sender sends it, which must stay between 0 and 1. With a vote of three samples
 * two of them must agree, so that it is the middle one's place which decides.
 */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "wadium/host/rate.h"

unsigned wad_usual_baud(unsigned i)
{
    static const unsigned bauds[] = {300,   600,   1200,  2400,   4800,   9600,   14400,
                                     19200, 38400, 57600, 115200, 230400, 460800, 921600};
    return i < G_N_ELEMENTS(bauds) ? bauds[i] : 0;
}

bool wad_frame_parse(const char *text, wad_frame *frame)
{
    static const char parities[] = "NEOMS";
    char parity = (char)g_ascii_toupper(text[0] ? text[1] : 0);
    if (text[0] < '5' || text[0] > '9' || !parity || !strchr(parities, parity))
        return false;
    frame->data_bits = (unsigned)(text[0] - '0');
    frame->parity = parity != 'N';
    frame->half_stops = !strcmp(text + 2, "1")     ? 2
                        : !strcmp(text + 2, "1.5") ? 3
                        : !strcmp(text + 2, "2")   ? 4
                                                   : 0;
    return frame->half_stops != 0;
}

/* One way: the receiver's bit is longer than the sender's by a share between low and high. */
static wad_budget_way one_way(const wad_frame *f, double low, double high)
{
    double before = 1.0 + f->data_bits + f->parity, late = 1.0 / f->samples;
    wad_budget_way w = {.earliest = (before + 0.5) * (1 + low) - before,
                        .latest = (before + 0.5 + late) * (1 + high) - before};
    w.left = MIN(w.earliest, 1 - w.latest);
    return w;
}

void wad_budget_make(const wad_frame *f, const wad_budget_ends *ends, wad_budget *budget)
{
    double before = 1.0 + f->data_bits + f->parity, late = 1.0 / f->samples;
    /* rates of both ends against the wanted one, at their extremes */
    double own_slow = (1 + ends->own_ppm / 1e6) * (1 - ends->own_clock_ppm / 1e6),
           own_fast = (1 + ends->own_ppm / 1e6) * (1 + ends->own_clock_ppm / 1e6),
           peer_slow = 1 - ends->peer_ppm / 1e6, peer_fast = 1 + ends->peer_ppm / 1e6;
    budget->receiving = one_way(f, peer_slow / own_fast - 1, peer_fast / own_slow - 1);
    budget->sending = one_way(f, own_slow / peer_fast - 1, own_fast / peer_slow - 1);
    budget->least_ppm = -0.5 / (before + 0.5) * 1e6;
    budget->most_ppm = ((before + 1) / (before + 0.5 + late) - 1) * 1e6;
    budget->worst_ppm = MAX(fabs(own_fast / peer_slow - 1), fabs(own_slow / peer_fast - 1)) * 1e6;
    budget->bits = before + f->half_stops / 2.0;
    budget->sampled_at = before + 0.5;
    budget->good = budget->receiving.left > 0 && budget->sending.left > 0;
}

static void show_way(const char *name, const wad_budget_way *w, FILE *out)
{
    fprintf(out, "  %-10s  %5.1f %% to %5.1f %%   ", name, w->earliest * 100, w->latest * 100);
    if (w->left > 0)
        fprintf(out, "%.1f %% of a bit left\n", w->left * 100);
    else
        fprintf(out, "beyond the bit by %.1f %% of it\n", -w->left * 100);
}

void wad_show_budget(const wad_frame *f, const wad_budget_ends *ends, const wad_budget *b,
                     FILE *out)
{
    fprintf(out, "\nframe of %g bits, %u samples a bit; the stop bit is looked at %g bits in\n",
            b->bits, f->samples, b->sampled_at);
    fprintf(out, "  this end    divider %+.4g %%, clock +-%.4g %%\n", ends->own_ppm / 1e4,
            ends->own_clock_ppm / 1e4);
    fprintf(out, "  other end   +-%.4g %% in all\n", ends->peer_ppm / 1e4);
    fprintf(out, "  together    %.4g %% at worst; %.4g %% to %+.4g %% would do\n",
            b->worst_ppm / 1e4, b->least_ppm / 1e4, b->most_ppm / 1e4);
    fprintf(out, "where the stop bit is looked at, 0 %% its beginning and 100 %% its end:\n");
    show_way("receiving", &b->receiving, out);
    show_way("sending", &b->sending, out);
    fprintf(out, "%s\n",
            b->good ? "both ways work"
                    : "this does not work: a better divider, a better clock or a "
                      "shorter frame does");
}
