/* SPDX-License-Identifier: MIT */
/* The whole terminal as a look at a run, through ncurses. */
#include <curses.h>
#include <langinfo.h>
#include <locale.h>
#include <string.h>

#include "cli/shared/apart.h"
#include "cli/shared/bridge.h"
#include "watch.h"

#define POLL_MS 50
#define ROOM    200 /* of a command */

struct cli_screen {
    double pace;
    bool paused, help, typing, ended, leaves;
    char block[40];    /* whose registers are shown */
    unsigned scroll;   /* of the registers */
    unsigned top;      /* of the variables */
    unsigned input;    /* chosen */
    char typed[ROOM];  /* behind the colon */
    char message[160]; /* what was wrong with it */
    gint64 drawn_us;
};

enum { TITLE = 1, HEAD, CHANGED, BAD };

/* ---- drawing ---- */

/* A place on the screen: text beyond its right edge is cut. */
typedef struct spot {
    int y, x, width;
} spot;

static void put(spot *at, int attributes, const char *text, size_t bytes)
{
    attron(attributes);
    while (bytes && *text && at->width > 0) {
        size_t one = (size_t)(g_utf8_next_char(text) - text);
        mvaddnstr(at->y, at->x, text, (int)one);
        at->x++;
        at->width--;
        text += one;
        bytes -= MIN(one, bytes);
    }
    attroff(attributes);
}

static void put_text(spot *at, int attributes, const char *text)
{
    put(at, attributes, text, strlen(text));
}

static void put_format(spot *at, int attributes, const char *format, ...)
    __attribute__((format(printf, 3, 4)));
static void put_format(spot *at, int attributes, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    put_text(at, attributes, text);
    g_free(text);
}

/* "PINS  the last 2 s" with a line behind it. */
static void put_head(int y, int x, int width, const char *title, const char *more)
{
    spot at = {y, x, width};
    put_text(&at, A_BOLD | COLOR_PAIR(HEAD), title);
    put_text(&at, 0, "  ");
    put_text(&at, A_DIM, more);
    put_text(&at, 0, " ");
    while (at.width > 0)
        put_text(&at, A_DIM, "─");
}

static void put_row(spot *at, const wad_live_row *row, int plain)
{
    unsigned from = 0;
    for (unsigned i = 0; i < row->n_marks; i++) {
        put(at, plain, row->text + from, row->marks[i].from - from);
        put(at, COLOR_PAIR(CHANGED), row->text + row->marks[i].from, row->marks[i].length);
        from = row->marks[i].from + row->marks[i].length;
    }
    put_text(at, plain, row->text + from);
}

static int name_width(const wad_live_row *rows, unsigned n, int most)
{
    int width = 6;
    for (unsigned i = 0; i < n; i++)
        width = MAX(width, (int)strlen(rows[i].name));
    return MIN(width, most);
}

/* Rows of names and texts; the number that was drawn. */
static unsigned put_rows(wad_live *live, wad_live_panel panel, spot area, unsigned first,
                         unsigned room)
{
    unsigned n, k = 0;
    const wad_live_row *rows = wad_live_rows(live, panel, &n);
    int names = name_width(rows, n, area.width / 3);
    for (unsigned i = first; i < n && k < room; i++, k++) {
        spot at = {area.y + (int)k, area.x, names};
        put_text(&at, 0, rows[i].name);
        at = (spot){area.y + (int)k, area.x + names + 2, area.width - names - 2};
        put_row(&at, &rows[i], 0);
    }
    return k;
}

/* ---- panels ---- */

static void draw_pins(wad_live *live, spot area, unsigned room)
{
    unsigned n;
    const wad_live_row *rows = wad_live_rows(live, WAD_LIVE_PINS, &n);
    int names = name_width(rows, n, area.width / 3), states = 9;
    int columns = area.width - names - states - 4;
    for (unsigned i = 0; i < n && i < room; i++) {
        char *trace = wad_live_trace(live, i, columns > 0 ? (unsigned)columns : 0);
        spot at = {area.y + (int)i, area.x, names};
        put_text(&at, 0, rows[i].name);
        at = (spot){area.y + (int)i, area.x + names + 2, columns};
        put_text(&at, COLOR_PAIR(HEAD), trace);
        at = (spot){area.y + (int)i, area.x + area.width - states, states};
        put_row(&at, &rows[i], 0);
        g_free(trace);
    }
}

