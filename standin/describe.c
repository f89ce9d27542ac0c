/* SPDX-License-Identifier: MIT */
#include "describe.h"

#include <string.h>

#include "sim/core/sim.h"

#define HEAD                  "<?xml version=\"1.0\"?><!DOCTYPE target SYSTEM \"gdb-target.dtd\"><target>"
#define REG(name, bits, type) "<reg name=\"" name "\" bitsize=\"" bits "\" type=\"" type "\"/>"
#define INT(name)             REG(name, "32", "uint32")
#define LONG(name)            REG(name, "64", "int64")
#define FLOAT(name)           REG(name, "80", "i387_ext")

const char wadi_describe_arm[] =
    HEAD "<architecture>arm</architecture><feature name=\"org.gnu.gdb.arm.m-profile\">" INT("r0")
        INT("r1") INT("r2") INT("r3") INT("r4") INT("r5") INT("r6") INT("r7") INT("r8") INT("r9")
            INT("r10") INT("r11") INT("r12") REG("sp", "32", "data_ptr") INT("lr")
                REG("pc", "32", "code_ptr")
                    INT("xpsr") "</feature>"
                                "<feature name=\"org.gnu.gdb.arm.m-system\">" REG(
                                    "msp", "32", "data_ptr") REG("psp", "32", "data_ptr")
                                    INT("primask") INT("control") "</feature></target>";

/* In the order of a debugger's own numbers. */
const char wadi_describe_native[] = HEAD
    "<architecture>i386:x86-64</architecture><feature name=\"org.gnu.gdb.i386.core\">" LONG("rax")
        LONG("rbx") LONG("rcx") LONG("rdx") LONG("rsi") LONG("rdi") REG("rbp", "64", "data_ptr")
            REG("rsp", "64", "data_ptr") LONG("r8") LONG("r9") LONG("r10") LONG("r11") LONG("r12")
                LONG("r13") LONG("r14") LONG("r15") REG("rip", "64", "code_ptr")
                    REG("eflags", "32", "int") REG("cs", "32", "int") REG("ss", "32", "int")
                        REG("ds", "32", "int") REG("es", "32", "int") REG("fs", "32", "int")
                            REG("gs", "32", "int") FLOAT("st0") FLOAT("st1") FLOAT("st2")
                                FLOAT("st3") FLOAT("st4") FLOAT("st5") FLOAT("st6") FLOAT("st7")
                                    REG("fctrl", "32", "int") REG("fstat", "32", "int")
                                        REG("ftag", "32", "int") REG("fiseg", "32", "int")
                                            REG("fioff", "32", "int") REG("foseg", "32", "int")
                                                REG("fooff", "32", "int")
                                                    REG("fop", "32", "int") "</feature></target>";

#define FRAME 6u
#define STACK 7u
#define PLACE 16u

unsigned wadi_native_register(const wad_sim *sim, unsigned number, uint8_t *bytes, unsigned *size)
{
    uint64_t value;
    *size = number <= PLACE ? 8 : number >= 24 && number < 32 ? 10 : 4;
    if (number == PLACE)
        value = sim->call.pc;
    else if (number == FRAME || number == STACK) /* near enough for who unwinds by frames */
        value = (uintptr_t)sim->call.frame;
    else
        return 0;
    memcpy(bytes, &value, 8);
    return sim->call.pc ? 8 : 0;
}
