/* SPDX-License-Identifier: MIT */
/* The GDB remote protocol: packets, the client against a real gdbserver and against bad ones, the
 * server by hand, fuzz of both ends. */
#include <netinet/in.h>
#include <pthread.h>
#include <string.h>
#include <sys/socket.h>
#include <unistd.h>

#include "support.h"

#include "remote/protocol/packet.h"
#include "wadium/host/remote.h"
#include "wadium/host/remote_server.h"

#define PROGRAM BUILD_DIR "/tests/registers"

/* ---- packets ---- */

static void what_is_packed_comes_out_again(void **state)
{
    GRand *rand = g_rand_new_with_seed(1);
    (void)state;
    for (unsigned round = 0; round < 20000; round++) {
        uint8_t data[300];
        size_t n = (size_t)g_rand_int_range(rand, 0, sizeof data);
        bool runs = g_rand_int_range(rand, 0, 2), few = g_rand_int_range(rand, 0, 2);
        wadi_packet_event event = WADI_PACKET_NONE;
        GByteArray *packed = g_byte_array_new();
        wadi_unpacker u;
        for (size_t i = 0; i < n; i++)
            data[i] = (uint8_t)(few ? "0f#$}*"[g_rand_int_range(rand, 0, 6)]
                                    : g_rand_int_range(rand, 0, 256));
        wadi_pack(packed, data, n, runs);
        wadi_unpacker_init(&u);
        for (guint i = 0; i < packed->len; i++) {
            assert_int_equal(event, WADI_PACKET_NONE);
            event = wadi_unpack(&u, packed->data[i]);
            /* no byte of the protocol stands inside */
            if (i && i < packed->len - 3)
                assert_true(packed->data[i] != '$' && packed->data[i] != '#');
        }
        assert_int_equal(event, WADI_PACKET_DONE);
        assert_int_equal(u.data->len, n);
        assert_memory_equal(u.data->data, data, n);
        wadi_unpacker_clear(&u);
        g_byte_array_free(packed, TRUE);
    }
    g_rand_free(rand);
}

/* By hand: "0" and a run of three more is "0* ", whose sum is 0x7a. */
static void packets_are_as_the_protocol_has_them(void **state)
{
    static const char run[] = "$0* #7a", plain[] = "$OK#9a";
    wadi_unpacker u;
    wadi_packet_event e = WADI_PACKET_NONE;
    GByteArray *out = g_byte_array_new();
    (void)state;
    wadi_unpacker_init(&u);
    for (size_t i = 0; i < strlen(run); i++)
        e = wadi_unpack(&u, (uint8_t)run[i]);
    assert_int_equal(e, WADI_PACKET_DONE);
    assert_string_equal((char *)u.data->data, "0000");
    wadi_pack(out, "OK", 2, false);
    assert_memory_equal(out->data, plain, out->len);
    for (const char *p = "$OK#9b"; *p; p++)
        e = wadi_unpack(&u, (uint8_t)*p);
    assert_int_equal(e, WADI_PACKET_BAD);
    wadi_unpacker_clear(&u);
    g_byte_array_free(out, TRUE);
}

/* ---- a real gdbserver ---- */

/* `gdbserver` on a pipe: the client starts it. */
static wad_remote *open_gdbserver(bool acks)
{
    char *why = NULL;
    const wad_remote_options o = {
        .timeout_ms = 3000, .acks = acks, .log = getenv("LOG") ? stderr : NULL};
    wad_remote *r = wad_remote_open("| gdbserver --once - " PROGRAM, &o, &why);
    if (!r)
        fail_msg("%s", why);
    return r;
}

static uint64_t symbol(const char *name)
{
    char *out, *err, *at;
    assert_int_equal(test_spawn(&out, &err, "nm", PROGRAM, NULL), 0);
    char *mark = g_strdup_printf(" %s\n", name);
    at = strstr(out, mark);
    assert_non_null(at);
    while (at > out && at[-1] != '\n')
        at--;
    uint64_t value = g_ascii_strtoull(at, NULL, 16);
    g_free(mark);
    g_free(out);
    g_free(err);
    return value;
}

