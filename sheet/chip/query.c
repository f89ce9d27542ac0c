/* SPDX-License-Identifier: MIT */
/* Look-up in a sheet. */
#include "query.h"

#include <glib.h>
#include <string.h>

#include "lang/bits.h"
#include "lang/suggest.h"

const wad_instance *wad_sheet_block(const wad_sheet *sheet, const char *name)
{
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        if (!strcmp(sheet->blocks[i]->name, name))
            return sheet->blocks[i];
    return NULL;
}

const wad_clock *wad_sheet_clock(const wad_sheet *sheet, const char *name)
{
    for (unsigned i = 0; i < sheet->n_clocks; i++)
        if (!strcmp(sheet->clocks[i]->name, name))
            return sheet->clocks[i];
    return NULL;
}

const wad_pin_def *wad_sheet_pin(const wad_sheet *sheet, const char *name)
{
    for (unsigned i = 0; i < sheet->n_pins; i++)
        if (!strcmp(sheet->pins[i].name, name))
            return &sheet->pins[i];
    return NULL;
}

const wad_instance *wad_sheet_irq_owner(const wad_sheet *sheet, unsigned line)
{
    for (unsigned i = 0; i < sheet->n_blocks; i++)
        for (unsigned k = 0; k < sheet->blocks[i]->n_irqs; k++)
            if (sheet->blocks[i]->irqs[k] == (int)line)
                return sheet->blocks[i];
    return NULL;
}

const wad_line_def *wad_sheet_line(const wad_sheet *sheet, unsigned line)
{
    for (unsigned i = 0; i < sheet->n_lines; i++)
        if (sheet->lines[i].line == line)
            return &sheet->lines[i];
    return NULL;
}

static const wad_irq_flag *named(const wad_irq_flags *line, const wad_role *flag, unsigned element)
{
    for (unsigned k = 0; k < line->n; k++)
        if (line->flags[k].role == flag && element >= line->flags[k].first &&
            element <= line->flags[k].last)
            return &line->flags[k];
    return NULL;
}

bool wad_irq_fed(const wad_instance *unit, unsigned i, const wad_role *flag, unsigned element,
                 wad_fieldref *by)
{
    *by = (wad_fieldref){0};
    if (!unit->irq_flags)
        return unit->n_irqs == 1 || i == (flag->indexed ? element : 0);
    const wad_irq_flag *own = named(&unit->irq_flags[i], flag, element);
    if (own && own->by)
        *by = own->by[element - own->first];
    if (unit->irq_flags[i].n)
        return own != NULL;
    for (unsigned k = 0; k < unit->n_irqs; k++) /* the rest */
        if (named(&unit->irq_flags[k], flag, element))
            return false;
    return true;
}

const wad_register *wad_layout_register(const wad_layout *layout, const char *name)
{
    for (unsigned i = 0; i < layout->n_regs; i++)
        if (!strcmp(layout->regs[i]->name, name))
            return layout->regs[i];
    return NULL;
}

const wad_register *wadi_next_register(const wad_layout *layout, wadi_registers *at)
{
    const wad_register *last = at->next ? layout->regs[at->next - 1] : NULL;
    while (last && last->elements && at->behind < last->count) {
        uint32_t i = at->behind++;
        if (!last->elements[i])
            continue;
        at->is_element = true;
        at->element = i;
        return last->elements[i];
    }
    at->behind = 0;
    at->is_element = false;
    return at->next < layout->n_regs ? layout->regs[at->next++] : NULL;
}

const wad_bitfield *wad_register_field(const wad_register *reg, const char *name)
{
    for (unsigned i = 0; i < reg->n_fields; i++)
        if (reg->fields[i]->name && !strcmp(reg->fields[i]->name, name))
            return reg->fields[i];
    return NULL;
}

const wad_role *wad_layout_role(const wad_layout *layout, const char *name)
{
    for (unsigned i = 0; i < layout->n_roles; i++)
        if (!strcmp(layout->roles[i].name, name))
            return &layout->roles[i];
    return NULL;
}

const wad_signal *wad_instance_signal(const wad_instance *block, const char *name)
{
    for (unsigned i = 0; i < block->n_signals; i++)
        if (!strcmp(block->signals[i].name, name))
            return &block->signals[i];
    return NULL;
}