/* A buffer has its picture on a line of its own. */
static void draw_variables(cli_screen *s, wad_live *live, spot area, unsigned room)
{
    unsigned n, used = 0;
    const wad_live_row *rows = wad_live_rows(live, WAD_LIVE_VARIABLES, &n);
    int names = name_width(rows, n, area.width / 3);
    if (s->top >= n)
        s->top = n ? n - 1 : 0;
    for (unsigned i = s->top; i < n && used < room; i++, used++) {
        char *bars = wad_live_bars(live, i, (unsigned)MAX(area.width - names - 2, 0));
        spot at = {area.y + (int)used, area.x, names};
        put_text(&at, 0, rows[i].name);
        at = (spot){area.y + (int)used, area.x + names + 2, area.width - names - 2};
        put_row(&at, &rows[i], 0);
        if (bars && used + 1 < room) {
            at = (spot){area.y + (int)++used, area.x + names + 2, area.width - names - 2};
            put_text(&at, COLOR_PAIR(HEAD), bars);
        }
        g_free(bars);
    }
}

/* The groups there are, the shown one marked, those with changes bold; false: there are none. */
static bool draw_blocks(cli_screen *s, wad_live *live, spot at)
{
    unsigned n;
    const wad_live_row *rows = wad_live_rows(live, WAD_LIVE_REGISTERS, &n);
    const char *last = "";
    if (n && !*s->block)
        g_strlcpy(s->block, rows[0].group, sizeof s->block);
    for (unsigned i = 0; i < n; i++) {
        if (!strcmp(rows[i].group, last))
            continue;
        last = rows[i].group;
        bool changed = false;
        for (unsigned k = i; k < n && !strcmp(rows[k].group, last); k++)
            changed = changed || rows[k].changed;
        bool chosen = !strcmp(last, s->block);
        put_text(&at, chosen ? A_REVERSE : changed ? COLOR_PAIR(CHANGED) : 0, last);
        put_text(&at, 0, " ");
    }
    return n > 0;
}

/* Those of the shown block; while there is room, of further ones what is not as after reset. */
static void draw_registers(cli_screen *s, wad_live *live, spot area, unsigned room)
{
    unsigned n, i = 0, used = 0, skipped = 0;
    const char *last = "";
    const wad_live_row *rows = wad_live_rows(live, WAD_LIVE_REGISTERS, &n);
    while (i < n && strcmp(rows[i].group, s->block))
        i++;
    for (; i < n && used < room; i++) {
        if ((rows[i].quiet && !rows[i].changed && strcmp(rows[i].group, s->block)) ||
            skipped++ < s->scroll)
            continue;
        int plain = rows[i].quiet && !rows[i].changed ? A_DIM : 0;
        bool first = strcmp(rows[i].group, last) != 0;
        last = rows[i].group;
        spot at = {area.y + (int)used, area.x, 7};
        if (first)
            put_text(&at, A_BOLD, rows[i].group);
        at = (spot){area.y + (int)used, area.x + 8, 11};
        put_text(&at, plain, rows[i].name);
        at = (spot){area.y + (int)used, area.x + 20, area.width - 20};
        put_row(&at, &rows[i], plain);
        used++;
    }
    if (!used && s->scroll)
        s->scroll--;
}

static void draw_inputs(const cli_screen *s, wad_live *live, spot area, unsigned room)
{
    unsigned n;
    const wad_live_row *rows = wad_live_rows(live, WAD_LIVE_INPUTS, &n);
    for (unsigned i = 0; i < n && i < room; i++) {
        spot at = {area.y + (int)i, area.x, area.width};
        put_format(&at, i == s->input ? A_REVERSE : 0, " %u %-10s", i + 1, rows[i].name);
        put_text(&at, 0, "  ");
        put_row(&at, &rows[i], 0);
    }
}

/* The last ones. */
static void draw_findings(wad_live *live, spot area, unsigned room)
{
    unsigned n;
    const wad_live_row *rows = wad_live_rows(live, WAD_LIVE_FINDINGS, &n);
    if (!n) {
        put_text(&area, A_DIM, "none so far");
        return;
    }
    for (unsigned i = n > room ? n - room : 0; i < n; i++, area.y++) {
        spot at = area;
        put_format(&at, COLOR_PAIR(BAD), "%s  ", rows[i].name);
        put_row(&at, &rows[i], 0);
    }
}