/* `why` is looked at afterwards. */
#define GOOD(call)                                                                                 \
    do {                                                                                           \
        if (!(call))                                                                               \
            fail_msg("%s: %s", #call, why);                                                        \
    } while (0)

static void same_stop(const wad_remote *r, wad_remote_stop stop)
{
    wad_remote_stop is = wad_remote_state(r);
    assert_int_equal(is.end, stop.end);
    assert_int_equal(is.code, stop.code);
    assert_int_equal(is.watch, stop.watch);
    assert_int_equal(is.address, stop.address);
}

static void a_real_gdbserver_is_worked_with(void **state)
{
    char *why = NULL;
    wad_remote *r = open_gdbserver(false);
    wad_remote_stop stop;
    uint64_t pc = 0, turn = symbol("turn");
    uint32_t word = 0;
    uint8_t block[16000], patch[3000];
    unsigned n;
    (void)state;
    assert_true(wad_remote_registers(r, &n, &why) != NULL && n > 16);
    GOOD(wad_remote_set_point(r, WAD_REMOTE_BREAK, turn, 1, true, &why));
    GOOD(wad_remote_go(r, &why) && wad_remote_wait(r, 20000, &stop, &why));
    assert_int_equal(stop.end, WAD_REMOTE_STOPPED);
    assert_int_equal(stop.code, 5);
    same_stop(r, stop);
    GOOD(wad_remote_get_register(r, "rip", &pc, &why));
    assert_int_equal(pc, turn);
    GOOD(wad_remote_get(r, 0x40000000, 4, &word, &why));
    assert_int_equal(word, 0x12345678);
    GOOD(wad_remote_get(r, 0x40000002, 2, &word, &why));
    assert_int_equal(word, 0x1234);
    /* more than a packet holds, binary with all that must be escaped */
    GOOD(wad_remote_read(r, 0x40000040, block, sizeof block, &why));
    for (unsigned i = 0; i < sizeof block; i++)
        assert_int_equal(block[i], (uint8_t)(i * 7));
    for (unsigned i = 0; i < sizeof patch; i++)
        patch[i] = (uint8_t) "#$}*+-\0x"[i % 8];
    GOOD(wad_remote_write(r, 0x40000100, patch, sizeof patch, &why));
    GOOD(wad_remote_read(r, 0x40000100, block, sizeof patch, &why));
    assert_memory_equal(block, patch, sizeof patch);
    GOOD(wad_remote_put(r, 0x40000010, 4, 0xCAFE0123, &why));
    GOOD(wad_remote_get(r, 0x40000010, 4, &word, &why));
    assert_int_equal(word, 0xCAFE0123);
    for (uint32_t i = 0; i < 200; i++) /* without waiting, in order */
        GOOD(wad_remote_post(r, 0x40000014, &i, 4, &why));
    GOOD(wad_remote_get(r, 0x40000014, 4, &word, &why));
    assert_int_equal(word, 199);
    assert_false(wad_remote_get(r, 0x10, 4, &word, &why)); /* nothing is mapped there */
    assert_non_null(strstr(why, "read of 4 bytes at 0x00000010"));
    g_free(why);
    GOOD(wad_remote_step(r, &stop, &why));
    GOOD(wad_remote_get_register(r, "rip", &pc, &why));
    assert_int_not_equal(pc, turn);
    GOOD(wad_remote_set_point(r, WAD_REMOTE_BREAK, turn, 1, false, &why));
    GOOD(wad_remote_go(r, &why));
    assert_false(wad_remote_get(r, 0x40000000, 4, &word, &why)); /* it runs */
    g_free(why);
    assert_int_equal(wad_remote_state(r).end, WAD_REMOTE_RUNNING);
    for (word = 0; word < 2;) { /* until it has gone round */
        GOOD(wad_remote_halt(r, &stop, &why));
        assert_int_equal(stop.code, 2);
        same_stop(r, stop);
        GOOD(wad_remote_get(r, 0x40000004, 4, &word, &why));
        if (word < 2)
            GOOD(wad_remote_go(r, &why));
    }
    GOOD(wad_remote_put(r, 0x40000008, 4, 1, &why)); /* its way out */
    GOOD(wad_remote_go(r, &why) && wad_remote_wait(r, 20000, &stop, &why));
    assert_int_equal(stop.end, WAD_REMOTE_EXITED);
    assert_int_equal(stop.code, 7);
    same_stop(r, stop);
    wad_remote_close(r, false);
}

/* Each packet acknowledged, as on a line that loses bytes. */
static void acknowledgements_are_kept_where_wanted(void **state)
{
    char *why = NULL;
    wad_remote *r = open_gdbserver(true);
    wad_remote_stop stop;
    uint32_t word = 0;
    (void)state;
    GOOD(wad_remote_set_point(r, WAD_REMOTE_BREAK, symbol("turn"), 1, true, &why));
    for (uint32_t i = 0; i < 3; i++) { /* off the breakpoint and to it again */
        GOOD(wad_remote_go(r, &why) && wad_remote_wait(r, 20000, &stop, &why));
        GOOD(wad_remote_get(r, 0x40000004, 4, &word, &why));
        assert_int_equal(word, i);
        GOOD(wad_remote_post(r, 0x40000020, &i, 4, &why));
        GOOD(wad_remote_settle(r, &why));
    }
    wad_remote_close(r, false);
}

/* ---- servers that are none ---- */

typedef struct script {
    int listener;
    unsigned port;
    const char *const *lines; /* what it answers to each packet, as it stands; NULL ends */
    unsigned callers;         /* how many are taken, one after the other */
    unsigned heard;           /* packets in all */
    char first[200];          /* the last packet that began with this letter */
    pthread_t thread;
} script;

/* Reads up to the end of a packet; false: the caller has gone. */
static bool hear(int fd, char *packet, size_t room)
{
    size_t n = 0;
    char c;
    while (n + 1 < room && read(fd, &c, 1) == 1) {
        packet[n++] = c;
        if (n >= 3 && packet[n - 3] == '#') {
            packet[n] = 0;
            return true;
        }
    }
    return false;
}

static void *serve(void *p)
{
    script *s = p;
    unsigned line = 0;
    for (unsigned caller = 0; caller < s->callers; caller++) {
        char packet[4096];
        int fd = accept(s->listener, NULL, NULL);
        while (fd >= 0 && hear(fd, packet, sizeof packet)) {
            const char *answer = s->lines[line] ? s->lines[line++] : NULL;
            s->heard++;
            g_strlcpy(s->first, packet, sizeof s->first);
            if (!answer || !strcmp(answer, "(goes)"))
                break;
            if (write(fd, answer, strlen(answer)) < 0)
                break;
        }
        if (fd >= 0)
            close(fd);
    }
    return NULL;
}

static void start_script(script *s, const char *const *lines, unsigned callers)
{
    struct sockaddr_in a = {.sin_family = AF_INET, .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
    socklen_t size = sizeof a;
    *s = (script){.listener = socket(AF_INET, SOCK_STREAM, 0), .lines = lines, .callers = callers};
    assert_int_equal(bind(s->listener, (struct sockaddr *)&a, sizeof a), 0);
    assert_int_equal(listen(s->listener, 4), 0);
    getsockname(s->listener, (struct sockaddr *)&a, &size);
    s->port = ntohs(a.sin_port);
    pthread_create(&s->thread, NULL, serve, s);
}

static void end_script(script *s)
{
    shutdown(s->listener, SHUT_RDWR);
    close(s->listener);
    pthread_join(s->thread, NULL);
}

static wad_remote *call_script(const script *s, bool acks, char **why)
{
    const wad_remote_options o = {.timeout_ms = 300, .acks = acks};
    char *where = g_strdup_printf("127.0.0.1:%u", s->port);
    wad_remote *r = wad_remote_open(where, &o, why);
    g_free(where);
    return r;
}

static char *packet(const char *text, const char *before)
{
    GByteArray *out = g_byte_array_new();
    g_byte_array_append(out, (const guint8 *)before, (guint)strlen(before));
    wadi_pack(out, text, strlen(text), false);
    g_byte_array_append(out, (const guint8 *)"", 1);
    return (char *)g_byte_array_free(out, FALSE);
}

static void a_damaged_answer_is_asked_for_again(void **state)
{
    char *hello = packet("PacketSize=400", "+"), *none = packet("", "+"),
         *halted = packet("S05", "+"), *right = packet("78563412", "");
    const char *const lines[] = {hello, none, halted, "+$78563412#00", NULL};
    script s;
    char *why = NULL;
    uint32_t word = 0;
    (void)state;
    start_script(&s, lines, 1);
    wad_remote *r = call_script(&s, true, &why);
    GOOD(r != NULL);
    /* nobody sends it again: the answer is given up, the connection made anew, and refused */
    assert_false(wad_remote_get(r, 0x40000000, 4, &word, &why));
    assert_int_equal(word, 0);
    g_free(why);
    wad_remote_close(r, false);
    end_script(&s);
    g_free(hello);
    g_free(halted);
    g_free(none);
    g_free(right);
}

/* Answers the first byte it hears with this text, again and again, until the other end has gone. */
typedef struct flood {
    const char *opening, *text;
    int listener;
} flood;

static void *pour(void *p)
{
    const flood *f = p;
    char c, block[4096];
    size_t n = strlen(f->text);
    int fd = accept(f->listener, NULL, NULL);
    for (size_t i = 0; i < sizeof block; i++)
        block[i] = f->text[i % n];
    if (fd >= 0 && read(fd, &c, 1) == 1 &&
        send(fd, f->opening, strlen(f->opening), MSG_NOSIGNAL) > 0)
        while (send(fd, block, sizeof block / n * n, MSG_NOSIGNAL) > 0)
            ;
    close(fd);
    return NULL;
}

static void a_server_that_never_stops_is_left(void **state)
{
    /* acknowledgements, a packet's bytes, runs of 97, packets that answer nothing, notices */
    static const struct {
        const char *opening, *text;
    } floods[] = {{"+", "+"},        {"+", "-"},           {"+$", "a"},
                  {"+$", "0~"},      {"+", "$zz#f4"},      {"+", "$O41#c4"},
                  {"+", "%Stop#00"}, {"+$l<", "<a><b>]]"}, {"+", "$#00"}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(floods); i++) {
        struct sockaddr_in a = {.sin_family = AF_INET, .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
        socklen_t size = sizeof a;
        flood f = {.opening = floods[i].opening,
                   .text = floods[i].text,
                   .listener = socket(AF_INET, SOCK_STREAM, 0)};
        pthread_t thread;
        assert_int_equal(bind(f.listener, (struct sockaddr *)&a, sizeof a), 0);
        assert_int_equal(listen(f.listener, 1), 0);
        getsockname(f.listener, (struct sockaddr *)&a, &size);
        assert_int_equal(pthread_create(&thread, NULL, pour, &f), 0);
        const script s = {.port = ntohs(a.sin_port)};
        char *why = NULL;
        uint32_t word;
        wad_remote *r = call_script(&s, true, &why); /* it comes back: that is the test */
        if (r)
            assert_false(wad_remote_get(r, 0x40000000, 4, &word, &why));
        assert_non_null(why);
        g_free(why);
        wad_remote_close(r, false);
        pthread_join(thread, NULL);
        close(f.listener);
    }
}

static void what_is_no_server_is_told(void **state)
{
    static const char *const garbage[] = {"HTTP/1.0 400 Bad Request\r\n\r\n", "no\n", NULL};
    static const char *const silent[] = {NULL};
    static const char *const mute[] = {"", "", "", NULL};
    static const struct {
        const char *const *lines;
        const char *wanted;
    } servers[] = {
        {garbage, "does not acknowledge"}, {silent, "is lost"}, {mute, "does not acknowledge"}};
    (void)state;
    for (unsigned i = 0; i < G_N_ELEMENTS(servers); i++) {
        script s;
        char *why = NULL;
        start_script(&s, servers[i].lines, 1);
        gint64 began = g_get_monotonic_time();
        assert_null(call_script(&s, false, &why));
        assert_true(g_get_monotonic_time() - began < 3000000); /* never a hang */
        if (!strstr(why, servers[i].wanted))
            fail_msg("%s", why);
        g_free(why);
        end_script(&s);
    }
    char *why = NULL;
    assert_null(wad_remote_open("127.0.0.1:1", NULL, &why));
    assert_non_null(strstr(why, "nobody answers at 127.0.0.1:1"));
    g_free(why);
    assert_null(wad_remote_open("nonsense", NULL, &why));
    assert_non_null(strstr(why, "is no address"));
    g_free(why);
    assert_null(wad_remote_open("| /nowhere/server", NULL, &why));
    assert_non_null(strstr(why, "cannot be started"));
    g_free(why);
}

/* Lost in the middle: a read is asked again over a new connection, a write never. */
static void a_lost_connection_repeats_reads_only(void **state)
{
    char *hello = packet("PacketSize=400", "+"), *none = packet("", "+"),
         *halted = packet("S05", "+"), *word = packet("78563412", "+");
    const char *const reads[] = {hello, none, halted, "(goes)", hello, none, halted, word, NULL};
    const char *const writes[] = {hello, none, halted, "(goes)", hello, none, halted, word, NULL};
    script s;
    char *why = NULL;
    uint32_t value = 0;
    (void)state;
    start_script(&s, reads, 2);
    wad_remote *r = call_script(&s, true, &why);
    GOOD(r && wad_remote_get(r, 0x40000000, 4, &value, &why));
    assert_int_equal(value, 0x12345678);
    assert_int_equal(wad_remote_reconnects(r), 1);
    wad_remote_close(r, false);
    end_script(&s);
    start_script(&s, writes, 2);
    r = call_script(&s, true, &why);
    GOOD(r != NULL);
    assert_false(wad_remote_put(r, 0x40000000, 4, 1, &why));
    assert_non_null(strstr(why, "is lost"));
    assert_int_equal(s.heard, 4); /* greeting, features, state, the write once */
    g_free(why);
    wad_remote_close(r, false);
    end_script(&s);
    g_free(hello);
    g_free(halted);
    g_free(none);
    g_free(word);
}

/* ---- the server by hand ---- */

typedef struct stub {
    uint8_t memory[256];
    unsigned writes, gos, halts;
    uint32_t registers[17];
    GString *out;
} stub;

static unsigned stub_get(void *ctx, unsigned number, uint8_t *bytes, unsigned *size)
{
    stub *t = ctx;
    *size = 4;
    if (number == 16)
        return 0; /* has no value now */
    memcpy(bytes, &t->registers[number], 4);
    return 4;
}

static bool stub_set(void *ctx, unsigned number, const uint8_t *bytes)
{
    memcpy(&((stub *)ctx)->registers[number], bytes, 4);
    return true;
}

static bool stub_read(void *ctx, uint64_t address, uint8_t *bytes, size_t n)
{
    if (address > 256 || n > 256 - address)
        return false;
    memcpy(bytes, ((stub *)ctx)->memory + address, n);
    return true;
}

static bool stub_write(void *ctx, uint64_t address, const uint8_t *bytes, size_t n)
{
    stub *t = ctx;
    if (address > 256 || n > 256 - address)
        return false;
    memcpy(t->memory + address, bytes, n);
    t->writes++;
    return true;
}

static bool stub_point(void *ctx, wad_remote_point kind, uint64_t address, unsigned bytes, bool on)
{
    (void)ctx;
    (void)address;
    (void)bytes;
    (void)on;
    return kind == WAD_REMOTE_BREAK;
}

static void stub_halt(void *ctx)
{
    ((stub *)ctx)->halts++;
}

static void stub_go(void *ctx, bool step)
{
    ((stub *)ctx)->gos += step ? 100 : 1;
}

static void stub_jump(void *ctx, uint64_t address)
{
    ((stub *)ctx)->registers[15] = (uint32_t)address;
}

static char *stub_monitor(void *ctx, const char *command)
{
    (void)ctx;
    return strcmp(command, "reset") ? NULL : g_strdup("done\n");
}

static const wad_server_target stub_functions = {
    .description = "<target><architecture>arm</architecture></target>",
    .n_registers = 17,
    .get = stub_get,
    .set = stub_set,
    .read = stub_read,
    .write = stub_write,
    .point = stub_point,
    .halt = stub_halt,
    .go = stub_go,
    .jump = stub_jump,
    .monitor = stub_monitor};

static void stub_out(void *ctx, const void *data, size_t n)
{
    g_string_append_len(((stub *)ctx)->out, data, (gssize)n);
}

/* What the server answers to a packet. */
static char *ask(wad_server *s, stub *t, const char *text)
{
    char *sent = packet(text, "");
    g_string_truncate(t->out, 0);
    wad_server_feed(s, sent, strlen(sent), stub_out, t);
    g_free(sent);
    return t->out->str;
}

static wad_server *by_hand(stub *t, wad_server_target *target)
{
    char *why = NULL;
    *t = (stub){.out = g_string_new(NULL)};
    for (unsigned i = 0; i < 256; i++)
        t->memory[i] = (uint8_t)i;
    *target = stub_functions;
    target->ctx = t;
    return wad_server_new(NULL, target, &why);
}

static void the_server_answers_by_the_book(void **state)
{
    stub t;
    wad_server_target target;
    wad_server *s = by_hand(&t, &target);
    (void)state;
    assert_string_equal(ask(s, &t, "m10,4"), "+$10111213#8a");
    assert_string_equal(ask(s, &t, "m100,4"), "+$E14#aa"); /* beyond */
    assert_string_equal(ask(s, &t, "m0,ffffffff"), "+$E14#aa");
    assert_string_equal(ask(s, &t, "M20,2:beef"), "+$OK#9a");
    assert_int_equal(t.memory[0x20], 0xBE);
    assert_string_equal(ask(s, &t, "M20,4:dead"), "+$E22#a9"); /* not what it says */
    assert_int_equal(t.memory[0x20], 0xBE);
    assert_string_equal(ask(s, &t, "Mnonsense"), "+$E22#a9");
    assert_string_equal(ask(s, &t, "p0"),
                        "+$0*\"00#dc"); /* eight zeros: a run of eight would be '$' */
    assert_string_equal(ask(s, &t, "P3=78563412"), "+$OK#9a");
    assert_int_equal(t.registers[3], 0x12345678);
    assert_string_equal(ask(s, &t, "P99=00000000"), "+$E00#a5");
    assert_non_null(strstr(ask(s, &t, "g"), "78563412"));
    assert_non_null(strstr(t.out->str, "x"));
    assert_string_equal(ask(s, &t, "Z0,10,2"), "+$OK#9a");
    assert_string_equal(ask(s, &t, "Z2,10,4"), "+$#00");
    assert_string_equal(ask(s, &t, "Z9,10,4"), "+$E22#a9");
    assert_string_equal(ask(s, &t, "vMustReplyEmpty"), "+$#00");
    assert_non_null(strstr(ask(s, &t, "qXfer:features:read:target.xml:0,ffff"), "$l<target>"));
    assert_non_null(strstr(ask(s, &t, "qXfer:features:read:target.xml:0,8"), "$m<target>#"));
    assert_string_equal(ask(s, &t, "qRcmd,7265736574"), "+$646f6e650a#9d");
    assert_string_equal(ask(s, &t, "c"), "+");
    assert_int_equal(t.gos, 1);
    assert_string_equal(ask(s, &t, "m10,4"), "+"); /* it runs: nothing is answered */
    g_string_truncate(t.out, 0);
    wad_server_feed(s, "\x03", 1, stub_out, &t);
    assert_non_null(strstr(t.out->str, "$T02thread:1;#"));
    assert_int_equal(t.halts, 1);
    assert_string_equal(ask(s, &t, "s20"), "+");
    assert_int_equal(t.gos, 101);
    assert_int_equal(t.registers[15], 0x20);
    wad_server_free(s);
    g_string_free(t.out, TRUE);
}

/* Whatever comes, the server stays up, and writes only what a whole packet asks for. */
static void noise_writes_nothing(void **state)
{
    GRand *rand = g_rand_new_with_seed(7);
    stub t;
    wad_server_target target;
    wad_server *s = by_hand(&t, &target);
    unsigned whole = 0;
    (void)state;
    for (unsigned round = 0; round < 30000; round++) {
        char text[64];
        g_snprintf(text, sizeof text, "M%x,2:%04x", g_rand_int_range(rand, 0, 200),
                   g_rand_int_range(rand, 0, 65536));
        char *sent = packet(text, "");
        size_t n = strlen(sent);
        bool hit = g_rand_int_range(rand, 0, 4) != 0;
        if (hit) { /* one bit of it */
            size_t at = (size_t)g_rand_int_range(rand, 0, (gint32)n);
            sent[at] ^= (char)(1 << g_rand_int_range(rand, 0, 7));
            if (!sent[at])
                sent[at] = 'x';
        } else
            whole++;
        g_string_truncate(t.out, 0);
        wad_server_feed(s, sent, n, stub_out, &t);
        wad_server_feed(s, "\n", 1, stub_out, &t);
        if (g_rand_int_range(rand, 0, 8) == 0) {
            uint8_t noise[32];
            for (unsigned i = 0; i < sizeof noise; i++)
                noise[i] = (uint8_t)g_rand_int_range(rand, 0, 256);
            wad_server_feed(s, noise, sizeof noise, stub_out, &t);
        }
        wad_server_feed(s, "$x#00", 5, stub_out, &t); /* ends whatever had begun */
        g_free(sent);
    }
    /* a flip in the sum's digits can leave the number as it is (letters of either case) */
    assert_true(t.writes >= whole * 95 / 100 && t.writes <= whole + 30000 / 50);
    wad_server_free(s);
    g_string_free(t.out, TRUE);
    g_rand_free(rand);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_is_packed_comes_out_again),
        cmocka_unit_test(packets_are_as_the_protocol_has_them),
        cmocka_unit_test(a_real_gdbserver_is_worked_with),
        cmocka_unit_test(acknowledgements_are_kept_where_wanted),
        cmocka_unit_test(a_damaged_answer_is_asked_for_again),
        cmocka_unit_test(a_server_that_never_stops_is_left),
        cmocka_unit_test(what_is_no_server_is_told),
        cmocka_unit_test(a_lost_connection_repeats_reads_only),
        cmocka_unit_test(the_server_answers_by_the_book),
        cmocka_unit_test(noise_writes_nothing),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
