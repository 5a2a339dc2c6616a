/* The ATmega328P and the ATmega2560 at 16 MHz. */

#include "board.h"

#include <avr/eeprom.h>
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/pgmspace.h>

#include "pins.h"
#include "probe.h"
#include "steps.h"

#ifndef BAUD
#define BAUD 1000000UL
#endif

#define TICKS_PER_US 2
#define SERVED 2     /* ticks from an edge to its stamp, in the middle */
#define CHAINED 7    /* an edge so soon behind another had to wait for it */
#define WAITED 2     /* for so long, in the middle */
#define AT_HAND 60   /* a step this near is waited for, ticks */
#define LEAD 10      /* ticks from the end of waiting to the pin */
#define PULSE_LEAD 2 /* the same within a short low */

/* Of a line: its port, and how its interrupt is switched on. */
enum { INT, CHANGE, CAPTURE };

struct pin {
    volatile uint8_t *in, *ddr, *port;
    uint8_t bit;
    uint8_t how, number; /* of the interrupt, the group, or the timer */
};

#define PIN(letter, bit, how, number) \
    {&PIN##letter, &DDR##letter, &PORT##letter, 1 << bit, how, number}

#if defined(__AVR_ATmega328P__)
static const struct pin pins[LINES] PROGMEM = {
    PIN(D, 2, INT, 0), PIN(D, 3, INT, 1), PIN(D, 4, CHANGE, 2),
    PIN(B, 0, CAPTURE, 1), PIN(B, 1, CHANGE, 0), PIN(C, 0, CHANGE, 1),
};
#else
static const struct pin pins[LINES] PROGMEM = {
    PIN(E, 4, INT, 4), PIN(E, 5, INT, 5), PIN(D, 3, INT, 3), PIN(D, 2, INT, 2),
    PIN(B, 4, CHANGE, 0), PIN(D, 1, INT, 1), PIN(L, 0, CAPTURE, 4), PIN(L, 1, CAPTURE, 5),
};
#endif

static volatile uint8_t *group(uint8_t number)
{
    return number == 0 ? &PCMSK0 : number == 1 ? &PCMSK1 : &PCMSK2;
}

static struct pin pin_of(uint8_t line)
{
    struct pin found;
    memcpy_P(&found, &pins[line], sizeof found);
    return found;
}

const char line_names[] PROGMEM = LINE_NAMES;

extern uint8_t ring[3][256];
extern uint8_t received[128];

/* Counted where edges find no room; see edges.S. */
volatile uint16_t lost[LINES];

static uint8_t rx_tail;
static uint32_t wraps; /* of the timer, all of them */
static uint32_t clock; /* of the last edge taken, or of the time when there was none */
static uint8_t pulled_up;

/* A step of an ask, ticks; `near` again where it is short, and 0 where it is not. */
struct step {
    uint8_t near;
    uint32_t far;
};

static struct {
    volatile uint8_t line, high, driving, going, over, begun;
    volatile uint8_t *ddr, *port;
    uint8_t bit;
    struct step next[2]; /* the steps to come that were read: `ahead` of them, from `first` */
    uint8_t first, ahead;
    uint8_t near; /* the step that begins next */
    uint32_t far;
    volatile uint16_t begin, end;
    volatile uint8_t begin_wraps, end_wraps;
    uint32_t begin_tick;
    uint32_t rest; /* ticks of the step beyond what the timer can wait for at once */
    uint16_t at;   /* when the next step is due */
} ask;

static inline uint8_t head(void)
{
    uint8_t value;
    __asm__ volatile("mov %0, r10" : "=r"(value));
    return value;
}

static inline uint8_t tail(void)
{
    uint8_t value;
    __asm__ volatile("mov %0, r11" : "=r"(value));
    return value;
}

static inline uint8_t low_wraps(void)
{
    uint8_t value;
    __asm__ volatile("mov %0, r13" : "=r"(value));
    return value;
}

/* The timer and its wraps, at one moment; with interrupts off. */
static inline uint16_t timer(uint8_t *wrapped)
{
    uint16_t at = TCNT1;
    uint8_t count = low_wraps();
    if ((TIFR1 & (1 << TOV1)) && at < 0x8000)
        count++;
    *wrapped = count;
    return at;
}

/* Edges must not wait for the clock to be read: only the timer is, without them. */
void board_now(struct tick *now)
{
    uint8_t before = low_wraps(), behind;
    uint16_t at;
    cli();
    at = TCNT1;
    sei();
    __asm__ volatile("nop\n nop"); /* one more instruction comes before what was pending */
    behind = low_wraps();          /* a wrap that was pending is counted now */
    wraps += (uint8_t)((at < 0x8000 ? behind : before) - (uint8_t)wraps);
    now->low = wraps << 16 | at;
    now->high = wraps >> 16;
}

/* The serial line. */

uint8_t board_ready(void)
{
    return UCSR0A & (1 << UDRE0);
}

void board_send(uint8_t byte)
{
    UDR0 = byte;
}

int16_t board_receive(void)
{
    uint8_t value, at;
    __asm__ volatile("mov %0, r12" : "=r"(at));
    if (at == rx_tail)
        return -1;
    value = *(volatile uint8_t *)&received[rx_tail];
    rx_tail = (rx_tail + 1) & 0x7F;
    return value;
}

/* Lines. */

uint8_t board_level(uint8_t line)
{
    struct pin p = pin_of(line);
    return *p.in & p.bit ? 1 : 0;
}

uint8_t board_can(uint8_t line)
{
    (void)line;
    return CAN_PULL_LOW | CAN_DRIVE_HIGH | CAN_PULL_UP;
}

void board_exact(uint8_t line, struct exact *exact)
{
    exact->wrong_ns = LINE_IS_FINE(line) ? 500 : 1000;
    exact->shortest_ns = 6000;
    exact->seen_ns = 1000;
}

void board_pull_up(uint8_t line, uint8_t on)
{
    struct pin p = pin_of(line);
    uint8_t mask = (uint8_t)(1 << line), status = SREG;
    cli();
    pulled_up = on ? pulled_up | mask : pulled_up & ~mask;
    if (!(*p.ddr & p.bit))
        *p.port = on ? *p.port | p.bit : *p.port & ~p.bit;
    SREG = status;
}

uint8_t board_pulls_up(uint8_t line)
{
    return pulled_up >> line & 1;
}

static void set_timsk1(uint8_t capture)
{
    uint8_t value = (1 << TOIE1) | (capture ? 1 << ICIE1 : 0);
    __asm__ volatile("mov r15, %0" : : "r"(value));
    TIMSK1 = value | (TIMSK1 & (1 << OCIE1B));
}

static void capture(uint8_t timer_number, uint8_t on, uint8_t level)
{
    /* The next edge leads away from the level that is there. */
    uint8_t select = level ? 0 : 1;
#if defined(__AVR_ATmega328P__)
    (void)timer_number;
    if (on) {
        TCCR1B = (1 << CS11) | select << ICES1;
        TIFR1 = 1 << ICF1;
    }
    set_timsk1(on);
#else
    if (timer_number == 4) {
        TCCR4B = (1 << CS41) | select << ICES4;
        TIFR4 = 1 << ICF4;
        TIMSK4 = on ? 1 << ICIE4 : 0;
    } else {
        TCCR5B = (1 << CS51) | select << ICES5;
        TIFR5 = 1 << ICF5;
        TIMSK5 = on ? 1 << ICIE5 : 0;
    }
#endif
}

/* Its interrupt on or off; what came meanwhile is forgotten. With interrupts off. */
static void hear(uint8_t line, uint8_t on)
{
    struct pin p = pin_of(line);
    if (p.how == INT) {
        EIFR = 1 << p.number;
        EIMSK = on ? EIMSK | 1 << p.number : EIMSK & ~(1 << p.number);
    } else if (p.how == CHANGE) {
        *group(p.number) = on ? p.bit : 0;
        PCIFR = 1 << p.number;
    } else {
        capture(p.number, on, board_level(line));
    }
}

static uint8_t listened;

void board_listen(uint8_t line, uint8_t on)
{
    uint8_t status = SREG;
    cli();
    listened = on ? listened | 1 << line : listened & ~(1 << line);
    hear(line, on);
    SREG = status;
}

#define BELOW_ZERO 0x20 /* the stamp was a wrap further on than the tick */

struct edge board_take(void)
{
    static uint16_t before;
    struct edge edge;
    uint16_t stamp, passed;
    uint8_t at = tail();
    if (at == head()) {
        struct tick now;
        board_now(&now);
        if (at == head()) {
            clock = now.low;
            edge.what = NO_EDGE;
            edge.near = 0;
            return edge;
        }
    }
    edge.what = *(volatile uint8_t *)&ring[2][at];
    stamp = (uint16_t)*(volatile uint8_t *)&ring[1][at] << 8 | *(volatile uint8_t *)&ring[0][at];
    __asm__ volatile("inc r11");
    edge.near = stamp;
    if (!LINE_IS_FINE(edge.what & EDGE_LINE)) {
        passed = stamp - before;
        before = stamp;
        edge.near -= passed && passed < CHAINED ? SERVED + WAITED : SERVED;
        if (edge.near > stamp)
            edge.what |= BELOW_ZERO;
    }
    return edge;
}

uint32_t board_tick(struct edge edge)
{
    uint32_t stamp = (uint32_t)(edge.what >> 6) << 16 | edge.near, passed;
    if (edge.what & BELOW_ZERO)
        stamp -= 0x10000;
    passed = (stamp - clock) & 0x3FFFF;
    if (passed >= 0x20000 && passed < 0x38000)
        passed = (passed + 0x10000) & 0x3FFFF; /* a wrap that was not counted yet */
    if (passed >= 0x38000) /* served behind another, or told earlier than it was served */
        return clock - (0x40000 - passed);
    clock += passed;
    return clock;
}

uint8_t board_overflowed(void)
{
    return GPIOR0 & 1;
}

uint16_t board_lost(uint8_t line)
{
    uint8_t status = SREG;
    uint16_t count;
    cli();
    count = lost[line];
    lost[line] = 0;
    SREG = status;
    return count;
}

void board_go_on(void)
{
    GPIOR0 &= ~1;
}

/* Asks: each step by the timer, the short ones waited for. */

static inline uint16_t now16(void)
{
    uint16_t at;
    cli();
    at = TCNT1;
    sei();
    return at;
}

/* The two steps that come next: read while a long one lasts. */
static void read_ahead(void)
{
    while (ask.ahead < 2) {
        struct step *next = &ask.next[ask.first ^ ask.ahead];
        uint32_t ticks = steps_next() * TICKS_PER_US;
        next->near = ticks <= AT_HAND ? (uint8_t)ticks : 0;
        next->far = ticks;
        ask.ahead++;
    }
}

/* The step that begins next. */
static inline void take_step(void)
{
    struct step *next = &ask.next[ask.first];
    if (!ask.ahead)
        read_ahead();
    ask.near = next->near;
    ask.far = next->far;
    ask.first ^= 1;
    ask.ahead--;
}

/* Drives the line, or lets it go; the tick at which that was. Its edge is heard like all others. */
static inline uint16_t turn(volatile uint8_t *ddr, uint8_t bit)
{
    uint16_t at;
    cli();
    if (ask.driving) {
        if (ask.high) { /* low for a moment, so that it falls whatever hangs on it */
            *ask.port &= ~bit;
            at = TCNT1;
            while ((uint16_t)(TCNT1 - at) < 3)
                ;
        }
        *ddr &= ~bit;
        at = TCNT1;
        sei();
        if (pulled_up >> ask.line & 1)
            *ask.port |= bit;
        ask.driving = 0;
    } else {
        if (ask.high)
            *ask.port |= bit;
        else
            *ask.port &= ~bit;
        *ddr |= bit;
        at = TCNT1;
        sei();
        ask.driving = 1;
    }
    return at;
}

static void note_begin(void)
{
    uint8_t count;
    cli();
    ask.begin = timer(&count);
    ask.begin_wraps = count;
    sei();
    ask.begun = 1;
}

static void finish(void)
{
    uint8_t count;
    cli();
    ask.end = timer(&count);
    ask.end_wraps = count;
    ask.going = 0;
    ask.over = 1;
    sei();
}

/* Waits for what is near, and lets the timer wait for the rest; 1 when the time has come. */
static uint8_t wait_for_step(void)
{
    uint16_t part, due;
    do {
        part = ask.rest > 30000 ? 20000 : (uint16_t)ask.rest;
        ask.at += part;
        ask.rest -= part;
        if ((int16_t)(ask.at - now16()) > AT_HAND) {
            cli();
            OCR1B = ask.at - AT_HAND / 2;
            TIFR1 = 1 << OCF1B;
            TIMSK1 |= 1 << OCIE1B;
            sei();
            return 0;
        }
        due = ask.at - LEAD;
        while ((int16_t)(due - now16()) > 0)
            ;
    } while (ask.rest);
    return 1;
}

/* A short low: between its edges nothing is done but waiting. */
static inline uint16_t pulse(volatile uint8_t *ddr, uint8_t bit, uint8_t near)
{
    uint16_t at, due;
    cli();
    *ask.port &= ~bit;
    *ddr |= bit;
    at = TCNT1;
    sei();
    due = at + near - PULSE_LEAD;
    while ((int16_t)(due - now16()) > 0)
        ;
    cli();
    *ddr &= ~bit;
    at = TCNT1;
    sei();
    if (pulled_up >> ask.line & 1)
        *ask.port |= bit;
    return at;
}

void ask_step(void)
{
    volatile uint8_t *ddr = ask.ddr;
    uint8_t bit = ask.bit;
    uint16_t at;
    if (!wait_for_step())
        return;
    while (ask.going && (ask.far || ask.driving)) {
        if (ask.near && !ask.driving && !ask.high) {
            if (!ask.begun)
                note_begin();
            at = pulse(ddr, bit, ask.near);
            take_step();
        } else {
            if (!ask.begun)
                note_begin();
            at = turn(ddr, bit);
        }
        if (ask.near) {
            uint16_t due = at + ask.near - LEAD;
            take_step();
            while ((int16_t)(due - now16()) > 0)
                ;
            continue;
        }
        if (!ask.far)
            break;
        ask.at = at;
        ask.rest = ask.far;
        take_step();
        read_ahead();
        if (!wait_for_step())
            return;
    }
    if (ask.going)
        finish();
}

void board_ask(uint8_t line, uint8_t drive_high)
{
    struct pin p = pin_of(line);
    uint8_t count;
    ask.line = line;
    ask.ddr = p.ddr;
    ask.port = p.port;
    ask.bit = p.bit;
    ask.high = drive_high;
    ask.driving = ask.over = ask.begun = ask.first = ask.ahead = 0;
    ask.rest = 0;
    read_ahead();
    take_step();
    cli();
    ask.at = timer(&count) + 2 * AT_HAND;
    ask.going = 1;
    OCR1B = ask.at - AT_HAND / 2;
    TIFR1 = 1 << OCF1B;
    TIMSK1 |= 1 << OCIE1B;
    sei();
}

void board_ask_stop(void)
{
    uint8_t was;
    cli();
    was = ask.going;
    TIMSK1 &= ~(1 << OCIE1B);
    ask.going = ask.over = 0;
    sei();
    if (was && ask.driving)
        turn(ask.ddr, ask.bit);
}

/* Ticks of the last seconds from the timer and the low wraps. */
static uint32_t tick_of(uint16_t at, uint8_t count)
{
    struct tick now;
    board_now(&now);
    return (wraps - (uint8_t)((uint8_t)wraps - count)) << 16 | at;
}

uint8_t board_ask_over(uint32_t *begin, uint32_t *end)
{
    if (ask.begun == 1) {
        ask.begin_tick = tick_of(ask.begin, ask.begin_wraps);
        ask.begun = 2;
    }
    if (!ask.over)
        return 0;
    *begin = ask.begin_tick;
    *end = tick_of(ask.end, ask.end_wraps);
    ask.over = 0;
    return 1;
}

void board_light(uint8_t on)
{
    if (on)
        LIGHT_PORT |= 1 << LIGHT_BIT;
    else
        LIGHT_PORT &= ~(1 << LIGHT_BIT);
}

/* The start. */

static uint16_t next_boot(void)
{
    uint16_t boot = eeprom_read_word((uint16_t *)0) + 1;
    eeprom_update_word((uint16_t *)0, boot);
    return boot;
}

static void begin_timers(void)
{
#if defined(__AVR_ATmega2560__)
    /* All three timers count alike: the prescaler stands still until they are set. */
    GTCCR = (1 << TSM) | (1 << PSRSYNC);
    TCCR4A = TCCR5A = 0;
    TCNT4 = TCNT5 = 0;
    TCCR4B = 1 << CS41;
    TCCR5B = 1 << CS51;
#endif
    TCCR1A = 0;
    TCNT1 = 0;
    TCCR1B = 1 << CS11;
#if defined(__AVR_ATmega2560__)
    GTCCR = 0;
#endif
    set_timsk1(0);
}

static void begin_interrupts(void)
{
    __asm__ volatile("clr r10\n clr r11\n clr r12\n clr r13\n" : :);
    __asm__ volatile("mov r3, %0" : : "r"((uint8_t)0x40));
    __asm__ volatile("mov r2, %0" : : "r"((uint8_t)((1 << RXEN0) | (1 << TXEN0))));
    GPIOR0 = GPIOR1 = 0;
#if defined(__AVR_ATmega328P__)
    EICRA = (1 << ISC00) | (1 << ISC10);
#else
    EICRA = (1 << ISC10) | (1 << ISC20) | (1 << ISC30);
    EICRB = (1 << ISC40) | (1 << ISC50);
#endif
    PCICR = 7;
}

int main(void)
{
    LIGHT_DDR |= 1 << LIGHT_BIT;
    begin_interrupts();
    begin_timers();
    UCSR0A = 1 << U2X0;
    UBRR0 = (uint16_t)((F_CPU / 4 / BAUD - 1) / 2);
    UCSR0C = (1 << UCSZ01) | (1 << UCSZ00);
    UCSR0B = (1 << RXEN0) | (1 << TXEN0) | (1 << RXCIE0);
    probe_begin(next_boot());
    sei();
    for (;;)
        probe_poll();
}
