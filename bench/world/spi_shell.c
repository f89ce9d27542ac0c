/* SPDX-License-Identifier: MIT */
#include "spi_shell.h"

#include "wadium/host/spi.h"

typedef struct shell {
    bool selected, clock_level, mosi_level;
    unsigned mode, bits; /* as they are now */
    bool lsb_first;
    unsigned edge, index; /* changes of the clock in this frame; frames of this select */
    uint32_t in, out;
    unsigned frames, selects;
} shell;

static const wadi_spi_form *form_of(const wad_part *p)
{
    return p->said->form;
}

static const wad_part_spi *class_of(const wad_part *p)
{
    return p->said->cls->spi;
}

/* ---- edges to frames ---- */

static bool phase(const shell *d)
{
    return d->mode & 1;
}

static unsigned place(const shell *d, unsigned i)
{
    return d->lsb_first ? i : d->bits - 1 - i;
}

static void show(wad_part *p, unsigned i)
{
    const shell *d = p->shell;
    wad_part_drive(p, WADI_SPI_MISO, d->out >> place(d, i) & 1 ? WAD_HIGH : WAD_LOW);
}

static void begin_frame(wad_part *p)
{
    shell *d = p->shell;
    d->edge = 0;
    d->in = 0;
    d->out = class_of(p)->next(p, d->index);
}

/* One that does as the chip does looks how it is set, at each select. */
static void follow_chip(wad_part *p)
{
    shell *d = p->shell;
    wad_spi_port port;
    if (!form_of(p)->as_chip || !wad_sim_spi_at(p->sim, p->said->pins[WADI_SPI_SCK], &port))
        return;
    d->mode = port.format.mode;
    d->bits = port.format.bits;
    d->lsb_first = port.format.lsb_first;
}

static void select_begins(wad_part *p)
{
    shell *d = p->shell;
    follow_chip(p);
    d->selected = true;
    d->selects++;
    d->index = 0;
    if (class_of(p)->selected)
        class_of(p)->selected(p);
    begin_frame(p);
    if (!phase(d))
        show(p, 0);
}

static void select_ends(wad_part *p)
{
    shell *d = p->shell;
    d->selected = false;
    wad_part_drive(p, WADI_SPI_MISO, WAD_FLOATING);
    if (class_of(p)->deselected)
        class_of(p)->deselected(p, d->index, (d->edge + !phase(d)) / 2);
}

static void on_select(wad_part *p, wad_level level)
{
    const shell *d = p->shell;
    bool selected = level == (form_of(p)->select_high ? WAD_HIGH : WAD_LOW);
    if (selected && !d->selected)
        select_begins(p);
    else if (!selected && d->selected)
        select_ends(p);
}

static void on_clock(wad_part *p, wad_level level)
{
    shell *d = p->shell;
    bool high = level == WAD_HIGH, changed = high != d->clock_level;
    d->clock_level = high;
    /* a frame begins with a change away from rest */
    if (!changed || !d->selected || (d->edge == 0 && high == d->mode >> 1))
        return;
    unsigned k = d->edge++, i = k / 2;
    if ((k & 1) == phase(d))
        d->in |= (uint32_t)d->mosi_level << place(d, i);
    else if (phase(d) || i + 1 < d->bits)
        show(p, phase(d) ? i : i + 1);
    if (d->edge < 2 * d->bits)
        return;
    d->frames++;
    uint32_t frame = d->in;
    if (class_of(p)->came)
        class_of(p)->came(p, d->index, frame);
    d->index++;
    begin_frame(p);
    if (!phase(d))
        show(p, 0);
}

static void on_edge(wad_part *p, unsigned wire, uint64_t ps, wad_level level)
{
    (void)ps;
    if (wire == WADI_SPI_SCK)
        on_clock(p, level);
    else if (wire == WADI_SPI_MOSI)
        ((shell *)p->shell)->mosi_level = level == WAD_HIGH;
    else if (wire == WADI_SPI_CS)
        on_select(p, level);
}

/* ---- life ---- */

static void begin(wad_part *p)
{
    const wadi_spi_form *form = form_of(p);
    shell *d = p->shell;
    d->mode = form->mode;
    d->bits = form->bits;
    d->lsb_first = form->lsb_first;
    d->clock_level = form->mode >> 1;
    const wad_spi_part part = {.name = p->said->name,
                               .select = p->said->pins[WADI_SPI_CS],
                               .clock = p->said->pins[WADI_SPI_SCK],
                               .select_high = form->select_high,
                               .modes = form->as_chip ? 0 : 1u << form->mode,
                               .bits = form->as_chip ? 0 : form->bits,
                               .any_order = form->as_chip,
                               .lsb_first = form->lsb_first,
                               .limit_hz = form->limit_hz};
    wad_sim_spi_part(p->sim, &part);
}

/* Whatever it was told is gone. */
static void power_fails(wad_part *p)
{
    ((shell *)p->shell)->selected = false;
    wad_part_drive(p, WADI_SPI_MISO, WAD_FLOATING);
}

const wadi_shell wadi_spi_shell = {.cuts = 1u << WADI_SPI_CS | 1u << WADI_SPI_SCK |
                                           1u << WADI_SPI_MOSI | 1u << WADI_SPI_MISO,
                                   .name_wires = "name the wire: MISO, MOSI, SCK or CS",
                                   .state_size = sizeof(shell),
                                   .begin = begin,
                                   .edge = on_edge,
                                   .power_fails = power_fails};

unsigned wadi_spi_frames(const wad_part *p)
{
    return ((const shell *)p->shell)->frames;
}

unsigned wadi_spi_selects(const wad_part *p)
{
    return ((const shell *)p->shell)->selects;
}
