#include "probe.h"

#include "board.h"
#include "link.h"
#include "steps.h"

#define MAJOR 1
#define MINOR 1

#define TICKS(us) ((uint32_t)((us) * 1000000.0 / TICK_PS))
#define QUIET TICKS(2000)    /* a line so long quiet has its edges sent ... */
#define WAIT TICKS(12000)    /* ... and at the latest so long after they came */
#define BEAT TICKS(100000)
#define SOON TICKS(10000)    /* a beat follows edges, but not sooner than this after the last */
#define ALONE TICKS(5000000) /* without a word from the host for so long all is let go */
#define UNSURE ((uint8_t)TICKS(6))      /* ordinary lines: nearer edges have no certain distance */
#define GUARD 40             /* an edge may be told as having come so much before it was taken */
#define AT_ONCE 16           /* edges taken before something else is looked at */

#define HEAD 13 /* kind, number, line, level, sent, first, and a varint of three bytes */

struct line {
    uint8_t listening, level;
    uint8_t edges;       /* held, to be sent */
    uint8_t size;        /* bytes of distances held */
    uint8_t first_level; /* behind the first of them */
    uint16_t sent;
    uint16_t near;        /* low bits of the last edge's tick, which are new before `last` is */
    uint32_t first, last; /* ticks of edges */
    uint8_t *distances;   /* of the edges held */
};

static struct line lines[LINES];
static uint8_t messages[MESSAGES][HEAD + HELD + 2];
static uint8_t owners[MESSAGES]; /* a line and one, or 0 where a message is free */
static uint8_t answer[48];
static uint8_t greeted, minor, understood;
static uint16_t boot;
static uint32_t heard_at, beat_at, last_beat;
static uint32_t taken_until; /* all edges up to here were taken */
static uint8_t asking, ask_ident, ask_line;

/* Numbers into bytes. */

static uint8_t *put16(uint8_t *to, uint16_t value)
{
    *to++ = (uint8_t)value;
    *to++ = (uint8_t)(value >> 8);
    return to;
}

static uint8_t *put32(uint8_t *to, uint32_t value)
{
    return put16(put16(to, (uint16_t)value), (uint16_t)(value >> 16));
}

static uint8_t *put_varint(uint8_t *to, uint32_t value)
{
    while (value > 0x7F) {
        *to++ = (uint8_t)value | 0x80;
        value >>= 7;
    }
    *to++ = (uint8_t)value;
    return to;
}

static uint32_t get32(const uint8_t *from)
{
    return (uint32_t)from[0] | (uint32_t)from[1] << 8 | (uint32_t)from[2] << 16 |
           (uint32_t)from[3] << 24;
}

static uint32_t now(void)
{
    struct tick at;
    board_now(&at);
    return at.low;
}

static uint8_t is_due(uint32_t at, uint32_t moment)
{
    return (int32_t)(at - moment) >= 0;
}

/* Edges of a line. */

/* The tick of a line's last edge, or of when it was last looked at; asked at least every 30 ms. */
static uint32_t last_of(struct line *l)
{
    l->last += (uint16_t)(l->near - (uint16_t)l->last);
    return l->last;
}

static void set_last(struct line *l, uint32_t tick)
{
    l->last = tick;
    l->near = (uint16_t)tick;
}

static void give_back(struct line *l)
{
    uint8_t n;
    for (n = 0; n < MESSAGES; n++)
        if (owners[n] && &lines[owners[n] - 1] == l)
            owners[n] = 0;
    l->edges = l->size = 0;
}

/* Sends the edges of a line, which is known up to a tick. */
static void flush(uint8_t number, uint32_t known)
{
    struct line *l = &lines[number];
    uint32_t quiet;
    uint8_t *from, *to;
    if (!l->edges)
        return;
    quiet = known - last_of(l);
    if (!known || (int32_t)quiet < 0)
        quiet = 0;
    if (quiet > 0x1FFFFF)
        quiet = 0x1FFFFF;
    from = l->distances - HEAD + (quiet > 0x3FFF ? 0 : quiet > 0x7F ? 1 : 2);
    from[0] = EDGES;
    from[2] = number;
    from[3] = l->first_level;
    to = put32(put16(from + 4, l->sent), l->first);
    put_varint(to, quiet);
    link_send(from, (uint8_t)(l->distances + l->size - from));
    l->sent += l->edges;
    give_back(l);
}

