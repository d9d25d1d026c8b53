// A 32-bit board, by nothing but what the usual editors' core gives every board: 16-channel 12-bit generators on the bus make the pulses.
// Frames are counted in microseconds. There is no watchdog: if the program hangs, the generator goes on sending what it was told last.
#include <Arduino.h>
#include <SPI.h>
#include <Wire.h>

#include "hardware.h"
#include "pins.h"
#include "shape.h"

static const uint32_t FRAME_US = 20000;
static uint16_t counts[16 * GENERATORS];
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

#if STRINGS > 0
// A string of lamps by SPI: a bit is four of 2.8 MHz, the first high for a 0, two for a 1. Gaps between bytes are low, where a bit may last.
static uint8_t string_level;
static void string_send() {
  uint8_t lamp[12];
  SPI.beginTransaction(SPISettings(2800000, MSBFIRST, SPI_MODE0));
  for (uint16_t left = STRING_LAMPS; left; left--) {
    for (uint8_t k = 0; k < 12; k++) {
      const uint8_t two = string_level >> (6 - 2 * (k & 3));
      lamp[k] = (two & 2 ? 0xC0 : 0x80) | (two & 1 ? 0x0C : 0x08);
    }
    SPI.transfer(lamp, 12);
  }
  SPI.endTransaction();
}
#endif

static bool away[GENERATORS];
static void write(uint8_t k, uint8_t where, uint8_t value) {
  Wire.beginTransmission(GENERATOR_ADDRESS[k]);
  Wire.write(where), Wire.write(value);
  Wire.endTransmission();
}

static void generator_begin(uint8_t k) {
  write(k, 0x00, 0x10);  // asleep: only then the prescale may be written
  write(k, 0xFE, GENERATOR_PRESCALE[k]);
  write(k, 0x00, 0x20);  // awake, register addresses count up
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
  for (uint8_t k = 0; k < GENERATORS; k++) generator_begin(k);
#if STRINGS > 0
  SPI.begin();
#endif
#if CUES > 0
  Serial.begin(9600);
#endif
#ifdef LIVING
  Serial1.begin(9600);
#endif
  began = micros();
}

void hw_pulse(uint8_t output, uint16_t tenths_us) {
  for (uint8_t k = 0; k < GENERATORS; k++) {
    const uint8_t channel = output - GENERATOR_FIRST[k];
    const uint32_t whole = (GENERATOR_PRESCALE[k] + 1) * 10000UL;  // counts of (prescale + 1) / clock each, to the nearest
    if (channel < 16) counts[16 * k + channel] = ((uint32_t)tenths_us * GENERATOR_KHZ[k] + whole / 2) / whole;
  }
}

void hw_light(uint8_t output, uint16_t permille) {
#if LIGHTS > 0
  for (uint8_t i = 0; i < LIGHTS; i++) {
    if (LIGHT_OUTPUT[i] != output) continue;
    analogWrite(LIGHT_AT[i], (uint32_t)permille * 255 / 1000);
    return;
  }
#endif
#if STRINGS > 0
  if (output == STRING_OUTPUT) {
    string_level = (uint32_t)permille * 255 / 1000;
    return;
  }
#endif
  for (uint8_t k = 0; k < GENERATORS; k++) {
    const uint8_t channel = output - GENERATOR_FIRST[k];
    if (channel < 16) counts[16 * k + channel] = (uint32_t)permille * 4095 / 1000;
  }
}

void hw_frame(char, uint32_t) {
#if STRINGS > 0
  if (micros() - began + STRING_US < FRAME_US) string_send();  // only where there is time for it
#endif
  while (micros() - began < FRAME_US) yield();
  began += FRAME_US;
  if (micros() - began > FRAME_US) began = micros();  // something held it up: frames are left out, not run after
  for (uint8_t at = 0; at < 16 * GENERATORS; at += 4) {  // some cores send 32 bytes at most at once
    Wire.beginTransmission(GENERATOR_ADDRESS[at / 16]);
    Wire.write((uint8_t)(0x06 + 4 * (at % 16)));
    for (uint8_t i = at; i < at + 4; i++) {
      Wire.write((uint8_t)0), Wire.write((uint8_t)0);
      Wire.write((uint8_t)(counts[i] & 255)), Wire.write((uint8_t)(counts[i] >> 8));
    }
    const bool well = Wire.endTransmission() == 0;
    if (well && away[at / 16]) generator_begin(at / 16);  // it answers again, and may have lost its power: set anew
    away[at / 16] = !well;
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

#if CUES > 0
static uint8_t cue_from(Stream &words) {
  while (words.available()) {
    const uint8_t cue = cue_of(words.read());
    if (cue < 255) return cue;
  }
  return 255;
}
uint8_t hw_cue() {
  const uint8_t typed = cue_from(Serial);
  return typed < 255 ? typed : cue_from(Serial1);
}
#else
uint8_t hw_cue() { return 255; }
#endif
void hw_say(uint16_t sound) {
  Serial1.print("PLAY ");
  Serial1.print((unsigned int)sound);
  Serial1.print("\n");
}
void hw_entered(uint8_t, uint32_t) {}
bool hw_stop() { return digitalRead(STOP_AT) == LOW; }
void hw_done() {}
