/* SPDX-License-Identifier: MIT */
/*
 * A chip's description, read from a sheet (docs/sheet-language.md).
 *
 *     wad_diags *d = wad_diags_new();
 *     wad_sheet *s = wad_sheet_read("chips/corran32.sheet", d);
 *     const wad_instance *b = wad_sheet_block(s, "CNT0");
 *     const wad_register *r = wad_layout_register(b->layout, "CTRL");
 *     printf("%s at 0x%llx\n", r->name, (unsigned long long)(b->base + r->offset));
 *     wad_sheet_free(s);
 *
 * Everything reached from a wad_sheet is read-only and lives as long as it.
 * Nothing here keeps state between calls; several threads may read one sheet.
 */
#ifndef WADIUM_HOST_SHEET_H
#define WADIUM_HOST_SHEET_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <stdio.h>

#include "diag.h"

/** An exact number; `den` > 0, lowest terms. */
typedef struct wad_rational {
    int64_t num;
    int64_t den;
} wad_rational;

/** What a number measures; base units Hz, s, 1, bytes, V, cycles, ohm, F, A. */
typedef enum wad_unit {
    WAD_UNIT_NONE,
    WAD_UNIT_HZ,
    WAD_UNIT_S,
    WAD_UNIT_PART,  /**< %, ppm */
    WAD_UNIT_POINT, /**< percentage points */
    WAD_UNIT_BYTE,
    WAD_UNIT_V,
    WAD_UNIT_CYCLE,
    WAD_UNIT_OHM,
    WAD_UNIT_F,
    WAD_UNIT_A
} wad_unit;

typedef enum wad_access {
    WAD_ACCESS_RW,
    WAD_ACCESS_RO,
    WAD_ACCESS_WO,
    WAD_ACCESS_W1C,   /**< write 1 to clear */
    WAD_ACCESS_W1S,   /**< write 1 to set */
    WAD_ACCESS_W0C,   /**< write 0 to clear */
    WAD_ACCESS_RC,    /**< cleared by reading */
    WAD_ACCESS_W1T,   /**< write 1 to toggle */
    WAD_ACCESS_W0S,   /**< write 0 to set */
    WAD_ACCESS_W0T,   /**< write 0 to toggle */
    WAD_ACCESS_RS,    /**< stored as written, set by reading */
    WAD_ACCESS_WC,    /**< cleared by any write */
    WAD_ACCESS_WS,    /**< set by any write */
    WAD_ACCESS_ONCE,  /**< stored once after reset, then no more */
    WAD_ACCESS_PULSE, /**< acts when 1 is written, reads 0 */
    WAD_ACCESS_RESERVED
} wad_access;

typedef enum wad_alias {
    WAD_ALIAS_NONE,
    WAD_ALIAS_SETS,
    WAD_ALIAS_CLEARS,
    WAD_ALIAS_TOGGLES,
    WAD_ALIAS_IS /**< another name of the same bits */
} wad_alias;

typedef struct wad_sheet wad_sheet;
typedef struct wad_expr wad_expr;
typedef struct wad_cond wad_cond;
typedef struct wad_instance wad_instance;
typedef struct wad_register wad_register;
typedef struct wad_layout wad_layout;
typedef struct wad_clock wad_clock;

typedef struct wad_enumerator {
    uint64_t code;
    const char *name;
    bool has_meaning;
    wad_rational meaning; /**< the value used in laws (`is`) */
    wad_where where;
} wad_enumerator;

struct wad_behaviour;
struct wad_clearing;

typedef struct wad_bitfield {
    const char *name;
    const char *text;
    const char *ref;
    wad_where where;
    const wad_register *reg;
    wad_access access;
    uint8_t lsb;
    uint8_t width;
    uint16_t count;   /**< elements of a field array, 0 for a plain field */
    uint16_t per_reg; /**< elements in one register; fewer than count when the array spills over */
    uint8_t step;     /**< bits between elements of a field array */
    const struct wad_cond *stable; /**< not to be changed while this holds; NULL: any time */
    const struct wad_cond *when;   /**< means something only while this holds; NULL: always */
    bool not_zero;                 /**< the value 0 is forbidden (`not 0`) */
    bool is_volatile;              /**< the chip changes it by itself: comparisons expect that */
    bool cleared_at_entry;         /**< hardware clears it when its handler is entered */
    const struct wad_clearing *clearings; /**< accesses that take it: `cleared by read DATA` */
    unsigned n_clearings;
    const struct wad_behaviour *more; /**< what it does besides; NULL: nothing */
    uint64_t must;                    /**< what reserved bits must be written as (`_ must`) */
    const wad_enumerator *enums;
    unsigned n_enums;
} wad_bitfield;

