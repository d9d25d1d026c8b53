// Plays a score from tables in flash: easing, soft limits, slow start, park and loop. Plain C++, no library.
#pragma once
#include <stdint.h>

#include "shape.h"

#ifdef __AVR__
#include <avr/pgmspace.h>
#include <string.h>
#else
#include <string.h>
#define PROGMEM
#define memcpy_P memcpy
#define pgm_read_byte(at) (*(const uint8_t *)(at))
#endif

// Times in tenths of a millisecond, places in hundredths of a degree (a light, a motor: of a per cent), pulses in tenths of a microsecond.
struct __attribute__((packed)) Move {  // 13 bytes
  uint32_t departs, takes;
  int16_t target;
  uint8_t profile;  // 0 minimum jerk, 1 cosine, 2 trapezoid, 3 sudden, 4 following
  uint16_t shape;   // trapezoid: ramp share in 1/10000; following: time constant in ms
};
struct __attribute__((packed)) Channel {
  uint16_t first, count;  // its moves in the table
  int16_t park, low, high;
  uint8_t kind;  // 0 joints, 1 a light, 2 a motor that runs: its place is a speed
};
struct __attribute__((packed)) Knot {
  int16_t angle;
  uint16_t pulse;
};
struct __attribute__((packed)) Output {
  uint8_t number, channel, kind;  // 0 a servo, 1 a light, 2 a motor that runs
  uint16_t first;  // of its curve in the table; straight between its knots
  uint8_t knots;
  int16_t low, high;  // soft limits, kept on board
  uint16_t step;      // the furthest it may go in one frame: as fast as its servo turns; 0 for a light
};

// Servos that share joints: one joint on the way, and what lies between them and one servo; places in rad and m.
struct Step {
  uint8_t channel, slides;  // 255: it stands at its offset
  float gain, offset, axis[3], pivot[3], way;
};
struct Link {
  uint8_t output, kind, first, count;  // 0 a rod with ball ends, 1 a sum of places
  float ball[3], shaft[3], e1[3], e2[3], horn, rod, side, begins;
};

const uint8_t LIGHT = 1, RUNS = 2;
const uint8_t FRAME_HZ = 50;
const uint16_t FRAME = 200;              // tenths of a millisecond
const int16_t HOME_SPEED = 2000;         // hundredths of a degree a second
const uint8_t SPARSE = 4;                // at the start one pulse in so many frames

// score.h defines these.
extern const uint32_t SCORE_LENGTH;
extern const bool SCORE_LOOPS;
extern const Move MOVES[] PROGMEM;
extern const Channel CHANNEL[] PROGMEM;
extern const Knot KNOT[] PROGMEM;
extern const Output OUTPUT[] PROGMEM;

void run(const Move &m, float t, float start, float speed, float *x, float *v);  // offset and speed of a move, t seconds after it departed
void player_begin();      // everything at park, nothing sent yet
void player_start();      // slow start, joint by joint, from an unknown place; returns when all are at park
bool player_frame();      // works out and sends the next frame; false when the score is over and the figure at park
void player_live();       // the same of what it does by itself, which is never over
void player_home();       // from wherever it is to park at 20 degrees a second; returns when it is there
