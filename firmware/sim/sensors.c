/* Sensors as their data sheets have them, made of edges; none of this is Pivet's decoder. */

#include "nets.h"

#include <stdlib.h>
#include <string.h>

static double jitter(struct sensor *s, double us)
{
    s->noise = s->noise * 1664525u + 1013904223u;
    return us + ((s->noise >> 16) / 65536.0 - 0.5) * 0.8;
}

static struct sensor *made(size_t own, struct net *net)
{
    struct sensor *s = calloc(1, sizeof *s);
    s->own = calloc(1, own);
    s->net = net;
    s->noise = 12345u + net->bit * 77u + (uint32_t)net->port;
    net->sensor = s;
    return s;
}

/* A humidity sensor of the 22-type or the 11-type. */

struct humidity {
    int old; /* 11-type */
    double damp, warm, fell_us;
    int phase; /* pulses of the answer that are over; -1 at rest */
    uint8_t bytes[5];
};

static void fill(struct humidity *h)
{
    if (h->old) {
        h->bytes[0] = (uint8_t)h->damp;
        h->bytes[1] = 0;
        h->bytes[2] = (uint8_t)h->warm;
        h->bytes[3] = (uint8_t)((int)(h->warm * 10 + 0.5) % 10);
    } else {
        unsigned damp = (unsigned)(h->damp * 10 + 0.5);
        unsigned warm = (unsigned)((h->warm < 0 ? -h->warm : h->warm) * 10 + 0.5);
        if (h->warm < 0)
            warm |= 0x8000;
        h->bytes[0] = damp >> 8;
        h->bytes[1] = damp & 255;
        h->bytes[2] = warm >> 8;
        h->bytes[3] = warm & 255;
    }
    h->bytes[4] = h->bytes[0] + h->bytes[1] + h->bytes[2] + h->bytes[3];
}

static void humidity_wake(struct sensor *s)
{
    struct humidity *h = s->own;
    int n = h->phase++;
    double next;
    if (n == 0 || n % 2 == 0)
        net_put(s->net, PULLS_LOW);
    else
        net_put(s->net, RELEASED);
    if (n == 0)
        next = h->old ? 83 : 80;
    else if (n == 1)
        next = h->old ? 87 : 80;
    else if (n < 82 && n % 2 == 0)
        next = h->old ? 54 : 50;
    else if (n < 82) {
        int bit = (n - 3) / 2;
        int one = h->bytes[bit / 8] >> (7 - bit % 8) & 1;
        next = h->old ? (one ? 71 : 25) : (one ? 70 : 26);
    } else if (n == 82)
        next = h->old ? 54 : 50;
    else {
        h->phase = -1;
        return;
    }
    wake_in(s, jitter(s, next));
}

static void humidity_changed(struct sensor *s, struct net *net, int level)
{
    struct humidity *h = s->own;
    double low;
    if (!level)
        h->fell_us = now_us(net->avr);
    if (!level || h->phase >= 0)
        return;
    low = now_us(net->avr) - h->fell_us;
    if (low < (h->old ? 17000 : 800) || low > 40000)
        return;
    fill(h);
    h->phase = 0;
    wake_in(s, jitter(s, h->old ? 13 : 30));
}

/* 1-Wire thermometers, some on one wire. */

#define MOST_DEVICES 8

struct thermometer {
    uint8_t code[8];
    double warm;
    uint8_t pad[9];
    int selected, searching;
};

struct onewire {
    int count;
    struct thermometer device[MOST_DEVICES];
    enum { IDLE, PRESENCE, ROM, SEARCH, MATCH, FUNCTION, WRITE, READ, BUSY } state;
    int byte, bits;            /* of what the host writes */
    int place, part;           /* of a search or a match: bit of the code, and 0 to 2 */
    int at;                    /* bit of the scratchpad that is read next */
    double fell_us, done_us;   /* of this slot; when a conversion is over */
    int own;                   /* the low on the wire is the devices' */
    int waking;                /* 1 the presence, 2 its end, 3 sample, 4 release */
};

static uint8_t crc8(const uint8_t *data, int size)
{
    uint8_t crc = 0;
    for (int n = 0; n < size; n++) {
        uint8_t byte = data[n];
        for (int bit = 0; bit < 8; bit++, byte >>= 1) {
            uint8_t mix = (crc ^ byte) & 1;
            crc >>= 1;
            if (mix)
                crc ^= 0x8C;
        }
    }
    return crc;
}

