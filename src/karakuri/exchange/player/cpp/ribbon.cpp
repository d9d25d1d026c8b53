#include "ribbon.h"

#include <math.h>


#ifdef LIVING
Ribbon ribbons[CHANNELS];
const uint32_t SOON = 3500;           // so soon over, a move is let finish
const float BRAKE_T = 3000, BRAKE = 0.4f;  // so long, and so much of what its speed would cover, it takes to come to rest

static Channel of(uint8_t r) {
  Channel made;
  memcpy_P(&made, &CHANNEL[r], sizeof made);
  return made;
}

void ribbon_begin(uint8_t r) {
  Ribbon &b = ribbons[r];
  memset(&b, 0, sizeof b);
  b.start = of(r).park;
}

void ribbon_add(uint8_t r, uint32_t departs, uint32_t takes, float target, uint8_t profile) {
  Ribbon &b = ribbons[r];
  if (b.count >= AHEAD) return;
  const Channel c = of(r);
  Move &m = b.ahead[b.count++];
  m.departs = departs, m.takes = takes, m.profile = profile, m.shape = 0;
  m.target = (int16_t)lroundf(target < c.low ? c.low : target > c.high ? c.high : target);
}

void ribbon_table(uint8_t r, uint16_t first, uint16_t count, uint32_t offset) {
  Ribbon &b = ribbons[r];
  b.next = first, b.end = first + count, b.offset = offset;
}

static void run_now(const Ribbon &b, uint32_t time, float *x, float *v) {
  Move m = b.now;
  if (m.takes == 0 && m.profile != 4) m.profile = 3;
  const float since = before(time, m.departs) ? 0 : (time - m.departs) / 10000.0f;
  run(m, since, b.start, b.speed, x, v);
}

static void take(uint8_t r, const Move &m) {
  Ribbon &b = ribbons[r];
  if (b.moving) {
    float x, v;
    run_now(b, m.departs, &x, &v);
    b.start += x, b.speed = v;
  }
  b.now = m, b.moving = true;
}

static void forward(uint8_t r, uint32_t time) {
  Ribbon &b = ribbons[r];
  while (b.count && !before(time, b.ahead[0].departs)) {
    take(r, b.ahead[0]);
    for (uint8_t k = 1; k < b.count; k++) b.ahead[k - 1] = b.ahead[k];
    b.count--;
  }
  while (!b.count && b.next < b.end) {
    Move m;
    memcpy_P(&m, &MOVES[b.next], sizeof m);
    m.departs += b.offset;
    if (before(time, m.departs)) break;
    const Channel c = of(r);
    m.target = m.target < c.low ? c.low : m.target > c.high ? c.high : m.target;
    take(r, m);
    b.next++;
  }
}

static float here(const Ribbon &b, uint32_t time, float *speed) {
  float x, v;
  run_now(b, time, &x, &v);
  *speed = v;
  return b.start + x;
}

void ribbon_cut(uint8_t r, uint32_t at) {
  Ribbon &b = ribbons[r];
  forward(r, at);
  b.count = 0, b.next = b.end = 0, b.free = at;
  const uint32_t ends = b.now.departs + b.now.takes;
  if (!b.moving || of(r).kind == RUNS || !before(at, ends)) return;
  if (ends - at <= SOON || b.now.profile == 4) {
    b.free = ends;
    return;
  }
  float speed;
  const float place = here(b, at, &speed), left = fabsf(b.now.target - place);
  float takes = left / (BRAKE * fabsf(speed) + 1e-7f) * 10000;
  if (takes > BRAKE_T) takes = BRAKE_T;
  ribbon_add(r, at, (uint32_t)(takes + 0.5f), place + BRAKE * speed * takes / 10000);
  forward(r, at);
  b.free = at + (uint32_t)(takes + 0.5f);
}

uint32_t ribbon_ready(uint8_t r, uint32_t at, float *place) {
  const Ribbon &b = ribbons[r];
  const uint32_t when = later(at, b.free), ends = b.now.departs + b.now.takes;
  float speed;
  *place = !b.moving ? b.start : !before(when, ends) && b.now.profile != 4 ? b.now.target : here(b, when, &speed);
  return when;
}

float ribbon_at(uint8_t r, uint32_t time) {
  forward(r, time);
  float speed;
  return ribbons[r].moving ? here(ribbons[r], time, &speed) : ribbons[r].start;
}
#endif
