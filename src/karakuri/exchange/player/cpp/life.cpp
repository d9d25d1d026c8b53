// What it does when nothing is asked of it: the same chance and the same arithmetic as the bench's, for ever.
#include <math.h>

#include "living.h"

#ifdef LIVING
#include "living_tables.h"

#if PLAYS & (64 | 128)

// ---- moves of one happening, counted from when it begins, s
static uint32_t begun;
static float busy;
static bool emits, at_home;  // whether moves are made, or only the wait asked for; whether places count from park

static float clipped(const Actor &a, float place) { return place < a.low ? a.low : place > a.high ? a.high : place; }

static float takes(const Actor &a, float by, float wanted) {
  const float least = a.keeps == 255 ? 0 : keeps_least(a.keeps, fabsf(by));
  return least > wanted && least < 1e8f ? least : wanted;
}

static void stir(const Actor &a, float at, float lasts, float place, bool home) {
  if (at + lasts > busy) busy = at + lasts;
  if (!emits) return;
  for (uint8_t k = 0; k < a.count; k++) {
    const ActorRibbon own = from(ACTOR_RIBBON, a.first + k);
    const float park = home && at_home ? own.sign * (float)from(CHANNEL, own.ribbon).park : 0;
    ribbon_add(own.ribbon, begun + (uint32_t)(at * 10000 + 0.5f), (uint32_t)(lasts * 10000 + 0.5f), own.sign * clipped(a, park + place));
  }
}

#if (DOES & 1) || (PLAYS & 128)
// ---- gaze: eyes leap, the head follows where it is far, and they turn back against it
const float LEAD = 0.040f, HEAD_S = 0.55f, AT_LEAST = 0.08f, SHARE = 0.6f, HEAD_SHARE = 0.5f;
static float stands[GLANCERS + 1];
static bool with_heads, only_turns;

static Actor glancer(uint8_t who) { return from(GLANCER, who); }
static int8_t head_of(uint8_t part) {  // 0 pan, 1 tilt
  for (int who = 0; with_heads && who < GLANCERS; who++)
    if (glancer(who).part == part + 2) return who;
  return -1;
}
static void reach(const Actor &eye, int8_t head, float *least, float *most) {
  *least = eye.low * SHARE, *most = eye.high * SHARE;
  if (head < 0) return;
  const Actor h = glancer(head);
  *least = fminf(*least, 0) + fminf(h.low * SHARE, 0), *most = fmaxf(*most, 0) + fmaxf(h.high * SHARE, 0);
}
static float gaze(const Actor &eye, int8_t head, float share, float *turns) {
  float least, most;
  reach(eye, head, &least, &most);
  const float looks = least + (most - least) * share;
  *turns = 0;
  if (head < 0) return looks;
  float past = fabsf(looks) - (HEAD_JOINS < 0 ? 0 : HEAD_JOINS);
  past = past < 0 ? 0 : past;
  const float own = HEAD_SHARE * fabsf(looks);
  *turns = clipped(glancer(head), (looks >= 0 ? 1 : -1) * (past > 0 ? fmaxf(past, own) : 0));
  return clipped(eye, looks - *turns) + *turns;
}
static float head_s(int8_t head, float by) { return takes(glancer(head), by, HEAD_S); }

static void turn(uint8_t who, float at, float lasts, float place, bool home) {
  const Actor a = glancer(who);
  stir(a, at, lasts, home && a.part < 2 && at_home ? 0 : place, home);
  stands[who] = place;
}

// All gaze at a time to shares of what eyes and head together reach, or home; when it is there.
static float shift(float at, const float *shares) {
  float there = at;
  for (uint8_t part = 0; part < (only_turns ? 1 : 2); part++) {
    const int8_t head = head_of(part);
    int8_t first_eye = -1;
    const float stood = head >= 0 ? stands[head] : 0;
    for (int who = 0; who < GLANCERS; who++) {
      const Actor eye = glancer(who);
      if (eye.part != part) continue;
      if (first_eye < 0) first_eye = who;
      float turns = 0;
      const float looks = shares ? gaze(eye, head, shares[part], &turns) : 0;
      const float first = clipped(eye, looks - stood), by = first - stands[who];
      const float lasts = takes(eye, by, fmaxf(AT_LEAST, 0.021f + 0.0022f * fabsf(by) / 100));
      turn(who, at, lasts, first, !shares && stood == 0);
      float over = at + lasts;
      if (head >= 0 && turns != stood) {
        const float arrives = at + LEAD + head_s(head, turns - stood), last = clipped(eye, looks - turns);
        if (last != first) {
          const float slow = takes(eye, last - first, fmaxf(arrives - over, 0.05f));
          turn(who, over, slow, last, !shares);
          over += slow;
        }
      }
      there = fmaxf(there, over);
    }
    if (head < 0 || first_eye < 0) continue;
    float to = 0;
    if (shares) gaze(glancer(first_eye), head, shares[part], &to);
    if (to == stood) continue;
    const float lasts = head_s(head, to - stood);
    turn(head, at + LEAD, lasts, to, true);
    there = fmaxf(there, at + LEAD + lasts);
  }
  return there;
}

