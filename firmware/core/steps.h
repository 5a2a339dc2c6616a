/* The steps of an ask, read from their text as they are needed. */
#ifndef STEPS_H
#define STEPS_H

#include <stdint.h>

/* 0 when the text is a good one, else the reason of Refused. */
uint8_t steps_begin(const uint8_t *text, uint8_t size);

/* The next step, µs; 0 behind the last. */
uint32_t steps_next(void);

#endif
