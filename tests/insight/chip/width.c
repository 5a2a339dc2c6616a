/* Measures each high with a timer; a high of more than 30 us is a 1. */
#include "reader.h"

#define US 16
#define WAIT(level) \
    do { \
        begin = TCNT1; \
        while (IS_HIGH != ((level) ? 1 << 2 : 0)) \
            if ((uint16_t)(TCNT1 - begin) > 100 * US) \
                return GAVE_UP; \
    } while (0)

uint8_t read_frame(uint8_t *bytes)
{
    uint16_t begin;
    WAIT(0);
    WAIT(1);
    WAIT(0);
    for (uint8_t bit = 0; bit < 40; bit++) {
        WAIT(1);
        begin = TCNT1;
        uint16_t rise = begin;
        WAIT(0);
        uint8_t one = (uint16_t)(TCNT1 - rise) > 30 * US;
        bytes[bit / 8] = bytes[bit / 8] << 1 | one;
    }
    return OK;
}