#endif

#if PLAYS & 64
struct Life {
  uint32_t due, chance;
  int8_t memory;
  bool on;
};
static Life lives[LIFE_KINDS + 1];

// ---- one happening of a kind; returns the wait before it
static float happening(uint8_t k, uint32_t *x, int8_t *memory) {
  const LifeKind kind = from(LIFE, k);
  busy = 0;
#if DOES & 1
  if (kind.kind == 0) {  // glances
    const float wait = chance_between(x, WAITS_LOW, WAITS_HIGH), stays = chance_between(x, 0.4f, 0.9f);
    with_heads = chance_happens(x, 0.4f) && HEAD_JOINS >= 0;
    float shares[2];
    shares[0] = chance_between(x, 0, 1), shares[1] = chance_between(x, 0, 1);
    for (int who = 0; who < GLANCERS; who++) stands[who] = 0;
    shift(shift(0, shares) + stays, 0);
    return wait;
  }
#endif
#if DOES & 2
  if (kind.kind == 1) {  // blinks
    const float wait = (*memory ? 0.4f : 0) + chance_between(x, WAITS_LOW, WAITS_HIGH);
    *memory = 1;
    for (uint8_t n = 0; n < kind.count; n++) {
      const Actor a = from(ACTOR, kind.first + n);
      const float band = a.high - a.low, shuts = takes(a, band, 0.092f);
      stir(a, 0, shuts, a.part ? a.high : a.low, false);
      stir(a, shuts, takes(a, band, 0.242f), 0, true);
    }
    return wait;
  }
#endif
#if DOES & 4
  if (kind.kind == 2) {  // ears
    const float wait = chance_between(x, WAITS_LOW, WAITS_HIGH);
    const uint8_t first = (uint8_t)(chance_between(x, 0, 1) * kind.count);
    const bool both = chance_happens(x, 0.5f);
    const float apart = chance_between(x, 0.04f, 0.12f);
    for (uint8_t n = 0; n < (both && kind.count > 1 ? 2 : 1); n++) {
      const Actor a = from(ACTOR, kind.first + (first + n) % kind.count);
      const float band = a.high - a.low, to = a.low + chance_between(x, 0, 1) * band;
      const float stays = chance_between(x, 0.05f, 0.35f), goes = takes(a, band, 0.12f);
      stir(a, n * apart, goes, to, false);
      stir(a, n * apart + goes + stays, goes, 0, true);
    }
    return wait;
  }
#endif
#if DOES & 8
  if (kind.kind == 3) {  // segments of a tail
    const float wait = chance_between(x, WAITS_LOW, WAITS_HIGH), lasts = chance_between(x, 0.5f, 0.9f), far = chance_between(x, 0.3f, 0.8f);
    const bool up = chance_happens(x, 0.5f);
    float goes = 0;
    for (uint8_t n = 0; n < kind.count; n++) {
      const Actor a = from(ACTOR, kind.first + n);
      goes = fmaxf(goes, takes(a, a.high - a.low, lasts));
    }
    for (uint8_t n = 0; n < kind.count; n++) {
      const Actor a = from(ACTOR, kind.first + n);
      const float at = n * 0.080f;
      stir(a, at, goes, (up ? a.high : a.low) * far, false);
      stir(a, at + goes, goes, (up ? a.low : a.high) * far * 0.6f, false);
      stir(a, at + 2 * goes, goes, 0, true);
    }
    return wait;
  }
#endif
#if DOES & 16
  if (kind.kind == 4) {  // breathes
    const float lasts = 60 / BREATHS * chance_between(x, 0.88f, 1.12f), deep = 0.10f * chance_between(x, 0.88f, 1.12f);
    for (uint8_t n = 0; n < kind.count; n++) {
      const Actor a = from(ACTOR, kind.first + n);
      const float by = deep * (a.high - a.low) * (a.high >= -a.low ? 1 : -1), in = takes(a, by, lasts / 3);
      stir(a, 0, in, by, true);
      stir(a, in, takes(a, by, lasts * 2 / 3), 0, true);
    }
    return 0;
  }
#endif
#if DOES & 32
  const float there = chance_between(x, 1.2f, 2.6f), back = chance_between(x, 1.2f, 2.6f);  // sways
  const float far = chance_between(x, 0.4f, 1.0f) * 0.08f * (*memory ? -1 : 1);
  for (uint8_t n = 0; n < kind.count; n++) {
    const Actor a = from(ACTOR, kind.first + n);
    const float by = far * (a.high - a.low), goes = takes(a, by, there);
    stir(a, 0, goes, by, true);
    stir(a, goes, takes(a, by, back), 0, true);
  }
  *memory = !*memory;
  return chance_between(x, 0, 0.6f);
#else
  (void)memory;
  return chance_between(x, 0, 0);
#endif
}

