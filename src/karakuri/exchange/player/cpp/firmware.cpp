// The line protocol on a board of one's own: 115200 baud, one command a line, one answer a line. See docs/protocol.md.
#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdlib.h>
#include <string.h>

#include "hardware.h"
#include "pins.h"

static const uint8_t SILENCE = 25;  // frames without a word from the host before it goes to park: half a second

static float now_us[BOARD_OUTPUTS], step_us[BOARD_OUTPUTS];
static uint16_t aim_us[BOARD_OUTPUTS], park_us[BOARD_OUTPUTS], low_us[BOARD_OUTPUTS], high_us[BOARD_OUTPUTS];
static uint16_t left[BOARD_OUTPUTS], wake[BOARD_OUTPUTS];  // frames still to come
static bool on[BOARD_OUTPUTS];
static uint8_t quiet;
static bool parked = true;

static volatile char ring[128];
static volatile uint8_t head;
static uint8_t tail;

ISR(USART_RX_vect) {
  ring[head] = UDR0;
  head = (head + 1) & 127;
}

static void put(const char *text) {
  for (; *text; text++) {
    while (!(UCSR0A & (1 << UDRE0))) {}
    UDR0 = *text;
  }
}
static void put_number(uint32_t n) {
  char text[12];
  put(ultoa(n, text, 10));
}
static void no(const char *why) { put("NO "), put(why), put("\n"); }

static void aim(uint8_t i, uint16_t us, uint16_t ms) {
  if (us < low_us[i]) us = low_us[i];
  if (us > high_us[i]) us = high_us[i];
  aim_us[i] = us;
  left[i] = on[i] ? (ms + 10) / 20 : 0;
  if (left[i] == 0) now_us[i] = us;
  else step_us[i] = ((float)us - now_us[i]) / left[i];
  on[i] = true;
}

static void park_all() {
  for (uint8_t i = 0; i < BOARD_OUTPUTS; i++) if (on[i]) aim(i, park_us[i], 2000);
  parked = true;
}

// SET ms output:us …
static void set(char *rest) {
  char *end;
  const long ms = strtol(rest, &end, 10);
  if (end == rest || ms < 0 || ms > 60000) return no("SET wants a time in ms from 0 to 60000");
  for (char *each = end; *each;) {
    while (*each == ' ') each++;
    if (!*each) break;
    const long output = strtol(each, &end, 10);
    if (end == each || *end != ':' || output < 0 || output >= BOARD_OUTPUTS) return no("SET wants output:us with an output it has");
    each = end + 1;
    const long us = strtol(each, &end, 10);
    if (end == each || us < 200 || us > 3000) return no("SET wants a pulse from 200 to 3000 us");
    each = end;
    aim(output, us, ms);
  }
  parked = false;
  put("OK\n");
}

// WAKE ms output:us: sparse pulses, so that a servo creeps there from wherever it stands
static void wake_one(char *rest) {
  char *end;
  const long ms = strtol(rest, &end, 10);
  char *each = end;
  const long output = strtol(each, &end, 10);
  const bool named = end != each && *end == ':';
  const long us = named ? strtol(end + 1, &each, 10) : 0;
  if (ms < 0 || ms > 60000 || !named || output < 0 || output >= BOARD_OUTPUTS || us < 200 || us > 3000)
    return no("WAKE wants a time in ms and output:us");
  on[output] = false;
  aim(output, us, 0);
  wake[output] = ms / 20;
  parked = false;
  put("OK\n");
}

// LIMIT output:low:high:park
static void limit(char *rest) {
  char *end;
  long v[4];
  for (uint8_t k = 0; k < 4; k++) {
    v[k] = strtol(rest, &end, 10);
    if (end == rest || (k < 3 && *end != ':')) return no("LIMIT wants output:low:high:park");
    rest = end + 1;
  }
  if (v[0] < 0 || v[0] >= BOARD_OUTPUTS || v[1] < 200 || v[2] > 3000 || v[1] > v[3] || v[3] > v[2])
    return no("LIMIT wants an output it has and 200 <= low <= park <= high <= 3000");
  low_us[v[0]] = v[1], high_us[v[0]] = v[2], park_us[v[0]] = v[3];
  put("OK\n");
}

