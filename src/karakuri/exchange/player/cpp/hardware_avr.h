// Shared by the AVR files: 20 ms from timer 1, lights on pins 3 and 11 by timer 2, stop switch from A0 to ground, watchdog.
#pragma once
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/wdt.h>
#include <stdint.h>

#ifndef F_CPU
#define F_CPU 16000000UL
#endif
const uint16_t TICKS_FRAME = F_CPU / 8 / 50;  // timer 1 at F_CPU / 8: 0.5 microseconds a tick at 16 MHz

static uint8_t lights_seen[2] = {255, 255};

static inline void avr_begin() {
  MCUSR = 0;
  wdt_enable(WDTO_250MS);
  PORTC |= 1;                                     // A0 pulled up: the stop switch
  DDRD |= 1 << 3, DDRB |= 1 << 3;                 // pins 3 and 11
  TCCR2A = 1 << WGM21 | 1 << WGM20, TCCR2B = 1 << CS22;
}

static inline bool avr_stop() { return !(PINC & 1); }

// The first light is pin 3, the second pin 11; more have no pin.
static inline void avr_light(uint8_t output, uint16_t permille) {
  for (uint8_t i = 0; i < 2; i++) {
    if (lights_seen[i] == 255) lights_seen[i] = output;
    if (lights_seen[i] != output) continue;
    const uint8_t level = (uint32_t)permille * 255 / 1000;
    volatile uint8_t *where = i == 0 ? &OCR2B : &OCR2A;
    *where = level;
    const uint8_t bit = i == 0 ? 1 << COM2B1 : 1 << COM2A1;
    if (level) TCCR2A |= bit;
    else TCCR2A &= ~bit;                          // a plain low pin, not a sliver of light
    return;
  }
}
