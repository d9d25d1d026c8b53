// Servo pulses from the controller's own timer, one after the other, on the pins that pins.h names: eight fill a frame. What hangs on
// generators besides is sent to them once a frame has begun.
#include "hardware.h"
#include "hardware_avr.h"
#include "strings.h"
#if GENERATORS > 0
#include "generators.h"
#else
static inline void generators_begin() {}
static inline void generator_pulse(uint8_t, uint16_t) {}
static inline void generator_light(uint8_t, uint16_t) {}
static inline void generators_send() {}
#endif

#pragma GCC diagnostic ignored "-Wtype-limits"  // a controller may have lamps and no servo

static volatile uint16_t asked[PULSES + 1];  // ticks of 0.5 microseconds, taken over at the frame's start
static volatile uint8_t frames;
static volatile bool resting = true; // the last pulse of this frame is over
#ifdef FOLLOWS
const uint16_t KEPT_TICKS = 4400;   // before a frame is over the other speaks: 1.6 ms on the bus, and a little more
bool follow_keeps_time();           // whether it is known when the other speaks
static inline bool may_shut() { return follow_keeps_time(); }
#else
const uint16_t KEPT_TICKS = 0;
static inline bool may_shut() { return true; }
#endif
const uint8_t FALL = 9;             // ticks from a match to the falling edge: measured in simulation

static void set(uint8_t i, bool high) {
  if (high) *PULSE_PORT[i] |= PULSE_BIT[i];
  else *PULSE_PORT[i] &= ~PULSE_BIT[i];
}

// One match after the other: the pulse that is high ends, the next begins; after the last the rest of the 20 ms is waited.
ISR(TIMER1_COMPA_vect) {
  static uint8_t turn = PULSES;
  static uint16_t wide[PULSES + 1], used;
  if (turn < PULSES) {
    set(turn, false);
  } else {
    for (uint8_t i = 0; i < PULSES; i++) wide[i] = asked[i];
    used = 0, turn = 255, frames++, resting = false;
  }
  do turn++;
  while (turn < PULSES && !wide[turn]);
  if (turn < PULSES) {
    set(turn, true);
    const uint16_t since = TCNT1;  // the timer began anew at the match
    OCR1A = since + wide[turn] - FALL;
    used += since + wide[turn] - FALL + 1;
  } else {
    OCR1A = (used < TICKS_FRAME - 100 ? TICKS_FRAME - used : 100) - 1;
    resting = true;
  }
}

void hw_begin() {
  avr_begin();
  generators_begin();
  for (uint8_t i = 0; i < PULSES; i++) {
    set(i, false);
    *(PULSE_PORT[i] - 1) |= PULSE_BIT[i];  // its direction lies before it
  }
  TCCR1A = 0, TCCR1B = 1 << WGM12 | 1 << CS11;
  OCR1A = TICKS_FRAME - 1;
  TIMSK1 = 1 << OCIE1A;
  sei();
}

void hw_pulse(uint8_t output, uint16_t tenths_us) {
  const uint16_t ticks = (tenths_us + 2) / 5;
  asm volatile("" : : "r"(ticks));  // divided here: a compiler is free to do it later, with interrupts shut
  for (uint8_t i = 0; i < PULSES; i++) {
    if (PULSE_OUTPUT[i] != output) continue;
    cli();
    asked[i] = ticks;
    sei();
    return;
  }
  generator_pulse(output, tenths_us);
}

void hw_light(uint8_t output, uint16_t permille) {
  if (!avr_light(output, permille) && !string_level(output, permille)) generator_light(output, permille);
}

void hw_frame(char, uint32_t) {
  const uint8_t seen = frames;
  if (STRINGS) {  // in the dead time, and only where it is long enough: no pulse is late by it
    while (frames == seen && !resting) avr_send();
    cli();
    const uint16_t left = OCR1A - TCNT1;
    const bool fits = frames == seen && resting && !(TIFR1 & (1 << OCF1A)) && left > STRING_TICKS + KEPT_TICKS;
    sei();
    if (fits && may_shut()) strings_send();
  }
  while (frames == seen) avr_send();
  generators_send();
  wdt_reset();
}

#ifdef FOLLOWS
// The next frame begins now: the other's frame is over, and what it says next comes in 20 ms.
void hw_sync() {
  cli();
  if (resting && !(TIFR1 & (1 << OCF1A)) && OCR1A - TCNT1 > 60) TCNT1 = 0, OCR1A = 30;
  sei();
}
#endif

uint16_t hw_reads(uint8_t input) { return avr_reads(input); }
uint8_t hw_cue() { return avr_cue(); }
void hw_say(uint16_t sound) { avr_say(sound); }
void hw_entered(uint8_t, uint32_t) {}
bool hw_stop() { return avr_stop(); }
void hw_done() {}