/** Registers that repeat together: `group CH[12] step 0x40 at 0x00 { reg READ at 0x00 ... }`. */
typedef struct wad_group {
    const char *name;
    wad_where where;
    uint32_t offset, step;
    uint32_t count; /**< 0: no array */
} wad_group;

struct wad_register {
    const char *name; /**< of one in a group CH_READ, as C has it */
    const char *text;
    const char *ref;
    wad_where where;
    uint32_t offset;        /**< bytes from the block's base */
    uint32_t step;          /**< bytes between elements of an array */
    uint32_t count;         /**< elements of an array, 0 for a plain register */
    uint32_t first;         /**< registers of the layout that lie before it, elements counted */
    const wad_group *group; /**< NULL: it stands alone */
    const char *member;     /**< its name in the group */
    bool is_array_member;   /**< it is an array in each element of the group */
    uint32_t group_index;   /**< of an array in a group: the group's element; else 0 */
    /** Of an array in which some elements were changed: each element's own register, NULL where it
     * is as all. NULL: all are alike. Take it by wad_register_element. */
    const wad_register *const *elements;
    const wad_register *array; /**< of such an element: the array; NULL: it is none */
    uint8_t width;             /**< bits */
    wad_access access;
    bool is_volatile; /**< all of its fields are */
    uint64_t reset;
    wad_alias alias;
    const wad_register *alias_of;
    const wad_bitfield *const *fields; /**< by ascending lsb, reserved ones included */
    unsigned n_fields;
    const struct wad_lock *lock;      /**< NULL: can be written at any time */
    const struct wad_behaviour *more; /**< what it does besides, as a whole; NULL: nothing */
    bool bytes;                       /**< its bytes may be accessed alone */
    bool bits;                        /**< each of its bits has an address of its own ... */
    bool bits_at_said;                /**< ... from this on; else from the register's */
    uint32_t bits_at;
};

/** The register that element `i` of an array is. */
static inline const wad_register *wad_register_element(const wad_register *reg, uint32_t i)
{
    return reg->elements && i < reg->count && reg->elements[i] ? reg->elements[i] : reg;
}

/** A field of one register of one block, indices resolved. */
typedef struct wad_fieldref {
    const wad_instance *block;
    const wad_register *reg;
    const wad_bitfield *field; /**< NULL: the whole register */
    uint32_t reg_index;        /**< element of a register array, else 0 */
    uint32_t index;            /**< element of a field array, else 0 */
    uint8_t lsb;
    uint8_t width;
} wad_fieldref;

/** A number split over several fields, high part first: `value DIV = HI.V : LO.V`. */
typedef struct wad_value {
    const char *name;
    const char *text;
    wad_where where;
    const wad_bitfield *const *parts;
    unsigned n_parts;
    bool write_high_first; /**< else low first */
    bool latch_low;        /**< reading the low part holds the others until they are read */
    uint32_t count;        /**< elements, when the parts lie in register arrays, else 0 */
    uint8_t width;
    const char *through; /**< a byte that holds one part while the other is accessed; NULL: none */
    bool through_read, through_write; /**< when it does */
} wad_value;

#include "behaviour.h"

typedef enum wad_role_sort {
    WAD_ROLE_FIELD, /**< one field, or an array of fields or registers */
    WAD_ROLE_VALUE,
    WAD_ROLE_REG,
    WAD_ROLE_PLACE, /**< bits that lie otherwise: see `places` */
    WAD_ROLE_SIGNAL,
    WAD_ROLE_QUANTITY,
    WAD_ROLE_LAW /**< a number by a law of other fields */
} wad_role_sort;

/** Bits of one register. */
typedef struct wad_role_part {
    wad_fieldref ref; /**< block NULL: of the block whose layout says it */
    bool low;         /**< `not`: they count inverted */
} wad_role_part;

typedef enum wad_place_form {
    WAD_PLACE_BITS,   /**< of one part, or of several joined, high part first */
    WAD_PLACE_ALL,    /**< 1 while all parts are: `CTL.ARM and CTL.GO` */
    WAD_PLACE_ALWAYS, /**< no bits: always reads the same */
    WAD_PLACE_EVENT   /**< no bits: something that happens, `write FEED = 0x6C31` */
} wad_place_form;

