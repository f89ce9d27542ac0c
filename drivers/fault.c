/* SPDX-License-Identifier: MIT */
#include <wadium/fault.h>

bool wad_fault_take(wad_fault *fault)
{
    uint32_t *kept = wad_port_fault();
    if (!kept)
        return false;
    fault->vector = kept[0];
    fault->pc = kept[1];
    fault->lr = kept[2];
    fault->sp = kept[3];
    fault->status = kept[4];
    for (unsigned i = 0; i < 5; i++)
        fault->r[i] = kept[5 + i];
    wad_port_fault_forget();
    return true;
}

void wad_fault_print(const wad_fault *f, wad_put_fn put, void *context)
{
    static const char *const names[] = {"r0", "r1", "r2", "r3", "r12"};
    wad_print(put, context, "fault %u at 0x%08x, called from 0x%08x\r\n", (unsigned)f->vector,
              (unsigned)f->pc, (unsigned)f->lr);
    wad_print(put, context, "  sp 0x%08x  status 0x%08x\r\n ", (unsigned)f->sp,
              (unsigned)f->status);
    for (unsigned i = 0; i < 5; i++)
        wad_print(put, context, " %s 0x%08x", names[i], (unsigned)f->r[i]);
    wad_print(put, context, "\r\n");
}
