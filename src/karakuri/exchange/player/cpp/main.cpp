// Slow start, then the score; a stop brings the figure to park and holds it there until the switch is let go.
#include "hardware.h"
#include "player.h"

extern const bool SCORE_LOOPS;

int main() {
  hw_begin();
  player_begin();
  player_start();
  for (;;) {
    if (hw_stop()) {
      player_home();
      while (hw_stop()) hw_frame('P', 0);
      continue;
    }
    if (!player_frame() && !SCORE_LOOPS) {
      hw_done();
      for (;;) hw_frame('P', 0);  // holds park
    }
  }
}