/** Where one element of a role is. */
typedef struct wad_role_place {
    wad_place_form form;
    const wad_role_part *parts;
    unsigned n_parts;
    uint64_t always;
    uint8_t width;          /**< bits */
    const wad_clearing *on; /**< of an event */
    unsigned n_on;
} wad_role_place;

typedef struct wad_role_code {
    const char *name;
    uint64_t value;
} wad_role_code;

/** What a code of a role says: `2 .. 7 updown`, `3 is 64`. */
typedef struct wad_role_meaning {
    uint64_t first, last;
    const char *word;   /**< of the kind, or `stopped`; NULL: a number alone */
    const wad_expr *is; /**< NULL: no number */
    wad_where where;
} wad_role_meaning;

/** One role of a kind, as a layout binds it. */
/** How a flag behaves, where the sheet says so: `tx_ready CTRL.SENT as event`. */
typedef enum wad_role_as {
    WAD_AS_KIND,  /**< nothing is said: as its kind has it */
    WAD_AS_LEVEL, /**< it tells how things are */
    WAD_AS_EVENT  /**< it is set when that begins, and stays until it is taken away */
} wad_role_as;

typedef struct wad_role {
    const char *name;
    wad_where where;
    wad_role_sort sort;
    bool indexed;                 /**< an array role: `compare[n] CC[n].VAL` */
    const wad_role_place *places; /**< an element each; none of signals and quantities */
    unsigned n_places;
    /* where the bits are one field, value or register (or an array of such) of the own layout: */
    const wad_register *reg;
    const wad_bitfield *field;
    const wad_value *value;
    const char *signal;         /**< stem of the signal's name, the index is appended */
    const char *const *signals; /**< of an array that lists them: each one's name */
    unsigned n_signals;
    wad_rational quantity; /**< in the base unit of `unit` */
    wad_unit unit;
    const wad_role_code *codes; /**< attributes: `plus 1`, `up 0` */
    unsigned n_codes;
    wad_role_as as;
    const wad_role_meaning *meanings; /**< codes of its own, in braces: instead of its field's */
    unsigned n_meanings;
    const wad_expr *law;  /**< of other fields, instead of a place; NULL: none */
    const wad_cond *when; /**< it is bound so while this holds, one an element; NULL: always */
    const struct wad_role *otherwise; /**< how it is bound else; NULL: then it reads 0 */
} wad_role;

/** A rate that fields give: `rate baud law clock / (16 * DIV.VALUE)`. */
typedef struct wad_law {
    const char *name;
    const char *text;
    wad_where where;
    const wad_expr *expr;
} wad_law;

typedef struct wad_role_info {
    const char *name;
    const char *sort; /**< "FIELD", "CODE", "REG", "SIGNAL", or "VOLT", "TIME", ...: a quantity */
    bool must;
    const char *text;
} wad_role_info;

/** What a unit is: a timer, a serial port; by its roles. One of Wadium's, or one of the sheet's own
 * (`acts as own can`), whose roles are those that the sheet names. */
typedef struct wad_kind {
    const char *name;
    const wad_role_info *roles; /**< in order */
    unsigned n_roles;
    bool own;               /**< the sheet's */
    const int16_t *enables; /**< of each role the place of its interrupt enable, `FLAG_irq`; -1 */
} wad_kind;

/** A block's register layout, elaborated for one set of parameters. */
struct wad_layout {
    const char *name;    /**< its own, also where a block has changes: "serial_uart0" */
    const char *base;    /**< as the sheet's `layout` statement says: "serial" */
    const char *variant; /**< parameters as text, "" when there are none */
    wad_where where;
    const wad_register *const *regs; /**< by ascending offset */
    unsigned n_regs;
    const wad_value *const *values;
    unsigned n_values;
    const wad_lock *const *locks;
    unsigned n_locks;
    const wad_law *laws;
    unsigned n_laws;
    const struct wad_hook *hooks;
    unsigned n_hooks;
    const wad_kind *kind; /**< NULL when it acts as nothing */
    const wad_role *roles;
    unsigned n_roles;
    uint32_t size; /**< bytes from the base to the end of the last register */
};

/** What an erratum touches; `field` NULL: the register, `reg` NULL: all of the block. */
typedef struct wad_erratum_place {
    const char *owner; /**< a block's or a layout's name; NULL: `clock` */
    const char *reg, *field;
    const char *clock;
} wad_erratum_place;

