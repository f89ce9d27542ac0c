/* SPDX-License-Identifier: MIT */
#include "programs.h"

/*
 * A program is a handful of functions of different sorts, each a way in which compilers use a core:
 * structures and arrays by value and by pointer, several loads in a row, switches as jump tables,
 * calls by pointer, recursion, 64-bit arithmetic, shifts by a register, bit-fields, narrow signed
 * loads. main calls each of them several times and folds what they return.
 */

typedef struct writer {
    GRand *rand;
    GString *out;
    unsigned functions;
} writer;

static int any(writer *w, int low, int high)
{
    return g_rand_int_range(w->rand, low, high);
}

#define PUT(...) g_string_append_printf(w->out, __VA_ARGS__)

/* ---- expressions over a, b, c (uint32_t) and p[0..7] ---- */

static void constant(writer *w)
{
    static const guint32 corners[] = {0, 1, 2, 7, 31, 255, 256, 65535, 0x7FFFFFFF, 0x80000000};
    guint32 x = any(w, 0, 2) ? corners[any(w, 0, G_N_ELEMENTS(corners))] : g_rand_int(w->rand);
    PUT("0x%Xu", x);
}

static void expression(writer *w, int depth);

static void leaf(writer *w)
{
    static const char *const names[] = {"a", "b", "c", "p[0]", "p[1]", "p[2]", "p[(a ^ b) & 7]"};
    if (any(w, 0, 4))
        PUT("%s", names[any(w, 0, G_N_ELEMENTS(names))]);
    else
        constant(w);
}

static void binary(writer *w, int depth, const char *format_left, const char *between,
                   const char *after)
{
    PUT("%s", format_left);
    expression(w, depth - 1);
    PUT("%s", between);
    expression(w, depth - 1);
    PUT("%s", after);
}

static void expression(writer *w, int depth)
{
    static const char *const plain[] = {" + ", " - ", " * ", " ^ ", " & ", " | "};
    static const char *const compared[] = {" < ", " >= ", " == ", " > ", " <= ", " != "};
    if (depth == 0) {
        leaf(w);
        return;
    }
    switch (any(w, 0, 14)) {
    case 0:
        binary(w, depth, "(", " << (", " & 31))");
        break;
    case 1:
        binary(w, depth, "(", " >> (", " & 31))");
        break;
    case 2: /* of the sign, by division so that C says what comes out */
        binary(w, depth, "asr(", ", ", ")");
        break;
    case 3:
        binary(w, depth, "(", " / (", " | 1u))");
        break;
    case 4:
        binary(w, depth, "(", " % (", " | 1u))");
        break;
    case 5:
        binary(w, depth, "ror(", ", ", ")");
        break;
    case 6:
        PUT("(uint32_t)(int8_t)(");
        expression(w, depth - 1);
        PUT(")");
        break;
    case 7:
        PUT("(uint32_t)(int16_t)(");
        expression(w, depth - 1);
        PUT(")");
        break;
    case 8:
        PUT("(uint32_t)((int32_t)");
        leaf(w);
        PUT("%s(int32_t)", compared[any(w, 0, G_N_ELEMENTS(compared))]);
        leaf(w);
        PUT(")");
        break;
    case 9:
        PUT("(");
        expression(w, depth - 1);
        PUT("%s", compared[any(w, 0, G_N_ELEMENTS(compared))]);
        binary(w, depth, "", " ? ", " : c)");
        break;
    default:
        binary(w, depth, "(", plain[any(w, 0, G_N_ELEMENTS(plain))], ")");
    }
}

static void assign(writer *w, const char *indent)
{
    static const char *const to[] = {"a", "b", "c", "p[a & 7]", "p[3]"};
    static const char *const how[] = {"=", "+=", "^=", "-="};
    PUT("%s%s %s ", indent, to[any(w, 0, G_N_ELEMENTS(to))], how[any(w, 0, G_N_ELEMENTS(how))]);
    expression(w, any(w, 1, 4));
    PUT(";\n");
}

static void statements(writer *w, const char *indent, int n)
{
    while (n--)
        assign(w, indent);
}

/* ---- functions: uint32_t f(uint32_t a, uint32_t b, uint32_t c, uint32_t *p) ---- */

static void head(writer *w)
{
    PUT("static NOINLINE uint32_t f%u(uint32_t a, uint32_t b, uint32_t c, uint32_t *p)\n{\n",
        w->functions++);
}

static void tail(writer *w)
{
    PUT("    return a ^ ror(b, 7) ^ ror(c, 13);\n}\n\n");
}

static void straight(writer *w)
{
    head(w);
    statements(w, "    ", any(w, 3, 9));
    tail(w);
}