/* Room for a line's edges; where there is none, those of the line that has most are sent. */
static void claim(uint8_t number)
{
    uint8_t n, most = 0;
    for (n = 0; n < MESSAGES; n++) {
        if (!owners[n])
            break;
        if (lines[owners[n] - 1].size > lines[owners[most] - 1].size)
            most = n;
    }
    if (n == MESSAGES) {
        flush(owners[most] - 1, 0);
        n = most;
    }
    owners[n] = number + 1;
    lines[number].distances = messages[n] + HEAD;
}

static void put(uint8_t number, uint32_t tick, uint8_t loose)
{
    struct line *l = &lines[number];
    uint32_t distance = tick - last_of(l);
    l->level ^= 1;
    if ((int32_t)distance < 1 && (l->edges || l->sent)) {
        distance = 1;
        tick = l->last + 1;
    }
    if (!l->edges) {
        claim(number);
        l->first = tick;
        l->first_level = l->level;
    } else {
        uint8_t *to = l->distances + l->size;
        if (loose && minor)
            *to++ = 0;
        to = put_varint(to, distance);
        l->size = (uint8_t)(to - l->distances);
    }
    l->edges++;
    set_last(l, tick);
}

/* An edge that is not as nearly all are. */
static void take_other(struct line *l, struct edge e, uint8_t level)
{
    uint8_t number = e.what & EDGE_LINE;
    uint32_t tick = board_tick(e);
    if (l->size > HELD - 12 || l->edges > 248)
        flush(number, 0);
    if (level == l->level) { /* a pulse that nobody saw twice */
        put(number, tick, 0);
        put(number, tick + UNSURE, 1);
    } else {
        uint8_t near = l->edges && tick - last_of(l) < UNSURE && !LINE_IS_FINE(number);
        put(number, tick, (e.what & EDGE_LOOSE) || near);
    }
}

static inline void take(struct edge e)
{
    uint8_t number = e.what & EDGE_LINE, level = e.what & EDGE_LEVEL ? 1 : 0;
    struct line *l = &lines[number];
    uint16_t distance = e.near - l->near;
    if (!l->listening)
        return;
    /* Where edges are held the last is not long ago, so the low bits tell the distance. */
    if (l->edges && l->size <= HELD - 2 && l->edges < 250 && distance < 0x4000 && level != l->level &&
        !(e.what & EDGE_LOOSE) && distance >= (LINE_IS_FINE(number) ? 1 : UNSURE)) {
        uint8_t *to = l->distances + l->size;
        *to = (uint8_t)distance & 0x7F;
        if (distance >= 0x80) {
            *to++ |= 0x80;
            *to = (uint8_t)(distance >> 7);
            l->size++;
        }
        l->size++;
        l->near = e.near;
        l->level = level;
        l->edges++;
    } else {
        take_other(l, e, level);
    }
}

static void tell_lost(uint8_t number, uint16_t count, uint8_t level, uint32_t at)
{
    struct line *l = &lines[number];
    uint8_t *to = answer;
    flush(number, last_of(l));
    *to++ = LOST;
    to++;
    *to++ = number;
    *to++ = level;
    to = put32(put32(put32(to, last_of(l)), at), count ? count : 0xFFFFFFFF);
    link_send(answer, (uint8_t)(to - answer));
    l->level = level;
    set_last(l, at);
}

/* All that was held is taken: recording goes on at once, and what was lost is told then. */
static void go_on(void)
{
    uint16_t counts[LINES];
    uint8_t levels[LINES], n;
    uint32_t at;
    for (n = 0; n < LINES; n++) {
        counts[n] = board_lost(n);
        levels[n] = board_level(n);
    }
    board_go_on();
    at = now();
    for (n = 0; n < LINES; n++)
        if (lines[n].listening && (counts[n] || levels[n] != lines[n].level))
            tell_lost(n, counts[n], levels[n], at);
}

