/* The probe: all of the link but the bytes and the pins. */
#ifndef PROBE_H
#define PROBE_H

#include <stdint.h>

/* `boot` is another number after each start. */
void probe_begin(uint16_t boot);

/* What is to be done now; called again and again. */
void probe_poll(void);

#endif
