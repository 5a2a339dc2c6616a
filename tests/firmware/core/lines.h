/* A board that is none: the portable core, built for this computer. */
#ifndef LINES_H
#define LINES_H

#define TICK_PS 500000UL
#define BUFFER 255
#define MOST_STEPS 80
#define NAME "no board"
#define LINES 2
#define LINE_IS_FINE(line) ((line) == 1)
#define MESSAGES 2
#define HELD 64
#define FLASH
#define READ_FLASH16(address) (*(address))

static inline char line_name(int line, int at)
{
    return at ? 0 : (char)('A' + line);
}

#endif