/** A correction of the sheet: `erratum "E7: ..." { change ... }`. */
typedef struct wad_erratum {
    const char *title;
    const char *ref;
    const char *workaround;
    wad_where where;
    const wad_erratum_place *places;
    unsigned n_places;
} wad_erratum;

/** Addresses of their own, which may be the same as those of others: `space direct`. Here, and in
 * debuggers, its address 0 is `at`; on the target compilers reach it in their own ways. */
typedef struct wad_space {
    const char *name;
    const char *text;
    wad_where where;
    uint64_t at, size;
} wad_space;

/** A pin of the chip. */
typedef struct wad_pin_def {
    const char *name;
    const wad_instance *port;
    unsigned number; /**< within its port */
} wad_pin_def;

typedef struct wad_pin_option {
    const wad_pin_def *pin;
    unsigned fn;
    wad_where where;
} wad_pin_option;

typedef enum wad_signal_dir {
    WAD_SIGNAL_BOTH,
    WAD_SIGNAL_OUT,
    WAD_SIGNAL_IN,
    WAD_SIGNAL_ANALOG
} wad_signal_dir;
/** "both", "out", "in", "analog" */
const char *wad_signal_dir_word(wad_signal_dir dir);

typedef struct wad_signal {
    const char *name;
    wad_signal_dir dir;
    const wad_instance *block;
    const wad_pin_option *options;
    unsigned n_options;
} wad_signal;

/** One value of a block's trigger selector: the event or level of another block that it listens to.
 */
typedef struct wad_trigger {
    uint32_t code;
    const wad_instance *from;
    const struct wad_role *role; /**< a flag of `from`, or a pin function */
    unsigned index;              /**< element of an indexed role */
    wad_where where;
} wad_trigger;

/** Bits of a block that are not the firmware's: `owned CMP[3] by "the boot ROM"`. */
typedef struct wad_owned {
    wad_fieldref ref;
    const char *by;
    wad_where where;
} wad_owned;

/** Elements of a flag that feed an interrupt line: `11 match[1 .. 3]`. */
typedef struct wad_irq_flag {
    const wad_role *role;
    unsigned first, last;
    const wad_fieldref *by; /**< this line's own enables, one an element; NULL: the flag's */
} wad_irq_flag;

/** The flags of one line; n == 0: all that no other line of the unit has. */
typedef struct wad_irq_flags {
    const wad_irq_flag *flags;
    unsigned n;
} wad_irq_flags;

/** What something draws from the supply; amperes, and amperes a megahertz of its clock. */
typedef struct wad_draws {
    wad_rational base, per_mhz;
    wad_rational active; /**< of a block, on top while it is enabled */
} wad_draws;

/** How deep the core sleeps: `sleep stop when PWR.CTRL.LEVEL = 1 stops xtal pll ...`. */
typedef struct wad_sleep_def {
    const char *name;
    wad_where where;
    wad_cond when; /**< n == 0: when no other one holds */
    const struct wad_clock *const *stops;
    unsigned n_stops;
    wad_rational wake_s; /**< from the request to the first cycle */
    wad_rational draws;  /**< amperes; clocks and blocks that go on come on top */
    bool again;          /**< behind a handler the core goes back, unless the role `stay` is set */
} wad_sleep_def;

/** A block: an address range with what lies in it; or one of several units in it (or in several
 * blocks): a function with roles, signals, lines and a clock, whose registers are its home's. */
struct wad_instance {
    const char *name; /**< of a unit: "TIM.T0", "TIM.S[3]"; of one in the chip: "TICK" */
    const char *text;
    wad_where where;
    uint64_t base;            /**< with its space's beginning */
    const wad_space *space;   /**< NULL: the one that has no name */
    const wad_layout *layout; /**< of a unit: its roles, and no register */
    const wad_instance *home; /**< of a unit: the block that it lies in; NULL: it is a block */
    const wad_clock *clock;   /**< NULL: always clocked by the core */
    wad_cond needs;
    wad_ready needs_ready;
    wad_cond reset; /**< while it holds the block is in reset; n == 0: see `needs` */
    wad_ready reset_ready;
    const int *irqs; /**< interrupt lines */
    const bool
        *irq_edge; /**< of each: the controller notes its rise, and forgets it at the entry */
    unsigned n_irqs;
    const wad_irq_flags *irq_flags; /**< of each line; NULL: see wad_irq_fed */
    const wad_signal *signals;
    unsigned n_signals;
    wad_fieldref route;  /**< the field whose value is the group of pins; reg NULL: by pin */
    const char *carries; /**< stem of the names of the pins it carries, or NULL */
    unsigned n_carries;
    const wad_trigger *triggers;
    unsigned n_triggers;
    const wad_trigger *requests; /**< of a DMA block: what a channel's selector takes */
    unsigned n_requests;
    const wad_owned *owned;
    unsigned n_owned;
    wad_draws draws;
    unsigned index; /**< in wad_sheet.blocks */
};