/* Takes some edges; 1 when there are no more, and then all is known but the last moment. */
static uint8_t take_edges(uint32_t at)
{
    uint8_t n;
    for (n = 0; n < AT_ONCE; n++) {
        struct edge e = board_take();
        link_pump();
        if (e.what == NO_EDGE) {
            if (board_overflowed())
                go_on();
            taken_until = at - GUARD;
            return 1;
        }
        take(e);
        link_pump(); /* a byte takes as long as half an edge */
        if (n == AT_ONCE - 1)
            taken_until = board_tick(e);
    }
    return 0;
}

static void take_all(void)
{
    uint8_t rounds;
    for (rounds = 0; rounds < 20 && !take_edges(now()); rounds++)
        ;
}

static void beat_soon(uint32_t earliest)
{
    uint32_t moment = last_beat + SOON;
    if (!is_due(moment, earliest))
        moment = earliest;
    if (is_due(beat_at, moment))
        beat_at = moment;
}

static void flush_due(uint32_t at)
{
    uint8_t n;
    for (n = 0; n < LINES; n++) {
        struct line *l = &lines[n];
        if (l->edges && (is_due(at, last_of(l) + QUIET) || is_due(at, l->first + WAIT))) {
            flush(n, taken_until);
            beat_soon(at);
        }
    }
}

/* A line that has long been quiet at another level than its edges say: some were too short to be
 * served. Looked at twice, since an edge may just come. */
static void look_at_levels(uint32_t at)
{
    static uint8_t odd;
    uint8_t n, was = odd;
    odd = 0;
    for (n = 0; n < LINES; n++) {
        struct line *l = &lines[n];
        uint8_t level = board_level(n);
        if (!l->listening || level == l->level || !is_due(at, last_of(l) + BEAT))
            continue;
        if (was >> n & 1)
            tell_lost(n, 0, level, at);
        else
            odd |= 1 << n;
    }
}

static void beat(void)
{
    struct tick at;
    uint32_t levels = 0, listening = 0;
    uint8_t n, *to = answer;
    take_all();
    board_now(&at);
    if (!is_due(taken_until, at.low)) {
        if (taken_until > at.low)
            at.high--;
        at.low = taken_until;
    }
    look_at_levels(at.low);
    for (n = 0; n < LINES; n++) {
        flush(n, at.low);
        if (lines[n].listening) {
            listening |= 1UL << n;
            levels |= (uint32_t)lines[n].level << n;
        } else {
            levels |= (uint32_t)board_level(n) << n;
        }
    }
    *to++ = PROBE_BEAT;
    to++;
    to = put32(put32(put32(put32(to, at.low), at.high), levels), listening);
    for (n = 0; n < LINES; n++)
        if (lines[n].listening)
            to = put16(to, lines[n].sent);
    link_send(answer, (uint8_t)(to - answer));
    last_beat = now();
    beat_at = last_beat + BEAT;
    for (n = 0; n < LINES; n++)
        if (lines[n].listening && !is_due(at.low, last_of(&lines[n]) + QUIET))
            beat_soon(lines[n].last + QUIET);
    if (!asking)
        board_light(0);
}

/* What the host says. */

static void listen(uint32_t wanted)
{
    uint8_t n;
    take_all();
    for (n = 0; n < LINES; n++) {
        struct line *l = &lines[n];
        uint8_t on = wanted >> n & 1;
        if (on == l->listening)
            continue;
        if (on) {
            l->sent = 0;
            set_last(l, now());
            board_listen(n, 1);
            l->level = board_level(n);
        } else {
            board_listen(n, 0);
        }
        give_back(l);
        l->listening = on;
    }
}

static void let_go(void)
{
    board_ask_stop();
    asking = 0;
    listen(0);
}

static void hello(const uint8_t *payload)
{
    const char *name;
    uint8_t *to = answer;
    let_go();
    understood = payload[0] == MAJOR;
    minor = payload[1];
    greeted = 1;
    *to++ = I_AM;
    to++;
    *to++ = MAJOR;
    *to++ = MINOR;
    to = put32(put16(to, boot), TICK_PS);
    *to++ = LINES;
    to = put16(put16(put16(to, BUFFER), MOST_BODY), MOST_STEPS);
    for (name = NAME; *name; name++)
        *to++ = (uint8_t)*name;
    link_send(answer, (uint8_t)(to - answer));
    beat();
}