static void write_pad(struct thermometer *t)
{
    int raw = (int)(t->warm * 16 + (t->warm < 0 ? -0.5 : 0.5));
    uint8_t pad[8] = {(uint8_t)raw, (uint8_t)(raw >> 8), 0x4B, 0x46, 0x7F, 0xFF, 0x0C, 0x10};
    memcpy(t->pad, pad, 8);
    t->pad[8] = crc8(t->pad, 8);
}

/* What the selected devices send in this slot; they pull together. */
static int sent_bit(struct onewire *w, double now)
{
    int bit = 1;
    for (int n = 0; n < w->count; n++) {
        struct thermometer *t = &w->device[n];
        int own = 1;
        if (w->state == SEARCH && t->searching && w->part < 2) {
            own = t->code[w->place / 8] >> (w->place % 8) & 1;
            if (w->part == 1)
                own = !own;
        } else if (w->state == READ && t->selected && w->at < 72) {
            own = t->pad[w->at / 8] >> (w->at % 8) & 1;
        } else if (w->state == BUSY && t->selected) {
            own = now >= w->done_us;
        }
        bit &= own;
    }
    return bit;
}

static int sends(struct onewire *w)
{
    return w->state == READ || w->state == BUSY || (w->state == SEARCH && w->part < 2);
}

static void function_of(struct onewire *w, double now)
{
    w->state = IDLE;
    if (w->byte == 0x44) {
        w->state = BUSY;
        w->done_us = now + 600000;
        for (int n = 0; n < w->count; n++)
            if (w->device[n].selected)
                write_pad(&w->device[n]);
    } else if (w->byte == 0xBE) {
        w->state = READ;
        w->at = 0;
    } else if (w->byte == 0xB4) {
        w->state = BUSY;
        w->done_us = 0;
    } else if (w->byte == 0x4E) {
        w->state = WRITE;
    }
}

static void rom_command(struct onewire *w)
{
    w->place = w->part = 0;
    w->state = w->byte == 0xF0 ? SEARCH : w->byte == 0x55 ? MATCH : w->byte == 0xCC ? FUNCTION : IDLE;
    if (w->byte == 0x33)
        w->state = IDLE;
    for (int n = 0; n < w->count; n++) {
        w->device[n].searching = 1;
        w->device[n].selected = w->byte == 0xCC || w->byte == 0x55;
    }
}

/* The host wrote a bit. */
static void wrote(struct onewire *w, int bit, double now)
{
    if (w->state == SEARCH) {
        for (int n = 0; n < w->count; n++) {
            struct thermometer *t = &w->device[n];
            if ((t->code[w->place / 8] >> (w->place % 8) & 1) != bit)
                t->searching = 0;
        }
        w->part = 0;
        if (++w->place == 64) {
            w->state = FUNCTION;
            for (int n = 0; n < w->count; n++)
                w->device[n].selected = w->device[n].searching;
        }
        return;
    }
    if (w->state == MATCH) {
        for (int n = 0; n < w->count; n++) {
            struct thermometer *t = &w->device[n];
            if ((t->code[w->place / 8] >> (w->place % 8) & 1) != bit)
                t->selected = 0;
        }
        if (++w->place == 64)
            w->state = FUNCTION;
        return;
    }
    w->byte |= bit << w->bits;
    if (++w->bits < 8)
        return;
    if (w->state == ROM)
        rom_command(w);
    else if (w->state == FUNCTION)
        function_of(w, now);
    w->byte = w->bits = 0;
}

static void onewire_wake(struct sensor *s)
{
    struct onewire *w = s->own;
    double now = now_us(s->net->avr);
    switch (w->waking) {
    case 1:
        w->own = 1;
        net_put(s->net, PULLS_LOW);
        w->waking = 2;
        wake_in(s, 110);
        break;
    case 2:
        net_put(s->net, RELEASED);
        w->state = ROM;
        w->byte = w->bits = 0;
        w->waking = 0;
        break;
    case 3:
        w->waking = 0;
        wrote(w, s->net->level, now);
        break;
    case 4:
        w->waking = 0;
        net_put(s->net, RELEASED);
        break;
    }
}

