// Servo pulses from 16-channel 12-bit generators on the I2C bus, 50 frames a second.
#include "hardware.h"
#include "hardware_avr.h"
#include "generators.h"
#include "strings.h"

void hw_begin() {
  avr_begin();
  generators_begin();
  TCCR1A = 0, TCCR1B = 1 << WGM12 | 1 << CS11;
  OCR1A = TICKS_FRAME - 1;
  rc_begin();
}

void hw_pulse(uint8_t output, uint16_t tenths_us) { generator_pulse(output, tenths_us); }
void hw_light(uint8_t output, uint16_t permille) {
  if (!avr_light(output, permille) && !string_level(output, permille)) generator_light(output, permille);
}

void hw_frame(char, uint32_t) {
  while (!(TIFR1 & (1 << OCF1A))) avr_send();
  TIFR1 = 1 << OCF1A;
  generators_send();
  if (STRINGS) strings_send();  // the generators make their pulses by themselves
  wdt_reset();
}

uint16_t hw_reads(uint8_t input) { return avr_reads(input); }
uint8_t hw_cue() { return avr_cue(); }
void hw_say(uint16_t sound) { avr_say(sound); }
void hw_entered(uint8_t, uint32_t) {}
bool hw_stop() { return avr_stop(); }
void hw_done() {}
