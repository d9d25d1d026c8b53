// Slow start, then the score; a stop brings the figure to park and holds it there until the switch is let go.
#include "hardware.h"
#include "player.h"

void play_begin() {
  hw_begin();
  player_begin();
  player_start();
}

void play_on() {
  static bool over = false;
  if (over) return hw_frame('P', 0);  // holds park
  if (hw_stop()) {
    player_home();
    while (hw_stop()) hw_frame('P', 0);
    return;
  }
  if (!player_frame() && !SCORE_LOOPS) {
    hw_done();
    over = true;
  }
}