static uint32_t wait_of(uint8_t k) {
  uint32_t x = lives[k].chance;
  int8_t memory = lives[k].memory;
  emits = false;
  return (uint32_t)(happening(k, &x, &memory) * 10000 + 0.5f);
}

static Actor actor_of(const LifeKind &kind, uint8_t n) { return kind.kind ? from(ACTOR, kind.first + n) : from(GLANCER, n); }

void life_begin(uint32_t at, uint32_t seed, bool *claimed) {
  at_home = true;
  for (int k = 0; k < LIFE_KINDS; k++) {
    const LifeKind kind = from(LIFE, k);
    lives[k].on = true;
    for (uint8_t pass = 0; pass < 2 && lives[k].on; pass++) {
      uint32_t there = at;
      for (uint8_t n = 0; n < kind.count; n++) {
        const Actor a = actor_of(kind, n);
        for (uint8_t i = 0; i < a.count; i++) {
          const uint8_t r = from(ACTOR_RIBBON, a.first + i).ribbon;
          if (!pass) {
            if (claimed[r]) lives[k].on = false;
            continue;
          }
          if (claimed[r]) continue;  // two of its actors share it
          claimed[r] = true;
          float place;
          const int16_t park = from(CHANNEL, r).park;
          const uint32_t when = ribbon_ready(r, at, &place), lasts = pace(r, park - place);
          ribbon_add(r, when, lasts, park);
          there = later(there, when + lasts);
        }
      }
      lives[k].due = there;
    }
    if (!lives[k].on) continue;
    lives[k].chance = chance_begin(seed, kind.kind), lives[k].memory = 0;
    lives[k].due += wait_of(k);
  }
}

void life_on(uint32_t now) {
  at_home = true;
  for (int k = 0; k < LIFE_KINDS; k++) {
    while (lives[k].on && !before(now, lives[k].due)) {
      emits = true, begun = now;
      happening(k, &lives[k].chance, &lives[k].memory);
      const float lasted = busy;
      lives[k].due = now + (uint32_t)(lasted * 10000 + 0.5f) + wait_of(k);
    }
  }
}

#endif

#if PLAYS & 128
// ---- where somebody is
static uint32_t attend_free;
static float looked;
static bool has_looked;
static float watch[GLANCERS + 1];

bool attend_begin(uint32_t at, bool *claimed) {
  bool any = false;
  for (uint8_t pass = 0; pass < 2; pass++) {
    for (int who = 0; who < GLANCERS; who++) {
      const Actor a = glancer(who);
      if (a.part & 1) continue;  // only what turns
      for (uint8_t i = 0; i < a.count; i++) {
        const ActorRibbon own = from(ACTOR_RIBBON, a.first + i);
        if (!pass && claimed[own.ribbon]) return false;
        float place;
        const uint32_t when = ribbon_ready(own.ribbon, at, &place);
        if (!any) attend_free = at;
        any = true;
        attend_free = later(attend_free, when);
        if (pass) claimed[own.ribbon] = true;
        if (!i) watch[who] = own.sign * place;
      }
    }
  }
  has_looked = false;
  return any;
}

void attend_on(uint32_t now, float towards) {
  if (before(now, attend_free) || (has_looked && fabsf(towards - looked) < 6)) return;
  looked = towards, has_looked = true, emits = true, begun = now, at_home = false, with_heads = true, busy = 0;
  float shares[2] = {0.5f, 0.5f};
  for (int who = 0; who < GLANCERS; who++) {
    stands[who] = watch[who];
    const Actor eye = glancer(who);
    if (eye.part) continue;
    float least, most;
    reach(eye, head_of(0), &least, &most);
    const float share = (towards * 100 - least) / fmaxf(most - least, 1e-6f);
    shares[0] = share < 0 ? 0 : share > 1 ? 1 : share;
  }
  only_turns = true;
  attend_free = now + (uint32_t)(shift(0, shares) * 10000 + 0.5f);
  only_turns = false;
  for (int who = 0; who < GLANCERS; who++) watch[who] = stands[who];
}
#endif
#endif
#endif
