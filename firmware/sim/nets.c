#include "nets.h"

#include <simavr/avr_ioport.h>
#include <simavr/sim_time.h>
#include <stdlib.h>
#include <string.h>

double now_us(avr_t *avr)
{
    return avr->cycle * 1e6 / avr->frequency;
}

static int wanted(struct net *net)
{
    if (net->chip == DRIVES_HIGH || net->outside == DRIVES_HIGH)
        return 1;
    if (net->chip == DRIVES_LOW || net->outside == DRIVES_LOW || net->outside == PULLS_LOW)
        return 0;
    return net->pull_up;
}

static void settle(struct net *net, int level)
{
    if (level == net->level)
        return;
    net->level = level;
    if (net->record)
        fprintf(net->record, "%llu %s %d\n", (unsigned long long)net->avr->cycle, net->name, level);
    avr_raise_irq(net->pin, level);
    if (net->sensor && !net->sensor->unplugged)
        net->sensor->changed(net->sensor, net, level);
}

static avr_cycle_count_t rise(avr_t *avr, avr_cycle_count_t when, void *param)
{
    struct net *net = param;
    (void)avr;
    (void)when;
    settle(net, wanted(net));
    return 0;
}

static void renew(struct net *net)
{
    int level = wanted(net);
    avr_cycle_timer_cancel(net->avr, rise, net);
    if (level && !net->level && net->chip == RELEASED && net->outside == RELEASED && net->rise_us > 0)
        avr_cycle_timer_register(net->avr, net->rise_us * net->avr->frequency / 1e6, rise, net);
    else
        settle(net, level);
}

void net_put(struct net *net, int outside)
{
    if (net->outside == outside)
        return;
    net->outside = outside;
    renew(net);
}

/* The chip changed its direction or its output: looked at one cycle later, when both stand. */
static avr_cycle_count_t look(avr_t *avr, avr_cycle_count_t when, void *param)
{
    struct net *net = param;
    avr_ioport_state_t state;
    int level = net->level;
    (void)when;
    if (avr_ioctl(avr, AVR_IOCTL_IOPORT_GETSTATE(net->port), &state) == 0) {
        int out = state.ddr >> net->bit & 1, high = state.port >> net->bit & 1;
        net->chip = !out ? RELEASED : high ? DRIVES_HIGH : DRIVES_LOW;
    }
    renew(net);
    if (net->chip == RELEASED && level == net->level)
        avr_raise_irq(net->pin, net->level); /* the chip's own idea of its pin is not the wire */
    return 0;
}

static void on_chip(struct avr_irq_t *irq, uint32_t value, void *param)
{
    struct net *net = param;
    (void)irq;
    (void)value;
    avr_cycle_timer_register(net->avr, 1, look, net);
}

void net_begin(struct net *net, avr_t *avr, const char *name, char port, uint8_t bit)
{
    memset(net, 0, sizeof *net);
    snprintf(net->name, sizeof net->name, "%s", name);
    net->avr = avr;
    net->port = port;
    net->bit = bit;
    net->pull_up = 1;
    net->rise_us = 0.3;
    net->level = -1;
    net->pin = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port), bit);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port), IOPORT_IRQ_DIRECTION_ALL),
                            on_chip, net);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(port), IOPORT_IRQ_REG_PORT),
                            on_chip, net);
    settle(net, wanted(net));
}

static avr_cycle_count_t woken(avr_t *avr, avr_cycle_count_t when, void *param)
{
    struct sensor *sensor = param;
    (void)avr;
    (void)when;
    if (!sensor->unplugged)
        sensor->wake(sensor);
    return 0;
}

void wake_in(struct sensor *sensor, double us)
{
    avr_t *avr = sensor->net->avr;
    avr_cycle_timer_cancel(avr, woken, sensor);
    avr_cycle_timer_register(avr, us * avr->frequency / 1e6, woken, sensor);
}
