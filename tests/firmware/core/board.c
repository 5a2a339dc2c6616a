/* What is sent is kept, so that a test can look at it. */
#include "board.h"
#include "link.h"

uint8_t sent[4096];
int sent_count;

uint8_t board_ready(void)
{
    return 1;
}

void board_send(uint8_t byte)
{
    sent[sent_count++] = byte;
}

void pump_all(void)
{
    while (link_tail != link_ready)
        link_pump();
}
