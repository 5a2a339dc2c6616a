/* Counts the turns of a loop, and compares each high with the low before it. */
#include "reader.h"

static __attribute__((noinline)) uint16_t turns(uint8_t level)
{
    uint16_t count = 0;
    while ((IS_HIGH != 0) == level)
        if (++count > 1000)
            return 0;
    return count;
}

uint8_t read_frame(uint8_t *bytes)
{
    if (!turns(1) || !turns(0) || !turns(1))
        return GAVE_UP;
    for (uint8_t bit = 0; bit < 40; bit++) {
        uint16_t low = turns(0), high = turns(1);
        if (!low || !high)
            return GAVE_UP;
        bytes[bit / 8] = bytes[bit / 8] << 1 | (high > low);
    }
    return OK;
}
