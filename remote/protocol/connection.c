/* SPDX-License-Identifier: MIT */
#include "connection.h"

#include <errno.h>
#include <fcntl.h>
#include <netdb.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <signal.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

static void no_block(int fd)
{
    fcntl(fd, F_SETFL, fcntl(fd, F_GETFL) | O_NONBLOCK);
    fcntl(fd, F_SETFD, FD_CLOEXEC);
}

static void at_once(int fd)
{
    int on = 1;
    setsockopt(fd, IPPROTO_TCP, TCP_NODELAY, &on, sizeof on);
}

static bool ready(int fd, short events, unsigned timeout_ms)
{
    struct pollfd p = {.fd = fd, .events = events};
    int n;
    do
        n = poll(&p, 1, (int)timeout_ms);
    while (n < 0 && errno == EINTR);
    return n > 0;
}

/* ---- names ---- */

/* "HOST:PORT" in two; the host of ":PORT" and "PORT" is the loopback. */
static bool split(const char *where, char **host, char **port, char **why)
{
    const char *colon = strrchr(where, ':');
    const char *digits = colon ? colon + 1 : where;
    char *end;
    guint64 number = g_ascii_strtoull(digits, &end, 10);
    if (!g_ascii_isdigit(*digits) || *end || number > 65535) {
        *why = g_strdup_printf("'%s' is no address: HOST:PORT is, 127.0.0.1:3333 for one", where);
        return false;
    }
    *host = colon > where ? g_strndup(where, (gsize)(colon - where)) : g_strdup("127.0.0.1");
    if ((*host)[0] == '[' && g_str_has_suffix(*host, "]")) {
        memmove(*host, *host + 1, strlen(*host));
        (*host)[strlen(*host) - 1] = 0;
    }
    *port = g_strdup(digits);
    return true;
}

static struct addrinfo *look_up(const char *where, int flags, char **why)
{
    struct addrinfo hints = {.ai_socktype = SOCK_STREAM, .ai_flags = flags}, *list = NULL;
    char *host, *port;
    if (!split(where, &host, &port, why))
        return NULL;
    int error = getaddrinfo(host, port, &hints, &list);
    if (error && !strcmp(host, "localhost")) /* a system without a list of hosts */
        error = getaddrinfo("127.0.0.1", port, &hints, &list);
    if (error)
        *why = g_strdup_printf("'%s': %s", where, gai_strerror(error));
    g_free(host);
    g_free(port);
    return error ? NULL : list;
}

/* ---- the caller's end ---- */

static int dial(const struct addrinfo *a, unsigned timeout_ms)
{
    int fd = socket(a->ai_family, a->ai_socktype, a->ai_protocol), error = 0;
    socklen_t size = sizeof error;
    if (fd < 0)
        return -1;
    no_block(fd);
    if (connect(fd, a->ai_addr, a->ai_addrlen) && errno != EINPROGRESS)
        error = errno;
    else if (!ready(fd, POLLOUT, timeout_ms))
        error = ETIMEDOUT;
    else
        getsockopt(fd, SOL_SOCKET, SO_ERROR, &error, &size);
    if (!error) {
        at_once(fd);
        return fd;
    }
    close(fd);
    errno = error;
    return -1;
}

static bool open_socket(wadi_connection *w, const char *where, unsigned timeout_ms, char **why)
{
    struct addrinfo *list = look_up(where, 0, why);
    if (!list)
        return false;
    for (const struct addrinfo *a = list; a && w->in < 0; a = a->ai_next)
        w->in = w->out = dial(a, timeout_ms);
    if (w->in < 0)
        *why = g_strdup_printf("nobody answers at %s: %s", where, g_strerror(errno));
    freeaddrinfo(list);
    return w->in >= 0;
}

static bool open_pipe(wadi_connection *w, const char *command, char **why)
{
    GError *error = NULL;
    char **argv = NULL;
    bool good =
        g_shell_parse_argv(command, NULL, &argv, &error) &&
        g_spawn_async_with_pipes(NULL, argv, NULL, G_SPAWN_SEARCH_PATH | G_SPAWN_DO_NOT_REAP_CHILD,
                                 NULL, NULL, &w->child, &w->out, &w->in, NULL, &error);
    g_strfreev(argv);
    if (!good) {
        *why = g_strdup_printf("the server command cannot be started: %s", error->message);
        g_error_free(error);
        return false;
    }
    no_block(w->in);
    no_block(w->out);
    return true;
}

