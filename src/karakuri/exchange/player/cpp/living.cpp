#include "living.h"

#include <math.h>

#include "hardware.h"

#ifdef LIVING
#include "living_tables.h"

const uint8_t ON = 50, LEAST = 5;  // per cent; hundredths, nearer than so it is there
const uint32_t TICK = 200, LIGHT_T = 5000;

struct Act {
  uint8_t kind, which;
  bool forever;
  uint32_t ends, due;
  uint16_t says, says_end;  // of a performance; of a line the sound and one
  uint32_t begins;
};
static Act acts[MOST_DEEDS];
static uint8_t acts_count, state_now, cued = 255;
static State state;
static uint32_t ticks, stays, chance;
static bool over, fresh, claimed[CHANNELS];
static float level_now[INPUTS_KNOWN + 1], level_before[INPUTS_KNOWN + 1];
static bool reads[INPUTS_KNOWN + 1];
static uint32_t due[STARTS + 1], cool[STARTS + 1];
static bool was[STARTS + 1], waits[STARTS + 1], seen;
static uint8_t seen_by;
static uint32_t seen_at;
#if PLAYS & 128
static uint8_t towards_by;
static float towards;
#endif
#if PLAYS & 16
static uint32_t lines_chance[LINES];
static uint8_t line_at[LINES], opened[LINES], line_kept[LINES], line_last[LINES][MOST_AGAIN + 2];
#endif
#if PLAYS & 1
static bool owns[MOST_DEEDS][CHANNELS];  // which ribbons a performance claimed
static uint8_t owners;
#endif

// ---- chance: xorshift32, shifts 13, 17, 5 (Marsaglia 2003), as on the bench
uint32_t chance_draw(uint32_t *x) {
  *x ^= *x << 13;
  *x ^= *x >> 17;
  *x ^= *x << 5;
  return *x;
}
uint32_t chance_begin(uint32_t seed, uint32_t kind) {
  uint32_t x = (seed + 1) * 0x9E3779B9UL + kind * 0x85EBCA6BUL;
  if (!x) x = 1;
  for (uint8_t k = 0; k < 4; k++) chance_draw(&x);
  return x;
}
static float share(uint32_t *x) { return (chance_draw(x) >> 8) / 16777216.0f; }
float chance_between(uint32_t *x, float low, float high) { return low + (high - low) * share(x); }
bool chance_happens(uint32_t *x, float chance) { return share(x) < chance; }
static uint32_t span(uint32_t *x, uint32_t low, uint32_t high) {
  return low + (uint32_t)((high - low) * share(x) + 0.5f);
}

// ---- how long moves take
float keeps_least(uint8_t r, float by) {
  const Keeps k = from(KEEPS, r);
  if (!k.count || by <= 0) return 0;
  if (by < k.distance[0]) return k.time[0] / 10000.0f * sqrtf(by / k.distance[0]);
  if (by > k.distance[k.count - 1] + 0.5f) return 1e9f;
  uint8_t n = 0;
  while (n + 1 < k.count && k.distance[n] < by) n++;
  if (k.time[n] == 0xFFFFFFFFUL) return n && by <= k.distance[n - 1] ? k.time[n - 1] / 10000.0f : 1e9f;
  if (!n) return k.time[0] / 10000.0f;
  const float part = (by - k.distance[n - 1]) / (float)(k.distance[n] - k.distance[n - 1]);
  return (k.time[n - 1] + (part > 1 ? 1 : part) * (k.time[n] - k.time[n - 1])) / 10000.0f;
}
uint32_t pace(uint8_t r, float by) {
  by = fabsf(by);
  if (by < LEAST) return 0;
  if (from(CHANNEL, r).kind) return LIGHT_T;
  float takes = 1.875f * by / APPROACH, least = keeps_least(r, by);
  if (least < 60 && least > takes) takes = least;
  return (uint32_t)(takes * 10000 + 0.5f);
}

