/* SPDX-License-Identifier: MIT */
#include <stdarg.h>
#include <wadium/verify.h>

#include WAD_CHIP
#include <wadium/timebase.h>

/* ---- lines ---- */

static void put(char c, void *context)
{
    wad_verify *v = context;
    v->sum = (uint8_t)(v->sum + (uint8_t)c);
    v->put(c, v->context);
}

static void begin_line(wad_verify *v, bool holds, const char *what)
{
    v->done++;
    v->failed += !holds;
    v->sum = 0;
    wad_print(put, v, "%sok %u - %s", holds ? "" : "not ", v->done, what);
}

static void end_line(wad_verify *v)
{
    uint8_t sum = v->sum;
    wad_print(v->put, v->context, " #%02x\r\n", (unsigned)sum);
}

static void comment(wad_verify *v, const char *format, ...)
{
    va_list args;
    v->sum = 0;
    wad_print(put, v, "# ");
    va_start(args, format);
    wad_vprint(put, v, format, args);
    va_end(args);
    end_line(v);
}

static bool tell(wad_verify *v, const char *what, bool holds)
{
    begin_line(v, holds, what);
    end_line(v);
    return holds;
}

/* ---- the stream ---- */

void wad_verify_begin(wad_verify *v, wad_put_fn put_fn, void *context, const char *board)
{
    *v = (wad_verify){.put = put_fn, .context = context};
    wad_print(v->put, v->context, "\r\nTAP version 13\r\n");
    comment(v, "wadium checks of %s", board);
}

void wad_verify_note(wad_verify *v, const char *text)
{
    comment(v, "%s", text);
}

bool wad_verify_end(wad_verify *v)
{
    v->sum = 0;
    wad_print(put, v, "1..%u", v->done);
    end_line(v);
    return !v->failed;
}

/* ---- checks ---- */

bool wad_verify_that(wad_verify *v, const char *what, bool holds)
{
    return tell(v, what, holds);
}

bool wad_verify_status(wad_verify *v, const char *what, wad_status status)
{
    if (!tell(v, what, status == WAD_OK))
        comment(v, "%s: %s", what, wad_status_text(status));
    return status == WAD_OK;
}

bool wad_verify_equal(wad_verify *v, const char *what, uint32_t is, uint32_t wanted)
{
    if (!tell(v, what, is == wanted))
        comment(v, "%s: is 0x%x, wanted 0x%x", what, (unsigned)is, (unsigned)wanted);
    return is == wanted;
}

static uint32_t distance(int32_t a, int32_t b)
{
    return a > b ? (uint32_t)a - (uint32_t)b : (uint32_t)b - (uint32_t)a;
}

bool wad_verify_near(wad_verify *v, const char *what, int32_t is, int32_t wanted,
                     uint32_t tolerance)
{
    bool holds = distance(is, wanted) <= tolerance;
    tell(v, what, holds);
    comment(v, "%s: is %d, wanted %d within %u", what, (int)is, (int)wanted, (unsigned)tolerance);
    return holds;
}

bool wad_verify_range(wad_verify *v, const char *what, int32_t is, int32_t low, int32_t high)
{
    bool holds = is >= low && is <= high;
    tell(v, what, holds);
    comment(v, "%s: is %d, wanted %d to %d", what, (int)is, (int)low, (int)high);
    return holds;
}

bool wad_verify_before(wad_verify *v, const char *what, const volatile bool *flag,
                       const wad_timebase *time, uint32_t us)
{
    wad_deadline end = wad_deadline_us(time, us);
    while (!*flag && !wad_deadline_passed(time, &end)) {
    }
    bool holds = *flag;
    if (!tell(v, what, holds))
        comment(v, "%s: not within %u us", what, (unsigned)us);
    return holds;
}

void wad_verify_saw(wad_verify_events *events, uint8_t event)
{
    size_t n = events->n;
    if (n < events->room)
        events->seen[n] = event;
    events->n = n + 1;
}

bool wad_verify_order(wad_verify *v, const char *what, const wad_verify_events *events,
                      const uint8_t *wanted, size_t n)
{
    size_t at = 0;
    while (at < n && at < events->n && at < events->room && events->seen[at] == wanted[at])
        at++;
    bool holds = at == n && events->n == n;
    if (!tell(v, what, holds))
        comment(v, "%s: %u events, wanted %u; they differ from number %u on", what,
                (unsigned)events->n, (unsigned)n, (unsigned)at + 1u);
    return holds;
}

void wad_verify_skip(wad_verify *v, const char *what, const char *why)
{
    begin_line(v, true, what);
    wad_print(put, v, " # SKIP %s", why);
    end_line(v);
}
