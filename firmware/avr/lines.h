/* The lines of the boards, and what of them the portable part must know. */
#ifndef LINES_H
#define LINES_H

#define TICK_PS 500000UL
#define BUFFER 255
#define MOST_STEPS 80

#if defined(__AVR_ATmega328P__)
#define NAME "Pivet probe 328P"
#define LINES 6
#define LINE_NAMES "D2\0 D3\0 D4\0 D8\0 D9\0 A0\0 "
#define LINE_IS_FINE(line) ((line) == 3)
#define MESSAGES 3 /* so many lines at once can have edges that wait to be sent ... */
#define HELD 64    /* ... in so many bytes */
#elif defined(__AVR_ATmega2560__)
#define NAME "Pivet probe 2560"
#define LINES 8
#define LINE_NAMES "D2\0 D3\0 D18\0D19\0D10\0D20\0D49\0D48\0"
#define LINE_IS_FINE(line) ((line) >= 6)
#define MESSAGES 8
#define HELD 100
#endif

#define NAME_SIZE 4

#include <avr/pgmspace.h>

#define FLASH PROGMEM
#define READ_FLASH16(address) pgm_read_word(address)

extern const char line_names[] PROGMEM;

/* A letter of a line's name. */
static inline char line_name(uint8_t line, uint8_t at)
{
    return at < NAME_SIZE ? (char)pgm_read_byte(line_names + NAME_SIZE * line + at) : 0;
}

#endif
