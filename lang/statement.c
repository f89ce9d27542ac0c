/* SPDX-License-Identifier: MIT */
#include "statement.h"

#include <string.h>

#include "complain.h"
#include "rational.h"

#define MAX_DEPTH 32

typedef struct lexer {
    wadi_source *src;
    size_t pos;
    uint32_t line;
    size_t line_start;
    bool nl_before; /* a new line stood before the token just read */
    GArray *toks;   /* stacks that all open groups share: each uses what lies above its mark */
    GArray *stmts;
} lexer;

static wad_where here(const lexer *lx)
{
    return (wad_where){lx->src->name, lx->line, (uint32_t)(lx->pos - lx->line_start) + 1};
}

static int peek(const lexer *lx, size_t ahead)
{
    return lx->pos + ahead < lx->src->size ? (unsigned char)lx->src->text[lx->pos + ahead] : -1;
}

static void new_line(lexer *lx)
{
    lx->pos++;
    lx->line++;
    lx->line_start = lx->pos;
    lx->nl_before = true;
}

/* A backslash at its end joins a line with the next. */
static void join_line(lexer *lx)
{
    bool before = lx->nl_before;
    while (peek(lx, 0) != '\n')
        lx->pos++;
    new_line(lx);
    lx->nl_before = before;
}

static void skip_space(lexer *lx)
{
    for (;;) {
        int c = peek(lx, 0);
        if (c == '\n')
            new_line(lx);
        else if (c == '\\' && (peek(lx, 1) == '\n' || (peek(lx, 1) == '\r' && peek(lx, 2) == '\n')))
            join_line(lx);
        else if (c == ' ' || c == '\t' || c == '\r')
            lx->pos++;
        else if (c == '#')
            while (peek(lx, 0) != -1 && peek(lx, 0) != '\n')
                lx->pos++;
        else
            return;
    }
}

static bool name_char(int c)
{
    return g_ascii_isalnum(c) || c == '_';
}

static int digit_value(int c)
{
    return g_ascii_isxdigit(c) ? g_ascii_xdigit_value((char)c) : 99;
}

/* Digits of `base` with '_' between them; false on overflow. */
static bool read_digits(lexer *lx, int base, int64_t *value, int64_t *scale)
{
    bool fits = true;
    for (;; lx->pos++) {
        int c = peek(lx, 0);
        if (c == '_')
            continue;
        int d = c < 0 ? 99 : digit_value(c);
        if (d >= base)
            return fits;
        if (__builtin_mul_overflow(*value, base, value) ||
            __builtin_add_overflow(*value, d, value) ||
            (scale && __builtin_mul_overflow(*scale, base, scale)))
            fits = false;
    }
}

static void read_number(lexer *lx, wadi_tok *tok)
{
    int base = 10;
    int64_t value = 0, scale = 1;
    if (peek(lx, 0) == '0' && (peek(lx, 1) == 'x' || peek(lx, 1) == 'b')) {
        base = peek(lx, 1) == 'x' ? 16 : 2;
        lx->pos += 2;
    }
    bool fits = read_digits(lx, base, &value, NULL);
    if (base == 10 && peek(lx, 0) == '.' && g_ascii_isdigit(peek(lx, 1))) {
        lx->pos++;
        tok->decimal = true;
        fits = read_digits(lx, 10, &value, &scale) && fits;
    }
    tok->type = WADI_T_NUMBER;
    if (!fits || !wadi_rat_make(value, scale, &tok->number))
        wadi_error(lx->src, &tok->where, "number too large: at most 2**63 - 1");
    else if (name_char(peek(lx, 0)) && base != 10)
        wadi_error(lx->src, &tok->where, "'%c' is no digit of this number", peek(lx, 0));
    else
        return;
    tok->number = wadi_int(0);
}

/* After a backslash: one of the marks, or x and two hexadecimal digits (00 cannot be said: texts
 * end with it). -1: none, the backslash is itself. */
