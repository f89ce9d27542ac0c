/* SPDX-License-Identifier: MIT */
#include "wadium/host/output.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <limits.h>
#include <stdatomic.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

struct wad_output {
    FILE *file;
    int fd;
    int error;    /* the first errno of a write */
    bool is_file; /* closed at the end */
    char *path;   /* as it was given; NULL: standard output */
    char *place;  /* with links followed */
    char *temp;   /* NULL: written straight through */
    int slot;     /* in the list of what is unfinished; -1: none */
};

/* ---- what is unfinished, in memory that forked processes share ---- */

#define SLOTS 64

typedef struct unfinished {
    _Atomic int state; /* 0 free, 1 being filled, 2 a path */
    char path[PATH_MAX];
} unfinished;

static unfinished *list(void)
{
    static unfinished *shared;
    if (g_once_init_enter(&shared)) {
        unfinished *made = mmap(NULL, SLOTS * sizeof *made, PROT_READ | PROT_WRITE,
                                MAP_SHARED | MAP_ANONYMOUS, -1, 0);
        if (made == MAP_FAILED)
            made = g_new0(unfinished, SLOTS);
        g_once_init_leave(&shared, made);
    }
    return shared;
}

/* Before it is made: whoever is killed between the two leaves nothing that is not in the list.
 * -1: the list is full, and a process that is killed leaves this one lying. */
static int note(const char *path)
{
    for (int i = 0; i < SLOTS && strlen(path) < PATH_MAX; i++) {
        int is_free = 0;
        if (!atomic_compare_exchange_strong(&list()[i].state, &is_free, 1))
            continue;
        if (g_path_is_absolute(path)) {
            strcpy(list()[i].path, path);
        } else { /* the process may be elsewhere by then */
            char *full = g_canonicalize_filename(path, NULL);
            g_strlcpy(list()[i].path, full, PATH_MAX);
            g_free(full);
        }
        atomic_store(&list()[i].state, 2);
        return i;
    }
    return -1;
}

/* A name nobody else has, so that it can be noted before it is made. */
static char *own_name(const char *prefix)
{
    char *random = g_uuid_string_random(), *name = g_strconcat(prefix, random, NULL);
    g_free(random);
    return name;
}

static void forget(int slot)
{
    if (slot >= 0)
        atomic_store(&list()[slot].state, 0);
}

static void remove_tree(const char *path)
{
    GDir *dir = g_file_test(path, G_FILE_TEST_IS_SYMLINK) ? NULL : g_dir_open(path, 0, NULL);
    for (const char *name; dir && (name = g_dir_read_name(dir));) {
        char *inside = g_build_filename(path, name, NULL);
        remove_tree(inside);
        g_free(inside);
    }
    if (dir)
        g_dir_close(dir);
    g_remove(path);
}

void wad_output_sweep(void)
{
    for (int i = 0; i < SLOTS; i++) {
        int is_path = 2;
        if (!atomic_compare_exchange_strong(&list()[i].state, &is_path, 1))
            continue;
        remove_tree(list()[i].path);
        forget(i);
    }
}

char *wad_output_folder(const char *prefix, char **why)
{
    char *start = g_strdup_printf("%s/%s-", g_get_tmp_dir(), prefix), *folder = own_name(start);
    int slot = note(folder);
    *why = NULL;
    if (g_mkdir(folder, 0700)) {
        *why = g_strdup_printf("cannot make '%s': %s", folder, g_strerror(errno));
        forget(slot);
        g_clear_pointer(&folder, g_free);
    }
    g_free(start);
    return folder;
}

void wad_output_remove_folder(const char *folder)
{
    if (!folder)
        return;
    remove_tree(folder);
    for (int i = 0; i < SLOTS; i++)
        if (atomic_load(&list()[i].state) == 2 && !strcmp(list()[i].path, folder))
            forget(i);
}

/* ---- writing ---- */

/* Of stdio, which tells only that something failed: what did. */
static ssize_t put(void *cookie, const char *bytes, size_t size)
{
    wad_output *out = cookie;
    size_t done = 0;
    while (done < size && !out->error) {
        ssize_t n = write(out->fd, bytes + done, size - done);
        if (n > 0)
            done += (size_t)n;
        else if (n == 0 || errno != EINTR)
            out->error = n == 0 ? EIO : errno;
    }
    return done == size ? (ssize_t)size : 0;
}

static bool is_of(int fd, const struct stat *s)
{
    struct stat own;
    return !fstat(fd, &own) && own.st_dev == s->st_dev && own.st_ino == s->st_ino;
}