struct wad_clock {
    const char *name;
    wad_where where;
    wad_expr *law;   /**< NULL for an oscillator */
    bool own;        /**< of one block, chosen in it: its registers answer without */
    wad_rational hz; /**< an oscillator's frequency */
    wad_rational tolerance;
    wad_cond on;          /**< n == 0: always on */
    wad_fieldref ready;   /**< reg NULL: ready at once */
    wad_rational after_s; /**< from on to ready */
    bool bounded;
    wad_rational min_hz, max_hz;
    wad_expr *least,
        *most;             /**< limits that depend on fields, instead of these; NULL: they do not */
    wad_cond watched;      /**< while this holds a failure is noticed; n == 0: never */
    wad_fieldref switched; /**< of a choice: it shows what is selected once that runs, and the clock
                                goes on by the old one until then; reg NULL: it switches at once */
    wad_fieldref lost;     /**< flag: it was watched and has failed; reg NULL: none */
    wad_cond_term instead; /**< what hardware sets when it is lost, ref.reg NULL: nothing */
    const struct wad_signal *output; /**< the pin function it comes out at, or NULL */
    wad_rational draws;              /**< amperes while it runs */
    unsigned index;                  /**< in wad_sheet.clocks */
};

typedef struct wad_memory {
    const char *name;
    uint64_t base; /**< with its space's beginning */
    uint64_t size;
    const wad_space *space; /**< NULL: the one that has no name */
    wad_where where;
} wad_memory;

/** When a handler may be interrupted by another line. */
typedef enum wad_nests {
    WAD_NESTS_BY_PRIORITY, /**< by a more urgent one; where no priorities are, never */
    WAD_NESTS_ALWAYS,      /**< by each, while the mask is open */
    WAD_NESTS_NEVER
} wad_nests;

/** Core costs in core clock cycles; a stated model, not a measurement. */
typedef struct wad_cpu {
    const char *isa;
    unsigned access;
    unsigned interrupt_entry;
    unsigned interrupt_exit;
    unsigned interrupt_chain; /**< from one handler to the next that waits already */
    int bus_fault;            /**< interrupt line of bus faults; -1: the chip has none */
    bool aligned;             /**< a misaligned access is a fault */
    bool char_unsigned;       /**< of the target's compiler */
    unsigned int_bits;        /**< of the target's compiler: 16 or 32 */
    wad_draws draws;          /**< while it is awake */
    wad_fieldref global;      /**< 1: interrupts are let through; reg NULL: the core's own mask */
    wad_fieldref saves;       /**< saved at an entry, restored at the exit; reg NULL: none */
    wad_nests nests;
} wad_cpu;

/** What hardware writes at an event: `on entry { CPU.STATUS.I = 0 }`. */
typedef struct wad_assign {
    wad_fieldref ref;
    uint64_t value;
} wad_assign;

/** What the chip says of an interrupt line itself: `line 1 TIMERS "timers" { enabled ENA.T0 }`. */
typedef struct wad_line_def {
    unsigned line;
    const char *name; /**< of its handler; NULL: after its unit */
    const char *text;
    wad_where where;
    wad_role_place enabled, pending, priority; /**< width 0: the sheet names none */
    bool first_high;                           /**< the greater priority goes first */
} wad_line_def;