static void loop(writer *w)
{
    head(w);
    PUT("    for (uint32_t i = 0; i < (%s & %d) + 1; i++) {\n", any(w, 0, 2) ? "a" : "p[1]",
        any(w, 3, 40));
    statements(w, "        ", any(w, 1, 4));
    PUT("        if (a %% 5 == %d)\n            continue;\n        b += i;\n", any(w, 0, 5));
    if (any(w, 0, 2))
        PUT("        if (c > 0x%Xu && i > 3)\n            break;\n", g_rand_int(w->rand));
    PUT("    }\n");
    tail(w);
}

/* Dense cases become a table of addresses, wide ones a tree. */
static void switches(writer *w)
{
    int cases = any(w, 4, 14), step = any(w, 0, 3) ? 1 : any(w, 2, 90);
    head(w);
    PUT("    switch (%s %% %u) {\n", any(w, 0, 2) ? "a" : "(b ^ p[2])",
        (unsigned)(cases * step + 2));
    for (int i = 0; i < cases; i++) {
        PUT("    case %d:\n", i * step);
        statements(w, "        ", any(w, 1, 3));
        if (any(w, 0, 4))
            PUT("        break;\n");
        else if (i + 1 < cases)
            PUT("        /* FALLTHROUGH */\n");
    }
    PUT("        break;\n    default:\n");
    statements(w, "        ", 1);
    PUT("    }\n");
    tail(w);
}

static void by_value(writer *w)
{
    unsigned n = w->functions;
    PUT("struct s%u { %s x; uint32_t y[%d]; %s z; uint64_t u; };\n", n,
        any(w, 0, 2) ? "uint8_t" : "int16_t", any(w, 1, 4), any(w, 0, 2) ? "int8_t" : "uint32_t");
    PUT("static NOINLINE struct s%u mix%u(struct s%u s, uint32_t k)\n{\n"
        "    s.x = (int8_t)(s.x + (int)(k & 63));\n    s.y[0] ^= k * 0x%Xu;\n"
        "    s.u = s.u * 0x%Xu + s.y[0];\n    s.z = (int8_t)(s.u >> %d);\n    return s;\n}\n",
        n, n, n, g_rand_int(w->rand), g_rand_int(w->rand), any(w, 1, 60));
    head(w);
    PUT("    struct s%u s = {(int8_t)a, {b}, (int8_t)c, a};\n", n);
    PUT("    for (uint32_t i = 0; i < %d; i++)\n        s = mix%u(s, p[i & 7] + i);\n",
        any(w, 1, 6), n);
    PUT("    a += (uint32_t)s.x;\n    b ^= s.y[0];\n    c -= (uint32_t)s.z + (uint32_t)(s.u >> "
        "32);\n");
    tail(w);
}

/* Several loads and stores in a row: of three, four or five words from one base. */
static void several(writer *w)
{
    unsigned n = w->functions;
    PUT("static NOINLINE uint32_t use%u(uint32_t a, uint32_t b, uint32_t c, uint32_t d)\n{\n"
        "    return a * 3 + b * 5 + c * 7 + d;\n}\n",
        n);
    PUT("static NOINLINE uint32_t first%u(const uint32_t *q)\n{\n"
        "    return use%u(q[0], q[1], q[2], 0);\n}\n",
        n, n);
    PUT("struct b%u { uint32_t w[%d]; };\n", n, any(w, 3, 8));
    PUT("static NOINLINE void copy%u(struct b%u *to, const struct b%u *from)\n{\n    *to = "
        "*from;\n}\n",
        n, n, n);
    head(w);
    PUT("    struct b%u x = {{a, b, c}}, y = {{0}};\n    copy%u(&y, &x);\n"
        "    a += first%u(y.w) + use%u(p[4], p[5], p[6], y.w[1]);\n    b ^= first%u(p + (c & "
        "3));\n",
        n, n, n, n, n);
    tail(w);
}

static void by_pointer(writer *w)
{
    head(w);
    PUT("    static uint32_t (*const table[])(uint32_t, uint32_t, uint32_t, uint32_t *) = {");
    for (unsigned i = 0; i < 4; i++)
        PUT("%sf%d", i ? ", " : "", any(w, 0, (int)w->functions - 1));
    PUT("};\n    a ^= table[b & 3](b, c, a, p);\n    c += table[(a >> 9) & 3](a, b, c, p);\n");
    tail(w);
}

static void recursive(writer *w)
{
    unsigned n = w->functions;
    PUT("static NOINLINE uint32_t deep%u(uint32_t n, uint32_t a, uint32_t *p)\n{\n"
        "    if (n == 0 || n > 12)\n        return a;\n    p[n & 7] += a;\n"
        "    uint32_t x = deep%u(n - 1, a * 0x%Xu + n, p);\n"
        "    return n & 1 ? x ^ deep%u(n / 2, a + p[n & 7], p) : x + n;\n}\n",
        n, n, g_rand_int(w->rand), n);
    head(w);
    PUT("    a += deep%u(b & 15, c, p);\n", n);
    tail(w);
}

