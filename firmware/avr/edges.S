; What must be quick: every edge into the ring, with the time at which it was served.
;
; Nothing is pushed: registers r2 to r15 belong to these routines, the C code is compiled without
; them (-ffixed-rN), and none of them is interrupted by another. So an edge takes 42 cycles, less
; than 3 us, and the time is read 11 cycles after the interrupt was accepted.
;
;   r2  UCSR0B without the receive interrupt      r10  head of the ring: where the next edge goes
;   r3  0x40, a wrap of the timer in an entry     r11  tail: the next that is taken
;   r4, r5, r6  of an entry                       r12  head of what was received
;   r7  the status register, r8, r9  Z            r13  wraps of the timer, low 8 bits
;   r14 a received byte                           r15  TIMSK1 without the ask's interrupt
;
; The ring: three pages of 256 bytes, low and high byte of the timer, and what it is: line (bits 0
; to 2), level behind the edge (3), nobody knows when it came (4), wraps of the timer that were
; counted (6 and 7; right behind a wrap it may be one too few).

#define __SFR_OFFSET 0
#include <avr/io.h>

#include "pins.h"

.section .ring, "aw", @nobits
.global ring
ring:       .space 0x300
.global received
received:   .space 0x80

.text

; Z to the entry, the entry into it, and the head on; where there is no room, or where recording
; rests, the edge is only counted.
.macro PUSH_ENTRY line
    mov     r30, r10
    ldi     r31, hi8(ring)
    st      Z, r4
    inc     r31
    st      Z, r5
    inc     r31
    st      Z, r6
    sbic    GPIOR0, 0           ; recording rests
    rjmp    8f
    inc     r10
    cp      r10, r11
    brne    9f
    dec     r10
    sbi     GPIOR0, 0
8:  lds     r4, lost + 2 * \line
    lds     r5, lost + 2 * \line + 1
    ldi     r30, 1
    add     r4, r30
    brcc    7f
    inc     r5
7:  sts     lost + 2 * \line, r4
    sts     lost + 2 * \line + 1, r5
9:
.endm

.macro READ_PIN register, address
    .if \address < 0x40
    in      \register, \address
    .else
    lds     \register, \address
    .endif
.endm

; An ordinary line: the time is the timer's when the interrupt is served.
.macro ORDINARY vector, line, pin, bit
.global \vector
\vector:
    lds     r4, TCNT1L
    lds     r5, TCNT1H
    READ_PIN r6, \pin
    in      r7, SREG
    movw    r8, r30
    in      r31, GPIOR1
    ldi     r30, \line
    bst     r6, \bit
    bld     r30, 3
    or      r30, r31
    mov     r6, r30
    PUSH_ENTRY \line
    movw    r30, r8
    out     SREG, r7
    reti
.endm

; r31: the wraps of a captured stamp in r5. Where the timer has wrapped since, and that was counted,
; they are one too many.
.macro WRAPS_OF_CAPTURE
    in      r31, GPIOR1
    sbrs    r5, 7
    rjmp    1f
    lds     r30, TCNT1L
    lds     r30, TCNT1H
    sbrc    r30, 7
    rjmp    1f
    sbis    TIFR1, TOV1
    sub     r31, r3
1:
.endm

; The capture's flag is cleared where the change of direction has set it. Flags are cleared by writing
; them, and a simulator clears all by that: a wrap that is pending is counted at once.
.macro CLEAR_CAPTURE tifr, icf
    sbis    \tifr, \icf
    rjmp    3f
    ldi     r30, 1 << \icf
    .if \tifr == TIFR1
    sbis    TIFR1, TOV1
    rjmp    1f
    in      r6, GPIOR1
    add     r6, r3
    out     GPIOR1, r6
    inc     r13
    ldi     r30, (1 << \icf) | (1 << TOV1)
1:
    .endif
    out     \tifr, r30
3:
.endm

; A fine line: the timer's own capture. Where the pin has gone on before the other direction could
; be chosen, that edge is told without its time.
.macro FINE vector, line, pin, bit, icr_l, icr_h, tccr, tifr, icf, ices
.global \vector
\vector:
    in      r7, SREG
    movw    r8, r30
    lds     r4, \icr_l
    lds     r5, \icr_h
    lds     r30, \tccr
    ldi     r31, 1 << \ices
    eor     r30, r31
    sts     \tccr, r30          ; looks for the other direction from now on
    bst     r30, \ices          ; low is looked for behind a rise
    WRAPS_OF_CAPTURE
    CLEAR_CAPTURE \tifr, \icf
    READ_PIN r6, \pin
    ldi     r30, \line
    brtc    2f
    rjmp    6f
2:  ori     r30, 8
6:  or      r30, r31
    bst     r6, \bit
    clr     r6
    bld     r6, 3
    eor     r6, r30             ; bit 3: the pin is not at the level behind the edge
    bst     r6, 3
    mov     r6, r30
    PUSH_ENTRY \line
    brtc    4f
    lds     r30, \tccr          ; it has gone back: the first direction is looked for again
    ldi     r31, 1 << \ices
    eor     r30, r31
    sts     \tccr, r30
    bst     r6, 3
    CLEAR_CAPTURE \tifr, \icf
    lds     r4, TCNT1L
    lds     r5, TCNT1H
    in      r31, GPIOR1
    ldi     r30, \line | 0x18
    brtc    5f
    andi    r30, 0xF7
5:  or      r30, r31
    mov     r6, r30
    PUSH_ENTRY \line
4:  movw    r30, r8
    out     SREG, r7
    reti
.endm

LINES_OF_BOARD

; The timer has wrapped.
.global TIMER1_OVF_vect
TIMER1_OVF_vect:
    in      r7, SREG
    in      r4, GPIOR1
    add     r4, r3
    out     GPIOR1, r4
    inc     r13
    out     SREG, r7
    reti

; A byte has come. What takes long is done where edges may interrupt it.
.global USART_RECEIVED
USART_RECEIVED:
    push    r30
    in      r30, SREG
    lds     r14, UDR0
    sts     UCSR0B, r2
    sei
    push    r31
    push    r30
    mov     r30, r12
    ldi     r31, hi8(received)
    st      Z, r14
    inc     r12
    sbrc    r12, 7
    clr     r12
    pop     r31
    ldi     r30, (1 << RXEN0) | (1 << TXEN0) | (1 << RXCIE0)
    cli
    sts     UCSR0B, r30
    out     SREG, r31
    pop     r31
    pop     r30
    reti

; The next step of an ask is due.
.global TIMER1_COMPB_vect
TIMER1_COMPB_vect:
    sts     TIMSK1, r15
    sei
    push    r0
    push    r1
    in      r0, SREG
    push    r0
    clr     r1
    push    r18
    push    r19
    push    r20
    push    r21
    push    r22
    push    r23
    push    r24
    push    r25
    push    r26
    push    r27
    push    r30
    push    r31
    call    ask_step
    pop     r31
    pop     r30
    pop     r27
    pop     r26
    pop     r25
    pop     r24
    pop     r23
    pop     r22
    pop     r21
    pop     r20
    pop     r19
    pop     r18
    pop     r0
    out     SREG, r0
    pop     r1
    pop     r0
    reti
