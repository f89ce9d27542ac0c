/* SPDX-License-Identifier: MIT */
/*
 * The tide float's wheel as a part of the bench's own: 200 quarters of a mark a metre, on two
 * tracks of which the one that leads says the way. It follows the tide at up to a metre a second.
 */
#include <wadium/host/part.h>

#define QUARTERS_A_METRE 200
#define QUARTER_PS       UINT64_C(5000000000) /* 5 ms */

enum { A, B };

typedef struct wheel {
    long position, wanted; /* in quarters */
} wheel;

/* A is high in the first two quarters of a mark, B in the second and the third. */
static void show(wad_part *p, long position)
{
    unsigned quarter = (unsigned)position & 3;
    wad_part_drive(p, A, quarter < 2 ? WAD_HIGH : WAD_LOW);
    wad_part_drive(p, B, quarter == 1 || quarter == 2 ? WAD_HIGH : WAD_LOW);
}

static bool begin(wad_part *p, char **why)
{
    wheel *w = wad_part_state(p);
    (void)why;
    w->position = w->wanted = -1; /* both low */
    return true;
}

static void wake(wad_part *p, uint64_t ps)
{
    wheel *w = wad_part_state(p);
    if (w->position == w->wanted)
        return;
    bool up = w->wanted > w->position;
    w->position += up ? 1 : -1;
    wad_part_count(p, up ? "ups" : "downs");
    show(p, w->position);
    wad_part_wake(p, ps + QUARTER_PS);
}

/* `tide FLOAT 3 at 100 ms`: from then on it goes to where it floats at so many metres. */
static void act(wad_part *p, unsigned number, const wad_part_value *metres)
{
    wheel *w = wad_part_state(p);
    (void)number;
    w->wanted = (long)(metres->number * QUARTERS_A_METRE) - 1;
    wad_part_wake(p, wad_part_now(p));
}

static const wad_part_act acts[] = {
    {"tide", WAD_ACT_NUMBER, WAD_UNIT_NONE, -2, 8, "the float moves from -2 to 8 metres"}, {0}};

static const wad_part_class float_wheel = {.kind = "wheel",
                                           .wires = ">A >B",
                                           .state_size = sizeof(wheel),
                                           .acts = acts,
                                           .counts = "ups downs",
                                           .begin = begin,
                                           .wake = wake,
                                           .act = act};
WAD_PART(float_wheel)