static void onewire_changed(struct sensor *s, struct net *net, int level)
{
    struct onewire *w = s->own;
    double now = now_us(net->avr);
    if (!w->count)
        return;
    if (level) {
        int own = w->own;
        w->own = 0;
        if (!own && now - w->fell_us > 400) { /* a reset */
            w->state = PRESENCE;
            w->waking = 1;
            wake_in(s, jitter(s, 28));
        }
        return;
    }
    if (w->state == PRESENCE)
        return;
    w->fell_us = now;
    if (sends(w)) {
        int bit = sent_bit(w, now);
        if (w->state == SEARCH)
            w->part++;
        if (w->state == READ)
            w->at++;
        if (!bit) {
            w->waking = 4;
            net_put(net, PULLS_LOW);
            wake_in(s, jitter(s, 28));
        }
    } else if (w->state != IDLE) {
        w->waking = 3;
        wake_in(s, 30);
    }
}

/* An echo sensor of four pins: trigger and echo. */

struct echo {
    double metres, rose_us;
    int phase;
};

static void echo_wake(struct sensor *s)
{
    struct echo *e = s->own;
    if (e->phase++ == 0) {
        net_put(s->second, DRIVES_HIGH);
        wake_in(s, e->metres * 2e6 / 338.0);
    } else {
        net_put(s->second, DRIVES_LOW);
        e->phase = -1;
    }
}

static void echo_changed(struct sensor *s, struct net *net, int level)
{
    struct echo *e = s->own;
    double now = now_us(net->avr);
    if (net != s->net || e->phase >= 0)
        return;
    if (level)
        e->rose_us = now;
    else if (now - e->rose_us >= 10) {
        e->phase = 0;
        wake_in(s, jitter(s, 480));
    }
}

static struct sensor *humidity(struct net *net, int old, const char *values)
{
    struct sensor *s = made(sizeof(struct humidity), net);
    struct humidity *h = s->own;
    s->changed = humidity_changed;
    s->wake = humidity_wake;
    h->old = old;
    h->phase = -1;
    h->damp = 90;
    h->warm = 12;
    sscanf(values, "%lf,%lf", &h->damp, &h->warm);
    return s;
}

static struct sensor *onewire(struct net *net, const char *count)
{
    struct sensor *s = made(sizeof(struct onewire), net);
    struct onewire *w = s->own;
    s->changed = onewire_changed;
    s->wake = onewire_wake;
    w->count = atoi(count) > MOST_DEVICES ? MOST_DEVICES : atoi(count);
    for (int n = 0; n < w->count; n++) {
        struct thermometer *t = &w->device[n];
        uint8_t code[7] = {0x28, (uint8_t)(0x7D - n * 31), 0x2C, 0x1B, (uint8_t)(5 + n), 0, 0};
        memcpy(t->code, code, 7);
        t->code[7] = crc8(t->code, 7);
        t->warm = 85;
        write_pad(t);
        t->warm = 11.25 + n * 0.5;
    }
    return s;
}

static struct sensor *echo(struct net *net, struct net *second, const char *metres)
{
    struct sensor *s = made(sizeof(struct echo), net);
    struct echo *e = s->own;
    s->changed = echo_changed;
    s->wake = echo_wake;
    s->second = second;
    e->phase = -1;
    e->metres = *metres ? atof(metres) : 0.8;
    net->pull_up = 0;
    second->pull_up = 0;
    second->sensor = NULL;
    net_put(second, DRIVES_LOW);
    return s;
}

struct sensor *sensor_of(const char *kind, struct net *net, struct net *second)
{
    const char *more = strchr(kind, ':');
    more = more ? more + 1 : "";
    if (!strncmp(kind, "22", 2) || !strncmp(kind, "11", 2))
        return humidity(net, kind[0] == '1', more);
    if (!strncmp(kind, "onewire", 7))
        return onewire(net, more);
    if (!strncmp(kind, "echo", 4) && second)
        return echo(net, second, more);
    return NULL;
}

/* Other values, as when it was attached. */
int sensor_set(struct sensor *s, const char *what)
{
    if (s->changed == humidity_changed) {
        struct humidity *h = s->own;
        return sscanf(what, "%lf,%lf", &h->damp, &h->warm) == 2;
    }
    if (s->changed == echo_changed) {
        ((struct echo *)s->own)->metres = atof(what);
        return atof(what) > 0;
    }
    if (s->changed == onewire_changed) {
        struct onewire *w = s->own;
        int n;
        double warm;
        if (sscanf(what, "%d,%lf", &n, &warm) != 2 || n < 0 || n >= w->count)
            return 0;
        w->device[n].warm = warm;
        return 1;
    }
    return 0;
}