const wad_register *wad_bitfield_cleared_by_read(const wad_bitfield *field)
{
    for (unsigned i = 0; i < field->n_clearings; i++) {
        const wad_clearing *c = &field->clearings[i];
        if (!c->then && !c->last.write && !c->last.field)
            return c->last.reg;
    }
    return NULL;
}

const wad_enumerator *wad_bitfield_enum(const wad_bitfield *field, uint64_t code)
{
    for (unsigned i = 0; i < field->n_enums; i++)
        if (field->enums[i].code == code)
            return &field->enums[i];
    return NULL;
}

const char *wad_alias_word(wad_alias alias)
{
    static const char *const words[] = {"", "sets", "clears", "toggles", "is"};
    return words[alias];
}

const wad_role_meaning *wad_role_meaning_of(const wad_role *role, uint64_t code)
{
    for (unsigned i = 0; i < role->n_meanings; i++)
        if (code >= role->meanings[i].first && code <= role->meanings[i].last)
            return &role->meanings[i];
    return NULL;
}

bool wad_role_code_value(const wad_role *role, const char *name, uint64_t *value)
{
    for (unsigned i = 0; i < role->n_meanings; i++) /* the first listed is the one to write */
        if (role->meanings[i].word && !strcmp(role->meanings[i].word, name)) {
            *value = role->meanings[i].first;
            return true;
        }
    for (unsigned i = 0; i < role->n_codes; i++)
        if (!strcmp(role->codes[i].name, name)) {
            *value = role->codes[i].value;
            return true;
        }
    for (unsigned i = 0; !role->n_meanings && role->field && i < role->field->n_enums; i++)
        if (!g_ascii_strcasecmp(role->field->enums[i].name, name)) {
            *value = role->field->enums[i].code;
            return true;
        }
    return false;
}

unsigned wad_role_count(const wad_role *role)
{
    return role->n_places ? role->n_places : 1;
}

char *wad_role_signal(const wad_role *role, unsigned i)
{
    if (role->sort != WAD_ROLE_SIGNAL || (i && !role->indexed))
        return NULL;
    if (role->n_signals)
        return i < role->n_signals ? g_strdup(role->signals[i]) : NULL;
    return role->indexed ? g_strdup_printf("%s%u", role->signal, i) : g_strdup(role->signal);
}

unsigned wad_role_width(const wad_role *role)
{
    return role->n_places ? role->places[0].width : 0;
}

unsigned wadi_plain_count(const wad_role *role)
{
    if (!role->indexed)
        return 1;
    if (role->field && role->field->count)
        return role->field->count;
    return role->reg->count ? role->reg->count : 1;
}

bool wadi_same_field(const wad_fieldref *a, const wad_fieldref *b)
{
    return a->block == b->block && a->reg == b->reg && a->field == b->field &&
           a->reg_index == b->reg_index && a->index == b->index;
}

/* Where element `ref->index` of `ref->field` lies: on into the next registers when it spills. */
void wadi_place_element(wad_fieldref *ref)
{
    const wad_bitfield *f = ref->field;
    if (f->count > f->per_reg)
        ref->reg_index = ref->index / f->per_reg;
    ref->lsb = (uint8_t)(f->lsb + (f->count ? ref->index % f->per_reg * f->step : 0));
    ref->width = f->width;
}

wad_fieldref wadi_plain_ref(const wad_role *role, unsigned i)
{
    const wad_bitfield *f = role->field;
    wad_fieldref ref = {.reg = role->reg, .field = f, .width = role->reg->width};
    if (f && f->count)
        ref.index = i;
    else if (role->indexed)
        ref.reg_index = i;
    if (f)
        wadi_place_element(&ref);
    return ref;
}

const wad_instance *wad_instance_home(const wad_instance *block)
{
    return block->home ? block->home : block;
}

wad_fieldref wad_role_part_ref(const wad_instance *block, const wad_role_part *part)
{
    wad_fieldref ref = part->ref;
    if (!ref.block)
        ref.block = wad_instance_home(block);
    return ref;
}

wad_fieldref wad_role_ref(const wad_instance *block, const wad_role *role, unsigned i)
{
    const wad_role_place *place = i < role->n_places ? &role->places[i] : NULL;
    if (!place || !place->n_parts)
        return (wad_fieldref){.block = wad_instance_home(block)};
    return wad_role_part_ref(block, &place->parts[place->n_parts - 1]);
}

/* ---- paths given at run time ---- */

