/* Frames of the probe link; docs/probe-link.md says what they are. */
#ifndef LINK_H
#define LINK_H

#include <stdint.h>

#include "board.h"

enum {
    HELLO = 0x01, ASK_LINE, CONFIGURE, LISTEN, ASK, HOST_BEAT, ASK_STAMPS,
    I_AM = 0x81, LINE_IS, DONE, REFUSED, EDGES, PROBE_BEAT, ASKED, LOST, STAMPS
};

enum {
    UNKNOWN_MESSAGE = 1, BAD_CONTENT, NO_SUCH_LINE, LINE_CANNOT, TOO_LONG, BUSY, OTHER_VERSION
};

#define MOST_BODY 100

#define SENDING 128 /* bytes that wait to be sent */

extern uint8_t link_sending[SENDING];
extern uint8_t link_tail, link_ready;

/* Gives the board a byte of what waits, if it is ready; called again and again. */
static inline void link_pump(void)
{
    if (link_tail != link_ready && board_ready()) {
        board_send(link_sending[link_tail]);
        link_tail = (link_tail + 1) & (SENDING - 1);
    }
}

/* Sends a body: kind, a place for the number, payload, and two bytes of room for the CRC. */
void link_send(uint8_t *body, uint8_t size);

/* Takes a byte; gives the size of a body (without its CRC) when a good frame is whole. */
uint8_t link_take(uint8_t byte);

/* Kind, number and payload of the frame that was taken last. */
extern uint8_t link_body[MOST_BODY];

#endif
