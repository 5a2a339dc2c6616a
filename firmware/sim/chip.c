/* A simulated microcontroller with our firmware, sensors on its pins, and its serial line at a
 * pseudo-terminal.
 *
 *   chip --mcu atmega328p --firmware FILE.elf [--link PATH] [--baud N] [--free] [--boot-ms N]
 *        [--record FILE] [--attach LINE=KIND]... [--floating LINE]... [--rise LINE=US]...
 *
 * KIND: 22:92,11.8 (humidity sensor of the 22-type), 11:55,21, onewire:N, echo@LINE:0.8 (echo on
 * that line). Orders come by standard input, one a line, and are answered "ok" or "error: why":
 *
 *   set LINE VALUES     another climate, distance, or thermometer N,CELSIUS
 *   unplug LINE, plug LINE
 *   play LINE FILE      edges from a file: widths in ns, the first the wait; the line goes low first
 *   drop N              so many bytes to the host are lost
 *   crash [MS]          the chip restarts, and hears nothing for so long
 *   freeze MS           it stands still for so long
 *   at, stack           the cycle now; the lowest address that the stack has reached
 *
 * Without --free it keeps the pace of the world's clock, as well as this computer can.
 */

#define _GNU_SOURCE
#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <pty.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_elf.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <time.h>
#include <unistd.h>

#include "nets.h"

#define MOST_NETS 8
#define SLICE_US 200
#define HERTZ 16000000

struct place {
    const char *name;
    char port;
    uint8_t bit;
};

static const struct place small[] = {{"D2", 'D', 2}, {"D3", 'D', 3}, {"D4", 'D', 4},
                                     {"D8", 'B', 0}, {"D9", 'B', 1}, {"A0", 'C', 0}, {0}};
static const struct place large[] = {{"D2", 'E', 4},  {"D3", 'E', 5},  {"D18", 'D', 3},
                                     {"D19", 'D', 2}, {"D10", 'B', 4}, {"D20", 'D', 1},
                                     {"D49", 'L', 0}, {"D48", 'L', 1}, {0}};

static avr_t *chip;
static struct net nets[MOST_NETS];
static int net_count;
static avr_irq_t *uart_in;
static int port_fd, room = 1, open_now;
static long baud = 1000000, boot_ms, dropped;
static uint8_t out[1 << 16];
static unsigned out_size;
static uint64_t deaf_until;
static int is_free;
static unsigned least_stack = 0xFFFF;

static struct net *net_named(const char *name, size_t size)
{
    for (int n = 0; n < net_count; n++)
        if (strlen(nets[n].name) == size && !strncmp(nets[n].name, name, size))
            return &nets[n];
    return NULL;
}

/* The serial line. */

static long speed_of_port(void)
{
    static const struct {
        speed_t code;
        long bits;
    } speeds[] = {{B1000000, 1000000}, {B500000, 500000}, {B115200, 115200}, {B57600, 57600}};
    struct termios now;
    if (tcgetattr(port_fd, &now) == 0)
        for (unsigned n = 0; n < sizeof speeds / sizeof *speeds; n++)
            if (cfgetospeed(&now) == speeds[n].code)
                return speeds[n].bits;
    return 0;
}

static void on_byte(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)param;
    if (dropped > 0)
        dropped--;
    else if (open_now && out_size < sizeof out)
        out[out_size++] = speed_of_port() == baud ? (uint8_t)value : 0xA5;
}

static void on_room(struct avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq;
    (void)value;
    room = param != NULL;
}

static void start(void)
{
    avr_reset(chip);
    for (int n = 0; n < net_count; n++) { /* the chip forgets its pins, the wires do not */
        avr_raise_irq(nets[n].pin, !nets[n].level);
        avr_raise_irq(nets[n].pin, nets[n].level);
    }
}

/* A board restarts when its port is opened, and its boot loader keeps it busy. */
static void look_at_port(void)
{
    struct pollfd one = {port_fd, POLLIN, 0};
    poll(&one, 1, 0);
    int is_open = !(one.revents & POLLHUP);
    if (is_open && !open_now) {
        out_size = 0;
        if (boot_ms) {
            start();
            deaf_until = chip->cycle + (uint64_t)boot_ms * (HERTZ / 1000);
        }
    }
    open_now = is_open;
}

static void serve_port(void)
{
    uint8_t byte;
    look_at_port();
    if (!open_now)
        return;
    if (out_size) {
        ssize_t done = write(port_fd, out, out_size);
        if (done > 0) {
            memmove(out, out + done, out_size - done);
            out_size -= done;
        }
    }
    while (room && read(port_fd, &byte, 1) == 1)
        if (chip->cycle >= deaf_until)
            avr_raise_irq(uart_in, speed_of_port() == baud ? byte : 0xA5);
}

