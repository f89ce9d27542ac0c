/* SPDX-License-Identifier: MIT */
/* Register tier against the same accesses by hand; check-target compares the sizes. */
#include "corran32_roles.h"

#define ROLES corran32_counter_roles_2 /* the timer of 32 bits */
#define BASE  CORRAN32_CNT3_BASE
#define CNT   CORRAN32_CNT3

void tier_set_bit(void);
void hand_set_bit(void);
void tier_set_bit(void)
{
    wad_put(BASE, ROLES.enable, 1);
}
void hand_set_bit(void)
{
    CNT->CTRL = (CNT->CTRL & ~CORRAN32_COUNTER_CTRL_EN_MASK) | CORRAN32_COUNTER_CTRL_EN_MASK;
}

void tier_clear_flag(void);
void hand_clear_flag(void);
void tier_clear_flag(void)
{
    wad_clear(BASE, ROLES.wrap);
}
void hand_clear_flag(void)
{
    CNT->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
}

uint32_t tier_get(void);
uint32_t hand_get(void);
uint32_t tier_get(void)
{
    return wad_get(BASE, ROLES.mode);
}
uint32_t hand_get(void)
{
    return CORRAN32_GET(CORRAN32_COUNTER_CTRL_MODE, CNT->CTRL);
}

void tier_set_field(uint32_t v);
void hand_set_field(uint32_t v);
void tier_set_field(uint32_t v)
{
    wad_put(BASE, ROLES.mode, v);
}
void hand_set_field(uint32_t v)
{
    CNT->CTRL = CORRAN32_WITH(CORRAN32_COUNTER_CTRL_MODE, CNT->CTRL, v);
}

void tier_sequence(uint32_t p, uint32_t r);
void hand_sequence(uint32_t p, uint32_t r);
void tier_sequence(uint32_t p, uint32_t r)
{
    wad_put(BASE, ROLES.prescale, p);
    wad_put(BASE, ROLES.reload, r);
    wad_put(BASE, wad_at(ROLES.compare, 2), r);
    wad_clear(BASE, ROLES.wrap);
    wad_put(BASE, ROLES.wrap_irq, 1);
    wad_put(BASE, ROLES.enable, 1);
}
void hand_sequence(uint32_t p, uint32_t r)
{
    CNT->PRESC = p & CORRAN32_COUNTER_PRESC_DIV_MASK;
    CNT->RELOAD = r;
    CNT->CMP[2] = r;
    CNT->STAT = CORRAN32_COUNTER_STAT_WRAP_MASK;
    CNT->IRQEN =
        (CNT->IRQEN & ~CORRAN32_COUNTER_IRQEN_WRAP_MASK) | CORRAN32_COUNTER_IRQEN_WRAP_MASK;
    CNT->CTRL = (CNT->CTRL & ~CORRAN32_COUNTER_CTRL_EN_MASK) | CORRAN32_COUNTER_CTRL_EN_MASK;
}
