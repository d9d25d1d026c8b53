// 16-channel 12-bit pulse generators on the I2C bus, for the AVR files: their addresses, clocks and first outputs are in pins.h.
// A bus that answers nothing is given up for that frame: nobody waits for it longer than a few milliseconds.
#pragma once
#include <avr/io.h>
#include <stdint.h>

#include "pins.h"

static const uint8_t MANY = GENERATORS > 0 ? GENERATORS : 1;
static uint16_t generator_counts[16 * MANY];
static bool generator_away[MANY];

static bool bus_wait() {
  uint16_t patience = 4000;
  while (!(TWCR & (1 << TWINT))) if (!--patience) return false;
  return true;
}
static bool bus_byte(uint8_t value) {
  TWDR = value;
  TWCR = 1 << TWINT | 1 << TWEN;
  return bus_wait();
}
static bool bus_begin(uint8_t address, uint8_t where) {  // false where nobody answers: acknowledged are 0x18 and 0x28, not 0x20 and 0x30
  TWCR = 1 << TWINT | 1 << TWSTA | 1 << TWEN;
  return bus_wait() && bus_byte(address << 1) && (TWSR & 0x08) && bus_byte(where);
}
static void bus_end() { TWCR = 1 << TWINT | 1 << TWSTO | 1 << TWEN; }

static void generator_set(uint8_t k, uint8_t where, uint8_t value) {
  if (bus_begin(GENERATOR_ADDRESS[k], where)) bus_byte(value);
  bus_end();
}

static void generator_begin(uint8_t k) {
  generator_set(k, 0x00, 0x10);                  // asleep: only then the prescale may be written
  generator_set(k, 0xFE, GENERATOR_PRESCALE[k]);
  generator_set(k, 0x00, 0x20);                  // awake, register addresses count up
}
static void generators_begin() {
  TWBR = (F_CPU / 400000UL - 16) / 2, TWSR = 0;
  for (uint8_t k = 0; k < MANY; k++) generator_begin(k);
}

// Where an output's counts are; null where no generator has it.
static uint16_t *generator_at(uint8_t output, uint8_t *which) {
  for (uint8_t k = 0; k < MANY; k++) {
    const uint8_t channel = output - GENERATOR_FIRST[k];
    if (channel < 16) return *which = k, &generator_counts[16 * k + channel];
  }
  return 0;
}

static void generator_pulse(uint8_t output, uint16_t tenths_us) {
  uint8_t k;
  uint16_t *const at = generator_at(output, &k);
  if (!at) return;
  const uint32_t whole = (GENERATOR_PRESCALE[k] + 1) * 10000UL;  // counts of (prescale + 1) / clock each, to the nearest
  *at = ((uint32_t)tenths_us * GENERATOR_KHZ[k] + whole / 2) / whole;
}

static void generator_light(uint8_t output, uint16_t permille) {
  uint8_t k;
  if (uint16_t *const at = generator_at(output, &k)) *at = (uint32_t)permille * 4095 / 1000;
}

static void generators_send() {
  for (uint8_t k = 0; k < MANY; k++) {
    bool well = bus_begin(GENERATOR_ADDRESS[k], 0x06);
    if (well && generator_away[k]) {  // it answers again, and may have lost its power: set anew
      bus_end();
      generator_begin(k);
      well = bus_begin(GENERATOR_ADDRESS[k], 0x06);
    }
    generator_away[k] = !well;
    for (uint8_t i = 0; i < 16 && well; i++) {
      const uint16_t count = generator_counts[16 * k + i];
      well = bus_byte(0) && bus_byte(0) && bus_byte(count & 255) && bus_byte(count >> 8);
    }
    bus_end();
  }
}
