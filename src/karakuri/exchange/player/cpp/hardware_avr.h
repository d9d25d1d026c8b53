// Shared by the AVR files: 20 ms from timer 1, lights and the stop switch as pins.h has them, watchdog.
#pragma once
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/wdt.h>
#include <stdint.h>

#include "hardware.h"
#include "pins.h"
#include "shape.h"

#ifndef F_CPU
#define F_CPU 16000000UL
#endif
const uint16_t TICKS_FRAME = F_CPU / 8 / 50;  // timer 1 at F_CPU / 8: 0.5 microseconds a tick at 16 MHz

#ifdef LIVING
// Serial words, 9600 baud, both ways.
static inline void avr_serial() { UBRR0 = F_CPU / 16 / 9600 - 1, UCSR0A = 0, UCSR0B = 1 << TXEN0 | (CUES > 0 ? 1 << RXEN0 : 0); }
#else
static inline void avr_serial() {}
#endif

static inline void avr_begin() {
  MCUSR = 0;
  TIMSK0 = 0;  // nobody counts milliseconds here: no interrupt comes between a pulse and its end
  wdt_enable(WDTO_250MS);
  pins_begin();
  avr_serial();
}

static inline bool avr_stop() { return pins_stop(); }

#if RECEIVERS > 0
// A receiver's pulses, measured by timer 1 from the change of their pins; nobody else interrupts.
static volatile uint16_t rc_rose[INPUTS], rc_wide[INPUTS];
static volatile uint8_t rc_high[INPUTS], rc_age[INPUTS];
static inline void rc_edges() {
  const uint16_t now = TCNT1;
  for (uint8_t i = 0; i < INPUTS; i++) {
    if (!INPUT_RECEIVER[i]) continue;
    const uint8_t high = (*INPUT_PIN[i] & INPUT_BIT[i]) != 0;
    if (high == rc_high[i]) continue;
    rc_high[i] = high;
    if (high) rc_rose[i] = now;
    else rc_wide[i] = now >= rc_rose[i] ? now - rc_rose[i] : now + TICKS_FRAME - rc_rose[i], rc_age[i] = 1;
  }
}
ISR(PCINT0_vect) { rc_edges(); }
#ifdef PCINT1_vect
ISR(PCINT1_vect) { rc_edges(); }
#endif
ISR(PCINT2_vect) { rc_edges(); }
const uint8_t RC_LOST = 10;  // frames without a pulse
static inline void rc_begin() { sei(); }
static inline uint16_t rc_us(uint8_t i) {
  cli();
  const uint16_t wide = rc_wide[i];
  if (rc_age[i] && rc_age[i] < 255) rc_age[i]++;
  const uint8_t age = rc_age[i];
  sei();
  return age && age <= RC_LOST ? (wide + 1) / 2 : 0xFFFF;
}
#else
static inline void rc_begin() {}
#endif

#if INPUTS > 0
// What an input says: 0 or 1000, of a level 0 to 1000 of the supply.
static uint16_t avr_reads(uint8_t i) {
  if (i >= INPUTS) return 0xFFFF;
#if RECEIVERS > 0
  if (INPUT_RECEIVER[i]) return rc_us(i);
#endif
  if (!INPUT_ANALOG[i]) {
    const bool high = *INPUT_PIN[i] & INPUT_BIT[i];
    return high != (INPUT_LOW[i] != 0) ? 1000 : 0;
  }
  pins_listen(INPUT_ANALOG[i] - 1);
  ADCSRA |= 1 << ADSC;
  while (ADCSRA & (1 << ADSC)) {}
  return (uint32_t)(ADC >> 6) * 1000 / 1023;
}
#else
static inline uint16_t avr_reads(uint8_t) { return 0xFFFF; }
#endif

#ifdef LIVING
#if CUES > 0
static inline uint8_t avr_cue() {
  while (UCSR0A & (1 << RXC0)) {
    const uint8_t cue = cue_of(UDR0);
    if (cue < 255) return cue;
  }
  return 255;
}
#else
static inline uint8_t avr_cue() { return 255; }
#endif
// Words to whatever plays sounds, 9600 baud on the sending pin: "PLAY 3". Most modules want bytes of their own: write them here.
static char say_words[12];
static uint8_t say_at;
static inline void avr_say(uint16_t sound) {
  char digits[6];
  uint8_t n = 0, k = 0;
  for (const char *c = "PLAY "; *c; c++) say_words[n++] = *c;
  do digits[k++] = '0' + sound % 10;
  while (sound /= 10);
  while (k) say_words[n++] = digits[--k];
  say_words[n++] = '\n', say_words[n] = 0, say_at = 0;
}
static inline void avr_send() {  // one byte, where there is room
  if (say_words[say_at] && (UCSR0A & (1 << UDRE0))) UDR0 = say_words[say_at++];
}

#elif defined(FOLLOWS)
void follow_poll();
static inline uint8_t avr_cue() { return 255; }
static inline void avr_say(uint16_t) {}
static inline void avr_send() { follow_poll(); }
#else
static inline uint8_t avr_cue() { return 255; }
static inline void avr_say(uint16_t) {}
static inline void avr_send() {}
#endif

// False where the light is on no pin of this controller.
static inline bool avr_light(uint8_t output, uint16_t permille) { return pins_light(output, (uint32_t)permille * 255 / 1000); }
