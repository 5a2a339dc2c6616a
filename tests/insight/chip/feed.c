/* A simulated ATmega328P with a reader, and frames on its pin D2.
 *
 *   feed READER.elf FRAMES
 *
 * FRAMES has 84 widths a frame, ns, int32: the release, the answer, 40 bits, the low at the end. A
 * frame begins when the reader lets go (D8 rises); what it hands over is printed, a line a frame.
 */
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_elf.h>
#include <stdio.h>
#include <stdlib.h>

#define WIDTHS 84
#define GIVE_UP_MS 40

static avr_t *chip;
static avr_irq_t *pin;
static int32_t (*frames)[WIDTHS];
static long frame_count, frame = -1;
static int place;
static double at_ns;
static unsigned char taken[6];
static int taken_count, done;

static uint64_t cycle_of(double ns) { return (uint64_t)(ns * 16 / 1000 + 0.5); }

static uint64_t began;

static avr_cycle_count_t next_edge(avr_t *avr, avr_cycle_count_t when, void *param)
{
    (void)avr, (void)when, (void)param;
    avr_raise_irq(pin, place % 2); /* ends of high, low, high ... */
    place++;
    if (place >= WIDTHS)
        return 0;
    at_ns += frames[frame][place];
    return began + cycle_of(at_ns);
}

static void hand_over(void)
{
    printf("%d %02x%02x%02x%02x%02x\n", taken[0], taken[1], taken[2], taken[3], taken[4], taken[5]);
    taken_count = 0;
}

static void let_go(avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq, (void)param;
    if (!value)
        return;
    avr_cycle_timer_cancel(chip, next_edge, NULL);
    if (++frame >= frame_count) {
        done = 1;
        return;
    }
    avr_raise_irq(pin, 1);
    place = 0;
    at_ns = frames[frame][0];
    began = chip->cycle;
    avr_cycle_timer_register(chip, cycle_of(at_ns), next_edge, NULL);
}

static void said(avr_irq_t *irq, uint32_t value, void *param)
{
    (void)irq, (void)param;
    taken[taken_count++] = value;
    if (taken_count == 6)
        hand_over();
}

int main(int count, char **words)
{
    elf_firmware_t firmware = {0};
    FILE *file = count == 3 ? fopen(words[2], "rb") : NULL;
    if (!file || elf_read_firmware(words[1], &firmware)) {
        fprintf(stderr, "feed READER.elf FRAMES\n");
        return 2;
    }
    fseek(file, 0, SEEK_END);
    frame_count = ftell(file) / sizeof *frames;
    rewind(file);
    frames = malloc(frame_count * sizeof *frames);
    if (fread(frames, sizeof *frames, frame_count, file) != (size_t)frame_count)
        return 2;
    chip = avr_make_mcu_by_name("atmega328p");
    avr_init(chip);
    chip->log = 0;
    chip->frequency = 16000000;
    avr_load_firmware(chip, &firmware);
    uint32_t flags = 0;
    avr_ioctl(chip, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POOL_SLEEP);
    avr_ioctl(chip, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    pin = avr_io_getirq(chip, AVR_IOCTL_IOPORT_GETIRQ('D'), 2);
    avr_irq_register_notify(avr_io_getirq(chip, AVR_IOCTL_IOPORT_GETIRQ('B'), 0), let_go, NULL);
    avr_irq_register_notify(avr_io_getirq(chip, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), said,
                            NULL);
    avr_raise_irq(pin, 1);
    while (!done) {
        int state = avr_run(chip);
        if (state == cpu_Done || state == cpu_Crashed)
            return 1;
        if (chip->cycle - began > GIVE_UP_MS * 16000ull) {
            /* It hangs: the next ask would find it so, and it is started anew. */
            printf("2 0000000000\n");
            taken_count = 0;
            avr_reset(chip);
            began = chip->cycle;
        }
    }
    return 0;
}