struct wad_sheet {
    const char *name;
    const char *summary;
    const char *file;
    char hash[17]; /**< of the text, 16 hexadecimal digits */
    bool big_endian;
    uint8_t bus_bits;
    wad_cpu cpu;
    wad_cond identity; /**< holds on this chip and on no other; without terms: unknown */
    const wad_memory *memories;
    unsigned n_memories;
    const wad_space *const *spaces;
    unsigned n_spaces;
    uint64_t bit_space; /**< where bits with addresses of their own are here; 0: there are none */
    const wad_clock *const *clocks;
    unsigned n_clocks;
    const wad_clock *core;             /**< the clock named `core` */
    const wad_instance *const *blocks; /**< by ascending address */
    unsigned n_blocks;
    const wad_pin_def *pins;
    unsigned n_pins;
    unsigned n_vectors;        /**< highest interrupt line + 1 */
    const wad_line_def *lines; /**< by number */
    unsigned n_lines;
    const wad_assign *entry, *exit; /**< when the core takes an interrupt, and when it leaves it */
    unsigned n_entry, n_exit;
    const wad_window *windows;
    unsigned n_windows;
    const wad_hook *hooks; /**< of the chip: others than `entry` and `exit` alone */
    unsigned n_hooks;
    wad_rational supply; /**< volts; 0: the sheet does not say */
    wad_rational supply_min, supply_max;
    const wad_sleep_def *sleeps; /**< as the sheet lists them */
    unsigned n_sleeps;
    const wad_erratum *errata;
    unsigned n_errata;
};

/** Reads a sheet, or errata over one (`over "corran32"`). NULL when it has errors or cannot be
 * opened; `diags` says why. */
wad_sheet *wad_sheet_read(const char *path, wad_diags *diags);
/** The same from memory; `name` stands for the file in messages. */
wad_sheet *wad_sheet_parse(const char *text, size_t size, const char *name, wad_diags *diags);
void wad_sheet_free(wad_sheet *sheet);

/** Adds what is doubtful in a sheet that was read (overlaps, unbound roles, ...) to `diags`. */
void wad_sheet_lint(const wad_sheet *sheet, wad_diags *diags);

/* Look-up; NULL when there is none. Names are case-sensitive. */
const wad_instance *wad_sheet_block(const wad_sheet *sheet, const char *name);
/** That of `names` which is written most like `name`, to be asked for; NULL: none is near. */
const char *wad_nearest(const char *name, const char *const *names, unsigned n);
const wad_clock *wad_sheet_clock(const wad_sheet *sheet, const char *name);
const wad_pin_def *wad_sheet_pin(const wad_sheet *sheet, const char *name);
const wad_instance *wad_sheet_irq_owner(const wad_sheet *sheet, unsigned line);
const wad_line_def *wad_sheet_line(const wad_sheet *sheet, unsigned line);
const wad_register *wad_layout_register(const wad_layout *layout, const char *name);
/** `CH[3].READ`: the register of a group, and its own element in *index (an array in a group has
 * one more: `element`, -1: none was said). NULL: there is none. */
const wad_register *wad_layout_group_register(const wad_layout *layout, const char *group,
                                              int64_t group_index, const char *member,
                                              int64_t element, int64_t *index);
const wad_bitfield *wad_register_field(const wad_register *reg, const char *name);
const wad_role *wad_layout_role(const wad_layout *layout, const char *name);
const wad_signal *wad_instance_signal(const wad_instance *block, const char *name);
const wad_enumerator *wad_bitfield_enum(const wad_bitfield *field, uint64_t code);

/** Does an erratum touch this register of this block (`reg` NULL: any of it)? */
bool wad_erratum_touches(const wad_erratum *erratum, const wad_instance *block,
                         const wad_register *reg);

/** The value of code `NAME` of a role, from its attributes or its field's enumerators. */
bool wad_role_code_value(const wad_role *role, const char *name, uint64_t *value);

/** What a code of a role says in the sheet's own list; NULL: it is in none. */
const wad_role_meaning *wad_role_meaning_of(const wad_role *role, uint64_t code);

/** How many elements an indexed role has (1 for a plain one). */
unsigned wad_role_count(const wad_role *role);

/** The name of the i-th signal of a signal role; g_free. NULL: it has no such one. */
char *wad_role_signal(const wad_role *role, unsigned i);

/** Bits of its first element, 0 for a signal. */
unsigned wad_role_width(const wad_role *role);

/** The i-th element of a role of a block or unit: the field, of joined ones the lowest; reg NULL:
 * it has no bits. */
wad_fieldref wad_role_ref(const wad_instance *block, const wad_role *role, unsigned i);
/** The field that a part is. */
wad_fieldref wad_role_part_ref(const wad_instance *block, const wad_role_part *part);
/** The block whose registers it has: itself, or a unit's home. */
const wad_instance *wad_instance_home(const wad_instance *block);

/** A field by its path: BLOCK.REG.FIELD, BLOCK.REG[2].FIELD[3], BLOCK.REG. On failure `why` says
 * what is unknown and what comes close; free it with g_free. */
bool wad_sheet_resolve(const wad_sheet *sheet, const char *path, wad_fieldref *ref, char **why);