static bool path_error(char **why, const char *what, const char *name, const char *const *names,
                       unsigned n)
{
    wadi_arena *arena = wadi_arena_new();
    *why = g_strdup_printf("no %s '%s'%s", what, name, wadi_suggest(arena, name, names, n));
    wadi_arena_free(arena);
    return false;
}

/* "NAME[3]" to NAME and 3; index 0 without brackets. */
static char *split_index(const char *part, uint32_t *index)
{
    const char *open = strchr(part, '[');
    *index = open ? (uint32_t)g_ascii_strtoull(open + 1, NULL, 0) : 0;
    return g_strndup(part, open ? (gsize)(open - part) : strlen(part));
}

static bool resolve_block(const wad_sheet *s, const char *name, wad_fieldref *ref, char **why)
{
    const char *names[256];
    ref->block = wad_sheet_block(s, name);
    for (unsigned i = 0; i < MIN(s->n_blocks, 256); i++)
        names[i] = s->blocks[i]->name;
    return ref->block || path_error(why, "block", name, names, MIN(s->n_blocks, 256));
}

static bool resolve_register(const char *name, uint32_t index, wad_fieldref *ref, char **why)
{
    const char *names[256];
    const wad_layout *l = ref->block->layout;
    ref->reg = wad_layout_register(l, name);
    for (unsigned i = 0; i < MIN(l->n_regs, 256); i++)
        names[i] = l->regs[i]->name;
    if (!ref->reg)
        return path_error(why, "register", name, names, MIN(l->n_regs, 256));
    if (index >= (ref->reg->count ? ref->reg->count : 1)) {
        *why = g_strdup_printf("register '%s' has no element %u", name, index);
        return false;
    }
    ref->reg_index = index;
    ref->reg = wad_register_element(ref->reg, index);
    ref->width = ref->reg->width;
    return true;
}

static bool resolve_field(const char *name, uint32_t index, wad_fieldref *ref, char **why)
{
    const char *names[64];
    unsigned n = 0;
    const wad_bitfield *f = wad_register_field(ref->reg, name);
    for (unsigned i = 0; i < ref->reg->n_fields && n < 64; i++)
        if (ref->reg->fields[i]->name)
            names[n++] = ref->reg->fields[i]->name;
    if (!f)
        return path_error(why, "field", name, names, n);
    if (index >= (f->count ? f->count : 1)) {
        *why = g_strdup_printf("field '%s' has no element %u", name, index);
        return false;
    }
    ref->field = f;
    ref->index = index;
    wadi_place_element(ref);
    return true;
}

/* BLOCK.CH[3].READ.FIELD to BLOCK.CH_READ[3].FIELD; NULL: there is no such group. g_free. */
static char *join_group(const wad_sheet *sheet, const char *path)
{
    char **parts = g_strsplit(path, ".", 4), *joined = NULL;
    uint32_t group_index, element;
    if (g_strv_length(parts) < 3) {
        g_strfreev(parts);
        return NULL;
    }
    const wad_instance *inst = wad_sheet_block(sheet, parts[0]);
    char *group = split_index(parts[1], &group_index), *member = split_index(parts[2], &element);
    int64_t index = 0;
    const wad_register *r =
        inst ? wad_layout_group_register(inst->layout, group,
                                         strchr(parts[1], '[') ? (int64_t)group_index : -1, member,
                                         strchr(parts[2], '[') ? (int64_t)element : -1, &index)
             : NULL;
    if (r) {
        char *at = index < 0 ? g_strdup("") : g_strdup_printf("[%u]", (unsigned)index);
        joined = g_strdup_printf("%s.%s%s%s%s", parts[0], r->name, at, parts[3] ? "." : "",
                                 parts[3] ? parts[3] : "");
        g_free(at);
    }
    g_free(group);
    g_free(member);
    g_strfreev(parts);
    return joined;
}

bool wad_sheet_resolve(const wad_sheet *sheet, const char *path, wad_fieldref *ref, char **why)
{
    char *joined = join_group(sheet, path);
    char **parts = g_strsplit(joined ? joined : path, ".", 4);
    unsigned n = g_strv_length(parts);
    bool ok = n == 2 || n == 3;
    *ref = (wad_fieldref){0};
    if (!ok)
        *why = g_strdup_printf("'%s' is not written BLOCK.REGISTER or BLOCK.REGISTER.FIELD", path);
    for (unsigned i = 0; ok && i < n; i++) {
        uint32_t index;
        char *name = split_index(parts[i], &index);
        ok = i == 0   ? resolve_block(sheet, name, ref, why)
             : i == 1 ? resolve_register(name, index, ref, why)
                      : resolve_field(name, index, ref, why);
        g_free(name);
    }
    g_strfreev(parts);
    g_free(joined);
    return ok;
}

