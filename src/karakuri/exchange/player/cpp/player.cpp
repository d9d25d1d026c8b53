#include "player.h"

#include <math.h>

#include "hardware.h"
#include "score.h"
#ifdef LIVING
#include "living.h"
#endif

#ifndef LIVING
struct Played {  // 10 bytes a channel
  float start, speed;
  uint16_t next;
};
static Played state[CHANNELS ? CHANNELS : 1];
#endif
static float place[CHANNELS ? CHANNELS : 1];
static uint16_t last[OUTPUTS ? OUTPUTS : 1];  // pulse sent last, 0 none yet
static uint32_t frame;

static Knot knot_at(uint16_t k) {
  Knot knot;
  memcpy_P(&knot, &KNOT[k], sizeof knot);
  return knot;
}

static Channel channel_at(uint8_t c) {
  Channel made;
  memcpy_P(&made, &CHANNEL[c], sizeof made);
  return made;
}

// Offset and speed of a move, t seconds after it departed; the same formulas as the bench's.
void run(const Move &m, float t, float start, float speed, float *x, float *v) {
  const float d = m.target - start, T = m.takes / 10000.0f;
  if (m.profile == 3) {
    *x = d, *v = 0;
  } else if (m.profile == 4) {
    const float tau = m.shape / 1000.0f, left = d * expf(-t / tau);
    *x = d - left, *v = left / tau;
  } else if (t >= T || T < 1e-6f) {
    *x = d, *v = 0;
  } else if (m.profile == 1) {
    const float s = t / T, w = speed * T, turn = 3.14159265f * s;
    *x = d * 0.5f * (1 - cosf(turn)) + w * s * (1 - s) * (1 - s);
    *v = (d * 0.5f * 3.14159265f * sinf(turn) + w * (1 - s) * (1 - 3 * s)) / T;
  } else if (m.profile == 2) {
    float share = m.shape / 10000.0f;
    share = share < 0.001f ? 0.001f : share > 0.5f ? 0.5f : share;
    const float ramp = share * T, steady = (d - 0.5f * speed * ramp) / (T - ramp);
    if (t < ramp) {
      const float up = (steady - speed) / ramp;
      *x = speed * t + 0.5f * up * t * t, *v = speed + up * t;
    } else {
      *x = 0.5f * (speed + steady) * ramp, *v = steady;
      const float late = t - (T - ramp);
      if (late >= 0) {
        *x += steady * (T - 2 * ramp + late) - 0.5f * steady / ramp * late * late;
        *v = steady - steady / ramp * late;
      } else {
        *x += steady * (t - ramp);
      }
    }
  } else {
    const float s = t / T, w = speed * T;
    const float c3 = 10 * d - 6 * w, c4 = -15 * d + 8 * w, c5 = 6 * d - 3 * w;
    *x = s * (w + s * s * (c3 + s * (c4 + s * c5)));
    *v = (w + s * s * (3 * c3 + s * (4 * c4 + s * 5 * c5))) / T;
  }
}

#ifndef LIVING
static Move move_at(uint16_t k) {
  Move m;
  memcpy_P(&m, &MOVES[k], sizeof m);
  return m;
}

// Where a channel is at a time; moves that departed since are taken up from the place and speed reached.
static float at(uint8_t c, uint32_t now) {
  const Channel ch = channel_at(c);
  Played &s = state[c];
  float x = 0, v = 0;
  while (s.next < ch.count) {
    const Move ahead = move_at(ch.first + s.next);
    if (ahead.departs > now) break;
    if (s.next > 0) {
      const Move before = move_at(ch.first + s.next - 1);
      run(before, (ahead.departs - before.departs) / 10000.0f, s.start, s.speed, &x, &v);
      s.start += x, s.speed = v;
    }
    s.next++;
  }
  if (s.next == 0) return ch.park;
  const Move m = move_at(ch.first + s.next - 1);
  run(m, (now - m.departs) / 10000.0f, s.start, s.speed, &x, &v);
  return s.start + x;
}
#endif

