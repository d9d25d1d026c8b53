// What the figure does by itself: states, what each plays, what starts it. The same as the bench's, tick by tick; tables in living_tables.h.
#pragma once
#include "ribbon.h"

// Places in hundredths, times in tenths of a millisecond, levels and shares as said.
struct __attribute__((packed)) State {
  uint8_t first, count;          // of DEED
  uint16_t starts, starts_count;  // of FROM
  uint32_t stays_low, stays_high;
  uint8_t stays, priority, deaf, life;
};
struct __attribute__((packed)) Deed {  // 0 score, 1 pose, 2 light, 3 park, 4 a line, 5 a sound, 6 life, 7 attends, 8 steered
  uint8_t kind, which;
  int16_t level;
  uint32_t takes;
};
struct __attribute__((packed)) Performance {
  uint32_t length;
  uint8_t again;
  uint16_t says, says_count;  // of SAID
};
struct __attribute__((packed)) Part {  // of a performance on a ribbon; start NONE: not its
  uint16_t first, count;
  int16_t start;
};
struct __attribute__((packed)) Said {
  uint32_t at;
  uint8_t sound;
};
struct __attribute__((packed)) Start {
  uint8_t to, on, input;  // input: of a cue its number; on: 0 pressed, 1 released, 2 above, 3 below, 4 stopped, 5 after, 6 ended, 7 cue
  uint16_t level;         // hundredths of a per cent; of stopped: ticks
  uint32_t low, high;
  uint8_t guards_first, guards_count;
  uint32_t chance;  // of 2^24
  uint32_t cool;    // ticks
};
struct __attribute__((packed)) Guard {
  uint8_t input, state;  // 0 on, 1 off, 2 above, 3 below
  uint16_t level;
};
struct __attribute__((packed)) Input {
  uint8_t pin;  // which of pins.h, 255: none
  uint8_t handed, sees;
  float low, high, middle, still, heading, weight;
};
struct __attribute__((packed)) Lines {  // openings, then lines, in LINE
  uint16_t first;
  uint8_t openings, count, in_order, again_after;
};
struct __attribute__((packed)) Sound {
  uint32_t length;
  uint16_t number;  // of its copy
};
struct __attribute__((packed)) Jaw {
  uint8_t ribbon;
  int16_t shut;
  uint32_t ahead;
};
struct __attribute__((packed)) Keeps {  // how long a ribbon's moves take at least; count 0: nothing holds it back
  uint8_t count;
  uint16_t distance[6];  // hundredths
  uint32_t time[6];      // 0xFFFFFFFF: never
};

struct __attribute__((packed)) ActorRibbon {
  uint8_t ribbon;
  int8_t sign;
};
struct __attribute__((packed)) Actor {  // ribbons that stir as one; where all may be, as the first counts
  uint8_t first, count;
  float low, high;
  uint8_t part, keeps;  // of a glance: 0 eye pans, 1 eye tilts, 2 head pans, 3 head tilts; of a lid: 1 shut at its high end; keeps 255: no limit
};
struct __attribute__((packed)) LifeKind {  // 0 glances, 1 blinks, 2 ears, 3 tail, 4 breathes, 5 sways
  uint8_t kind, first, count;
};

struct __attribute__((packed)) Grip {  // 0 follows, 1 keyed, 2 push pull, 3 wheels, 4 expressions
  uint8_t kind, one, other, turned, springs, first, count, faces_first, faces;
  float smooth, pace;
};
struct __attribute__((packed)) Led {  // a ribbon of a grip; owned: no grip before has it
  uint8_t ribbon, owned, runs;
  float low, high, park, pace;
};

template <class T>
inline T from(const T *table, uint16_t k) {
  T made;
  memcpy_P(&made, &table[k], sizeof made);
  return made;
}

uint32_t chance_draw(uint32_t *state);
uint32_t chance_begin(uint32_t seed, uint32_t kind);
float chance_between(uint32_t *state, float low, float high);
bool chance_happens(uint32_t *state, float chance);
float keeps_least(uint8_t ribbon, float by);  // s; 1e9: never

void living_begin();  // from the first state, everything at park
void living_cue(uint8_t number);  // whoever runs the show gives a cue, for the next tick; 255 none
void living_tick();   // a fiftieth of a second on
float living_place(uint8_t ribbon);
bool living_on(uint8_t input);
float living_level(uint8_t input);
void living_still(uint8_t ribbon, uint32_t at);  // what runs stands still half a second after nobody moves it any more
bool living_reads(uint8_t input);  // whether it says anything

void life_begin(uint32_t at, uint32_t seed, bool *claimed);  // its life when idle, on what nobody claimed
void life_on(uint32_t now);
bool attend_begin(uint32_t at, bool *claimed);  // false where nothing turns to look
void attend_on(uint32_t now, float towards);
void hand_begin(uint32_t at, bool *claimed);
void hand_on(uint32_t now);
uint32_t pace(uint8_t ribbon, float by);  // to where something begins
