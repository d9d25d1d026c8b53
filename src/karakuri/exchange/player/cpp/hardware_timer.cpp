// Servo pulses from the controller's own timer, one after the other: outputs 0 to 7 on pins 4, 5, 6, 7, 8, 9, 10, 12.
#include "hardware.h"
#include "hardware_avr.h"

static const uint8_t PIN[8] = {4, 5, 6, 7, 8, 9, 10, 12};
static volatile uint16_t asked[8];  // ticks of 0.5 microseconds, taken over at the frame's start
static volatile uint8_t frames;
const uint8_t FALL = 13;             // ticks from a match to the falling edge: measured in simulation

static void set(uint8_t i, bool high) {
  volatile uint8_t *port = PIN[i] < 8 ? &PORTD : &PORTB;
  const uint8_t bit = 1 << (PIN[i] < 8 ? PIN[i] : PIN[i] - 8);
  if (high) *port |= bit;
  else *port &= ~bit;
}

// One match after the other: the pulse that is high ends, the next begins; after the last the rest of the 20 ms is waited.
ISR(TIMER1_COMPA_vect) {
  static uint8_t turn = 8;
  static uint16_t wide[8], used;
  if (turn < 8) {
    set(turn, false);
  } else {
    for (uint8_t i = 0; i < 8; i++) wide[i] = asked[i];
    used = 0, turn = 255, frames++;
  }
  do turn++;
  while (turn < 8 && !wide[turn]);
  if (turn < 8) {
    set(turn, true);
    const uint16_t since = TCNT1;  // the timer began anew at the match
    OCR1A = since + wide[turn] - FALL;
    used += since + wide[turn] - FALL + 1;
  } else {
    OCR1A = (used < TICKS_FRAME - 100 ? TICKS_FRAME - used : 100) - 1;
  }
}

void hw_begin() {
  avr_begin();
  for (uint8_t i = 0; i < 8; i++) {
    set(i, false);
    if (PIN[i] < 8) DDRD |= 1 << PIN[i];
    else DDRB |= 1 << (PIN[i] - 8);
  }
  TCCR1A = 0, TCCR1B = 1 << WGM12 | 1 << CS11;
  OCR1A = TICKS_FRAME - 1;
  TIMSK1 = 1 << OCIE1A;
  sei();
}

void hw_pulse(uint8_t output, uint16_t tenths_us) {
  if (output > 7) return;
  const uint16_t ticks = (tenths_us + 2) / 5;
  cli();
  asked[output] = ticks;
  sei();
}

void hw_light(uint8_t output, uint16_t permille) { avr_light(output, permille); }

void hw_frame(char, uint32_t) {
  const uint8_t seen = frames;
  while (frames == seen) {}
  wdt_reset();
}

bool hw_stop() { return avr_stop(); }
void hw_done() {}
