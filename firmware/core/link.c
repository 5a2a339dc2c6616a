#include "link.h"

#include "board.h"

uint8_t link_body[MOST_BODY];

static uint8_t number_sent;
static uint8_t held;    /* bytes of the body so far */
static uint8_t left;    /* bytes of the block that are to come */
static uint8_t zero;    /* a zero stands behind this block, unless the frame ends */
static uint8_t spoiled; /* what came is none of ours up to the next zero */

/* CRC-16/IBM-3740 of one more byte: four shifts at once, without a table. */
static inline uint16_t crc_of(uint16_t crc, uint8_t byte)
{
    uint8_t x = (uint8_t)(crc >> 8) ^ byte;
    x ^= x >> 4;
    return (uint16_t)(crc << 8) ^ ((uint16_t)x << 12) ^ ((uint16_t)x << 5) ^ x;
}

void link_send(uint8_t *body, uint8_t size)
{
    uint16_t crc = 0xFFFF;
    uint8_t at, end, n;
    body[1] = number_sent++;
    for (n = 0; n < size; n++)
        crc = crc_of(crc, body[n]);
    body[size++] = (uint8_t)crc;
    body[size++] = (uint8_t)(crc >> 8);
    for (at = 0; at <= size; at = end + 1) {
        for (end = at; end < size && body[end]; end++)
            ;
        board_send((uint8_t)(end - at + 1));
        for (n = at; n < end; n++)
            board_send(body[n]);
    }
    board_send(0);
}

static uint8_t whole(void)
{
    uint16_t crc = 0xFFFF;
    uint8_t n;
    if (spoiled || left || held < 4)
        return 0;
    for (n = 0; n < held - 2; n++)
        crc = crc_of(crc, link_body[n]);
    if (link_body[held - 2] != (uint8_t)crc || link_body[held - 1] != (uint8_t)(crc >> 8))
        return 0;
    return held - 2;
}

uint8_t link_take(uint8_t byte)
{
    if (!byte) {
        uint8_t size = whole();
        held = left = zero = spoiled = 0;
        return size;
    }
    if (!left) {
        if (zero && held < MOST_BODY)
            link_body[held++] = 0;
        else if (zero)
            spoiled = 1;
        left = byte - 1;
        zero = byte != 255;
    } else {
        left--;
        if (held < MOST_BODY)
            link_body[held++] = byte;
        else
            spoiled = 1;
    }
    return 0;
}
