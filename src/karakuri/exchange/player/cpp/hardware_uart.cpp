// No pulses: writes every frame as a line on the serial port, for a simulated controller. Ends when TRACE_FRAMES were played.
#include <avr/sleep.h>
#include <stdlib.h>

#include "hardware.h"
#include "hardware_avr.h"

#ifndef TRACE_FRAMES
#define TRACE_FRAMES 100
#endif
static uint16_t value[BOARD_OUTPUTS];

static void put(char c) {
  while (!(UCSR0A & (1 << UDRE0))) {}
  UDR0 = c;
}
static void number(uint32_t n) {
  char text[12];
  ultoa(n, text, 10);
  for (char *c = text; *c; c++) put(*c);
}

void hw_begin() {
  avr_begin();
  UBRR0 = 0, UCSR0A = 1 << U2X0, UCSR0B = 1 << TXEN0 | 1 << RXEN0;
  TCCR1A = 0, TCCR1B = 1 << WGM12 | 1 << CS11, OCR1A = TICKS_FRAME - 1;
  rc_begin();
}
void hw_pulse(uint8_t output, uint16_t tenths_us) { if (output < BOARD_OUTPUTS) value[output] = tenths_us; }
void hw_light(uint8_t output, uint16_t permille) { if (output < BOARD_OUTPUTS) value[output] = permille; }

void hw_frame(char what, uint32_t n) {
  static uint32_t played;
  put(what), put(' '), number(n);
  for (uint8_t i = 0; i < BOARD_OUTPUTS; i++) put(' '), number(value[i]);
  put('\n');
  wdt_reset();
  if (what == 'F' && ++played >= TRACE_FRAMES) hw_done();
}
uint16_t hw_reads(uint8_t input) { return avr_reads(input); }
uint8_t hw_cue() { return avr_cue(); }
void hw_say(uint16_t sound) { put('V'), put(' '), number(sound), put('\n'); }
void hw_entered(uint8_t state, uint32_t tick) { put('E'), put(' '), number(state), put(' '), number(tick), put('\n'); }
bool hw_stop() { return false; }
void hw_done() {
  wdt_disable();
  cli();
  sleep_enable();
  sleep_cpu();
  for (;;) {}
}