/* ---- the whole ---- */

static void draw_title(const cli_screen *s, const wad_live_state *now)
{
    spot at = {0, 0, COLS};
    char *current = now->amperes < 0 ? g_strdup("") : wad_amount_text(now->amperes, "A");
    put_format(&at, COLOR_PAIR(TITLE) | A_BOLD, " %s ", now->setting);
    put_format(&at, COLOR_PAIR(TITLE), " %s", now->title);
    while (at.width > 0)
        put_text(&at, COLOR_PAIR(TITLE), " ");
    char *text = g_strdup_printf("  %.6f s  %s  awake %.3g %%%s%s ", (double)now->ps / 1e12,
                                 now->asleep ? "asleep" : "awake ", 100 * now->awake,
                                 *current ? "  " : "", current);
    int width = (int)strlen(text);
    at = (spot){0, MAX(COLS - width, 0), width};
    put_text(&at, COLOR_PAIR(TITLE) | A_BOLD, text);
    at = (spot){1, 1, COLS - 1};
    if (s->ended)
        put_text(&at, A_BOLD, "OVER: q shows the report");
    else if (!s->paused)
        put_format(&at, A_DIM, "running, %g of the chip's seconds in a real one", s->pace);
    else
        put_text(&at, A_BOLD, "HELD");
    if (*now->what)
        put_format(&at, 0, "  the firmware %s", now->what);
    if (now->place.file) {
        char *file = g_path_get_basename(now->place.file);
        put_format(&at, A_BOLD, "  %s:%u", file, now->place.line);
        g_free(file);
    }
    g_free(text);
    g_free(current);
}

static const char *const help[] = {
    "space        hold time, and let it go",
    "a  b         on to the next register access; in the shown block",
    "i            on to the next interrupt",
    "left right   another block's registers; up down, page keys: further rows",
    "v  V         further variables",
    "1 to 9       choose an input; a button is pressed, or let go",
    "+  -         the chosen level 50 mV up or down",
    ":            a command: go 100 ms, step access UART0.DATA, analog PRESSURE level 1.2 V",
    "q            end the run and show the report",
};

static void draw_help(void)
{
    int width = 86, x = MAX((COLS - width) / 2, 0), y = 4;
    for (unsigned i = 0; i < G_N_ELEMENTS(help) + 2; i++) {
        bool edge = i == 0 || i > G_N_ELEMENTS(help);
        spot at = {y + (int)i, x, width};
        put_text(&at, COLOR_PAIR(TITLE), "  ");
        put_text(&at, COLOR_PAIR(TITLE), edge ? "" : help[i - 1]);
        while (at.width > 0)
            put_text(&at, COLOR_PAIR(TITLE), " ");
    }
}

static void draw_foot(const cli_screen *s)
{
    spot at = {LINES - 1, 0, COLS};
    if (s->typing) {
        put_format(&at, A_BOLD, ":%s", s->typed);
        put_text(&at, A_REVERSE, " ");
        return;
    }
    if (*s->message) {
        put_text(&at, COLOR_PAIR(BAD), s->message);
        return;
    }
    put_text(&at, A_DIM,
             " space hold/go   a access   i interrupt   arrows registers   1-9 + - inputs   "
             ": command   ? help   q end");
}

static unsigned count(wad_live *live, wad_live_panel panel)
{
    unsigned n;
    wad_live_rows(live, panel, &n);
    return n;
}