// ---- inputs
static void sense() {
  for (int i = 0; i < INPUTS_KNOWN; i++) {
    const Input in = from(INPUT, i);
    if (in.sees && ticks != 1 && ticks * 20 / 50 == (ticks - 1) * 20 / 50) continue;  // twenty times a second
    const uint16_t raw = in.pin == 255 ? 0xFFFF : hw_reads(in.pin);
    reads[i] = raw != 0xFFFF;
    float at = reads[i] ? raw : 0;
    if (reads[i] && in.handed) {
      if ((at - in.middle) * (in.high - in.low) < 0) at = 50 * (at - in.low) / (in.middle - in.low);
      else at = 50 + 50 * (at - in.middle) / (in.high - in.middle);
      float off = (at < 0 ? 0 : at > 100 ? 100 : at) - 50;
      if (in.still > 0) {
        float moved = fabsf(off) - in.still;
        moved = moved < 0 ? 0 : moved * 50 / (50 - in.still);
        off = off > 0 ? moved : -moved;
      }
      at = 50 + off;
    } else if (reads[i]) {
      at = at / 10 > 100 ? 100 : at / 10;
    }
    level_now[i] = at;
  }
}
bool living_on(uint8_t i) { return level_now[i] >= ON; }
float living_level(uint8_t i) { return level_now[i]; }
bool living_reads(uint8_t i) { return reads[i]; }

#if PLAYS & 128
static void attention() {
  float total = 0, turned = 0;
  for (int i = 0; i < INPUTS_KNOWN; i++) {
    const Input in = from(INPUT, i);
    if (in.sees && in.weight > 0) total += in.weight * level_now[i] / 100, turned += in.weight * level_now[i] / 100 * in.heading;
  }
  towards_by = total > 0, towards = total > 0 ? turned / total : 0;
}
#endif

#if PLAYS & (1 | 16 | 32)
// ---- what is said
static void say(uint8_t sound) { hw_say(from(SOUND, sound).number); }

#endif
#if PLAYS & 16
static int16_t next_line(uint8_t k) {
  const Lines l = from(LISTS, k);
  uint32_t &mine = lines_chance[k];
  if (!mine) mine = chance_begin(chance_draw(&chance) & 0x7FFFFFFF, 16);
  if (opened[k] < l.openings) {
    const uint8_t said = from(LINE, l.first + opened[k]++);
    if (l.again_after) line_last[k][0] = said, line_kept[k] = 1;
    return said;
  }
  if (!l.count) return -1;
  const uint16_t lines = l.first + l.openings;
  if (l.in_order) {
    if (line_at[k] == 255) line_at[k] = (uint8_t)(share(&mine) * l.count);
    const uint8_t said = from(LINE, lines + line_at[k]);
    line_at[k] = (line_at[k] + 1) % l.count;
    return said;
  }
  uint8_t free = 0;
  for (uint8_t pass = 0, wanted = 0;; pass++) {
    uint8_t n = 0;
    for (uint8_t i = 0; i < l.count; i++) {
      const uint8_t sound = from(LINE, lines + i);
      bool held = false;
      for (uint8_t j = 0; j < line_kept[k]; j++) held = held || line_last[k][j] == sound;
      if (held) continue;
      if (pass && n == wanted) {
        if (l.again_after) {
          if (line_kept[k] == l.again_after) {
            for (uint8_t j = 1; j < line_kept[k]; j++) line_last[k][j - 1] = line_last[k][j];
            line_kept[k]--;
          }
          line_last[k][line_kept[k]++] = sound;
        }
        return sound;
      }
      n++;
    }
    free = n;
    if (pass || !free) return -1;
    wanted = (uint8_t)(share(&mine) * free);
  }
}

#endif

void living_still(uint8_t r, uint32_t at) {
  if (from(CHANNEL, r).kind != RUNS) return;
  float place;
  const uint32_t when = ribbon_ready(r, at, &place);
  if (ribbons[r].moving || ribbons[r].count) ribbon_add(r, when, LIGHT_T, 0);  // also what is just passing that on its way elsewhere
}

