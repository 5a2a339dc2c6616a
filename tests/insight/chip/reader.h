/* What the three readers share: a pin, a clock, and how a frame is handed over. */
#include <avr/io.h>
#include <stdint.h>

#define IS_HIGH (PIND & (1 << 2))
#define OK 0
#define GAVE_UP 1

static void say(uint8_t byte)
{
    while (!(UCSR0A & (1 << UDRE0)))
        ;
    UDR0 = byte;
}

uint8_t read_frame(uint8_t *bytes);

int main(void)
{
    uint8_t bytes[5];
    DDRB |= 1;
    TCCR1B = 1; /* a turn of 1/16 us */
    UBRR0 = 0;
    UCSR0B = 1 << TXEN0;
    for (;;) {
        PORTB |= 1; /* the line is let go here: the frame begins */
        uint8_t how = read_frame(bytes);
        PORTB &= ~1;
        say(how);
        for (uint8_t n = 0; n < 5; n++)
            say(bytes[n]);
    }
}
