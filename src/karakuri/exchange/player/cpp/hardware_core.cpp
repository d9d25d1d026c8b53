// A 32-bit board, by nothing but what the usual editors' core gives every board: a 16-channel 12-bit generator on the bus makes the pulses.
// Frames are counted in microseconds. There is no watchdog: if the program hangs, the generator goes on sending what it was told last.
#include <Arduino.h>
#include <Wire.h>

#include "hardware.h"
#include "pins.h"

static const uint8_t MODE1 = 0x00, PRESCALE = 0xFE, FIRST = 0x06;
static const uint8_t DIVIDER = (GENERATOR_CLOCK + 4096UL * 25) / (4096UL * 50) - 1;
static const uint32_t FRAME_US = 20000;
static uint16_t counts[16];
static uint32_t began;

#if RECEIVERS > 0
static volatile uint32_t rc_rose[INPUTS], rc_wide[INPUTS];
static volatile uint8_t rc_high[INPUTS], rc_age[INPUTS];
static void rc_edges() {
  const uint32_t now = micros();
  for (uint8_t i = 0; i < INPUTS; i++) {
    if (!INPUT_RECEIVER[i]) continue;
    const uint8_t high = digitalRead(INPUT_AT[i]) == HIGH;
    if (high == rc_high[i]) continue;
    rc_high[i] = high;
    if (high) rc_rose[i] = now;
    else rc_wide[i] = now - rc_rose[i], rc_age[i] = 1;
  }
}
#endif

static void write(uint8_t where, uint8_t value) {
  Wire.beginTransmission(GENERATOR_ADDRESS);
  Wire.write(where), Wire.write(value);
  Wire.endTransmission();
}

void hw_begin() {
  pinMode(STOP_AT, INPUT_PULLUP);
#if INPUTS > 0
  for (uint8_t i = 0; i < INPUTS; i++) {
    if (!INPUT_ANALOG[i]) pinMode(INPUT_AT[i], INPUT_LOW[i] ? INPUT_PULLUP : INPUT);
#if RECEIVERS > 0
    if (INPUT_RECEIVER[i]) attachInterrupt(digitalPinToInterrupt(INPUT_AT[i]), rc_edges, CHANGE);
#endif
  }
#endif
#if LIGHTS > 0
  for (uint8_t i = 0; i < LIGHTS; i++) pinMode(LIGHT_AT[i], OUTPUT), analogWrite(LIGHT_AT[i], 0);
#endif
  Wire.begin();
  Wire.setClock(400000);
  write(MODE1, 0x10);  // asleep: only then the prescale may be written
  write(PRESCALE, DIVIDER);
  write(MODE1, 0x20);  // awake, register addresses count up
  began = micros();
}

void hw_pulse(uint8_t output, uint16_t tenths_us) {
  const uint32_t whole = (DIVIDER + 1) * 10000UL;  // counts of (DIVIDER + 1) / clock each, to the nearest
  if (output < 16) counts[output] = ((uint32_t)tenths_us * (GENERATOR_CLOCK / 1000) + whole / 2) / whole;
}

void hw_light(uint8_t output, uint16_t permille) {
#if LIGHTS > 0
  for (uint8_t i = 0; i < LIGHTS; i++) {
    if (LIGHT_OUTPUT[i] != output) continue;
    analogWrite(LIGHT_AT[i], (uint32_t)permille * 255 / 1000);
    return;
  }
#endif
  if (output < 16) counts[output] = (uint32_t)permille * 4095 / 1000;
}

void hw_frame(char, uint32_t) {
  while (micros() - began < FRAME_US) yield();
  began += FRAME_US;
  if (micros() - began > FRAME_US) began = micros();  // something held it up: frames are left out, not run after
  for (uint8_t first = 0; first < 16; first += 4) {   // some cores send 32 bytes at most at once
    Wire.beginTransmission(GENERATOR_ADDRESS);
    Wire.write((uint8_t)(FIRST + 4 * first));
    for (uint8_t i = first; i < first + 4; i++) {
      Wire.write((uint8_t)0), Wire.write((uint8_t)0);
      Wire.write((uint8_t)(counts[i] & 255)), Wire.write((uint8_t)(counts[i] >> 8));
    }
    Wire.endTransmission();
  }
}

uint16_t hw_reads(uint8_t i) {
#if INPUTS > 0
  if (i >= INPUTS) return 0xFFFF;
#if RECEIVERS > 0
  if (INPUT_RECEIVER[i]) {
    if (rc_age[i] && rc_age[i] < 255) rc_age[i]++;
    return rc_age[i] && rc_age[i] <= 10 ? (uint16_t)rc_wide[i] : 0xFFFF;  // ten frames without a pulse: it is lost
  }
#endif
  if (INPUT_ANALOG[i]) return (uint32_t)analogRead(INPUT_AT[i]) * 1000 / 1023;
  return (digitalRead(INPUT_AT[i]) == HIGH) != (INPUT_LOW[i] != 0) ? 1000 : 0;
#else
  (void)i;
  return 0xFFFF;
#endif
}

void hw_say(uint16_t sound) {
  static bool open = false;
  if (!open) Serial1.begin(9600), open = true;
  Serial1.print("PLAY ");
  Serial1.print((unsigned int)sound);
  Serial1.print("\n");
}
void hw_entered(uint8_t, uint32_t) {}
bool hw_stop() { return digitalRead(STOP_AT) == LOW; }
void hw_done() {}
