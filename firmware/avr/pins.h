/* Which pin is which line, for the assembler and for C. A line needs an interrupt of its own. */
#ifndef PINS_H
#define PINS_H

/* X(line, port, bit, how its interrupt is switched): INT n, CHANGE group, CAPTURE timer. */
#if defined(__AVR_ATmega328P__)

#define USART_RECEIVED USART_RX_vect
#define LIGHT_DDR DDRB
#define LIGHT_PORT PORTB
#define LIGHT_BIT 5 /* D13 */
#define LINES_OF_BOARD \
    ORDINARY INT0_vect, 0, PIND, 2 $ \
    ORDINARY INT1_vect, 1, PIND, 3 $ \
    ORDINARY PCINT2_vect, 2, PIND, 4 $ \
    FINE TIMER1_CAPT_vect, 3, PINB, 0, ICR1L, ICR1H, TCCR1B, TIFR1, ICF1, ICES1 $ \
    ORDINARY PCINT0_vect, 4, PINB, 1 $ \
    ORDINARY PCINT1_vect, 5, PINC, 0

#elif defined(__AVR_ATmega2560__)

#define USART_RECEIVED USART0_RX_vect
#define LIGHT_DDR DDRB
#define LIGHT_PORT PORTB
#define LIGHT_BIT 7 /* D13 */
#define LINES_OF_BOARD \
    ORDINARY INT4_vect, 0, PINE, 4 $ \
    ORDINARY INT5_vect, 1, PINE, 5 $ \
    ORDINARY INT3_vect, 2, PIND, 3 $ \
    ORDINARY INT2_vect, 3, PIND, 2 $ \
    ORDINARY PCINT0_vect, 4, PINB, 4 $ \
    ORDINARY INT1_vect, 5, PIND, 1 $ \
    FINE TIMER4_CAPT_vect, 6, PINL, 0, ICR4L, ICR4H, TCCR4B, TIFR4, ICF4, ICES4 $ \
    FINE TIMER5_CAPT_vect, 7, PINL, 1, ICR5L, ICR5H, TCCR5B, TIFR5, ICF5, ICES5

#endif

#endif