// ---- deeds
#if PLAYS & 1
static uint32_t approach(uint8_t k, uint32_t at) {
  uint32_t there = at;
  float place;
  for (int r = 0; r < CHANNELS; r++) {
    const Part p = from(PART, k * CHANNELS + r);
    if (p.start == NONE || claimed[r]) continue;
    const uint32_t when = ribbon_ready(r, at, &place);
    there = later(there, when + pace(r, p.start - place));
  }
  for (int r = 0; r < CHANNELS; r++) {
    const Part p = from(PART, k * CHANNELS + r);
    if (p.start == NONE || claimed[r]) continue;
    const uint32_t when = ribbon_ready(r, at, &place);
    ribbon_add(r, when, there - when, p.start);
    ribbon_table(r, p.first, p.count, there);
  }
  return there;
}
static void perform(Act &act, uint32_t at, bool *mine) {
  const Performance p = from(PERFORMANCE, act.which);
  for (int r = 0; r < CHANNELS; r++) claimed[r] = !mine[r];
  act.begins = approach(act.which, at);
  for (int r = 0; r < CHANNELS; r++) claimed[r] = false;
  act.says = p.says, act.says_end = p.says + p.says_count;
  act.due = act.begins + p.length;
}
#endif

static void begin_deed(const Deed &d, uint32_t at) {
  Act &act = acts[acts_count++];
  memset(&act, 0, sizeof act);
  act.kind = d.kind, act.which = d.which, act.ends = at;
  float place;
  (void)place;
#if PLAYS & 1
  if (d.kind == 0) {
    bool *mine = owns[owners], taken[CHANNELS];
    act.kind = 0x80 | owners++;  // which row of owns, for when it plays again
    for (int r = 0; r < CHANNELS; r++) {
      taken[r] = claimed[r];
      mine[r] = !claimed[r] && from(PART, d.which * CHANNELS + r).start != NONE;
    }
    perform(act, at, mine);
    for (int r = 0; r < CHANNELS; r++) claimed[r] = taken[r] || mine[r];
    act.ends = act.due, act.forever = from(PERFORMANCE, d.which).again;
  }
#endif
#if PLAYS & 2
  if (d.kind == 1) {
    for (int r = 0; r < CHANNELS; r++) {
      const int16_t to = from(POSE, d.which * CHANNELS + r);
      if (to == NONE || claimed[r]) continue;
      claimed[r] = true;
      const uint32_t when = ribbon_ready(r, at, &place);
      const uint32_t takes = later(d.takes, pace(r, to - place));
      ribbon_add(r, when, takes, to);
      act.ends = later(act.ends, when + takes);
    }
  }
#endif
#if PLAYS & 4
  if (d.kind == 2) {
    if (claimed[d.which]) return;
    claimed[d.which] = true;
    const uint32_t when = ribbon_ready(d.which, at, &place);
    ribbon_add(d.which, when, d.takes, d.level);
    act.ends = when + d.takes;
  }
#endif
#if PLAYS & 8
  if (d.kind == 3) {
    uint32_t there = at;
    for (uint8_t pass = 0; pass < 2; pass++) {
      for (int r = 0; r < CHANNELS; r++) {
        if (claimed[r]) continue;
        const Channel c = from(CHANNEL, r);
        const uint32_t when = ribbon_ready(r, at, &place);
        const float away = fabsf(c.park - place);
        if (!pass) there = later(there, when + (away <= 1 ? 0 : c.kind ? LIGHT_T : (uint32_t)(1.875f * away / HOME_SPEED * 10000 + 0.5f)));
        else ribbon_add(r, when, there - when, c.park);
      }
    }
    for (int r = 0; r < CHANNELS; r++) claimed[r] = true;
    act.ends = there;
  }
#endif
#if PLAYS & (16 | 32)
  if (d.kind == 4 || d.kind == 5) {
#if PLAYS & 16
    const int16_t sound = d.kind == 5 ? d.which : next_line(d.which);
#else
    const int16_t sound = d.which;
#endif
    if (sound < 0) return;
    uint32_t lead = 0;
    for (int j = 0; j < JAWS; j++) {
      const Jaw jaw = from(JAW, j);
      if (!claimed[jaw.ribbon] && jaw.ahead > lead) lead = jaw.ahead;
    }
    act.begins = at + lead, act.says = sound + 1;  // and 0 once it is said
    act.ends = at + lead + from(SOUND, sound).length;
    for (int j = 0; j < JAWS; j++) {
      const Jaw jaw = from(JAW, j);
      if (claimed[jaw.ribbon]) continue;
      claimed[jaw.ribbon] = true;
      const uint32_t when = ribbon_ready(jaw.ribbon, at, &place), takes = pace(jaw.ribbon, jaw.shut - place);
      if (takes) ribbon_add(jaw.ribbon, when, takes, jaw.shut);
      const Part p = from(SPEECH, sound * JAWS + j);
      const uint32_t begins = at + lead - jaw.ahead, first = when + takes;
      int16_t last = jaw.shut;
      for (uint16_t k = 0; k < p.count; k++) {
        const Move m = from(MOVES, p.first + k);
        if (!before(begins + m.departs, first) && last == jaw.shut) {
          ribbon_table(jaw.ribbon, p.first + k, p.count - k, begins);
          const Move end = from(MOVES, p.first + p.count - 1);
          act.ends = later(act.ends, begins + end.departs + end.takes);
          break;
        }
        last = m.target;
      }
    }
  }
#endif
#if PLAYS & 64
  if (d.kind == 6) act.forever = true, life_begin(at, chance_draw(&chance) & 0x7FFFFFFF, claimed);
#endif
#if PLAYS & 128
  if (d.kind == 7) act.forever = attend_begin(at, claimed);
#endif
#if PLAYS & 256
  if (d.kind == 8) act.forever = true, hand_begin(at, claimed);
#endif
}

