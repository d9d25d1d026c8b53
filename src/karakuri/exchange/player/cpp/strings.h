// Strings of lamps with one data wire, 800 kbit a second: a bit is 20 cycles of 16 MHz, 6 of them high for a 0, 13 for a 1.
// Interrupts are shut while one is sent, so it is only sent where no pulse has to end: after the last one of a frame.
#pragma once
#include <stdint.h>

#include "pins.h"

#if STRINGS > 0
#include <avr/interrupt.h>

static uint8_t string_levels[STRINGS];

// False where no string is that output.
static inline bool string_level(uint8_t output, uint16_t permille) {
  for (uint8_t i = 0; i < STRINGS; i++) {
    if (STRING_OUTPUT[i] != output) continue;
    string_levels[i] = (uint32_t)permille * 255 / 1000;
    return true;
  }
  return false;
}

static void string_send(uint8_t which) {
  volatile uint8_t *const port = STRING_PORT[which];
  const uint8_t high = *port | STRING_BIT[which], low = *port & ~STRING_BIT[which];
  for (uint16_t left = 3 * STRING_LAMPS[which]; left; left--) {
    uint8_t byte = string_levels[which], bits = 8;
    asm volatile(
        "1: st %a[port], %[high]\n\t"
        "lsl %[byte]\n\t"
        "nop\n\t" "nop\n\t"
        "brcs 2f\n\t"
        "st %a[port], %[low]\n\t"
        "2: nop\n\t" "nop\n\t" "nop\n\t" "nop\n\t" "nop\n\t" "nop\n\t"
        "st %a[port], %[low]\n\t"
        "nop\n\t" "nop\n\t"
        "dec %[bits]\n\t"
        "brne 1b\n\t"
        : [byte] "+r"(byte), [bits] "+r"(bits)
        : [port] "e"(port), [high] "r"(high), [low] "r"(low));
  }
}

static inline void strings_send() {
  const uint8_t before = SREG;
  cli();
  for (uint8_t i = 0; i < STRINGS; i++) string_send(i);
  SREG = before;
}
#else
const uint16_t STRING_TICKS = 0;
static inline bool string_level(uint8_t, uint16_t) { return false; }
static inline void strings_send() {}
#endif
