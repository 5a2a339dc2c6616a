#include "steps.h"

#include "board.h"
#include "link.h"

#define LONGEST_US 500000UL
#define MOST_RUN 8
#define MOST_DRIVEN 8192

static uint8_t text[MOST_STEPS];
static uint8_t size, at;
static uint8_t run_from;   /* where the steps of a run begin */
static uint8_t run_end;    /* where they end; 0 outside of a run */
static uint16_t run_left;  /* so often once more */
static uint8_t behind_run; /* where the text goes on behind it */

static uint8_t digit(void)
{
    return at < size ? text[at++] : 0;
}

/* Most steps have one byte or two, and one that is short must be read in no time. */
static uint32_t number(void)
{
    uint8_t byte = digit();
    uint16_t low;
    uint32_t found;
    if (byte < 0x80)
        return byte;
    low = byte & 0x7F;
    byte = digit();
    low |= (uint16_t)(byte & 0x7F) << 7;
    if (byte < 0x80)
        return low;
    byte = digit();
    found = low | (uint32_t)(byte & 0x7F) << 14;
    if (byte < 0x80)
        return found;
    byte = digit();
    found |= (uint32_t)(byte & 0x7F) << 21;
    if (byte < 0x80)
        return found;
    byte = digit();
    return byte > 15 ? 0xFFFFFFFF : found | (uint32_t)byte << 28;
}

/* Where `count` steps before `end` begin: each number ends with a byte below 80. */
static uint8_t back(uint8_t end, uint8_t count)
{
    while (end > 0 && count) {
        end--;
        if (end == 0 || text[end - 1] < 0x80)
            count--;
    }
    return end;
}

static uint8_t whole(void)
{
    uint8_t length = 0, n;
    for (n = 0; n < size; n++) {
        if (text[n] < 0x80)
            length = 0;
        else if (++length > 4)
            return 0;
    }
    return size && text[size - 1] < 0x80;
}

uint8_t steps_begin(const uint8_t *given, uint8_t count)
{
    uint32_t step, steps = 0;
    uint8_t written = 0, n;
    if (count > MOST_STEPS)
        return TOO_LONG;
    for (n = 0; n < count; n++)
        text[n] = given[n];
    size = count;
    run_end = at = 0;
    if (!whole())
        return BAD_CONTENT;
    while (at < size) {
        step = number();
        if (step > LONGEST_US)
            return BAD_CONTENT;
        if (step) {
            written++;
            steps++;
            continue;
        }
        uint32_t period = at < size ? number() : 0, times = at < size ? number() : 0;
        if (!period || period > MOST_RUN || period > written || !times || times > MOST_DRIVEN)
            return BAD_CONTENT;
        steps += period * times;
        written = 0;
        if (steps > MOST_DRIVEN)
            return TOO_LONG;
    }
    at = 0;
    return steps ? 0 : BAD_CONTENT;
}

uint32_t steps_next(void)
{
    uint32_t step;
    if (run_end && at == run_end) {
        if (--run_left) {
            at = run_from;
        } else {
            at = behind_run;
            run_end = 0;
        }
    }
    if (at >= size)
        return 0;
    step = number();
    if (step)
        return step;
    run_end = at - 1;
    uint8_t period = (uint8_t)number();
    run_left = (uint16_t)number();
    behind_run = at;
    run_from = back(run_end, period);
    at = run_from;
    return number();
}
