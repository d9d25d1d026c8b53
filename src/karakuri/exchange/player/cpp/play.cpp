// Slow start, then the score, or what the figure does by itself; a stop brings it to park and holds it there until the switch is let go.
#include "hardware.h"
#include "play.h"
#include "player.h"

// Cues that came while it was on its way to park, or there, start nothing.
static void forget() {
  while (hw_cue() != 255) {}
}

void play_begin() {
  hw_begin();
  player_begin();
  player_start();
  forget();
}

void play_on() {
  static bool over = false;
  if (over) return hw_frame('P', 0);  // holds park
  if (hw_stop()) {
    player_home();
    while (hw_stop()) hw_frame('P', 0);
    player_begin();
    forget();
    return;
  }
#ifdef LIVING
  player_live();
#else
  if (!player_frame() && !SCORE_LOOPS) {
    hw_done();
    over = true;
  }
#endif
}
