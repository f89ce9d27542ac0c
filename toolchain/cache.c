/* SPDX-License-Identifier: MIT */
/*
 * An object's name in the cache is the sum of all that it was made from: the compiler, its options,
 * the source, Wadium's headers and the generated ones. So nothing there is ever wrong, and
 * what is old is only in the way.
 */
#include "cache.h"

#include <glib/gstdio.h>
#include <string.h>
#include <sys/stat.h>
#include <utime.h>

#include "wadium/host/output.h"

#define MOST_BYTES ((goffset)256 << 20)

static const char *const suffixes[] = {".o", ".ci"};

/* ---- what it was made from ---- */

static void add_text(GChecksum *sum, const char *text)
{
    g_checksum_update(sum, (const guchar *)text, (gssize)strlen(text) + 1);
}

static void add_content(GChecksum *sum, const char *path)
{
    char *text = NULL, *name = g_path_get_basename(path);
    gsize size = 0;
    add_text(sum, name);
    g_free(name);
    if (g_file_get_contents(path, &text, &size, NULL))
        g_checksum_update(sum, (const guchar *)text, (gssize)size);
    add_text(sum, "");
    g_free(text);
}

static int by_name(const void *a, const void *b)
{
    return strcmp(*(char *const *)a, *(char *const *)b);
}

static GPtrArray *names_in(const char *folder)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    GDir *dir = g_dir_open(folder, 0, NULL);
    for (const char *name; dir && (name = g_dir_read_name(dir));)
        g_ptr_array_add(names, g_strdup(name));
    if (dir)
        g_dir_close(dir);
    g_ptr_array_sort(names, by_name);
    return names;
}

/* All headers below a folder; by their names in it, for the build's own folder has another one each
 * time. */
static void add_headers(GChecksum *sum, const char *folder)
{
    GPtrArray *names = names_in(folder);
    for (guint i = 0; i < names->len; i++) {
        const char *name = names->pdata[i];
        char *path = g_build_filename(folder, name, NULL), *text = NULL;
        gsize size;
        if (g_file_test(path, G_FILE_TEST_IS_DIR)) {
            add_headers(sum, path);
        } else if (g_str_has_suffix(name, ".h") && g_file_get_contents(path, &text, &size, NULL)) {
            add_text(sum, name);
            g_checksum_update(sum, (const guchar *)text, (gssize)size);
            add_text(sum, "");
        }
        g_free(text);
        g_free(path);
    }
    g_ptr_array_free(names, TRUE);
}

/* The same compiler? By its file: asking it for its version takes longer. */
static void add_program(GChecksum *sum, const char *path)
{
    struct stat s;
    char *is = stat(path, &s) == 0
                   ? g_strdup_printf("%s %lld %lld %lld", path, (long long)s.st_size,
                                     (long long)s.st_mtim.tv_sec, (long long)s.st_mtim.tv_nsec)
                   : g_strdup(path);
    add_text(sum, is);
    g_free(is);
}

static char *key_of(wadi_builder *w, const GPtrArray *argv, const char *source)
{
    if (!w->headers) {
        GChecksum *all = g_checksum_new(G_CHECKSUM_SHA256);
        add_headers(all, WADIUM_ROOT "/include");
        add_headers(all, WADIUM_ROOT "/ports");
        add_headers(all, w->folder);
        w->headers = g_strdup(g_checksum_get_string(all));
        g_checksum_free(all);
    }
    GChecksum *sum = g_checksum_new(G_CHECKSUM_SHA256);
    add_program(sum, argv->pdata[0]);
    for (guint i = 1; i < argv->len; i++)
        if (!strstr(argv->pdata[i], w->folder)) /* its headers count, not where they are */
            add_text(sum, argv->pdata[i]);
    add_text(sum, w->headers);
    add_content(sum, source);
    char *key = g_strdup(g_checksum_get_string(sum));
    g_checksum_free(sum);
    return key;
}

/* ---- files ---- */

/* $WADIUM_CACHE, or Wadium's part of the user's cache folder; NULL: none is wanted. */
static char *cache_folder(void)
{
    const char *given = g_getenv("WADIUM_CACHE");
    if (given && !*given)
        return NULL;
    return given ? g_strdup(given)
                 : g_build_filename(g_get_user_cache_dir(), "wadium", "drivers", NULL);
}

static char *with_suffix(const char *object, const char *suffix)
{
    return g_strdup_printf("%.*s%s", (int)strlen(object) - 2, object, suffix);
}

#define SUM_LENGTH 64

/* The bytes with their own sum behind them: a file that a full disk or a fault has changed is none.
 */