static int escaped(lexer *lx)
{
    static const char marks[] = "\"\\rnt", means[] = "\"\\\r\n\t";
    int c = peek(lx, 1);
    const char *mark = c > 0 ? strchr(marks, c) : NULL;
    if (mark) {
        lx->pos++;
        return means[mark - marks];
    }
    int high = peek(lx, 2), low = high > 0 ? peek(lx, 3) : -1;
    if (c != 'x' || high < 0 || low < 0 || !g_ascii_isxdigit(high) || !g_ascii_isxdigit(low))
        return -1;
    int value = g_ascii_xdigit_value((gchar)high) * 16 + g_ascii_xdigit_value((gchar)low);
    if (!value)
        return -1;
    lx->pos += 3;
    return value;
}

static void read_string(lexer *lx, wadi_tok *tok)
{
    GString *text = g_string_new(NULL);
    lx->pos++;
    while (peek(lx, 0) != '"') {
        int c = peek(lx, 0);
        if (c == -1 || c == '\n') {
            wadi_error(lx->src, &tok->where, "this text has no closing '\"' on its line");
            lx->pos--;
            break;
        }
        int special = c == '\\' ? escaped(lx) : -1;
        c = special >= 0 ? special : c;
        g_string_append_c(text, (char)c);
        lx->pos++;
    }
    lx->pos++;
    tok->type = WADI_T_STRING;
    tok->text = wadi_arena_strndup(lx->src->arena, text->str, text->len);
    g_string_free(text, TRUE);
}

static bool read_punct(lexer *lx, wadi_tok *tok)
{
    static const char *const marks[] = {"..", "**", "!=", "{", "}", "(", ")", "[",
                                        "]",  ",",  ":",  "=", "+", "-", "*", "/",
                                        ".",  "<",  ">",  "&", "|", "^", "~"};
    for (unsigned i = 0; i < G_N_ELEMENTS(marks); i++) {
        if (marks[i][0] != lx->src->text[lx->pos])
            continue;
        size_t n = strlen(marks[i]);
        if (lx->pos + n <= lx->src->size && !memcmp(lx->src->text + lx->pos, marks[i], n)) {
            tok->type = WADI_T_PUNCT;
            tok->text = marks[i];
            lx->pos += n;
            return true;
        }
    }
    return false;
}

/* False at the end of the text. */
static bool next_token(lexer *lx, wadi_tok *tok)
{
    for (;;) {
        size_t before = lx->pos;
        lx->nl_before = false;
        skip_space(lx);
        *tok = (wadi_tok){.where = here(lx), .glued = lx->pos == before};
        int c = peek(lx, 0);
        if (c == -1)
            return false;
        size_t start = lx->pos;
        if (g_ascii_isdigit(c)) {
            read_number(lx, tok);
        } else if (name_char(c) || c == '%') {
            do
                lx->pos++;
            while (c != '%' && peek(lx, 0) != -1 && name_char(peek(lx, 0)));
            tok->type = WADI_T_NAME;
            tok->text = wadi_arena_strndup(lx->src->arena, lx->src->text + start, lx->pos - start);
        } else if (c == '"') {
            read_string(lx, tok);
        } else if (!read_punct(lx, tok)) {
            if (c < 128 && g_ascii_isprint(c))
                wadi_error(lx->src, &tok->where, "'%c' has no meaning here", c);
            else
                wadi_error(lx->src, &tok->where, "byte 0x%02x has no meaning here", c);
            lx->pos++;
            continue;
        }
        return true;
    }
}

bool wadi_is_mark(const wadi_tok *tok, const char *text)
{
    return tok->type == WADI_T_PUNCT && !strcmp(tok->text, text);
}

/* After one of these a new line does not end the statement. */
static bool continues(const wadi_tok *tok)
{
    static const char *const marks[] = {"=",  "!=", "+", "-", "*", "/",
                                        "**", "..", ":", "&", "|", "^"};
    if (tok->type == WADI_T_NAME)
        return !strcmp(tok->text, "and") || !strcmp(tok->text, "or") || !strcmp(tok->text, "then");
    for (unsigned i = 0; i < G_N_ELEMENTS(marks); i++)
        if (wadi_is_mark(tok, marks[i]))
            return true;
    return false;
}