static void tell_line(uint8_t number)
{
    uint8_t *to = answer, n;
    *to++ = LINE_IS;
    to++;
    *to++ = number;
    *to++ = board_can(number);
    *to++ = board_level(number) | board_pulls_up(number) << 1;
    for (n = 0; line_name(number, n); n++)
        *to++ = (uint8_t)line_name(number, n);
    link_send(answer, (uint8_t)(to - answer));
}

static void tell_stamps(uint8_t number)
{
    struct exact exact;
    uint8_t *to = answer;
    board_exact(number, &exact);
    *to++ = STAMPS;
    to++;
    *to++ = number;
    to = put32(put32(put32(to, exact.wrong_ns), exact.shortest_ns), exact.seen_ns);
    link_send(answer, (uint8_t)(to - answer));
}

static uint8_t begin_ask(const uint8_t *payload, uint8_t size)
{
    uint8_t number = payload[1], drive = payload[2], why;
    if (drive > 1)
        return BAD_CONTENT;
    if (!(board_can(number) & (drive ? CAN_DRIVE_HIGH : CAN_PULL_LOW)))
        return LINE_CANNOT;
    if (asking)
        return BUSY;
    why = steps_begin(payload + 3, size - 3);
    if (why)
        return why;
    ask_ident = payload[0];
    ask_line = number;
    asking = 1;
    board_light(1);
    board_ask(number, drive);
    return 0;
}

static void tell_asked(void)
{
    uint32_t begin, end;
    uint8_t *to = answer;
    struct line *l = &lines[ask_line];
    if (!asking || !board_ask_over(&begin, &end))
        return;
    take_all();
    if (!is_due(taken_until, end))
        return; /* there is so much that it takes another turn */
    flush(ask_line, taken_until);
    asking = 0;
    *to++ = ASKED;
    to++;
    *to++ = ask_ident;
    *to++ = ask_line;
    *to++ = l->listening ? l->level : board_level(ask_line);
    to = put16(to, l->listening ? l->sent : 0);
    to = put32(put32(to, begin), taken_until);
    link_send(answer, (uint8_t)(to - answer));
    beat_soon(now() + QUIET);
}

static uint8_t carry_out(uint8_t kind, const uint8_t *payload, uint8_t size)
{
    static const uint8_t least[] = {2, 1, 2, 4, 3, 0, 1};
    uint8_t number;
    if (kind < HELLO || kind > ASK_STAMPS)
        return UNKNOWN_MESSAGE;
    if (size < least[kind - HELLO])
        return BAD_CONTENT;
    if (kind == LISTEN) {
        if (get32(payload) >> LINES)
            return NO_SUCH_LINE;
        listen(get32(payload));
        return 0;
    }
    if (kind == HOST_BEAT)
        return 0;
    number = payload[kind == ASK];
    if (number >= LINES)
        return NO_SUCH_LINE;
    if (kind == ASK_LINE)
        tell_line(number);
    else if (kind == ASK_STAMPS)
        tell_stamps(number);
    else if (kind == CONFIGURE)
        board_pull_up(number, payload[1] & 1);
    else
        return begin_ask(payload, size);
    return 0;
}

static void on_frame(uint8_t size)
{
    uint8_t kind = link_body[0], number = link_body[1], why;
    heard_at = now();
    if (kind == HELLO && size >= 4) {
        hello(link_body + 2);
        return;
    }
    if (!greeted || !understood || kind >= 0x80)
        return;
    why = carry_out(kind, link_body + 2, size - 2);
    if (why) {
        answer[0] = REFUSED;
        answer[2] = number;
        answer[3] = why;
        link_send(answer, 4);
    } else if (kind == LISTEN || kind == CONFIGURE) {
        answer[0] = DONE;
        answer[2] = number;
        link_send(answer, 3);
    }
    if (kind == LISTEN && !why)
        beat();
}

void probe_begin(uint16_t start)
{
    boot = start;
}

void probe_poll(void)
{
    int16_t byte;
    uint32_t at;
    while ((byte = board_receive()) >= 0) {
        uint8_t size = link_take((uint8_t)byte);
        if (size)
            on_frame(size);
    }
    at = now();
    link_pump();
    take_edges(at);
    link_pump();
    flush_due(at);
    tell_asked();
    if (greeted && is_due(at, heard_at + ALONE)) {
        let_go();
        greeted = 0;
    }
    if (greeted && is_due(at, beat_at))
        beat();
}
