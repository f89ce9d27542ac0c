/* SPDX-License-Identifier: MIT */
/* `wadium emit vectors`: the vector table, with weak default handlers that park and report. */
#include "emit.h"
#include "sheet/chip/c_name.h"

void wad_emit_vectors(const wad_sheet *sheet, FILE *out)
{
    wadi_emit_banner(sheet, "interrupt vectors", out);
    fprintf(
        out,
        "#include <wadium/port.h>\n\n"
        "#ifndef WAD_VECTOR_SECTION\n#define WAD_VECTOR_SECTION\n#endif\n\n"
        "typedef void (*wad_vector)(void);\n\n"
        "/* What the simulator checks a firmware against. */\n"
        "extern const char wad_firmware_chip[], wad_firmware_hash[];\n"
        "const char wad_firmware_chip[] = \"%s\";\n"
        "const char wad_firmware_hash[] = \"%s\";\n\n"
        "/* A handler named after its block, or handle_vector_N, anywhere in the firmware takes "
        "the place of\n * its default, which parks and reports its vector. */\n"
        "#define DEFAULT(name, vector) \\\n"
        "    void handle_vector_##vector(void); \\\n"
        "    __attribute__((weak)) void handle_vector_##vector(void) { "
        "wad_port_unhandled(vector); } \\\n"
        "    void name(void); \\\n"
        "    __attribute__((weak)) void name(void) { handle_vector_##vector(); }\n\n",
        sheet->name, sheet->hash);
    for (unsigned i = 0; i < sheet->n_vectors; i++) {
        char *handler = wadi_emit_handler(sheet, i);
        fprintf(out, "DEFAULT(%s, %u)\n", handler, i);
        g_free(handler);
    }
    fprintf(out,
            "\nextern const unsigned wad_vector_count;\nextern const wad_vector wad_vectors[];\n"
            "const unsigned wad_vector_count = %u;\n"
            "WAD_VECTOR_SECTION const wad_vector wad_vectors[] = {\n",
            sheet->n_vectors);
    for (unsigned i = 0; i < sheet->n_vectors; i++) {
        char *handler = wadi_emit_handler(sheet, i);
        fprintf(out, "    [%u] = %s,\n", i, handler);
        g_free(handler);
    }
    fprintf(out, "%s};\n", sheet->n_vectors ? "" : "    0,\n");
}