/* Edges out of a file. */

struct player {
    struct net *net;
    int64_t *ns;
    long count, at;
    double due;
    int low;
};

static avr_cycle_count_t played(avr_t *avr, avr_cycle_count_t when, void *param)
{
    struct player *p = param;
    (void)when;
    if (p->at > 0) {
        p->low = !p->low;
        net_put(p->net, p->low ? PULLS_LOW : RELEASED);
    }
    if (p->at == p->count) {
        free(p->ns);
        free(p);
        return 0;
    }
    p->due += p->ns[p->at++] * (HERTZ / 1e9);
    return p->due > avr->cycle + 1 ? (avr_cycle_count_t)p->due : avr->cycle + 1;
}

static const char *play(struct net *net, const char *path)
{
    FILE *file = fopen(path, "rb");
    struct player *p = calloc(1, sizeof *p);
    long size;
    if (!file)
        return "there is no such file";
    fseek(file, 0, SEEK_END);
    size = ftell(file) / 8;
    rewind(file);
    p->net = net;
    p->ns = malloc(size * 8);
    p->count = fread(p->ns, 8, size, file);
    p->due = chip->cycle;
    fclose(file);
    avr_cycle_timer_register(chip, 1, played, p);
    return NULL;
}

/* Orders. */

static uint64_t frozen_until_us;

static uint64_t world_us(void)
{
    struct timespec t;
    clock_gettime(CLOCK_MONOTONIC, &t);
    return t.tv_sec * 1000000ull + t.tv_nsec / 1000;
}

static const char *obey(char *line)
{
    char *word = strtok(line, " \n"), *what = strtok(NULL, " \n"), *more = strtok(NULL, "\n");
    struct net *net = what ? net_named(what, strlen(what)) : NULL;
    if (!word)
        return "nothing was said";
    if (!strcmp(word, "drop") && what)
        dropped = atol(what);
    else if (!strcmp(word, "crash")) {
        deaf_until = chip->cycle + (what ? atol(what) : 0) * (uint64_t)(HERTZ / 1000);
        start();
    } else if (!strcmp(word, "freeze") && what)
        frozen_until_us = world_us() + atol(what) * 1000ull;
    else if (!strcmp(word, "stack"))
        printf("%u\n", least_stack);
    else if (!strcmp(word, "at"))
        printf("%llu\n", (unsigned long long)chip->cycle);
    else if (!net)
        return "no such line, or no such order";
    else if (!strcmp(word, "play") && more)
        return play(net, more);
    else if (!net->sensor)
        return "nothing hangs on that line";
    else if (!strcmp(word, "set") && more)
        return sensor_set(net->sensor, more) ? NULL : "these values make no sense";
    else if (!strcmp(word, "unplug") || !strcmp(word, "plug"))
        net->sensor->unplugged = !strcmp(word, "unplug");
    else
        return "no such order";
    return NULL;
}

static int hear_orders(void)
{
    static char text[4096];
    static unsigned size;
    ssize_t got = read(0, text + size, sizeof text - 1 - size);
    char *end;
    if (got == 0)
        return 0;
    if (got < 0)
        return 1;
    size += got;
    text[size] = 0;
    while ((end = strchr(text, '\n'))) {
        char line[4096];
        const char *wrong;
        memcpy(line, text, end - text + 1);
        line[end - text + 1] = 0;
        size -= end + 1 - text;
        memmove(text, end + 1, size + 1);
        wrong = obey(line);
        printf(wrong ? "error: %s\n" : "ok\n", wrong);
        fflush(stdout);
    }
    return 1;
}

static void refuse(const char *why, const char *what)
{
    fprintf(stderr, "error: %s: %s\n", why, what);
    exit(2);
}

static void attach(const char *text)
{
    const char *kind = strchr(text, '='), *second = kind ? strchr(kind, '@') : NULL;
    struct net *net = kind ? net_named(text, kind - text) : NULL, *other = NULL;
    char own[64];
    if (!net)
        refuse("no such line", text);
    snprintf(own, sizeof own, "%s", kind + 1);
    if (second) {
        const char *more = strchr(second, ':');
        size_t size = more ? (size_t)(more - second - 1) : strlen(second + 1);
        other = net_named(second + 1, size);
        snprintf(own, sizeof own, "echo%s", more ? more : "");
    }
    if (!sensor_of(own, net, other))
        refuse("no such sensor", text);
}