uint64_t wad_fieldref_address(const wad_fieldref *ref)
{
    return ref->block->base + ref->reg->offset + (uint64_t)ref->reg_index * ref->reg->step;
}

bool wad_fieldref_bit_address(const wad_fieldref *ref, uint32_t *bit)
{
    const wad_register *r = ref->reg;
    uint64_t own = wad_fieldref_address(ref) - (ref->block->space ? ref->block->space->at : 0);
    *bit = (r->bits_at_said ? r->bits_at + ref->reg_index * r->width : (uint32_t)own) + ref->lsb;
    return r->bits;
}

static const wad_space *space_at(const wad_sheet *sheet, uint64_t address)
{
    for (unsigned i = 0; i < sheet->n_spaces; i++) {
        const wad_space *s = sheet->spaces[i];
        if (address >= s->at && address < s->at + s->size)
            return s;
    }
    return NULL;
}

void wad_format_address(const wad_sheet *sheet, uint64_t address, char *text, size_t size)
{
    const wad_space *s = space_at(sheet, address);
    if (s)
        snprintf(text, size, "%s:0x%02llx", s->name, (unsigned long long)(address - s->at));
    else
        snprintf(text, size, "0x%08llx", (unsigned long long)address);
}

const wad_register *wad_layout_group_register(const wad_layout *layout, const char *group,
                                              int64_t group_index, const char *member,
                                              int64_t element, int64_t *index)
{
    for (unsigned i = 0; i < layout->n_regs; i++) {
        const wad_register *r = layout->regs[i];
        if (!r->group || strcmp(r->group->name, group) || strcmp(r->member, member))
            continue;
        bool in_array = r->group->count && r->is_array_member;
        if (in_array && r->group_index != (group_index < 0 ? 0 : (uint32_t)group_index))
            continue;
        *index = in_array || !r->group->count ? element : group_index;
        return r;
    }
    return NULL;
}

static void append_index(GString *text, uint32_t index)
{
    if (index == UINT32_MAX) /* the element of whoever asks */
        g_string_append(text, "[n]");
    else
        g_string_append_printf(text, "[%u]", index);
}

static void append_register(GString *text, const wad_fieldref *ref, bool spills)
{
    const wad_register *r = ref->reg;
    bool by_group = r->group && r->group->count && !r->is_array_member;
    g_string_append(text, r->group ? r->group->name : r->name);
    if (r->group && r->group->count)
        append_index(text, by_group ? ref->reg_index : r->group_index);
    if (r->group)
        g_string_append_printf(text, ".%s", r->member);
    if (r->count && !spills && !by_group)
        append_index(text, ref->reg_index);
}

char *wad_fieldref_name(const wad_fieldref *ref)
{
    GString *text = g_string_new(ref->block ? ref->block->name : "");
    bool spills = ref->field && ref->field->count > ref->field->per_reg;
    g_string_append(text, ref->block ? "." : "");
    append_register(text, ref, spills);
    if (ref->field && ref->field->name)
        g_string_append_printf(text, ".%s", ref->field->name);
    if (ref->field && ref->field->count)
        g_string_append_printf(text, "[%u]", ref->index);
    return g_string_free(text, FALSE);
}

uint64_t wad_fieldref_mask(const wad_fieldref *ref)
{
    uint64_t ones = wadi_ones(ref->width);
    return ones << ref->lsb;
}

uint32_t wad_sheet_address_bias(const wad_sheet *sheet)
{
    bool low = sheet->n_spaces || sheet->bit_space;
    for (unsigned i = 0; i < sheet->n_blocks && !low; i++)
        low = sheet->blocks[i]->base < 0x10000;
    return low ? WAD_LOW_ADDRESS_BIAS : 0;
}

static uint64_t field_mask(const wad_bitfield *f)
{
    uint64_t ones = wadi_ones(f->width), mask = 0;
    for (unsigned i = 0; i < (f->count ? f->per_reg : 1); i++)
        mask |= ones << (f->lsb + i * f->step);
    return mask;
}

const char *wad_access_word(wad_access access)
{
    static const char *const words[] = {"rw", "ro",   "wo",    "w1c",     "w1s", "w0c",
                                        "rc", "w1t",  "w0s",   "w0t",     "rs",  "wc",
                                        "ws", "once", "pulse", "reserved"};
    return words[access];
}