typedef struct builder {
    lexer *lx;
    guint tok_mark, stmt_mark;
    int parens;
} builder;

static guint pending(const builder *b)
{
    return b->lx->toks->len - b->tok_mark;
}

static const wadi_tok *last_tok(const builder *b)
{
    return &g_array_index(b->lx->toks, wadi_tok, b->lx->toks->len - 1);
}

static void end_stmt(builder *b)
{
    lexer *lx = b->lx;
    if (pending(b)) {
        wadi_tok last = {.type = WADI_T_END, .where = last_tok(b)->where};
        if (last_tok(b)->text && last_tok(b)->type != WADI_T_STRING)
            last.where.col += (uint32_t)strlen(last_tok(b)->text);
        g_array_append_val(lx->toks, last);
        guint n = pending(b);
        wadi_stmt stmt = {wadi_arena_copy(lx->src->arena,
                                          &g_array_index(lx->toks, wadi_tok, b->tok_mark), n,
                                          sizeof(wadi_tok)),
                          n - 1};
        g_array_append_val(lx->stmts, stmt);
        g_array_set_size(lx->toks, b->tok_mark);
    }
    b->parens = 0;
}

static wadi_group *read_group(lexer *lx, const wad_where *open, int depth);

static void count_parens(builder *b, const wadi_tok *tok)
{
    if (wadi_is_mark(tok, "(") || wadi_is_mark(tok, "["))
        b->parens++;
    else if ((wadi_is_mark(tok, ")") || wadi_is_mark(tok, "]")) && b->parens)
        b->parens--;
}

static bool starts_new_stmt(const builder *b, bool nl)
{
    return nl && pending(b) && !b->parens && !continues(last_tok(b));
}

static void read_statements(builder *b, const wad_where *open, int depth)
{
    wadi_tok tok;
    while (next_token(b->lx, &tok)) {
        if (starts_new_stmt(b, b->lx->nl_before) || (wadi_is_mark(&tok, ",") && !b->parens)) {
            end_stmt(b);
            if (wadi_is_mark(&tok, ","))
                continue;
        }
        if (wadi_is_mark(&tok, "}")) {
            end_stmt(b);
            if (open)
                return;
            wadi_error(b->lx->src, &tok.where, "this '}' closes nothing");
            continue;
        }
        if (wadi_is_mark(&tok, "{")) {
            tok.group = read_group(b->lx, &tok.where, depth + 1);
            tok.type = WADI_T_GROUP;
        }
        count_parens(b, &tok);
        g_array_append_val(b->lx->toks, tok);
    }
    end_stmt(b);
    if (open)
        wadi_error(b->lx->src, open, "this '{' is never closed");
}

static wadi_group *read_group(lexer *lx, const wad_where *open, int depth)
{
    wadi_group *group = WADI_NEW(lx->src->arena, wadi_group);
    if (open)
        group->where = *open;
    if (depth > MAX_DEPTH) {
        wadi_error(lx->src, open, "braces nest deeper than %d", MAX_DEPTH);
        lx->pos = lx->src->size;
        return group;
    }
    builder b = {lx, lx->toks->len, lx->stmts->len, 0};
    read_statements(&b, open, depth);
    group->n = lx->stmts->len - b.stmt_mark;
    group->stmts =
        wadi_arena_copy(lx->src->arena, (wadi_stmt *)(void *)lx->stmts->data + b.stmt_mark,
                        group->n, sizeof(wadi_stmt));
    g_array_set_size(lx->stmts, b.stmt_mark);
    return group;
}

bool wadi_tree_read(wadi_source *src)
{
    unsigned before = wad_diags_errors(src->diags);
    lexer lx = {.src = src,
                .line = 1,
                .toks = g_array_sized_new(FALSE, FALSE, sizeof(wadi_tok), 64),
                .stmts = g_array_sized_new(FALSE, FALSE, sizeof(wadi_stmt), 16)};
    src->top = read_group(&lx, NULL, 0);
    g_array_free(lx.toks, TRUE);
    g_array_free(lx.stmts, TRUE);
    return wad_diags_errors(src->diags) == before;
}
