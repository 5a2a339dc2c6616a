/* What a board must offer to the probe, and nothing else: whoever has another chip writes these.
 *
 * All times are ticks of the board's clock, which counts up and never stops. `low` wraps; whoever
 * compares two of them subtracts.
 */
#ifndef BOARD_H
#define BOARD_H

#include <stdint.h>

#include "lines.h" /* of the board: LINES, TICK_PS, BUFFER, NAME, MOST_STEPS, HELD */

struct tick {
    uint32_t low, high;
};

/* What happened on a line. A board gives them in the order of time, but for a few µs. */
struct edge {
    uint8_t what; /* bits 0 to 2 the line, and those below; others are the board's own */
    uint16_t near; /* the low bits of its tick: enough between edges that follow each other */
};

#define EDGE_LINE 0x07
#define EDGE_LEVEL 0x08 /* behind it; as before it where a whole pulse was too short to be seen */
#define EDGE_LOOSE 0x10 /* nobody knows when it came, only that it was not after its tick */
#define NO_EDGE 0xFF    /* there is none */

struct exact {
    uint32_t wrong_ns, shortest_ns, seen_ns; /* as in docs/probe-link.md, Stamps */
};

enum { CAN_PULL_LOW = 1, CAN_DRIVE_HIGH = 2, CAN_PULL_UP = 4 };

/* The clock. */
void board_now(struct tick *now);

/* The serial line: a byte is given when the board is ready for it; receiving gives -1 when nothing
 * came. */
uint8_t board_ready(void);
void board_send(uint8_t byte);
int16_t board_receive(void);

/* Lines: the level now, what they can, how exact they are; edges come only of those listened to. */
uint8_t board_level(uint8_t line);
uint8_t board_can(uint8_t line);
void board_exact(uint8_t line, struct exact *exact);
void board_pull_up(uint8_t line, uint8_t on);
uint8_t board_pulls_up(uint8_t line);
void board_listen(uint8_t line, uint8_t on);

/* The next edge; when there is none, all up to the time of the call were given. */
struct edge board_take(void);

/* The whole tick of an edge that was just taken; asked of some edge at least every 60 ms. */
uint32_t board_tick(struct edge edge);

/* Edges of a line that found no room since it was asked last. Recording rests from the first of
 * them until `board_go_on`. */
uint8_t board_overflowed(void);
uint16_t board_lost(uint8_t line);
void board_go_on(void);

/* An ask: the board takes steps from `steps_next` until there is none, and keeps the times by
 * itself. `board_ask_over` gives 1 when it is over, with the ticks of its first step and its end. */
void board_ask(uint8_t line, uint8_t drive_high);
void board_ask_stop(void);
uint8_t board_ask_over(uint32_t *begin, uint32_t *end);

/* A light for people. */
void board_light(uint8_t on);

#endif