uint64_t wad_register_after(const wad_register *reg, uint64_t before, uint64_t value,
                            uint64_t touched)
{
    uint64_t after = before;
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        uint64_t bits = field_mask(f) & touched, ones = value & bits, zeros = ~value & bits;
        switch (f->access) {
        case WAD_ACCESS_RW:
        case WAD_ACCESS_WO:
        case WAD_ACCESS_RS:
        case WAD_ACCESS_ONCE:
            after = (after & ~bits) | ones;
            break;
        case WAD_ACCESS_W1S:
        case WAD_ACCESS_PULSE:
            after |= ones;
            break;
        case WAD_ACCESS_W1C:
            after &= ~ones;
            break;
        case WAD_ACCESS_W1T:
            after ^= ones;
            break;
        case WAD_ACCESS_W0C:
            after &= ~zeros;
            break;
        case WAD_ACCESS_W0S:
            after |= zeros;
            break;
        case WAD_ACCESS_W0T:
            after ^= zeros;
            break;
        case WAD_ACCESS_WC:
            after &= ~bits;
            break;
        case WAD_ACCESS_WS:
            after |= bits;
            break;
        case WAD_ACCESS_RO:
        case WAD_ACCESS_RC:
        case WAD_ACCESS_RESERVED:
            break;
        }
    }
    return after;
}

uint64_t wad_register_mask(const wad_register *reg, wad_access access)
{
    uint64_t mask = 0, named = 0;
    uint64_t all = wadi_ones(reg->width);
    for (unsigned i = 0; i < reg->n_fields; i++) {
        const wad_bitfield *f = reg->fields[i];
        if (f->access != WAD_ACCESS_RESERVED)
            named |= field_mask(f);
        if (f->access == access)
            mask |= field_mask(f);
    }
    return access == WAD_ACCESS_RESERVED ? all & ~named : mask;
}

unsigned wad_register_bytes(const wad_register *reg)
{
    return reg->width / 8u;
}

const char *wad_signal_dir_word(wad_signal_dir dir)
{
    static const char *const words[] = {"both", "out", "in", "analog"};
    return words[dir];
}

bool wad_erratum_touches(const wad_erratum *erratum, const wad_instance *block,
                         const wad_register *reg)
{
    for (unsigned i = 0; i < erratum->n_places; i++) {
        const wad_erratum_place *p = &erratum->places[i];
        bool owned =
            p->owner && (!strcmp(p->owner, block->name) || !strcmp(p->owner, block->layout->base));
        if (owned && (!reg || !p->reg || !strcmp(p->reg, reg->name)))
            return true;
    }
    return false;
}

const wad_cond_term *wad_cond_broken(const wad_cond *cond,
                                     uint64_t (*read)(void *ctx, const wad_fieldref *ref),
                                     void *ctx)
{
    const wad_cond_term *first = NULL;
    for (const wad_cond *c = cond; c; c = c->or_else) {
        const wad_cond_term *broken = NULL;
        for (unsigned i = 0; i < c->n && !broken; i++)
            if (!wad_cond_term_met(&c->terms[i], read(ctx, &c->terms[i].ref)))
                broken = &c->terms[i];
        if (!broken)
            return NULL;
        first = first ? first : broken;
    }
    return first;
}

static void print_term(const wad_cond_term *t, GString *text)
{
    const wad_enumerator *e = t->ref.field ? wad_bitfield_enum(t->ref.field, t->value) : NULL;
    char *name = wad_fieldref_name(&t->ref);
    g_string_append_printf(text, "%s %s %llu", name,
                           t->equal ? "=" : "!=", (unsigned long long)t->value);
    if (t->last != t->value)
        g_string_append_printf(text, " .. %llu", (unsigned long long)t->last);
    else if (e)
        g_string_append_printf(text, " %s", e->name);
    g_free(name);
}

char *wad_cond_text(const wad_cond *cond)
{
    GString *text = g_string_new(NULL);
    for (const wad_cond *c = cond; c; c = c->or_else) {
        for (unsigned i = 0; i < c->n; i++) {
            g_string_append(text, i ? " and " : "");
            print_term(&c->terms[i], text);
        }
        g_string_append(text, c->or_else ? " or " : "");
    }
    return g_string_free(text, FALSE);
}