#ifdef LINKS
static float dot(const float *a, const float *b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

// Where a servo that shares joints stands, in hundredths of a degree: the far ball as the joints carry it, then the horn; the same closed forms as the bench's.
static float linked(uint8_t n) {
  const float HUNDREDTHS = 18000 / 3.14159265f;
  Link link;
  memcpy_P(&link, &LINK[n], sizeof link);
  float at[3] = {link.ball[0], link.ball[1], link.ball[2]}, sum = 0;
  for (uint8_t k = 0; k < link.count; k++) {
    Step s;
    memcpy_P(&s, &STEP[link.first + k], sizeof s);
    const float q = s.gain * (s.channel < CHANNELS ? place[s.channel] / HUNDREDTHS : 0) + s.offset;
    sum += s.way * q;
    if (link.kind) continue;
    if (s.slides) {
      for (uint8_t i = 0; i < 3; i++) at[i] += s.way * q * s.axis[i];
      continue;
    }
    float off[3];
    for (uint8_t i = 0; i < 3; i++) off[i] = at[i] - s.pivot[i];
    const float c = cosf(s.way * q), d = sinf(s.way * q), along = dot(s.axis, off) * (1 - c);
    for (uint8_t i = 0; i < 3; i++) {
      const uint8_t y = (i + 1) % 3, z = (i + 2) % 3;
      at[i] = off[i] * c + (s.axis[y] * off[z] - s.axis[z] * off[y]) * d + s.axis[i] * along + s.pivot[i];
    }
  }
  if (link.kind) return sum * HUNDREDTHS;
  for (uint8_t i = 0; i < 3; i++) at[i] -= link.shaft[i];
  const float a = dot(link.e1, at), b = dot(link.e2, at);
  float far = sqrtf(a * a + b * b);
  if (far < 1e-9f) far = 1e-9f;
  float share = (dot(at, at) + link.horn * link.horn - link.rod * link.rod) / (2 * link.horn * far);
  share = share > 1 ? 1 : share < -1 ? -1 : share;
  float turned = atan2f(b, a) + link.side * acosf(share) - link.begins;
  if (turned > 3.14159265f) turned -= 6.28318531f;
  if (turned < -3.14159265f) turned += 6.28318531f;
  return turned * HUNDREDTHS;
}
#endif

static uint16_t pulse(const Output &o, float angle) {
  const float a = angle < o.low ? o.low : angle > o.high ? o.high : angle;
  Knot from = knot_at(o.first), to = from;
  if (a <= from.angle) return from.pulse;
  for (uint8_t i = 1; i < o.knots; i++, from = to) {
    to = knot_at(o.first + i);
    if (a < to.angle) {
      const float share = (a - from.angle) / (float)(to.angle - from.angle);
      return (uint16_t)(from.pulse + share * ((float)to.pulse - (float)from.pulse) + 0.5f);
    }
  }
  return to.pulse;
}

// The last word before the pins: no output goes further in a frame than its servo turns in it.
static uint16_t paced(uint8_t i, uint16_t wanted, uint16_t step) {
  uint16_t now = wanted;
  if (last[i] && wanted > last[i] && wanted - last[i] > step) now = last[i] + step;
  if (last[i] && wanted < last[i] && last[i] - wanted > step) now = last[i] - step;
  return last[i] = now;
}

static void send_one(uint8_t i, bool on) {
  Output o;
  memcpy_P(&o, &OUTPUT[i], sizeof o);
  float where = o.channel < CHANNELS ? place[o.channel] : (o.low > 0 ? o.low : o.high < 0 ? o.high : 0);
#ifdef LINKS
  for (uint8_t n = 0; n < LINKS; n++) {
    if (pgm_read_byte(&LINK[n].output) == i) where = linked(n);
  }
#endif
  if (o.kind == LIGHT) {
    const float level = where < 0 ? 0 : where > 10000 ? 10000 : where;
    hw_light(o.number, on ? (uint16_t)(level / 10 + 0.5f) : 0);
  } else {
    hw_pulse(o.number, on ? paced(i, pulse(o, where), o.step) : 0);
  }
}

static void send() {
  for (uint8_t i = 0; i < OUTPUTS; i++) send_one(i, true);
}

static void to_the_top() {
  frame = 0;
  for (uint8_t c = 0; c < CHANNELS; c++) {
    const Channel ch = channel_at(c);
#ifndef LIVING
    state[c].start = ch.park, state[c].speed = 0, state[c].next = 0;
#endif
    place[c] = ch.park;
  }
}

void player_begin() {
  to_the_top();
#ifdef LIVING
  living_begin();
#endif
}

void player_start() {
  // Nobody knows where a servo stands: one joint after the other gets sparse pulses for as long as its whole
  // range takes at 20 degrees a second, then steady ones. Joints not yet at their turn get none.
  for (uint8_t turn = 0; turn < OUTPUTS; turn++) {
    Output o;
    memcpy_P(&o, &OUTPUT[turn], sizeof o);
    const uint16_t frames = o.kind ? 1 : (uint16_t)((int32_t)(o.high - o.low) * FRAME_HZ / HOME_SPEED) + 1;
    for (uint16_t k = 0; k < frames; k++) {
      for (uint8_t i = 0; i < OUTPUTS; i++) send_one(i, i < turn || (i == turn && k % SPARSE == 0));
      hw_frame('S', k);
    }
  }
}

void player_home() {
  float away = 0;
  bool light = false;
  for (uint8_t c = 0; c < CHANNELS; c++) {
    const Channel ch = channel_at(c);
    const float by = fabsf(place[c] - ch.park);
    if (ch.kind) light = light || by > 0.5f;
    else if (by > away) away = by;
  }
  uint16_t frames = (uint16_t)ceilf(away / HOME_SPEED * FRAME_HZ - 0.0005f);
  if (away < 0.5f) frames = light ? FRAME_HZ / 2 : 0;
  for (uint16_t left = frames; left > 0; left--) {
    for (uint8_t c = 0; c < CHANNELS; c++) {
      const Channel ch = channel_at(c);
      const uint16_t late = ch.kind == RUNS && frames > FRAME_HZ / 2 ? frames - FRAME_HZ / 2 : 0;  // what runs stands still after half a second
      place[c] += (ch.park - place[c]) / (left > late ? left - late : 1);
    }
    send();
    hw_frame('H', frames - left);
  }
  to_the_top();
}

#ifdef LIVING
void player_live() {
  living_cue(hw_cue());
  living_tick();
  for (uint8_t c = 0; c < CHANNELS; c++) {
    const Channel ch = channel_at(c);
    const float x = living_place(c);
    place[c] = x < ch.low ? ch.low : x > ch.high ? ch.high : x;
  }
  send();
  hw_frame('F', frame++);
}
#else
bool player_frame() {
  const uint32_t now = frame * FRAME;
  if (now > SCORE_LENGTH) {
    player_home();
    return false;
  }
  for (uint8_t c = 0; c < CHANNELS; c++) {
    const Channel ch = channel_at(c);
    const float x = at(c, now);
    place[c] = x < ch.low ? ch.low : x > ch.high ? ch.high : x;
  }
  send();
  hw_frame('F', frame);
  frame++;
  return true;
}
#endif