/** Absolute address of the register that `ref` lies in. */
uint64_t wad_fieldref_address(const wad_fieldref *ref);
/** The address of its first bit among bits; false: they have none. */
bool wad_fieldref_bit_address(const wad_fieldref *ref, uint32_t *bit);
/** "0x40001000", and "direct:0x80" of an address in a space with a name. */
void wad_format_address(const wad_sheet *sheet, uint64_t address, char *text, size_t size);
/** "CLK.GATE.CNT0", with indices; free with g_free. */
char *wad_fieldref_name(const wad_fieldref *ref);
/** Bits of the register, in place. */
uint64_t wad_fieldref_mask(const wad_fieldref *ref);

/** What a host adds to the addresses of a chip whose registers lie where no page can be mapped
 * (below 64 KiB), so that plain C reaches them: 0 for the others. */
#define WAD_LOW_ADDRESS_BIAS 0x30000000u
uint32_t wad_sheet_address_bias(const wad_sheet *sheet);

/** "sets", "clears", "toggles", "is"; "" for none */
const char *wad_alias_word(wad_alias alias);
/** "rw", "w1c", ... */
const char *wad_access_word(wad_access access);

/** The register whose reading alone clears the field; NULL: none does. */
const wad_register *wad_bitfield_cleared_by_read(const wad_bitfield *field);
/** What a read of the register does besides reading ("clears OVER"; g_free); NULL: nothing. */
char *wad_register_read_effect(const wad_fieldref *reg);
/** Which bits of a register can be written, and what a reserved or read-only one is. */
uint64_t wad_register_mask(const wad_register *reg, wad_access access);
/** What a register holds after a write of `value` to the bits of `touched`: by its fields' access
 * kinds alone, without what hardware makes of it. Bits of `once` are stored. */
uint64_t wad_register_after(const wad_register *reg, uint64_t before, uint64_t value,
                            uint64_t touched);
/** Width in bytes. */
unsigned wad_register_bytes(const wad_register *reg);

/** A role that is a quantity: its unit in the sheet, and how often the driver's unit goes into it
 * (microvolts: 1 000 000). */
typedef struct wad_quantity_sort {
    const char *sort;
    wad_unit unit;
    int64_t scale;
    const char *driver_unit;
} wad_quantity_sort;
/** NULL: it is a field, a register, a code or a signal. */
const wad_quantity_sort *wad_quantity_sort_of(const wad_role_info *info);
/** True for a role that others can be started by: a flag, or a pin function that is driven. */
bool wad_role_is_event(const wad_role_info *info);
/** Does the kind's model take a number for the role that codes (`2 is 8`) or a law say? */
bool wad_kind_takes_number(const wad_kind *kind, const char *role);
/** May the role be something that happens: `feed write FEED = 0x6C31`? */
bool wad_kind_is_act(const wad_kind *kind, const char *role);
/** Does the kind's model know at any time whether the flag holds (room to send), and not only when
 * it begins (an overrun)? */
bool wad_kind_is_level(const wad_kind *kind, const char *role);
/** One of Wadium's kinds; NULL: it has none of this name. */
const wad_kind *wad_kind_named(const char *name);
/** Is it this one of Wadium's kinds? */
bool wad_acts_as(const wad_layout *layout, const char *kind);
/** Place of `role` in the kind's list, or -1. */
int wad_kind_role_index(const wad_kind *kind, const char *role);
/** The interrupt enable of a flag, both by their places in the list: `FLAG_irq`; -1: none. */
int wad_kind_enable_of(const wad_kind *kind, unsigned flag);
/** Is the role a flag: of sort FLAG, or with an interrupt enable? */
bool wad_kind_flag(const wad_kind *kind, unsigned role);
/** Does the i-th line of a unit serve the flag's element? `by`: the line's own enable, reg NULL:
 * the flag's. Without a list a single line serves all; of several element k goes to line k, and
 * flags that are no array to the first. */
bool wad_irq_fed(const wad_instance *unit, unsigned i, const wad_role *flag, unsigned element,
                 wad_fieldref *by);

/** Reads a register's value for a law; `address` as on the bus. */
typedef uint64_t (*wad_read_fn)(void *ctx, const wad_instance *block, const wad_register *reg,
                                uint32_t reg_index);

/** A clock's frequency under given register values (NULL: reset values) and the oscillator it
 * comes from. False when a law divides by zero or overflows. */
