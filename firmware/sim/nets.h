/* Wires between the pins of a simulated chip and the sensors that hang on them. */
#ifndef NETS_H
#define NETS_H

#include <simavr/sim_avr.h>
#include <stdint.h>
#include <stdio.h>

enum { RELEASED, PULLS_LOW, DRIVES_LOW, DRIVES_HIGH };

struct sensor;

struct net {
    char name[8];
    char port;
    uint8_t bit;
    avr_t *avr;
    avr_irq_t *pin;
    int chip;    /* RELEASED, DRIVES_LOW or DRIVES_HIGH */
    int outside; /* what the sensor does to it */
    int pull_up; /* a resistor hangs on it */
    double rise_us;
    int level;
    struct sensor *sensor;
    FILE *record;
};

/* What happens at a net is told to its sensor; sensors wake themselves by `wake_in`. */
struct sensor {
    void (*changed)(struct sensor *, struct net *, int level);
    void (*wake)(struct sensor *);
    struct net *net, *second;
    int unplugged;
    uint64_t due; /* cycle of the next wake; 0 for none */
    uint32_t noise;
    void *own;
};

double now_us(avr_t *avr);
void net_begin(struct net *net, avr_t *avr, const char *name, char port, uint8_t bit);
void net_put(struct net *net, int outside);
void wake_in(struct sensor *sensor, double us);

/* `kind` with its options, as 22:63.5,21.4 or onewire:2 or echo; NULL when there is none. */
struct sensor *sensor_of(const char *kind, struct net *net, struct net *second);
int sensor_set(struct sensor *sensor, const char *what);

#endif