static void release(char *rest) {
  if (!strcmp(rest, "ALL")) {
    for (uint8_t i = 0; i < BOARD_OUTPUTS; i++) on[i] = false;
    return put("OK\n");
  }
  char *end;
  const long output = strtol(rest, &end, 10);
  if (end == rest || output < 0 || output >= BOARD_OUTPUTS) return no("RELEASE wants an output it has, or ALL");
  on[output] = false;
  put("OK\n");
}

static void query() {
  put("AT");
  for (uint8_t i = 0; i < BOARD_OUTPUTS; i++) {
    if (!on[i]) continue;
    put(" "), put_number(i), put(":"), put_number((uint16_t)(now_us[i] + 0.5f));
  }
  put("\n");
}

static void obey(char *line) {
  quiet = 0;
  if (!strcmp(line, "ID")) put("BOARD karakuri-line 1 OUTPUTS "), put_number(BOARD_OUTPUTS), put(" RATE 50\n");
  else if (!strncmp(line, "SET ", 4)) set(line + 4);
  else if (!strncmp(line, "WAKE ", 5)) wake_one(line + 5);
  else if (!strncmp(line, "LIMIT ", 6)) limit(line + 6);
  else if (!strcmp(line, "QUERY")) query();
  else if (!strncmp(line, "RELEASE ", 8)) release(line + 8);
  else if (!strcmp(line, "PARK")) park_all(), put("OK\n");
  else no("unknown command");
}

static void listen() {
  static char line[200];
  static uint8_t used;
  static bool over;
  while (tail != head) {
    const char c = ring[tail];
    tail = (tail + 1) & 127;
    if (c == '\r') continue;
    if (c == '\n') {
      line[used] = 0;
      if (over) no("a line has at most 199 letters");
      else if (used) obey(line);
      used = 0, over = false;
    } else if (used < sizeof line - 1) {
      line[used++] = c;
    } else {
      over = true;
    }
  }
}

#if INPUTS > 0
// What is noticed: told of itself when it changed and stayed so for two frames; a level when it moved by four of a thousand, a pulse by four microseconds.
static uint16_t told_level[INPUTS], last_level[INPUTS];

static void notice() {
  for (uint8_t i = 0; i < INPUTS; i++) {
    const uint16_t now = hw_reads(i);
    const uint16_t by = now > told_level[i] ? now - told_level[i] : told_level[i] - now;
    const bool stays = INPUT_ANALOG[i] || INPUT_RECEIVER[i] ? by >= 4 : now == last_level[i] && by > 0;
    last_level[i] = now;
    if (!stays || quiet == 255 || now == 0xFFFF) continue;
    told_level[i] = now;
    put("IN "), put(INPUT_NAME[i]), put(" "), put_number(INPUT_RECEIVER[i] ? now : now / 10);
    if (!INPUT_RECEIVER[i] && now % 10) put("."), put_number(now % 10);
    put(INPUT_RECEIVER[i] ? "us\n" : "\n");
  }
}
#else
static void notice() {}
#endif

int main() {
  hw_begin();
  for (uint8_t i = 0; i < BOARD_OUTPUTS; i++) park_us[i] = 1500, low_us[i] = 200, high_us[i] = 3000;
  UBRR0 = F_CPU / 8 / 115200 - 1, UCSR0A = 1 << U2X0, UCSR0B = 1 << TXEN0 | 1 << RXEN0 | 1 << RXCIE0;
  sei();
  for (;;) {
    listen();
    notice();
    if (quiet < 255) quiet++;
    if ((quiet > SILENCE || hw_stop()) && !parked) park_all();
    for (uint8_t i = 0; i < BOARD_OUTPUTS; i++) {
      if (left[i] > 0 && --left[i] > 0) now_us[i] += step_us[i];
      else now_us[i] = aim_us[i];
      if (wake[i] > 0) wake[i]--;
      hw_pulse(i, on[i] && wake[i] % 4 == 0 ? (uint16_t)(now_us[i] * 10 + 0.5f) : 0);
    }
    hw_frame('F', 0);
  }
}
