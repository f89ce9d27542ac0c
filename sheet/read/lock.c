/* SPDX-License-Identifier: MIT */
/* Locks: what keeps registers from being written, and how they open. */
#include <string.h>

#include "behaviour.h"
#include "hook.h"
#include "path.h"

/* A register, or a field of one. */
static bool parse_place(layout_build *lb, wadi_cursor *c, wad_fieldref *ref)
{
    wadi_path path;
    if (!wadi_parse_path(c, lb->env, &path))
        return false;
    if (!wadi_resolve(lb->b, lb->layout, NULL, &path, ref)) {
        c->failed = true;
        return false;
    }
    if (ref->block)
        wadi_error(c->src, &path.where,
                   "'%s' lies in another block: a lock and what opens it are "
                   "of one block",
                   wadi_path_text(lb->b->arena, &path));
    c->failed = c->failed || ref->block;
    return !c->failed;
}

static bool at_word(const wadi_cursor *c)
{
    static const char *const words[] = {"relocks", "unbroken", "open", "once", "shows", "else"};
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++)
        if (wadi_at_word(c, words[i]))
            return true;
    return wadi_at_end(c);
}

static void parse_key(layout_build *lb, wadi_cursor *c, wad_lock *lock)
{
    GArray *sequence = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    wad_fieldref ref = {0};
    int64_t value;
    if (parse_place(lb, c, &ref)) {
        lock->key = ref.reg;
        lock->key_field = ref.field;
        lock->key_index = ref.reg_index;
        lock->key_lsb = ref.lsb;
        lock->key_mask = (uint32_t)wad_fieldref_mask(&ref);
    }
    int64_t most = ref.width < 32 ? (INT64_C(1) << ref.width) - 1 : UINT32_MAX;
    while (!c->failed && !at_word(c) &&
           wadi_parse_int(lb->b, c, lb->env, "a value of the key", 0, most, &value)) {
        uint32_t key = (uint32_t)value;
        g_array_append_val(sequence, key);
    }
    if (!c->failed && !sequence->len)
        wadi_expected(c, "the values of the key");
    lock->n_sequence = sequence->len;
    lock->sequence = wadi_arena_copy(lb->b->arena, sequence->data, sequence->len, sizeof(uint32_t));
    g_array_free(sequence, TRUE);
}

static bool parse_cond(layout_build *lb, wadi_cursor *c, const wad_cond **into)
{
    wad_instance scope = {.layout = lb->layout};
    wad_cond *cond = WADI_NEW(lb->b->arena, wad_cond);
    *into = cond;
    return wadi_parse_cond(lb->b, c, lb->env, &scope, cond);
}

static void parse_shows(layout_build *lb, wadi_cursor *c, wad_lock *lock)
{
    wad_where where = c->tok->where;
    if (parse_place(lb, c, &lock->shows) && (!lock->shows.field || lock->shows.width != 1)) {
        wadi_error(c->src, &where, "one bit shows that it is closed: REGISTER.FIELD");
        c->failed = true;
    }
}

/* What a lock with a key may say besides. */
static void parse_words(layout_build *lb, wadi_cursor *c, wad_lock *lock)
{
    int64_t writes;
    while (!c->failed && !wadi_at_end(c)) {
        wad_where where = c->tok->where;
        bool of_key = !wadi_at_word(c, "shows");
        if (of_key && !lock->key) {
            wadi_error(c->src, &where, "'%s' is of a lock with a key: key REGISTER VALUE ...",
                       c->tok->text);
            c->failed = true;
        } else if (wadi_take_word(c, "relocks")) {
            if (wadi_need_word(c, "after") &&
                wadi_parse_int(lb->b, c, lb->env, "after how many writes it closes", 1, 255,
                               &writes))
                lock->writes = (unsigned)writes;
        } else if (wadi_take_word(c, "unbroken")) {
            lock->unbroken = true;
        } else if (wadi_take_word(c, "open")) {
            lock->expires = wadi_need_word(c, "for") && wadi_parse_delay(lb, c, &lock->open_for);
        } else if (wadi_take_word(c, "once")) {
            lock->once = true;
            if (wadi_take_word(c, "unless"))
                parse_cond(lb, c, &lock->unless);
        } else if (wadi_take_word(c, "shows")) {
            parse_shows(lb, c, lock);
        } else if (wadi_take_word(c, "else")) {
            lock->wrong = wadi_take_word(c, "stuck")   ? WAD_WRONG_STUCK
                          : wadi_take_word(c, "reset") ? WAD_WRONG_RESETS
                                                       : WAD_WRONG_IGNORED;
            if (lock->wrong == WAD_WRONG_IGNORED && !wadi_take_word(c, "ignored"))
                wadi_expected(c, "'ignored', 'stuck' or 'reset': what a wrong key does");
        } else {
            wadi_expected(c, "'relocks after', 'unbroken', 'open for', 'once', 'shows' or 'else'");
        }
    }
}

/* `lock NAME "text" while COND` or `lock NAME "text" key REG VALUE VALUE ... [relocks after N]` */
void wadi_parse_lock(layout_build *lb, wadi_cursor *c)
{
    wad_lock *lock = WADI_NEW(lb->b->arena, wad_lock);
    lock->where = c->tok->where;
    lock->name = wadi_need_name(c, "the lock's name");
    if (!c->failed && c->tok->type == WADI_T_STRING)
        lock->text = (c->tok++)->text;
    for (guint i = 0; lock->name && i < lb->locks->len; i++)
        if (!strcmp(((const wad_lock *)lb->locks->pdata[i])->name, lock->name)) {
            wadi_error(c->src, &lock->where, "lock '%s' stands twice in this layout", lock->name);
            c->failed = true;
        }
    if (wadi_take_word(c, "while"))
        parse_cond(lb, c, &lock->open);
    else if (wadi_take_word(c, "key"))
        parse_key(lb, c, lock);
    else
        wadi_expected(c, "'while CONDITION' or 'key REGISTER VALUE ...'");
    parse_words(lb, c, lock);
    if (wadi_need_end(c))
        g_ptr_array_add(lb->locks, lock);
}

void wadi_finish_locked(layout_build *lb, waiting *w)
{
    const char *name = wadi_need_name(&w->at, "the lock's name");
    for (guint i = 0; name && i < lb->locks->len && !w->locked->lock; i++) {
        const wad_lock *lock = lb->locks->pdata[i];
        if (!strcmp(lock->name, name))
            w->locked->lock = lock;
    }
    if (name && !w->locked->lock)
        wadi_error(w->at.src, &w->locked->where, "this layout has no lock '%s'", name);
}
