// No pulses: writes every frame as a line, for a player that runs on a computer. Ends after the frames named by TRACE_FRAMES.
#include <stdio.h>
#include <stdlib.h>

#include "hardware.h"
#include "pins.h"

static unsigned value[256];
static long left = 0;

void hw_begin() {
  const char *text = getenv("TRACE_FRAMES");
  left = text ? atol(text) : 1000;
}
void hw_pulse(uint8_t output, uint16_t tenths_us) { value[output] = tenths_us; }
void hw_light(uint8_t output, uint16_t permille) { value[output] = permille; }
void hw_frame(char what, uint32_t n) {
  printf("%c %lu", what, (unsigned long)n);
  for (int i = 0; i < BOARD_OUTPUTS; i++) printf(" %u", value[i]);
  printf("\n");
  if (what == 'F' && --left <= 0) hw_done();
}
bool hw_stop() { return getenv("TRACE_STOP") && left < 1000000 - atol(getenv("TRACE_STOP")); }
void hw_done() {
  fflush(stdout);
  exit(0);
}