static void open_port(const char *link)
{
    char name[128];
    int other;
    struct termios raw;
    if (openpty(&port_fd, &other, name, NULL, NULL) < 0)
        refuse("no pseudo-terminal", strerror(errno));
    tcgetattr(other, &raw);
    cfmakeraw(&raw);
    tcsetattr(other, TCSANOW, &raw);
    close(other);
    fcntl(port_fd, F_SETFL, O_NONBLOCK);
    if (link) {
        unlink(link);
        if (symlink(name, link) < 0)
            refuse("the link cannot be made", link);
    }
    printf("%s\n", name);
    fflush(stdout);
}

static void quiet(avr_t *avr, const int level, const char *format, va_list words)
{
    (void)avr;
    if (level <= LOG_ERROR)
        vfprintf(stderr, format, words);
}

static void begin(const char *mcu, const char *path)
{
    elf_firmware_t firmware = {0};
    uint32_t flags = 0;
    avr_global_logger_set(quiet);
    if (elf_read_firmware(path, &firmware) != 0)
        refuse("the firmware cannot be read", path);
    chip = avr_make_mcu_by_name(mcu);
    if (!chip)
        refuse("no such chip", mcu);
    avr_init(chip);
    chip->frequency = HERTZ;
    avr_load_firmware(chip, &firmware);
    chip->frequency = HERTZ;
    avr_ioctl(chip, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    uart_in = avr_io_getirq(chip, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT);
    avr_irq_register_notify(avr_io_getirq(chip, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT),
                            on_byte, NULL);
    avr_irq_register_notify(avr_io_getirq(chip, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XON),
                            on_room, chip);
    avr_irq_register_notify(avr_io_getirq(chip, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XOFF),
                            on_room, NULL);
    for (const struct place *p = strcmp(mcu, "atmega2560") ? small : large; p->name; p++)
        net_begin(&nets[net_count++], chip, p->name, p->port, p->bit);
}

/* Runs for some time of the chip, and waits until the world has come as far. */
static void run(void)
{
    static uint64_t zero_us, zero_cycle;
    uint64_t until = chip->cycle + SLICE_US * (HERTZ / 1000000), now;
    if (frozen_until_us) {
        if (world_us() < frozen_until_us) {
            usleep(1000);
            return;
        }
        frozen_until_us = zero_us = 0;
    }
    while (chip->cycle < until) {
        int state = avr_run(chip);
        unsigned stack = chip->data[R_SPL] | chip->data[R_SPH] << 8;
        if (stack && stack < least_stack && stack > 0x200)
            least_stack = stack;
        if (state == cpu_Done || state == cpu_Crashed)
            refuse("the chip has stopped", state == cpu_Crashed ? "crashed" : "done");
    }
    if (is_free)
        return;
    now = world_us();
    if (!zero_us || now > zero_us + (chip->cycle - zero_cycle) / 16 + 100000) {
        zero_us = now; /* this computer does not keep up: time is longer then */
        zero_cycle = chip->cycle;
    }
    if (zero_us + (chip->cycle - zero_cycle) / 16 > now + 500)
        usleep(zero_us + (chip->cycle - zero_cycle) / 16 - now);
}

int main(int count, char **words)
{
    const char *mcu = "atmega328p", *path = NULL, *link = NULL;
    FILE *record = NULL;
    int n, begun = 0;
    for (n = 1; n < count; n++) {
        const char *word = words[n], *value = n + 1 < count ? words[n + 1] : "";
        if (!strcmp(word, "--free")) {
            is_free = 1;
            continue;
        }
        n++;
        if (!strcmp(word, "--mcu"))
            mcu = value;
        else if (!strcmp(word, "--firmware"))
            path = value;
        else if (!strcmp(word, "--link"))
            link = value;
        else if (!strcmp(word, "--baud"))
            baud = atol(value);
        else if (!strcmp(word, "--boot-ms"))
            boot_ms = atol(value);
        else if (!strcmp(word, "--record"))
            record = fopen(value, "w");
        else {
            const char *end = strchr(value, '=');
            struct net *net;
            if (!begun++)
                begin(mcu, path ? path : "");
            net = net_named(value, end ? (size_t)(end - value) : strlen(value));
            if (!strcmp(word, "--attach"))
                attach(value);
            else if (!strcmp(word, "--floating") && net)
                net->pull_up = 0;
            else if (!strcmp(word, "--rise") && net && end)
                net->rise_us = atof(end + 1);
            else
                refuse("what is meant by", word);
        }
    }
    if (!begun)
        begin(mcu, path ? path : "");
    for (n = 0; n < net_count; n++)
        nets[n].record = record;
    fcntl(0, F_SETFL, O_NONBLOCK);
    open_port(link);
    while (hear_orders()) {
        run();
        serve_port();
    }
    if (record)
        fclose(record);
    if (link)
        unlink(link);
    return 0;
}