static void enter(uint8_t to) {
  const uint32_t now = ticks * TICK;
  state_now = to, state = from(STATE, to), over = false, fresh = true;
#if PLAYS & 1
  owners = 0;
#endif
  for (int r = 0; r < CHANNELS; r++) ribbon_cut(r, now), claimed[r] = false;
  acts_count = 0;
  for (uint8_t k = 0; k < state.count && acts_count < MOST_DEEDS; k++) begin_deed(from(DEED, state.first + k), now);
  for (int r = 0; r < CHANNELS; r++)
    if (!claimed[r]) living_still(r, now);
  stays = now + (state.stays ? span(&chance, state.stays_low, state.stays_high) : 0);
  for (int s = 0; s < STARTS; s++) waits[s] = false;
  for (uint16_t k = 0; k < state.starts_count; k++) {
    const uint16_t s = from(FROM, state.starts + k);
    const Start start = from(START, s);
    if (start.on == 5) due[s] = now + span(&chance, start.low, start.high), waits[s] = true;
  }
  hw_entered(to, ticks);
}

// ---- what starts what
static bool holds(const Start &s) {
  for (uint8_t k = 0; k < s.guards_count; k++) {
    const Guard g = from(GUARD, s.guards_first + k);
    const float at = level_now[g.input], level = g.level / 100.0f;
    if (!(g.state == 0 ? at >= ON : g.state == 1 ? at < ON : g.state == 2 ? at >= level : at < level)) return false;
  }
  return true;
}
static bool fires(const Start &s, bool ended, bool its_time) {
  if (s.on == 5) return its_time;
  if (s.on == 6) return ended;
  if (s.on == 7) return cued != 255 && cued == s.input;
  const float now = level_now[s.input], then = level_before[s.input], level = s.on > 1 ? s.level / 100.0f : ON;
  if (s.on == 4) return seen && seen_by == s.input && ticks - seen_at == s.level;
  if (s.on == 0) return then < level && now >= level;
  if (s.on == 1) return now < level && then >= level;
  if (s.on == 2) return now >= level && (then < level || fresh);
  return now < level && (then >= level || fresh);
}
static int16_t choose(bool ended) {
  int16_t best = -1;
  uint8_t best_priority = 0;
  for (uint16_t k = 0; k < state.starts_count; k++) {
    const uint16_t s = from(FROM, state.starts + k);
    const Start start = from(START, s);
    const uint8_t priority = from(STATE, start.to).priority;
    if (best >= 0 && priority <= best_priority) continue;
    if (!over && priority < state.priority) continue;
    if (!over && state.deaf && start.on < 5) continue;
    const bool its_time = waits[s] && !before(ticks * TICK, due[s]);
    if (!fires(start, ended, its_time)) continue;
    if (its_time) waits[s] = false;
    if ((was[s] && ticks - cool[s] < start.cool) || !holds(start)) continue;
    if (start.chance >= 1UL << 24 || (chance_draw(&chance) >> 8) < start.chance) best = s, best_priority = priority;
  }
  return best;
}