bool wadi_connection_open(wadi_connection *w, const char *where, unsigned timeout_ms, char **why)
{
    *w = (wadi_connection){-1, -1, 0};
    signal(SIGPIPE, SIG_IGN); /* a server command that ends */
    if (*where == '|')
        return open_pipe(w, where + 1, why);
    return open_socket(w, where, timeout_ms, why);
}

void wadi_connection_close(wadi_connection *w)
{
    if (w->in >= 0)
        close(w->in);
    if (w->out >= 0 && w->out != w->in)
        close(w->out);
    w->in = w->out = -1;
    if (w->child) {
        bool ended = false;
        for (unsigned i = 0; i < 100 && !(ended = waitpid(w->child, NULL, WNOHANG) != 0); i++)
            g_usleep(5000);
        if (!ended) {
            kill(w->child, SIGKILL);
            waitpid(w->child, NULL, 0);
        }
        g_spawn_close_pid(w->child);
        w->child = 0;
    }
}

/* ---- bytes ---- */

bool wadi_connection_write(wadi_connection *w, const void *data, size_t n, unsigned timeout_ms)
{
    const char *at = data;
    while (n) {
        if (w->out < 0 || !ready(w->out, POLLOUT, timeout_ms))
            return false;
        ssize_t sent = w->out == w->in ? send(w->out, at, n, MSG_NOSIGNAL) : write(w->out, at, n);
        if (sent < 0 && (errno == EINTR || errno == EAGAIN))
            continue;
        if (sent <= 0)
            return false;
        at += sent;
        n -= (size_t)sent;
    }
    return true;
}

ssize_t wadi_connection_read(wadi_connection *w, void *data, size_t room, unsigned timeout_ms)
{
    if (w->in < 0)
        return -1;
    if (!ready(w->in, POLLIN, timeout_ms))
        return 0;
    ssize_t n = read(w->in, data, room);
    if (n < 0 && (errno == EINTR || errno == EAGAIN))
        return 0;
    return n > 0 ? n : -1;
}

bool wadi_connection_ready(const wadi_connection *w, unsigned timeout_ms)
{
    return w->in >= 0 && ready(w->in, POLLIN, timeout_ms);
}

/* ---- the server's end ---- */

static int bind_to(const struct addrinfo *a)
{
    int on = 1, fd = socket(a->ai_family, a->ai_socktype, a->ai_protocol);
    if (fd < 0)
        return -1;
    setsockopt(fd, SOL_SOCKET, SO_REUSEADDR, &on, sizeof on);
    no_block(fd);
    if (!bind(fd, a->ai_addr, a->ai_addrlen) && !listen(fd, 1))
        return fd;
    int error = errno;
    close(fd);
    errno = error;
    return -1;
}

static unsigned port_of(int fd)
{
    union {
        struct sockaddr any;
        struct sockaddr_in v4;
        struct sockaddr_in6 v6;
    } s;
    socklen_t size = sizeof s;
    memset(&s, 0, sizeof s);
    if (getsockname(fd, &s.any, &size))
        return 0;
    return ntohs(s.any.sa_family == AF_INET6 ? s.v6.sin6_port : s.v4.sin_port);
}

int wadi_connection_listen(const char *where, unsigned *port, char **why)
{
    struct addrinfo *list = look_up(where, AI_PASSIVE, why);
    int fd = -1;
    if (!list)
        return -1;
    for (const struct addrinfo *a = list; a && fd < 0; a = a->ai_next)
        fd = bind_to(a);
    if (fd < 0)
        *why = g_strdup_printf("cannot listen at %s: %s", where, g_strerror(errno));
    else
        *port = port_of(fd);
    freeaddrinfo(list);
    return fd;
}

bool wadi_connection_accept(int listener, wadi_connection *w)
{
    int fd = accept(listener, NULL, NULL);
    if (fd < 0)
        return false;
    no_block(fd);
    at_once(fd);
    *w = (wadi_connection){fd, fd, 0};
    return true;
}
