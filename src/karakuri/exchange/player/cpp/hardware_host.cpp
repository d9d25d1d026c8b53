// No pulses: writes every frame as a line, for a player that runs on a computer. Ends after the frames named by TRACE_FRAMES.
#include <stdio.h>
#include <stdlib.h>

#include "hardware.h"
#include "pins.h"

static unsigned value[256];
static long left = 0;

// What inputs say: lines 'tick input value' of the file named by TRACE_INPUTS, in order of ticks; input 255 is a cue, by its number.
static unsigned reads[256];
static uint8_t cue = 255;
static FILE *script;
static long next_tick;
static unsigned next_input, next_value;
static void script_next() {
  if (script && fscanf(script, "%ld %u %u", &next_tick, &next_input, &next_value) != 3) fclose(script), script = 0;
}
static void script_to(long tick) {
  while (script && next_tick <= tick) {
    if (next_input == 255) cue = next_value;
    else reads[next_input & 255] = next_value;
    script_next();
  }
}

void hw_begin() {
  const char *text = getenv("TRACE_FRAMES");
  left = text ? atol(text) : 1000;
  for (int i = 0; i < 256; i++) reads[i] = 0xFFFF;
  const char *inputs = getenv("TRACE_INPUTS");
  script = inputs ? fopen(inputs, "r") : 0;
  script_next();
  script_to(1);
}
void hw_pulse(uint8_t output, uint16_t tenths_us) { value[output] = tenths_us; }
void hw_light(uint8_t output, uint16_t permille) { value[output] = permille; }
void hw_frame(char what, uint32_t n) {
  printf("%c %lu", what, (unsigned long)n);
  for (int i = 0; i < BOARD_OUTPUTS; i++) printf(" %u", value[i]);
  printf("\n");
  if (what == 'F') script_to(n + 2);
  if (what == 'F' && --left <= 0) hw_done();
}
uint16_t hw_reads(uint8_t input) { return reads[input]; }
uint8_t hw_cue() {
  const uint8_t given = cue;
  cue = 255;
  return given;
}
void hw_say(uint16_t sound) { printf("V %u\n", sound); }
void hw_entered(uint8_t state, uint32_t tick) { printf("E %u %lu\n", state, (unsigned long)tick); }
bool hw_stop() { return getenv("TRACE_STOP") && left < 1000000 - atol(getenv("TRACE_STOP")); }
void hw_done() {
  fflush(stdout);
  exit(0);
}
