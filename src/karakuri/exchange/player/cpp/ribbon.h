// A ribbon being lived: its moves as they are decided on, and where it is. The same arithmetic as the bench's.
#pragma once
#include "player.h"

const uint8_t AHEAD = 5;
const int16_t NONE = -32768;

struct Ribbon {
  float start, speed;  // where, and how fast, it was as the move under way departed
  uint32_t free, offset;
  uint16_t next, end;  // moves of the table that come after those ahead, so much later
  Move now, ahead[AHEAD];
  uint8_t count;
  bool moving;
};
extern Ribbon ribbons[];

inline bool before(uint32_t a, uint32_t b) { return (int32_t)(a - b) < 0; }
inline uint32_t later(uint32_t a, uint32_t b) { return before(a, b) ? b : a; }

void ribbon_begin(uint8_t r);
void ribbon_add(uint8_t r, uint32_t departs, uint32_t takes, float target, uint8_t profile = 0);
void ribbon_table(uint8_t r, uint16_t first, uint16_t count, uint32_t offset);  // after all that are ahead
void ribbon_cut(uint8_t r, uint32_t at);
uint32_t ribbon_ready(uint8_t r, uint32_t at, float *place);  // from when on it may be given a move, and where it is then
float ribbon_at(uint8_t r, uint32_t time);
