/* SPDX-License-Identifier: MIT */
/* For perf: memory copied again and again by the DMA controller of whatever chip, the core asleep.
 */
#include <wadium/dma.h>
#include <wadium/irq.h>

#include MOVER_CHIP

static wad_dma_mover mover;
static wad_dma channel;
static _Alignas(4) uint8_t from[512], to[512];

void handle_DMA0(void);
void handle_DMA0(void)
{
    wad_dma_handle(&mover);
}

static void again(void *context, wad_status status, size_t moved)
{
    (void)context;
    (void)moved;
    if (status == WAD_OK)
        (void)!wad_dma_copy(&channel, to, from, sizeof to, again, NULL);
}

int main(void)
{
    if (wad_dma_open(&mover, &MOVER_BLOCK, 0) != WAD_OK ||
        wad_dma_claim(&mover, &channel, WAD_DMA_AT_ONCE, "perf") != WAD_OK)
        return 1;
    again(NULL, WAD_OK, 0);
    wad_irq_global_on();
    for (;;)
        wad_port_sleep();
}