static void wide(writer *w)
{
    static const char *const ops[] = {"+", "-", "*", "^", "&", "|"};
    head(w);
    PUT("    uint64_t x = (uint64_t)a << 32 | b, y = (uint64_t)c * p[0] + 1;\n");
    for (int i = any(w, 2, 7); i > 0; i--) {
        if (any(w, 0, 3) == 0)
            PUT("    x = x %s (c & 63);\n", any(w, 0, 2) ? "<<" : ">>");
        else if (any(w, 0, 5) == 0)
            PUT("    x = x %s (y | 1);\n", any(w, 0, 2) ? "/" : "%");
        else if (any(w, 0, 5) == 0)
            PUT("    y += (uint64_t)((int64_t)x < (int64_t)y) + (x >= y);\n");
        else
            PUT("    %s = x %s (y + 0x%Xu);\n", any(w, 0, 2) ? "x" : "y", ops[any(w, 0, 6)],
                g_rand_int(w->rand));
    }
    PUT("    a = (uint32_t)x;\n    b ^= (uint32_t)(x >> 32);\n    c += (uint32_t)y ^ (uint32_t)(y "
        ">> 32);\n");
    tail(w);
}

static void fields(writer *w)
{
    unsigned n = w->functions;
    int one = any(w, 1, 20), two = any(w, 1, 12), three = any(w, 1, 32);
    PUT("struct g%u { unsigned x : %d; signed y : %d; unsigned z : %d; };\n", n, one, two + 1,
        three);
    head(w);
    PUT("    struct g%u g = {0};\n    g.x = a & 0x%Xu;\n    g.z = b & 0x%Xu;\n", n, (1u << one) - 1,
        three == 32 ? ~0u : (1u << three) - 1);
    PUT("    g.y = (int)(c & 0x%Xu) - %d;\n", (1u << two) - 1, 1 << (two - 1));
    PUT("    for (unsigned i = 0; i < 5; i++)\n        g.x = (g.x + p[i]) & 0x%Xu;\n",
        (1u << one) - 1);
    PUT("    a += g.x;\n    b -= (uint32_t)g.y;\n    c ^= g.z;\n");
    tail(w);
}

static void narrow(writer *w)
{
    head(w);
    PUT("    int8_t s[16];\n    uint16_t h[8];\n    for (uint32_t i = 0; i < 16; i++)\n"
        "        s[i] = (int8_t)(a >> (i & 15) ^ i * %du);\n    for (uint32_t i = 0; i < 8; i++)\n"
        "        h[i] = (uint16_t)(p[i] + b);\n",
        any(w, 1, 200));
    PUT("    for (uint32_t i = 0; i < 16; i++) {\n        c += (uint32_t)(s[(i * %du) & 15] * "
        "%d);\n"
        "        b ^= (uint32_t)((int16_t)h[i & 7] < s[i]) << i;\n    }\n",
        any(w, 1, 9), any(w, 1, 30));
    tail(w);
}

/* ---- a whole one ---- */

static const char prelude[] =
    "#include <stdint.h>\n#define NOINLINE __attribute__((noinline))\n"
    "void program(uint32_t *results);\n"
    "static uint32_t ror(uint32_t x, uint32_t by)\n{\n    by &= 31;\n"
    "    return by ? x >> by | x << (32 - by) : x;\n}\n"
    "static uint32_t asr(uint32_t x, uint32_t by)\n{\n    by &= 31;\n"
    "    return x >> by | (x >> 31 && by ? ~(0xFFFFFFFFu >> by) : 0);\n}\n\n";

char *test_program(guint32 seed)
{
    static void (*const sorts[])(writer *) = {straight,   loop,      switches, by_value, several,
                                              by_pointer, recursive, wide,     fields,   narrow};
    writer one = {g_rand_new_with_seed(seed), g_string_new(prelude), 0}, *w = &one;
    straight(w);
    for (unsigned i = 0; i < 12; i++)
        sorts[i < G_N_ELEMENTS(sorts) ? i : (guint)any(w, 0, G_N_ELEMENTS(sorts))](w);
    PUT("void program(uint32_t *results)\n{\n    uint32_t p[8], x = 0x%Xu;\n"
        "    for (uint32_t i = 0; i < 8; i++)\n        p[i] = x = x * 1664525u + 1013904223u;\n",
        g_rand_int(w->rand));
    for (unsigned i = 0; i < PROGRAM_RESULTS; i++)
        PUT("    results[%u] = x = f%u(x, p[%u], 0x%Xu, p);\n", i, i % w->functions, i % 8,
            any(w, 0, 3) ? g_rand_int(w->rand) : (guint32)any(w, 0, 70));
    PUT("}\n");
    g_rand_free(one.rand);
    return g_string_free(one.out, FALSE);
}
