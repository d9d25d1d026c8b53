// Servo pulses from a 16-channel 12-bit generator on the I2C bus, 50 frames a second; its address and its own clock are in pins.h.
#include "hardware.h"
#include "hardware_avr.h"
#include "strings.h"

static const uint8_t ADDRESS = GENERATOR_ADDRESS, MODE1 = 0x00, PRESCALE = 0xFE, FIRST = 0x06;
static const uint8_t DIVIDER = (GENERATOR_CLOCK + 4096UL * 25) / (4096UL * 50) - 1;
static uint16_t counts[16];

static void wait() {
  uint16_t patience = 20000;
  while (!(TWCR & (1 << TWINT)) && --patience) {}
}
static void begin() {
  TWCR = 1 << TWINT | 1 << TWSTA | 1 << TWEN;
  wait();
}
static void byte(uint8_t value) {
  TWDR = value;
  TWCR = 1 << TWINT | 1 << TWEN;
  wait();
}
static void end() { TWCR = 1 << TWINT | 1 << TWSTO | 1 << TWEN; }
static void write(uint8_t where, uint8_t value) {
  begin(), byte(ADDRESS << 1), byte(where), byte(value), end();
}

void hw_begin() {
  avr_begin();
  TWBR = (F_CPU / 400000UL - 16) / 2, TWSR = 0;
  write(MODE1, 0x10);          // asleep: only then the prescale may be written
  write(PRESCALE, DIVIDER);
  write(MODE1, 0x20);          // awake, register addresses count up
  TCCR1A = 0, TCCR1B = 1 << WGM12 | 1 << CS11;
  OCR1A = TICKS_FRAME - 1;
  rc_begin();
}

void hw_pulse(uint8_t output, uint16_t tenths_us) {
  // counts of (DIVIDER + 1) / clock each, to the nearest
  const uint32_t whole = (DIVIDER + 1) * 10000UL;
  if (output < 16) counts[output] = ((uint32_t)tenths_us * (GENERATOR_CLOCK / 1000) + whole / 2) / whole;
}

void hw_light(uint8_t output, uint16_t permille) {
  if (!avr_light(output, permille) && !string_level(output, permille) && output < 16) counts[output] = (uint32_t)permille * 4095 / 1000;
}

void hw_frame(char, uint32_t) {
  while (!(TIFR1 & (1 << OCF1A))) avr_send();
  TIFR1 = 1 << OCF1A;
  begin(), byte(ADDRESS << 1), byte(FIRST);
  for (uint8_t i = 0; i < 16; i++) byte(0), byte(0), byte(counts[i] & 255), byte(counts[i] >> 8);
  end();
  if (STRINGS) strings_send();  // the generator makes its pulses by itself
  wdt_reset();
}

uint16_t hw_reads(uint8_t input) { return avr_reads(input); }
void hw_say(uint16_t sound) { avr_say(sound); }
void hw_entered(uint8_t, uint32_t) {}
bool hw_stop() { return avr_stop(); }
void hw_done() {}
