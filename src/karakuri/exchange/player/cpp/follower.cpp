// A controller that follows another: on the bus it answers as a 16-channel pulse generator does, and what it is told becomes pulses, light and strings on
// its own pins. It decides nothing but what to do when it hears nothing: go to park, slowly. Its bus is looked at while a frame is waited for, never in an
// interrupt: no pulse is late by it.
#include "follower.h"

#include <avr/io.h>

#include "follow_tables.h"
#include "hardware.h"
#include "hardware_avr.h"

void hw_sync();  // begins the next frame now, where no pulse is under way

static const uint8_t SILENCE = 25;  // frames without a word: half a second
static const uint8_t PARKS = 100;   // frames on the way to park: two seconds
static const uint8_t FIRST = 6;     // the register of the first channel, four a channel: two when it begins, two when it ends, of 4096 in a frame

static uint8_t told[4 * CHANNELS], where, heard;
static bool addressed;
static uint16_t asked[CHANNELS], now[CHANNELS];  // tenths of a microsecond, per mille of light
static bool away[CHANNELS];                      // it stands elsewhere than it is told, and goes there slowly
static uint8_t quiet = 255, parking;

// All channels at once, when the last of them has come: half a frame is never taken over.
static void take() {
  for (uint8_t k = 0; k < CHANNELS; k++) {
    const uint16_t count = (told[4 * k + 2] | (uint16_t)told[4 * k + 3] << 8) & 0x0FFF;
    asked[k] = KIND[k] == LIGHT ? (uint32_t)count * 1000 / 4095 : ((uint32_t)count * 488 + 5) / 10;  // a count is (121 + 1) / 25 microseconds
  }
  quiet = 0;
}

static void show() {
  for (uint8_t k = 0; k < CHANNELS; k++) {
    if (KIND[k] == LIGHT) hw_light(k, now[k]);
    else hw_pulse(k, now[k]);
  }
}

// What it is told is done at once, but for what it left on its own: that goes back no faster than to park.
static void go() {
  parking = 0;
  for (uint8_t k = 0; k < CHANNELS; k++) {
    if (KIND[k] == SERVO && away[k] && asked[k] && now[k]) {
      if (asked[k] > now[k] + SLOW[k]) { now[k] += SLOW[k]; continue; }
      if (now[k] > asked[k] + SLOW[k]) { now[k] -= SLOW[k]; continue; }
    }
    away[k] = false, now[k] = asked[k];
  }
}

static void park() {
  if (parking == 255) return;
  const uint8_t left = parking < PARKS ? PARKS - parking++ : 1;
  for (uint8_t k = 0; k < CHANNELS; k++) {
    if (KIND[k] == LIGHT) now[k] = 0;
    else if (KIND[k] == RUNS) now[k] = now[k] ? PARK[k] : 0;
    else if (now[k]) now[k] += ((int32_t)PARK[k] - now[k]) / left, away[k] = true;
  }
  if (left == 1) parking = 255;
}

void follow_poll() {
  if (!(TWCR & (1 << TWINT))) return;
  const uint8_t byte = TWDR;
  switch (TWSR & 0xF8) {
    case 0x60: case 0x68: addressed = true, heard = 0; break;  // spoken to
    case 0x80:                                                 // a byte
      if (addressed) where = byte, addressed = false;
      else {
        const uint8_t at = where++ - FIRST;
        if (at < sizeof told) told[at] = byte, heard += at == heard;  // one after the other, from the first
      }
      break;
    case 0xA8: case 0xB0: case 0xB8: TWDR = 0; break;          // asked for something: nothing to say
    case 0xA0:                                                 // the end
      if (heard == sizeof told) {
        heard = 0;
        take();
        TWCR = 1 << TWINT | 1 << TWEA | 1 << TWEN;
        if (!hw_stop()) go(), show();
        hw_sync();
        return;
      }
      break;
    case 0x00: TWCR = 1 << TWINT | 1 << TWSTO | 1 << TWEA | 1 << TWEN; return;  // a fault on the bus
  }
  TWCR = 1 << TWINT | 1 << TWEA | 1 << TWEN;
}

// Lamps shut out the bus while they are sent: only while it is heard, and once it falls silent as long as it takes them to go dark.
bool follow_keeps_time() { return quiet < SILENCE + 10; }

void follow_begin() {
  hw_begin();
  TWAR = FOLLOW_ADDRESS << 1;
  TWCR = 1 << TWEA | 1 << TWEN;
}

void follow_on() {
  if (quiet < 255) quiet++;
  if (quiet > SILENCE || hw_stop()) park(), show();
  hw_frame('F', 0);
}
