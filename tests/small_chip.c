/* SPDX-License-Identifier: MIT */
#include "small_chip.h"

#include <string.h>

wad_sim *small_sim;
char small_story[256];
void (*small_prepare)(wad_sim *sim);

uint32_t in(uint32_t at)
{
    return wad_port_read32(at & ~0xFFFu, at & 0xFFF);
}

void out(uint32_t at, uint32_t value)
{
    wad_port_write32(at & ~0xFFFu, at & 0xFFF, value);
}

uint8_t in8(uint32_t at)
{
    return wad_port_read8(at & ~0xFFFu, at & 0xFFF);
}

void out8(uint32_t at, uint8_t value)
{
    wad_port_write8(at & ~0xFFFu, at & 0xFFF, value);
}

wad_sheet *small_parse(const char *text)
{
    wad_diags *diags = wad_diags_new();
    wad_sheet *sheet = wad_sheet_parse(text, strlen(text), "t.sheet", diags);
    if (!sheet)
        wad_diags_print(diags, stderr);
    wad_diags_free(diags);
    assert_non_null(sheet);
    return sheet;
}

/* All findings as text; the run's checks have held. */
static GString *run(const char *text, int (*body)(void), const wad_handler *handlers, unsigned n,
                    unsigned *count)
{
    char *why = NULL;
    wad_sheet *sheet = small_parse(text);
    GString *found = g_string_new(NULL);
    *small_story = 0;
    small_sim = wad_sim_new(sheet, &why);
    if (!small_sim)
        fail_msg("%s", why);
    if (small_prepare)
        small_prepare(small_sim);
    wad_sim_attach(small_sim, body, handlers, n);
    wad_sim_run(small_sim, WAD_PS_PER_S / 100);
    if (*small_story)
        fail_msg("%s", small_story);
    *count = wad_sim_finding_count(small_sim);
    for (unsigned i = 0; i < *count; i++) {
        const wad_finding *f = wad_sim_finding(small_sim, i);
        g_string_append_printf(found, "W%u: %s\n", f->kind, f->what);
    }
    wad_sim_free(small_sim);
    wad_sheet_free(sheet);
    return found;
}

void small_run_handlers(const char *text, int (*body)(void), const wad_handler *handlers,
                        unsigned n, unsigned findings)
{
    unsigned count;
    GString *found = run(text, body, handlers, n, &count);
    if (findings != ANY_FINDINGS && count != findings)
        fail_msg("%u findings, not %u: %s", count, findings, found->str);
    g_string_free(found, TRUE);
}

void small_run(const char *text, int (*body)(void), unsigned findings)
{
    small_run_handlers(text, body, NULL, 0, findings);
}

void small_finds(const char *text, int (*body)(void), const char *words)
{
    unsigned count;
    GString *found = run(text, body, NULL, 0, &count);
    if (!strstr(found->str, words))
        fail_msg("no finding says '%s': %s", words, found->str);
    g_string_free(found, TRUE);
}

void small_refused(const char *text, const char *words)
{
    char *errors = test_sheet_errors(text);
    if (!strstr(errors, words))
        fail_msg("no error says '%s': %s", words, errors);
    g_free(errors);
}

void small_run_whole(const char *chip, const char *program, const char *verdict)
{
    char *folder = test_folder(), *out, *err;
    char *of = g_strdup_printf(SOURCE_DIR "/tests/chips/%s/", chip);
    char *sheet = g_strdup_printf("%s%s.sheet", of, chip);
    char *source = g_strdup_printf("%s%s.c", of, program);
    char *bench = g_strdup_printf("%s%s.bench", of, program);
    char *firmware = g_strdup_printf("%s/%s.wfw", folder, program);
    if (WADIUM(&out, &err, "build", sheet, source, "-o", firmware))
        fail_msg("%s", err);
    g_free(out);
    g_free(err);
    if (WADIUM(&out, &err, "run", bench, "-d", folder) || !strstr(out, verdict))
        fail_msg("%s%s", out, err);
    char *all[] = {out, err, of, sheet, source, bench, firmware};
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        g_free(all[i]);
    test_remove(folder);
}