/* Where a link leads, though there may be nothing yet. */
static char *follow(const char *path)
{
    char *at = g_strdup(path);
    for (unsigned i = 0; i < 40 && g_file_test(at, G_FILE_TEST_IS_SYMLINK); i++) {
        char *to = g_file_read_link(at, NULL), *folder = g_path_get_dirname(at);
        if (!to) {
            g_free(folder);
            break;
        }
        g_free(at);
        at = g_path_is_absolute(to) ? g_strdup(to) : g_build_filename(folder, to, NULL);
        g_free(to);
        g_free(folder);
    }
    return at;
}

/* Beside its place, so that putting it there is one step; hidden, and nobody else's. */
static bool open_beside(wad_output *out, const struct stat *old)
{
    char *folder = g_path_get_dirname(out->place), *base = g_path_get_basename(out->place);
    char *name = g_strdup_printf(".%.80s.", base), *start = g_build_filename(folder, name, NULL);
    out->temp = own_name(start);
    g_free(start);
    g_free(name);
    g_free(base);
    g_free(folder);
    out->slot = note(out->temp);
    out->fd = open(out->temp, O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    if (out->fd < 0)
        return false;
    if (old && fchmod(out->fd, old->st_mode & 07777)) {
        /* a file system without permissions: nothing to keep */
    }
    return true;
}

static bool open_place(wad_output *out)
{
    struct stat s;
    bool there = stat(out->path, &s) == 0;
    if (there && (is_of(STDOUT_FILENO, &s) || is_of(STDERR_FILENO, &s))) {
        fflush(is_of(STDOUT_FILENO, &s) ? stdout : stderr);
        out->fd = dup(is_of(STDOUT_FILENO, &s) ? STDOUT_FILENO : STDERR_FILENO);
        return out->fd >= 0;
    }
    if (there && S_ISREG(s.st_mode) && access(out->path, W_OK))
        return false;
    if (!there || S_ISREG(s.st_mode)) {
        out->place = follow(out->path);
        return open_beside(out, there ? &s : NULL);
    }
    out->fd = open(out->path, O_WRONLY | O_CLOEXEC);
    return out->fd >= 0;
}

static void clear(wad_output *out)
{
    if (out->file)
        fclose(out->file);
    if (out->is_file && out->fd >= 0)
        close(out->fd);
    if (out->temp)
        g_unlink(out->temp);
    forget(out->slot);
    g_free(out->path);
    g_free(out->place);
    g_free(out->temp);
    g_free(out);
}

static char *cannot(const wad_output *out, int error)
{
    return out->path ? g_strdup_printf("cannot write '%s': %s", out->path, g_strerror(error))
                     : g_strdup_printf("standard output: %s", g_strerror(error));
}

wad_output *wad_output_open(const char *path, char **why)
{
    wad_output *out = g_new0(wad_output, 1);
    *out = (wad_output){.fd = STDOUT_FILENO, .slot = -1, .path = g_strdup(path)};
    *why = NULL;
    out->is_file = path != NULL;
    errno = 0;
    if (!path)
        fflush(stdout);
    if (path && (out->fd = -1, !open_place(out))) {
        *why = cannot(out, errno);
        g_clear_pointer(&out->temp, g_free); /* was not made */
        clear(out);
        return NULL;
    }
    out->file = fopencookie(out, "w", (cookie_io_functions_t){.write = put});
    setvbuf(out->file, NULL, _IOFBF, 1 << 16);
    return out;
}

FILE *wad_output_file(wad_output *out)
{
    return out->file;
}

bool wad_output_close(wad_output *out, char **why)
{
    *why = NULL;
    if (fflush(out->file) && !out->error)
        out->error = errno;
    if (ferror(out->file) && !out->error)
        out->error = EIO;
    fclose(out->file);
    out->file = NULL;
    if (out->is_file) {
        int failed = close(out->fd) ? errno : 0;
        out->fd = -1;
        out->error = out->error ? out->error : failed;
    }
    if (!out->error && out->temp) {
        if (g_rename(out->temp, out->place))
            out->error = errno;
        else
            g_clear_pointer(&out->temp, g_free);
    }
    if (out->error)
        *why = cannot(out, out->error);
    clear(out);
    return *why == NULL;
}

void wad_output_drop(wad_output *out)
{
    if (out)
        clear(out);
}

bool wad_output_bytes(const char *path, const void *bytes, size_t size, char **why)
{
    wad_output *out = wad_output_open(path, why);
    if (!out)
        return false;
    fwrite(bytes, 1, size, out->file);
    return wad_output_close(out, why);
}
