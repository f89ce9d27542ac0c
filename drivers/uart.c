/* SPDX-License-Identifier: MIT */
/* Serial ports, compiled for each form that the chip has, and what is of no form. */
#define WADI_UART_BODIES
#include WAD_CHIP

#ifdef WADI_UART_FORMS

/* ---- a unit that only the run knows ---- */

#define ANY(type, name, unit, params, ...)                                                         \
    type name##_any params                                                                         \
    {                                                                                              \
        return WADI_OF_FORM(WADI_UART_MORE, (unit)->form, name, __VA_ARGS__);                      \
    }

ANY(wad_status, wadi_uart_open, u->unit, (const wad_uart *u), u)
ANY(wad_status, wadi_uart_set_baud, u->unit, (const wad_uart *u, uint32_t baud, uint32_t us), u,
    baud, us)
ANY(wad_status, wadi_uart_drain, u->unit, (const wad_uart *u, uint32_t us), u, us)
ANY(bool, wadi_uart_give, u->unit, (const wad_uart *u, uint32_t word), u, word)
ANY(int, wadi_uart_take, u->unit, (const wad_uart *u), u)
ANY(size_t, wadi_uart_write, u->unit, (const wad_uart *u, const void *data, size_t n, uint32_t us),
    u, data, n, us)
ANY(size_t, wadi_uart_read, u->unit,
    (const wad_uart *u, void *data, size_t n, int end, uint32_t gap, uint32_t us), u, data, n, end,
    gap, us)
ANY(size_t, wadi_uart_write_words, u->unit,
    (const wad_uart *u, const uint16_t *words, size_t n, uint32_t us), u, words, n, us)
ANY(size_t, wadi_uart_read_words, u->unit,
    (const wad_uart *u, uint16_t *words, size_t n, uint32_t us), u, words, n, us)
ANY(wad_status, wadi_uart_send_by, u->unit, (const wad_uart *u, const void *data, size_t n), u,
    data, n)
ANY(wad_status, wadi_uart_receive, u->unit,
    (const wad_uart *u, void *data, size_t n, wadi_uart_end by, wad_uart_done done, void *context),
    u, data, n, by, done, context)

void wadi_uart_leave_any(const wad_uart *u)
{
    WADI_OF_FORM(WADI_UART_MORE, u->unit->form, wadi_uart_leave, u);
}

void wadi_uart_close_any(const wad_uart *u)
{
    WADI_OF_FORM(WADI_UART_MORE, u->unit->form, wadi_uart_close, u);
}

void wadi_uart_abort_any(const wad_uart *u)
{
    WADI_OF_FORM(WADI_UART_MORE, u->unit->form, wadi_uart_abort, u);
}

void wadi_uart_handle_any(const wad_uart *u)
{
    WADI_OF_FORM(WADI_UART_MORE, u->unit->form, wadi_uart_handle, u);
}

/* ---- of no form ---- */

/* The caller's `done` may begin the next one: this one is no more when it is called. */
void wadi_uart_finish(wad_uart_transfer *t, wad_status st)
{
    wad_uart_done done = t->done;
    size_t at = t->at;
    t->data = 0;
    if (done)
        done(st, at, t->context);
}

#endif