static bool put_in(const char *from, const char *to)
{
    char *bytes = NULL, *why = NULL;
    gsize size;
    if (!g_file_get_contents(from, &bytes, &size, NULL))
        return false;
    char *sum = g_compute_checksum_for_data(G_CHECKSUM_SHA256, (const guchar *)bytes, size);
    bytes = g_realloc(bytes, size + SUM_LENGTH);
    memcpy(bytes + size, sum, SUM_LENGTH);
    bool ok = wad_output_bytes(to, bytes, size + SUM_LENGTH, &why);
    g_free(sum);
    g_free(bytes);
    g_free(why);
    return ok;
}

static bool take_out(const char *from, const char *to)
{
    char *bytes = NULL, *why = NULL;
    gsize size;
    bool ok = g_file_get_contents(from, &bytes, &size, NULL) && size >= SUM_LENGTH;
    if (ok) {
        size -= SUM_LENGTH;
        char *sum = g_compute_checksum_for_data(G_CHECKSUM_SHA256, (const guchar *)bytes, size);
        ok = !memcmp(bytes + size, sum, SUM_LENGTH) && wad_output_bytes(to, bytes, size, &why);
        g_free(sum);
    }
    g_free(bytes);
    g_free(why);
    return ok;
}

/* The object, and the compiler's notes beside it where it makes any. */
static bool fetch(const char *kept, const char *object)
{
    bool ok = true;
    for (unsigned i = 0; i < G_N_ELEMENTS(suffixes) && ok; i++) {
        char *from = g_strconcat(kept, suffixes[i], NULL), *to = with_suffix(object, suffixes[i]);
        ok = (i && !g_file_test(from, G_FILE_TEST_EXISTS)) || take_out(from, to);
        g_free(from);
        g_free(to);
    }
    return ok;
}

bool wadi_cache_find(wadi_builder *w, GPtrArray *argv, const char *source, const char *object)
{
    char *folder = cache_folder();
    if (!folder)
        return false;
    char *key = key_of(w, argv, source), *kept = g_build_filename(folder, key, NULL);
    bool found = fetch(kept, object);
    if (found) {
        char *file = g_strconcat(kept, ".o", NULL);
        g_utime(file, NULL); /* it was of use */
        g_free(file);
    } else {
        g_ptr_array_add(w->fresh, g_strdup(object));
        g_ptr_array_add(w->fresh, g_strdup(kept));
    }
    g_free(kept);
    g_free(key);
    g_free(folder);
    return found;
}

typedef struct kept {
    char *path;
    goffset size;
    gint64 used;
} kept;

static int by_use(const void *a, const void *b)
{
    const kept *x = a, *y = b;
    return x->used < y->used ? -1 : x->used > y->used;
}

/* "<sum>.o", "<sum>.ci": what else lies in a folder that the user has named is his. */
static bool is_ours(const char *name)
{
    const size_t n = strspn(name, "0123456789abcdef");
    for (unsigned i = 0; i < G_N_ELEMENTS(suffixes) && n == SUM_LENGTH; i++)
        if (!strcmp(name + n, suffixes[i]))
            return true;
    return false;
}

/* The longest unused ones go, down to half of the room. */
static void make_room(const char *folder)
{
    GArray *all = g_array_new(FALSE, FALSE, sizeof(kept));
    GPtrArray *names = names_in(folder);
    goffset bytes = 0;
    for (guint i = 0; i < names->len; i++) {
        if (!is_ours(names->pdata[i]))
            continue;
        kept k = {.path = g_build_filename(folder, names->pdata[i], NULL)};
        GStatBuf s;
        if (g_stat(k.path, &s) == 0) {
            k.size = s.st_size;
            k.used = s.st_mtim.tv_sec;
        }
        bytes += k.size;
        g_array_append_val(all, k);
    }
    g_array_sort(all, by_use);
    bool too_much = bytes > MOST_BYTES;
    for (guint i = 0; i < all->len; i++) {
        kept *k = &g_array_index(all, kept, i);
        if (too_much && bytes > MOST_BYTES / 2 && g_unlink(k->path) == 0)
            bytes -= k->size;
        g_free(k->path);
    }
    g_array_free(all, TRUE);
    g_ptr_array_free(names, TRUE);
}

/* The notes first: an object that is there has them. */
static bool keep(const char *object, const char *place)
{
    bool ok = true;
    for (unsigned i = G_N_ELEMENTS(suffixes); i-- && ok;) {
        char *from = with_suffix(object, suffixes[i]), *to = g_strconcat(place, suffixes[i], NULL);
        ok = (i && !g_file_test(from, G_FILE_TEST_EXISTS)) || put_in(from, to);
        g_free(from);
        g_free(to);
    }
    return ok;
}

void wadi_cache_keep(wadi_builder *w)
{
    char *folder = cache_folder();
    if (folder && w->fresh->len && g_mkdir_with_parents(folder, 0755) == 0) {
        for (guint i = 0; i + 1 < w->fresh->len; i += 2)
            if (!keep(w->fresh->pdata[i], w->fresh->pdata[i + 1]))
                break;
        make_room(folder);
    }
    g_ptr_array_set_size(w->fresh, 0);
    g_free(folder);
}