bool wad_clock_rate(const wad_sheet *sheet, const wad_clock *clock, wad_read_fn read, void *ctx,
                    wad_rational *hz, const wad_clock **root);
/** The limits of a clock under these registers (`read` NULL: after reset); false: it has none, or
 * none can be told. */
bool wad_clock_limits(const wad_clock *clock, wad_read_fn read, void *ctx, wad_rational *min,
                      wad_rational *max);

/** The first term that does not hold, of the alternative before the first `or`; NULL: the condition
 * holds. `read` gives the value of a field. */
const wad_cond_term *wad_cond_broken(const wad_cond *cond,
                                     uint64_t (*read)(void *ctx, const wad_fieldref *ref),
                                     void *ctx);
/** "CTRL.SYNC = 1 and CTRL.EN = 0"; free with g_free. */
char *wad_cond_text(const wad_cond *cond);

/** "open after 0x93, 0x6C to KEY, for 1 write"; free with g_free. */
char *wad_lock_text(const wad_lock *lock);

/** Writes a rational of hertz or seconds with a fitting unit: "48 MHz", "500 ms". */
void wad_format_hz(char *text, size_t size, wad_rational hz);
void wad_format_seconds(char *text, size_t size, wad_rational s);

/* ---- what `wadium show` and `wadium emit` write ---- */

void wad_show_chip(const wad_sheet *sheet, FILE *out);
void wad_show_block(const wad_sheet *sheet, const wad_instance *block, FILE *out);
/** `index`: the element of a register array, shown with its own address. */
void wad_show_register(const wad_sheet *sheet, const wad_instance *block, const wad_register *reg,
                       uint32_t index, FILE *out);
/** The rows of 16 bits that hold marked ones: numbers, fields, `value`, and ^ below the marked,
 * unless that is every field. `index`: element of a register array. */
void wad_show_bits(const wad_register *reg, uint32_t index, uint64_t value, uint64_t marked,
                   unsigned indent, FILE *out);
void wad_show_vectors(const wad_sheet *sheet, FILE *out);
/** For each block that listens to others: what its selector takes, and what a trigger does; how
 * many such blocks there are. */
unsigned wad_show_triggers(const wad_sheet *sheet, FILE *out);
/** "CNT0.wrap", "CNT0.match[1]"; g_free. */
char *wad_trigger_name(const wad_trigger *trigger);
/** What a value of a block's field selects, where it plays the role `trigger` or `request`; NULL:
 * nothing by that value, or the field selects nothing. */
const wad_trigger *wad_selected(const wad_instance *block, const wad_bitfield *field,
                                uint64_t value);
/** The same by the source's name. */
const wad_trigger *wad_selected_by_name(const wad_instance *block, const wad_bitfield *field,
                                        const char *name);
/** The role of the asking block that lets a request out; NULL: it always asks. */
const struct wad_role *wad_request_enable(const wad_trigger *request);
/** Of each DMA controller: its channels, and who may ask it by which number, with the field that
 * lets the asking out; how many movers. */
unsigned wad_show_dma(const wad_sheet *sheet, FILE *out);
/** Which function comes out where: of all pins (`what` NULL), one pin, a port's, or of a block's
 * signals. False: there is no such pin or block. */
bool wad_show_pins(const wad_sheet *sheet, const char *what, FILE *out);
void wad_show_chip_json(const wad_sheet *sheet, FILE *out);

/** Generated C, as design "One binding, two readers": same sheet, same bytes. */
void wad_emit_header(const wad_sheet *sheet, FILE *out);
/** Whether the tables for the drivers can say all that the sheet does: laws in whole numbers of 32
 * bits, conditions that are met by setting a field. False: `diags` says what they cannot. */
bool wad_emit_check(const wad_sheet *sheet, wad_diags *diags);
void wad_emit_roles(const wad_sheet *sheet, FILE *out);
void wad_emit_vectors(const wad_sheet *sheet, FILE *out);
void wad_emit_linker(const wad_sheet *sheet, FILE *out);
/** Commands for gdb that show registers by name with their fields. */
void wad_emit_gdb(const wad_sheet *sheet, FILE *out);
/** A sheet, board or bench with the words of before, in today's; all else as it was typed. False:
 * `diags`. */
bool wad_emit_anew(const char *path, FILE *out, wad_diags *diags);

/** Where a chip, board or bench named without a path is found: beside `beside`, in WADIUM_PATH,
 * in the installation. NULL when nowhere; free with g_free. */
char *wad_locate(const char *name, const char *extension, const char *beside);

#endif