void living_begin() {
  ticks = 0, cued = 255, chance = chance_begin(BEHAVIOUR_SEED, 24), seen = false;
  for (int r = 0; r < CHANNELS; r++) ribbon_begin(r);
  for (int s = 0; s < STARTS; s++) was[s] = false;
  for (int i = 0; i < INPUTS_KNOWN; i++) level_now[i] = 0, reads[i] = false;
#if PLAYS & 16
  for (int k = 0; k < LINES; k++) lines_chance[k] = 0, line_at[k] = 255, opened[k] = 0, line_kept[k] = 0;
#endif
  enter(0);
}

void living_cue(uint8_t number) { cued = number; }

void living_tick() {
  ticks++;
  const uint32_t now = ticks * TICK;
  for (int i = 0; i < INPUTS_KNOWN; i++) level_before[i] = level_now[i];
  sense();
  for (int i = 0; i < INPUTS_KNOWN; i++) {
    if (from(INPUT, i).sees && living_on(i)) seen = true, seen_by = i, seen_at = ticks;
  }
#if PLAYS & 128
  attention();
#endif
  uint32_t limit = state.stays ? stays : 0;
  bool ends = true;
  for (uint8_t k = 0; k < acts_count; k++) {
    Act &act = acts[k];
#if PLAYS & 1
    if (act.kind & 0x80) {
      if (act.forever && !before(now, act.due)) perform(act, now, owns[act.kind & 0x7F]);
      else if (act.due && !before(now, act.due)) {
        act.due = 0;
        for (int r = 0; r < CHANNELS; r++)
          if (owns[act.kind & 0x7F][r]) living_still(r, now);
      }
      while (act.says < act.says_end && !before(now, act.begins + from(SAID, act.says).at)) say(from(SAID, act.says++).sound);
    }
#endif
#if PLAYS & (16 | 32)
    if ((act.kind == 4 || act.kind == 5) && act.says && !before(now, act.begins)) say(act.says - 1), act.says = 0;
#endif
#if PLAYS & 64
    if (act.kind == 6) life_on(now);
#endif
#if PLAYS & 128
    if (act.kind == 7 && act.forever && towards_by) attend_on(now, towards);
#endif
#if PLAYS & 256
    if (act.kind == 8) hand_on(now);
#endif
    if (!act.forever) limit = limit ? later(limit, act.ends) : act.ends;
    else if (!state.stays) ends = false;
  }
  const bool ended = ends && !over && (!limit || !before(now, limit));
  over = over || ended;
  const int16_t chosen = choose(ended);
  fresh = false, cued = 255;
  if (chosen >= 0) {
    was[chosen] = true, cool[chosen] = ticks;
    enter(from(START, chosen).to);
  }
}

float living_place(uint8_t r) { return ribbon_at(r, ticks * TICK); }
#endif