/* Left: pins, variables, interrupts. Right: registers, inputs. Below: findings. */
static void draw(cli_screen *s, wad_live *live)
{
    wad_live_state now = wad_live_now(live);
    int left = COLS * 52 / 100, right = COLS - left - 2, foot = LINES - 1;
    unsigned findings = CLAMP(count(live, WAD_LIVE_FINDINGS), 1u, 3u);
    int low = foot - (int)findings - 1, height = low - 2;
    unsigned pins = MIN(count(live, WAD_LIVE_PINS), (unsigned)MAX(height / 3, 1));
    unsigned irqs = MIN(count(live, WAD_LIVE_INTERRUPTS), (unsigned)MAX(height / 5, 1));
    unsigned inputs = MIN(count(live, WAD_LIVE_INPUTS), 9u);
    int middle = 3 + (int)pins, bottom = low - (int)irqs - 2, inputs_at = low - (int)inputs - 2;
    char *window = wad_amount_text((double)now.window_ps / 1e12, "s"),
         *past = g_strdup_printf("the last %s", window);
    erase();
    draw_title(s, &now);
    put_head(2, 0, left, "PINS", past);
    draw_pins(live, (spot){3, 0, left}, pins);
    put_head(middle, 0, left, "VARIABLES", "");
    draw_variables(s, live, (spot){middle + 1, 0, left}, (unsigned)MAX(bottom - middle - 2, 0));
    put_head(bottom, 0, left, "INTERRUPTS", "");
    put_rows(live, WAD_LIVE_INTERRUPTS, (spot){bottom + 1, 0, left}, 0, irqs);
    put_head(2, left + 2, right, "REGISTERS", "the chosen block and those behind it");
    if (draw_blocks(s, live, (spot){3, left + 2, right}))
        draw_registers(s, live, (spot){4, left + 2, right}, (unsigned)MAX(inputs_at - 5, 0));
    put_head(inputs_at, left + 2, right, "INPUTS", "");
    draw_inputs(s, live, (spot){inputs_at + 1, left + 2, right}, inputs);
    put_head(low - 1, 0, COLS, "FINDINGS", "");
    draw_findings(live, (spot){low, 0, COLS}, findings);
    draw_foot(s);
    if (s->help)
        draw_help();
    refresh();
    g_free(past);
    g_free(window);
}

/* ---- keys ---- */

static void say(cli_screen *s, wad_live *live, const char *command)
{
    wad_diags *diags = wad_diags_new();
    *s->message = 0;
    if (!wad_live_say(live, command, diags) && wad_diags_count(diags))
        g_strlcpy(s->message, wad_diags_at(diags, 0)->text, sizeof s->message);
    else if (s->paused && !wad_live_goes(live))
        g_strlcpy(s->message, "so it will be when time goes on", sizeof s->message);
    wad_diags_free(diags);
}

static void say_format(cli_screen *s, wad_live *live, const char *format, const char *name)
{
    char *text = g_strdup_printf(format, name);
    say(s, live, text);
    g_free(text);
}

/* The block before or behind the shown one. */
static void turn_block(cli_screen *s, wad_live *live, int by)
{
    unsigned n;
    const wad_live_row *rows = wad_live_rows(live, WAD_LIVE_REGISTERS, &n);
    GPtrArray *groups = g_ptr_array_new();
    int at = 0;
    for (unsigned i = 0; i < n; i++) {
        if (groups->len && !strcmp(rows[i].group, groups->pdata[groups->len - 1]))
            continue;
        if (!strcmp(rows[i].group, s->block))
            at = (int)groups->len;
        g_ptr_array_add(groups, (gpointer)rows[i].group);
    }
    if (groups->len) {
        at = (at + by + (int)groups->len) % (int)groups->len;
        g_strlcpy(s->block, groups->pdata[at], sizeof s->block);
        s->scroll = 0;
    }
    g_ptr_array_free(groups, TRUE);
}

/* A number chooses; a button is turned at once, as is a chosen level by + and -. */
static void on_input(cli_screen *s, wad_live *live, int key)
{
    unsigned n;
    const wad_live_row *rows = wad_live_rows(live, WAD_LIVE_INPUTS, &n);
    unsigned i = g_ascii_isdigit(key) ? (unsigned)(key - '1') : s->input;
    if (i >= n)
        return;
    bool button = !strcmp(rows[i].text, "pressed") || !strcmp(rows[i].text, "released");
    if (g_ascii_isdigit(key)) {
        s->input = i;
        if (button)
            say_format(s, live, "toggle %s", rows[i].name);
    } else if (!button) {
        say_format(s, live, key == '-' ? "lower %s 50 mV" : "raise %s 50 mV", rows[i].name);
    }
}

static void on_typed(cli_screen *s, wad_live *live, int key)
{
    size_t n = strlen(s->typed);
    if (key == 27) {
        s->typing = false;
    } else if (key == '\n' || key == '\r' || key == KEY_ENTER) {
        s->typing = false;
        if (*s->typed)
            say(s, live, s->typed);
    } else if (key == KEY_BACKSPACE || key == 127 || key == 8) {
        if (n)
            s->typed[n - 1] = 0;
    } else if (key >= 32 && key < 127 && n + 1 < ROOM) {
        s->typed[n] = (char)key;
        s->typed[n + 1] = 0;
    }
}

