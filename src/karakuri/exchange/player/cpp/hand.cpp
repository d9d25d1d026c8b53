// What a hand says at knobs, sticks, keys and a receiver: the same mixing, smoothing and dead man's switch as the bench's.
#include <math.h>

#include "living.h"

#ifdef LIVING
#include "living_tables.h"

#if PLAYS & 256

struct Steer {
  float first, smooth, asked, now;
  bool mine, caught, sought;
};
static Steer steers[LEDS + 1];
static bool gripped[GRIPS + 1];
static float keyed_at[GRIPS + 1];
static uint32_t begins;
static uint8_t sensitivity = 2;
const float TICK_S = 0.02f, SOFT = 2000;

static float clip(float x, float low, float high) { return x < low ? low : x > high ? high : x; }
static float push(uint8_t input) { return (living_level(input) - 50) / 50; }
static float pushed(const Led &l, float share) {
  share = clip(share, -1, 1);
  return l.park + share * (share >= 0 ? l.high - l.park : l.park - l.low);
}

void hand_begin(uint32_t at, bool *claimed) {
  begins = at, sensitivity = 2;
  for (int g = 0; g < GRIPS; g++) gripped[g] = false;
  for (int k = 0; k < LEDS; k++) {
    const Led l = from(LED, k);
    Steer &s = steers[k];
    float place;
    const uint32_t when = ribbon_ready(l.ribbon, at, &place);
    s.now = l.runs ? l.park : clip(place, l.low, l.high);
    s.first = s.smooth = s.asked = s.now, s.caught = s.sought = false;
    s.mine = l.owned && !claimed[l.ribbon];
    if (s.mine) begins = later(begins, when);
  }
  for (int k = 0; k < LEDS; k++) {
    const Led l = from(LED, k);
    if (!steers[k].mine) continue;
    claimed[l.ribbon] = true;
    if (l.runs) living_still(l.ribbon, at);
  }
}

static float wanted(const Grip &g, uint8_t which, uint8_t n, float share) {
  const Led l = from(LED, g.first + n);
  if (g.kind == 0) {
    const float by = g.turned ? -push(g.one) : push(g.one);
    const float whole = g.springs ? pushed(l, by) : l.low + (l.high - l.low) * (by + 1) / 2;
    return l.park + share * (whole - l.park);
  }
  if (g.kind == 1) return keyed_at[which];
  const float a = push(g.one), b = push(g.other);
  if (g.kind == 2) return pushed(l, n ? (g.turned ? -1 : 1) * share * (a - b) : share * (a + b));
  if (g.kind == 3) {
    const float most = fmaxf(1, fabsf(a) + fabsf(b)), by = share * (n ? a - b : a + b) / most;
    return pushed(l, n && g.turned ? -by : by);
  }
  const float far = fminf(sqrtf(a * a + b * b), 1) * share, towards = atan2f(b, a) * 57.2957795f;
  float sum = 0;
  for (uint8_t f = 0; far > 0 && f < g.faces; f++) {
    const float lies = from(FACE, g.faces_first + f);
    float off = fmodf(towards - lies + 900, 360) - 180, wide = 90, twins = 0;
    for (uint8_t o = 0; o < g.faces; o++) {
      const float apart = fmodf(from(FACE, g.faces_first + o) - lies + 1080, 360);
      if (apart == 0) twins++;
      else wide = fminf(wide, off >= 0 ? apart : 360 - apart);
    }
    const float weight = fmaxf(0, 1 - fabsf(off) / wide) / twins;
    const int16_t to = from(FACE_PLACE, g.faces_first * MOST_LED + f * MOST_LED + n);
    if (to != NONE) sum += weight * (to - l.park);
  }
  return l.park + far * sum;
}

void hand_on(uint32_t now) {
  if (before(now, begins)) return;
  const bool held = HELD_BY == 255 || living_on(HELD_BY);
  if (SENSED_BY != 255 && living_reads(SENSED_BY)) {
    const uint8_t third = (uint8_t)(living_level(SENSED_BY) * 3 / 100);
    sensitivity = third > 2 ? 2 : third;
  }
  const float share = from(SENSITIVITY, sensitivity);
  for (int k = 0; k < GRIPS; k++) {
    const Grip g = from(GRIP, k);
    const bool lost = !held || !living_reads(g.one) || !living_reads(g.other);
    if (lost) gripped[k] = false;
    else if (!gripped[k]) {
      gripped[k] = true;
      for (uint8_t n = 0; n < g.count; n++) steers[g.first + n].caught = steers[g.first + n].sought = false;
      if (g.kind == 1) keyed_at[k] = clip(steers[g.first].now, from(LED, g.first).low, from(LED, g.first).high);
    }
    if (!lost && g.kind == 1) {
      const Led l = from(LED, g.first);
      float by = (living_on(g.one) - living_on(g.other)) * g.pace * share * TICK_S;
      keyed_at[k] = l.runs && by == 0 ? l.park : clip(keyed_at[k] + (g.turned ? -by : by), l.low, l.high);
    }
    for (uint8_t n = 0; n < g.count; n++) {
      Steer &s = steers[g.first + n];
      if (!s.mine) continue;
      const Led l = from(LED, g.first + n);
      if (lost) {
        const bool stops = g.kind == 3 || l.runs;  // where it stands is a speed
        const float step = (stops ? l.pace : SOFT) * TICK_S;
        s.asked = LET_GO_PARKS || stops ? l.park : s.now;
        s.now += clip(s.asked - s.now, -step, step);
        s.first = s.smooth = s.now;
      } else {
        const float was = s.asked - s.now;
        s.asked = clip(wanted(g, k, n, share), l.low, l.high);
        float off = s.asked - s.now, step = l.pace * TICK_S;
        if (!s.caught) {
          step = fminf(SOFT, l.pace) * TICK_S;
          s.caught = fabsf(off) <= step || (s.sought && was * off < 0);
          s.sought = true;
        }
        if (s.caught) {
          s.first += g.smooth * (s.asked - s.first), s.smooth += g.smooth * (s.first - s.smooth);
          off = s.smooth - s.now, step = l.pace * TICK_S;
        }
        s.now = clip(s.now + clip(off, -step, step), l.low, l.high);
        if (!s.caught) s.first = s.smooth = s.now;
      }
      ribbon_add(l.ribbon, now, 0, s.now, 3);
    }
  }
}
#endif
#endif
