/* Looks once, 30 us after the rise. */
#define F_CPU 16000000UL
#include <util/delay.h>

#include "reader.h"

uint8_t read_frame(uint8_t *bytes)
{
    while (IS_HIGH)
        ;
    while (!IS_HIGH)
        ;
    while (IS_HIGH)
        ;
    for (uint8_t bit = 0; bit < 40; bit++) {
        while (!IS_HIGH)
            ;
        _delay_us(30);
        uint8_t one = IS_HIGH ? 1 : 0;
        bytes[bit / 8] = bytes[bit / 8] << 1 | one;
        while (bit < 39 && IS_HIGH)
            ;
    }
    return OK;
}