static void on_key(cli_screen *s, wad_live *live, int key)
{
    if (s->typing) {
        on_typed(s, live, key);
        return;
    }
    *s->message = 0;
    if (s->help) {
        s->help = false;
        return;
    }
    switch (key) {
    case ' ':
        if (s->paused)
            say(s, live, "go");
        s->paused = !s->paused;
        break;
    case 'a':
        say(s, live, "step access");
        break;
    case 'b':
        say_format(s, live, "step access %s", s->block);
        break;
    case 'i':
        say(s, live, "step interrupt");
        break;
    case KEY_LEFT:
    case KEY_RIGHT:
        turn_block(s, live, key == KEY_LEFT ? -1 : 1);
        break;
    case KEY_UP:
    case KEY_DOWN:
    case KEY_PPAGE:
    case KEY_NPAGE:
        s->scroll += key == KEY_DOWN ? 1 : key == KEY_NPAGE ? 10 : 0;
        s->scroll -= MIN(s->scroll, key == KEY_UP ? 1u : key == KEY_PPAGE ? 10u : 0u);
        break;
    case 'v':
    case 'V':
        s->top = key == 'v' ? s->top + 1 : s->top - MIN(s->top, 1u);
        break;
    case '+':
    case '-':
        on_input(s, live, key);
        break;
    case ':':
        s->typing = true;
        *s->typed = 0;
        break;
    case '?':
        s->help = true;
        break;
    case 'q':
        s->leaves = true;
        wad_live_stop(live);
        break;
    default:
        if (key >= '1' && key <= '9')
            on_input(s, live, key);
    }
}

/* Held: until a key lets time go. Running: while real time has to catch up. */
void cli_screen_look(void *screen, wad_live *live, wad_live_reason reason)
{
    cli_screen *s = screen;
    s->paused = s->paused || reason == WAD_LIVE_STEP;
    s->ended = reason == WAD_LIVE_END;
    gint64 now = g_get_monotonic_time();
    if (s->leaves || (reason == WAD_LIVE_TICK && now - s->drawn_us < 30000))
        return;
    s->drawn_us = now;
    bool held = s->paused || s->ended, quit = false;
    do {
        uint64_t ahead = wad_live_ahead_us(live);
        draw(s, live);
        timeout(held ? POLL_MS : (int)MIN(ahead / 1000, POLL_MS));
        int key = getch();
        quit = (s->ended && key == 'q' && !s->typing) || cli_interrupted();
        if (key != ERR && !quit && !(s->ended && strchr("ab i+-:123456789", key)))
            on_key(s, live, key);
        if (!s->ended && wad_live_goes(live))
            s->paused = false;
        held = s->paused || s->ended;
    } while (!quit && (s->ended || !wad_live_goes(live)) &&
             (held || wad_live_ahead_us(live) > 1000));
    if (quit && !s->ended)
        wad_live_stop(live);
}

/* ---- life ---- */

cli_screen *cli_screen_open(double pace)
{
    /* names and numbers stay as they are; only characters follow the user's locale */
    setlocale(LC_CTYPE, "");
    if (strcmp(nl_langinfo(CODESET), "UTF-8"))
        setlocale(LC_CTYPE, "C.UTF-8");
    SCREEN *terminal = newterm(NULL, stdout, stdin);
    if (!terminal) {
        const char *name = g_getenv("TERM");
        cli_error("the terminal '%s' is not known here: say --text for lines", name ? name : "");
        return NULL;
    }
    cli_screen *s = g_new0(cli_screen, 1);
    s->pace = pace < 0 ? 1 : pace;
    cli_apart_screen(true);
    cbreak();
    noecho();
    keypad(stdscr, TRUE);
    curs_set(0);
    set_escdelay(25);
    start_color();
    use_default_colors();
    init_pair(TITLE, COLOR_WHITE, COLOR_BLUE);
    init_pair(HEAD, COLOR_BLUE, -1);
    init_pair(CHANGED, COLOR_BLACK, COLOR_YELLOW);
    init_pair(BAD, COLOR_RED, -1);
    return s;
}

void cli_screen_close(cli_screen *s)
{
    if (!s)
        return;
    endwin();
    cli_apart_screen(false);
    g_free(s);
}
